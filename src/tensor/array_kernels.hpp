#pragma once

#include <Eigen/Core>
#include <array>
#include <concepts>
#include <cstddef>
#include <cstdint>
#include <span>
#include <utility>

#include "lattice/tensor/tensor.hpp"
#include "tensor/array_functions.hpp"
#include "tensor/visit.hpp"

/// Loops over whole tensors with a function that is generic in the number type: it is called on
/// arrays of numbers. Whoever includes this compiles Eigen.
namespace lattice::kernels {

template <class T>
using Whole = Eigen::Map<Eigen::Array<T, Eigen::Dynamic, 1>, Eigen::Aligned64>;
template <class T>
using ConstWhole = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>, Eigen::Aligned64>;

/// So many numbers at a time: what fits into 64 bytes. As the size is known in advance, a function
/// of chunks is compiled to a few instructions, without loops of its own.
template <class T>
inline constexpr std::int64_t chunk_size = 64 / static_cast<std::int64_t>(sizeof(T));
template <class T>
using Chunk = Eigen::Map<Eigen::Array<T, chunk_size<T>, 1>>;
template <class T>
using ConstChunk = Eigen::Map<const Eigen::Array<T, chunk_size<T>, 1>>;

/// How many numbers a storage block really has room for: whole chunks.
template <class T>
std::int64_t padded(std::int64_t count) {
  return (count + chunk_size<T> - 1) / chunk_size<T> * chunk_size<T>;
}

/// The numbers of a tensor and the padding after them, as one array. Because there is never a tail,
/// a result depends on the number it is made from and never on where that number stands.
template <class T>
Whole<T> whole(Tensor& tensor) {
  return Whole<T>(tensor.writable<T>(), padded<T>(tensor.count()));
}
template <class T>
ConstWhole<T> whole(const Tensor& tensor) {
  return ConstWhole<T>(tensor.data<T>(), padded<T>(tensor.count()));
}

/// Where a loop finds the numbers of an operand.
template <class T>
struct ChunkOperand {
  const T* numbers;
  std::int64_t step = 1;  ///< 1, or 0 for one chunk that is used again and again
};

/// A function of chunks with the loop around it: it makes the `count` numbers at `to`, whole chunks
/// of them. This alone is compiled for each function; what finds the numbers is not.
template <class T>
using ChunkLoop = void (*)(const void* f, T* to, std::int64_t count, const ChunkOperand<T>* from);

struct ChunkLoops {
  const void* f;
  ChunkLoop<double> doubles;
  ChunkLoop<float> singles;
};

template <class T, class F, std::size_t... operand>
void chunk_loop(const void* f, T* to, std::int64_t count, const ChunkOperand<T>* from) {
  const F& function = *static_cast<const F*>(f);
  const std::array<ChunkOperand<T>, sizeof...(operand)> local = {from[operand]...};
  for (std::int64_t i = 0; i < count; i += chunk_size<T>)
    Chunk<T>(to + i) = function(ConstChunk<T>(local[operand].numbers + i * local[operand].step)...);
}

template <class F, std::size_t... operand>
ChunkLoops chunk_loops(const F& f, std::index_sequence<operand...>) {
  return {&f, chunk_loop<double, F, operand...>, chunk_loop<float, F, operand...>};
}

/// `f(operands…)`, where all operands have this shape.
[[nodiscard]] Tensor work_whole(const Shape& shape, std::span<const Tensor* const> operands,
                                const ChunkLoops& f);

/// `f(operands…)`, where the first two operands are stretched to a shape and the others have it.
[[nodiscard]] Tensor work_stretched(const Shape& shape, std::span<const Tensor* const> operands,
                                    const ChunkLoops& f);

/// `x` becomes `f(x)`, in place when no one else holds its numbers.
void change_by(Tensor& x, const ChunkLoops& f);

/// `f(x, others…)` of the numbers of tensors of one shape. `f` takes arrays.
template <class F, std::same_as<Tensor>... Others>
Tensor map(const Tensor& x, const F& f, const Others&... others) {
  const std::array<const Tensor*, 1 + sizeof...(Others)> operands = {&x, &others...};
  return work_whole(x.shape(), operands,
                    chunk_loops(f, std::make_index_sequence<1 + sizeof...(Others)>()));
}

/// `x` becomes `f(x)`, in place when no one else holds its numbers. `f` takes an array.
template <class F>
void change(Tensor& x, const F& f) {
  change_by(x, chunk_loops(f, std::make_index_sequence<1>()));
}

/// `f(a, b, others…)` where a and b are stretched to `shape` and the others have that shape
/// already. `f` takes arrays.
template <class F, std::same_as<Tensor>... Others>
Tensor stretch(const Shape& shape, const Tensor& a, const Tensor& b, const F& f,
               const Others&... others) {
  const std::array<const Tensor*, 2 + sizeof...(Others)> operands = {&a, &b, &others...};
  return work_stretched(shape, operands,
                        chunk_loops(f, std::make_index_sequence<2 + sizeof...(Others)>()));
}

/// `scale` times the mean of `f(a, b)`, as one number. Shapes are the same; `f` takes arrays.
template <class F>
Tensor mean_of(const Tensor& a, const Tensor& b, double scale, F f) {
  Tensor result = Tensor::unfilled({}, a.precision());
  visit(a.precision(), [&]<class T>(T) {
    using Row = Eigen::Map<const Eigen::Array<T, Eigen::Dynamic, 1>>;
    const Row first(a.data<T>(), a.count());
    const Row second(b.data<T>(), b.count());
    *result.writable<T>() =
        static_cast<T>(scale) * (f(first, second).sum() / static_cast<T>(a.count()));
  });
  return result;
}

}  // namespace lattice::kernels
