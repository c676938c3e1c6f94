#include "lattice/pictures/picture.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <numeric>

#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using testing::said;

Examples counted_pictures() {
  std::vector<std::uint8_t> bytes(2 * 4 * 4);
  std::iota(bytes.begin(), bytes.end(), std::uint8_t{0});
  return Examples::of_bytes(
      Shape{2, 4, 4, 1}.with({Role::example, Role::row, Role::column, Role::channel}), bytes);
}

TEST(examples, of_bytes_are_kept_once_and_come_as_numbers) {
  const Examples pictures = counted_pictures();
  const Examples same = pictures.in(Precision::single);
  EXPECT_EQ(same.bytes().data(), pictures.bytes().data());
  const Tensor second = same.rows(std::vector<std::int64_t>{1});
  EXPECT_EQ(second.precision(), Precision::single);
  EXPECT_EQ(second.at({0, 3, 3, 0}), 31.0);
  EXPECT_EQ(pictures.at({1, 0, 1, 0}), 17.0);
  EXPECT_EQ(pictures, Examples(pictures.all()));
  EXPECT_TRUE(pictures.taking(std::vector<std::int64_t>{1, 0}).are_bytes());
  EXPECT_EQ(pictures.taking(std::vector<std::int64_t>{1, 0}).at_offset(0), 16.0);
  Examples written = pictures;
  written.set({0, 0, 0, 0}, 0.5);
  EXPECT_EQ(written.at_offset(0), 0.5);
  EXPECT_EQ(pictures.at_offset(0), 0.0);
  EXPECT_THAT(said<IndexError>([&] { (void)pictures.rows(std::vector<std::int64_t>{2}); }),
              HasSubstr("no row 2"));
  EXPECT_THAT(said<IndexError>([&] { (void)pictures.at_offset(32); }), HasSubstr("0 to 31"));
  EXPECT_THAT(said<ShapeError>([] {
                (void)Examples::of_bytes({2, 2}, {1, 2, 3});
              }),
              HasSubstr("4 for"));
}

TEST(picture_changes, crop_the_middle_and_bring_to_a_size) {
  const Examples cropped = changed(counted_pictures(), {.crop = PictureSize{2, 2}});
  EXPECT_THAT(cropped.rows(std::vector<std::int64_t>{0}).numbers(), ElementsAre(5, 6, 9, 10));
  // What is odd is left over below and to the right.
  const Examples odd = changed(counted_pictures(), {.crop = PictureSize{1, 1}});
  EXPECT_THAT(odd.rows(std::vector<std::int64_t>{0}).numbers(), ElementsAre(5));
  const Examples smaller = changed(counted_pictures(), {.size = PictureSize{2, 2}});
  EXPECT_TRUE(smaller.are_bytes());
  // Means of 0 1 4 5 and so on, rounded.
  EXPECT_THAT(smaller.rows(std::vector<std::int64_t>{0}).numbers(), ElementsAre(3, 5, 11, 13));
  const Examples numbers = changed(Examples(counted_pictures().all()), {.size = PictureSize{2, 1}});
  EXPECT_THAT(numbers.rows(std::vector<std::int64_t>{0}).numbers(), ElementsAre(3.5, 11.5));
}

TEST(picture_changes, resize_by_area_and_linearly) {
  const Examples row = Examples(tensor({{{{0}, {10}, {20}}}}));
  const auto across = [&](std::int64_t columns, Resizing by) {
    return changed(row, {.size = PictureSize{1, columns}, .by = by}).numbers();
  };
  EXPECT_THAT(across(2, Resizing::area), ElementsAre(::testing::DoubleNear(10.0 / 3.0, 1e-12),
                                                     ::testing::DoubleNear(50.0 / 3.0, 1e-12)));
  EXPECT_THAT(across(6, Resizing::area), ElementsAre(0, 0, 10, 10, 20, 20));
  EXPECT_THAT(across(6, Resizing::linear), ElementsAre(0, 2.5, 7.5, 12.5, 17.5, 20));
}

TEST(picture_changes, make_grey_of_red_green_and_blue) {
  const Raster colour{.rows = 1, .columns = 2, .channels = 3, .bytes = {255, 0, 0, 0, 255, 0}};
  const Raster grey = changed(colour, {.grey = true});
  EXPECT_EQ(grey.channels, 1);
  EXPECT_THAT(grey.bytes, ElementsAre(76, 150));
  const Examples one = Examples::of_bytes(
      Shape{1, 1, 2, 1}.with({Role::example, Role::row, Role::column, Role::channel}), {7, 9});
  EXPECT_THAT(in_colour(one).numbers(), ElementsAre(7, 7, 7, 9, 9, 9));
}

TEST(picture_changes, are_refused_where_they_cannot_be) {
  EXPECT_THAT(said<ShapeError>([] {
                (void)changed(counted_pictures(), {.crop = PictureSize{5, 2}});
              }),
              HasSubstr("at most 4x4"));
  EXPECT_THAT(said<ShapeError>([] {
                (void)changed(Examples(ones({2, 5})), {.grey = true});
              }),
              HasSubstr("only pictures"));
  EXPECT_THAT(said<ShapeError>([] {
                (void)changed(Examples(ones({2, 5, 5, 2})), {.grey = true});
              }),
              HasSubstr("red, green and blue"));
  for (const char* text : {"", "12", "0x3", "3x", "axb", "3x4x5"})
    EXPECT_THAT(said<SettingError>([&] { (void)parse_picture_size(text); }), HasSubstr("28x28"));
}

TEST(demo_pictures, of_a_seed_are_the_same_and_of_another_are_not) {
  for (const char* name : {"stamps", "tiles"}) {
    const Dataset some = demo_set(name, 30, 4);
    EXPECT_TRUE(some.features.are_bytes());
    EXPECT_EQ(some.features, demo_set(name, 30, 4).features);
    EXPECT_FALSE(some.features == demo_set(name, 30, 5).features);
  }
}

TEST(preparation_of_pictures, takes_the_mean_picture_off) {
  const Examples pictures = counted_pictures();
  const Preparation less = fit({parse_scaling("0 to 1"), parse_scaling("less mean")}, pictures);
  EXPECT_EQ(less.steps[1].centre.shape(), (Shape{4, 4, 1}));
  const Tensor prepared = less.prepared(pictures);
  EXPECT_NEAR(prepared.at({0, 1, 2, 0}), -8.0 / 255.0, 1e-15);
  EXPECT_NEAR(prepared.at({1, 3, 0, 0}), 8.0 / 255.0, 1e-15);
  EXPECT_EQ(text(less.steps[0].settings), "less 0 over 255");
  EXPECT_EQ(text(less.steps[1].settings), "less mean");
}

TEST(picture_changes, of_many_pictures_are_made_when_they_are_asked_for) {
  std::vector<std::uint8_t> bytes(3 * 6 * 4 * 3);
  for (std::size_t at = 0; at < bytes.size(); ++at)
    bytes[at] = static_cast<std::uint8_t>(at * 37 % 256);
  const Examples colour = Examples::of_bytes(
      Shape{3, 6, 4, 3}.with({Role::example, Role::row, Role::column, Role::channel}), bytes);
  for (const PictureChanges& changes :
       std::vector<PictureChanges>{{.size = PictureSize{9, 9}},
                                   {.grey = true, .crop = PictureSize{3, 3}},
                                   {.grey = true,
                                   .crop = PictureSize{4, 4},
                                   .size = PictureSize{7, 2},
                                   .by = Resizing::linear}}) {
    const Examples stored = changed(colour, changes);
    const Examples made = changed(colour, changes, 8);
    EXPECT_EQ(stored.source(), nullptr);
    ASSERT_NE(made.source(), nullptr);
    EXPECT_EQ(made, stored);
    EXPECT_EQ(to_string(made.shape()), to_string(stored.shape()));
    const std::vector<std::int64_t> rows = {2, 1};
    EXPECT_EQ(made.taking(rows), stored.taking(rows));
  }
  // What is made is changed once more as what is stored.
  const Examples made = changed(colour, {.size = PictureSize{9, 9}}, 8);
  EXPECT_EQ(changed(made, {.grey = true}),
            changed(changed(colour, {.size = PictureSize{9, 9}}), {.grey = true}));
  const Examples grey = changed(colour, {.grey = true, .size = PictureSize{5, 5}}, 8);
  EXPECT_EQ(in_colour(grey), in_colour(grey.in_memory()));
  EXPECT_NE(made.source()->fingerprint(0), made.source()->fingerprint(1));
  EXPECT_NE(made.source()->fingerprint(0), grey.source()->fingerprint(0));
}

}  // namespace
}  // namespace lattice
