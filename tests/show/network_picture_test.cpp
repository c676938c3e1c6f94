#include "show/network_picture.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "show/network_sketch.hpp"
#include "support/command.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::IsEmpty;

WorkedMinibatch worked(const std::string& set, const std::string& network) {
  Lesson lesson;
  lesson.data.set = set;
  lesson.data.rows = 60;
  lesson.network.blueprint = network;
  lesson.batch = 5;
  return prepare(lesson).work(1);
}

std::vector<std::string> names_of(const NetworkSketch& sketch) {
  std::vector<std::string> names;
  for (const Line& line : sketch.columns)
    names.push_back(line.name());
  return names;
}

/// `0-1 weighted`.
std::vector<std::string> links_of(const NetworkSketch& sketch) {
  std::vector<std::string> links;
  for (const NetworkSketch::Link& link : sketch.links)
    links.push_back(fmt::format("{}-{} {}", link.from, link.to, link_words.of(link.kind)));
  return links;
}

TEST(network_sketch, has_a_column_for_each_line_that_an_example_passes_through) {
  const WorkedMinibatch work = worked("glazes", "dense 3, tanh, dense 4");
  const NetworkSketch sketch = sketch_of(work).value();
  EXPECT_THAT(names_of(sketch), ElementsAre("x", "hidden", "tanh", "output", "loss"));
  EXPECT_THAT(links_of(sketch), ElementsAre("0-1 weighted", "1-2 each", "2-3 weighted", "3-4 all"));
  EXPECT_EQ(sketch.links[2].weight->name(), "output.weight");
}

TEST(network_sketch, knows_skips_windows_masks_and_nodes) {
  const WorkedMinibatch residual =
      worked("glazes", "dense 3, residual(dense 3, tanh), dropout 0.5, dense 4");
  const NetworkSketch sketch = sketch_of(residual).value();
  EXPECT_THAT(names_of(sketch), ElementsAre("x", "hidden", "residual.hidden", "residual.tanh",
                                            "residual", "dropout", "output", "loss"));
  EXPECT_THAT(links_of(sketch), ::testing::IsSupersetOf({"3-4 each", "1-4 each", "4-5 each"}));
  const WorkedMinibatch pictures = worked("stamps", "conv 2 of 3x3, maximum 2, flatten, dense 8");
  EXPECT_THAT(links_of(sketch_of(pictures).value()),
              ElementsAre("0-1 window", "1-2 all", "2-3 all", "3-4 weighted", "4-5 all"));
  Lesson graph;
  graph.data.set = "studios";
  graph.network.blueprint = "neighbours, dense 4";
  const WorkedMinibatch nodes = prepare(graph).work(1);
  EXPECT_THAT(names_of(sketch_of(nodes).value()), ElementsAre("x", "neighbours", "output", "loss"));
  EXPECT_EQ(links_of(sketch_of(nodes).value())[0], "0-1 nodes");
}

TEST(network_sketch, is_none_of_a_sheet_without_examples) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor(3.0));
  const Line cost = named("cost", square(w - 1));
  const WorkedSheet work(std::move(sheet), cost);
  EXPECT_FALSE(sketch_of(work).has_value());
  EXPECT_THROW(static_cast<void>(network_picture(work, {})), SettingError);
}

TEST(network_picture, has_the_numbers_of_an_example_and_of_the_weights) {
  const WorkedMinibatch work = worked("glazes", "dense 3, tanh, dense 4");
  const AxisNames names = {.features = {"a", "b", "c", "d", "e"}, .classes = {"p", "q", "r", "s"}};
  const NetworkPicture picture = network_picture(work, names, {.example = 2});
  const Tensor hidden = work.sheet().line("hidden").value();
  for (std::int64_t unit = 0; unit < 3; ++unit)
    EXPECT_EQ(picture.columns[1].cells[static_cast<std::size_t>(unit)].number,
              hidden.at({2, unit}));
  EXPECT_EQ(picture.columns[0].cells[4].name, "e");
  EXPECT_EQ(picture.columns[3].cells[1].name, "q");
  EXPECT_TRUE(picture.columns[3].is_named);
  EXPECT_EQ(picture.columns[4].cells[0].number, work.loss_before());
  const Tensor weight = work.sheet().line("hidden.weight").value();
  ASSERT_EQ(picture.links[0].strands.size(), 15U);
  for (const NetworkPicture::Strand& strand : picture.links[0].strands) {
    EXPECT_EQ(strand.number, weight.at({static_cast<std::int64_t>(strand.from),
                                        static_cast<std::int64_t>(strand.to)}));
  }
  EXPECT_FALSE(picture.is_grouped);
}

TEST(network_picture, shows_gradients_where_there_are_any) {
  const WorkedMinibatch work = worked("glazes", "dense 3, tanh, dense 4");
  const NetworkPicture picture = network_picture(work, {}, {.example = 1, .gradients = true});
  EXPECT_EQ(picture.columns[0].name, "x");
  EXPECT_EQ(picture.columns[0].cells[0].number, std::nullopt);
  EXPECT_EQ(picture.columns[1].name, "∂hidden");
  const Tensor gradient = work.sweep().gradient("hidden");
  EXPECT_EQ(picture.columns[1].cells[2].number, gradient.at({1, 2}));
  EXPECT_EQ(picture.columns[4].cells[0].number, 1.0);
  EXPECT_EQ(picture.links[0].strands[4].number, work.sweep().gradient("hidden.weight").at({1, 1}));
}

TEST(network_picture, puts_many_units_into_groups_with_their_mean) {
  const WorkedMinibatch work = worked("glazes", "dense 50, tanh, dense 4");
  const NetworkPicture picture = network_picture(work, {}, {.example = 3});
  const std::vector<NetworkPicture::Cell>& cells = picture.columns[1].cells;
  ASSERT_EQ(cells.size(), 17U);
  EXPECT_TRUE(picture.is_grouped);
  EXPECT_EQ(cells[1].name, "3–5");
  EXPECT_EQ(cells[16].name, "48–49");
  const Tensor hidden = work.sheet().line("hidden").value();
  EXPECT_DOUBLE_EQ(*cells[16].number, (hidden.at({3, 48}) + hidden.at({3, 49})) / 2.0);
  const Tensor weight = work.sheet().line("hidden.weight").value();
  const auto strand = std::ranges::find_if(
      picture.links[0].strands, [](const auto& each) { return each.from == 2 && each.to == 16; });
  EXPECT_DOUBLE_EQ(*strand->number, (weight.at({2, 48}) + weight.at({2, 49})) / 2.0);
}

TEST(network_picture, shows_channels_as_pictures) {
  const WorkedMinibatch work = worked("stamps", "conv 2 of 3x3, maximum 2, flatten, dense 8");
  const NetworkPicture picture = network_picture(work, {}, {.example = 4});
  const Tensor conv = work.sheet().line("conv").value();
  const Tensor& second = picture.columns[1].cells[1].points;
  EXPECT_EQ(second.shape(), (Shape{10, 10}));
  EXPECT_EQ(second.at({3, 7}), conv.at({4, 3, 7, 1}));
  // Channels go on one by one; a window meets them all.
  EXPECT_EQ(picture.links[1].strands.size(), 2U);
  EXPECT_EQ(picture.links[0].strands.size(), 2U);
  EXPECT_EQ(picture.columns[3].cells[0].points.shape(), (Shape{5, 5}));
}

TEST(network_picture, refuses_an_example_that_is_not_there) {
  const WorkedMinibatch work = worked("glazes", "dense 4");
  EXPECT_THROW(static_cast<void>(network_picture(work, {}, {.example = 5})), SettingError);
  EXPECT_THROW(static_cast<void>(network_picture(work, {}, {.example = -1})), SettingError);
}

TEST(network_picture, is_drawn_by_the_command) {
  using testing::lattice;
  const testing::Folder folder;
  const std::string out = folder.path() / "n.svg";
  const testing::Answer drawn =
      lattice({"draw", "network", "glazes", "--net", "dense 3, tanh, dense 4", "--batch", "3",
               "--example", "1", "--out", out});
  EXPECT_EQ(drawn.status, 0) << drawn.err;
  const std::string picture = testing::content_of(out);
  for (const char* text : {"hidden", "tenmoku", "iron", "values of example 1, row "})
    EXPECT_THAT(picture, ::testing::HasSubstr(text));
  const testing::Answer json =
      lattice({"draw", "network", "glazes", "--gradients", "--json", "--out", out});
  EXPECT_EQ(testing::json_of(json)["chart"], "network");
  const testing::Answer wrong = lattice({"draw", "network", "glazes", "--example", "16"});
  EXPECT_EQ(wrong.status, 2);
  EXPECT_THAT(wrong.err, ::testing::HasSubstr("expected: 0 to 15"));
  const testing::Answer sheet =
      lattice({"draw", "network", "--weight", "w = 3", "--line", "cost = w²", "--out", out});
  EXPECT_THAT(sheet.err, ::testing::HasSubstr("lattice draw graph"));
}

}  // namespace
}  // namespace lattice
