#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <optional>

#include "support/books.hpp"
#include "support/worked.hpp"

/// What is typed into a spreadsheet moves all that is made from it.
namespace lattice::testing {
namespace {

/// Where the block of a table begins on a sheet, counted from 0: its heading begins so.
std::optional<std::size_t> row_of(const Json& cells, const std::string& heading) {
  for (std::size_t row = 0; row < cells.size(); ++row) {
    const Json& text = cells[row][1];
    if (text.is_string() && text.get<std::string>().starts_with(heading)) return row;
  }
  return std::nullopt;
}

/// What was calculated after a change is what another book says that was made with it; and on each
/// sheet something changed.
void expect_ours(const Json& changed_book, const Json& our_book, const std::string& of) {
  for (const auto& [sheet, content] : changed_book.items()) {
    const Json& cells = content["cells"];
    const Json& ours = our_book[sheet]["cells"];
    ASSERT_EQ(cells.size(), ours.size()) << of << sheet;
    std::size_t changed = 0;
    for (std::size_t r = 0; r < cells.size(); ++r) {
      for (std::size_t c = 0; c < cells[r].size(); ++c) {
        if (!cells[r][c].is_array()) continue;
        expect_near(cells[r][c][1], ours[r][c][0],
                    fmt::format("{} {} {} {}", of, sheet, r + 1, c + 1));
        changed += cells[r][c][0] != cells[r][c][1] ? 1U : 0U;
      }
    }
    const bool is_given = sheet.starts_with("data") || sheet == "rows";
    EXPECT_GT(changed, is_given ? 0U : 6U) << of << sheet;
  }
}

/// A network with a weight whose first number is moved, there and here: every cell is then ours.
void expect_to_follow(const Words& lesson, const std::string& weight = "output.weight") {
  const std::string of = ::testing::PrintToString(lesson);
  const Folder folder;
  const Json step = json_of(lattice(with(lesson, {"--json"})))["steps"][0];
  std::vector<double> weights = flat(step["updates"][weight]["before"]);
  weights[0] += 0.5;
  const std::string moved = fmt::format("{}={}", weight, fmt::join(weights, ","));
  const std::string before = folder.path() / "before.xlsx";
  const std::string after = folder.path() / "after.xlsx";
  ASSERT_EQ(lattice(with(lesson, {"--xlsx", before})).status, 0) << of;
  ASSERT_EQ(lattice(with(lesson, {"--xlsx", after, "--start", moved})).status, 0) << of;

  // The block of the weight: its heading, of pictures what each is, the heads of its columns, its
  // numbers from column C.
  const Json plain = recalculated(folder, Json::array({{{"file", before}}}))[0];
  std::string first;
  std::string cell;
  for (const auto& [sheet, content] : plain.items()) {
    if (!sheet.starts_with("forward")) continue;
    if (first.empty()) first = sheet;
    const Json& cells = content["cells"];
    const std::optional<std::size_t> row = row_of(cells, weight);
    if (!row || !cell.empty()) continue;
    const Json& below = cells[*row + 1][2];
    const bool is_picture = below.is_string() && below.get<std::string>().starts_with("channel");
    cell = fmt::format("{}!C{}", sheet, *row + (is_picture ? 4 : 3));
  }
  const Json books = recalculated(
      folder,
      Json::array({{{"file", before}, {"changes", {{cell, weights[0]}}}}, {{"file", after}}}));

  const double loss =
      json_of(lattice(with(lesson, {"--json", "--start", moved})))["steps"][0]["loss_before"];
  EXPECT_GT(std::abs(loss - step["loss_before"].get<double>()), 1e-4) << of;
  expect_near(books[0][first]["cells"][1][2][1], loss, of + " the loss");
  expect_ours(books[0], books[1], of);
}

TEST(spreadsheet, follows_a_weight_that_is_changed_to_the_loss_the_gradients_and_the_update) {
  if (!has_office()) GTEST_SKIP() << no_office;
  expect_to_follow(with(small_lesson, {"--net", "dense 3, tanh, dense 4", "--rule", "adam"}));
}

TEST(spreadsheet, follows_a_number_of_a_kernel_that_is_changed) {
  if (!has_office()) GTEST_SKIP() << no_office;
  expect_to_follow({"work", "stamps", "--rows", "40", "--resize", "8x8", "--batch", "2", "--net",
                    "conv 2 of 3x3, tanh, maximum 2, flatten, dense 8"},
                   "conv.kernel");
}

/// An edge typed in moves every number of the steps of a book, as if it had been there.
void expect_to_follow_an_edge(const std::string& steps, const std::string& data) {
  const Folder folder;
  const std::string nodes = folder.file(
      "nodes.csv", "name,guild\nAda,hill\nBo,river\nCy,hill\nDot,river\nEve,hill\nFlo,river\n");
  const std::string edges = "Ada,Cy\nCy,Eve\nBo,Dot\nDot,Flo\n";
  const auto book = [&](const std::string& name, const std::string& all_edges) {
    const std::string path = folder.path() / name;
    const Answer made = lattice(
        {"work", "--file", nodes, "--edges", folder.file(name + ".csv", all_edges), "--target",
         "guild", "--known", "1", "--net", "neighbours, dense 3, tanh, neighbours, dense 2",
         "--xlsx", path, "--steps", steps});
    EXPECT_EQ(made.status, 0) << made.err;
    return path;
  };
  const std::string before = book("before.xlsx", edges);
  const Json plain = recalculated(folder, Json::array({{{"file", before}}}))[0];
  const std::size_t top = row_of(plain[data]["cells"], "A ").value() + 3;
  // Ada takes from Bo, and Bo from Ada.
  const Json changes = {{fmt::format("{}!D{}", data, top), 1.0},
                        {fmt::format("{}!C{}", data, top + 1), 1.0}};
  const Json books =
      recalculated(folder, Json::array({{{"file", before}, {"changes", changes}},
                                        {{"file", book("after.xlsx", edges + "Ada,Bo\n")}}}));
  expect_ours(books[0], books[1], "an edge more");
}

TEST(spreadsheet, follows_an_edge_that_is_typed_in_where_there_was_none) {
  if (!has_office()) GTEST_SKIP() << no_office;
  expect_to_follow_an_edge("1", "data");
}

TEST(spreadsheet, follows_an_edge_that_is_typed_in_through_all_steps) {
  if (!has_office()) GTEST_SKIP() << no_office;
  expect_to_follow_an_edge("1,2,3", "data 1");
}

TEST(spreadsheet, follows_a_changed_weight_through_a_clipped_gradient_and_into_the_next_steps) {
  if (!has_office()) GTEST_SKIP() << no_office;
  // The gradients have norms of 1.4 and 1.0: both are clipped, or the first alone.
  for (const char* longest : {"0.1", "1.2"}) {
    expect_to_follow(with(small_lesson, {"--net", "dense 4", "--rule", "momentum", "--steps", "1,2",
                                         "--clip-norm", longest}));
  }
}

}  // namespace
}  // namespace lattice::testing
