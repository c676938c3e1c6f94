#pragma once

#include <cstdint>
#include <string_view>

#include "lattice/text/words.hpp"

namespace lattice {

/// The number type of a tensor: `double_` with 15 to 17 digits (64 bits, the default), or `single`
/// with 6 to 9 (32 bits). It is chosen when a tensor is made; an operation never mixes the two.
enum class Precision : std::uint8_t { double_, single };

inline constexpr Words<Precision> precision_words = {{Precision::double_, "double"},
                                                     {Precision::single, "single"}};

/// `double` or `single`.
[[nodiscard]] constexpr std::string_view word(Precision precision) {
  return precision_words.of(precision);
}

}  // namespace lattice
