#include "lattice/show/spreadsheet.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "support/books.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"
#include "support/worked.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;

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
  const Layer sums = OwnLayer{.word = "sums", .needs = {}, .carry_out = [](const Line& x, Pass&) {
                                const Line in_a_row = reshape(x, Shape{x.shape().count()});
                                const Line most =
                                    slice(in_a_row, 0, {.end = x.shape().count() - 1});
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

const std::vector<Words>& lessons() {
  static const std::vector<Words> all = {
      // Each activation
      with(small_lesson, {"--net", "dense 3, sigmoid, dense 4"}),
      with(small_lesson, {"--net", "dense 3, tanh, dense 4"}),
      with(small_lesson, {"--net", "dense 3, relu, dense 4"}),
      with(small_lesson, {"--net", "dense 3, leaky-relu, dense 4"}),
      with(small_lesson, {"--net", "dense 3, softplus, dense 4"}),
      with(small_lesson, {"--net", "dense 3, elu, dense 4"}),
      with(small_lesson, {"--net", "dense 3, residual(dense 3, tanh), dense 4"}),
      with(small_lesson, {"--net", "dense 6, dropout 0.5, dense 4, softmax"}),
      // Each loss
      {"work", "shrinkage", "--batch", "5", "--loss", "mean squared"},
      {"work", "shrinkage", "--batch", "5", "--loss", "half mean squared", "--l2", "0.1"},
      {"work", "cracks", "--batch", "5", "--net", "dense 3, tanh, dense 1"},
      with(small_lesson, {"--loss", "cross-entropy", "--l2", "0.01"}),
      // Each rule, at a step at which it remembers something
      with(small_lesson, {"--rule", "momentum", "--step", "3", "--weight-decay", "0.1"}),
      with(small_lesson, {"--rule", "rms", "--step", "3", "--weight-decay", "0.1"}),
      with(small_lesson, {"--rule", "adam", "--step", "3", "--weight-decay", "0.1"}),
      with(small_lesson, {"--rule", "descent", "--weight-decay", "0.1", "--clip-norm", "0.01"}),
      // A graph
      {"work", "studios", "--rows", "12", "--net",
       "neighbours, dense 3 without bias, tanh, neighbours, dense 4", "--rule", "momentum",
       "--step", "2", "--l2", "0.01"},
      // Pictures: strides, padding, chosen connections, both poolings
      {"work", "stamps", "--rows", "40", "--resize", "8x8", "--batch", "2", "--net",
       "conv 2 of 3x3 stride 2 padding 1, relu, maximum 2, conv 2 of 2x2 keeping size from 1 at "
       "random, average 2x2 stride 1, flatten, dense 8"},
      {"work", "stamps", "--rows", "40", "--resize", "6x6", "--batch", "2", "--net",
       "conv 2 of 3x3, relu, maximum all, dense 8"},
      {"work", "stamps", "--rows", "40", "--resize", "6x6", "--batch", "2", "--net",
       "conv 2 of 3x3, normalise, relu, flatten, dense 8"},
      with(small_lesson, {"--net", "dense 3, normalise each example, tanh, dense 4"}),
      {"work", "stamps", "--rows", "40", "--resize", "6x6", "--batch", "2", "--scale", "contrast 3",
       "--augment", "shift 1 filled with 9, turn 15, brightness 0.2", "--net",
       "residual(conv 2 of 3x3 stride 2 padding 1, normalise) with projection conv 2 of 1x1 stride "
       "2, contrast "
       "3, "
       "average all, dense 8"},
      // Steps that follow one another, and so many terms that sums are set apart
      with(small_lesson, {"--rule", "adam", "--net", "dense 3, tanh, dense 4", "--steps", "2,3"}),
      // Sheets of one's own
      {"work", LATTICE_SOURCE "/demo/sheets/two_layers.sheet", "--rule", "adam", "--rate", "0.01",
       "--steps", "2,3"},
      {"work", LATTICE_SOURCE "/demo/sheets/softmax_on_paper.sheet", "--rule", "momentum", "--rate",
       "0.1", "--steps", "2,3"},
      {"work", "glazes", "--batch", "60", "--net", "First: dense 40, tanh, dense 4"},
      {"work", "cracks", "--batch", "500", "--net", "dense 3, tanh, dense 1"}};
  return all;
}

TEST(spreadsheet, asks_for_fewer_pictures_where_they_are_too_wide_and_for_fewer_columns_elsewhere) {
  const Folder folder;
  Random random(1);
  const Shape wide =
      Shape{1, 1, 1, 9000}.with({Role::example, Role::row, Role::column, Role::channel});
  const auto trouble = [&](const Tensor& features) {
    const Dataset data = dataset_of_numbers(features, zeros({1}));
    const Layer first =
        OwnLayer{.word = "first", .needs = {}, .carry_out = [](const Line& x, Pass&) {
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

TEST(spreadsheet, shows_the_loss_of_each_step_and_says_where_steps_are_left_out) {
  if (!has_office()) GTEST_SKIP() << no_office;
  const Folder folder;
  const std::string path = folder.path() / "steps.xlsx";
  const Words lesson = with(small_lesson, {"--net", "dense 4", "--steps", "1,2,5"});
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
  EXPECT_THAT(answer.err, HasSubstr("in 1 step\n"));
  EXPECT_FALSE(std::filesystem::exists(path));
  // So many rows do fit, and one more does not.
  const std::string said = answer.err;
  const std::string before = "a smaller network, or fewer rows: --batch ";
  const std::size_t at = said.find(before);
  ASSERT_NE(at, std::string::npos) << said;
  const int rows = std::stoi(said.substr(at + before.size()));
  const auto with = [&](int count, const std::string& steps) {
    return lattice({"work", "glazes", "--net", "dense 300, tanh, dense 300, tanh, dense 4",
                    "--batch", std::to_string(count), "--steps", steps, "--xlsx", path});
  };
  EXPECT_EQ(with(rows, "1").status, 0);
  EXPECT_EQ(with(rows + 1, "1").status, 2);
  EXPECT_THAT(with(rows, "1,2").err, HasSubstr("try:      fewer steps\n"));
  // The updates of so many weights are too many for any number of rows.
  const std::string alone =
      lattice({"work", "glazes", "--net", "dense 400, tanh, dense 400, tanh, dense 4", "--batch",
               "1", "--xlsx", path})
          .err;
  EXPECT_THAT(alone, AllOf(HasSubstr("a smaller network\n"), Not(HasSubstr("--batch"))));
}

}  // namespace
}  // namespace lattice::testing
