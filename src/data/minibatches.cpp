#include "lattice/data/minibatches.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

#include "lattice/tensor/error.hpp"

namespace lattice {

Batch take_rows(const Dataset& data, std::vector<std::int64_t> rows) {
  Batch batch;
  batch.features = data.features.rows(rows);
  batch.targets = data.targets.rows(rows);
  batch.rows = std::move(rows);
  return batch;
}

Batch all_rows(const Dataset& data) {
  std::vector<std::int64_t> rows(static_cast<std::size_t>(data.rows()));
  std::iota(rows.begin(), rows.end(), 0);
  return {.rows = std::move(rows), .features = data.features, .targets = data.targets};
}

Minibatches::Minibatches(const Dataset& data, MinibatchSettings settings, Random& random)
    : data_(&data), size_(settings.size) {
  if (size_ < 1 || size_ > data.rows()) {
    throw SettingError(
        {.what = fmt::format("a minibatch of {} rows cannot be taken from {}", size_, data.name),
         .expected = fmt::format("1 to {}, the rows there are", data.rows()),
         .found = fmt::format("{}", size_)});
  }
  order_ = random.shuffled(data.rows());
}

bool Minibatches::advance() {
  if (next_ == order_.size()) return false;
  const auto first = order_.begin() + static_cast<std::ptrdiff_t>(next_);
  const std::size_t count = std::min(static_cast<std::size_t>(size_), order_.size() - next_);
  batch_ = take_rows(*data_, {first, first + static_cast<std::ptrdiff_t>(count)});
  next_ += count;
  return true;
}

Minibatches minibatches(const Dataset& data, MinibatchSettings settings, Random& random) {
  return {data, settings, random};
}

}  // namespace lattice
