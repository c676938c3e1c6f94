#include "tensor/array_kernels.hpp"

#include <algorithm>

#include "tensor/kernels.hpp"
#include "tensor/parallel.hpp"
#include "tensor/walk.hpp"

namespace lattice::kernels {
namespace {

/// The most operands that a function has.
constexpr std::size_t most_operands = 4;

template <class T>
ChunkLoop<T> loop_of(const ChunkLoops& f) {
  if constexpr (std::same_as<T, double>) {
    return f.doubles;
  } else {
    return f.singles;
  }
}

/// The operands of one row of results, which fills a chunk or more.
template <class T>
class RowOperands {
 public:
  explicit RowOperands(std::size_t count) : count_(count) {}

  /// Places an operand for the row.
  /// @param step 1, or 0 where there is one number for the whole row
  void place(std::size_t operand, const T* numbers, std::int64_t step) {
    if (step == 0) {
      same_[operand].fill(*numbers);
      numbers = same_[operand].data();
    }
    operands_[operand] = {numbers, step};
  }

  /// Works a row of `width` numbers. The last chunk ends with the row, so that some numbers are
  /// worked twice where they do not come out even.
  void work(const ChunkLoops& f, T* to, std::int64_t width) {
    const std::int64_t whole = width / chunk_size<T> * chunk_size<T>;
    loop_of<T>(f)(f.f, to, whole, operands_.data());
    if (whole == width) return;
    const std::int64_t last = width - chunk_size<T>;
    for (std::size_t operand = 0; operand < count_; ++operand)
      operands_[operand].numbers += last * operands_[operand].step;
    loop_of<T>(f)(f.f, to + last, chunk_size<T>, operands_.data());
  }

 private:
  std::size_t count_;
  std::array<ChunkOperand<T>, most_operands> operands_;
  std::array<std::array<T, static_cast<std::size_t>(chunk_size<T>)>, most_operands> same_;
};

}  // namespace

Tensor work_whole(const Shape& shape, std::span<const Tensor* const> operands,
                  const ChunkLoops& f) {
  Tensor result = Tensor::unfilled(shape, operands[0]->precision());
  visit(result.precision(), [&]<class T>(T) {
    T* const to = result.writable<T>();
    in_pieces(padded<T>(result.count()), [&](std::int64_t start, std::int64_t length) {
      std::array<ChunkOperand<T>, most_operands> from;
      for (std::size_t operand = 0; operand < operands.size(); ++operand)
        from[operand] = {operands[operand]->data<T>() + start};
      loop_of<T>(f)(f.f, to + start, length, from.data());
    });
  });
  return result;
}

Tensor work_stretched(const Shape& shape, std::span<const Tensor* const> operands,
                      const ChunkLoops& f) {
  const Tensor& a = *operands[0];
  const Tensor& b = *operands[1];
  const bool is_whole_a = a.shape() == shape;
  const bool is_whole_b = b.shape() == shape;
  if (is_whole_a && is_whole_b) return work_whole(shape, operands, f);
  const bool is_one_row = (is_whole_a || a.count() == 1) && (is_whole_b || b.count() == 1);
  const Walk steps = is_one_row ? Walk() : walk(shape, a.shape(), b.shape());
  const auto inner = static_cast<std::size_t>(std::max(steps.rank, 1) - 1);
  return visit(a.precision(), [&]<class T>(T) {
    if (!is_one_row && steps.extents[inner] < chunk_size<T>) {
      // Rows that do not fill a chunk are quicker stretched first, and worked all together.
      const auto wide_of = [&](const Tensor& x) {
        return x.shape() == shape ? x
                                  : broadcast_back(x, stretched_axes(x.shape(), shape), shape, 1.0);
      };
      const Tensor wide_a = wide_of(a);
      const Tensor wide_b = wide_of(b);
      std::array<const Tensor*, most_operands> wide = {&wide_a, &wide_b};
      std::ranges::copy(operands.subspan(2), wide.begin() + 2);
      return work_whole(shape, std::span(wide).first(operands.size()), f);
    }
    Tensor result = Tensor::unfilled(shape, a.precision());
    T* const to = result.writable<T>();
    RowOperands<T> row(operands.size());
    const auto work_row = [&](std::int64_t offset, std::int64_t width, std::int64_t in_a,
                              std::int64_t step_a, std::int64_t in_b, std::int64_t step_b) {
      row.place(0, a.data<T>() + in_a, step_a);
      row.place(1, b.data<T>() + in_b, step_b);
      for (std::size_t operand = 2; operand < operands.size(); ++operand)
        row.place(operand, operands[operand]->data<T>() + offset, 1);
      row.work(f, to + offset, width);
    };
    if (is_one_row) {
      work_row(0, padded<T>(result.count()), 0, is_whole_a ? 1 : 0, 0, is_whole_b ? 1 : 0);
    } else {
      each_row(steps, [&](std::int64_t offset, std::int64_t in_a, std::int64_t in_b) {
        work_row(offset, steps.extents[inner], in_a, steps.step_a[inner], in_b,
                 steps.step_b[inner]);
      });
    }
    return result;
  });
}

void change_by(Tensor& x, const ChunkLoops& f) {
  visit(x.precision(), [&]<class T>(T) {
    T* const numbers = x.writable<T>();
    in_pieces(padded<T>(x.count()), [&](std::int64_t start, std::int64_t length) {
      const ChunkOperand<T> operand = {numbers + start};
      loop_of<T>(f)(f.f, numbers + start, length, &operand);
    });
  });
}

}  // namespace lattice::kernels
