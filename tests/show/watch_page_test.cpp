#include "lattice/show/watch_page.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "lattice/lattice.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::EndsWith;
using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;

/// The data of a server-sent event with a name.
Json data_of(const std::string& event, const std::string& name) {
  const std::string start = "event: " + name + "\ndata: ";
  EXPECT_THAT(event, AllOf(StartsWith(start), EndsWith("\n\n")));
  const std::string data = event.substr(start.size(), event.size() - start.size() - 2);
  EXPECT_EQ(data.find('\n'), std::string::npos);
  return Json::parse(data);
}

TEST(watch_page, is_one_file_that_asks_for_its_events_alone) {
  const std::string page = watch_page({.title = "<pots>", .about = {"a"}, .epochs = 7},
                                      {.features = {"</script>"}, .targets = {"t"}, .classes = {}});
  EXPECT_THAT(page, HasSubstr("&lt;pots>"));
  EXPECT_THAT(page, HasSubstr("new EventSource(\"events\")"));
  EXPECT_THAT(page, HasSubstr("\"epochs\":7"));
  EXPECT_THAT(page, Not(HasSubstr("http://localhost")));
  EXPECT_THAT(page, Not(HasSubstr("\"</script>")));
  EXPECT_THAT(page, Not(HasSubstr("{style}")));
}

TEST(watch_page, has_the_points_of_two_features_thinned_out_where_there_are_many) {
  const auto points = [](const Dataset& data) {
    const std::string page =
        watch_page({.title = "t", .about = {}, .epochs = 1, .plane = data}, data.axis_names());
    const std::string start = "type=\"application/json\">";
    const std::size_t from = page.find(start) + start.size();
    return Json::parse(page.substr(from, page.find("</script>", from) - from))["plane"]["points"];
  };
  const Dataset few = demo_set("cracks", 50, 1);
  ASSERT_EQ(points(few).size(), 50U);
  EXPECT_EQ(points(few)[3][0], few.features.at({3, 0}));
  EXPECT_EQ(points(few)[3][2], few.classes.at_offset(3));
  const std::size_t many = points(demo_set("cracks", 9000, 1)).size();
  EXPECT_GE(many, 1000U);
  EXPECT_LE(many, 1600U);
}

TEST(watch_events, tell_epochs_pictures_and_the_end) {
  EXPECT_TRUE(data_of(start_event(), "start").empty());
  const Json epoch = data_of(epoch_event({.epoch = 3,
                                          .running = Figures{.loss = 0.5},
                                          .train = Figures{.loss = 0.25, .accuracy = 0.75},
                                          .validation = Figures{.loss = 0.3},
                                          .rate = 0.1}),
                             "epoch");
  EXPECT_EQ(epoch["epoch"], 3);
  EXPECT_EQ(epoch["train"]["accuracy"], 0.75);
  EXPECT_EQ(epoch["validation"]["loss"], 0.3);
  const DecisionMap map{.across = tensor({0, 1}),
                        .up = tensor({0, 1}),
                        .classes = tensor({{0, 1}, {1, 1}}),
                        .probabilities = zeros({2, 2, 2})};
  const Json picture = data_of(
      moment_event(
          {.epoch = 9, .part = "validation", .confusion = tensor({{5, 1}, {0, 4}}), .map = map},
          Json()),
      "moment");
  EXPECT_EQ(picture["epoch"], 9);
  EXPECT_EQ(picture["part"], "validation");
  EXPECT_EQ(picture["confusion"], Json({{5.0, 1.0}, {0.0, 4.0}}));
  EXPECT_EQ(picture["regions"], Json({{0.0, 1.0}, {1.0, 1.0}}));
  const Json bare = data_of(moment_event({.epoch = 1, .part = "train"}, Json()), "moment");
  EXPECT_FALSE(bare.contains("confusion"));
  EXPECT_FALSE(bare.contains("regions"));
  const Json with_more = data_of(moment_event({.epoch = 1}, {{"graph", {{"nodes", 3}}}}), "moment");
  EXPECT_EQ(with_more["graph"]["nodes"], 3);
  const Json end = data_of(end_event({.updates = 12, .ending = Ending::stopped_early}), "end");
  EXPECT_EQ(end["ending"], "stopped early");
  EXPECT_EQ(end["updates"], 12);
}

TEST(stretch, holds_every_value_and_some_room) {
  const Tensor features = tensor({{1, 5}, {3, 5}, {2, 5}});
  EXPECT_NEAR(stretch_of(features, 0).low, 0.9, 1e-12);
  EXPECT_NEAR(stretch_of(features, 0).high, 3.1, 1e-12);
  EXPECT_LT(stretch_of(features, 1).low, 5.0);
  EXPECT_GT(stretch_of(features, 1).high, 5.0);
}

}  // namespace
}  // namespace lattice
