#include "lattice/data/row_set.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <utility>

#include "data/prepared_rows.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

std::vector<std::int64_t> numbers_to(std::int64_t count) {
  std::vector<std::int64_t> numbers(static_cast<std::size_t>(count));
  std::iota(numbers.begin(), numbers.end(), std::int64_t{0});
  return numbers;
}

/// How much each of connected rows counts where some do: the others 0.
SideInput weights_among_all(const Dataset& data, std::span<const std::int64_t> rows) {
  Tensor row_weights =
      zeros(Shape{data.rows()}.with({data.features.shape().role(0)}), data.features.precision());
  for (const std::int64_t row : rows)
    row_weights.set({row}, data.row_weight(row));
  return {.name = std::string(row_weights_name), .value = std::move(row_weights), .by_row = true};
}

}  // namespace

std::vector<std::string> Batch::augmented_in_words() const {
  std::vector<std::string> words;
  for (std::int64_t at = 0; !drawn.empty() && at < drawn.shape()[0]; ++at)
    words.push_back(augmentation->in_words(drawn, at));
  return words;
}

double Batch::total_weight() const {
  const Tensor* const numbers = find_side(side, row_weights_name);
  if (numbers == nullptr) return static_cast<double>(rows.size());
  double sum = 0.0;
  for (const double number : numbers->numbers())
    sum += number;
  return sum;
}

std::shared_ptr<const RowSet::Held> RowSet::held(Dataset data) {
  constexpr std::int64_t most_numbers = std::int64_t{1} << 21;
  auto all = std::make_shared<Held>(Held{.data = std::move(data)});
  const Dataset& of = all->data;
  if (!of.preparation.empty() && of.features.count() <= most_numbers)
    all->features = of.preparation.prepared(of.features);
  if (!of.target_preparation.empty() && of.targets.count() <= most_numbers)
    all->targets = of.target_preparation.prepared(of.targets);
  return all;
}

RowSet::RowSet(Dataset data)
    : held_(held(std::move(data))), rows_(numbers_to(held_->data.rows())), is_whole_(true) {}

RowSet::RowSet(Dataset data, std::vector<std::int64_t> rows)
    : held_(held(std::move(data))), rows_(std::move(rows)) {
  const std::int64_t count = this->data().rows();
  for (const std::int64_t row : rows_) {
    if (row >= 0 && row < count) continue;
    throw IndexError({.what = fmt::format("there is no row {} of {}", row, this->data().name),
                      .expected = fmt::format("0 to {}", count - 1),
                      .found = fmt::format("{}", row)});
  }
}

Batch RowSet::batch_of(std::vector<std::int64_t> rows, const AugmentedEpoch* augmented) const {
  // All rows of a whole are the tensors as they are.
  const bool is_whole = data().is_connected();
  const bool is_all =
      is_whole || (is_whole_ && std::ssize(rows) == count() && std::ranges::is_sorted(rows));
  const auto taken = [&](const Tensor& of_all) {
    return of_all.empty() || is_all ? of_all : of_all.rows(rows);
  };
  const auto measured = [&](const Examples& of_all) {
    return is_all ? of_all.all() : of_all.rows(rows);
  };
  Batch batch;
  if (rows.empty()) return batch;
  const Dataset& of = data();
  if (augmented != nullptr) {
    batch.augmentation = augmented->how;
    batch.drawn = augmented->drawn(rows, of.features.precision());
    batch.features =
        of.preparation.prepared(augmented->how->changed(measured(of.features), batch.drawn));
  } else {
    batch.features = !held_->features.empty()  ? taken(held_->features)
                     : of.features.are_bytes() ? prepared_rows(of.preparation, of.features, rows)
                                               : of.preparation.prepared(measured(of.features));
  }
  if (!of.targets.empty()) {
    batch.targets = held_->targets.empty() ? of.target_preparation.prepared(taken(of.targets))
                                           : taken(held_->targets);
  }
  batch.classes = taken(of.classes);
  for (const SideInput& side : of.side) {
    if (is_whole && side.name == row_weights_name) continue;
    batch.side.push_back(side);
    if (side.by_row) batch.side.back().value = taken(side.value);
  }
  if (is_whole) batch.side.push_back(weights_among_all(of, rows));
  batch.is_whole = is_whole;
  if (is_whole) batch.unlabelled = of.unlabelled;
  batch.rows = std::move(rows);
  return batch;
}

std::vector<std::int64_t> RowSet::rows_at(std::span<const std::int64_t> places) const {
  std::vector<std::int64_t> rows;
  rows.reserve(places.size());
  for (const std::int64_t place : places) {
    if (place < 0 || place >= count()) {
      throw IndexError({.what = fmt::format("there is no row at position {}", place),
                        .expected = fmt::format("0 to {}", count() - 1),
                        .found = fmt::format("{}", place)});
    }
    rows.push_back(rows_[static_cast<std::size_t>(place)]);
  }
  return rows;
}

std::vector<std::int64_t> RowSet::sorted_rows() const {
  std::vector<std::uint32_t> times(static_cast<std::size_t>(data().rows()));
  for (const std::int64_t row : rows_)
    ++times[static_cast<std::size_t>(row)];
  std::vector<std::int64_t> sorted;
  sorted.reserve(rows_.size());
  for (std::size_t row = 0; row < times.size(); ++row)
    sorted.insert(sorted.end(), times[row], static_cast<std::int64_t>(row));
  return sorted;
}

Batch RowSet::at(std::span<const std::int64_t> places) const {
  return batch_of(rows_at(places));
}

Batch RowSet::at(std::span<const std::int64_t> places, const AugmentedEpoch& augmented) const {
  if (augmented.how.empty()) return at(places);
  augmented.how->check(data().example());
  return batch_of(rows_at(places), &augmented);
}

Batch RowSet::from(std::int64_t place, std::int64_t count) const {
  const auto first = rows_.begin() + place;
  return batch_of({first, first + count});
}

RowSet RowSet::taking(std::span<const std::int64_t> places) const {
  RowSet result = *this;
  result.rows_ = rows_at(places);
  result.is_whole_ = false;
  return result;
}

RowSet RowSet::as_measured() const {
  RowSet result = *this;
  result.held_ = held(data().as_measured());
  return result;
}

RowSet RowSet::prepared_by(const Preparation& features, const Preparation& targets) const {
  RowSet result = *this;
  result.held_ = held(data().prepared_by(features, targets));
  return result;
}

std::vector<std::int64_t> RowSet::class_sizes() const {
  std::vector<std::int64_t> sizes(static_cast<std::size_t>(data().class_count()));
  for (const std::int64_t row : rows_) {
    if (data().has_truth(row)) ++sizes[static_cast<std::size_t>(data().classes.at_offset(row))];
  }
  return sizes;
}

}  // namespace lattice
