#pragma once

#include <array>
#include <cstdint>
#include <string_view>
#include <vector>

namespace lattice {

/// A generator of random numbers that gives the same ones on every machine for the same seed.
///
/// Source: xoshiro256++ and splitmix64 (Blackman and Vigna, "Scrambled linear pseudorandom number
/// generators", 2021).
class Random {
 public:
  explicit Random(std::uint64_t seed);

  /// A separate generator for one purpose, so that drawing more numbers for one thing does not
  /// affect another: `random.branch("rows")`. Draws nothing from this one.
  [[nodiscard]] Random branch(std::string_view purpose) const;

  /// 64 random bits.
  std::uint64_t bits();

  /// Uniformly distributed from `low` (included) to `high` (excluded).
  double uniform(double low = 0.0, double high = 1.0);

  /// Normally distributed with the given mean and standard deviation.
  /// Source: the polar method (Marsaglia and Bray, 1964).
  double normal(double mean = 0.0, double standard_deviation = 1.0);

  /// A whole number from 0 to `end` − 1, each as likely as the others. `end` is at least 1.
  /// Source: rejection of the uneven rest (Lemire, 2019).
  std::int64_t below(std::int64_t end);

  /// The numbers 0 to `count` − 1 in random order (Fisher and Yates, 1938).
  std::vector<std::int64_t> shuffled(std::int64_t count);

  /// The state of the generator, for resuming a run.
  using State = std::array<std::uint64_t, 4>;
  [[nodiscard]] const State& state() const { return state_; }

  /// A generator with a given state.
  [[nodiscard]] static Random at(const State& state);

 private:
  State state_;
};

}  // namespace lattice
