#include "lattice/learning/moments.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/text/error.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

TEST(moments, are_every_so_many_or_certain_ones) {
  const Moments all = parse_moments("every 5 epochs and steps 3, 100");
  EXPECT_TRUE(all.has_epoch(5) && all.has_epoch(10));
  EXPECT_FALSE(all.has_epoch(0));
  EXPECT_FALSE(all.has_epoch(3));
  EXPECT_TRUE(all.has_step(3) && all.has_step(100));
  EXPECT_FALSE(all.has_step(5));
  const Moments others = parse_moments("epochs 1, 20 and every 500 steps");
  EXPECT_TRUE(others.has_epoch(1) && others.has_epoch(20) && others.has_step(1000));
  EXPECT_FALSE(others.has_epoch(2) || others.has_step(1) || others.has_step(0));
  EXPECT_TRUE(parse_moments("none").empty());
  EXPECT_FALSE(Moments().has_epoch(1));
  EXPECT_TRUE(parse_moments("epoch 1").has_epoch(1));
}

TEST(moments, are_written_as_they_are_read) {
  for (const char* text : {"none", "every 5 epochs", "epochs 1, 2, 20", "every 500 steps",
                           "steps 100, 500", "every 5 epochs and steps 3, 100"}) {
    EXPECT_EQ(parse_moments(text).text(), text);
    EXPECT_EQ(parse_moments(parse_moments(text).text()).text(), text);
  }
  EXPECT_EQ(Moments::at_epochs({2, 4}).and_also(Moments::every_steps(7)).text(),
            "epochs 2, 4 and every 7 steps");
}

TEST(moments, refuse_what_is_none_and_mark_it) {
  const auto said = [](const char* text) {
    return testing::said<SettingError>([&] { return parse_moments(text); });
  };
  EXPECT_THAT(said("sometimes"), HasSubstr("»sometimes«"));
  EXPECT_THAT(said("every 5"), HasSubstr("it is not said of what"));
  EXPECT_THAT(said("every 0 epochs"), HasSubstr("there is no moment 0"));
  EXPECT_THAT(said("epochs 1, two"), HasSubstr("»two«"));
  EXPECT_THAT(said("epochs"), HasSubstr("the epoch or step"));
  EXPECT_THAT(said("none of them"), HasSubstr("these are no moments"));
  EXPECT_THROW(static_cast<void>(Moments::every_epochs(0)), SettingError);
  EXPECT_THROW(static_cast<void>(Moments::at_steps({})), SettingError);
}

}  // namespace
}  // namespace lattice
