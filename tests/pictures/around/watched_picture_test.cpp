#include "pictures/around/watched_picture.hpp"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

namespace lattice {
namespace {

TEST(watched_picture, is_made_smaller_where_it_is_large) {
  const Brightness brightness{.black = -10.0, .white = 10.0};
  const Tensor small = tensor({0, 10, 5, 20}).reshaped({1, 2, 2});
  const Json drawn =
      watched_picture({.picture = small, .caption = "3 cup", .answer = "jug"}, brightness);
  EXPECT_EQ(drawn["caption"], "3 cup");
  EXPECT_EQ(drawn["answer"], "jug");
  // Two channels that are no colours stand side by side, with a black line between.
  EXPECT_EQ(drawn["columns"], 5);
  EXPECT_EQ(drawn["points"], Json({128, 191, 0, 255, 255}));
  const Json large = watched_picture({.picture = zeros({60, 96, 3})}, brightness);
  EXPECT_EQ(large["rows"], 30);
  EXPECT_EQ(large["columns"], 48);
  EXPECT_EQ(large["points"].size(), 30U * 48U * 3U);
  EXPECT_EQ(large["points"][5], 128);
}

}  // namespace
}  // namespace lattice
