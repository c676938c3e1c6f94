#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "support/every_operation.hpp"
#include "support/symbols.hpp"

namespace lattice {
namespace {

using testing::Draw;
using testing::every_operation;
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
                               "moved",
                               "written out",
                               "careless",
                               "power of tensors",
                               "sparse"},
      [&](const std::string& word) {
        return name.starts_with(word) || name.find(" " + word) != std::string::npos;
      });
  EXPECT_TRUE(read > 0 || says_it_in_words) << name;
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

INSTANTIATE_TEST_SUITE_P(contributing, EveryOperation,
                         ::testing::ValuesIn(testing::cases_of_contributing()),
                         [](const auto& each) { return each.param.name; });

INSTANTIATE_TEST_SUITE_P(engine, EveryOperation, ::testing::ValuesIn(every_operation()),
                         [](const auto& each) {
                           std::string name = each.param.name;
                           std::erase_if(
                               name, [](char letter) { return letter == ',' || letter == '-'; });
                           std::ranges::replace(name, ' ', '_');
                           return name;
                         });

TEST(operations, stretch_every_pair_of_ranks) {
  for (int rank_a = 0; rank_a <= max_rank; ++rank_a) {
    for (int rank_b = 0; rank_b <= max_rank; ++rank_b) {
      const std::vector<std::int64_t> extents{2, 3, 1, 2, 1, 3};
      const Shape a(std::span<const std::int64_t>(extents).last(static_cast<std::size_t>(rank_a)));
      const Shape b(std::span<const std::int64_t>(extents).last(static_cast<std::size_t>(rank_b)));
      Random random(1);
      const Tensor x = normal(a, 0.0, 1.0, random);
      const Tensor y = normal(b, 0.0, 1.0, random);
      const Tensor total = x + y;
      for (std::int64_t offset = 0; offset < total.count(); ++offset) {
        const Index at = total.shape().index(offset);
        EXPECT_EQ(total.at(at), x.at(before_broadcast(a, at)) + y.at(before_broadcast(b, at)));
      }
    }
  }
}

TEST(operations, have_gradients_for_every_pair_of_ranks) {
  for (int rank_a = 0; rank_a <= max_rank; ++rank_a) {
    for (int rank_b = 0; rank_b <= max_rank; ++rank_b) {
      const std::vector<std::int64_t> of_a{2, 1, 1, 2, 3, 2};
      const std::vector<std::int64_t> of_b{1, 2, 1, 2, 1, 2};
      Random random(8);
      const auto draw = [&](const std::vector<std::int64_t>& extents, int rank) {
        const std::span<const std::int64_t> last(extents);
        return normal(Shape(last.last(static_cast<std::size_t>(rank))), 0.0, 1.0, random);
      };
      Worksheet sheet;
      const Line a = sheet.weight("a", draw(of_a, rank_a));
      const Line b = sheet.weight("b", draw(of_b, rank_b));
      const Line product = named("product", a * tanh(a + b));
      const Line total = sum(product * sheet.given("factors", draw(of_a, 6) * draw(of_b, 6)));
      EXPECT_TRUE(check_gradients(total, {.most = 6}).agrees()) << rank_a << " and " << rank_b;
      const Index at = Index::zeros(product.shape().rank());
      EXPECT_NEAR(explain(product, at).formula.evaluate(), product.value().at(at), 1e-13);
    }
  }
}

/// A small network as one function of lines, or of tensors.
template <Operand X>
X small_network(const X& x, const X& W, const X& b, const X& classes) {
  const X h = leaky_relu(dense(x, W, b), 0.1) + 0.1 * softplus(max(x, {.axes = {1}, .keep = true}));
  return cross_entropy(log_softmax(h) - variance(h, {.axes = {1}, .keep = true}), classes);
}

TEST(operations, give_tensors_the_bits_that_they_give_lines) {
  Random random(6);
  const Tensor x = normal({5, 3}, 0, 1, random);
  const Tensor W = normal({3, 4}, 0, 1, random);
  const Tensor b = normal({4}, 0, 1, random);
  const Tensor classes = tensor({0, 1, 2, 3, 0});
  Worksheet sheet;
  const Line written = small_network(sheet.given("x", x), sheet.weight("W", W),
                                     sheet.frozen("b", b), sheet.given("classes", classes));
  EXPECT_EQ(small_network(x, W, b, classes), written.value());
}

TEST(operations, give_a_number_the_same_bits_wherever_it_stands) {
  Random random(5);
  const Tensor many = normal({37}, 0.0, 3.0, random);
  const Tensor squashed = sigmoid(many);
  const Tensor bent = tanh(many);
  for (std::int64_t i = 0; i < many.count(); ++i) {
    const Tensor one = tensor(many.at({i}));
    EXPECT_EQ(sigmoid(one).number(), squashed.at({i}));
    EXPECT_EQ(tanh(one).number(), bent.at({i}));
  }
}

TEST(operations, that_are_fused_give_the_bits_of_those_that_are_not) {
  for (std::uint64_t seed = 0; seed < 50; ++seed) {
    Draw draw(seed, Precision::double_);
    const std::vector<Tensor> factors = testing::two_factors(draw);
    const Tensor bias = draw.numbers({factors[1].shape()[1]});
    const Tensor targets = draw.numbers({factors[0].shape()[0], factors[1].shape()[1]});
    const auto work = [&](bool fused) {
      Worksheet sheet;
      const Line x = sheet.weight("x", factors[0]);
      const Line W = sheet.weight("W", factors[1]);
      const Line b = sheet.weight("b", bias);
      const Line y = sheet.given("y", targets);
      const Line cost =
          fused ? half_mean_squared(dense(x, W, b), y) : 0.5 * mean(square(matmul(x, W) + b - y));
      const Gradients gradients = reverse_sweep(cost);
      return std::vector<Tensor>{cost.value(), gradients[x], gradients[W], gradients[b]};
    };
    EXPECT_EQ(work(true), work(false)) << "seed " << seed;
  }
}

TEST(operations, refuse_shapes_that_do_not_fit_and_say_which_lines_they_are) {
  Worksheet sheet;
  const Line x = sheet.given("x", zeros({16, 3}).with({Role::example, Role::feature}));
  const Line W = sheet.weight("W", zeros({2, 5}));
  try {
    static_cast<void>(matmul(x, W));
    FAIL();
  } catch (const ShapeError& error) {
    EXPECT_EQ(error.trouble().what,
              "matmul: x [example 16 × feature 3] · W [feature 2 × unit 5]: x has 3 features, W "
              "expects 2");
    EXPECT_EQ(error.trouble().where, "axis 1 of x, axis 0 of W");
    EXPECT_EQ(error.trouble().expected, "as many columns on the left as rows on the right");
    EXPECT_EQ(error.trouble().remedy, "was a column left out of the features?");
  }
  EXPECT_THROW(static_cast<void>(x + sheet.given("odd", zeros({4}))), ShapeError);
  EXPECT_THROW(static_cast<void>(half_mean_squared(x, sheet.given("flat", zeros({16})))),
               ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {2}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {-3}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {99}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {0, 0}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {1, -1}})), ShapeError);
  EXPECT_THROW(static_cast<void>(transpose(zeros({3}))), ShapeError);
  EXPECT_THROW(static_cast<void>(dense(zeros({2, 3}), zeros({3, 4}), zeros({3}))), ShapeError);
}

TEST(operations, refuse_two_precisions_at_once) {
  const Tensor a = ones({2});
  const Tensor b = ones({2}, Precision::single);
  EXPECT_THROW(static_cast<void>(a + b), NumberError);
  EXPECT_EQ((a.in(Precision::single) + b).numbers(), (std::vector<double>{2, 2}));
  EXPECT_THROW(static_cast<void>(a + Tensor()), NumberError);
}

TEST(operations, mean_what_their_names_say) {
  const Tensor x = tensor({-2.0, 0.0, 3.0});
  EXPECT_EQ(relu(x).numbers(), (std::vector<double>{0, 0, 3}));
  EXPECT_EQ(leaky_relu(x, 0.5).numbers(), (std::vector<double>{-1, 0, 3}));
  EXPECT_NEAR(elu(x).at({0}), std::exp(-2.0) - 1, 1e-16);
  EXPECT_EQ(softplus(x).at({1}), std::log(2.0));
  EXPECT_EQ(clip(x, -1, 2).numbers(), (std::vector<double>{-1, 0, 2}));
  EXPECT_EQ(abs(x).numbers(), (std::vector<double>{2, 0, 3}));
  EXPECT_EQ(power(x, 3).numbers(), (std::vector<double>{-8, 0, 27}));
  EXPECT_EQ(maximum(x, 1).numbers(), (std::vector<double>{1, 1, 3}));
  EXPECT_EQ(minimum(x, tensor({-3, 1, 1})).numbers(), (std::vector<double>{-3, 0, 1}));
  EXPECT_EQ(above(x, 0).numbers(), (std::vector<double>{0, 0, 1}));
  EXPECT_EQ(below(x, 0).numbers(), (std::vector<double>{1, 0, 0}));
  EXPECT_EQ(at_least(x, 0).numbers(), (std::vector<double>{0, 1, 1}));
  EXPECT_EQ(at_most(x, 0).numbers(), (std::vector<double>{1, 1, 0}));
  EXPECT_EQ(equal(x, 3).numbers(), (std::vector<double>{0, 0, 1}));
  EXPECT_EQ(variance(x).number(), 38.0 / 9.0);
  EXPECT_EQ(max(x).number(), 3);
  EXPECT_EQ(min(x).number(), -2);
  EXPECT_TRUE(std::isnan(min(tensor({1, NAN, 3})).number()));
  EXPECT_TRUE(std::isnan(min(tensor({NAN, 1})).number()));
  EXPECT_EQ(power(2, x).numbers(), (std::vector<double>{0.25, 1, 8}));
  EXPECT_EQ(power(x, tensor({3, 0, -1})).at({0}), -8.0);
  EXPECT_EQ(sum(tensor({{1, 2}, {3, 4}}), {.axes = {-2}}).numbers(), (std::vector<double>{4, 6}));
  EXPECT_EQ(slice(tensor({{1, 2}, {3, 4}}), -1, {.from = 1}).numbers(),
            (std::vector<double>{2, 4}));
  EXPECT_EQ(join({x, x}, -1).shape(), Shape{6});
  EXPECT_EQ(permute(zeros({2, 3, 4}), {-1, 0, -2}).shape(), (Shape{4, 2, 3}));
  EXPECT_EQ(pad(x, -1, {.before = 1}).numbers(), (std::vector<double>{0, -2, 0, 3}));
  EXPECT_EQ(repeat(x, -1, 2).shape(), Shape{6});
  EXPECT_THROW(static_cast<void>(join({x, x}, -2)), ShapeError);
  EXPECT_THROW(static_cast<void>(permute(zeros({2, 3}), {0, -2})), ShapeError);
  EXPECT_THROW(static_cast<void>(permute(zeros({2, 3}), {0, 1, 0, 1, 0, 1, 0})), ShapeError);
  EXPECT_TRUE(std::isnan(max(tensor({1, NAN, 3})).number()));
  EXPECT_EQ(argmax(tensor({{1, 5, 5}, {7, 0, 2}})).numbers(), (std::vector<double>{1, 0}));
  EXPECT_EQ(argmax(tensor({{1, 5}, {7, 0}}), 0).numbers(), (std::vector<double>{1, 0}));
  EXPECT_EQ(sum(softmax(x)).number(), 1.0);
  EXPECT_THROW(static_cast<void>(clip(x, 1, 1)), SettingError);
  EXPECT_THROW(static_cast<void>(softmax(x, 1)), ShapeError);
  EXPECT_THROW(static_cast<void>(softmax(tensor(1.0))), ShapeError);
}

TEST(operations, pass_nothing_on_to_the_power_of_0) {
  Worksheet sheet;
  const Line base = sheet.weight("base", tensor({0, 2}));
  const Line exponent = sheet.weight("exponent", tensor({3, 3}));
  const Gradients gradients = reverse_sweep(sum(power(base, exponent)));
  EXPECT_EQ(gradients["exponent"].at({0}), 0.0);
  EXPECT_DOUBLE_EQ(gradients["exponent"].at({1}), 8.0 * std::log(2.0));
  EXPECT_EQ(gradients["base"].numbers(), (std::vector<double>{0, 12}));
}

TEST(operations, give_the_gradient_of_a_tie_to_the_first) {
  Worksheet sheet;
  const Line x = sheet.weight("x", tensor({{2, 2, 1}}));
  const Line most = named("most", max(x));
  EXPECT_EQ(reverse_sweep(most)["x"].numbers(), (std::vector<double>{1, 0, 0}));
  ReverseSweep sweep(most);
  while (sweep.next()) {
  }
  for (std::int64_t i = 0; i < 3; ++i)
    EXPECT_EQ(explain_gradient(sweep, x, {0, i}).formula.evaluate(), sweep.gradient(x).at({0, i}));
  const Line y = sheet.weight("y", tensor({{2, 3, 1}}));
  const Gradients gradients = reverse_sweep(sum(maximum(x, y)));
  EXPECT_EQ(gradients["x"].numbers(), (std::vector<double>{1, 0, 1}));
  EXPECT_EQ(gradients["y"].numbers(), (std::vector<double>{0, 1, 0}));
}

TEST(operations, keep_the_roles_of_axes) {
  const Tensor x = zeros({4, 3, 2}).with({Role::example, Role::row, Role::channel});
  const auto shape = [](const Tensor& tensor) { return to_string(tensor.shape()); };
  EXPECT_EQ(shape(permute(x, {2, 0, 1})), "[channel 2 × example 4 × row 3]");
  EXPECT_EQ(shape(flatten(x)), "[example 4 × 6]");
  EXPECT_EQ(shape(slice(x, 1, {.from = 1})), "[example 4 × row 2 × channel 2]");
  EXPECT_EQ(shape(max(x, {.axes = {1}})), "[example 4 × channel 2]");
  EXPECT_EQ(shape(softmax(x)), "[example 4 × row 3 × channel 2]");
  EXPECT_EQ(shape(argmax(x)), "[example 4 × row 3]");
  EXPECT_EQ(shape(one_hot(zeros({5}).with({Role::example}), 3)), "[example 5 × class 3]");
  EXPECT_EQ(shape(at_class(zeros({4, 3}).with({Role::example, Role::class_}), zeros({4}))),
            "[example 4]");
  EXPECT_EQ(shape(matmul(x, zeros({2, 5}).with({Role::channel, Role::unit}))),
            "[example 4 × row 3 × unit 5]");
}

TEST(operations, name_the_place_of_a_class_that_is_not_there) {
  Worksheet sheet;
  const Line scores = sheet.weight("scores", zeros({3, 4}));
  const Line classes = sheet.given("classes", tensor({0, 3, 4}));
  try {
    static_cast<void>(cross_entropy(scores, classes));
    FAIL();
  } catch (const IndexError& error) {
    EXPECT_EQ(error.trouble().where, "classes[2]");
    EXPECT_EQ(error.trouble().expected, "a whole number from 0 to 3");
    EXPECT_EQ(error.trouble().found, "4");
  }
  for (const double wrong : {-1.0, 0.5, std::nan("")}) {
    EXPECT_THROW(static_cast<void>(one_hot(tensor({0, wrong}), 3)), IndexError);
    EXPECT_THROW(static_cast<void>(at_class(zeros({2, 3}), tensor({0, wrong}))), IndexError);
    EXPECT_THROW(static_cast<void>(gather_rows(zeros({2, 3}), tensor({0, wrong}))), IndexError);
  }
}
}  // namespace
}  // namespace lattice
