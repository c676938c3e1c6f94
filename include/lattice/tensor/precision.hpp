#pragma once

#include <cstdint>
#include <string_view>

#include "lattice/text/words.hpp"

namespace lattice {

/// How many digits a tensor keeps: `double_` 15 to 17 (64 bits, the default), `single` 6 to 9
/// (32 bits). Chosen when a tensor is made; one operation never mixes the two.
enum class Precision : std::uint8_t { double_, single };

inline constexpr Words<Precision> precision_words = {{Precision::double_, "double"},
                                                     {Precision::single, "single"}};

/// `double` or `single`.
[[nodiscard]] constexpr std::string_view word(Precision precision) {
  return precision_words.of(precision);
}

}  // namespace lattice
