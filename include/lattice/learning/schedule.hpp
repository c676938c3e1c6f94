#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace lattice {

/// The validation loss after an epoch; the train loss where there is no validation part.
struct Look {
  std::int64_t epoch = 0;  ///< 0 before the first
  double loss = 0.0;

  friend bool operator==(const Look&, const Look&) = default;
};

/// The settings of a rate that falls when the loss stops falling.
struct StallSettings {
  double least = 0.0;  ///< the lowest rate; 0 or more
  double by = 0.0;     ///< the share by which a new minimum is lower: 0 to 1

  friend bool operator==(const StallSettings&, const StallSettings&) = default;
};

/// How the learning rate changes from epoch to epoch. The rate of an epoch depends only on its
/// number and the figures before it, so that a resumed run follows it.
///
/// @code
/// const Schedule schedule = Schedule::steps(10, 0.5);
/// schedule.rate(0.1, 25, {});   // 0.025: halved after epoch 10 and after epoch 20
/// @endcode
class Schedule {
 public:
  /// The same rate throughout.
  [[nodiscard]] static Schedule constant();

  /// Times `factor` after every `epochs` epochs.
  [[nodiscard]] static Schedule steps(std::int64_t epochs, double factor);

  /// Times `factor` after each of these epochs, which are in order: 80, 120, 160.
  [[nodiscard]] static Schedule milestones(std::vector<std::int64_t> epochs, double factor);

  /// Times `factor` after every epoch.
  [[nodiscard]] static Schedule exponential(double factor);

  /// Down to `lowest` along half a cosine wave over `epochs` epochs, then constant.
  /// Source: Loshchilov and Hutter, 2017.
  [[nodiscard]] static Schedule cosine(std::int64_t epochs, double lowest = 0.0);

  /// Times `factor` whenever the watched loss has had no new minimum in `epochs` evaluations, one
  /// for each epoch unless `TrainSettings::judge_every` differs.
  [[nodiscard]] static Schedule on_stall(std::int64_t epochs, double factor,
                                         const StallSettings& settings = {});

  /// The same after a warm-up in which the rate rises from epoch to epoch by equal steps: 1/4, 2/4,
  /// 3/4 and 4/4 of the first rate for 4 epochs. The schedule is counted from the end of the
  /// warm-up. Source: Goyal and others, 2017.
  [[nodiscard]] Schedule after_warm_up(std::int64_t epochs) const;

  /// Together with another schedule without a warm-up: the rate is the first rate times the factors
  /// of both, so that it falls at milestones and when the loss stalls.
  /// @throws SettingError for one with a warm-up.
  [[nodiscard]] Schedule together_with(const Schedule& other) const;

  /// This schedule for so many epochs after its warm-up, and then another one without a warm-up,
  /// counted from there. That one begins with the rate that this one has reached, or with
  /// `begins_again` with the first rate.
  /// @throws SettingError for one with a warm-up, and for a number of epochs below 1.
  [[nodiscard]] Schedule followed_by(const Schedule& next, std::int64_t epochs,
                                     bool begins_again = false) const;

  /// The rate in an epoch.
  /// @param first the rate in epoch 1, or at the end of a warm-up
  /// @param epoch counted from 1
  /// @param watched the watched loss before epoch 1 and after each completed epoch
  [[nodiscard]] double rate(double first, std::int64_t epoch, std::span<const Look> watched) const;

  /// `constant`, `steps 10 0.5`, `exponential 0.95`, `cosine 40 0.001`,
  /// `milestones 80 120 by 0.1`, `stall 5 0.5 least 0.001 by 0.01`; several together, and with a
  /// warm-up: `warm-up 4 then milestones 80 120 by 0.1 and stall 5 0.5`; several in sequence:
  /// `constant for 20 then cosine 40`, `cosine 40 for 40 then again cosine 40`.
  [[nodiscard]] std::string text() const;

  friend bool operator==(const Schedule&, const Schedule&) = default;

 private:
  enum class Kind : std::uint8_t { constant, steps, milestones, exponential, cosine, stall };

  /// Where a schedule begins.
  struct Beginning {
    double rate;
    std::int64_t after;  ///< so many epochs
  };

  /// The rate so many epochs after the beginning: of the schedule that then holds, of this one and
  /// those beside it, and of this one alone.
  [[nodiscard]] double rate_in_sequence(double first, const Beginning& beginning, std::int64_t gone,
                                        std::span<const Look> watched) const;
  [[nodiscard]] double rate_together(const Beginning& beginning, std::int64_t gone,
                                     std::span<const Look> watched) const;
  [[nodiscard]] double own_rate(const Beginning& beginning, std::int64_t gone,
                                std::span<const Look> watched) const;
  [[nodiscard]] double rate_after_stalls(const Beginning& beginning,
                                         std::span<const Look> watched) const;
  [[nodiscard]] std::string own_text() const;

  Schedule(Kind kind, std::int64_t epochs, double number)
      : kind_(kind), epochs_(epochs), number_(number) {}

  Kind kind_;
  std::int64_t epochs_;
  double number_;  ///< the factor, or the lowest rate
  StallSettings stall_ = {};
  std::vector<std::int64_t> milestones_ = {};
  std::vector<Schedule> beside_ = {};  ///< each without a warm-up and without others
  std::vector<Schedule> next_ = {};    ///< the one that follows, or none
  std::int64_t lasts_ = 0;             ///< epochs until then
  bool begins_again_ = false;          ///< with the first rate, where it follows another
  std::int64_t warm_up_ = 0;           ///< epochs
};

/// Reads what `Schedule::text` returns. @throws SettingError that lists what is allowed.
[[nodiscard]] Schedule parse_schedule(std::string_view text);

}  // namespace lattice
