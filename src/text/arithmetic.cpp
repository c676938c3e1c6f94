#include "text/arithmetic.hpp"

#include <array>
#include <charconv>
#include <cmath>
#include <limits>
#include <string>
#include <utility>

namespace lattice {
namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN();

/// The text in plain signs, without blanks.
std::string plain(std::string_view text) {
  constexpr std::array<std::pair<std::string_view, std::string_view>, 8> signs = {{{"−", "-"},
                                                                                   {"·", "*"},
                                                                                   {"×", "*"},
                                                                                   {",", "."},
                                                                                   {"\u00a0", ""},
                                                                                   {" ", ""},
                                                                                   {"\t", ""},
                                                                                   {"\r", ""}}};
  std::string result;
  while (!text.empty()) {
    std::string_view written = text.substr(0, 1);
    std::size_t length = 1;
    for (const auto& [sign, meaning] : signs) {
      if (!text.starts_with(sign)) continue;
      written = meaning;
      length = sign.size();
    }
    result += written;
    text.remove_prefix(length);
  }
  return result;
}

/// Reads arithmetic from left to right; what is none becomes NaN.
class Arithmetic {
 public:
  explicit Arithmetic(std::string_view text) : text_(text) {}

  double sum() {
    double total = product();
    for (;;) {
      if (takes('+')) {
        total += product();
      } else if (takes('-')) {
        total -= product();
      } else {
        return total;
      }
    }
  }

  [[nodiscard]] bool at_end() const { return text_.empty(); }

 private:
  bool takes(char sign) {
    if (!text_.starts_with(sign)) return false;
    text_.remove_prefix(1);
    return true;
  }

  double product() {
    double total = signed_one();
    for (;;) {
      if (takes('*')) {
        total *= signed_one();
      } else if (takes('/')) {
        total /= signed_one();
      } else {
        return total;
      }
    }
  }

  double signed_one() {
    // More signs and parentheses, one inside another, than anybody types.
    constexpr int deepest = 100;
    if (++depth_ > deepest) return none;
    const double number = takes('-') ? -signed_one() : takes('+') ? signed_one() : power();
    --depth_;
    return number;
  }

  double power() {
    const double base = single();
    return takes('^') ? std::pow(base, signed_one()) : base;
  }

  double single() {
    if (takes('(')) {
      const double inner = sum();
      return takes(')') ? inner : none;
    }
    const auto is_digit = [](char sign) { return sign >= '0' && sign <= '9'; };
    if (text_.empty() || (!is_digit(text_.front()) && text_.front() != '.')) return none;
    double number = none;
    const auto [end, error] = std::from_chars(text_.data(), text_.data() + text_.size(), number);
    if (error != std::errc()) return none;
    text_.remove_prefix(static_cast<std::size_t>(end - text_.data()));
    return number;
  }

  std::string_view text_;
  int depth_ = 0;
};

}  // namespace

std::optional<double> parse_arithmetic(std::string_view text) {
  constexpr std::size_t longest = 1000;
  if (text.size() > longest) return std::nullopt;
  const std::string signs = plain(text);
  Arithmetic arithmetic(signs);
  const double number = arithmetic.sum();
  if (!arithmetic.at_end() || !std::isfinite(number)) return std::nullopt;
  return number;
}

}  // namespace lattice
