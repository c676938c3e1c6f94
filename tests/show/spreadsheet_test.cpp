#include "lattice/show/spreadsheet.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"
#include "support/worked.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;

bool has_office() {
  return std::filesystem::exists("/usr/bin/soffice");
}

constexpr const char* no_office =
    "LibreOffice is not here: no spreadsheet was calculated anew (package libreoffice-calc)";

/// Calculates spreadsheets anew; see recalculate.py.
Json recalculated(const Folder& folder, const Json& jobs) {
  const std::string list = folder.file("jobs.json", jobs.dump());
  return json_of(
      run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/recalculate.py", list}));
}

/// Goes through all cells of a workbook that hold numbers.
template <class Visit>
std::size_t each_number(const Json& book, Visit visit) {
  std::size_t count = 0;
  for (const auto& [sheet, content] : book.items()) {
    for (std::size_t row = 0; row < content["cells"].size(); ++row) {
      for (std::size_t column = 0; column < content["cells"][row].size(); ++column) {
        const Json& cell = content["cells"][row][column];
        if (!cell.is_array()) continue;
        visit(fmt::format("{} row {} column {}", sheet, row + 1, column + 1), cell);
        ++count;
      }
    }
  }
  return count;
}

void expect_near(const Json& number, const Json& expected, const std::string& where) {
  ASSERT_TRUE(number.is_number() && expected.is_number()) << where << ": " << number;
  const double wanted = expected.get<double>();
  EXPECT_NEAR(number.get<double>(), wanted, 1e-9 * std::max(1.0, std::abs(wanted))) << where;
}

/// The pictures of x stand beside each other under their titles, with a column between them.
void expect_pictures_side_by_side(const Json& cells, const Tensor& x) {
  const Shape& shape = x.shape();
  std::size_t top = 0;
  while (cells[top][2] != "example 0, channel 0")
    ++top;
  for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
    const Index at = shape.index(offset);
    const std::int64_t table = at[0] * shape[3] + at[3];
    const auto left = static_cast<std::size_t>(2 + table * (shape[2] + 1));
    EXPECT_EQ(cells[top][left], fmt::format("example {}, channel {}", at[0], at[3]));
    const Json& cell =
        cells[top + 2 + static_cast<std::size_t>(at[1])][left + static_cast<std::size_t>(at[2])];
    EXPECT_NEAR(cell[1].get<double>(), x.at(at), 1e-14) << to_string(at);
  }
}

/// Sums over all numbers of a table, over all but the last, and over every other row.
WorkedExample sums_over_boxes() {
  Random random(3);
  const Dataset data = demo_set("shrinkage", 4, 1);
  const Part sums = OwnPart{.word = "sums", .needs = {}, .carry_out = [](const Line& x, Pass&) {
                              const Line in_a_row = reshape(x, Shape{x.shape().count()});
                              const Line most = slice(in_a_row, 0, {.end = x.shape().count() - 1});
                              return x * sum(x) + sum(most) * sum(slice(x, 0, {.step = 2}));
                            }};
  const Network net(data.example(), {sums, Dense{.outputs = 1}}, random);
  WorkedExample example{.title = "sums"};
  example.steps.push_back({1, 1, WorkedMinibatch(net, RowSet(data).all(), Descent{.rate = 0.1})});
  return example;
}

std::size_t formulas_in(const Json& book) {
  std::size_t count = 0;
  for (const Json& sheet : book)
    count += sheet["formulas"].get<std::size_t>();
  return count;
}

const Words small = {"work", "glazes", "--batch", "5"};

const std::vector<Words>& lessons() {
  static const std::vector<Words> all = {
      // Each activation
      with(small, {"--net", "dense 3, sigmoid, dense 4"}),
      with(small, {"--net", "dense 3, tanh, dense 4"}),
      with(small, {"--net", "dense 3, relu, dense 4"}),
      with(small, {"--net", "dense 3, leaky-relu, dense 4"}),
      with(small, {"--net", "dense 3, softplus, dense 4"}),
      with(small, {"--net", "dense 3, elu, dense 4"}),
      with(small, {"--net", "dense 3, bypass(dense 3, tanh), dense 4"}),
      with(small, {"--net", "dense 6, dropout 0.5, dense 4, softmax"}),
      // Each loss
      {"work", "shrinkage", "--batch", "5", "--loss", "mean squared"},
      {"work", "shrinkage", "--batch", "5", "--loss", "half mean squared", "--l2", "0.1"},
      {"work", "cracks", "--batch", "5", "--net", "dense 3, tanh, dense 1"},
      with(small, {"--loss", "cross-entropy", "--l2", "0.01"}),
      // Each rule, at a step at which it remembers something
      with(small, {"--rule", "momentum", "--step", "3", "--weight-decay", "0.1"}),
      with(small, {"--rule", "rms", "--step", "3", "--weight-decay", "0.1"}),
      with(small, {"--rule", "adam", "--step", "3", "--weight-decay", "0.1"}),
      with(small, {"--rule", "descent", "--weight-decay", "0.1", "--longest-gradient", "0.01"}),
      // A graph
      {"work", "studios", "--rows", "12", "--net",
       "neighbours, dense 3 without bias, tanh, neighbours, dense 4", "--rule", "momentum",
       "--step", "2", "--l2", "0.01"},
      // Pictures: strides, borders, chosen connections, both poolings
      {"work", "stamps", "--rows", "40", "--resize", "8x8", "--batch", "2", "--net",
       "conv 2 of 3x3 stride 2 border 1, relu, maximum 2, conv 2 of 2x2 keeping size from 1 at "
       "random, average 2x2 stride 1, flatten, dense 8"},
      {"work", "stamps", "--rows", "40", "--resize", "6x6", "--batch", "2", "--net",
       "conv 2 of 3x3, relu, maximum all, dense 8"},
      {"work", "stamps", "--rows", "40", "--resize", "6x6", "--batch", "2", "--net",
       "conv 2 of 3x3, normalise, relu, flatten, dense 8"},
      with(small, {"--net", "dense 3, normalise each example, tanh, dense 4"}),
      {"work", "stamps", "--rows", "40", "--resize", "6x6", "--batch", "2", "--scale", "contrast 3",
       "--augment", "shift 1 filled with 9, turn 15, brightness 0.2", "--net",
       "bypass(conv 2 of 3x3 stride 2 border 1, normalise) past conv 2 of 1x1 stride 2, contrast "
       "3, "
       "average all, dense 8"},
      // Steps that follow one another, and so many terms that sums are set apart
      with(small, {"--rule", "adam", "--net", "dense 3, tanh, dense 4", "--steps", "2,3"}),
      {"work", "glazes", "--batch", "60", "--net", "First: dense 40, tanh, dense 4"},
      {"work", "glazes", "--batch", "120", "--net", "dense 3, tanh, dense 4"}};
  return all;
}

TEST(spreadsheet, asks_for_fewer_pictures_where_they_are_too_wide_and_for_fewer_columns_elsewhere) {
  const Folder folder;
  Random random(1);
  const Shape wide =
      Shape{1, 1, 1, 9000}.with({Role::example, Role::row, Role::column, Role::channel});
  const auto trouble = [&](const Tensor& features) {
    const Dataset data = dataset_of_numbers(features, zeros({1}));
    const Part first = OwnPart{.word = "first", .needs = {}, .carry_out = [](const Line& x, Pass&) {
                                 return reshape(sum(x), Shape{1, 1});
                               }};
    const Network net(data.example(), {first, Dense{.outputs = 1}}, random);
    WorkedExample example{.title = "wide"};
    example.steps.push_back({1, 1, WorkedMinibatch(net, RowSet(data).all(), Descent{.rate = 0.1})});
    return said<SettingError>([&] { write_spreadsheet(folder.path() / "wide.xlsx", example); });
  };
  EXPECT_THAT(trouble(zeros(wide)), HasSubstr("work fewer rows"));
  EXPECT_THAT(trouble(zeros({1, 17'000})), HasSubstr("take some columns of the table"));
}

TEST(spreadsheet, gives_our_numbers_when_another_program_calculates_it_anew) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  Json jobs = Json::array();
  std::vector<Json> steps;
  for (const Words& lesson : lessons()) {
    const std::string path = folder.path() / fmt::format("{}.xlsx", jobs.size());
    ASSERT_EQ(lattice(with(lesson, {"--xlsx", path})).status, 0)
        << fmt::format("{}", lesson.back());
    steps.push_back(json_of(lattice(with(lesson, {"--json"})))["steps"]);
    jobs.push_back({{"file", path}});
  }
  WorkedExample pictures{.title = "pictures"};
  pictures.steps.push_back({1, 1, testing::worked_pictures({2, 3, 4, 2})});
  const Tensor x = pictures.steps[0].work.sheet().line("x").value();
  const std::string of_pictures = folder.path() / "pictures.xlsx";
  write_spreadsheet(of_pictures, pictures);
  jobs.push_back({{"file", of_pictures}});
  const std::string of_sums = folder.path() / "sums.xlsx";
  write_spreadsheet(of_sums, sums_over_boxes());
  jobs.push_back({{"file", of_sums}});
  Json books = recalculated(folder, jobs);
  ASSERT_EQ(books.size(), lessons().size() + 2);
  expect_pictures_side_by_side(books[books.size() - 2]["data"]["cells"], x);
  for (int more = 0; more < 2; ++more) {
    each_number(books.back(), [&](const std::string& where, const Json& cell) {
      expect_near(cell[1], cell[0], where);
    });
    books.erase(books.size() - 1);
  }
  for (std::size_t at = 0; at < books.size(); ++at) {
    const std::string lesson = ::testing::PrintToString(lessons()[at]);
    const std::size_t numbers =
        each_number(books[at], [&](const std::string& where, const Json& cell) {
          expect_near(cell[1], cell[0], lesson + " " + where);
        });
    EXPECT_GT(numbers, 60U) << lesson;
    EXPECT_GT(formulas_in(books[at]), 25U) << lesson;
    for (const auto& [name, sheet] : books[at].items()) {
      const bool is_second = name.ends_with(" 3");
      expect_near(sheet["cells"][1][2][1], steps[at][is_second ? 1 : 0]["loss_before"], lesson);
    }
  }
  EXPECT_TRUE(books.back().contains("partial sums"));
  // So long that each section has a sheet of its own.
  EXPECT_TRUE(books[books.size() - 2].contains("forward first"));
  EXPECT_TRUE(books[books.size() - 2].contains("reverse tanh"));
}

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
  expect_to_follow(with(small, {"--net", "dense 3, tanh, dense 4", "--rule", "adam"}));
}

TEST(spreadsheet, follows_a_number_of_a_kernel_that_is_changed) {
  if (!has_office()) GTEST_SKIP() << no_office;
  expect_to_follow({"work", "stamps", "--rows", "40", "--resize", "8x8", "--batch", "2", "--net",
                    "conv 2 of 3x3, tanh, maximum 2, flatten, dense 8"},
                   "conv.kernel");
}

TEST(spreadsheet, follows_an_edge_that_is_typed_in_where_there_was_none) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  const std::string nodes = folder.file(
      "nodes.csv", "name,guild\nAda,hill\nBo,river\nCy,hill\nDot,river\nEve,hill\nFlo,river\n");
  const std::string edges = "Ada,Cy\nCy,Eve\nBo,Dot\nDot,Flo\n";
  const auto book = [&](const std::string& name, const std::string& all_edges) {
    const std::string path = folder.path() / name;
    const Answer made =
        lattice({"work", "--file", nodes, "--edges", folder.file(name + ".csv", all_edges),
                 "--target", "guild", "--known", "1", "--net",
                 "neighbours, dense 3, tanh, neighbours, dense 2", "--xlsx", path});
    EXPECT_EQ(made.status, 0) << made.err;
    return path;
  };
  const std::string before = book("before.xlsx", edges);
  const Json plain = recalculated(folder, Json::array({{{"file", before}}}))[0];
  const std::size_t top = row_of(plain["data"]["cells"], "A ").value() + 3;
  // Ada takes from Bo, and Bo from Ada.
  const Json changes = {{fmt::format("data!D{}", top), 1.0},
                        {fmt::format("data!C{}", top + 1), 1.0}};
  const Json books =
      recalculated(folder, Json::array({{{"file", before}, {"changes", changes}},
                                        {{"file", book("after.xlsx", edges + "Ada,Bo\n")}}}));
  expect_ours(books[0], books[1], "an edge more");
}

TEST(spreadsheet, leaves_out_what_is_not_kept_of_a_large_graph) {
  const Folder folder;
  const auto formulas_of = [&](const std::string& nodes) {
    const std::string path = folder.path() / (nodes + ".xlsx");
    EXPECT_EQ(lattice({"work", "studios", "--rows", nodes, "--xlsx", path}).status, 0);
    return json_of(run_program(
        "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/texts_of_sheet.py", path}))["formulas"]
        .size();
  };
  // All of A + I, of the shares and of the features of neighbours, or what is kept of them.
  EXPECT_GT(formulas_of("100"), 30'000U);
  EXPECT_LT(formulas_of("101"), 10'000U);
  EXPECT_LT(formulas_of("400"), 40'000U);
  EXPECT_THAT(lattice({"work", "studios", "--rows", "2000", "--net",
                       "neighbours, dense 40, tanh, dense 4", "--xlsx", folder.path() / "m.xlsx"})
                  .err,
              HasSubstr("fewer rows: --rows 100"));
}

TEST(spreadsheet, follows_a_changed_weight_through_a_shortened_gradient_and_into_the_next_steps) {
  if (!has_office()) GTEST_SKIP() << no_office;
  // The gradients are 1.4 and 1.0 long: both are shortened, or the first alone.
  for (const char* longest : {"0.1", "1.2"}) {
    expect_to_follow(with(small, {"--net", "dense 4", "--rule", "momentum", "--steps", "1,2",
                                  "--longest-gradient", longest}));
  }
}

TEST(spreadsheet, shows_the_loss_of_each_step_and_says_where_steps_are_left_out) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  const std::string path = folder.path() / "steps.xlsx";
  const Words lesson = with(small, {"--net", "dense 4", "--steps", "1,2,5"});
  ASSERT_EQ(lattice(with(lesson, {"--xlsx", path})).status, 0);
  const Json steps = json_of(lattice(with(lesson, {"--json"})))["steps"];
  const Json book = recalculated(folder, Json::array({{{"file", path}}}))[0];
  for (const Json& step : steps) {
    for (const char* stage : {"data", "forward", "reverse", "update"}) {
      const Json& cells = book[fmt::format("{} {}", stage, step["step"].get<int>())]["cells"];
      expect_near(cells[1][2][1], step["loss_before"], stage);
      const bool says_gap = cells[1].size() > 3 && cells[1][3] != "";
      EXPECT_EQ(says_gap, step["step"] == 5) << stage;
    }
  }
  EXPECT_THAT(book["forward 5"]["cells"][1][3].get<std::string>(),
              HasSubstr("Between step 2 and step 5 others were taken"));
}

/// The cells of the sheet `any row` after a row was chosen, of a lesson with its first minibatch.
Json chosen(const Folder& folder, const Lesson& lesson, const std::vector<std::int64_t>& rows) {
  const std::string path = folder.path() / "any.xlsx";
  write_spreadsheet(path, prepare(lesson).work(std::vector<std::int64_t>{1}));
  Json jobs = Json::array();
  for (const std::int64_t row : rows)
    jobs.push_back({{"file", path}, {"changes", {{"any row!C4", row}}}});
  Json sheets = Json::array();
  for (const Json& book : recalculated(folder, jobs))
    sheets.push_back(book["any row"]["cells"]);
  return sheets;
}

TEST(spreadsheet, answers_for_any_row_that_is_chosen_and_tallies_the_minibatch) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  for (const char* text :
       {"[data]\nset = \"glazes\"\nrows = 60\n[network]\nnet = \"dense 3, tanh, dense 4\"\n",
        "[data]\nset = \"cracks\"\nrows = 60\n[network]\nnet = \"dense 3, tanh, dense 1\"\n",
        "[data]\nset = \"cracks\"\nrows = 60\nscale = \"none\"\n[network]\nnet = \"dense 2, "
        "softmax\"\n[training]\nloss = \"mean squared\"\n",
        "[data]\nset = \"cracks\"\nrows = 60\n[network]\nnet = \"dense 2\"\n"
        "[training]\nloss = \"mean squared\"\n"}) {
    const Lesson lesson = parse_lesson(text, "lesson");
    const Prepared prepared = prepare(lesson);
    const Dataset& data = prepared.data();
    const Answers answers =
        ask(model_of(prepared.network, prepared.loss, prepared.split.train), data.features);
    const std::vector<std::int64_t> rows = {0, 17, 59};
    const Json sheets = chosen(folder, lesson, rows);
    for (std::size_t at = 0; at < rows.size(); ++at) {
      const Json& cells = sheets[at];
      const auto answer = static_cast<std::int64_t>(answers.classes.at({rows[at]}));
      const auto truth = static_cast<std::int64_t>(data.classes.at({rows[at]}));
      EXPECT_EQ(cells[5][2], data.class_name(answer)) << text;
      EXPECT_EQ(cells[5][5][1], answer == truth ? 1.0 : 0.0) << text;
      for (std::int64_t of = 0; of < data.class_count(); ++of) {
        const Json& row = cells[9 + static_cast<std::size_t>(of)];
        EXPECT_EQ(row[1], data.class_name(of));
        expect_near(row[2][1], answers.probabilities.at({rows[at], of}), text);
        EXPECT_EQ(row[3][1], of == truth ? 1.0 : 0.0) << text;
      }
    }
    EXPECT_EQ(sheets[0][8][2],
              std::string(text).ends_with("2\"\n[training]\nloss = \"mean squared\"\n")
                  ? "level"
                  : "probability");
    // The tally is of the minibatch, whichever row is chosen.
    const WorkedMinibatch work = prepared.work(1);
    const Tensor& confusion = work.sheet().line("confusion").value();
    for (std::int64_t of = 0; of < data.class_count(); ++of) {
      const Json& row = sheets[1][9 + static_cast<std::size_t>(of)];
      EXPECT_EQ(row[5][1], sum(confusion, {.axes = {1}}).at({of})) << text;
      EXPECT_EQ(row[6][1], sum(confusion, {.axes = {0}}).at({of})) << text;
      EXPECT_EQ(row[7][1], confusion.at({of, of})) << text;
    }
    const Json& all = sheets[1][9 + static_cast<std::size_t>(data.class_count())];
    EXPECT_EQ(all[5][1], 16.0);
    expect_near(all[7][1], 16.0 * work.sheet().line("accuracy").value().number(), text);
  }
}

TEST(spreadsheet, says_of_any_row_what_number_is_answered_and_how_far_it_is_off) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  for (const char* scale : {"standard", "none"}) {
    const Lesson lesson = parse_lesson(
        fmt::format("[data]\nset = \"shrinkage\"\nrows = 40\nscale = \"{}\"\n", scale), "lesson");
    const Prepared prepared = prepare(lesson);
    const Answers answers = ask(model_of(prepared.network, prepared.loss, prepared.split.train),
                                prepared.data().features);
    const Json sheets = chosen(folder, lesson, {3, 39});
    for (std::size_t at = 0; at < 2; ++at) {
      const std::int64_t row = at == 0 ? 3 : 39;
      const double truth = prepared.data().targets.at({row, 0});
      const Json& cells = sheets[at][9];
      expect_near(cells[2][1], answers.numbers.at({row, 0}), scale);
      expect_near(cells[3][1], truth, scale);
      expect_near(cells[4][1], answers.numbers.at({row, 0}) - truth, scale);
    }
  }
}

// Parts may have the names of lines that we write, in capitals or not.
TEST(spreadsheet, tells_its_own_lines_from_parts_of_the_same_name) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  const std::string glazes = "[data]\nset = \"glazes\"\nrows = 60\n[network]\nnet = ";
  for (const char* net : {"\"t: dense 3, p: tanh, Y: dense 4\"",
                          "\"answer: dense 3, right: tanh, y: dense 3, confusion: dense 4\""}) {
    const Lesson lesson = parse_lesson(glazes + net + "\n", "lesson");
    const Prepared prepared = prepare(lesson);
    const Answers answers = ask(model_of(prepared.network, prepared.loss, prepared.split.train),
                                prepared.data().features);
    const Json cells = chosen(folder, lesson, {5})[0];
    for (std::int64_t of = 0; of < 4; ++of) {
      expect_near(cells[9 + static_cast<std::size_t>(of)][2][1], answers.probabilities.at({5, of}),
                  net);
    }
    EXPECT_EQ(cells[13][5][1], 16.0) << net;
  }
  const Lesson kiln = parse_lesson(
      "[data]\nset = \"kiln\"\n[network]\nnet = \"off: dense 3, y_raw: tanh, dense 1\"\n",
      "lesson");
  const Prepared prepared = prepare(kiln);
  const Answers answers = ask(model_of(prepared.network, prepared.loss, prepared.split.train),
                              prepared.data().features);
  const Json cells = chosen(folder, kiln, {5})[0][9];
  expect_near(cells[2][1], answers.numbers.at({5, 0}), "kiln");
  expect_near(cells[3][1], prepared.data().targets.at({5, 0}), "kiln");
}

TEST(spreadsheet, has_any_row_of_a_table_alone_and_none_beside_an_exercise) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  const std::string path = folder.path() / "exercise.xlsx";
  ASSERT_EQ(lattice({"work", "kiln", "--batch", "4", "--xlsx", path, "--blanks", "2"}).status, 0);
  EXPECT_FALSE(recalculated(folder, Json::array({{{"file", path}}}))[0].contains("any row"));
}

TEST(spreadsheet, has_an_exercise_whose_blanks_are_empty_and_whose_answers_are_apart) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  const std::string path = folder.path() / "exercise.xlsx";
  const Words lesson = {"work", "kiln", "--scale", "none", "--batch", "4", "--rate", "0.02"};
  ASSERT_EQ(
      lattice(with(lesson, {"--xlsx", path, "--blank", "output[1,0]", "--blank", "loss"})).status,
      0);
  const Json step = json_of(lattice(with(lesson, {"--json"})))["steps"][0];
  const Json book = recalculated(folder, Json::array({{{"file", path}}}))[0];
  const Json& answers = book["answers"]["cells"];
  EXPECT_EQ(answers[3][1], "output[1,0]");
  EXPECT_EQ(answers[4][1], "loss");
  expect_near(answers[3][2][1], flat(numbers_of(step, "output"))[1], "answer");
  expect_near(answers[4][2][1], step["loss_before"], "answer");
  // What hangs on a blank is made from the answer, whatever is in the blank.
  std::size_t gradients = 0;
  each_number(book, [&](const std::string& where, const Json& cell) {
    expect_near(cell[1], cell[0], where);
    ++gradients;
  });
  EXPECT_GT(gradients, 30U);
  // Neither blank says its number where it stands.
  for (const Json& row : book["forward"]["cells"]) {
    for (const Json& cell : row) {
      if (cell.is_array()) {
        EXPECT_NE(cell[1], step["loss_before"]);
      }
    }
  }
}

TEST(spreadsheet, colours_a_blank_by_what_is_typed_into_it) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  const std::string path = folder.path() / "exercise.xlsx";
  const Words lesson = {"work", "kiln", "--scale", "none", "--batch", "4", "--rate", "0.02"};
  ASSERT_EQ(lattice(with(lesson, {"--xlsx", path, "--blank", "output[1,0]"})).status, 0);
  const Json book = recalculated(folder, Json::array({{{"file", path}}}))[0];
  const double right = book["answers"]["cells"][3][2][0];
  // Where output stands: its heading, the head of its column, its first row, its second.
  const Json& cells = book["forward"]["cells"];
  std::size_t row = 0;
  while (!cells[row][1].is_string() || !cells[row][1].get<std::string>().starts_with("output = "))
    ++row;
  const std::string blank = fmt::format("forward!C{}", row + 4);
  const Json job = {{"file", path},
                    {"type", {{blank, {right, right * 1.004, right * 1.02, -right, 0.0}}}}};
  const Json judged = recalculated(folder, Json::array({job}))[0]["judged"][blank];
  const Json teal = {true, false};
  const Json plum = {false, true};
  EXPECT_EQ(judged, Json({teal, teal, plum, plum, plum}));
}

TEST(spreadsheet, refuses_to_grow_beyond_what_can_be_opened) {
  const Folder folder;
  const std::string path = folder.path() / "large.xlsx";
  const Answer answer =
      lattice({"work", "glazes", "--net", "dense 300, tanh, dense 300, tanh, dense 4", "--batch",
               "64", "--xlsx", path});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr("up to 200000 calculated cells"));
  EXPECT_THAT(answer.err, HasSubstr("fewer rows"));
  EXPECT_FALSE(std::filesystem::exists(path));
}

}  // namespace
}  // namespace lattice::testing
