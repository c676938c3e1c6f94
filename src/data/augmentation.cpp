#include "lattice/data/augmentation.hpp"

#include <fmt/format.h>

namespace lattice {

bool operator==(const Augmentation& a, const Augmentation& b) {
  return text(a) == text(b);
}

std::string text(const Augmentation& augmentation) {
  return augmentation.empty() ? "none" : augmentation->text();
}

Tensor AugmentedEpoch::drawn(std::span<const std::int64_t> rows, Precision precision) const {
  std::vector<double> numbers;
  for (const std::int64_t row : rows) {
    const std::vector<double> of_row = how->drawn(random.branch(fmt::format("{} {}", epoch, row)));
    numbers.insert(numbers.end(), of_row.begin(), of_row.end());
  }
  const auto count = std::ssize(rows);
  const Shape shape{count, std::ssize(numbers) / count};
  return tensor(shape.with({Role::example, Role::none}), numbers, precision);
}

}  // namespace lattice
