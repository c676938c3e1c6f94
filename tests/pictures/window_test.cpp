#include "lattice/pictures/window.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/lattice.hpp"
#include "pictures/window_kernels.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using testing::said;

TEST(window, counts_the_places_that_it_has) {
  const Shape pictures{2, 7, 9, 3};
  const auto counts = [&](const Window& window) {
    const auto [down, across] = places_of(window, pictures);
    return std::pair(down.places, across.places);
  };
  EXPECT_EQ(counts({.rows = 3, .columns = 3}), std::pair(5L, 7L));
  EXPECT_EQ(counts({.rows = 3, .columns = 2, .stride = 2}), std::pair(3L, 4L));
  EXPECT_EQ(counts({.rows = 3, .columns = 3, .padding = Padding::of(1)}), std::pair(7L, 9L));
  EXPECT_EQ(counts({.rows = 5, .columns = 4, .padding = Padding::keeping_size()}),
            std::pair(7L, 9L));
  EXPECT_EQ(counts({.rows = 2, .columns = 2, .stride = 2, .padding = Padding::keeping_size()}),
            std::pair(4L, 5L));
  EXPECT_EQ(counts({.rows = 7, .columns = 9}), std::pair(1L, 1L));
}

TEST(window, knows_what_of_it_is_on_the_picture) {
  const WindowAxis axis =
      places_of({.rows = 3, .columns = 3, .padding = Padding::of(1)}, Shape{4, 4, 1}).down;
  EXPECT_EQ(axis.under(0, 0), -1);
  EXPECT_EQ(axis.first(0), 1);
  EXPECT_EQ(axis.end(0), 3);
  EXPECT_EQ(axis.first(3), 0);
  EXPECT_EQ(axis.end(3), 2);
  EXPECT_FALSE(axis.is_inside(-1));
  EXPECT_FALSE(axis.is_inside(4));
}

TEST(window, that_cannot_be_is_refused_with_both_sizes) {
  const Shape pictures{5, 4, 3};
  EXPECT_THAT(said<ShapeError>([&] { (void)places_of({.rows = 6, .columns = 2}, pictures); }),
              AllOf(HasSubstr("6 × 2"), HasSubstr("5 × 4"), HasSubstr("keeping size")));
  EXPECT_THAT(said<ShapeError>([&] {
                (void)places_of({}, Shape{5, 4});
              }),
              HasSubstr("1 channel at its end"));
  EXPECT_THAT(said<SettingError>([&] { (void)places_of({.stride = 0}, pictures); }),
              HasSubstr("stride"));
  EXPECT_THAT(said<SettingError>([&] { (void)places_of({.rows = 0}, pictures); }),
              HasSubstr("0 × 2"));
  for (const std::int64_t width : {-1, 2, 9}) {
    EXPECT_THAT(
        said<SettingError>([&] { (void)places_of({.padding = Padding::of(width)}, pictures); }),
        HasSubstr("narrower than the window"));
  }
}

TEST(window, is_told_in_a_few_words) {
  EXPECT_EQ(to_string(Window{.rows = 5, .columns = 3}), "5x3");
  EXPECT_EQ(to_string(Window{.stride = 2, .padding = Padding::of(1)}), "2x2 stride 2 padding 1");
  EXPECT_EQ(to_string(Window{.padding = Padding::keeping_size()}), "2x2 keeping size");
}

/// A convolution as it is defined, number by number.
double by_definition(const Tensor& x, const Tensor& kernel, const WindowPlaces& places,
                     const Index& at) {
  double sum = 0.0;
  for (std::int64_t row = 0; row < places.down.window; ++row) {
    for (std::int64_t column = 0; column < places.across.window; ++column) {
      const std::int64_t down = places.down.under(at[1], row);
      const std::int64_t across = places.across.under(at[2], column);
      if (!places.down.is_inside(down) || !places.across.is_inside(across)) continue;
      for (std::int64_t channel = 0; channel < x.shape()[3]; ++channel)
        sum += x.at({at[0], down, across, channel}) * kernel.at({row, column, channel, at[3]});
    }
  }
  return sum;
}

/// Sizes at which blocks of lanes and neighbours come out even, and at which they do not.
struct Sizes {
  Window window;
  Shape pictures;
  std::int64_t outputs;
};

const std::vector<Sizes>& sizes() {
  static const std::vector<Sizes> all = {
      {{.rows = 5, .columns = 5}, Shape{5, 14, 31, 1}, 8},
      {{.rows = 3, .columns = 3, .padding = Padding::keeping_size()}, Shape{3, 13, 13, 5}, 33},
      {{.rows = 4, .columns = 2, .stride = 3, .padding = Padding::of(1)}, Shape{2, 11, 25, 3}, 17},
      {{.rows = 1, .columns = 1, .stride = 2}, Shape{9, 6, 7, 20}, 3},
      {{.rows = 2, .columns = 3, .stride = 2}, Shape{1, 9, 40, 16}, 1}};
  return all;
}

TEST(convolution_kernels, give_what_the_definition_gives_at_any_size) {
  Random random(4);
  for (const Precision precision : {Precision::double_, Precision::single}) {
    const double near = precision == Precision::single ? 1e-3 : 1e-11;
    for (const auto& [window, pictures, outputs] : sizes()) {
      const WindowPlaces places = places_of(window, pictures);
      const Shape shape = places_shape(places, pictures, outputs);
      const Tensor x = normal(pictures, 0, 1, random, precision);
      const Tensor kernel =
          normal({window.rows, window.columns, pictures[3], outputs}, 0, 1, random, precision);
      const Tensor bias = normal({outputs}, 0, 1, random, precision);
      const Tensor result = kernels::convolution(x, kernel, &bias, places, shape);
      for (std::int64_t offset = 0; offset < shape.count(); offset += 7) {
        const Index at = shape.index(offset);
        EXPECT_NEAR(result.at(at), by_definition(x, kernel, places, at) + bias.at({at[3]}), near);
      }
      // The sum of z·convolution(x) changes with x and with the kernel as it is made of them.
      const Tensor z = normal(shape, 0, 1, random, precision);
      const Tensor without = kernels::convolution(x, kernel, nullptr, places, shape);
      const double total = sum(z * without).number();
      const Tensor to_x = kernels::convolution_to_pictures(z, kernel, places, pictures);
      const Tensor to_kernel = kernels::convolution_to_kernel(x, z, places, kernel.shape());
      EXPECT_NEAR(sum(x * to_x).number(), total, near * 100);
      EXPECT_NEAR(sum(kernel * to_kernel).number(), total, near * 100);
    }
  }
}

TEST(convolution_kernels, give_the_same_bits_on_any_number_of_threads) {
  Random random(5);
  const Window window{.rows = 3, .columns = 3, .padding = Padding::keeping_size()};
  const Shape pictures{9, 28, 28, 8};
  const WindowPlaces places = places_of(window, pictures);
  const Shape shape = places_shape(places, pictures, 16);
  const Tensor x = normal(pictures, 0, 1, random, Precision::single);
  const Tensor kernel = normal({3, 3, 8, 16}, 0, 1, random, Precision::single);
  const Tensor z = normal(shape, 0, 1, random, Precision::single);
  const auto all = [&](int threads) {
    const Threads some(threads);
    const Tensor y = kernels::convolution(x, kernel, nullptr, places, shape);
    const WindowPlaces pooled = places_of({.rows = 2, .columns = 2, .stride = 2}, y.shape());
    const Tensor most = kernels::largest_under(y, pooled, places_shape(pooled, y.shape(), 16));
    return std::vector<Tensor>{y, kernels::convolution_to_pictures(z, kernel, places, pictures),
                               kernels::convolution_to_kernel(x, z, places, kernel.shape()), most,
                               kernels::to_largest_under(y, most, most, pooled)};
  };
  EXPECT_EQ(all(1), all(2));
  EXPECT_EQ(all(1), all(5));
}

TEST(pooling, gives_all_to_the_first_of_several_largest) {
  Worksheet sheet;
  const Line x = sheet.weight("x", constant({1, 2, 4, 1}, 3.0));
  const Line y = max_pooling(x, {.stride = 2});
  const Gradients gradients = reverse_sweep(sum(y));
  EXPECT_EQ(gradients["x"].numbers(), (std::vector<double>{1, 0, 1, 0, 0, 0, 0, 0}));
}

TEST(pooling, takes_the_mean_of_what_is_on_the_picture) {
  const Tensor x = tensor({{{{1}, {3}}, {{5}, {7}}}});
  const Tensor y = mean_pooling(x, {.rows = 3, .columns = 3, .padding = Padding::of(1)});
  EXPECT_EQ(y.numbers(), (std::vector<double>{4, 4, 4, 4}));
}

TEST(pooling, has_a_local_derivative_where_windows_stand_apart) {
  Worksheet sheet;
  const Line x = sheet.weight("x", tensor({{1, 2}, {4, 3}}).reshaped({1, 2, 2, 1}));
  const auto local = [](const Line& y) { return local_derivative(y, 0); };
  EXPECT_EQ(local(max_pooling(x, {.stride = 2}))->numbers,
            tensor({{0, 0}, {1, 0}}).reshaped({1, 2, 2, 1}));
  EXPECT_EQ(local(mean_pooling(x, {.stride = 2}))->everywhere, 0.25);
  const Line wide = sheet.weight("wide", ones({1, 3, 3, 1}));
  EXPECT_FALSE(local(max_pooling(wide, {.stride = 1})).has_value());
}

}  // namespace
}  // namespace lattice
