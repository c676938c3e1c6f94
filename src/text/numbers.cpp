#include "lattice/text/numbers.hpp"

#include <fmt/format.h>

#include <charconv>
#include <cmath>
#include <limits>

#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

constexpr std::string_view minus = "−";

/// Large numbers below this are written as whole numbers, not with a power of ten.
constexpr double shown_in_full = 1e9;

std::string without_sign(double size, int digits) {
  if (std::isnan(size)) return "NaN";
  if (std::isinf(size)) return "∞";
  if (digits < all_digits && size >= std::pow(10.0, digits) && size < shown_in_full) {
    return fmt::format("{:.0f}", size);
  }
  std::string text =
      digits >= all_digits ? fmt::format("{}", size) : fmt::format("{:.{}g}", size, digits);
  const size_t e = text.find('e');
  if (e == std::string::npos) return text;
  const bool small = text[e + 1] == '-';
  const size_t first_digit = text.find_first_not_of('0', e + 2);
  return fmt::format("{}e{}{}", text.substr(0, e), small ? minus : "", text.substr(first_digit));
}

/// The text with hyphens for its minus signs.
std::string with_hyphens(std::string_view text) {
  std::string hyphens(text);
  for (size_t at = 0; (at = hyphens.find(minus, at)) != std::string::npos;)
    hyphens.replace(at, minus.size(), "-");
  return hyphens;
}

}  // namespace

std::string format_number(double number, int digits) {
  return fmt::format("{}{}", number < 0 ? minus : "", without_sign(std::abs(number), digits));
}

std::optional<double> parse_number(std::string_view text) {
  const std::string_view plain = trimmed(text);
  if (plain.empty()) return std::nullopt;
  const char* begin = plain.data();
  const char* const end = begin + plain.size();
  if (*begin == '+' && plain.size() > 1 && plain[1] != '-') ++begin;
  double number = 0.0;
  const auto [stop, problem] = std::from_chars(begin, end, number);
  if (stop != end || problem == std::errc::invalid_argument) {
    if (plain.find(minus) == std::string_view::npos) return std::nullopt;
    return parse_number(with_hyphens(plain));
  }
  if (problem == std::errc::result_out_of_range) {
    number = std::strtod(std::string(begin, end).c_str(), nullptr);
  }
  return number;
}

std::optional<std::int64_t> parse_whole_number(std::string_view text) {
  const std::string_view plain = trimmed(text);
  const char* const end = plain.data() + plain.size();
  std::int64_t number = 0;
  const auto [stop, problem] = std::from_chars(plain.data(), end, number);
  if (stop != end || problem != std::errc()) return std::nullopt;
  return number;
}

}  // namespace lattice
