#include "lattice/worksheet/formula.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(formula, puts_parentheses_where_they_are_needed) {
  const auto cell = [](const char* name, double number) {
    return Formula(Cell{.name = name, .number = number});
  };
  const Formula a = cell("a", 2);
  const Formula b = cell("b", -3);
  EXPECT_EQ(((a + b) * a).text(), "(a + b)·a");
  EXPECT_EQ((a - (b - a)).text(), "a − (b − a)");
  EXPECT_EQ((a / (b * a)).text(), "a/(b·a)");
  EXPECT_EQ((-(a + b)).text(), "−(a + b)");
  EXPECT_EQ((a + -b).text(), "a + (−b)");
  EXPECT_EQ(square(a + b).text(), "(a + b)²");
  EXPECT_EQ((a * b).text({.filled_in = true}), "2·(−3)");
  // A number that is not to be told has something else in its place.
  const auto hide_b = [](const Formula& part) -> std::optional<std::string> {
    return part.evaluate() == -3.0 ? std::optional<std::string>("▢1") : std::nullopt;
  };
  EXPECT_EQ((a * b).text({.filled_in = true, .write = hide_b}), "2·▢1");
  EXPECT_EQ((a * b).text({.write = hide_b}), (a * b).text());
  EXPECT_EQ((1 / (1 + exp(-a))).text(), "1/(1 + exp(−a))");
  EXPECT_DOUBLE_EQ((1 / (1 + exp(-a))).evaluate(), 1 / (1 + std::exp(-2.0)));
  EXPECT_EQ(Formula::sum({}).evaluate(), 0.0);
}

TEST(formula, shows_branches_and_functions_of_several_numbers) {
  const Formula a(Cell{.name = "a", .number = 2});
  const Formula b(Cell{.name = "b", .number = -3});
  EXPECT_EQ(where(a > b, a, -b).text(), "(a if a > b else −b)");
  EXPECT_EQ(where(a > b, a, -b).evaluate(), 2);
  EXPECT_EQ(where(b >= a, a, -b).evaluate(), 3);
  EXPECT_EQ((2 * where(a == b, a, b)).text({.filled_in = true}), "2·(2 if 2 = −3 else −3)");
  EXPECT_EQ(larger(a, Formula(0.0)).text(), "max(a, 0)");
  EXPECT_EQ(smaller(b, Formula(0.0)).evaluate(), -3);
  EXPECT_EQ(Formula::mean({a, b, a}).evaluate(), 1.0 / 3.0);
  EXPECT_EQ((abs(b) + sqrt(a)).text(), "|b| + √(a)");
  EXPECT_EQ(pow(a, Formula(3.0)).text(), "a^3");
  EXPECT_EQ(pow(a + b, Formula(-0.5)).text(), "(a + b)^(−0.5)");
  std::vector<Formula> many(10, a);
  EXPECT_EQ(Formula::largest(many).text(), "max(a, a, a, a, [5 more], a)");
  EXPECT_EQ(Formula::largest(many).cells().size(), 1U);
}

TEST(formula, that_shares_a_part_ten_thousand_times_is_worked_at_once) {
  Worksheet sheet;
  Random random(1);
  const Line w = sheet.weight("w", normal({20'000}, 0, 1, random));
  const Line v = named("v", variance(w));
  const Explanation why = explain(v, {});
  EXPECT_NEAR(why.formula.evaluate(), v.value().number(), 1e-12);
  EXPECT_EQ(why.formula.shorthands().size(), 1U);
  EXPECT_EQ(why.formula.shorthands()[0].name, "m");
}

TEST(formula, numbers_short_names_that_stand_for_different_things) {
  const Formula a(Cell{.name = "a", .number = 1});
  const Formula b(Cell{.name = "b", .number = 5});
  const auto most = [](const Formula& x, const Formula& y) {
    return Formula::shorthand("m", Formula::largest({x, y}));
  };
  const Formula both = most(a, b) * a + most(a, 2.0) / most(a, b);
  EXPECT_EQ(both.text(), "m₁·a + m₂/m₁");
  EXPECT_EQ(both.text({.filled_in = true}), "5·1 + 2/5");
  ASSERT_EQ(both.shorthands().size(), 2U);
  EXPECT_EQ(both.shorthands()[1].name, "m₂");
  EXPECT_EQ(both.shorthands()[1].text, "max(a, 2)");
  EXPECT_EQ(both.shorthands()[1].number, 2);
  EXPECT_EQ(both.cells().size(), 2U);
}

TEST(formula, is_evaluated_in_the_precision_that_is_asked_for) {
  const Formula large(1e30);
  EXPECT_DOUBLE_EQ((large * large).evaluate(), 1e60);
  EXPECT_TRUE(std::isinf((large * large).evaluate(Precision::single)));
  EXPECT_EQ((large * large).first_not_finite(Precision::double_), std::nullopt);
  const std::optional<Formula> part = (1 / (large * large)).first_not_finite(Precision::single);
  ASSERT_TRUE(part);
  EXPECT_EQ(part->kind(), Formula::Kind::product);
}

TEST(formula, looks_for_trouble_only_in_the_branch_that_is_taken) {
  const Formula zero(0.0);
  const Formula either = where(zero > zero, log(zero), zero);
  EXPECT_EQ(either.first_not_finite(Precision::double_), std::nullopt);
}

}  // namespace
}  // namespace lattice
