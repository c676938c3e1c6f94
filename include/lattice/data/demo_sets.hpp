#pragma once

#include <cstdint>
#include <deque>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/dataset.hpp"
#include "lattice/data/linear_form.hpp"

namespace lattice {

/// A toy set that is made from a seed, at any size. The stories are from a pottery co-operative;
/// all numbers are made up.
struct DemoSet {
  std::string name;
  std::string story;  ///< one sentence, with units
  std::int64_t usual_rows;
  std::int64_t copied_rows;  ///< the number of rows of the copy in demo/data, the first ones
  std::uint64_t usual_seed;  ///< the seed of that copy
  std::vector<std::string> units = {};  ///< of the features
  std::string target_unit = {};
  std::optional<LinearForm> law = {};  ///< the law of the target but for noise, if it is linear
  std::function<Dataset(std::int64_t rows, Random& random)> make;
};

/// All demo sets, in teaching order: tables, then those of the subjects in use.
[[nodiscard]] const std::deque<DemoSet>& demo_sets();

/// Adds a demo set at the end.
void know(const DemoSet& set);

/// The recipe of the demo set with a name. @throws NameError for an unknown name.
[[nodiscard]] const DemoSet& demo_set_called(std::string_view name);

/// The demo set with a name, at its usual size, from its usual seed: the numbers in demo/data.
/// @throws NameError for an unknown name.
[[nodiscard]] Dataset demo_set(std::string_view name);

/// The same at another size, from another seed.
[[nodiscard]] Dataset demo_set(std::string_view name, std::int64_t rows, std::uint64_t seed);

}  // namespace lattice
