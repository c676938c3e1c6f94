#include "show/rows_grid.hpp"

#include <fmt/format.h>

#include "lattice/data/dataset.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

/// A class is called by its name and its number, which is what is calculated with.
constexpr std::size_t longest_class_name = 16;

}  // namespace

void RowsGrid::add_headings(Grid& grid) const {
  const auto add = [&](Role role, std::int64_t count) {
    for (std::int64_t place = 0; place < count; ++place) {
      const std::string& name = names_.of(role, place);
      grid.headings.push_back(name.empty() ? fmt::format("{} {}", word(role), place) : name);
    }
  };
  if (has_features()) add(Role::feature, features_.shape()[1]);
  if (!classes_.empty()) {
    const std::string& asked = names_.of(Role::target, 0);
    grid.headings.push_back(asked.empty() ? std::string(word(Role::class_)) : asked);
  } else if (!targets_.empty()) {
    add(Role::target, targets_.shape()[1]);
  }
  if (row_weights_ != nullptr) grid.headings.emplace_back(row_weights_name);
}

void RowsGrid::add_cells(std::vector<Grid::Entry>& cells, std::int64_t row) const {
  const auto add = [&](const Tensor& numbers) {
    for (std::int64_t place = 0; place < numbers.shape()[1]; ++place)
      cells.emplace_back(numbers.at({row, place}));
  };
  if (has_features()) add(features_);
  if (!classes_.empty()) {
    const auto number = static_cast<std::int64_t>(classes_.at_offset(row));
    cells.emplace_back(cut_to(names_.label(Role::class_, number), longest_class_name));
  } else if (!targets_.empty()) {
    add(targets_);
  }
  if (row_weights_ != nullptr) cells.emplace_back(row_weights_->at_offset(row));
}

}  // namespace lattice
