#include "tensor/rearranging_kernels.hpp"

#include <algorithm>

#include "tensor/visit.hpp"

namespace lattice::kernels {
namespace {

/// Calls `row(from, to)` with the offsets where each innermost row of a block starts.
template <class Row>
void each_row_of(const Block& block, Row row) {
  std::array<std::int64_t, max_rank> at{};
  std::int64_t from = block.from_start;
  std::int64_t to = block.to_start;
  for (;;) {
    row(from, to);
    int axis = block.rank - 2;
    for (; axis >= 0; --axis) {
      const auto a = static_cast<size_t>(axis);
      from += block.from_step[a];
      to += block.to_step[a];
      if (++at[a] < block.extents[a]) break;
      from -= block.from_step[a] * block.extents[a];
      to -= block.to_step[a] * block.extents[a];
      at[a] = 0;
    }
    if (axis < 0) return;
  }
}

/// The innermost axis of a block.
struct Innermost {
  explicit Innermost(const Block& block) {
    if (block.rank == 0) return;
    const auto last = static_cast<size_t>(block.rank - 1);
    extent = block.extents[last];
    from_step = block.from_step[last];
    to_step = block.to_step[last];
  }

  std::int64_t extent = 1;
  std::int64_t from_step = 1;
  std::int64_t to_step = 1;
};

}  // namespace

void copy(const Tensor& from, Tensor& to, const Block& block) {
  const Innermost inner(block);
  visit(from.precision(), [&]<class T>(T) {
    T* const numbers = to.writable<T>();
    each_row_of(block, [&](std::int64_t source, std::int64_t target) {
      for (std::int64_t i = 0; i < inner.extent; ++i)
        numbers[target + i * inner.to_step] = from.data<T>()[source + i * inner.from_step];
    });
  });
}

void add_back(const Tensor& result, Tensor& from, const Block& block) {
  const Innermost inner(block);
  visit(from.precision(), [&]<class T>(T) {
    T* const numbers = from.writable<T>();
    each_row_of(block, [&](std::int64_t source, std::int64_t target) {
      for (std::int64_t i = 0; i < inner.extent; ++i)
        numbers[source + i * inner.from_step] += result.data<T>()[target + i * inner.to_step];
    });
  });
}

Tensor at_columns(const Tensor& x, const Tensor& columns, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = x.shape()[x.shape().rank() - 1];
    for (std::int64_t row = 0; row < result.count(); ++row) {
      const auto column = static_cast<std::int64_t>(columns.data<T>()[row]);
      result.writable<T>()[row] = x.data<T>()[row * width + column];
    }
  });
  return result;
}

void put_picked(const Tensor& x, const Tensor& columns, Tensor& to) {
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = to.shape()[to.shape().rank() - 1];
    for (std::int64_t row = 0; row < x.count(); ++row) {
      const auto column = static_cast<std::int64_t>(columns.data<T>()[row]);
      to.writable<T>()[row * width + column] = x.data<T>()[row];
    }
  });
}

Tensor gather_rows(const Tensor& x, const Tensor& rows, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = x.count() / x.shape()[0];
    T* to = result.writable<T>();
    for (std::int64_t i = 0; i < rows.count(); ++i) {
      const auto row = static_cast<std::int64_t>(rows.data<T>()[i]);
      to = std::copy_n(x.data<T>() + row * width, width, to);
    }
  });
  return result;
}

void add_to_gathered(const Tensor& x, const Tensor& rows, Tensor& to) {
  visit(x.precision(), [&]<class T>(T) {
    const std::int64_t width = to.count() / to.shape()[0];
    for (std::int64_t i = 0; i < rows.count(); ++i) {
      T* const row = to.writable<T>() + static_cast<std::int64_t>(rows.data<T>()[i]) * width;
      for (std::int64_t k = 0; k < width; ++k)
        row[k] += x.data<T>()[i * width + k];
    }
  });
}

}  // namespace lattice::kernels
