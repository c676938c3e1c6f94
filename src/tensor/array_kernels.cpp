#include "tensor/array_kernels.hpp"

#include <algorithm>

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

/// The operands of one row of results.
template <class T>
class RowOperands {
 public:
  explicit RowOperands(std::size_t count) : count_(count) {}

  /// Places an operand for the row.
  /// @param step 1, or 0 where there is one number for the whole row
  void place(std::size_t operand, const T* numbers, std::int64_t step) {
    if (step == 0) {
      chunks_[operand].fill(*numbers);
      numbers = chunks_[operand].data();
    }
    operands_[operand] = {numbers, step};
  }

  /// Works a row of `width` numbers. What does not make up a whole chunk is worked in one beside
  /// it.
  void work(const ChunkLoops& f, T* to, std::int64_t width) {
    const std::int64_t whole = width / chunk_size<T> * chunk_size<T>;
    if (whole > 0) loop_of<T>(f)(f.f, to, whole, operands_.data());
    if (whole == width) return;
    for (std::size_t operand = 0; operand < count_; ++operand) {
      const ChunkOperand<T>& from = operands_[operand];
      if (from.step == 0) continue;
      std::copy_n(from.numbers + whole, width - whole, chunks_[operand].data());
      operands_[operand].numbers = chunks_[operand].data();
    }
    OneChunk rest;
    loop_of<T>(f)(f.f, rest.data(), chunk_size<T>, operands_.data());
    std::copy_n(rest.data(), width - whole, to + whole);
  }

 private:
  using OneChunk = std::array<T, static_cast<std::size_t>(chunk_size<T>)>;

  std::size_t count_;
  std::array<ChunkOperand<T>, most_operands> operands_;
  std::array<OneChunk, most_operands> chunks_;
};

}  // namespace

Tensor work_whole(const Shape& shape, std::span<const Tensor* const> operands,
                  const ChunkLoops& f) {
  Tensor result = Tensor::unfilled(shape, operands[0]->precision());
  visit(result.precision(), [&]<class T>(T) {
    std::array<ChunkOperand<T>, most_operands> from;
    for (std::size_t operand = 0; operand < operands.size(); ++operand)
      from[operand] = {operands[operand]->data<T>()};
    loop_of<T>(f)(f.f, result.writable<T>(), padded<T>(result.count()), from.data());
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
  Tensor result = Tensor::unfilled(shape, a.precision());
  visit(a.precision(), [&]<class T>(T) {
    T* const to = result.writable<T>();
    RowOperands<T> row(operands.size());
    const auto place_others = [&](std::int64_t offset) {
      for (std::size_t operand = 2; operand < operands.size(); ++operand)
        row.place(operand, operands[operand]->data<T>() + offset, 1);
    };
    if ((is_whole_a || a.count() == 1) && (is_whole_b || b.count() == 1)) {
      row.place(0, a.data<T>(), is_whole_a ? 1 : 0);
      row.place(1, b.data<T>(), is_whole_b ? 1 : 0);
      place_others(0);
      row.work(f, to, padded<T>(result.count()));
      return;
    }
    const Walk steps = walk(shape, a.shape(), b.shape());
    const auto inner = static_cast<std::size_t>(steps.rank - 1);
    each_row(steps, [&](std::int64_t offset, std::int64_t in_a, std::int64_t in_b) {
      row.place(0, a.data<T>() + in_a, steps.step_a[inner]);
      row.place(1, b.data<T>() + in_b, steps.step_b[inner]);
      place_others(offset);
      row.work(f, to + offset, steps.extents[inner]);
    });
  });
  return result;
}

void change_by(Tensor& x, const ChunkLoops& f) {
  visit(x.precision(), [&]<class T>(T) {
    T* const numbers = x.writable<T>();
    const ChunkOperand<T> operand = {numbers};
    loop_of<T>(f)(f.f, numbers, padded<T>(x.count()), &operand);
  });
}

}  // namespace lattice::kernels
