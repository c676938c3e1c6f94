#include "lattice/worksheet/watch.hpp"

#include <fmt/format.h>

#include <cmath>
#include <limits>

#include "lattice/tensor/sparse.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"

namespace lattice {
namespace {

/// Where the first number of a tensor stands that is NaN or infinite; −1 when there is none.
std::int64_t first_not_finite(const Tensor& tensor) {
  if (tensor.is_sparse()) {
    for (const MatrixEntry& entry : entries_of(tensor)) {
      if (!std::isfinite(entry.number)) return tensor.shape().offset({entry.row, entry.column});
    }
    return -1;
  }
  for (std::int64_t offset = 0; offset < tensor.count(); ++offset) {
    if (!std::isfinite(tensor.at_offset(offset))) return offset;
  }
  return -1;
}

/// The largest number that a precision has, and what it is e to the power of.
double largest_of(Precision precision) {
  return precision == Precision::double_ ? std::numeric_limits<double>::max()
                                         : double{std::numeric_limits<float>::max()};
}

std::string overflow(Precision precision) {
  return fmt::format(
      "beyond {}, the largest number of {} precision: have the weights grown? Try a "
      "smaller rate, or features of like size",
      format_number(largest_of(precision), 3), word(precision));
}

/// What makes a formula NaN or infinite whose parts are neither.
std::string cause_of(const Formula& part, Precision precision) {
  const auto argument = [&](std::size_t i) { return part.parts()[i].evaluate(precision); };
  const std::string& name = part.function_name();
  switch (part.kind()) {
    case Formula::Kind::cell:
      return "the number it is made of is none itself";
    case Formula::Kind::quotient:
      return argument(1) == 0.0 ? "division by 0" : overflow(precision);
    case Formula::Kind::power:
      return argument(0) == 0.0  ? "0 to a negative power"
             : argument(0) < 0.0 ? "a negative number to a fractional power"
                                 : overflow(precision);
    case Formula::Kind::function:
      if (name == "exp") {
        return fmt::format("exp overflows above e^{} in {} precision",
                           format_number(std::log(largest_of(precision))), word(precision));
      }
      if (name == "log") return argument(0) == 0.0 ? "log of 0" : "log of a negative number";
      if (name == "√") return "the root of a negative number";
      return fmt::format("{} has no value there", name);
    default:
      return overflow(precision);
  }
}

std::string cause_of_leaf(const Line& line) {
  return !is_weight(line.kind())
             ? "it was given like this: check the data"
             : "the weight came like this: an update before took it there. Try a smaller rate";
}

/// Fills in where the trouble is, from the formula of the number.
void explain_alarm(Alarm& alarm, const Formula& formula) {
  const Precision precision = alarm.line.value().precision();
  const std::optional<Formula> part = formula.first_not_finite(precision);
  if (!part) {
    alarm.cause = overflow(precision);
    return;
  }
  alarm.part = part->text();
  alarm.inputs = part->text({.filled_in = true});
  alarm.cause = cause_of(*part, precision);
}

}  // namespace

std::string Alarm::place() const {
  return fmt::format("{}{}{} on line {}, {}, became {}", in_gradient ? "∂" : "", line.name(),
                     to_string(at), line.number(), line.operation(), format_number(number));
}

std::string Alarm::text() const {
  const std::string subject =
      fmt::format("{}{}{}", in_gradient ? "∂" : "", line.name(), to_string(at));
  std::string text = fmt::format("{} is {}: the first such number{}, on line {}, {}", subject,
                                 format_number(number), in_gradient ? " of the sweep" : "",
                                 line.number(), line.operation());
  if (!part.empty()) {
    constexpr std::size_t indent = 12;
    const bool on_one_line = indent + columns(part) + columns(inputs) + 3 <= page_width;
    text += "\n  there:    " + wrap_formula(part, indent);
    if (inputs != part) {
      text += on_one_line ? " = " : "\n" + std::string(indent - 2, ' ') + "= ";
      text += wrap_formula(inputs, indent);
    }
  }
  return text + fmt::format("\n  cause:    {}", cause);
}

std::optional<Alarm> watch(const Worksheet& sheet) {
  for (const Line& line : sheet.lines()) {
    const std::int64_t offset = first_not_finite(line.value());
    if (offset < 0) continue;
    Alarm alarm{
        .line = line, .at = line.shape().index(offset), .number = line.value().at_offset(offset)};
    if (line.kind() == Line::Kind::calculated) {
      explain_alarm(alarm, explain(line, alarm.at).formula);
    } else {
      alarm.cause = cause_of_leaf(line);
    }
    return alarm;
  }
  return std::nullopt;
}

std::optional<Alarm> watch(const ReverseSweep& sweep) {
  for (std::size_t number = sweep.result().number(); number > 0; --number) {
    const Line line = sweep.line(number);
    if (!sweep.has_reached(line)) continue;
    const Tensor& gradient = sweep.gradient(line);
    const std::int64_t offset = first_not_finite(gradient);
    if (offset < 0) continue;
    Alarm alarm{.line = line,
                .at = line.shape().index(offset),
                .number = gradient.at_offset(offset),
                .in_gradient = true};
    explain_alarm(alarm, explain_gradient(sweep, line, alarm.at).formula);
    return alarm;
  }
  return std::nullopt;
}

}  // namespace lattice
