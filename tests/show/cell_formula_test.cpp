#include "show/cell_formula.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "lattice/worksheet/detail/scalar.hpp"

namespace lattice {
namespace {

using ::testing::EndsWith;
using ::testing::StartsWith;

Formula cell(const std::string& name, double number = 2.0) {
  return Formula(Cell{.name = name, .number = number});
}

/// Cells are called as their names; neighbours are those called like the first but for a number, as
/// C1, C2 …, and `wide` of them are in a row. Those of a letter are a table.
struct Book {
  std::int64_t wide = 1;
  std::vector<std::pair<std::string, double>> apart = {};

  [[nodiscard]] std::optional<std::string> text(const Formula& formula) {
    return CellFormulas({.reference = [](const Cell& each) { return each.name; },
                         .shorthand = [](const Formula& each) -> std::optional<std::string> {
                           if (each.function_name() != "known") return std::nullopt;
                           return "K1";
                         },
                         .range = [this](std::span<const Formula> cells) { return range(cells); },
                         .table = [](const Cell& each) { return each.name.front(); },
                         .set_apart =
                             [this](const std::vector<std::pair<std::string, double>>& parts) {
                               apart = parts;
                               return std::string("P1:P9");
                             }})
        .text(formula);
  }

  [[nodiscard]] std::optional<CellFormulas::Range> range(std::span<const Formula> cells) const {
    if (cells.size() < 2) return std::nullopt;
    for (std::size_t at = 0; at < cells.size(); ++at) {
      if (cells[at].kind() != Formula::Kind::cell ||
          cells[at].cell().name != fmt::format("{}{}", cells[0].cell().name.front(), at + 1))
        return std::nullopt;
    }
    const char table = cells[0].cell().name.front();
    const auto count = std::ssize(cells);
    // Those of T stand across.
    const std::int64_t columns = table == 'T' ? count : wide;
    return CellFormulas::Range{.text = fmt::format("{0}1:{0}{1}", table, count),
                               .rows = count / columns,
                               .columns = columns};
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

/// C1·K1 + C2·K2 + …, in this order.
std::vector<Formula> products_of(char left, char right, int count) {
  std::vector<Formula> terms;
  for (int at = 1; at <= count; ++at)
    terms.push_back(cell(fmt::format("{}{}", left, at)) * cell(fmt::format("{}{}", right, at)));
  return terms;
}

TEST(cell_formula, has_sums_of_products_of_two_boxes_as_one) {
  Book book;
  book.wide = 2;
  std::vector<Formula> terms = products_of('C', 'K', 4);
  EXPECT_EQ(book.text(Formula::sum(terms)), "SUMPRODUCT(C1:C4,K1:K4)");
  // Channels come in turns, and a bias at the end.
  const std::vector<Formula> others = products_of('D', 'L', 4);
  for (std::size_t at = 0; at < others.size(); ++at)
    terms.insert(terms.begin() + static_cast<std::ptrdiff_t>(2 * at + 1), others[at]);
  terms.push_back(cell("B1"));
  EXPECT_EQ(book.text(Formula::sum(terms)), "(SUMPRODUCT(C1:C4,K1:K4)+SUMPRODUCT(D1:D4,L1:L4)+B1)");
  // A long row times a column is a product of matrices, whichever is first.
  const std::string across_by_down = "MMULT(T1:T13,C1:C13)";
  Book tall;
  EXPECT_EQ(tall.text(Formula::sum(products_of('C', 'T', 13))), across_by_down);
  EXPECT_EQ(tall.text(Formula::sum(products_of('T', 'C', 13))), across_by_down);
  EXPECT_THAT(*tall.text(Formula::sum(products_of('C', 'T', 12))), StartsWith("(C1*T1+"));
  EXPECT_THAT(*book.text(Formula::sum(products_of('C', 'T', 14))), StartsWith("(C1*T1+"));
  // Few, out of order, or a short row by a column they are written out.
  EXPECT_EQ(book.text(Formula::sum(products_of('C', 'K', 3))), "(C1*K1+C2*K2+C3*K3)");
  EXPECT_EQ(book.text(Formula::sum(products_of('C', 'T', 4))), "(C1*T1+C2*T2+C3*T3+C4*T4)");
  std::vector<Formula> turned = products_of('C', 'K', 4);
  std::ranges::reverse(turned);
  EXPECT_EQ(book.text(Formula::sum(turned)), "(C4*K4+C3*K3+C2*K2+C1*K1)");
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
  const Formula least = Formula::function("argmin", {cell("A1"), cell("B7")});
  EXPECT_EQ(book.text(least), "IF(A1<=MIN(B7),0,1)");
  book.wide = 2;
  const Formula in_box =
      Formula::function("argmin", {cell("C1"), cell("C2"), cell("C3"), cell("C4")});
  EXPECT_EQ(book.text(in_box),
            "(4-SUMPRODUCT(MAX((C1:C4=MIN(C1:C4))*"
            "(4-2*(ROW(C1:C4)-ROW(C1))-COLUMN(C1:C4)+COLUMN(C1)))))");
}

}  // namespace
}  // namespace lattice
