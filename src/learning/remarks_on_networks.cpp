#include "lattice/learning/remarks.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/data/row_kind.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/explain.hpp"

namespace lattice {
namespace {

/// True when all places along an axis of a matrix hold the same numbers, as far as place `count`.
bool are_alike(const Tensor& matrix, int axis, std::int64_t count) {
  const std::int64_t others = matrix.shape()[1 - axis];
  for (std::int64_t place = 1; place < count; ++place) {
    for (std::int64_t other = 0; other < others; ++other) {
      const auto number = [&](std::int64_t of) {
        return matrix.at(axis == 0 ? Index{of, other} : Index{other, of});
      };
      if (number(place) != number(0)) return false;
    }
  }
  return true;
}

/// How many units a layer has; 0 for one without.
std::int64_t units_of(const Network& network, std::size_t layer) {
  return network.layers()[layer].nature().units.value_or(0);
}

/// True when nothing tells the units of a layer apart: neither what goes in nor what goes out,
/// through layers that do the same to each.
bool start_alike(const Network& network, std::size_t layer, std::int64_t units) {
  const std::vector<Plan::Row>& rows = network.plan().rows;
  const auto weight = [&](std::size_t at) -> const Tensor& {
    return network[rows[at].needs[0].name];
  };
  if (!are_alike(weight(layer), 1, units)) return false;
  if (rows[layer].needs.size() > 1) {
    const std::vector<double> biases = network[rows[layer].needs[1].name].numbers();
    if (std::ranges::adjacent_find(biases, std::not_equal_to()) != biases.end()) return false;
  }
  for (std::size_t next = layer + 1; next < rows.size(); ++next) {
    if (units_of(network, next) > 0) return are_alike(weight(next), 0, units);
    if (!network.layers()[next].nature().treats_all_alike) return false;
  }
  return false;
}

/// What a line adds to each number of another, where its precision rounds that to 0; else 0.
double lost_epsilon(const Line& line) {
  const bool adds = line.kind() == Line::Kind::calculated && line.inputs().size() == 1;
  if (!adds) return 0.0;
  const Formula formula = explain(line, Index::zeros(line.shape().rank())).formula;
  if (formula.kind() != Formula::Kind::sum) return 0.0;
  for (const Formula& part : formula.parts()) {
    if (part.kind() != Formula::Kind::number) continue;
    const double number = part.evaluate();
    if (number != 0.0 && part.evaluate(line.value().precision()) == 0.0) return number;
  }
  return 0.0;
}

/// True for a line in which a column [n × 1] met a list [n], the wrong way round for both.
bool is_square_of_lists(const Line& line, const std::vector<Line>& inputs) {
  if (inputs.size() != 2 || line.shape().rank() != 2) return false;
  const auto is_column_and_list = [&](const Shape& column, const Shape& list) {
    return column.rank() == 2 && column[1] == 1 && list.rank() == 1 && list[0] == column[0] &&
           list[0] > 1 && line.shape()[0] == list[0] && line.shape()[1] == list[0];
  };
  return is_column_and_list(inputs[0].shape(), inputs[1].shape()) ||
         is_column_and_list(inputs[1].shape(), inputs[0].shape());
}

/// True for a product number by number of two matrices, broadcast to numbers that a matrix product
/// would not give, although there is one.
bool is_broadcast_product(const Line& line, const std::vector<Line>& inputs) {
  if (!line.nature().multiplies_numbers || inputs.size() != 2) return false;
  const Shape& first = inputs[0].shape();
  const Shape& second = inputs[1].shape();
  if (first.rank() != 2 || second.rank() != 2 || first == second) return false;
  const bool is_outer_product = first[1] == 1 && second[0] == 1;
  const bool has_matrix_product = first[1] == second[0];
  const bool both_change = first != line.shape() && second != line.shape();
  return has_matrix_product && !is_outer_product &&
         (both_change || inputs[1].kind() == Line::Kind::weight);
}

}  // namespace

std::vector<Remark> remarks_on(const Network& network) {
  std::vector<Remark> remarks;
  const std::vector<Plan::Row>& rows = network.plan().rows;
  for (std::size_t at = 0; at < rows.size(); ++at) {
    const std::int64_t units = units_of(network, at);
    if (units < 2 || !start_alike(network, at, units)) continue;
    remarks.push_back(
        {.code = "zero-start",
         .text = fmt::format("the {} units of {} start with identical incoming and outgoing "
                             "weights: their gradients are equal, so they never differ",
                             units, rows[at].name),
         .remedy = "draw one of the two at random, such as xavier or he"});
  }
  return remarks;
}

std::vector<Remark> remarks_on(const Network& network, const RowSet& rows) {
  const auto connections = std::ranges::find_if(rows.data().side, &SideInput::between_rows);
  const RowKind& kind = kind_of(rows.data());
  if (connections == rows.data().side.end() || kind.connections_unused == nullptr) return {};
  Worksheet sheet;
  static_cast<void>(network.forward(sheet, write_given(sheet, rows.from(0, 1)).x));
  const Line given = sheet.find(connections->name).value();
  for (const Line& line : sheet.lines()) {
    const std::vector<Line> inputs = line.inputs();
    if (std::ranges::find(inputs, given) != inputs.end()) return {};
  }
  return {kind.connections_unused(network.blueprint())};
}

std::vector<Remark> remarks_on(const Worksheet& sheet) {
  std::vector<Remark> remarks;
  for (const Line& line : sheet.lines()) {
    const std::vector<Line> inputs = line.inputs();
    if (inputs.empty()) continue;
    if (const double epsilon = line.nature().has_no_value_at_zero ? lost_epsilon(inputs[0]) : 0.0;
        epsilon != 0.0) {
      remarks.push_back(
          {.code = "epsilon-lost",
           .text = fmt::format(
               "line {} adds {} in front of a log, but {} precision has no number so "
               "near to 0: it adds nothing, and the log meets 0 as before",
               inputs[0].number(), format_number(epsilon), word(inputs[0].value().precision())),
           .remedy = "a larger number, such as 1e-12, or a loss that takes scores",
           .advice = {"log_epsilon", "1e-12"}});
    }
    if (is_square_of_lists(line, inputs)) {
      remarks.push_back(
          {.code = "square",
           .text = fmt::format("line {}, {}, combines {} {} with {} {}: both are broadcast to {}, "
                               "every row of one with every row of the other",
                               line.number(), line.operation(), inputs[0].name(),
                               to_string(inputs[0].shape()), inputs[1].name(),
                               to_string(inputs[1].shape()), to_string(line.shape())),
           .remedy = "give both the same shape: reshape(…) the list to a column"});
    }
    if (is_broadcast_product(line, inputs)) {
      remarks.push_back(
          {.code = "number-by-number",
           .text = fmt::format("line {} multiplies {} {} and {} {} number by number, broadcast to "
                               "{}; the matrix product {}·{} is [{} × {}]",
                               line.number(), inputs[0].name(), to_string(inputs[0].shape()),
                               inputs[1].name(), to_string(inputs[1].shape()),
                               to_string(line.shape()), inputs[0].name(), inputs[1].name(),
                               inputs[0].shape()[0], inputs[1].shape()[1]),
           .remedy = "matmul(…) for the matrix product; in a sheet the sign ·, not ×"});
    }
    if (!inputs[0].nature().makes_probabilities) continue;
    if (line.nature().takes_scores) {
      remarks.push_back(
          {.code = "softmax-twice",
           .text = fmt::format("{} (line {}) takes scores, but gets {}, which {} has been through "
                               "already",
                               line.operation(), line.number(), inputs[0].name(),
                               inputs[0].operation()),
           .remedy = "give it the scores in front of that"});
    } else if (line.nature().has_no_value_at_zero) {
      remarks.push_back(
          {.code = "naive-log",
           .text = fmt::format("line {} takes the log of {}, which is rounded to 0 for "
                               "large scores: the log is then −∞",
                               line.number(), inputs[0].operation()),
           .remedy = "log-softmax, or a loss that takes scores"});
    }
  }
  return remarks;
}

}  // namespace lattice
