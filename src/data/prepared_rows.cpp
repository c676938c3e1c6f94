#include "data/prepared_rows.hpp"

#include <vector>

#include "tensor/visit.hpp"

namespace lattice {
namespace {

/// Whether a step scales bytes by fixed factors of their precision.
bool scales_bytes(const Scaling& step, const Examples& examples) {
  const Precision precision = examples.precision();
  return step.settings.own.empty() && step.centre.precision() == precision &&
         step.divisor.precision() == precision &&
         factors_for(examples.shape().without_first_axis(), step.settings.by) ==
             step.centre.shape();
}

/// Factors for each number of an example, one after another.
template <class T>
std::vector<T> repeated(const Tensor& factors, std::int64_t count) {
  std::vector<T> all;
  all.reserve(static_cast<std::size_t>(count));
  while (static_cast<std::int64_t>(all.size()) < count)
    all.insert(all.end(), factors.data<T>(), factors.data<T>() + factors.count());
  return all;
}

}  // namespace

Tensor prepared_rows(const Preparation& preparation, const Examples& examples,
                     std::span<const std::int64_t> rows) {
  const bool is_direct = examples.are_bytes() && !preparation.empty() &&
                         scales_bytes(preparation.steps.front(), examples);
  if (!is_direct) return preparation.prepared(examples.rows(rows));
  const Scaling& first = preparation.steps.front();
  const Shape shape = examples.shape().with_extent(0, std::ssize(rows));
  const std::int64_t width = shape.without_first_axis().count();
  Tensor numbers = Tensor::unfilled(broadcast(shape, first.centre.shape()), examples.precision());
  visit(examples.precision(), [&]<class T>(T) {
    const std::vector<T> centres = repeated<T>(first.centre, width);
    const std::vector<T> divisors = repeated<T>(first.divisor, width);
    std::vector<std::uint8_t> bytes(static_cast<std::size_t>(width));
    const std::uint8_t* const from = bytes.data();
    const T* const less = centres.data();
    const T* const over = divisors.data();
    T* to = numbers.writable<T>();
    for (const std::int64_t row : rows) {
      examples.copy_bytes(row, bytes);
      for (std::int64_t at = 0; at < width; ++at)
        to[at] = (static_cast<T>(from[at]) - less[at]) / over[at];
      to += width;
    }
  });
  for (std::size_t step = 1; step < preparation.steps.size(); ++step)
    numbers = preparation.steps[step].scaled(numbers);
  return numbers;
}

}  // namespace lattice
