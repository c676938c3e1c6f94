#include "pictures/contrast_kernels.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <utility>

#include "lattice/tensor/arithmetic.hpp"
#include "tensor/array_kernels.hpp"
#include "tensor/kernels.hpp"
#include "tensor/parallel.hpp"
#include "tensor/visit.hpp"

namespace lattice {

namespace kernels {

BellAxis::BellAxis(std::int64_t size, std::int64_t extent) : reach_(size / 2), extent_(extent) {
  const double deviation = static_cast<double>(size) / 6.0;
  for (std::int64_t at = 0; at <= reach_; ++at) {
    const double distance = static_cast<double>(at) / deviation;
    bell_.push_back(std::exp(-0.5 * distance * distance));
  }
  for (std::int64_t place = 0; place < extent; ++place) {
    double total = 0.0;
    for (std::int64_t position = first(place); position < end(place); ++position)
      total += bell_[static_cast<std::size_t>(std::abs(position - place))];
    totals_.push_back(total);
  }
}

std::int64_t BellAxis::first(std::int64_t place) const {
  return std::max(place - reach_, std::int64_t{0});
}

std::int64_t BellAxis::end(std::int64_t place) const {
  return std::min(place + reach_ + 1, extent_);
}

double BellAxis::weight(std::int64_t place, std::int64_t position) const {
  const std::int64_t distance = std::abs(position - place);
  if (distance > reach_) return 0.0;
  return bell_[static_cast<std::size_t>(distance)] / totals_[static_cast<std::size_t>(place)];
}

namespace {

/// A picture without channels, or its rows and columns turned.
template <class T>
using Plane = std::vector<T>;

/// Along the rows of each picture, then along its columns: a mean by weights that are a product.
struct Bells {
  Bells(const Shape& shape, std::int64_t size)
      : rows(shape[1]),
        columns(shape[2]),
        channels(shape[3]),
        down(size, rows),
        across(size, columns) {}

  /// The number at a place of a plane, or the gradient there, goes where the weights say.
  /// @param back from the means to what they are of
  template <class T>
  void pass(const Plane<T>& from, Plane<T>& to, const BellAxis& axis, bool is_down,
            bool back) const {
    std::ranges::fill(to, T{0});
    const std::int64_t extent = is_down ? rows : columns;
    for (std::int64_t place = 0; place < extent; ++place) {
      for (std::int64_t position = axis.first(place); position < axis.end(place); ++position) {
        const T weight = static_cast<T>(axis.weight(place, position));
        const std::int64_t read = back ? place : position;
        const std::int64_t write = back ? position : place;
        for (std::int64_t other = 0; other < (is_down ? columns : rows); ++other) {
          const auto at = [&](std::int64_t along) {
            return static_cast<std::size_t>(is_down ? along * columns + other
                                                    : other * columns + along);
          };
          to[at(write)] += weight * from[at(read)];
        }
      }
    }
  }

  [[nodiscard]] std::size_t places() const {
    return static_cast<std::size_t>(rows) * static_cast<std::size_t>(columns);
  }

  std::int64_t rows;
  std::int64_t columns;
  std::int64_t channels;
  BellAxis down;
  BellAxis across;
};

/// The larger of two, of numbers or of arrays of them.
template <class A, class B>
auto at_least(const A& a, const B& b) {
  if constexpr (requires { a.max(b); }) {
    return a.max(b);
  } else {
    return a < b ? b : a;
  }
}

/// So much work is a number on its way through both passes.
constexpr std::int64_t multiplications_of_bells = 32;

}  // namespace

Tensor mean_around(const Tensor& pictures, std::int64_t size) {
  const Shape& shape = pictures.shape();
  const Bells bells(shape, size);
  const Shape means = Shape{shape[0], shape[1], shape[2], 1}.with(
      {shape.role(0), shape.role(1), shape.role(2), shape.role(3)});
  Tensor result = Tensor::unfilled(means, pictures.precision());
  visit(pictures.precision(), [&]<class T>(T) {
    const T* const from = pictures.data<T>();
    T* const to = result.writable<T>();
    in_parallel(shape[0], shape.count() * multiplications_of_bells, [&](std::int64_t example) {
      const std::size_t places = bells.places();
      Plane<T> plane(places);
      Plane<T> turned(places);
      const T* const picture = from + example * shape.count() / shape[0];
      for (std::size_t place = 0; place < places; ++place) {
        T total{0};
        for (std::int64_t channel = 0; channel < bells.channels; ++channel)
          total += picture[static_cast<std::int64_t>(place) * bells.channels + channel];
        plane[place] = total / static_cast<T>(bells.channels);
      }
      bells.pass<T>(plane, turned, bells.across, false, false);
      bells.pass<T>(turned, plane, bells.down, true, false);
      std::ranges::copy(plane, to + example * static_cast<std::int64_t>(places));
    });
  });
  return result;
}

Tensor mean_around_back(const Tensor& gradient, std::int64_t size, const Shape& shape) {
  const Bells bells(shape, size);
  Tensor result = Tensor::unfilled(shape, gradient.precision());
  visit(gradient.precision(), [&]<class T>(T) {
    const T* const from = gradient.data<T>();
    T* const to = result.writable<T>();
    in_parallel(shape[0], shape.count() * multiplications_of_bells, [&](std::int64_t example) {
      const std::size_t places = bells.places();
      const T* const means = from + example * static_cast<std::int64_t>(places);
      Plane<T> plane(means, means + places);
      Plane<T> turned(places);
      bells.pass<T>(plane, turned, bells.down, true, true);
      bells.pass<T>(turned, plane, bells.across, false, true);
      T* const picture = to + example * shape.count() / shape[0];
      for (std::size_t place = 0; place < places; ++place) {
        for (std::int64_t channel = 0; channel < bells.channels; ++channel) {
          picture[static_cast<std::int64_t>(place) * bells.channels + channel] =
              plane[place] / static_cast<T>(bells.channels);
        }
      }
    });
  });
  return result;
}

Tensor with_contrast(const Tensor& pictures, const Contrast& contrast) {
  contrast.check(pictures.shape().without_first_axis());
  Tensor result = pictures;
  if (contrast.kind != ContrastKind::divisive) result = result - mean_around(result, contrast.size);
  if (contrast.kind == ContrastKind::subtractive) return result;
  Tensor deviation = mean_around(result * result, contrast.size) + contrast.epsilon;
  change(deviation, [](const auto& number) {
    using std::sqrt;
    return sqrt(number);
  });
  const Shape one{deviation.shape()[0], 1, 1, 1};
  const AxisSet places = (1U << 1U) | (1U << 2U);
  const Tensor least =
      sum(deviation, places, one, static_cast<double>(deviation.shape()[1] * deviation.shape()[2]));
  const Tensor divisor =
      stretch(deviation.shape(), deviation, least,
              [](const auto& here, const auto& common) { return at_least(here, common); });
  return result / divisor;
}

}  // namespace kernels
}  // namespace lattice
