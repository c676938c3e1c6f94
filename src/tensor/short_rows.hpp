#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <type_traits>
#include <utility>

/// Loops over rows of a few numbers each, such as the scores of classes or the units of a small
/// layer. With a length that the compiler knows a row is kept in registers.
namespace lattice::kernels {

inline constexpr std::int64_t longest_short_row = 16;

namespace detail {

template <class Work, std::size_t... lengths>
decltype(auto) with_length(std::int64_t length, const Work& work, std::index_sequence<lengths...>) {
  using Result = decltype(work(std::integral_constant<std::int64_t, 1>()));
  using Call = Result (*)(const Work&);
  constexpr std::array<Call, sizeof...(lengths)> by_length = {[](const Work& each) -> Result {
    return each(std::integral_constant<std::int64_t, static_cast<std::int64_t>(lengths) + 1>());
  }...};
  return by_length[static_cast<std::size_t>(length - 1)](work);
}

}  // namespace detail

/// Calls `work(length)` with a length from 1 to `longest_short_row` as a constant.
template <class Work>
decltype(auto) with_short_length(std::int64_t length, const Work& work) {
  constexpr auto count = static_cast<std::size_t>(longest_short_row);
  return detail::with_length(length, work, std::make_index_sequence<count>());
}

/// The same for any length: a longer one is given as it is.
template <class Work>
decltype(auto) with_length(std::int64_t length, const Work& work) {
  return length <= longest_short_row ? with_short_length(length, work) : work(length);
}

}  // namespace lattice::kernels
