#include "show/cell_formula.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/worksheet/detail/scalar.hpp"

namespace lattice {
namespace {

using ::testing::EndsWith;
using ::testing::StartsWith;

Formula cell(const std::string& name, double number = 2.0) {
  return Formula(Cell{.name = name, .number = number});
}

/// Cells are called as their names; neighbours are those called C1, C2 …
struct Book {
  std::vector<std::pair<std::string, double>> apart = {};

  [[nodiscard]] std::optional<std::string> text(const Formula& formula) {
    return CellFormulas({.reference = [](const Cell& each) { return each.name; },
                         .shorthand = [](const Formula& each) -> std::optional<std::string> {
                           if (each.function_name() != "known") return std::nullopt;
                           return "K1";
                         },
                         .range = [](std::span<const Formula> cells) -> std::optional<std::string> {
                           for (std::size_t at = 0; at < cells.size(); ++at) {
                             if (cells[at].kind() != Formula::Kind::cell ||
                                 cells[at].cell().name != fmt::format("C{}", at + 1))
                               return std::nullopt;
                           }
                           return fmt::format("C1:C{}", cells.size());
                         },
                         .set_apart =
                             [this](const std::vector<std::pair<std::string, double>>& parts) {
                               apart = parts;
                               return std::string("P1:P9");
                             }})
        .text(formula);
  }
};

TEST(cell_formula, cannot_be_misread_by_a_spreadsheet) {
  Book book;
  const Formula a = cell("A1");
  const Formula b = cell("B1");
  // Spreadsheets take −a² for (−a)².
  EXPECT_EQ(book.text(-square(a)), "(-(POWER(A1,2)))");
  EXPECT_EQ(book.text(square(-a)), "POWER((-(A1)),2)");
  EXPECT_EQ(book.text(a - (b - 1.0)), "(A1-(B1-1))");
  EXPECT_EQ(book.text(a / (b * 2.0)), "A1/(B1*2)");
  EXPECT_EQ(book.text((a + b) * -3.0), "(A1+B1)*(-3)");
  EXPECT_EQ(book.text(a * 1e-8), "A1*1e-08");
}

TEST(cell_formula, has_functions_choices_and_ranges) {
  Book book;
  const Formula a = cell("A1");
  EXPECT_EQ(book.text(log(exp(a)) + sqrt(abs(tanh(a)))), "(LN(EXP(A1))+SQRT(ABS(TANH(A1))))");
  EXPECT_EQ(book.text(Formula::choice(a >= 0.0, a, 0.5)), "IF(A1>=0,A1,0.5)");
  EXPECT_EQ(book.text(Formula::choice(a == 3.0, 1.0, 0.0)), "IF(A1=3,1,0)");
  const std::vector<Formula> neighbours = {cell("C1"), cell("C2"), cell("C3")};
  EXPECT_EQ(book.text(Formula::sum(neighbours)), "SUM(C1:C3)");
  EXPECT_EQ(book.text(Formula::mean(neighbours)), "AVERAGE(C1:C3)");
  EXPECT_EQ(book.text(Formula::largest(neighbours)), "MAX(C1:C3)");
  EXPECT_EQ(book.text(Formula::mean({a, square(a)})), "(A1+POWER(A1,2))/2");
  EXPECT_EQ(book.text(Formula::shorthand("known", a + 1.0)), "K1");
  EXPECT_EQ(book.text(Formula::shorthand("m", a + 1.0)), "(A1+1)");
}

TEST(cell_formula, is_missing_for_a_function_that_spreadsheets_do_not_have) {
  Book book;
  const Formula own =
      Formula::function("bump", [](std::span<const double> x) { return x[0]; }, {cell("A1")});
  EXPECT_EQ(book.text(own + 1.0), std::nullopt);
}

TEST(cell_formula, is_spread_over_several_cells_when_it_is_too_long_for_one) {
  Book book;
  std::vector<Formula> terms;
  for (int at = 0; at < 600; ++at)
    terms.push_back(cell(fmt::format("AB{}", at), 0.5) * cell(fmt::format("XY{}", at), at));
  EXPECT_EQ(book.text(Formula::sum(terms)), "SUM(P1:P9)");
  ASSERT_GT(book.apart.size(), 2U);
  double total = 0.0;
  for (const auto& [text, number] : book.apart) {
    EXPECT_LT(text.size(), 8000U);
    total += number;
  }
  EXPECT_EQ(total, 0.5 * 599 * 600 / 2);
  EXPECT_THAT(book.apart.front().first, StartsWith("AB0*XY0+AB1*XY1"));
  EXPECT_THAT(book.apart.back().first, EndsWith("AB599*XY599"));
}

TEST(cell_formula, looks_for_the_place_of_the_largest_in_a_range_or_one_cell_after_another) {
  Book book;
  const Formula in_range =
      Formula::function("argmax", {cell("C1", 1), cell("C2", 5), cell("C3", 5)});
  EXPECT_EQ(book.text(in_range), "(MATCH(MAX(C1:C3),C1:C3,0)-1)");
  const Formula apart = Formula::function("argmax", {cell("A1"), cell("B7"), cell("C9")});
  EXPECT_EQ(book.text(apart), "IF(A1>=MAX(B7,C9),0,IF(B7>=MAX(C9),1,2))");
}

}  // namespace
}  // namespace lattice
