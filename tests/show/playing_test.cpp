#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "lattice/lattice.hpp"
#include "support/pages.hpp"
#include "support/worked.hpp"
#include "text/arithmetic.hpp"

/// A page that is played with: by keyboard and mouse, in a browser (play_with_page.py).
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::StartsWith;

const Words cracks = {"work",    "cracks", "--net",  "dense 3, tanh, dense 2",
                      "--batch", "4",      "--rate", "0.1",
                      "--steps", "1,2"};

/// What was seen on the page of a lesson.
Json played(const std::string& what, const Words& lesson = cracks) {
  return seen_on_page("play_with_page.py", what, lesson);
}

TEST(playing, changes_numbers_by_typing_and_with_the_arrows_and_puts_them_back) {
  const Json seen = played("keys");
  EXPECT_EQ(seen["start"]["changes"], 0);
  EXPECT_EQ(seen["nonsense"]["said"], "nonsense is not a number");
  EXPECT_EQ(seen["nonsense"]["changes"], 0);
  EXPECT_EQ(seen["typed"]["gives"], " = −2.5");
  EXPECT_EQ(seen["typed"]["was"], " was −0.46545, −2.03");
  EXPECT_EQ(seen["typed"]["own"], 1);
  EXPECT_EQ(seen["typed"]["hash"], "#;1%3Ahidden.weight%5B0%2C1%5D%3D-2.5");
  EXPECT_THAT(seen["typed"]["bar"].get<std::string>(),
              AllOf(HasSubstr("step 1: hidden.weight[0,1]: −0.46545 → −2.5"),
                    HasSubstr("loss 0.75931\nwas 0.59845, +0.161"), HasSubstr("changed most:")));
  EXPECT_GT(seen["typed"]["lines"], 10);
  EXPECT_EQ(seen["up"]["gives"], " = −2.48");
  EXPECT_EQ(seen["down"]["gives"], " = −2.58");
  EXPECT_EQ(seen["down"]["focus"], "INPUT text");
  EXPECT_EQ(seen["most"]["asked"], "new hidden.weight[0,1]");
  EXPECT_EQ(seen["two"]["changes"], 2);
  EXPECT_EQ(seen["one_back"]["changes"], 1);
  EXPECT_EQ(seen["one_back"]["gives"], " = 12.6");
  EXPECT_EQ(seen["all_back"]["changes"], 0);
  EXPECT_EQ(seen["all_back"]["lines"], 0);
  EXPECT_EQ(seen["all_back"]["hash"], "");
  // A digit that is typed into a field goes to no stage.
  EXPECT_EQ(seen["example"], Json({2, "forward"}));
}

TEST(playing, follows_a_number_while_it_is_dragged) {
  const Json seen = played("drag");
  EXPECT_EQ(seen["held"]["changes"], 1);
  EXPECT_GT(seen["held"]["lines"], 10);
  EXPECT_THAT(seen["held"]["was"].get<std::string>(), StartsWith(" was 0, +"));
  EXPECT_EQ(seen["released"]["changes"], 1);
}

TEST(playing, chooses_the_true_class_by_its_name) {
  const Json seen = played("classes");
  EXPECT_EQ(seen["names"], Json({"0 cracked", "1 sound"}));
  EXPECT_NE(seen["before"]["gives"], seen["after"]["gives"]);
  EXPECT_GT(seen["after"]["lines"], 10);
  EXPECT_EQ(seen["calculated"], 0);
  // Where it takes too long to be done at once, the page says what would not.
  EXPECT_THAT(seen["slow"].get<std::string>(),
              HasSubstr("takes 0.6 s: it is done when you let go. With --batch 1 it"));
}

TEST(playing, asks_first_which_way_the_loss_will_go_and_keeps_the_score) {
  const Json seen = played("predict");
  const Json& asked = seen["asked"];
  ASSERT_EQ(asked.size(), 4U);
  for (const Json& each : asked) {
    EXPECT_THAT(each["asked"]["question"].get<std::string>(),
                HasSubstr("Will loss go up or down?"));
    EXPECT_EQ(each["after"]["changes"], 1);
  }
  // Nothing is revealed before the answer.
  EXPECT_EQ(asked[0]["asked"]["changes"], 0);
  EXPECT_EQ(asked[1]["asked"]["loss"], asked[0]["after"]["loss"]);
  EXPECT_THAT(asked[0]["after"]["question"].get<std::string>(),
              AllOf(HasSubstr("Yes: loss went up"), HasSubstr("1 of 1 predicted")));
  EXPECT_THAT(asked[1]["after"]["question"].get<std::string>(),
              AllOf(HasSubstr("No: loss went up"), HasSubstr("1 of 2 predicted")));
  EXPECT_THAT(asked[2]["after"]["question"].get<std::string>(), HasSubstr("1 of 3 predicted"));
  EXPECT_THAT(asked[3]["after"]["question"].get<std::string>(), HasSubstr("1 of 3 predicted"));
  EXPECT_EQ(seen["off"]["question"], "");
  EXPECT_EQ(seen["off"]["changes"], 1);
  EXPECT_EQ(seen["is_still_off"], true);
}

/// Three tables: one, another, and the difference of their numbers.
void expect_difference(const Json& tables, const std::string& name, const std::string& other) {
  EXPECT_EQ(tables[0][0], name);
  EXPECT_EQ(tables[1][0], other);
  EXPECT_EQ(tables[2][0], "difference in " + name);
  double moved = 0.0;
  for (std::size_t at = 0; at < tables[0][1].size(); ++at) {
    const double by = tables[2][1][at];
    EXPECT_EQ(tables[0][1][at].get<double>() - tables[1][1][at].get<double>(), by);
    moved += std::abs(by);
  }
  EXPECT_GT(moved, 0.1);
}

TEST(playing, shows_numbers_beside_those_before_the_changes_and_of_another_step) {
  const Json seen = played("beside");
  expect_difference(seen["before"], "hidden", "hidden, before the changes");
  expect_difference(seen["step"], "hidden", "hidden, step 2");
}

TEST(playing, saves_changes_to_a_file_and_loads_them) {
  const Json seen = played("files");
  EXPECT_EQ(seen["saved"]["page"], "cracks: dense 3, tanh, dense 2");
  EXPECT_EQ(seen["saved"]["steps_taken"], 1);
  EXPECT_EQ(seen["saved"]["changes"],
            Json::parse(R"([{"step": "1", "number": "hidden.weight[0,1]", "value": 0.5},
                            {"step": "1", "number": "rate", "value": 0.3}])"));
  const Json& loaded = seen["loaded"];
  EXPECT_EQ(loaded[0]["said"], "2 of the 2 changes in <b>0.json fit this page.");
  EXPECT_EQ(loaded[1]["said"], "There are no changes in <b>1.json.");
  EXPECT_EQ(loaded[2]["said"], "There are no changes in <b>2.json.");
  EXPECT_EQ(loaded[3]["said"], "0 of the 7 changes in <b>3.json fit this page.");
  for (const Json& each : loaded) {
    EXPECT_EQ(each["changes"], 2);
    EXPECT_EQ(each["steps"], Json({"step 1", "step 2", "step 3", "+ step 4"}));
    EXPECT_EQ(each["markup"], 0);
  }
}

/// The answers of a network of two features, by hand.
std::int64_t answer_by_hand(const Json& weights, double x, double y) {
  std::vector<double> hidden = flat(weights["hidden.bias"]);
  const std::vector<double> first = flat(weights["hidden.weight"]);
  for (std::size_t unit = 0; unit < hidden.size(); ++unit)
    hidden[unit] = std::tanh(hidden[unit] + x * first[unit] + y * first[hidden.size() + unit]);
  std::vector<double> scores = flat(weights["output.bias"]);
  const std::vector<double> second = flat(weights["output.weight"]);
  for (std::size_t unit = 0; unit < hidden.size(); ++unit) {
    for (std::size_t of = 0; of < 2; ++of)
      scores[of] += hidden[unit] * second[2 * unit + of];
  }
  return scores[1] > scores[0] ? 1 : 0;
}

TEST(playing, takes_ten_steps_by_hand_and_changes_the_rate_on_the_way) {
  const Json seen = played("steps", with(cracks, {"--scale", "none"}));
  EXPECT_EQ(seen["start"], Json({"step 1", "step 2", "+ step 3"}));
  EXPECT_EQ(seen["end"]["steps"].size(), 12U);
  for (std::size_t at = 0; at < 12; ++at)
    EXPECT_EQ(seen["rates"][at], at < 5 ? 0.1 : 0.5);
  // The loss by step, with the change and without.
  EXPECT_THAT(seen["losses"], ::testing::Contains(12).Times(2));
  EXPECT_EQ(seen["plane"]["isShown"], true);
  EXPECT_GT(seen["plane"]["colours"], 20);
  EXPECT_THAT(seen["plane"]["words"].get<std::string>(),
              AllOf(HasSubstr("before the update of step 12"), HasSubstr("across thickness")));
  const std::vector<std::pair<double, double>> points = {{4, 20}, {8, 40}, {14, 70}};
  for (std::size_t at = 0; at < points.size(); ++at) {
    EXPECT_EQ(seen["corners"][at],
              answer_by_hand(seen["weights"], points[at].first, points[at].second));
  }
}

TEST(playing, takes_sums_and_fractions_for_numbers) {
  const std::vector<std::pair<std::string, std::optional<double>>> expected = {
      {"0,3", 0.3},       {"(0.3 − 1)/4", -0.175},
      {"1/3", 1.0 / 3.0}, {"2·3×4", 24.0},
      {"-2^2", -4.0},     {"2^-1", 0.5},
      {"1e-3*5", 0.005},  {"((1))", 1.0},
      {" 1 + 2 ", 3.0},   {"3--2", 5.0},
      {"", {}},           {"(", {}},
      {"1)", {}},         {"1 2 +", {}},
      {"1//2", {}},       {"1/0", {}},
      {"alert(1)", {}},   {"2**3", {}},
      {"0x10", {}},       {"1e999", {}}};
  const Json seen = played("typed");
  for (std::size_t at = 0; at < expected.size(); ++at) {
    const auto& [text, number] = expected[at];
    ASSERT_EQ(seen[at][0], text);
    EXPECT_EQ(seen[at][1].is_null(), !number.has_value()) << text;
    if (number && !seen[at][1].is_null()) {
      EXPECT_DOUBLE_EQ(seen[at][1].get<double>(), *number) << text;
    }
  }
  // The prompt reads the same.
  for (const Json& each : seen) {
    const std::optional<double> number = parse_arithmetic(each[0].get<std::string>());
    EXPECT_EQ(each[1].is_null(), !number.has_value()) << each[0];
    if (number && !each[1].is_null()) {
      EXPECT_DOUBLE_EQ(each[1].get<double>(), *number) << each[0];
    }
  }
  EXPECT_TRUE(seen[20][1].is_null());
  EXPECT_TRUE(seen[21][1].is_null());
  EXPECT_EQ(seen[22][1], 3.0);
}

/// What is said of the slips of an exercise, by the kind of its blank and the slip.
std::string said_of(const Json& seen, const std::string& kind, const std::string& slip) {
  for (const Json& each : seen["slips"]) {
    if (each[0] == kind && each[1] == slip) return each[2][1];
  }
  return "";
}

TEST(playing, says_of_a_wrong_answer_what_may_have_gone_wrong_and_keeps_what_was_answered) {
  const Json seen =
      played("slips", {"work", "glazes", "--net", "dense 4, tanh, dense 4", "--batch", "3",
                       "--rate", "0.5", "--blank", "∂hidden.weight[1,0]", "--blank",
                       "new output.weight[2,1]", "--blank", "hidden[2,0]"});
  EXPECT_EQ(said_of(seen, "gradient", "sign"), "The sign is wrong.");
  EXPECT_EQ(said_of(seen, "gradient", "mean"),
            "It is 3 times too large: the mean over the rows divides by 3.");
  EXPECT_EQ(said_of(seen, "gradient", "half"), "It is half of what it should be.");
  EXPECT_EQ(said_of(seen, "gradient", "transposed"),
            "That is ∂hidden.weight[0,1]: rows and columns are exchanged.");
  EXPECT_EQ(said_of(seen, "gradient", "other"), "That is ∂hidden.weight[1,1].");
  EXPECT_EQ(said_of(seen, "gradient", "term"), "One term of the sum is missing.");
  EXPECT_EQ(said_of(seen, "after", "before"), "That is the weight before the update.");
  EXPECT_EQ(said_of(seen, "after", "direction"),
            "The step goes the other way: a weight moves against its gradient.");
  // Of a forward line no mean is told.
  EXPECT_EQ(said_of(seen, "value", "mean"), "");
  for (const Json& each : seen["slips"]) {
    const std::string said = each[2][1];
    EXPECT_THAT(each[2][2].get<std::string>(), HasSubstr(said));
  }
  // While a blank is open no number is changed, and no step is taken that begins with its answer.
  EXPECT_EQ(seen["left"]["steps"], Json::array());
  EXPECT_EQ(seen["left"]["change"], "It can be changed once every blank is right or shown.");
  EXPECT_EQ(seen["left"]["summary"], "Exercise: 1 of 3 right");
  EXPECT_EQ(seen["found"]["blanks"], seen["left"]["blanks"]);
  EXPECT_EQ(seen["found"]["summary"], "Exercise: 1 of 3 right");
  EXPECT_EQ(seen["saved"]["name"], "Ada");
  EXPECT_EQ(seen["saved"]["answers"], seen["left"]["blanks"]);
  EXPECT_EQ(seen["saved"]["answers"][0]["state"], "right");
  EXPECT_GT(seen["saved"]["answers"][1]["hints"], 0);
  EXPECT_EQ(seen["done"]["steps"], Json({"+ step 2"}));
}

/// An exercise on paper has a box for each blank, and every number that one needs.
void expect_on_paper(const Words& exercise, const std::vector<std::string>& texts) {
  const Json seen = played("paper", exercise);
  EXPECT_EQ(seen["wrong"], Json::array());
  EXPECT_EQ(seen["boxes"].size(), seen["blanks"].get<std::size_t>());
  std::string all;
  for (std::size_t at = 0; at + 1 < seen["pages"].size(); ++at)
    all += seen["pages"][at].get<std::string>();
  for (std::size_t blank = 1; blank <= seen["boxes"].size(); ++blank)
    EXPECT_THAT(all, HasSubstr(fmt::format("▢{} ____", blank)));
  for (const std::string& text : texts)
    EXPECT_THAT(all, HasSubstr(text));
  EXPECT_THAT(all, ::testing::Not(HasSubstr("Answers")));
  EXPECT_THAT(seen["pages"].back().get<std::string>(), HasSubstr("Answers"));
}

TEST(playing, prints_a_box_for_every_blank_and_all_that_it_needs) {
  expect_on_paper({"work", "glazes", "--net", "dense 14, tanh, dense 4", "--rule", "adam",
                   "--batch", "6", "--blanks", "12"},
                  {"adam · rate = 0.001", "m[0,0] = β1 · m_before[0,0]", "∂tanh = ",
                   "∂hidden.weight = ", "columns 0 to 9 of 14", "columns 10 to 13 of 14"});
  expect_on_paper({"work", "stamps", "--net", "conv 2 of 3x3, maximum 2, flatten, dense 8",
                   "--batch", "2", "--blanks", "8", "--hard", "--in", "forward,reverse"},
                  {"What else the blanks need", "∂conv = "});
  expect_on_paper({"work", "studios", "--blanks", "8", "--hard"}, {"What else the blanks need"});
}

TEST(playing, says_what_a_gradient_means_and_a_change_bears_it_out) {
  const Json seen = played("meaning");
  std::size_t tried = 0;
  for (const Json& each : seen["gradients"]) {
    const std::string said = each["said"];
    const double gradient = each["gradient"];
    EXPECT_THAT(said, HasSubstr(gradient > 0.0 ? "larger." : "smaller.")) << each["name"];
    EXPECT_THAT(said, StartsWith(fmt::format("If {} were ", each["name"].get<std::string>())));
    const double moved = each["moved"];
    if (moved == 0.0) continue;
    ++tried;
    EXPECT_EQ(moved > 0.0, gradient > 0.0) << said;
    EXPECT_NEAR(std::abs(moved), std::abs(gradient) * 0.001, 0.01 * std::abs(moved)) << said;
    EXPECT_THAT(said, HasSubstr(format_number(std::abs(gradient) * 0.001, 3)));
  }
  EXPECT_EQ(tried, 3U);
  EXPECT_EQ(seen["gradients"][0]["place"], " feature 0 thickness, unit 1");
  for (const Json& each : seen["updates"]) {
    EXPECT_THAT(
        each["said"].get<std::string>(),
        HasSubstr(each["by"] > 0.0 ? "so the update raises it" : "so the update lowers it"));
  }
}

TEST(playing, follows_a_change_through_the_layers) {
  for (const Words& lesson :
       {Words{"work", "glazes", "--net", "dense 6, relu, residual (dense 6, tanh), dense 4",
              "--batch", "3", "--start", "normal 2", "--steps", "1,2"},
        Words{"work", "stamps", "--net",
              "conv 3 of 3x3, normalise, relu, maximum 2, flatten, dense 8", "--batch", "2"},
        Words{"work", "studios", "--net", "neighbours, dense 5, relu, neighbours, dense 4"}}) {
    const Json seen = played("flow", lesson);
    std::size_t layers = 0;
    for (const Json& step : seen["steps"]) {
      ASSERT_EQ(step["command"].size(), step["page"].size());
      for (std::size_t at = 0; at < step["page"].size(); ++at, ++layers) {
        for (const char* figure :
             {"standard_deviation", "gradient_norm", "weight_gradient_norm", "dead"}) {
          const double expected = step["command"][at][figure];
          EXPECT_NEAR(step["page"][at][figure].get<double>(), expected,
                      1e-9 * std::max(1.0, expected))
              << step["command"][at]["layer"] << " " << figure;
        }
      }
    }
    EXPECT_GT(layers, 3U);
    EXPECT_NE(seen["changed"], seen["before"]);
    EXPECT_EQ(seen["after"], seen["before"]);
  }
}

TEST(playing, is_not_led_astray_by_addresses) {
  for (const Json& each : played("hostile")) {
    EXPECT_EQ(each["changes"], 0) << each["hash"];
    EXPECT_EQ(each["asked"], "raw[0,0]");
  }
}

}  // namespace
}  // namespace lattice::testing
