#include "lattice/worksheet/operations/elementwise.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

/// The numbers of a tensor in symbols: its name, as a formula.
Formula symbol(const std::string& name) {
  return Formula(Cell{.name = name});
}

Formula arrived_at(const Symbols& symbols) {
  return symbol("∂" + symbols.result);
}

}  // namespace

Formula UnaryOperation::element(const Cells& cells, const Index& at) const {
  return value(cells.input(0, at));
}

Formula UnaryOperation::reverse_element(const Cells& cells, std::size_t, const Index& at) const {
  return passed_on(cells.arrived(at), cells.input(0, at), cells.result(at));
}

std::string UnaryOperation::symbols(const Symbols& symbols) const {
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
    trouble.what = fmt::format("{}: {} and {} do not fit number by number", name(),
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
  std::vector<Formula> uses;
  for (const Index& place : places_of_use(cells.shape(input), cells.result_shape(), at)) {
    uses.push_back(passed_on(
        input, cells.arrived(place), cells.input(0, before_broadcast(cells.shape(0), place)),
        cells.input(1, before_broadcast(cells.shape(1), place)), cells.result(place)));
  }
  return Formula::sum(std::move(uses));
}

std::string BinaryOperation::symbols(const Symbols& symbols) const {
  return value(symbol(symbols.inputs[0]), symbol(symbols.inputs[1])).text(number_by_number);
}

std::string BinaryOperation::reverse_symbols(const Symbols& symbols, std::size_t input) const {
  const Formula one_use = passed_on(input, arrived_at(symbols), symbol(symbols.inputs[0]),
                                    symbol(symbols.inputs[1]), symbol(symbols.result));
  return summed_over(symbols, input) + one_use.text(number_by_number);
}

}  // namespace lattice
