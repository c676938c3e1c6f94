#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <regex>

#include "support/process.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

const std::string examples = LATTICE_EXAMPLES "/";

/// The number at the end of the line that starts with these words.
double figure(const std::string& text, const std::string& words) {
  std::smatch match;
  if (std::regex_search(text, match, std::regex(words + " +([-+.e0-9]+)\n")))
    return std::stod(match[1]);
  ADD_FAILURE() << words << " is not in\n" << text;
  return 1.0;
}

TEST(example_01, finds_the_same_line_by_hand_and_with_a_worksheet) {
  const Answer answer = run_program(examples + "01_linear_regression_by_hand", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_LT(figure(answer.out, "largest distance between a gradient by hand and the engine's"),
            1e-10);
  EXPECT_LT(figure(answer.out, "distance between the two W at the end"), 1e-10);
  EXPECT_LT(figure(answer.out, "distance between the two b at the end"), 1e-10);
  std::smatch last;
  ASSERT_TRUE(
      std::regex_search(answer.out, last, std::regex(" 200 +([.0-9]+) +([.0-9]+) +([.0-9]+)\n")));
  EXPECT_LT(std::stod(last[1]), 100.0);
  EXPECT_NEAR(std::stod(last[2]), 85.0, 2.0);
}

TEST(examples, of_lines_alone_end_in_a_page) {
  const Folder folder;
  for (const auto& [example, page] :
       {std::pair("01_linear_regression_by_hand", "a_line_by_hand"),
        std::pair("02_a_walk_back", "a_walk_back"),
        std::pair("03_naive_and_stable", "a_stable_softmax"),
        std::pair("05_softmax_regression_from_tensors", "softmax_from_tensors"),
        std::pair("13_a_convolution_by_hand", "a_convolution_by_hand")}) {
    EXPECT_EQ(run_program(examples + example, {folder.path()}).status, 0) << example;
    const std::string html = content_of(folder.path() / (std::string(page) + ".html"));
    EXPECT_THAT(html, HasSubstr("</html>")) << example;
  }
}

TEST(example_02, walks_the_record_back_and_checks_itself) {
  const Answer answer = run_program(examples + "02_a_walk_back", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("Forward: 8 lines"));
  EXPECT_THAT(answer.out, HasSubstr("passed on to W: xᵀ·∂a"));
  EXPECT_THAT(answer.out, HasSubstr("\n6 steps\n"));
  EXPECT_THAT(answer.out, HasSubstr("Two steps forward again: we stand at h"));
  EXPECT_THAT(answer.out, HasSubstr("first try:  differ: at [0,0]"));
  EXPECT_THAT(answer.out, HasSubstr("3 times the engine's"));
  EXPECT_THAT(answer.out, HasSubstr("second try: agree"));
  EXPECT_THAT(answer.out, HasSubstr("    ∂cost/∂a[0,0] = ∂h[0,0]·(1 − h[0,0]²)"));
  EXPECT_THAT(answer.out, HasSubstr("W: 4 numbers moved"));
  EXPECT_EQ(answer.out.find("differs"), std::string::npos);
}

/// The result after the title of a comparison and the name of a form.
std::string result_of(const std::string& text, const std::string& title, const std::string& form) {
  const std::size_t from = text.find(title);
  std::smatch match;
  const std::string rest = from == std::string::npos ? "" : text.substr(from);
  if (std::regex_search(rest, match, std::regex("  " + form + " +(\\S+)  gradient")))
    return match[1];
  ADD_FAILURE() << title << ", " << form << " is not in\n" << text;
  return "";
}

TEST(example_03, breaks_the_naive_form_where_the_stable_one_holds) {
  const Answer answer = run_program(examples + "03_naive_and_stable", {});
  EXPECT_EQ(answer.status, 0);
  for (const char* size : {"1000 in double", "100 in single"}) {
    const std::string to = std::string(", scores up to ±") + size;
    EXPECT_EQ(result_of(answer.out, "Softmax, its first number" + to, "naive"), "NaN");
    EXPECT_EQ(result_of(answer.out, "Softmax, its first number" + to, "stable"), "1");
    EXPECT_EQ(result_of(answer.out, "Cross-entropy" + to, "naive"), "∞");
    EXPECT_EQ(result_of(answer.out, "Binary cross-entropy" + to, "naive"), "∞");
  }
  EXPECT_EQ(result_of(answer.out, "Cross-entropy, scores up to ±1000", "stable"), "2000");
  EXPECT_EQ(result_of(answer.out, "Cross-entropy, scores up to ±10 in", "naive"), "20");
  EXPECT_THAT(answer.out, HasSubstr("exp overflows above e^709.78 in double precision"));
  EXPECT_THAT(answer.out, HasSubstr("exp overflows above e^88.723 in single precision"));
  EXPECT_THAT(answer.out, HasSubstr("on line 6, log"));
  EXPECT_THAT(answer.out, HasSubstr("cause:    log of 0"));
  const std::string at_zero = "Cross-entropy, the true class at −1000";
  EXPECT_EQ(result_of(answer.out, at_zero, "naive"), "∞");
  EXPECT_EQ(result_of(answer.out, at_zero, "patched"), format_number(-std::log(1e-12)));
  EXPECT_EQ(result_of(answer.out, at_zero, "stable"), "1000.7");
  EXPECT_EQ(result_of(answer.out, "with an epsilon of 1e-50", "patched"), "∞");
  EXPECT_THAT(answer.out, HasSubstr("remark epsilon-lost"));
}

TEST(readme_example, of_a_network_prints_what_the_readme_says) {
  const Answer answer = run_program(examples + "readme_network", {});
  EXPECT_THAT(content_of(LATTICE_SOURCE "/README.md"),
              HasSubstr("accuracy);   // " + answer.out.substr(0, answer.out.find('\n'))));
}

TEST(readme_example, prints_what_the_readme_says) {
  const Answer answer = run_program(examples + "readme", {});
  EXPECT_EQ(answer.status, 0);
  const std::string readme = content_of(LATTICE_SOURCE "/README.md");
  std::smatch match;
  ASSERT_TRUE(
      std::regex_search(readme, match, std::regex("```cpp\n[^`]*```\n+```text\n([^`]*)```")));
  EXPECT_EQ(answer.out, match[1].str());
}

TEST(example_04, gives_the_same_bits_by_hand_and_in_one_call) {
  const Answer answer = run_program(examples + "04_two_features_two_classes", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("Every weight has the same bits: yes"));
  EXPECT_THAT(answer.out, HasSubstr("A bent border, 33 weights"));
  std::smatch match;
  ASSERT_TRUE(
      std::regex_search(answer.out, match, std::regex("straight border: test accuracy ([.0-9]+)")));
  EXPECT_LT(std::stod(match[1]), 0.85);
  ASSERT_TRUE(std::regex_search(answer.out, match, std::regex("\n  test accuracy ([.0-9]+)")));
  EXPECT_GT(std::stod(match[1]), 0.92);
}

TEST(example_05, agrees_with_the_engine_and_with_a_network) {
  const Answer answer = run_program(examples + "05_softmax_regression_from_tensors", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("epoch   0: loss 1.38629"));
  EXPECT_THAT(answer.out, HasSubstr("∂loss/∂W on paper and by the engine agree"));
  EXPECT_THAT(answer.out, HasSubstr("∂loss/∂b on paper and by the engine agree"));
  EXPECT_THAT(answer.out, HasSubstr("The weights of the network and those above agree"));
}

TEST(example_06, judges_by_class_and_asks_about_a_raw_record) {
  const Answer answer = run_program(examples + "06_a_table_and_one_record", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("precision"));
  const std::size_t raw = answer.out.find("A shard:");
  const std::size_t alone = answer.out.find("scaled by itself, which is 0");
  ASSERT_NE(raw, std::string::npos);
  ASSERT_NE(alone, std::string::npos);
  std::smatch match;
  const std::string rightly = answer.out.substr(raw, alone - raw);
  ASSERT_TRUE(std::regex_search(rightly, match, std::regex("tenmoku +([.0-9]+) %")));
  EXPECT_GT(std::stod(match[1]), 95.0);
  const std::string wrongly = answer.out.substr(alone);
  ASSERT_TRUE(std::regex_search(wrongly, match, std::regex("tenmoku +([.0-9]+) %")));
  EXPECT_LT(std::stod(match[1]), 50.0);
}

TEST(example_07, compares_whole_set_minibatch_and_single_example) {
  const Answer answer = run_program(examples + "07_all_some_or_one", {});
  EXPECT_EQ(answer.status, 0);
  const auto last_loss = [&](const std::string& way) {
    std::smatch match;
    const std::regex row("  " + way + " +([0-9]+)" +
                         " +[.0-9]+ +[.0-9]+ +[.0-9]+ +[.0-9]+ +[.0-9]+ +([.0-9]+)");
    EXPECT_TRUE(std::regex_search(answer.out, match, row)) << answer.out;
    return std::stod(match[2]);
  };
  EXPECT_GT(last_loss("the whole set"), last_loss("minibatches of 16"));
  EXPECT_GT(last_loss("minibatches of 16"), last_loss("one by one"));
}

TEST(example_08, goes_on_as_if_the_run_had_never_stopped) {
  const Answer answer = run_program(examples + "08_save_and_go_on", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("Gone on with after epoch 10, as far as epoch 20"));
  EXPECT_THAT(answer.out, HasSubstr("Every weight has the same bits: yes"));
  EXPECT_THAT(answer.out, HasSubstr("this network has been trained already"));
}

TEST(example_11, lies_either_way_and_agrees) {
  const Answer answer = run_program(examples + "11_rows_or_columns", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("Z  [example 3 × class 4]    [class 4 × example 3]"));
  for (const char* what : {"Z, turned,", "loss", "∂W, turned,", "∂b, as a row,"})
    EXPECT_TRUE(std::regex_search(answer.out, std::regex(std::string(what) + " +agree: "))) << what;
  EXPECT_THAT(answer.out, HasSubstr("After 100 steps W, turned, agree"));
  EXPECT_GT(figure(answer.out, "Test accuracy, by columns:"), 0.9);
  EXPECT_THAT(answer.out, HasSubstr("│ class 3 │ 0  1  0 │"));
}

TEST(example_10, is_not_led_astray_and_finds_a_wrong_derivative) {
  const Answer answer = run_program(examples + "10_a_loss_of_ones_own", {});
  EXPECT_EQ(answer.status, 0);
  const auto slope = [&](const std::string& words) {
    std::smatch match;
    EXPECT_TRUE(std::regex_search(answer.out, match, std::regex(words + " +.*= ([.0-9]+)·")))
        << answer.out;
    return match.empty() ? 0.0 : std::stod(match[1]);
  };
  const double law = slope("but for noise:");
  EXPECT_NEAR(slope("by the smooth error:"), law, 4.0);
  EXPECT_GT(std::abs(slope("by half the mean square:") - law), 10.0);
  const std::regex agreed(
      "swept through operations: +([-.0-9]+), and finite differences agree\n"
      "  derivative on paper: +([-.0-9]+), and finite differences agree\n"
      "  a factor 5 forgotten: +([-.0-9]+), and finite differences do not");
  std::smatch match;
  ASSERT_TRUE(std::regex_search(answer.out, match, agreed)) << answer.out;
  EXPECT_EQ(match[1], match[2]);
  EXPECT_NEAR(std::stod(match[3]), std::stod(match[1]) / 5.0, 1e-5);
  EXPECT_THAT(answer.out, HasSubstr("lost[2,0] = √(1 + (5·(output[2,0] − y[2,0]))²) − 1"));
}

TEST(example_09, hands_out_a_page_a_spreadsheet_a_graph_an_exercise_and_pictures) {
  const Folder folder;
  const Answer answer = run_program(examples + "09_to_hand_out", {folder.path()});
  ASSERT_EQ(answer.status, 0) << answer.err;
  EXPECT_GT(figure(answer.out, "step 1:   loss"), figure(answer.out, "step 100: loss"));
  for (const char* name : {"page.html", "sheet.xlsx", "graph.svg", "exercise.html", "curves.svg",
                           "regions.png", "tanh.svg"}) {
    EXPECT_GT(std::filesystem::file_size(folder.path() / name), 5'000U) << name;
  }
}

TEST(example_12, learns_from_pixels_and_shows_what) {
  const Answer answer = run_program(examples + "12_softmax_on_pixels", {});
  EXPECT_EQ(answer.status, 0);
  std::smatch last;
  ASSERT_TRUE(std::regex_search(answer.out, last, std::regex("   40  ([.0-9]+)  ([.0-9]+)\n")));
  EXPECT_LT(std::stod(last[1]), 0.6);
  EXPECT_GT(std::stod(last[2]), 0.8);
  EXPECT_THAT(answer.out, HasSubstr("anchor                    comb                      fish\n"));
}

TEST(example_13, finds_the_same_convolution_by_hand_and_with_the_engine) {
  const Answer answer = run_program(examples + "13_a_convolution_by_hand", {});
  EXPECT_EQ(answer.status, 0);
  for (const char* what :
       {"the convolution", "the gradient of the kernel", "the gradient of the picture"})
    EXPECT_LT(figure(answer.out, what), 1e-12);
  EXPECT_THAT(answer.out, HasSubstr("z[0,4,5,0] = x[0,"));
  EXPECT_THAT(answer.out, HasSubstr("]·edge["));
}

TEST(example_14, learns_the_same_by_a_loop_and_by_a_call) {
  const Answer answer = run_program(examples + "14_a_convolutional_network", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("the two are apart by 0\n"));
  EXPECT_GT(figure(answer.out, "softmax on pixels"), 0.8);
  EXPECT_GT(figure(answer.out, "convolutional network"), 0.96);
}

TEST(example_15, shows_why_layers_in_a_row_do_not_learn_and_those_with_skip_connections_do) {
  const Answer answer = run_program(examples + "15_many_layers_by_a_loop", {});
  EXPECT_EQ(answer.status, 0);
  const std::size_t second = answer.out.find("with skip connections:");
  ASSERT_NE(second, std::string::npos);
  const std::string row = answer.out.substr(0, second);
  const std::string residual = answer.out.substr(second);
  EXPECT_LT(figure(row, "accuracy on the train part"), 0.3);
  EXPECT_GT(figure(residual, "accuracy on the train part"), 0.55);
  const auto norm_at = [](const std::string& text, const std::string& layer) {
    return figure(text, "  " + layer + " +standard deviation [-+.e0-9]+ +gradient norm");
  };
  EXPECT_LT(norm_at(row, "conv"), 0.05 * norm_at(row, "output"));
  EXPECT_GT(norm_at(residual, "conv"), 0.3 * norm_at(residual, "output"));
}

TEST(example_17, passes_guilds_on_and_derives_the_way_back_by_hand) {
  const Answer answer = run_program(examples + "17_a_graph_is_one_more_product", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("Ada takes from Ada 0.250 Bo 0.189 Hugo 0.204 Oskar 0.204"));
  EXPECT_NEAR(figure(answer.out, "0 products: share of the others right"), 0.25, 1e-9);
  EXPECT_GT(figure(answer.out, "2 products: share of the others right"), 0.75);
  EXPECT_THAT(answer.out, AllOf(HasSubstr("∂W1 agree"), HasSubstr("∂W2 agree")));
  EXPECT_GT(figure(answer.out, "step 200: loss [0-9.]+, share of the others right"), 0.75);
}

TEST(example_16, tells_two_patterns_apart_by_contrast_with_a_squared_loss) {
  const Answer answer = run_program(examples + "16_bands_or_checks", {});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("conv 8 of 3x3 from 3 at random"));
  EXPECT_GT(figure(answer.out, "accuracy on the test part"), 0.9);
}

}  // namespace
}  // namespace lattice::testing
