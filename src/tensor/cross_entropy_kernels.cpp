#include "tensor/cross_entropy_kernels.hpp"

#include <cstdint>
#include <utility>

#include "tensor/array_kernels.hpp"
#include "tensor/short_rows.hpp"

namespace lattice::kernels {
namespace {

/// For each row of scores: exp(score − largest) of every score, the largest, and where it is.
template <class T>
struct Powers {
  explicit Powers(const Tensor& scores)
      : rows(scores.shape()[0]),
        width(scores.shape()[1]),
        numbers(Tensor::unfilled(scores.shape(), scores.precision())),
        largest(Tensor::unfilled({rows}, scores.precision())),
        places(Tensor::unfilled({rows}, scores.precision())) {
    T* const largest_to = largest.writable<T>();
    T* const places_to = places.writable<T>();
    with_length(width, [&](auto length) {
      const T* from = scores.data<T>();
      T* to = numbers.writable<T>();
      for (std::int64_t row = 0; row < rows; ++row, from += length, to += length) {
        T most = from[0];
        T place{0};
        for (std::int64_t i = 1; i < length; ++i) {
          const bool stays = from[i] <= most;
          most = stays ? most : from[i];
          place = stays ? place : static_cast<T>(i);
        }
        for (std::int64_t i = 0; i < length; ++i)
          to[i] = from[i] - most;
        largest_to[row] = most;
        places_to[row] = place;
      }
    });
    change(numbers, [](const auto& difference) { return exp_of(difference); });
  }

  std::int64_t rows;
  std::int64_t width;
  Tensor numbers;
  Tensor largest;
  Tensor places;
};

}  // namespace

Tensor powers(const Tensor& scores) {
  return visit(scores.precision(),
               [&]<class T>(T) { return std::move(Powers<T>(scores).numbers); });
}

namespace {

Tensor surprises(const Tensor& scores, const Tensor& classes, Tensor* keep_powers) {
  return visit(scores.precision(), [&]<class T>(T) {
    Powers<T> powers(scores);
    Tensor result = Tensor::unfilled({powers.rows}, scores.precision());
    T* const to = result.writable<T>();
    // What all but the largest score add to the total of a row, which has 1 of that one.
    with_length(powers.width, [&](auto length) {
      const T* from = powers.numbers.template data<T>();
      const T* const places = powers.places.template data<T>();
      for (std::int64_t row = 0; row < powers.rows; ++row, from += length) {
        T others{0};
        for (std::int64_t i = 0; i < length; ++i)
          others += static_cast<T>(i) == places[row] ? T{0} : from[i];
        to[row] = others;
      }
    });
    change(result, [](const auto& others) { return log1p_of(others); });
    const T* const largest = powers.largest.template data<T>();
    const T* const of_rows = classes.data<T>();
    const T* const from = scores.data<T>();
    for (std::int64_t row = 0; row < powers.rows; ++row) {
      const auto column = static_cast<std::int64_t>(of_rows[row]);
      to[row] = (largest[row] - from[row * powers.width + column]) + to[row];
    }
    if (keep_powers != nullptr) *keep_powers = std::move(powers.numbers);
    return result;
  });
}

}  // namespace

Tensor surprises(const Tensor& scores, const Tensor& classes) {
  return surprises(scores, classes, nullptr);
}

Tensor cross_entropy(const Tensor& scores, const Tensor& classes, const Tensor& shares,
                     Tensor* powers) {
  const Tensor losses = surprises(scores, classes, powers);
  Tensor result = Tensor::unfilled({}, scores.precision());
  visit(scores.precision(), [&]<class T>(T) {
    const std::int64_t rows = losses.count();
    const T* const of_rows = losses.data<T>();
    T sum{0};
    if (shares.empty()) {
      for (std::int64_t row = 0; row < rows; ++row)
        sum += of_rows[row];
      sum /= static_cast<T>(rows);
    } else {
      const T* const of_row = shares.data<T>();
      for (std::int64_t row = 0; row < rows; ++row)
        sum += of_row[row] * of_rows[row];
    }
    *result.writable<T>() = sum;
  });
  return result;
}

Tensor cross_entropy_slope(const Tensor& powers, const Tensor& classes, const Tensor& shares,
                           double gradient) {
  Tensor result = Tensor::unfilled(powers.shape(), powers.precision());
  visit(powers.precision(), [&]<class T>(T) {
    const T* const of_rows = classes.data<T>();
    const T* const of_row = shares.empty() ? nullptr : shares.data<T>();
    const std::int64_t rows = powers.shape()[0];
    const T share_of_all = static_cast<T>(gradient) * (T{1} / static_cast<T>(rows));
    with_length(powers.shape()[1], [&](auto length) {
      const T* from = powers.data<T>();
      T* to = result.writable<T>();
      for (std::int64_t row = 0; row < rows; ++row, from += length, to += length) {
        T total{0};
        for (std::int64_t i = 0; i < length; ++i)
          total += from[i];
        const T share = of_row == nullptr ? share_of_all : static_cast<T>(gradient) * of_row[row];
        const T factor = share / total;
        for (std::int64_t i = 0; i < length; ++i)
          to[i] = from[i] * factor;
        to[static_cast<std::int64_t>(of_rows[row])] -= share;
      }
    });
  });
  return result;
}

}  // namespace lattice::kernels
