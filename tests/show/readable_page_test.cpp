#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <set>

#include "support/pages.hpp"

/// A page for whoever looks at it: from far away, on a phone, with a keyboard alone, without eyes
/// (look_at_page.py).
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::Contains;
using ::testing::HasSubstr;
using ::testing::IsSupersetOf;
using ::testing::Not;

const Words dense = {"work",    "glazes", "--net",  "dense 14, tanh, dense 4",
                     "--batch", "16",     "--rule", "adam"};
const Words pictures = {"work",    "stamps",
                        "--net",   "conv 4 of 3x3, normalise, relu, maximum 2, flatten, dense 8",
                        "--batch", "4"};
const Words graph = {"work", "studios"};

/// What was found on the page of a lesson.
Json found(const std::string& what, const Words& lesson) {
  return seen_on_page("look_at_page.py", what, lesson);
}

TEST(readable_page, has_enough_contrast_on_light_and_dark_ground) {
  for (const Words& lesson : {with(dense, {"--blanks", "4"}), pictures, graph}) {
    const Json seen = found("contrast", lesson);
    EXPECT_EQ(seen.size(), 10U);
    for (const Json& each : seen) {
      // WCAG 2.2, 1.4.3.
      EXPECT_GE(each["contrast"], 4.5) << each;
      EXPECT_GT(each["count"], 80);
    }
  }
}

TEST(readable_page, names_all_that_assistive_technology_comes_to_and_says_where_we_are) {
  for (const Words& lesson : {with(dense, {"--blanks", "4"}), pictures, graph}) {
    const Json seen = found("without_eyes", lesson);
    EXPECT_EQ(seen["nameless"], Json::array());
    EXPECT_EQ(seen["live"], "polite");
    for (const char* role :
         {"banner", "navigation", "main", "complementary", "contentinfo", "region", "heading",
          "slider", "grid", "gridcell", "rowheader", "columnheader", "MathMLMath"})
      EXPECT_GT(seen["roles"].value(role, 0), 0) << role;
    EXPECT_THAT(seen["said"][1].get<std::string>(), HasSubstr("Loss, line "));
    EXPECT_THAT(seen["said"][2].get<std::string>(), HasSubstr("Reverse, line "));
    EXPECT_THAT(seen["said"][3].get<std::string>(), HasSubstr("Update, line "));
  }
}

TEST(readable_page, is_used_with_a_keyboard_alone) {
  const Json seen = found("keyboard", dense);
  EXPECT_EQ(seen["unmarked"], Json::array());
  EXPECT_THAT(seen["met"].get<Words>(),
              IsSupersetOf({"BUTTON explain", "BUTTON larger", "BUTTON ground", "BUTTON Reverse",
                            "INPUT place", "BUTTON on", "BUTTON slide", "SUMMARY The network"}));
  EXPECT_EQ(seen["asked"], "new hidden.weight[1,1]");
  EXPECT_EQ(seen["terms"], (Json{{"isOpen", true}, {"isInside", true}}));
  EXPECT_EQ(seen["stays"], "update");
  EXPECT_EQ(seen["closed"], false);
}

/// The terms that a page explains on a line.
Words terms_on(const Json& seen, const std::string& line) {
  for (const Json& each : seen) {
    if (each["line"] == line) return each["names"].get<Words>();
  }
  return {};
}

TEST(readable_page, explains_the_terms_of_every_line_at_a_key_press) {
  const Json seen = found("terms", dense);
  EXPECT_THAT(terms_on(seen, "forward hidden"),
              AllOf(IsSupersetOf({"dense layer", "bias", "unit"}), Not(Contains("softmax"))));
  EXPECT_THAT(terms_on(seen, "loss loss"), IsSupersetOf({"logit", "cross-entropy", "loss"}));
  EXPECT_THAT(terms_on(seen, "reverse ∂hidden"),
              AllOf(IsSupersetOf({"gradient", "reverse sweep", "local derivative", "chain rule"}),
                    Not(Contains("adam"))));
  EXPECT_THAT(terms_on(seen, "update new hidden.weight"),
              AllOf(IsSupersetOf({"learning rate", "adam", "running mean", "epsilon"}),
                    Not(Contains("momentum"))));
  for (const Json& line : seen) {
    EXPECT_FALSE(line["names"].empty()) << line["line"];
    EXPECT_EQ(line["headings"][0], "Terms on this line");
    // The first of those to press on the line opens them at it.
    EXPECT_THAT(line["names"].get<Words>(), IsSupersetOf(line["buttons"].get<Words>()));
    EXPECT_EQ(line["opened"], line["buttons"][0]);
    EXPECT_EQ(line["all"], seen[0]["all"]);
  }
  EXPECT_THAT(seen[8]["buttons"].get<Words>(), Contains("dense layer")) << seen[8]["line"];
  EXPECT_THAT(seen.back()["buttons"].get<Words>(), IsSupersetOf({"adam", "learning rate"}));
  EXPECT_THAT(terms_on(found("first_terms", pictures), "forward conv"),
              AllOf(IsSupersetOf({"convolution", "kernel", "stride"}), Not(Contains("node"))));
  EXPECT_THAT(terms_on(found("first_terms", graph), "forward shares"),
              AllOf(IsSupersetOf({"normalised adjacency"}), Not(Contains("kernel"))));
}

TEST(readable_page, becomes_larger_and_smaller_by_key_and_stays_so) {
  const Json seen = found("sizes", dense);
  EXPECT_EQ(seen["usual"]["root"], 16.0);
  EXPECT_EQ(seen["larger"]["root"], 24.0);
  EXPECT_EQ(seen["smaller"]["root"], 20.0);
  EXPECT_EQ(seen["smallest"]["root"], 8.0);
  EXPECT_EQ(seen["usual_again"]["root"], 16.0);
  EXPECT_EQ(seen["left"]["root"], 17.6);
  EXPECT_EQ(seen["said"], "110 % of the usual size");
  EXPECT_EQ(seen["found"]["root"], 17.6);
  EXPECT_EQ(seen["on_paper"], "16px");
  // However large it is, the page does not scroll sideways.
  for (const Json& each : seen) {
    if (each.is_object()) {
      EXPECT_LE(each["wide"][0], each["wide"][1]);
    }
  }
}

TEST(readable_page, shows_every_line_as_a_slide_as_large_as_it_fits) {
  const Json seen = found("slides", dense);
  ASSERT_GT(seen["slides"].size(), 25U);
  std::set<std::string> lines;
  for (const Json& slide : seen["slides"]) {
    const std::string line = slide["line"];
    lines.insert(line);
    EXPECT_EQ(slide["isSlide"], true);
    EXPECT_THAT(slide["seen"].get<Words>(), ::testing::UnorderedElementsAre("desk", "why")) << line;
    EXPECT_LE(slide["high"][0], slide["high"][1]) << line;
    EXPECT_LE(slide["wide"][0], slide["wide"][1]) << line;
    EXPECT_GE(slide["root"], 9.0) << line;
    EXPECT_FALSE(slide["tables"].empty()) << line;
    for (const Json& table : slide["tables"])
      EXPECT_LE(table["rows"], 10) << line;
  }
  // One line each, in their order.
  EXPECT_EQ(lines.size(), seen["slides"].size());
  EXPECT_NE(seen["back"]["line"], seen["slides"].back()["line"]);
  EXPECT_EQ(seen["page"]["isSlide"], false);
  EXPECT_EQ(seen["on_paper"], Json::array());
  EXPECT_EQ(seen["address"], "#;slide");
  EXPECT_EQ(seen["opened"]["isSlide"], true);
  EXPECT_EQ(seen["opened"]["line"], "tanh");
  EXPECT_EQ(seen["page"]["root"], 16.0);
  EXPECT_THAT(seen["page"]["seen"].get<Words>(), Contains("sheet"));
}

TEST(readable_page, writes_fractions_and_roots_as_large_as_all_else) {
  const Json seen = found("slides", {"work", "glazes", "--net", "dense 3, tanh, dense 4", "--batch",
                                     "4", "--rule", "adam"});
  std::size_t numbers = 0;
  for (const Json& slide : seen["slides"]) {
    for (const Json& size : slide["math"]) {
      EXPECT_DOUBLE_EQ(size.get<double>(), slide["math"][0].get<double>()) << slide["line"];
      EXPECT_GE(size.get<double>(), 0.9 * slide["root"].get<double>()) << slide["line"];
      ++numbers;
    }
  }
  EXPECT_GT(numbers, 200U);
}

TEST(readable_page, uses_a_large_window_and_fits_a_small_one) {
  const Json seen = found("large", dense);
  EXPECT_LE(seen["large"]["wide"][0], seen["large"]["wide"][1]);
  EXPECT_EQ(seen["large"]["tables"][0]["rows"], 16);
  EXPECT_EQ(seen["small"]["tables"][0]["rows"], 10);
  EXPECT_EQ(seen["typing"], true) << "what is typed into stays";
  // The tables and the network stand side by side, and reach to the right edge.
  EXPECT_EQ(seen["places"]["desk"][1], seen["places"]["network"][1]);
  EXPECT_GT(seen["places"]["network"][0], seen["places"]["desk"][0]);
  EXPECT_GT(seen["places"]["end"], 1860);
}

TEST(readable_page, is_usable_on_a_phone) {
  for (const Words& lesson : {dense, pictures, graph}) {
    for (const Json& each : found("phone", lesson)) {
      EXPECT_EQ(each["wide"], (Json{390, 390}));
      EXPECT_EQ(each["small"], Json::array());
    }
  }
}

}  // namespace
}  // namespace lattice::testing
