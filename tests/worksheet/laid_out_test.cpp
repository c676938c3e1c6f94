#include "lattice/worksheet/laid_out.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

/// Two pictures of 2×3 pixels that are flattened, multiplied and multiplied again.
struct Flattened {
  explicit Flattened(std::int64_t channels)
      : pictures(sheet.given("pictures",
                             constant(Shape{2, 2, 3, channels}.with(
                                          {Role::example, Role::row, Role::column, Role::channel}),
                                      0.5))),
        flat(named("flat", flatten(pictures))),
        w(sheet.weight("w",
                       evenly_spaced(1, 24.0 * static_cast<double>(channels), 24 * channels)
                           .reshaped(Shape{6 * channels, 4}.with({Role::unit, Role::class_})))),
        b(sheet.weight("b", zeros({4}))),
        hidden(named("hidden", dense(flat, w, b))),
        v(sheet.weight("v", zeros({4, 2}))),
        out(named("out", matmul(hidden, v))) {}

  Worksheet sheet;
  Line pictures;
  Line flat;
  Line w;
  Line b;
  Line hidden;
  Line v;
  Line out;
};

TEST(laid_out, shows_flattened_pictures_and_their_weights_as_pictures) {
  const Flattened grey(1);
  EXPECT_EQ(to_string(laid_out(grey.flat)), "[example 2 × row 2 × column 3]");
  EXPECT_EQ(to_string(laid_out(grey.w)), "[row 2 × column 3 × class 4]");
  const Flattened colour(3);
  EXPECT_EQ(to_string(laid_out(colour.flat)), "[example 2 × row 2 × column 3 × channel 3]");
  EXPECT_EQ(to_string(laid_out(colour.w)), "[row 2 × column 3 × channel 3 × class 4]");
  for (const Line& line : {grey.pictures, grey.b, grey.hidden, grey.v, grey.out})
    EXPECT_EQ(laid_out(line), line.shape()) << line.name();
}

TEST(laid_out, lets_numbers_be_addressed_by_pixel) {
  const Flattened grey(1);
  const auto at = [&](const char* place) {
    const Place asked = parse_place(place);
    return index_on(grey.sheet.line(asked.line), asked, {.classes = {"a", "b", "c", "d"}});
  };
  EXPECT_EQ(at("w[1,2,3]"), (Index{5, 3}));
  EXPECT_EQ(at("w[5,3]"), (Index{5, 3}));
  EXPECT_EQ(at("w[1,2,d]"), (Index{5, 3}));
  EXPECT_EQ(at("flat[1,0,2]"), (Index{1, 2}));
  // Each pixel is another number of the matrix.
  for (std::int64_t offset = 0; offset < grey.w.shape().count(); ++offset)
    EXPECT_EQ(as_on_line(grey.w, laid_out(grey.w).index(offset)), grey.w.shape().index(offset));
  EXPECT_THROW(static_cast<void>(at("w[2,0,0]")), IndexError);
  EXPECT_THROW(static_cast<void>(explain(grey.w, at("w[0,0,0,0]"))), IndexError);
}

TEST(line, knows_what_uses_it) {
  const Flattened grey(1);
  EXPECT_THAT(grey.flat.uses(), ::testing::ElementsAre(grey.hidden));
  EXPECT_THAT(grey.out.uses(), ::testing::IsEmpty());
  Worksheet sheet;
  const Line x = sheet.given("x", tensor({1, 2}));
  const Line twice = x + x;
  const Line product = x * twice;
  EXPECT_THAT(x.uses(), ::testing::ElementsAre(twice, product));
}

}  // namespace
}  // namespace lattice
