#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tools/comparison.hpp"
#include "tools/console.hpp"
#include "tools/verb.hpp"

/// Lessons beside one another, each run several times: so that luck is not taken for skill.
namespace lattice::tools {

/// How often, and what is another each time.
struct Repeats {
  std::optional<std::int64_t> seeds = std::nullopt;
  std::optional<std::int64_t> folds = std::nullopt;

  void declare(Verb& verb);
  [[nodiscard]] bool any() const { return seeds || folds; }
};

/// What is written of it, and where.
struct RepeatedOutputs {
  std::string csv = {};
  std::string draw = {};
  bool json = false;
  int digits = 5;
};

/// Trains every lesson so many times, run i of each with the same rows and the same luck, and tells
/// means, spreads, and which differences are more than luck.
/// @throws SettingError for seeds and folds at once.
void compare_repeatedly(const std::vector<Entry>& entries, const Repeats& repeats,
                        const RepeatedOutputs& outputs, Console& console);

}  // namespace lattice::tools
