#pragma once

#include <cstdint>
#include <cstring>
#include <utility>

/// A few numbers side by side, worked together.
namespace lattice::kernels {

/// Registers of this machine, and how many bytes are in one.
#if defined(__AVX512F__)
inline constexpr int register_bytes = 64;
inline constexpr int registers = 32;
#elif defined(__AVX__)
inline constexpr int register_bytes = 32;
inline constexpr int registers = 16;
#else
inline constexpr int register_bytes = 16;
inline constexpr int registers = 16;
#endif

/// So many numbers fit into a register: as many as one instruction works together. A longer vector
/// would lie in memory between two of them.
template <class T>
inline constexpr int most_lanes = register_bytes / static_cast<int>(sizeof(T));

namespace detail {
template <class T, int lanes>
struct LanesOf {
  // As the compilers that we use extend the language: arithmetic and comparisons number by number.
  using type __attribute__((vector_size(static_cast<std::size_t>(lanes) * sizeof(T)))) = T;
};
template <class T>
struct LanesOf<T, 1> {
  using type = T;
};
}  // namespace detail

template <class T, int lanes>
using Lanes = typename detail::LanesOf<T, lanes>::type;

template <int lanes, class T>
inline void load(Lanes<T, lanes>& to, const T* from) {
  std::memcpy(&to, from, sizeof(to));
}
template <int lanes, class T>
inline void store(T* to, const Lanes<T, lanes>& from) {
  std::memcpy(to, &from, sizeof(from));
}

/// Cuts `count` numbers into pieces of 1, 2, 4 … `most_lanes`, and calls `work(first)` for each
/// with its size as an argument of the template: `work.template operator()<lanes>(first)`.
template <class T, int lanes = most_lanes<T>, class Work>
inline void in_lanes(std::int64_t count, const Work& work, std::int64_t first = 0) {
  for (; count - first >= lanes; first += lanes)
    work.template operator()<lanes>(first);
  if constexpr (lanes > 1) in_lanes<T, lanes / 2>(count, work, first);
}

}  // namespace lattice::kernels
