#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace lattice {

/// Moments of a training run: certain epochs and steps, or every so many of them.
class Moments {
 public:
  /// None.
  Moments() = default;

  /// @throws SettingError for a number below 1.
  [[nodiscard]] static Moments every_epochs(std::int64_t epochs);
  [[nodiscard]] static Moments every_steps(std::int64_t steps);
  [[nodiscard]] static Moments at_epochs(std::vector<std::int64_t> epochs);
  [[nodiscard]] static Moments at_steps(std::vector<std::int64_t> steps);

  /// These moments and others.
  [[nodiscard]] Moments and_also(const Moments& others) const;

  /// Whether the end of an epoch is one of them, and the end of a step.
  [[nodiscard]] bool has_epoch(std::int64_t epoch) const;
  [[nodiscard]] bool has_step(std::int64_t step) const;

  [[nodiscard]] bool empty() const { return choices_.empty(); }

  /// `every 5 epochs and steps 100, 500`; `none`.
  [[nodiscard]] std::string text() const;

 private:
  enum class Unit : std::uint8_t { epochs, steps };
  struct Choice {
    Unit unit;
    bool is_every;
    std::vector<std::int64_t> numbers;

    [[nodiscard]] bool has(Unit of, std::int64_t number) const;
  };
  friend Moments parse_moments(std::string_view text);

  [[nodiscard]] static Moments of(Unit unit, bool is_every, std::vector<std::int64_t> numbers);

  std::vector<Choice> choices_ = {};
};

/// Reads moments: `every 5 epochs`, `every 500 steps`, `epochs 1, 2, 20`, `steps 100, 500`, several
/// of these with `and` between them, or `none`.
/// @throws SettingError that marks the word that cannot be read.
[[nodiscard]] Moments parse_moments(std::string_view text);

}  // namespace lattice
