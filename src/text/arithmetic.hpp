#pragma once

#include <optional>
#include <string_view>

namespace lattice {

/// A number as people type it when they work it out: digits, or sums, products, fractions and
/// powers of them in parentheses, `(0,3 − 1)/4`. A comma is a decimal comma. Nothing for any other
/// text, and where the result is not finite.
[[nodiscard]] std::optional<double> parse_arithmetic(std::string_view text);

}  // namespace lattice
