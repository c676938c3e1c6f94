#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "lattice/worksheet/local_derivative.hpp"
#include "support/every_operation.hpp"
#include "support/symbols.hpp"
#include "worksheet/explainer.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

using testing::Draw;
using testing::OperationCase;

// Sanitizers take their time, and look for faults that few shapes show as well as many.
#if defined(LATTICE_WATCHES_MEMORY)
constexpr std::uint64_t shapes_tried = 40;
#else
constexpr std::uint64_t shapes_tried = 200;
#endif

/// An operation worked on random inputs, and its result brought down to one number: the sum of its
/// numbers, each times a number of its own, so that a different gradient arrives at every place.
struct Trial {
  std::size_t learnt;
  Worksheet sheet;
  std::vector<Line> inputs;
  Line result;
  Line total;

  Trial(const OperationCase& operation, const std::vector<Tensor>& numbers)
      : learnt(std::min(operation.learnt, numbers.size())) {
    for (const Tensor& tensor : numbers) {
      const std::string name = "w" + std::to_string(inputs.size());
      inputs.push_back(inputs.size() < operation.learnt ? sheet.weight(name, tensor)
                                                        : sheet.given(name, tensor));
    }
    result = named("y", operation.apply(inputs));
    Random random(3);
    const Line factors = sheet.given(
        "factors", normal(result.shape(), 0.0, 1.0, random, result.value().precision()));
    total = named("total", sum(result * factors));
  }

  /// The inputs that get a gradient, those of them that the operation used.
  [[nodiscard]] std::span<const Line> weights() const { return std::span(inputs).first(learnt); }
};

/// As close as rounding allows, for numbers of ordinary size.
void expect_close(double a, double b, double tolerance, const std::string& where) {
  EXPECT_LE(std::abs(a - b), tolerance * std::max({1.0, std::abs(a), std::abs(b)})) << where;
}

class EveryOperation : public ::testing::TestWithParam<OperationCase> {
 protected:
  /// Calls `check(trial, numbers)` for operations on shapes and numbers drawn at random.
  template <class Check>
  void try_out(Precision precision, Check check) {
    for (std::uint64_t seed = 0; seed < shapes_tried; ++seed) {
      Draw draw(seed, precision);
      const std::vector<Tensor> numbers = GetParam().inputs(draw);
      Trial trial(GetParam(), numbers);
      check(trial, numbers);
      ASSERT_FALSE(HasFailure()) << "seed " << seed;
    }
  }
};

void expect_formulas_to_give_values(const Trial& trial, double tolerance) {
  const Shape& shape = trial.result.shape();
  for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
    const Explanation why = explain(trial.result, shape.index(offset));
    expect_close(why.formula.evaluate(), trial.result.value().at_offset(offset), tolerance,
                 why.text());
  }
}

void expect_formulas_to_give_gradients(const Trial& trial, double tolerance) {
  if (trial.learnt == 0) return;
  ReverseSweep sweep(trial.total);
  while (sweep.next()) {
  }
  for (const Line& input : trial.weights()) {
    for (std::int64_t offset = 0; offset < input.shape().count(); ++offset) {
      const Explanation why = explain_gradient(sweep, input, input.shape().index(offset));
      expect_close(why.formula.evaluate(), sweep.gradient(input).at_offset(offset), tolerance,
                   why.text());
    }
  }
}

TEST_P(EveryOperation, has_a_formula_that_gives_each_value) {
  try_out(Precision::double_,
          [](const Trial& trial, const auto&) { expect_formulas_to_give_values(trial, 1e-13); });
  try_out(Precision::single,
          [](const Trial& trial, const auto&) { expect_formulas_to_give_values(trial, 5e-6); });
}

TEST_P(EveryOperation, has_a_formula_that_gives_each_gradient) {
  try_out(Precision::double_,
          [](const Trial& trial, const auto&) { expect_formulas_to_give_gradients(trial, 1e-12); });
  try_out(Precision::single,
          [](const Trial& trial, const auto&) { expect_formulas_to_give_gradients(trial, 2e-5); });
}

/// What a formula is made of, without its numbers: which cells, and how they are joined.
std::string made_of(const Formula& formula) {
  using Kind = Formula::Kind;
  if (formula.kind() == Kind::cell) return to_string(formula.cell());
  if (formula.kind() == Kind::number) return fmt::format("{}", formula.evaluate());
  std::string text = fmt::format("({} {}", static_cast<int>(formula.kind()),
                                 formula.kind() == Kind::function ? formula.function_name() : "");
  if (formula.kind() == Kind::choice) {
    const Condition& condition = formula.condition();
    text += fmt::format(" {} {} {}", static_cast<int>(condition.relation), made_of(*condition.left),
                        made_of(*condition.right));
  }
  if (formula.kind() == Kind::pick) text += " " + made_of(formula.which());
  for (const Formula& part : formula.parts())
    text += " " + made_of(part);
  return text + ")";
}

/// The formulas for any numbers of every value and gradient.
std::vector<std::string> formulas_for_any(const Trial& trial) {
  std::optional<ReverseSweep> sweep;
  if (trial.learnt > 0) {
    sweep.emplace(trial.total);
    while (sweep->next()) {
    }
  }
  constexpr std::int64_t all = 1000;
  Explainer explainer(trial.result, sweep ? &*sweep : nullptr, all, Told::by_probabilities,
                      Holds::for_any);
  std::vector<std::string> formulas;
  for (const Line& line : trial.sheet.lines()) {
    for (std::int64_t offset = 0; offset < line.shape().count(); ++offset) {
      const Index at = line.shape().index(offset);
      if (line.kind() == Line::Kind::calculated)
        formulas.push_back(made_of(explainer.value(line, at).formula));
      if (sweep && sweep->has_reached(line))
        formulas.push_back(made_of(explainer.gradient(line, at).formula));
    }
  }
  return formulas;
}

/// Whether formulas refer to the numbers of a line, and none is written for them.
bool holds_for_any(const Trial& trial, const Line& of) {
  std::size_t uses = 0;
  for (const Line& line : trial.sheet.lines()) {
    const std::vector<Line> inputs = line.inputs();
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      if (inputs[input] != of) continue;
      if (!WorksheetRecord::entry(line).operation->holds_for_any(input)) return false;
      ++uses;
    }
  }
  return uses > 0;
}

TEST_P(EveryOperation, has_formulas_that_hold_for_any_numbers) {
  try_out(Precision::double_, [](const Trial& trial, const std::vector<Tensor>& numbers) {
    std::vector<Tensor> others = numbers;
    for (std::size_t input = 0; input < numbers.size(); ++input) {
      if (!holds_for_any(trial, trial.inputs[input])) continue;
      const std::int64_t count = numbers[input].count();
      for (std::int64_t offset = 0; offset < count; ++offset) {
        const double number = numbers[input].at_offset(count - 1 - offset);
        others[input].set(numbers[input].shape().index(offset), number);
      }
    }
    EXPECT_EQ(formulas_for_any(trial), formulas_for_any(Trial(GetParam(), others)));
  });
}

TEST_P(EveryOperation, has_formulas_for_its_local_derivatives) {
  try_out(Precision::double_, [](const Trial& trial, const auto&) {
    Explainer explainer(trial.result);
    const std::vector<Line> inputs = trial.result.inputs();
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      const std::optional<LocalDerivative> local = local_derivative(trial.result, input);
      const bool is_worked = local && local->kind == LocalDerivative::Kind::numbers;
      if (!is_worked || local->is_as_it_is) continue;
      for (std::int64_t offset = 0; offset < local->numbers.count(); ++offset) {
        const Index at = local->numbers.shape().index(offset);
        const Formula formula = explainer.local(trial.result, input, at);
        expect_close(formula.evaluate(), local->numbers.at_offset(offset), 1e-12, formula.text());
      }
    }
  });
}

TEST_P(EveryOperation, has_gradients_that_agree_with_central_differences) {
  constexpr double step = 1e-5;
  try_out(Precision::double_, [&](const Trial& trial, const std::vector<Tensor>& numbers) {
    if (trial.learnt == 0) return;
    const Gradients gradients = reverse_sweep(trial.total);
    for (std::size_t input = 0; input < trial.learnt; ++input) {
      const Tensor& gradient = gradients[trial.inputs[input]];
      ASSERT_EQ(gradient.shape(), numbers[input].shape());
      for (std::int64_t offset = 0; offset < gradient.count(); ++offset) {
        const Index at = gradient.shape().index(offset);
        const auto total_with = [&](double change) {
          std::vector<Tensor> changed = numbers;
          changed[input].set(at, numbers[input].at(at) + change);
          return Trial(GetParam(), changed).total.value().number();
        };
        const double difference = (total_with(step) - total_with(-step)) / (2 * step);
        expect_close(gradient.at(at), difference, 1e-6, trial.inputs[input].name() + to_string(at));
      }
    }
  });
}

TEST_P(EveryOperation, gives_the_same_gradients_at_once_and_step_by_step) {
  try_out(Precision::double_, [](const Trial& trial, const auto&) {
    if (trial.learnt == 0) return;
    const Gradients at_once = reverse_sweep(trial.total);
    ReverseSweep sweep(trial.total);
    while (sweep.next()) {
    }
    for (const Line& input : trial.weights())
      EXPECT_EQ(at_once[input], sweep.gradient(input));
  });
}

/// The same lines, with the same numbers to the last bit, and the same gradients.
void expect_same_lines(const Worksheet& again, const Line& result, const Trial& trial,
                       const std::string& text) {
  ASSERT_EQ(again.size(), trial.sheet.size()) << text;
  for (std::size_t number = 1; number <= again.size(); ++number) {
    const Line line = again.line(number);
    const Line there = trial.sheet.line(number);
    EXPECT_EQ(line.name(), there.name()) << text;
    EXPECT_EQ(line.kind(), there.kind()) << text;
    EXPECT_EQ(line.operation(), there.operation()) << text;
    EXPECT_EQ(line.symbols(), there.symbols()) << text;
    EXPECT_EQ(to_string(line.shape()), to_string(there.shape())) << text;
    EXPECT_EQ(line.value(), there.value()) << text;
  }
  if (trial.learnt == 0) return;
  const Gradients gradients = reverse_sweep(result);
  const Gradients expected = reverse_sweep(trial.total);
  ASSERT_EQ(gradients.size(), expected.size());
  for (const Line& input : trial.weights())
    EXPECT_EQ(gradients[input.name()], expected[input]) << text;
}

TEST_P(EveryOperation, is_read_back_from_a_sheet_as_it_was) {
  for (const Precision precision : {Precision::double_, Precision::single}) {
    try_out(precision, [](const Trial& trial, const auto&) {
      for (const Line& line : trial.sheet.lines()) {
        if (!line.nature().is_own) continue;
        EXPECT_THROW(static_cast<void>(sheet_text(trial.sheet, trial.total)), SettingError);
        return;
      }
      const std::string text = sheet_text(trial.sheet, trial.total);
      const ReadSheet read = read_sheet(text);
      expect_same_lines(read.sheet, read.result, trial, text);
      EXPECT_EQ(sheet_text(read.sheet, read.result), text);
    });
  }
}

/// Every calculated line as it is shown, below the data and weights.
std::string as_shown(const Trial& trial) {
  Worksheet leaves;
  std::string text;
  Line last;
  for (const Line& line : trial.sheet.lines()) {
    if (line.kind() == Line::Kind::calculated) {
      text += fmt::format("{} = {}\n", line.name(), line.symbols());
    } else {
      last = line.kind() == Line::Kind::given ? leaves.given(line.name(), line.value())
                                              : leaves.weight(line.name(), line.value());
    }
  }
  return sheet_text(leaves, last) + "\n" + text;
}

TEST_P(EveryOperation, can_be_typed_as_it_is_shown) {
  try_out(Precision::double_, [](const Trial& trial, const auto&) {
    const bool is_own = std::ranges::any_of(trial.sheet.lines(),
                                            [](const Line& line) { return line.nature().is_own; });
    if (is_own) return;
    const std::string text = as_shown(trial);
    const ReadSheet read = read_sheet(text);
    // Written out, a calculation may be rounded otherwise.
    const Agreement same = agreement(read.result.value(), trial.total.value(), 1e-8);
    EXPECT_TRUE(same.agrees) << text << same.text();
  });
}

TEST_P(EveryOperation, is_worked_again_on_another_worksheet) {
  try_out(Precision::double_, [](const Trial& trial, const auto&) {
    const Worksheet again =
        worked_again(trial.sheet, [](const Line& line) { return line.value(); });
    expect_same_lines(again, again.line(trial.total.number()), trial, "worked again");
  });
}

/// Some numbers, most of them 0.
Tensor thinned(const Tensor& numbers) {
  Tensor thin = numbers;
  for (std::int64_t offset = 0; offset < thin.count(); ++offset) {
    if (offset % 3 != 1) thin.set(thin.shape().index(offset), 0.0);
  }
  return thin;
}

/// The same numbers in a sparse matrix.
Tensor sparse_of(const Tensor& matrix) {
  return sparse_matrix(matrix.shape(), entries_of(matrix), matrix.precision());
}

/// Lines with the numbers of a tensor that come of sparse matrices in each way there is.
std::vector<std::function<Line(Worksheet&)>> sparse_lines_of(const Tensor& x) {
  std::vector<std::function<Line(Worksheet&)>> ways;
  const auto given = [](Worksheet& sheet, const Tensor& value) {
    return sheet.weight("sparse" + std::to_string(sheet.size()), value);
  };
  ways.emplace_back([=](Worksheet& sheet) {
    return given(sheet, sparse_of(x.reshaped({1, x.count()})).reshaped(x.shape()));
  });
  ways.emplace_back([=](Worksheet& sheet) {
    return reshape(given(sheet, sparse_of(x.reshaped({x.count(), 1}))), x.shape());
  });
  if (x.shape().rank() != 2) return ways;
  const std::int64_t rows = x.shape()[0];
  const std::int64_t columns = x.shape()[1];
  ways.emplace_back([=](Worksheet& sheet) { return given(sheet, sparse_of(x)); });
  ways.emplace_back([=](Worksheet& sheet) {
    return given(sheet, sparse_of(x.reshaped({columns, rows})).reshaped(x.shape()));
  });
  ways.emplace_back(
      [=](Worksheet& sheet) { return transpose(given(sheet, sparse_of(transpose(x)))); });
  ways.emplace_back([=](Worksheet& sheet) {
    const Tensor more = join({x, ones({1, columns}, x.precision())}, 0);
    return slice(given(sheet, sparse_of(more)), 0, {0, rows});
  });
  ways.emplace_back([=](Worksheet& sheet) {
    if (columns == 1) return given(sheet, sparse_of(x));
    const std::vector<Line> parts = {given(sheet, sparse_of(slice(x, 1, {0, 1}))),
                                     given(sheet, sparse_of(slice(x, 1, {1, columns})))};
    return join(parts, 1);
  });
  return ways;
}

void expect_alike(const Tensor& a, const Tensor& b, const std::string& where) {
  ASSERT_EQ(a.shape(), b.shape()) << where;
  for (std::int64_t offset = 0; offset < a.count(); ++offset) {
    const double number = a.at_offset(offset);
    const double other = b.at_offset(offset);
    if (number == other || (std::isnan(number) && std::isnan(other))) continue;
    expect_close(number, other, 1e-12, where);
  }
}

TEST_P(EveryOperation, gives_the_same_of_a_sparse_line_however_it_was_made) {
  for (std::uint64_t seed = 0; seed < 20; ++seed) {
    Draw draw(seed, Precision::double_);
    std::vector<Tensor> numbers = GetParam().inputs(draw);
    for (std::size_t input = 0; input < std::min(numbers.size(), GetParam().learnt); ++input) {
      const Tensor whole = std::exchange(numbers[input], thinned(numbers[input]));
      std::string refused;
      std::optional<Tensor> written_out;
      std::optional<Tensor> gradient;
      const auto work = [&](const std::function<Line(Worksheet&)>& made) {
        Worksheet sheet;
        std::vector<Line> lines;
        for (std::size_t at = 0; at < numbers.size(); ++at) {
          const std::string name = "w" + std::to_string(at);
          lines.push_back(at == input ? made(sheet) : sheet.given(name, numbers[at]));
        }
        const Line result = GetParam().apply(lines);
        Random random(3);
        const Tensor factors = normal(result.shape(), 0.0, 1.0, random);
        ReverseSweep sweep(sum(result * sheet.given("factors", factors)));
        while (sweep.next()) {
        }
        return std::pair(result.value(), sweep.gradient(lines[input]));
      };
      try {
        std::tie(written_out, gradient) =
            work([&](Worksheet& sheet) { return sheet.weight("w", numbers[input]); });
      } catch (const Error& error) {
        refused = error.trouble().what;
      }
      const auto ways = sparse_lines_of(numbers[input]);
      for (std::size_t way = 0; way < ways.size(); ++way) {
        const std::string where = "seed " + std::to_string(seed) + ", input " +
                                  std::to_string(input) + ", way " + std::to_string(way);
        if (!refused.empty()) {
          EXPECT_THROW(work(ways[way]), Error) << where;
          continue;
        }
        const auto [value, of_sparse] = work(ways[way]);
        expect_alike(value, *written_out, where);
        expect_alike(of_sparse, *gradient, where + ", gradient");
      }
      numbers[input] = whole;
      ASSERT_FALSE(HasFailure());
    }
  }
}

/// What the names in the symbols of a result stand for.
std::map<std::string, Tensor> names_of(const Trial& trial, const ReverseSweep& sweep) {
  std::map<std::string, Tensor> names;
  for (const Line& line : trial.sheet.lines())
    names[line.name()] = line.value();
  names["y"] = trial.result.value();
  names["∂y"] = sweep.gradient(trial.result);
  const std::vector<Line> inputs = trial.result.inputs();
  names["…"] = tensor(0.5);
  if (trial.result.symbols().starts_with("normalised(")) {
    // What is normalised is what the result was before it was scaled and shifted.
    names["variance"] = inputs[2].value();
    names["n"] = (trial.result.value() - inputs[4].value()) / inputs[3].value();
    names["normalised()"] = names["n"];
  }
  if (trial.result.symbols().find(" at ") != std::string::npos && inputs.size() > 1 &&
      inputs[0].shape().rank() == 2) {
    const Shape& scores = inputs[0].shape();
    const int classes = 1 - axis_of_examples(scores);
    const Tensor rows = one_hot(inputs[1].value(), scores[classes]);
    names["one_hot()"] = classes == 1 ? rows : transpose(rows);
  }
  return names;
}

TEST_P(EveryOperation, writes_gradients_in_symbols_that_give_them) {
  // Numbers of other shapes, whose axes symbols do not name.
  if (GetParam().name.starts_with("log-sum-exp") || GetParam().name.starts_with("variance")) return;
  int read = 0;
  for (std::uint64_t seed = 0; seed < 60; ++seed) {
    Draw draw(seed, Precision::double_);
    const Trial trial(GetParam(), GetParam().inputs(draw));
    if (trial.learnt == 0) return;
    ReverseSweep sweep(trial.total);
    while (sweep.next()) {
    }
    const std::vector<Line> inputs = trial.result.inputs();
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      // Of a line that is used twice each use gives a part of its gradient.
      const bool is_weight = inputs[input].kind() == Line::Kind::weight;
      if (!is_weight || std::ranges::count(inputs, inputs[input]) > 1) continue;
      const bool is_used_before = std::ranges::any_of(trial.sheet.lines(), [&](const Line& line) {
        const std::vector<Line> uses = line.inputs();
        return line != trial.result && std::ranges::find(uses, inputs[input]) != uses.end();
      });
      if (is_used_before && trial.result.symbols().find("normalised") == std::string::npos)
        continue;
      const std::string symbols = trial.result.reverse_symbols(input);
      const std::optional<Tensor> gradient =
          testing::SymbolReader(names_of(trial, sweep), inputs[input].shape()).read(symbols);
      if (!gradient) continue;
      ++read;
      const Tensor swept = sweep.gradient(inputs[input]);
      for (std::int64_t offset = 0; offset < swept.count(); ++offset) {
        expect_close(gradient->at_offset(offset), swept.at_offset(offset), 1e-9,
                     GetParam().name + ": ∂" + inputs[input].name() + " = " + symbols);
      }
      ASSERT_FALSE(HasFailure()) << "seed " << seed << ", " << to_string(trial.result.shape());
    }
  }
  // What is arithmetic is read as such, and what words say is in none.
  const std::string& name = GetParam().name;
  const bool says_it_in_words = std::ranges::any_of(
      std::vector<std::string>{"own",
                               "sum",
                               "mean along",
                               "mean",
                               "max",
                               "min",
                               "softplus",
                               "with loops",
                               "scale both",
                               "reshape",
                               "flatten",
                               "permute",
                               "slice",
                               "join",
                               "pad",
                               "repeat",
                               "at class",
                               "gather",
                               "convolution",
                               "augmented",
                               "written out",
                               "naive",
                               "power of tensors",
                               "sparse"},
      [&](const std::string& word) {
        return name.starts_with(word) || name.find(" " + word) != std::string::npos;
      });
  EXPECT_TRUE(read > 0 || says_it_in_words) << name;
}

/// Whether what is passed on is what arrives, times a matrix on one side or the other.
bool is_product_with(const Tensor& matrix, const Tensor& arrived, const Tensor& passed_on) {
  const auto is_it = [&](const Tensor& a, const Tensor& b) {
    if (a.shape()[1] != b.shape()[0]) return false;
    const Tensor product = matmul(a, b);
    return product.shape() == passed_on.shape() && distance(product, passed_on).largest < 1e-12;
  };
  return is_it(arrived, matrix) || is_it(matrix, arrived) || is_it(transpose(arrived), matrix) ||
         is_it(matrix, transpose(arrived));
}

/// What arrives times a number of its own at each place, added up over what was stretched.
Tensor times_each(const Tensor& arrived, const Tensor& numbers, const Shape& input) {
  Tensor passed_on = zeros(input);
  for (std::int64_t offset = 0; offset < arrived.count(); ++offset) {
    const Index at = before_broadcast(input, arrived.shape().index(offset));
    passed_on.set(at, passed_on.at(at) + arrived.at_offset(offset) * numbers.at_offset(offset));
  }
  return passed_on;
}

/// Whether the first row along some axis of what is passed on is that of what arrives, times a
/// matrix.
bool is_first_row_times(const Tensor& matrix, const Tensor& arrived, const Tensor& passed_on) {
  const Shape& shape = arrived.shape();
  const std::int64_t count = matrix.shape()[0];
  for (int axis = 0; axis < shape.rank(); ++axis) {
    bool fits = shape[axis] == count;
    for (std::int64_t to = 0; fits && to < count; ++to) {
      double sum = 0.0;
      Index at = Index::zeros(shape.rank());
      for (std::int64_t from = 0; from < count; ++from) {
        at[axis] = from;
        sum += arrived.at(at) * matrix(from, to);
      }
      at[axis] = to;
      fits = std::abs(sum - passed_on.at(at)) <= 1e-12;
    }
    if (fits) return true;
  }
  return false;
}

/// Whether what arrives is passed on as it is, to other places, or added up.
bool takes_numbers_elsewhere(const Line& line) {
  const std::set<std::string_view> words = {"reshape",     "flatten", "permute",    "transpose",
                                            "slice",       "join",    "pad",        "repeat",
                                            "gather_rows", "dense",   "convolution"};
  return words.contains(line.operation());
}

TEST_P(EveryOperation, passes_on_what_arrives_by_its_local_derivative) {
  try_out(Precision::double_, [](const Trial& trial, const auto&) {
    if (trial.learnt == 0 || trial.result.kind() != Line::Kind::calculated) return;
    const std::vector<Line> inputs = trial.result.inputs();
    ReverseSweep sweep(trial.total);
    while (sweep.next()) {
      const ReverseStep& step = sweep.step();
      if (step.line != trial.result) continue;
      const std::vector<double> arrived = step.gradient.numbers();
      for (const ReverseStep::PassedOn& passed : step.passed_on) {
        const std::optional<LocalDerivative> local = local_derivative(step.line, passed.input);
        if (!local) continue;
        const std::string where = fmt::format("{} to {}", step.line, passed.to.name());
        if (local->kind == LocalDerivative::Kind::matrix) {
          EXPECT_TRUE(is_product_with(local->numbers, step.gradient, passed.contribution)) << where;
        } else if (local->kind == LocalDerivative::Kind::window) {
          EXPECT_TRUE(std::ranges::find(inputs, local->factor) != inputs.end()) << where;
        } else if (local->kind == LocalDerivative::Kind::across) {
          EXPECT_TRUE(is_first_row_times(local->numbers, step.gradient, passed.contribution))
              << where;
        } else if (takes_numbers_elsewhere(step.line)) {
          EXPECT_EQ(local->everywhere, 1.0) << where;
        } else if (local->numbers.shape() == step.line.shape()) {
          const Tensor product = times_each(step.gradient, local->numbers, passed.to.shape());
          EXPECT_LE(distance(product, passed.contribution).largest, 1e-11) << where;
        } else {
          // Each number of the input gets one that arrives, from wherever it went.
          for (std::int64_t at = 0; at < passed.contribution.count(); ++at) {
            const double got = passed.contribution.at_offset(at);
            EXPECT_TRUE(got == 0.0 ||
                        std::ranges::any_of(
                            arrived,
                            [&](double gradient) {
                              return std::abs(gradient * local->numbers.at_offset(at) - got) <=
                                     1e-12 * std::max(1.0, std::abs(got));
                            }))
                << where;
          }
        }
      }
    }
  });
}

TEST_P(EveryOperation, writes_itself_in_symbols) {
  Draw draw(1, Precision::double_);
  const Trial trial(GetParam(), GetParam().inputs(draw));
  EXPECT_NE(trial.result.symbols().find(trial.result.inputs()[0].name()), std::string::npos);
  for (std::size_t input = 0; input < trial.result.inputs().size(); ++input) {
    if (!trial.result.inputs()[input].is_swept()) continue;
    EXPECT_NE(trial.result.reverse_symbols(input).find("∂y"), std::string::npos);
  }
}

/// What a line passes on to each of its inputs, with or without what its operation kept aside.
std::vector<Tensor> passed_on(const Trial& trial, const Line& line, bool with_aside) {
  const WorksheetRecord::Entry& entry = WorksheetRecord::entry(line);
  std::vector<Line> from = line.inputs();
  std::vector<const Tensor*> numbers;
  for (const Line& input : from)
    numbers.push_back(&input.value());
  const Inputs inputs(numbers);
  Random random(static_cast<std::uint64_t>(trial.sheet.size()));
  const Tensor gradient = normal(line.shape(), 0, 1, random, line.value().precision());
  const BackwardStep step{.inputs = inputs,
                          .result = line.value(),
                          .gradient = gradient,
                          .aside = with_aside ? entry.aside : BackwardStep::nothing};
  std::vector<Tensor> passed;
  for (std::size_t input = 0; input < from.size(); ++input) {
    if (entry.passes_to.test(input)) passed.push_back(entry.operation->reverse(step, input));
  }
  return passed;
}

TEST_P(EveryOperation, passes_on_the_same_without_what_it_kept_aside) {
  for (const Precision precision : {Precision::double_, Precision::single}) {
    try_out(precision, [](const Trial& trial, const auto&) {
      for (const Line& line : trial.sheet.lines()) {
        if (line.kind() != Line::Kind::calculated) continue;
        EXPECT_EQ(passed_on(trial, line, true), passed_on(trial, line, false)) << line.name();
      }
    });
  }
}

INSTANTIATE_TEST_SUITE_P(engine, EveryOperation, ::testing::ValuesIn(testing::LATTICE_OPERATIONS()),
                         [](const auto& each) {
                           std::string name = each.param.name;
                           std::erase_if(
                               name, [](char letter) { return letter == ',' || letter == '-'; });
                           std::ranges::replace(name, ' ', '_');
                           return name;
                         });

}  // namespace
}  // namespace lattice
