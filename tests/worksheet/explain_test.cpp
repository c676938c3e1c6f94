#include "lattice/worksheet/explain.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

struct Fixture {
  Worksheet sheet;
  Line x = sheet.given("x", tensor({{0.31, -0.77, 1.02}, {1, 2, 3}}));
  Line W = sheet.weight("W", tensor({{1.2}, {0.05}, {-0.4}}));
  Line b = sheet.weight("b", tensor({0.1}));
  Line z = named("z", matmul(x, W) + b);
  Line cost = named("cost", 0.5 * mean(square(z)));
};

TEST(explain, writes_lines_without_a_name_out) {
  const Fixture f;
  EXPECT_EQ(explain(f.z, {0, 0}).text(),
            "z[0,0] = x[0,0]·W[0,0] + x[0,1]·W[1,0] + x[0,2]·W[2,0] + b[0]\n"
            "       = 0.31·1.2 + (−0.77)·0.05 + 1.02·(−0.4) + 0.1\n"
            "       = 0.0255");
  EXPECT_EQ(explain(f.cost, {}).text(),
            "cost = 0.5·((z[0,0]² + z[1,0]²)/2)\n"
            "     = 0.5·((0.0255² + 0.2²)/2)\n"
            "     = 0.010163");
  EXPECT_EQ(fmt::format("{}", explain(f.cost, {})), explain(f.cost, {}).text());
}

TEST(explain, says_what_was_not_calculated) {
  const Fixture f;
  EXPECT_EQ(explain(f.x, {1, 2}).text(), "x[1,2] = 3    (given: it is data, not calculated)");
  EXPECT_EQ(explain(f.b, {0}).text(),
            "b[0] = 0.1    (a weight: where it starts, or what updates made it)");
}

TEST(explain, lists_each_use_of_a_number_in_its_gradient) {
  const Fixture f;
  ReverseSweep sweep(f.cost);
  while (sweep.next()) {
  }
  EXPECT_EQ(explain_gradient(sweep, f.W, {1, 0}).text(),
            "∂cost/∂W[1,0] = x[0,1]·∂z[0,0] + x[1,1]·∂z[1,0]\n"
            "              = (−0.77)·0.01275 + 2·0.1\n"
            "              = 0.19018");
  EXPECT_EQ(explain_gradient(sweep, f.z, {0, 0}).text(),
            "∂cost/∂z[0,0] = ∂cost·0.5/2·(2·z[0,0])\n"
            "              = 1·0.5/2·(2·0.0255)\n"
            "              = 0.01275");
  EXPECT_NE(explain_gradient(sweep, f.cost, {}).note, "");
  EXPECT_THROW(static_cast<void>(explain_gradient(sweep, f.x, {0, 0})), NameError);
}

TEST(explain, shortens_long_sums_in_print_but_never_in_the_evaluation) {
  Worksheet sheet;
  const Line x = sheet.given("x", evenly_spaced(1, 100, 100));
  const Line total = named("total", sum(x));
  const Explanation why = explain(total, {});
  EXPECT_EQ(why.formula.evaluate(), 5050);
  EXPECT_EQ(why.text(),
            "total = x[99] + x[98] + x[97] + x[96] + x[95] + [95 more]\n"
            "      = 100 + 99 + 98 + 97 + 96 + [95 more: 4560]\n"
            "      = 5050");
}

TEST(explain, shows_the_largest_terms_of_a_long_sum_and_the_bias_at_its_end) {
  Worksheet sheet;
  const Line x = sheet.given("x", tensor({{1, 0, 0, 0, 0, -8, 0, 2, 0}}));
  const Line w = sheet.weight("w", ones({9, 1}));
  const Line b = sheet.weight("b", tensor({0.25}));
  const std::string text = explain(named("z", dense(x, w, b)), {0, 0}).text();
  EXPECT_EQ(text,
            "z[0,0] = x[0,5]·w[5,0] + x[0,7]·w[7,0] + x[0,0]·w[0,0] + x[0,1]·w[1,0] + [5 more] + "
            "b[0]\n"
            "       = (−8)·1 + 2·1 + 1·1 + 0·1 + [5 more: 0] + 0.25\n"
            "       = −4.75");
  // What is no number is not hidden among the others.
  const Line odd = sheet.given("odd", tensor({1, 2, 3, 4, 5, 6, std::nan(""), 8}));
  EXPECT_THAT(explain(named("s", sum(odd)), {}).text(),
              ::testing::StartsWith("s = odd[6] + odd[7]"));
}

TEST(explain, stays_readable_when_many_lines_have_no_name) {
  Worksheet sheet;
  Line line = sheet.weight("w", tensor({0.001}));
  for (int doubling = 0; doubling < 40; ++doubling)
    line = line + line;
  const Explanation why = explain(line, {0});
  EXPECT_DOUBLE_EQ(why.formula.evaluate(), line.value().number());
  EXPECT_LT(why.text().size(), 1500U);
}

TEST(explain, names_the_line_when_there_is_no_such_place) {
  const Fixture f;
  try {
    static_cast<void>(explain(f.W, {3, 0}));
    FAIL();
  } catch (const IndexError& error) {
    EXPECT_EQ(error.trouble().what, "there is no W[3,0]: W is [3 × unit 1]");
    EXPECT_EQ(error.trouble().expected, "0 to 2");
  }
}

TEST(place, is_read_as_people_write_it) {
  EXPECT_EQ(parse_place("W[1,0]").line, "W");
  EXPECT_EQ(parse_place("W[ 1 , 0 ]").at, (Index{1, 0}));
  EXPECT_EQ(parse_place("cost").at, Index{});
  EXPECT_EQ(parse_place("#5[3,0]").line, "#5");
  for (const char* text :
       {"", "[1]", "W[", "W]", "W[]", "W[1,]", "W[,1]", "W[1]x", "W[1,2,3,4,5,6,7]"}) {
    EXPECT_THROW(static_cast<void>(parse_place(text)), Error) << text;
  }
}

TEST(place, may_be_told_by_the_names_of_its_axes) {
  Worksheet sheet;
  const Line shares = sheet.given("shares", zeros(Shape{2, 3}.with({Role::node, Role::class_})));
  const AxisNames names{.classes = {"hill", "river", "two words"}, .nodes = {"Ada", "Bo"}};
  const auto at = [&](const char* text) { return index_on(shares, parse_place(text), names); };
  EXPECT_EQ(at("shares[Bo,river]"), (Index{1, 1}));
  EXPECT_EQ(at("shares[ 0 , two words ]"), (Index{0, 2}));
  EXPECT_EQ(at("shares[1,2]"), (Index{1, 2}));
  EXPECT_THAT(
      testing::said<NameError>([&] { static_cast<void>(at("shares[Bo,rivr]")); }),
      ::testing::AllOf(::testing::HasSubstr("no place on axis 1 of shares is called 'rivr'"),
                       ::testing::HasSubstr("did you mean river?")));
  EXPECT_THROW(static_cast<void>(at("shares[99999999999999999999,0]")), NameError);
  // In quotes there is always a name: one that is a number, or has a comma.
  const AxisNames odd{.classes = {"a \"b", "1, 2", "0"}, .nodes = {"7", "0"}};
  const auto among = [&](const char* text) { return index_on(shares, parse_place(text), odd); };
  EXPECT_EQ(among("shares[\"7\",\"1, 2\"]"), (Index{0, 1}));
  EXPECT_EQ(among("shares[ \"0\" , \"0\" ]"), (Index{1, 2}));
  EXPECT_EQ(among("shares[0,a \"b]"), (Index{0, 0}));
  for (const char* text : {"shares[\"7,0]", "shares[\"\",0]", "shares[7,0]x"})
    EXPECT_THROW(static_cast<void>(among(text)), NameError) << text;
  EXPECT_THROW(static_cast<void>(index_on(shares, parse_place("shares[Bo,0]"))), NameError);
  EXPECT_THROW(static_cast<void>(explain(shares, at("shares[Bo,river,Ada]"))), Error);
}

TEST(chain, explains_the_numbers_of_an_explanation_in_turn) {
  Worksheet sheet;
  const Line x = sheet.given("x", tensor({2, 3}));
  const Line w = sheet.weight("w", tensor({0.5, -1}));
  const Line a = named("a", x * w);
  const Line b = named("b", square(a));
  const Line cost = named("cost", sum(b) + sum(a));
  const auto chain = [&](int depth) {
    return explain_further(explain(cost, {}), sheet, nullptr, depth);
  };
  EXPECT_TRUE(chain(0).because.empty());
  const Chain once = chain(1);
  ASSERT_EQ(once.because.size(), 4U);
  EXPECT_EQ(once.because[0].explanation.subject, "b[0]");
  EXPECT_TRUE(once.because[0].because.empty());
  const Chain twice = chain(2);
  ASSERT_EQ(twice.because.size(), 2U) << "a[0] and a[1] are explained once, below b";
  EXPECT_EQ(twice.because[1].because[0].explanation.subject, "a[1]");
  EXPECT_EQ(twice.text(),
            "cost = b[0] + b[1] + (a[0] + a[1])\n"
            "     = 1 + 9 + (1 + (−3))\n"
            "     = 8\n\n"
            "    b[0] = a[0]²\n"
            "         = 1²\n"
            "         = 1\n\n"
            "        a[0] = x[0]·w[0]\n"
            "             = 2·0.5\n"
            "             = 1\n\n"
            "    b[1] = a[1]²\n"
            "         = (−3)²\n"
            "         = 9\n\n"
            "        a[1] = x[1]·w[1]\n"
            "             = 3·(−1)\n"
            "             = −3");
}

TEST(chain, follows_gradients_back_to_where_the_sweep_starts) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor(3));
  const Line a = named("a", square(w));
  const Line cost = named("cost", 2 * a);
  ReverseSweep sweep(cost);
  while (sweep.next()) {
  }
  const Chain chain = explain_further(explain_gradient(sweep, w, {}), sheet, &sweep, 5);
  ASSERT_EQ(chain.because.size(), 1U);
  EXPECT_EQ(chain.because[0].explanation.subject, "∂cost/∂a");
  EXPECT_TRUE(chain.because[0].because.empty());
}

TEST(chain, explains_only_what_a_shortened_sum_shows) {
  Worksheet sheet;
  const Line w = sheet.weight("w", ones({50}));
  const Line b = named("b", 2 * w);
  const Line total = named("total", sum(b));
  EXPECT_EQ(explain_further(explain(total, {}), sheet, nullptr, 1).because.size(), 5U);
}

/// A cross-entropy of scores, below their softmax where it is written down.
struct Judged {
  Worksheet sheet;
  Line scores;
  Line loss;

  explicit Judged(const Tensor& numbers, const Tensor& classes, bool has_softmax = true) {
    scores = sheet.weight("scores", numbers);
    if (has_softmax) named("p", softmax(scores));
    loss = named("loss", cross_entropy(scores, sheet.given("y", classes)));
  }
};

TEST(explain, tells_a_cross_entropy_by_the_probabilities_above_it) {
  const Judged judged(tensor({{2, 1, 0}, {0, 3, 1}}), tensor({0, 2}));
  const Explanation loss = explain(judged.loss, {});
  EXPECT_EQ(loss.text(),
            "loss = −((log(p[0,0]) + log(p[1,2]))/2)\n"
            "     = −((log(0.66524) + log(0.1142))/2)\n"
            "     = 1.2887\n"
            "(worked as m − score + log Σ e^(score − m) with the largest score m: equal, and never "
            "overflows)");
  EXPECT_NEAR(loss.formula.evaluate(), loss.value, 1e-15);
  ReverseSweep sweep(judged.loss);
  while (sweep.next()) {
  }
  EXPECT_EQ(explain_gradient(sweep, judged.scores, {0, 0}).formula.text(),
            "∂loss/2·(p[0,0] − (1 if y[0] = 0 else 0))");
  EXPECT_EQ(explain_gradient(sweep, judged.scores, {0, 1}).formula.text(),
            "∂loss/2·(p[0,1] − (1 if y[0] = 1 else 0))");
  for (std::int64_t offset = 0; offset < 6; ++offset) {
    const Index at = judged.scores.shape().index(offset);
    const Explanation gradient = explain_gradient(sweep, judged.scores, at);
    EXPECT_NEAR(gradient.formula.evaluate(), gradient.value, 1e-16);
    EXPECT_EQ(gradient.worked, "");
  }
}

TEST(explain, tells_a_cross_entropy_by_scores_where_probabilities_say_too_little) {
  const auto told = [](const Judged& judged) { return explain(judged.loss, {}); };
  const Tensor one = tensor({0});
  EXPECT_THAT(told(Judged(tensor({{2, 1}}), one, false)).formula.text(), HasSubstr("scores[0,0]"));
  // The softmax of the true class was rounded to 0, or nearly to 1.
  EXPECT_THAT(told(Judged(tensor({{0, 1000}}), one)).formula.text(), HasSubstr("scores[0,0]"));
  EXPECT_EQ(told(Judged(tensor({{0, 1000}}), one)).worked, "");
  EXPECT_EQ(told(Judged(tensor({{0, 1000}}), one)).formula.evaluate(), 1000.0);
  EXPECT_THAT(told(Judged(tensor({{40, 0}}), one)).formula.text(), HasSubstr("scores[0,0]"));
  // A softmax along another axis, or of other scores, says nothing.
  Worksheet sheet;
  const Line scores = sheet.weight("scores", tensor({{2, 1}, {0, 1}}));
  named("q", softmax(scores, 0));
  named("r", softmax(scores + 1));
  const Line loss = named("loss", cross_entropy(scores, sheet.given("y", tensor({0, 1}))));
  EXPECT_THAT(explain(loss, {}).formula.text(), HasSubstr("scores[0,0]"));
}

TEST(explain, needs_no_place_for_a_single_number) {
  const Fixture here;
  EXPECT_EQ(explain(here.cost).text(), explain(here.cost, {}).text());
  Worksheet sheet;
  const Line one = named("one", 2 * sheet.weight("w", {{3}}));
  EXPECT_EQ(explain(one).subject, "one[0,0]");
  EXPECT_THROW(static_cast<void>(explain(here.z)), ShapeError);
}

TEST(explain, tells_a_binary_cross_entropy_by_the_probabilities_above_it) {
  Worksheet sheet;
  const Line scores = sheet.weight("scores", {{2}, {-1}, {0.5}});
  named("p", sigmoid(scores));
  const Line y = sheet.given("y", {{1}, {0}, {0.25}});
  const Line loss = named("loss", binary_cross_entropy(scores, y));
  const Explanation told = explain(loss);
  EXPECT_EQ(told.formula.text(),
            "−((log(p[0,0]) + log(1 − p[1,0]) + (y[2,0]·log(p[2,0]) + (1 − y[2,0])·log(1 − "
            "p[2,0])))/3)");
  EXPECT_NEAR(told.formula.evaluate(), told.value, 1e-15);
  EXPECT_THAT(told.worked, HasSubstr("max(score, 0) − score·y + log(1 + e^−|score|)"));
  ReverseSweep sweep(loss);
  while (sweep.next()) {
  }
  const Explanation gradient = explain_gradient(sweep, scores, {0, 0});
  EXPECT_EQ(gradient.formula.text(), "∂loss/3·(p[0,0] − y[0,0])");
  EXPECT_NEAR(gradient.formula.evaluate(), gradient.value, 1e-16);
  // In the form in which it is worked, on request.
  const Explanation worked = explain(loss, {}, Told::as_worked);
  EXPECT_THAT(worked.formula.text(), HasSubstr("max(scores[0,0], 0)"));
  EXPECT_EQ(worked.worked, "");
  EXPECT_NEAR(worked.formula.evaluate(), told.formula.evaluate(), 1e-15);
  EXPECT_THAT(explain_gradient(sweep, scores, {0, 0}, Told::as_worked).formula.text(),
              HasSubstr("exp(−scores[0,0])"));
}

TEST(explain, tells_a_binary_cross_entropy_by_scores_where_probabilities_say_too_little) {
  const auto told = [](double score, double label, bool with_p = true) {
    Worksheet sheet;
    const Line scores = sheet.weight("scores", {{score}});
    if (with_p) named("p", sigmoid(scores));
    return explain(named("loss", binary_cross_entropy(scores, tensor({{label}})))).formula.text();
  };
  EXPECT_THAT(told(1, 1), HasSubstr("log(p[0,0])"));
  EXPECT_THAT(told(1, 1, false), Not(HasSubstr("p[0,0]")));
  EXPECT_THAT(told(-800, 1), Not(HasSubstr("p[0,0]")));
  EXPECT_THAT(told(40, 1), Not(HasSubstr("p[0,0]")));
  EXPECT_THAT(told(40, 0), Not(HasSubstr("p[0,0]")));
  EXPECT_THAT(told(-15, 0), HasSubstr("log(1 − p[0,0])"));
  EXPECT_THAT(told(-40, 0), Not(HasSubstr("p[0,0]")));
}

TEST(explain, tells_a_cross_entropy_as_it_is_worked_on_request) {
  const Judged judged(tensor({{2, 1}, {0, 3}}), tensor({0, 1}));
  const Explanation worked = explain(judged.loss, {}, Told::as_worked);
  EXPECT_THAT(worked.formula.text(), HasSubstr("scores[0,0]"));
  EXPECT_NEAR(worked.formula.evaluate(), explain(judged.loss).formula.evaluate(), 1e-15);
  const Chain chain =
      explain_further(worked, judged.sheet, nullptr, 1, Notation(), Told::as_worked);
  EXPECT_THAT(chain.text(), Not(HasSubstr("worked as")));
}

TEST(explain, shows_the_winner_of_a_long_list) {
  Worksheet sheet;
  Random random(3);
  Tensor numbers = uniform({1, 12}, 0.0, 1.0, random);
  numbers.set({0, 7}, 5.0);
  numbers.set({0, 9}, -5.0);
  const Line x = sheet.weight("x", numbers);
  const Explanation most = explain(named("most", max(x, {.axes = {1}})), {0});
  EXPECT_EQ(most.formula.text(), "max(x[0,0], x[0,1], x[0,2], x[0,7], [7 more], x[0,11])");
  const Explanation least = explain(named("least", min(x, {.axes = {1}})), {0});
  EXPECT_EQ(least.formula.text(), "min(x[0,0], x[0,1], x[0,2], x[0,9], [7 more], x[0,11])");
  const std::vector<Cell> cells = most.formula.cells();
  EXPECT_EQ(cells.size(), 5U);
  EXPECT_EQ(cells[3].at, (Index{0, 7}));
  numbers.set({0, 1}, 6.0);
  EXPECT_EQ(
      explain(named("first", max(sheet.weight("v", numbers), {.axes = {1}})), {0}).formula.text(),
      "max(v[0,0], v[0,1], v[0,2], v[0,3], [7 more], v[0,11])");
}

TEST(explain, marks_what_rounding_leaves_where_terms_cancel) {
  Worksheet sheet;
  const Line w = sheet.weight("w", {0.1, 0.2, -0.3});
  const Line total = named("total", sum(w));
  ASSERT_NE(total.value().number(), 0.0);
  const Explanation told = explain(total);
  EXPECT_TRUE(told.is_residue);
  EXPECT_THAT(told.text(), HasSubstr(" = ≈0    (5.5511e−17, what rounding leaves where terms "
                                     "cancel)"));
  EXPECT_TRUE(explain(named("half", -(total / 2))).is_residue == false);
  EXPECT_TRUE(explain(named("mean", mean(w))).is_residue);
  EXPECT_TRUE(explain(named("gap", w - tensor({0.1, 0.2, -0.1 * 3})), {2}).is_residue);
  // Numbers that are small, but not from what cancels.
  EXPECT_FALSE(explain(named("tiny", 1e-20 * w), {0}).is_residue);
  EXPECT_FALSE(explain(named("p", softmax(sheet.weight("s", {{0, 40}}))), {0, 0}).is_residue);
  EXPECT_FALSE(explain(named("sum", sum(1e-20 * w))).value > 1e-30);
  EXPECT_FALSE(explain(named("most", sum(sheet.weight("v", {1e-17, 2e-17})))).is_residue);
  EXPECT_FALSE(explain(named("none", w - w), {0}).is_residue);
}

}  // namespace
}  // namespace lattice
