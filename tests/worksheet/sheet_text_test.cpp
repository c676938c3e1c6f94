#include "lattice/worksheet/sheet_text.hpp"

#include <fmt/ranges.h>
#include <gmock/gmock.h>

#include <cmath>
#include <limits>
#include <string>
#include <vector>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;

/// What is said of a sheet that cannot be read.
std::string said_of(const std::string& text, const SheetReading& reading = {}) {
  try {
    static_cast<void>(read_sheet(text, reading));
  } catch (const SettingError& error) {
    return error.what();
  }
  return "nothing";
}

std::vector<std::string> names_of(const Worksheet& sheet) {
  std::vector<std::string> names;
  for (const Line& line : sheet.lines())
    names.push_back(line.name());
  return names;
}

TEST(sheet, is_read_as_it_stands_on_the_board) {
  const ReadSheet read = read_sheet(R"(
    given  x = [[4.8], [8.5], [2.6]]        # minutes of firing
    given  y = [[428], [733], [229]]
    weight W = [[80]]
    weight b = [20]
    z = x·W + b
    cost = mean((z − y)²)/2
  )");
  EXPECT_THAT(names_of(read.sheet),
              ElementsAre("x", "y", "W", "b", "z", "difference", "square", "mean", "cost"));
  EXPECT_EQ(read.sheet.line("z").operation(), "dense");
  // (24² + 33² + 1²)/3/2.
  EXPECT_DOUBLE_EQ(read.result.value().number(), (576.0 + 1089.0 + 1.0) / 6.0);
  // Mean of residual times minutes.
  EXPECT_NEAR(reverse_sweep(read.result)["W"].number(),
              (-24.0 * 4.8 - 33.0 * 8.5 - 1.0 * 2.6) / 3.0, 1e-9);
}

TEST(sheet, keeps_a_product_in_brackets_a_line_of_its_own) {
  const std::string leaves = "given x = [[1, 2]]\nweight W = [[1], [2]]\nweight b = [3]\n";
  EXPECT_EQ(read_sheet(leaves + "z = x·W + b").sheet.size(), 4);
  EXPECT_EQ(read_sheet(leaves + "z = (x·W) + b").sheet.size(), 5);
  EXPECT_EQ(read_sheet(leaves + "z = x·W + b + b").sheet.size(), 5);
  EXPECT_EQ(read_sheet(leaves + "z = x·W − b").sheet.size(), 5);
  EXPECT_EQ(read_sheet(leaves + "z = b + x·W").sheet.size(), 5);
}

TEST(sheet, has_a_keyboard_form_for_every_sign) {
  const std::string leaves =
      "weight a = [[1.5, -2], [0.5, 3]]\nweight b = [[2, 1], [4, 0.25]]\ngiven y = [1, 0]\n";
  const auto same = [&](const std::string& sign, const std::string& typed) {
    const Worksheet with_sign = read_sheet(leaves + "z = " + sign).sheet;
    const Worksheet with_keys = read_sheet(leaves + "z = " + typed).sheet;
    ASSERT_EQ(with_sign.size(), with_keys.size()) << sign;
    for (std::size_t number = 1; number <= with_sign.size(); ++number) {
      EXPECT_EQ(with_sign.line(number).operation(), with_keys.line(number).operation()) << sign;
      EXPECT_EQ(with_sign.line(number).value(), with_keys.line(number).value()) << sign;
    }
  };
  same("a·b", "matmul(a, b)");
  same("aᵀ·b", "matmul(a, b; first transposed)");
  same("a·bᵀ", "matmul(a, b; second transposed)");
  same("a × b", "a*b");
  same("a − b", "a - b");
  same("a²", "a^2");
  same("a²", "square(a)");
  same("a³", "power(a, 3)");
  same("aᵀ", "transpose(a)");
  same("√(b)", "sqrt(b)");
  same("√b", "sqrt(b)");
  same("|a|", "abs(a)");
  same("a ≥ b", "at_least(a, b)");
  same("a >= b", "at_least(a, b)");
  same("a <= b", "at_most(a, b)");
  same("1 if a > b else 0", "above(a, b)");
  same("a at y", "at_class(a, y)");
  same("log b", "log(b)");
  same("log softmax(a)", "log(softmax(a))");
  same("−log softmax(a) at y", "-at_class(log(softmax(a)), y)");
  same("2·a", "2*a");
}

TEST(sheet, reads_signs_in_their_usual_order) {
  const auto value = [](const std::string& text) {
    return read_sheet("weight w = 3\nz = " + text).result.value().number();
  };
  EXPECT_EQ(value("w + 2 × 4"), 11.0);
  EXPECT_EQ(value("(w + 2) × 4"), 20.0);
  EXPECT_EQ(value("w − 2 − 4"), -3.0);
  EXPECT_EQ(value("w/2/3"), 0.5);
  EXPECT_EQ(value("12/w × 2"), 8.0);
  EXPECT_EQ(value("−w²"), -9.0);
  EXPECT_EQ(value("(−w)²"), 9.0);
  EXPECT_EQ(value("2^w"), 8.0);
  EXPECT_EQ(value("w^−1"), 1.0 / 3.0);
  EXPECT_EQ(value("2 × w²"), 18.0);
  EXPECT_EQ(value("w × (1/3 + 2/3)"), 3.0);
  EXPECT_EQ(value("w + |−2|"), 5.0);
  EXPECT_EQ(value("|w − 5| × 2"), 4.0);
  EXPECT_EQ(value("w if w > 2 else −w"), 3.0);
  EXPECT_EQ(value("w if w < 2 else −w"), -3.0);
  EXPECT_EQ(value("w + exp(0) + max(1, 2)"), 6.0);
  EXPECT_EQ(value("+w"), 3.0);
  EXPECT_EQ(value("w·2"), 6.0);
}

TEST(sheet, tells_comments_from_lines_without_a_name) {
  const ReadSheet read = read_sheet(
      "# a sheet\n"
      "#1 of its lines\n"
      "weight w = 2 #3 is another number\n"
      "#2 = w + 1   # no name\n"
      "z = #2 × w   #5\n"
      "\n");
  EXPECT_THAT(names_of(read.sheet), ElementsAre("w", "#2", "z"));
  EXPECT_EQ(read.result.value().number(), 6.0);
  // The number is what the sheet calls it, whatever stands above.
  const ReadSheet longer = read_sheet("weight w = 2\ngiven v = 1\n#2 = w + v\nz = #2 × w");
  EXPECT_EQ(longer.result.value().number(), 6.0);
}

TEST(sheet, has_a_title_sections_names_and_roles) {
  const ReadSheet read = read_sheet(
      "title Pots, and \"more\"\n"
      "features moisture, \"wall, mm\"\n"
      "classes sound, cracked\n"
      "section given\n"
      "given x [example × feature] = [[1, 2]]\n"
      "──── Hidden layer ────\n"
      "weight W = [[1], [2]]\n"
      "z [example 1 × class] = x·W\n"
      "cost = sum(z)\n"
      "note = z × 2\n"
      "sweep from cost\n");
  EXPECT_EQ(read.heading.title, "Pots, and \"more\"");
  EXPECT_THAT(read.heading.names.features, ElementsAre("moisture", "wall, mm"));
  EXPECT_THAT(read.heading.names.classes, ElementsAre("sound", "cracked"));
  EXPECT_EQ(read.sheet.line("x").section(), "given");
  EXPECT_EQ(read.sheet.line("z").section(), "Hidden layer");
  EXPECT_EQ(to_string(read.sheet.line("W").shape()), "[feature 2 × unit 1]");
  EXPECT_EQ(to_string(read.sheet.line("z").shape()), "[example 1 × class 1]");
  EXPECT_EQ(read.result.name(), "cost");
  const std::string text = sheet_text(read.sheet, read.result, read.heading);
  const ReadSheet again = read_sheet(text);
  EXPECT_EQ(sheet_text(again.sheet, again.result, again.heading), text);
  EXPECT_EQ(again.heading.title, read.heading.title);
  EXPECT_EQ(again.result.name(), "cost");
}

TEST(sheet, draws_the_same_numbers_for_a_name_whatever_else_it_holds) {
  const std::string start = "seed 7\nweight W = normal(3, 2; 0, 0.1)\n";
  const Tensor alone = read_sheet(start).sheet.line("W").value();
  const ReadSheet beside = read_sheet("given a = uniform(5; 0, 1)\n" + start);
  EXPECT_EQ(beside.sheet.line("W").value(), alone);
  EXPECT_NE(read_sheet("seed 8\nweight W = normal(3, 2; 0, 0.1)").sheet.line("W").value(), alone);
  EXPECT_EQ(read_sheet("weight W = normal(3, 2; 0, 0.1)", {.seed = 7}).sheet.line("W").value(),
            alone);
  for (const double number : read_sheet("given u = uniform(100; 2, 3)").result.value().numbers()) {
    EXPECT_GE(number, 2.0);
    EXPECT_LT(number, 3.0);
  }
}

TEST(sheet, calculates_the_numbers_of_data_from_lines_above) {
  const ReadSheet read = read_sheet(
      "given x = evenly_spaced(3; 0, 1)\n"
      "given y = 3·x + [1, 1, 2]\n"
      "weight w = 2 × 3\n"
      "z = w × y\n");
  EXPECT_THAT(names_of(read.sheet), ElementsAre("x", "y", "w", "z"));
  EXPECT_EQ(read.sheet.line("y").value(), tensor({1, 2.5, 5}));
  EXPECT_EQ(read.result.value(), tensor({6, 15, 30}));
}

TEST(sheet, moves_a_running_statistic) {
  const ReadSheet read = read_sheet(
      "running m = [0, 0]\n"
      "weight x = [[1, 3], [3, 5]]\n"
      "next m = 0.9 × m + 0.1 × mean(x; axis 0)\n"
      "cost = sum(x)\n");
  const std::optional<Line> next = read.sheet.line("m").next();
  ASSERT_TRUE(next.has_value());
  EXPECT_EQ(next->name(), "m.next");
  EXPECT_EQ(next->value(), tensor({0.2, 0.4}));
  const std::string text = sheet_text(read.sheet, read.result);
  EXPECT_EQ(read_sheet(text).sheet.line("m").next()->value(), tensor({0.2, 0.4}));
}

TEST(sheet, takes_rows_of_a_data_set_where_there_are_some) {
  const SheetReading reading{.data = [](const AskedRows& asked) {
    EXPECT_EQ(asked.set, "pots");
    EXPECT_EQ(asked.first, 2);
    EXPECT_EQ(asked.last, 4);
    return SheetData{.features = tensor({{1}, {2}, {3}}).with({Role::example, Role::feature}),
                     .targets = tensor({{2}, {4}, {6}}),
                     .heading = {.title = "pots", .rows = {2, 3, 4}}};
  }};
  const ReadSheet read =
      read_sheet("data pots, rows 2 to 4\nweight w = [[1.5]]\nz = mean((x·w − y)²)", reading);
  EXPECT_THAT(names_of(read.sheet),
              ElementsAre("x", "y", "w", "product", "difference", "square", "z"));
  EXPECT_THAT(read.heading.rows, ElementsAre(2, 3, 4));
  EXPECT_THAT(said_of("data pots, rows 2 to 4\nz = x × 2"), HasSubstr("no data sets here"));
  EXPECT_THAT(said_of("given x = 1\ndata pots, rows 2 to 4", reading),
              HasSubstr("a line called x already"));
  EXPECT_THAT(said_of("data pots, row -1", reading), HasSubstr("these data cannot be read"));
  const SheetReading of_one{.data = [](const AskedRows& asked) -> SheetData {
    throw IndexError({.what = fmt::format("no such rows of {} by {}", fmt::join(asked.targets, "|"),
                                          fmt::join(asked.features, "|")),
                      .found = std::to_string(asked.first + asked.last)});
  }};
  EXPECT_THAT(said_of("data pots, feature a, row 1, target \"b, c\", feature \"d e\"", of_one),
              AllOf(HasSubstr("found:    2"), HasSubstr("no such rows of b, c by a|d e")));
  EXPECT_THAT(said_of("data pots, target", of_one), HasSubstr("these data cannot be read"));
  EXPECT_THAT(said_of("data pots, row 4", of_one), HasSubstr("found:    8"));
  EXPECT_THAT(said_of("data pots", of_one), HasSubstr("found:    -1"));
}

TEST(sheet, keeps_numbers_to_the_last_bit) {
  Worksheet sheet;
  Random random(5);
  const Line x = sheet.weight("x", normal({4, 3}, 0.0, 1e-7, random));
  const Line odd =
      sheet.given("odd", tensor({0.1, 1e300, -5e-324, std::numeric_limits<double>::infinity(),
                                 -std::numeric_limits<double>::infinity(), -0.0}));
  const Line single = named("cost", sum(x));
  const ReadSheet read = read_sheet(sheet_text(sheet, single));
  EXPECT_EQ(read.sheet.line("x").value(), x.value());
  const auto numbers = read.sheet.line("odd").value().numbers();
  const auto expected = odd.value().numbers();
  for (std::size_t at = 0; at < expected.size(); ++at) {
    EXPECT_EQ(numbers[at], expected[at]);
    EXPECT_EQ(std::signbit(numbers[at]), std::signbit(expected[at]));
  }
  EXPECT_TRUE(std::isnan(read_sheet("given n = NaN").result.value().number()));
}

TEST(sheet, keeps_names_that_are_no_plain_words) {
  Worksheet sheet;
  const Line a = sheet.weight("a-b", tensor(2));
  const Line b = named("(b)", square(a));
  const Line c = named("say\"so\"", a + b);
  const Line d = named("z", c * b);
  named("z", d + a);
  const std::string text = sheet_text(sheet, sheet.line(5));
  const ReadSheet read = read_sheet(text);
  EXPECT_THAT(names_of(read.sheet), ElementsAre("a-b", "(b)", "say\"so\"", "z", "z.5"));
  EXPECT_EQ(read.result.value().number(), 26.0);
}

struct Fault {
  std::string text;
  std::vector<std::string> said;
};

TEST(sheet, says_what_is_wrong_and_marks_the_place) {
  const std::string leaves = "given x = [[1, 2], [3, 4]]\nweight W = [[1], [2]]\nweight b = [1]\n";
  const std::vector<Fault> faults = {
      {"", {"has no lines"}},
      {"z = x + 1", {"no line above is called 'x'", "line 1 of the sheet", "z = x + 1\n", "    ^"}},
      {"given heat = 1\nz = 2 × haet", {"did you mean heat?", "line 2"}},
      {leaves + "z = W·x", {"W [2 × 1]", "x [2 × 2]"}},
      {leaves + "z = x × [[1, 2, 3]]", {"x [2 × 2]", "[1 × 3] cannot be broadcast"}},
      {leaves + "z = (x + 1", {"this bracket is never closed"}},
      {leaves + "z = x + 1)", {"closes nothing"}},
      {leaves + "z = [1, 2", {"never closed", "expected: ]"}},
      {leaves + "z = x + ", {"a value is missing", "the end of the line"}},
      {leaves + "z x + 1", {"'=' is missing behind 'z'"}},
      {leaves + "z = sofmax(x)", {"there is no function sofmax", "did you mean softmax?"}},
      {leaves + "z = softmax(x, W)", {"softmax is called otherwise", "found:    2 arguments"}},
      {leaves + "z = sum(x; axis 7)", {"axis 7"}},
      {leaves + "z = sum(x; class)", {"there is no such axis"}},
      {leaves + "z = sum(x; row wise)", {"row wise", "^"}},
      {leaves + "x = W × 2", {"there is a line called x already", "line 1 of the worksheet"}},
      {"given y = [[1, 2], [3]]", {"rows are of different lengths", "2, as in the first"}},
      {"given y = [[1, 2], 3]", {"a number stands among brackets"}},
      {"given y = []", {"these brackets hold nothing"}},
      {"given y = x", {"no line above is called 'x'"}},
      {"z = 1 + 2", {"made of plain numbers alone", "given z = …"}},
      {"given y [example 3] = [1, 2]", {"y has other axes", "[example 3]", "[2]"}},
      {"given y [colour] = [1, 2]", {"no role of an axis", "one of example"}},
      {leaves + "next W = W × 2", {"W cannot be a running statistic"}},
      {leaves + "sweep from z", {"no line above is called 'z'"}},
      {leaves + "sweep of W", {"'from' is missing"}},
      {"precision half", {"double, or single"}},
      {"seed -3", {"no seed"}},
      {leaves + "precision single", {"comes too late"}},
      {leaves + "z = x[0, 1]", {"used as a whole", "slice"}},
      {leaves + "z = x $ 2", {"has no meaning in a sheet", "'$'"}},
      {leaves + "z = \"x", {"this quote is never closed"}},
      {leaves + "z = log", {"no line above is called 'log'", "as a function: log(x)"}},
      {leaves + "z = x if x else 0", {"no condition"}},
      {leaves + "z = slice(x; axis 0: 5 to 6)", {"slice"}},
      {leaves + "weight V = he(3)", {"for a matrix of weights"}},
      {leaves + "given v = zeros(0)", {"no extent of an axis"}},
      {leaves + "given v = zeros(100000, 100000, 100000)", {"may not have so many numbers"}},
      {leaves + "given v = identity(100000)", {"may not have so many numbers"}},
      {leaves + "z = repeat(x; axis 0: 99999999 times)", {"may not have so many numbers"}},
      {leaves + "z = pad(x; axis 0: 99999999 before)", {"may not have so many numbers"}},
      {"given u = zeros(20000, 1)\nz = u·uᵀ", {"may not have so many numbers"}},
      {"given u = zeros(20000, 1)\nz = u × uᵀ", {"may not have so many numbers"}},
      {"given u = zeros(20000, 1)\nz = max(u, uᵀ)", {"may not have so many numbers"}},
      {"weight w = 2\nz = w w", {"there is no function w", "a sign behind a line"}},
      {"given \xff = 1", {"is no text"}},
  };
  for (const Fault& fault : faults) {
    const std::string said = said_of(fault.text);
    for (const std::string& part : fault.said)
      EXPECT_THAT(said, HasSubstr(part)) << fault.text;
  }
}

TEST(sheet, marks_a_place_far_along_a_line) {
  std::string numbers = "given x = [";
  for (int number = 0; number < 500; ++number)
    numbers += "1, ";
  const std::string said = said_of(numbers + "oops]");
  EXPECT_THAT(said, HasSubstr("… "));
  EXPECT_THAT(said, HasSubstr("oops]"));
  const std::size_t row = said.find("… ");
  EXPECT_LT(said.find('\n', row) - row, 120);
}

TEST(sheet, refuses_what_is_too_deep_or_too_long) {
  EXPECT_THAT(said_of("weight w = 1\nz = " + std::string(500, '(') + "w" + std::string(500, ')')),
              HasSubstr("too deep"));
  EXPECT_THAT(said_of("weight w = 1\nz = " + std::string(100'000, '-') + "w"),
              HasSubstr("too deep"));
  EXPECT_THAT(said_of("given x = " + std::string(8, '[') + "1" + std::string(8, ']')),
              HasSubstr("so many axes"));
  EXPECT_THAT(said_of(std::string(most_sheet_bytes + 1, ' ')), HasSubstr("too long"));
}

TEST(sheet, is_worked_again_with_other_numbers) {
  const ReadSheet read = read_sheet(
      "section first\nweight w = [2, 3]\ngiven x [feature] = [1, 4]\nsection last\n"
      "cost = sum(w × x)");
  const Worksheet again = worked_again(read.sheet, [](const Line& line) {
    return line.name() == "w" ? tensor({10, 20}) : line.value();
  });
  EXPECT_EQ(again.line("cost").value().number(), 90.0);
  EXPECT_EQ(again.line("cost").section(), "last");
  EXPECT_EQ(to_string(again.line("x").shape()), "[feature 2]");
  EXPECT_THROW(
      static_cast<void>(worked_again(read.sheet,
                                     [](const Line& line) {
                                       return line.name() == "w" ? tensor({1, 2, 3}) : line.value();
                                     })),
      ShapeError);
}

TEST(sheet, takes_numbers_beside_lines_as_data_without_a_name) {
  const ReadSheet read = read_sheet(
      "weight w = [[1, 2]]\nz = (w + [[10, 20]])·[[1], [2]] + [5]\nc = half_mean_squared(z, "
      "[[60]])");
  EXPECT_EQ(read.sheet.line("z").value(), tensor({{60}}));
  EXPECT_EQ(read.result.value().number(), 0.0);
  EXPECT_EQ(read.sheet.line(2).kind(), Line::Kind::given);
  EXPECT_FALSE(read.sheet.line(2).has_name());
  const std::string text = sheet_text(read.sheet, read.result);
  EXPECT_THAT(text, HasSubstr("given #2 = [[10, 20]]"));
  const ReadSheet again = read_sheet(text);
  EXPECT_FALSE(again.sheet.line(2).has_name());
  EXPECT_EQ(names_of(again.sheet), names_of(read.sheet));
  EXPECT_EQ(again.sheet.line("z").value(), read.sheet.line("z").value());
  EXPECT_EQ(read_sheet("given #1 = [2]\nz = 2·#1").result.value(), tensor({4}));
  EXPECT_THAT(said_of("weight #1 = [2]"), HasSubstr("needs a name"));
  EXPECT_THAT(said_of("weight w = [1, 2]\nz = w + [1, 2, 3]"), HasSubstr("[3]"));
}

TEST(sheet, shows_the_steps_inside_a_calculation_by_words) {
  const ReadSheet read = read_sheet(
      "given x = [[1, 2]]\nweight W = [[3], [4]]\n#3 = x·W\n"
      "z = −(x·W + [1])/2 + √(#3) × #3 + mean(#3)\n");
  EXPECT_THAT(names_of(read.sheet),
              ElementsAre("x", "W", "#3", "product", "#5", "sum", "negative", "quotient", "root",
                          "product.10", "sum.11", "mean", "z"));
  // Formulas write them out, and a name of one's own is kept.
  EXPECT_EQ(explain(read.sheet.line("negative"), {0, 0}).formula.text(),
            "−(x[0,0]·W[0,0] + x[0,1]·W[1,0] + #5[0])");
  EXPECT_THAT(names_of(read_sheet("weight w = 2\nsum = w + 1\nz = (w + 2)·sum").sheet),
              ElementsAre("w", "sum", "sum.3", "z"));
}

}  // namespace
}  // namespace lattice
