#include "lattice/tensor/agreement.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

double largest_of(const Tensor& tensor) {
  double largest = 0.0;
  for (const double number : tensor.numbers()) {
    if (std::isfinite(number)) largest = std::max(largest, std::abs(number));
  }
  return largest;
}

/// The one number by which every number of `hand` is a multiple of the engine's, when there is one.
std::optional<double> common_factor(const Tensor& hand, const Tensor& engine, double scale) {
  constexpr double alike = 1e-6;
  std::optional<double> factor;
  for (std::int64_t offset = 0; offset < hand.count(); ++offset) {
    const double below = engine.at_offset(offset);
    const double above = hand.at_offset(offset);
    if (std::abs(below) <= alike * scale) {
      if (std::abs(above) > alike * scale) return std::nullopt;
      continue;
    }
    const double here = above / below;
    if (!std::isfinite(here) || (factor && std::abs(here - *factor) > alike * std::abs(*factor)))
      return std::nullopt;
    if (!factor) factor = here;
  }
  return factor;
}

std::string hint_for(const Tensor& hand, const Tensor& engine, double scale) {
  const std::optional<double> factor = common_factor(hand, engine, scale);
  if (!factor || std::abs(*factor - 1.0) < 1e-3) return "";
  if (std::abs(*factor + 1.0) < 1e-6) return "by hand every number has the other sign";
  if (std::abs(*factor) < 1e-6) return "by hand every number is 0";
  const double inverse = 1.0 / *factor;
  const bool is_part = std::abs(inverse - std::round(inverse)) < 1e-6 && std::abs(inverse) > 1.5;
  return is_part
             ? fmt::format("by hand every number is 1/{} of the engine's: is a factor missing?",
                           format_number(std::round(inverse)))
             : fmt::format("by hand every number is {} times the engine's: is a divisor missing?",
                           format_number(*factor));
}

bool is_other_turned(const Shape& a, const Shape& b) {
  return a.rank() == 2 && b.rank() == 2 && a[0] == b[1] && a[1] == b[0];
}

}  // namespace

std::string Agreement::text() const {
  const std::string at = to_string(worst);
  const std::string where = at.empty() ? "" : fmt::format("at {} ", at);
  const bool looks_alike = format_number(hand) == format_number(engine);
  if (agrees) {
    const std::string numbers =
        looks_alike
            ? fmt::format("both are {}", format_number(engine))
            : fmt::format("one is {}, the other {}", format_number(hand), format_number(engine));
    return fmt::format("agree: the largest error is {}, {}where {}", format_number(error, 2), where,
                       numbers);
  }
  const int digits = looks_alike ? all_digits : usual_digits;
  return fmt::format("differ: {}{} by hand, {} by the engine (an error of {}, {} allowed){}{}",
                     where, format_number(hand, digits), format_number(engine, digits),
                     format_number(error, 2), format_number(tolerance, 2),
                     hint.empty() ? "" : "\n  ", hint);
}

Agreement agreement(const Tensor& hand, const Tensor& engine, std::optional<double> tolerance,
                    double terms) {
  const bool in_double =
      hand.precision() == Precision::double_ && engine.precision() == Precision::double_;
  if (hand.shape() != engine.shape()) {
    throw ShapeError(
        {.what = "a gradient by hand and the engine's differ in shape",
         .expected = fmt::format("{}, as the engine has it", to_string(engine.shape())),
         .found = fmt::format("{} by hand", to_string(hand.shape())),
         .remedy = is_other_turned(hand.shape(), engine.shape())
                       ? "it looks transposed: transpose(…)"
                       : ""});
  }
  const Distance farthest = distance(hand, engine);
  const double scale = std::max(largest_of(hand), largest_of(engine));
  Agreement result{
      .agrees = false,
      .tolerance = tolerance.value_or(in_double ? 1e-9 : 1e-4),
      .worst = farthest.at,
      .hand = hand.at(farthest.at),
      .engine = engine.at(farthest.at),
      .error = farthest.largest == 0.0 ? 0.0 : farthest.largest / std::max(scale, terms)};
  result.agrees = result.error <= result.tolerance;
  if (!result.agrees) result.hint = hint_for(hand, engine, scale);
  return result;
}

}  // namespace lattice
