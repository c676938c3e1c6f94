#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tools/comparison.hpp"
#include "tools/console.hpp"
#include "tools/verb.hpp"

/// Compares lessons over repeated runs, to tell significant differences from chance.
namespace lattice::tools {

/// How runs are repeated.
struct Repeats {
  std::optional<std::int64_t> seeds = std::nullopt;
  std::optional<std::int64_t> folds = std::nullopt;

  void declare(Verb& verb);
  [[nodiscard]] bool any() const { return seeds || folds; }
};

/// The outputs and their paths.
struct RepeatedOutputs {
  Comparing comparing = {};
  std::string csv = {};
  std::string draw = {};
  bool json = false;
  int digits = 5;
};

/// Trains every lesson several times, run i of each with the same rows and seed, and prints means,
/// standard deviations and which differences are significant.
/// @throws SettingError for seeds and folds together.
void compare_repeatedly(const std::vector<Entry>& entries, const Repeats& repeats,
                        const RepeatedOutputs& outputs, Console& console);

}  // namespace lattice::tools
