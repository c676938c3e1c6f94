#include "lattice/data/row_set.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <utility>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

std::vector<std::int64_t> numbers_to(std::int64_t count) {
  std::vector<std::int64_t> numbers(static_cast<std::size_t>(count));
  std::iota(numbers.begin(), numbers.end(), std::int64_t{0});
  return numbers;
}

}  // namespace

double Batch::counted() const {
  const Tensor* const numbers = find_side(side, counted_name);
  if (numbers == nullptr) return static_cast<double>(rows.size());
  double sum = 0.0;
  for (const double number : numbers->numbers())
    sum += number;
  return sum;
}

RowSet::RowSet(Dataset data)
    : data_(std::make_shared<const Dataset>(std::move(data))),
      rows_(numbers_to(data_->rows())),
      is_whole_(true) {}

RowSet::RowSet(std::shared_ptr<const Dataset> data, std::vector<std::int64_t> rows)
    : data_(std::move(data)), rows_(std::move(rows)) {
  for (const std::int64_t row : rows_) {
    if (row >= 0 && row < data_->rows()) continue;
    throw IndexError({.what = fmt::format("there is no row {} of {}", row, data_->name),
                      .expected = fmt::format("0 to {}", data_->rows() - 1),
                      .found = fmt::format("{}", row)});
  }
}

RowSet::RowSet(Dataset data, std::vector<std::int64_t> rows)
    : RowSet(std::make_shared<const Dataset>(std::move(data)), std::move(rows)) {}

Batch RowSet::batch_of(std::vector<std::int64_t> rows) const {
  // All rows of a whole are the tensors as they are.
  const bool is_all = is_whole_ && std::ssize(rows) == count() && std::ranges::is_sorted(rows);
  const auto taken = [&](const Tensor& of_all) {
    return of_all.empty() || is_all ? of_all : of_all.rows(rows);
  };
  Batch batch;
  if (rows.empty()) return batch;
  batch.features = data_->preparation.prepared(taken(data_->features));
  if (!data_->targets.empty())
    batch.targets = data_->target_preparation.prepared(taken(data_->targets));
  batch.classes = taken(data_->classes);
  for (const SideInput& side : data_->side)
    batch.side.push_back({side.name, side.by_row ? taken(side.value) : side.value, side.by_row});
  batch.rows = std::move(rows);
  return batch;
}

Batch RowSet::at(std::span<const std::int64_t> places) const {
  std::vector<std::int64_t> rows;
  rows.reserve(places.size());
  for (const std::int64_t place : places) {
    if (place < 0 || place >= count()) {
      throw IndexError({.what = fmt::format("there is no row at place {}", place),
                        .expected = fmt::format("0 to {}", count() - 1),
                        .found = fmt::format("{}", place)});
    }
    rows.push_back(rows_[static_cast<std::size_t>(place)]);
  }
  return batch_of(std::move(rows));
}

Batch RowSet::from(std::int64_t place, std::int64_t count) const {
  const auto first = rows_.begin() + place;
  return batch_of({first, first + count});
}

RowSet RowSet::taking(std::span<const std::int64_t> places) const {
  return {data_, at(places).rows};
}

RowSet RowSet::as_measured() const {
  RowSet result = *this;
  result.data_ = std::make_shared<const Dataset>(data_->as_measured());
  return result;
}

RowSet RowSet::prepared_by(const Preparation& features, const Preparation& targets) const {
  RowSet result = *this;
  result.data_ = std::make_shared<const Dataset>(data_->prepared_by(features, targets));
  return result;
}

std::vector<std::int64_t> RowSet::class_sizes() const {
  std::vector<std::int64_t> sizes(static_cast<std::size_t>(data_->class_count()));
  for (const std::int64_t row : rows_)
    ++sizes[static_cast<std::size_t>(data_->classes.at_offset(row))];
  return sizes;
}

}  // namespace lattice
