#include "lattice/tensor/tensor.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <array>
#include <string>
#include <vector>

#include <cmath>
#include <limits>
#include <thread>

#include "lattice/text/error.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;

TEST(tensor, is_made_from_nested_numbers) {
  const Tensor t = tensor({{1, 2, 3}, {4, 5, 6}});
  EXPECT_EQ(t.shape(), (Shape{2, 3}));
  EXPECT_EQ(t.at({1, 2}), 6);
  EXPECT_EQ(tensor(7).number(), 7);
  EXPECT_EQ(tensor(7).shape().rank(), 0);
  EXPECT_EQ(tensor({{{1}, {2}}}).shape(), (Shape{1, 2, 1}));
  EXPECT_THROW(static_cast<void>(tensor({{1, 2}, {3}})), ShapeError);
  EXPECT_THROW(static_cast<void>(tensor({{1, 2}, 3})), ShapeError);
  EXPECT_THROW(static_cast<void>(tensor({1, {2, 3}})), ShapeError);
}

TEST(tensor, is_made_from_lists_of_numbers) {
  const std::vector<double> hours = {4.8, 8.5, 2.6};
  EXPECT_EQ(tensor(hours), tensor({4.8, 8.5, 2.6}));
  EXPECT_EQ(tensor(std::vector<std::vector<int>>{{1, 2}, {3, 4}}), tensor({{1, 2}, {3, 4}}));
  EXPECT_EQ(tensor(std::array<float, 2>{1, 2}), tensor({1, 2}));
  EXPECT_EQ(tensor(std::vector<bool>{true, false}), tensor({1, 0}));
  EXPECT_EQ(tensor({hours, hours}).shape(), (Shape{2, 3}));
  EXPECT_EQ(tensor(hours, Precision::single).precision(), Precision::single);
  EXPECT_THROW(static_cast<void>(tensor(std::vector<std::vector<int>>{{1, 2}, {3}})), ShapeError);
  EXPECT_THROW(static_cast<void>(tensor(std::vector<double>())), ShapeError);
  static_assert(!std::is_constructible_v<Nested, std::string>, "letters are no numbers");
  static_assert(!std::is_constructible_v<Nested, std::vector<std::string>>);
}

TEST(tensor, gives_a_number_by_its_places) {
  const Tensor t = tensor({{1, 2, 3}, {4, 5, 6}});
  EXPECT_EQ(t(1, 2), 6.0);
  EXPECT_EQ(t(0, std::int64_t{1}), 2.0);
  EXPECT_EQ(tensor(7)(), 7.0);
  EXPECT_THROW(static_cast<void>(t(2, 0)), IndexError);
  EXPECT_THROW(static_cast<void>(t(0)), IndexError);
}

TEST(tensor, is_made_from_rules) {
  EXPECT_THAT(zeros({2}).numbers(), ElementsAre(0, 0));
  EXPECT_THAT(ones({2}).numbers(), ElementsAre(1, 1));
  EXPECT_THAT(constant({2}, 2.5).numbers(), ElementsAre(2.5, 2.5));
  EXPECT_THAT(identity(2).numbers(), ElementsAre(1, 0, 0, 1));
  EXPECT_THAT(evenly_spaced(-1, 1, 5).numbers(), ElementsAre(-1, -0.5, 0, 0.5, 1));
  EXPECT_THAT(evenly_spaced(3, 9, 1).numbers(), ElementsAre(3));
}

TEST(tensor, of_random_numbers_has_the_mean_and_spread_that_were_asked_for) {
  Random random(11);
  const auto figures = [](const Tensor& t) {
    double mean = 0.0;
    double squares = 0.0;
    for (const double number : t.numbers())
      mean += number / static_cast<double>(t.count());
    for (const double number : t.numbers())
      squares += (number - mean) * (number - mean);
    return std::pair(mean, std::sqrt(squares / static_cast<double>(t.count())));
  };
  const auto [normal_mean, normal_spread] = figures(normal({100, 100}, 3.0, 2.0, random));
  EXPECT_NEAR(normal_mean, 3.0, 0.1);
  EXPECT_NEAR(normal_spread, 2.0, 0.1);
  const auto [mean, spread] = figures(uniform({100, 100}, -1.0, 1.0, random));
  EXPECT_NEAR(mean, 0.0, 0.03);
  EXPECT_NEAR(spread, 1 / std::sqrt(3.0), 0.03);
}

TEST(tensor, is_a_value_that_no_copy_changes) {
  Tensor a = ones({3});
  const Tensor b = a;
  Tensor c = a.reshaped({3, 1});
  a.set({0}, 5);
  c.set({2, 0}, 9);
  EXPECT_THAT(a.numbers(), ElementsAre(5, 1, 1));
  EXPECT_THAT(b.numbers(), ElementsAre(1, 1, 1));
  EXPECT_THAT(c.numbers(), ElementsAre(1, 1, 9));
  Tensor& self = a;
  a = self;
  a = std::move(self);
  EXPECT_THAT(a.numbers(), ElementsAre(5, 1, 1));
}

TEST(tensor, that_holds_nothing_says_so) {
  Tensor a = ones({3});
  const Tensor b = std::move(a);
  EXPECT_TRUE(a.empty());
  EXPECT_EQ(a.count(), 0);
  EXPECT_THROW(static_cast<void>(a.at({0})), NumberError);
  EXPECT_THROW(static_cast<void>(a.numbers()), NumberError);
  EXPECT_THROW(static_cast<void>(a.precision()), NumberError);
  EXPECT_THROW(static_cast<void>(a.reshaped({3})), NumberError);
  EXPECT_THROW(a.set({0}, 1), NumberError);
  EXPECT_THROW(static_cast<void>(Tensor().number()), NumberError);
}

TEST(tensor, refuses_places_that_are_not_there) {
  const Tensor t = tensor({{1, 2}, {3, 4}});
  EXPECT_THROW(static_cast<void>(t.at({0})), IndexError);
  EXPECT_THROW(static_cast<void>(t.at({0, 2})), IndexError);
  EXPECT_THROW(static_cast<void>(t.at({-1, 0})), IndexError);
  EXPECT_THROW(static_cast<void>(t.at_offset(4)), IndexError);
  EXPECT_THROW(static_cast<void>(t.number()), ShapeError);
  EXPECT_THROW(static_cast<void>(t.reshaped({3})), ShapeError);
  EXPECT_THROW(static_cast<void>(t.rows(std::vector<std::int64_t>{2})), IndexError);
  EXPECT_THROW(static_cast<void>(tensor(3).rows(std::vector<std::int64_t>{0})), ShapeError);
}

TEST(tensor, gives_rows_in_any_order) {
  const Tensor t = tensor({{1, 2}, {3, 4}, {5, 6}}).with({Role::example, Role::feature});
  const Tensor rows = t.rows(std::vector<std::int64_t>{2, 0, 2});
  EXPECT_THAT(rows.numbers(), ElementsAre(5, 6, 1, 2, 5, 6));
  EXPECT_EQ(to_string(rows.shape()), "[example 3 × feature 2]");
}

TEST(tensor, keeps_fewer_digits_in_single_precision) {
  const Tensor third = constant({1}, 1.0 / 3.0, Precision::single);
  EXPECT_EQ(third.number(), static_cast<double>(1.0F / 3.0F));
  EXPECT_EQ(third.in(Precision::double_).precision(), Precision::double_);
  EXPECT_FALSE(third.in(Precision::double_) == third);
}

TEST(tensor, compares_bits) {
  const double nan = std::numeric_limits<double>::quiet_NaN();
  EXPECT_TRUE(tensor({1, nan}) == tensor({1, nan}));
  EXPECT_FALSE(tensor({0.0}) == tensor({-0.0}));
  EXPECT_FALSE(tensor({1, 2}) == tensor({{1, 2}}));
  EXPECT_TRUE(Tensor() == Tensor());
}

TEST(tensor, tells_how_far_another_is_and_where) {
  const Distance apart = distance(tensor({{1, 2}, {3, 4}}), tensor({{1, 2}, {3.5, 4.1}}));
  EXPECT_EQ(apart.largest, 0.5);
  EXPECT_EQ(apart.at, (Index{1, 0}));
  const double nan = std::numeric_limits<double>::quiet_NaN();
  EXPECT_EQ(distance(tensor({1, 2}), tensor({1, nan})).largest,
            std::numeric_limits<double>::infinity());
  EXPECT_EQ(distance(tensor({nan}), tensor({nan})).largest, 0.0);
  EXPECT_THROW(static_cast<void>(distance(ones({2}), ones({3}))), ShapeError);
}

TEST(tensor, may_end_in_another_thread_than_it_began) {
  for (int round = 0; round < 50; ++round) {
    Tensor made;
    std::thread maker([&] { made = constant({100}, 2.0); });
    maker.join();
    Tensor copy = made;
    std::thread user([copy = std::move(copy)]() mutable { copy.set({0}, 1.0); });
    user.join();
    EXPECT_EQ(made.at({1}), 2.0);
  }
}

TEST(tensor, refuses_to_give_numbers_that_it_does_not_hold) {
  EXPECT_THROW(static_cast<void>(Tensor().data<double>()), NumberError);
  EXPECT_THROW(static_cast<void>(Tensor().writable<float>()), NumberError);
  EXPECT_THROW(static_cast<void>(Tensor().is_alone()), NumberError);
  EXPECT_THROW(static_cast<void>(Tensor().number()), NumberError);
  Tensor single = ones({3}, Precision::single);
  EXPECT_EQ(single.data<float>()[2], 1.0F);
  EXPECT_THAT(
      testing::said<NumberError>([&] { return single.data<double>(); }),
      ::testing::AllOf(::testing::HasSubstr("data<float>() of a tensor in single precision"),
                       ::testing::HasSubstr("data<double>()")));
  EXPECT_THROW(static_cast<void>(ones({3}).writable<float>()), NumberError);
  EXPECT_THAT(testing::said<NumberError>([] { return Tensor().number(); }),
              ::testing::HasSubstr("is empty"));
}

}  // namespace
}  // namespace lattice
