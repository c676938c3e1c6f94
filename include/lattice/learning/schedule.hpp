#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>

namespace lattice {

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
  [[nodiscard]] static Schedule on_stall(std::int64_t epochs, double factor);

  /// The rate in an epoch.
  /// @param first the rate in epoch 1
  /// @param epoch counted from 1
  /// @param watched the watched loss before epoch 1 and after each epoch that has been
  [[nodiscard]] double rate(double first, std::int64_t epoch,
                            std::span<const double> watched) const;

  /// `constant`, `steps 10 0.5`, `exponential 0.95`, `cosine 40 0.001`, `stall 5 0.5`.
  [[nodiscard]] std::string text() const;

  friend bool operator==(const Schedule&, const Schedule&) = default;

 private:
  enum class Kind : std::uint8_t { constant, steps, exponential, cosine, stall };

  Schedule(Kind kind, std::int64_t epochs, double number)
      : kind_(kind), epochs_(epochs), number_(number) {}

  Kind kind_;
  std::int64_t epochs_;
  double number_;  ///< the factor, or the lowest rate
};

/// Reads what `Schedule::text` gives. @throws SettingError, saying what is allowed.
[[nodiscard]] Schedule parse_schedule(std::string_view text);

}  // namespace lattice
