#include "lattice/show/page.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <set>

#include "lattice/lattice.hpp"
#include "support/pictures.hpp"
#include "support/worked.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::Contains;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;
using ::testing::StartsWith;

const Words glazes = {"work",     "glazes",      "--net",          "dense 8, tanh, dense 4",
                      "--rule",   "adam",        "--rate",         "0.01",
                      "--steps",  "1,2,50",      "--curves",       "--judge-every",
                      "20 steps", "--reference", "a potter = 0.97"};

/// Uses a page as a student would; see drive_page.py.
Json drive(const std::string& page, const Json& answers = Json::array()) {
  return json_of(run_program(
      "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/drive_page.py", page, answers.dump()}));
}

/// The data inside a page.
Json data_of(const std::string& page) {
  const std::string html = content_of(page);
  const std::string start = "<script id=\"data\" type=\"application/json\">";
  const std::size_t from = html.find(start) + start.size();
  return Json::parse(html.substr(from, html.find("</script>", from) - from));
}

/// Every number that a page showed is the one that the JSON has, as the terminal writes it.
void expect_same_numbers(const Json& seen, const Json& step) {
  constexpr std::size_t window = 10;
  std::size_t compared = 0;
  for (const Json& entry : seen) {
    const std::string heading = entry["heading"];
    const std::string weight = heading.starts_with("new ") ? heading.substr(4) : "";
    for (const Json& table : entry["tables"]) {
      if (table["name"].get<std::string>().starts_with("the local derivative of ")) continue;
      const Json numbers = numbers_of(step, table["name"], weight);
      ASSERT_FALSE(numbers.is_null()) << table["name"] << " at " << heading;
      const std::vector<double> all = flat(numbers);
      const bool is_nested = numbers.is_array() && numbers[0].is_array();
      const std::size_t columns = is_nested ? numbers[0].size() : all.size();
      std::vector<double> in_window;
      for (std::size_t at = 0; at < all.size(); ++at) {
        if (at / columns < window && at % columns < window) in_window.push_back(all[at]);
      }
      ASSERT_EQ(table["cells"].size(), in_window.size()) << table["name"];
      for (std::size_t at = 0; at < in_window.size(); ++at) {
        if (table["cells"][at].is_null()) continue;
        EXPECT_EQ(table["cells"][at], format_number(in_window[at])) << table["name"];
        ++compared;
      }
    }
  }
  EXPECT_GT(compared, 1000U);
}

TEST(page, can_be_walked_asked_and_printed_and_shows_the_numbers_of_every_other_form) {
  const Folder folder;
  const std::string page = folder.path() / "glazes.html";
  ASSERT_EQ(lattice(with(glazes, {"--html", page})).status, 0);
  const Json report = drive(page);
  const Json worked = json_of(lattice(with(glazes, {"--json"})));

  // Through every line by keyboard: 22 forward, 8 back, 4 updates.
  ASSERT_EQ(report["walk"].size(), 34U);
  EXPECT_EQ(report["walk"][0]["stage"], "Forward");
  EXPECT_EQ(report["walk"][14]["stage"], "Loss");
  EXPECT_EQ(report["walk"][22]["stage"], "Reverse");
  EXPECT_EQ(report["walk"][33]["stage"], "Update");
  EXPECT_THAT(report["walk"][8]["said"].get<std::string>(), HasSubstr("hidden"));
  expect_same_numbers(report["walk"], worked["steps"][0]);
  EXPECT_EQ(report["walk"][0]["why"]["note"],
            fmt::format("Given: row {} of the data, column iron.",
                        worked["steps"][0]["rows"][0].get<std::int64_t>()));
  EXPECT_EQ(report["walk"][22]["why"]["note"],
            "The sweep starts here: a number changes exactly as much as itself, ∂x/∂x = 1.");
  for (const Json& line : report["walk"]) {
    for (const char* slip : {"{", "undefined"})
      EXPECT_THAT(line["why"]["note"].get<std::string>(), ::testing::Not(HasSubstr(slip)));
  }

  // What arrives is multiplied by a matrix, by numbers of their own, or passed on as it is.
  const auto entry_of = [&](const std::string& name) -> const Json& {
    return *std::ranges::find_if(report["walk"], [&](const Json& line) {
      return line["heading"].get<std::string>().starts_with(name);
    });
  };
  EXPECT_THAT(entry_of("∂loss")["words"],
              Contains("Local derivative: what is passed on, since 1 arrives."));
  EXPECT_THAT(entry_of("∂output")["words"],
              AllOf(Contains("Local derivative, a matrix to multiply by: output.weightᵀ"),
                    Contains("Local derivative, a matrix to multiply by: tanhᵀ"),
                    Contains("Local derivative: 1 everywhere.")));
  const Json& tanh = entry_of("∂tanh");
  EXPECT_THAT(tanh["words"], Contains("Local derivative, number by number:"));
  const Json& slopes = *std::ranges::find(tanh["tables"], "the local derivative of tanh",
                                          [](const Json& table) { return table["name"]; });
  const std::vector<double> values = flat(named(worked["steps"][0]["lines"], "tanh")["values"]);
  for (const std::size_t at : {std::size_t{0}, std::size_t{9}})
    EXPECT_EQ(slopes["cells"][at], format_number(1.0 - values[at] * values[at]));

  // Asked: each answer gives the number again, from numbers that are marked.
  EXPECT_EQ(report["went_on_to"], "step 2");
  ASSERT_EQ(report["asked"].size(), 7U);
  for (std::size_t at = 0; at < 4; ++at) {
    const Json& why = report["asked"][at];
    const bool starts_the_sweep = at == 2;
    EXPECT_EQ(why["formulas"].size() >= 2, !starts_the_sweep) << why;
    EXPECT_EQ(why["sources"].empty(), starts_the_sweep) << why;
    EXPECT_THAT(why["value"].get<std::string>(), StartsWith(" = "));
  }
  EXPECT_EQ(report["asked"][0]["subject"], "hidden[0,1]");
  EXPECT_EQ(report["asked"][0]["marked"], 11);
  EXPECT_EQ(report["asked"][2]["subject"], "∂loss");
  EXPECT_EQ(report["asked"][3]["subject"], "new hidden.weight[0,1]");
  // Followed: to a figure on the same desk, and to a line of the reverse sweep.
  EXPECT_EQ(report["asked"][4]["subject"], "m̂[0,1]");
  EXPECT_EQ(report["asked"][6]["subject"], "∂hidden.weight[0,1]");
  EXPECT_EQ(report["asked"][6]["trail"], 3);
  EXPECT_EQ(report["asked"][6]["heading"], "∂hidden.weight");
  // Backward, too, the numbers it came from are on the desk and marked: 16 of x, 16 of ∂hidden.
  EXPECT_EQ(report["asked"][6]["marked"], 20);

  // Words of a heading stay apart, and a minus stands at its term.
  const auto of_loss = std::ranges::find_if(report["walk"], [](const Json& line) {
    return line["heading"].get<std::string>().starts_with("loss");
  });
  std::string heading = (*of_loss)["heading"];
  std::erase(heading, '\n');
  EXPECT_EQ(heading, "loss=mean(−log\u00A0softmax(output)\u00A0at\u00A0y)");
  EXPECT_EQ(report["minibatches"], Json({"step 1", "step 2", "step 50"}));
  EXPECT_GT(report["evaluated"]["count"], 500);
  EXPECT_GT(report["evaluated"]["folded"], 10);
  EXPECT_EQ(report["evaluated"]["wrong"], Json::array());
  EXPECT_FALSE(report["other_minibatch"].empty());
  // 20 epochs of 75 steps; every 20th was looked at, five times at the end of an epoch.
  ASSERT_EQ(report["curves"].size(), 2U);
  EXPECT_EQ(report["curves"][0]["title"], "loss by step");
  EXPECT_EQ(report["curves"][1]["title"], "accuracy by step");
  for (const Json& drawing : report["curves"]) {
    EXPECT_EQ(drawing["points"]["minibatch"], 75);
    EXPECT_EQ(drawing["points"]["running"], 20 + 70);
    EXPECT_EQ(drawing["points"]["train"], 21);
    EXPECT_EQ(drawing["points"]["validation"], 21 + 70);
    EXPECT_THAT(drawing["words"], Contains("1500"));
  }
  EXPECT_THAT(report["curves"][0]["words"], Not(Contains("a potter: 0.97")));
  EXPECT_THAT(report["curves"][1]["words"], Contains("a potter: 0.97"));
  EXPECT_GE(report["blank_pages"].size(), 2U);
  EXPECT_THAT(report["blank_pages"][0].get<std::string>(), HasSubstr("Forward"));
  EXPECT_THAT(report["console"], IsEmpty());
  EXPECT_FALSE(report["requests"].empty());
  for (const Json& url : report["requests"])
    EXPECT_TRUE(url.get<std::string>().starts_with("file://") ||
                url.get<std::string>().starts_with("data:"))
        << url;
}

TEST(page, judges_an_exercise_with_hints_and_prints_it_with_the_answers_apart) {
  const Folder folder;
  const std::string page = folder.path() / "exercise.html";
  const Words lesson = {"work", "kiln", "--scale", "none", "--batch", "4", "--rate", "0.02"};
  const std::vector<std::string> names = {"output[1,0]", "∂output[2,0]", "∂output.weight[0,0]",
                                          "new output.weight[0,0]"};
  Words words = with(lesson, {"--html", page});
  for (const std::string& name : names) {
    words.emplace_back("--blank");
    words.push_back(name);
  }
  ASSERT_EQ(lattice(words).status, 0);
  const Json step = json_of(lattice(with(lesson, {"--json"})))["steps"][0];
  const std::vector<double> right = {
      flat(numbers_of(step, "output"))[1], flat(numbers_of(step, "∂output"))[2],
      flat(numbers_of(step, "∂output.weight"))[0], flat(numbers_of(step, "new output.weight"))[0]};
  Json answers = Json::array();
  for (const double number : right)
    answers.push_back(format_number(number, 4));
  const Json report = drive(page, answers);

  const Json& blanks = report["exercise"]["blanks"];
  ASSERT_EQ(blanks.size(), names.size());
  for (std::size_t at = 0; at < names.size(); ++at) {
    EXPECT_EQ(blanks[at]["name"], names[at]);
    EXPECT_EQ(blanks[at]["focused"], "input");
    EXPECT_EQ(blanks[at]["after"], "right") << blanks[at];
    EXPECT_THAT(blanks[at]["formulas_before"], IsEmpty());
  }
  // Wrong: first the formula, then the numbers, and never the answer.
  EXPECT_THAT(blanks[0]["nonsense"]["status"].get<std::string>(), HasSubstr("not a number"));
  EXPECT_EQ(blanks[0]["nonsense"]["formulas"], 0);
  EXPECT_THAT(blanks[0]["1e9"]["status"].get<std::string>(), HasSubstr("not right"));
  EXPECT_EQ(blanks[0]["1e9"]["formulas"], 1);
  EXPECT_EQ(blanks[0]["-1e9"]["formulas"], 2);
  EXPECT_EQ(blanks[0]["-1e9"]["value"], "");
  EXPECT_EQ(report["exercise"]["summary"], "Exercise: 4 of 4 right");
  EXPECT_THAT(report["console"], IsEmpty());

  // Printed before anything was filled in: boxes, and the answers on the last sheet alone.
  std::vector<std::string> sheets;
  for (const Json& sheet : report["blank_pages"]) {
    if (!sheet.get<std::string>().empty()) sheets.push_back(sheet);
  }
  ASSERT_GE(sheets.size(), 2U);
  EXPECT_THAT(sheets.front(), HasSubstr("▢1 ____"));
  for (const double number : right)
    EXPECT_THAT(sheets.back(), HasSubstr(format_number(number)));
  for (std::size_t at = 0; at + 1 < sheets.size(); ++at)
    EXPECT_THAT(sheets[at], Not(HasSubstr("Answers")));
}

TEST(page, leaves_as_many_numbers_blank_as_asked_for_spread_over_the_work) {
  const Folder folder;
  const std::string page = folder.path() / "a.html";
  const auto blanks = [&](const Words& more) {
    EXPECT_EQ(lattice(with(with(glazes, {"--html", page}), more)).status, 0);
    return data_of(page)["blanks"];
  };
  const Json twelve = blanks({"--blanks", "12", "--seed", "3"});
  ASSERT_EQ(twelve.size(), 12U);
  std::set<int> tables;
  std::set<std::pair<int, int>> spots;
  for (const Json& blank : twelve) {
    tables.insert(blank["table"].get<int>());
    spots.emplace(blank["table"].get<int>(), blank["place"].get<int>());
    EXPECT_GT(blank["within"].get<double>(), 0.0);
  }
  EXPECT_EQ(spots.size(), 12U);
  // Sums over 16 rows are too long, and the new weights stand in the next step.
  EXPECT_EQ(tables.size(), 6U);
  EXPECT_EQ(blanks({"--blanks", "12", "--seed", "3"}), twelve);
  EXPECT_NE(blanks({"--blanks", "12", "--seed", "3", "--blanks-seed", "4"}), twelve);
  EXPECT_THAT(lattice(with(glazes, {"--html", page, "--blanks", "9999"})).err,
              HasSubstr("cannot be left blank"));
  EXPECT_THAT(lattice(with(glazes, {"--html", page, "--blank", "hidden.weight[0,0]"})).err,
              HasSubstr("one that is given"));
}

TEST(page, tells_how_numbers_are_made_by_rules_that_fit_every_one_of_them) {
  const Folder folder;
  const std::string page = folder.path() / "a.html";
  ASSERT_EQ(lattice(with(glazes, {"--html", page})).status, 0);
  const Json data = data_of(page);
  // The three steps differ in their numbers alone, and so do those that can be taken.
  EXPECT_EQ(data["structures"].size(), 1U);
  EXPECT_EQ(data["shown"], 3);
  EXPECT_EQ(data["steps"].size(), 13U);
  const Json& tables = data["structures"][0]["tables"];
  for (std::size_t of = 0; of < tables.size(); ++of) {
    const Json& table = tables[of];
    if (!table.contains("made")) continue;
    const std::size_t count = data["steps"][0]["numbers"][of].size();
    std::size_t covered = 0;
    for (const Json& pattern : data["patterns"][table["made"].get<std::size_t>()]) {
      std::size_t places = pattern.size() > 2 ? 1 : count;
      for (const Json& positions : pattern.size() > 2 ? pattern[2] : Json::array())
        places *= positions[1].get<std::size_t>();
      covered += places;
      const std::string skeleton = data["skeletons"][pattern[0].get<std::size_t>()].dump();
      std::size_t gaps = 0;
      for (std::size_t at = skeleton.find("\"#\""); at != std::string::npos;
           at = skeleton.find("\"#\"", at + 1))
        ++gaps;
      EXPECT_EQ(gaps, pattern[1].size());
    }
    EXPECT_EQ(covered, count) << table["name"];
  }
}

TEST(page, shows_pictures_side_by_side_and_works_their_formulas) {
  const Folder folder;
  const std::string page = folder.path() / "pictures.html";
  WorkedExample example{.title = "pictures"};
  example.steps.push_back({1, 1, testing::worked_pictures({2, 3, 6, 2})});
  const Tensor x = example.steps[0].work.sheet().line("x").value();
  write_page(page, example);
  const Json report = drive(page);
  EXPECT_GT(report["evaluated"]["count"], 300);
  EXPECT_EQ(report["evaluated"]["wrong"], Json::array());
  EXPECT_EQ(report["console"], Json::array());
  // Two channels of the first picture, row by row; the others are a key press away.
  const Json& table = report["walk"][0]["tables"][0];
  ASSERT_EQ(table["name"], "x");
  std::vector<std::string> expected;
  for (std::int64_t row = 0; row < 3; ++row) {
    for (std::int64_t at = 0; at < 12; ++at)
      expected.push_back(format_number(x.at({0, row, at % 6, at / 6})));
  }
  EXPECT_EQ(table["cells"], Json(expected));
  // Before that, all of them as pictures without a number, the darker the farther from 0.
  const Json& drawn = report["pictures"][0];
  EXPECT_EQ(drawn["name"], "x");
  EXPECT_EQ(drawn["written"], "");
  EXPECT_EQ(drawn["sizes"].size(), 72U);
  const double largest = max(abs(x)).number();
  EXPECT_NEAR(drawn["sizes"][0], std::abs(x.at_offset(0)) / largest, 1e-3);
}

TEST(page, holds_no_further_steps_whose_formulas_are_written_for_their_numbers) {
  const Folder folder;
  const std::string page = folder.path() / "augmented.html";
  const Words stamps = {"work", "stamps",  "--rows", "60",     "--resize",
                        "8x8",  "--batch", "2",      "--html", page};
  ASSERT_EQ(lattice(stamps).status, 0);
  EXPECT_EQ(data_of(page)["steps"].size(), 11U);
  ASSERT_EQ(lattice(with(stamps, {"--augment", "turn 10"})).status, 0);
  EXPECT_EQ(data_of(page)["steps"].size(), 1U);
  EXPECT_EQ(data_of(page)["structures"].size(), 1U);
}

TEST(page, shows_the_patch_of_a_convolution) {
  const Folder folder;
  const std::string page = folder.path() / "stamps.html";
  ASSERT_EQ(lattice({"work", "stamps", "--rows", "60", "--net",
                     "conv 2 of 3x3, maximum 2, flatten, dense 8", "--batch", "2", "--html", page})
                .status,
            0);
  // The weights of what was flattened lie as the pictures do; formulas go by rows and columns.
  std::size_t laid_out = 0;
  const Json data = data_of(page);
  for (const Json& table : data["structures"][0]["tables"]) {
    if (table["name"] != "output.weight" && table["name"] != "∂output.weight") continue;
    EXPECT_EQ(table["shape"], Json({5, 5, 2, 8}));
    EXPECT_EQ(table["shape_in_formulas"], Json({50, 8}));
    EXPECT_EQ(table["roles"], Json({"row", "column", "channel", "class"}));
    ++laid_out;
  }
  EXPECT_EQ(laid_out, 2U);
  const Json report = drive(page);
  EXPECT_EQ(report["console"], Json::array());
  EXPECT_EQ(report["evaluated"]["wrong"], Json::array());
  const Json& patches = report["patches"];
  EXPECT_EQ(patches["count"], 2 * 10 * 10 * 2);
  EXPECT_EQ(patches["wrong"], 0);
  EXPECT_EQ(patches["cells"], Json({9, 9, 9}));
  EXPECT_EQ(patches["followed"], "x[0,0,0,0]");
  EXPECT_EQ(report["opened_at"], "conv[0,1,2,0]");
  // Each number of the kernel meets every place of every picture.
  EXPECT_EQ(patches["ofKernel"], Json({100, 100}));
}

TEST(page, stays_small) {
  const Folder folder;
  const std::string small = folder.path() / "small.html";
  ASSERT_EQ(lattice(with(glazes, {"--html", small})).status, 0);
  EXPECT_LT(std::filesystem::file_size(small), 500'000U);

  std::string table = "y";
  for (int column = 0; column < 144; ++column)
    table += fmt::format(",p{}", column);
  for (int row = 0; row < 24; ++row) {
    table += fmt::format("\nclass{}", row % 8);
    for (int column = 0; column < 144; ++column)
      table += fmt::format(",{}", (row * 31 + column * 17) % 101);
  }
  const std::string large = folder.path() / "large.html";
  const Answer answer =
      lattice({"work", "--file", folder.file("t.csv", table + "\n"), "--target", "y", "--net",
               "dense 32, tanh, dense 8", "--rule", "adam", "--batch", "8", "--html", large});
  ASSERT_EQ(answer.status, 0) << answer.err;
  EXPECT_LT(std::filesystem::file_size(large), 5'000'000U);
}

TEST(page, keeps_names_apart_from_its_own_language) {
  WorkedExample example{.title = "</script><b>&"};
  Random random(1);
  const Network net(Shape{1}, "dense 1", random);
  const Dataset kiln = demo_set("kiln", 4, 1);
  example.names = {.features = {"</script>"}, .targets = {"<t>"}, .classes = {}};
  example.steps.push_back({.work = WorkedMinibatch(net, RowSet(kiln).all(), Descent{})});
  const std::string html = page(example);
  EXPECT_THAT(html, HasSubstr("<title>&lt;/script>&lt;b>&amp;</title>"));
  EXPECT_THAT(html, Not(HasSubstr("</script>\"")));
  EXPECT_THAT(html, HasSubstr("\\u003c/script>"));
}

}  // namespace
}  // namespace lattice::testing
