#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>

namespace lattice {

/// The watched loss after an epoch.
struct Look {
  std::int64_t epoch = 0;  ///< 0 before the first
  double loss = 0.0;

  friend bool operator==(const Look&, const Look&) = default;
};

/// When a rate falls since the loss no longer does.
struct StallSettings {
  double least = 0.0;  ///< the rate falls no lower; 0 or more
  double by = 0.0;     ///< a new low is lower than the last by this share of it at least: 0 to 1

  friend bool operator==(const StallSettings&, const StallSettings&) = default;
};

/// How the learning rate changes from epoch to epoch. The rate of an epoch follows from its number
/// and from the figures before it alone, so that a run that is gone on with keeps to it.
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

  /// Times `factor` after every epoch.
  [[nodiscard]] static Schedule exponential(double factor);

  /// Down to `lowest` along half a wave of a cosine within `epochs` epochs, and there it stays.
  /// Source: Loshchilov and Hutter, 2017.
  [[nodiscard]] static Schedule cosine(std::int64_t epochs, double lowest = 0.0);

  /// Times `factor` whenever the watched loss has found no new low for `epochs` looks, one an epoch
  /// unless `TrainSettings::judge_every` says otherwise.
  [[nodiscard]] static Schedule on_stall(std::int64_t epochs, double factor,
                                         const StallSettings& settings = {});

  /// The same after so many epochs in which the rate rises from one of them to the next, by equal
  /// steps from 0: 1/4, 2/4, 3/4 and 4/4 of the first rate for 4 epochs. What it says is counted
  /// from their end on. Source: Goyal and others, 2017.
  [[nodiscard]] Schedule after_warm_up(std::int64_t epochs) const;

  /// The rate in an epoch.
  /// @param first the rate in epoch 1, or at the end of a warm-up
  /// @param epoch counted from 1
  /// @param watched the watched loss before epoch 1 and after each epoch that has been
  [[nodiscard]] double rate(double first, std::int64_t epoch, std::span<const Look> watched) const;

  /// `constant`, `steps 10 0.5`, `exponential 0.95`, `cosine 40 0.001`,
  /// `stall 5 0.5 least 0.001 by 0.01`, and with a warm-up `warm-up 4 then steps 10 0.5`.
  [[nodiscard]] std::string text() const;

  friend bool operator==(const Schedule&, const Schedule&) = default;

 private:
  enum class Kind : std::uint8_t { constant, steps, exponential, cosine, stall };

  [[nodiscard]] double rate_after_stalls(double first, std::span<const Look> watched) const;

  Schedule(Kind kind, std::int64_t epochs, double number)
      : kind_(kind), epochs_(epochs), number_(number) {}

  Kind kind_;
  std::int64_t epochs_;
  double number_;  ///< the factor, or the lowest rate
  StallSettings stall_ = {};
  std::int64_t warm_up_ = 0;  ///< epochs
};

/// Reads what `Schedule::text` gives. @throws SettingError, saying what is allowed.
[[nodiscard]] Schedule parse_schedule(std::string_view text);

}  // namespace lattice
