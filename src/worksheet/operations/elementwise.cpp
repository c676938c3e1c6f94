#include "lattice/worksheet/operations/elementwise.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <bitset>
#include <string>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice::elementwise {
namespace {

Formula arrived_at(const Symbols& symbols) {
  return symbol("∂" + symbols.result);
}

/// Stands for a number in a formula that is tried out, to see whether the number is needed.
Formula stand_in(std::size_t which) {
  return Formula(Cell{.name = std::to_string(which), .line = which});
}

/// Which of several numbers a formula is made of. The others are not written down: the slope of a
/// difference is 1 whatever is subtracted, though that may be a mean over a thousand numbers.
class Use {
 public:
  explicit Use(const Formula& tried_out) {
    for (const Cell& cell : tried_out.cells({.longest_sum = std::string::npos}))
      used_.set(cell.line);
  }

  template <class Write>
  [[nodiscard]] Formula of(std::size_t which, Write write) const {
    return used_[which] ? write() : Formula(0.0);
  }

 private:
  std::bitset<4> used_ = {};
};

}  // namespace

std::string typed_as(std::string_view form, std::string_view name,
                     std::span<const std::string> parts) {
  if (form.empty()) {
    return fmt::format("{}({})", function_called(name), fmt::join(parts, ", "));
  }
  std::string text;
  for (const std::string& part : parts) {
    const std::size_t gap = form.find("{}");
    text += fmt::format("{}{}", form.substr(0, gap), part);
    form.remove_prefix(gap + 2);
  }
  return text + std::string(form);
}

std::string typed_number(double number) {
  return format_number(number, all_digits);
}

Formula UnaryOperation::element(const Cells& cells, const Index& at) const {
  return value(cells.input(0, at));
}

Formula UnaryOperation::reverse_element(const Cells& cells, std::size_t, const Index& at) const {
  const Use use(passed_on(stand_in(0), stand_in(1), stand_in(2)));
  return passed_on(cells.gradient(at), use.of(1, [&] { return cells.input(0, at); }),
                   use.of(2, [&] { return cells.result(at); }));
}

std::string UnaryOperation::symbols(const Symbols& symbols) const {
  if (symbols.are_typed) return typed(symbols.inputs[0]);
  return value(symbol(symbols.inputs[0])).text(number_by_number);
}

std::string UnaryOperation::reverse_symbols(const Symbols& symbols, std::size_t) const {
  return passed_on(arrived_at(symbols), symbol(symbols.inputs[0]), symbol(symbols.result))
      .text(number_by_number);
}

Shape BinaryOperation::shape(const Inputs& inputs) const {
  try {
    return broadcast(inputs.shape(0), inputs.shape(1));
  } catch (const ShapeError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("{}: {} and {} cannot be broadcast together", name(),
                               inputs.describe(0), inputs.describe(1));
    throw ShapeError(trouble);
  }
}

Formula BinaryOperation::element(const Cells& cells, const Index& at) const {
  return value(cells.input(0, before_broadcast(cells.shape(0), at)),
               cells.input(1, before_broadcast(cells.shape(1), at)));
}

Formula BinaryOperation::reverse_element(const Cells& cells, std::size_t input,
                                         const Index& at) const {
  const Use use(passed_on(input, stand_in(0), stand_in(1), stand_in(2), stand_in(3)));
  std::vector<Formula> terms;
  for (const Index& place : places_of_use(cells.shape(input), cells.result_shape(), at)) {
    const auto input_at = [&](std::size_t which) {
      return cells.input(which, before_broadcast(cells.shape(which), place));
    };
    terms.push_back(passed_on(input, cells.gradient(place), use.of(1, [&] { return input_at(0); }),
                              use.of(2, [&] { return input_at(1); }),
                              use.of(3, [&] { return cells.result(place); })));
  }
  return Formula::sum(std::move(terms));
}

std::string BinaryOperation::symbols(const Symbols& symbols) const {
  if (symbols.are_typed) return typed(symbols.inputs[0], symbols.inputs[1]);
  return value(symbol(symbols.inputs[0]), symbol(symbols.inputs[1])).text(number_by_number);
}

std::string BinaryOperation::reverse_symbols(const Symbols& symbols, std::size_t input) const {
  const Formula one_use = passed_on(input, arrived_at(symbols), symbol(symbols.inputs[0]),
                                    symbol(symbols.inputs[1]), symbol(symbols.result));
  return summed_over(symbols, input) + one_use.text(number_by_number);
}

}  // namespace lattice::elementwise
