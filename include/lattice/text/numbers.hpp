#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace lattice {

/// The default number of significant digits.
inline constexpr int usual_digits = 5;

/// The fewest digits that reproduce a double exactly.
inline constexpr int all_digits = 17;

/// The largest count of rows, steps or epochs, so that the sum of two does not overflow.
inline constexpr std::int64_t most_counted = 1'000'000'000'000;

/// A number for reading: `0.31`, `−2.5`, `1.2e−7`, `∞`, `NaN`. At most `digits` significant
/// ones; large whole parts are written out.
[[nodiscard]] std::string format_number(double number, int digits = usual_digits);

/// Reads a whole text as one number; `−` counts as a minus sign, a leading `+` is allowed, spaces
/// around are not looked at. Nothing when the text is not a number.
[[nodiscard]] std::optional<double> parse_number(std::string_view text);

/// Reads a whole text as one whole number in digits; spaces around are not looked at. Nothing when
/// the text is not one, or too large a one.
[[nodiscard]] std::optional<std::int64_t> parse_whole_number(std::string_view text);

}  // namespace lattice
