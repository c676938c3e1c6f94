#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::DoubleNear;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::Pointwise;
using testing::said;

Tensor four_jars() {
  return tensor({{1, 10}, {3, 30}, {5, 20}, {7, 40}}).with({Role::example, Role::feature});
}

Tensor trained(const Network& net, const Tensor& x) {
  Worksheet sheet;
  Random chance(1);
  return net.forward(sheet, sheet.given("x", x), Phase::training(chance)).value();
}

TEST(normalise, brings_a_minibatch_to_mean_0_and_spread_1_and_from_there_to_its_own) {
  Network net(Shape{2}, "normalise", Random(1));
  const double root = std::sqrt(5.0 + 1e-5);  // distances of −3, −1, 1 and 3 from the mean 4
  const Tensor plain = trained(net, four_jars());
  EXPECT_NEAR(plain.at({0, 0}), -3.0 / root, 1e-12);
  EXPECT_NEAR(plain.at({3, 0}), 3.0 / root, 1e-12);
  net.set("normalise.scale", tensor({2, 1}));
  net.set("normalise.shift", tensor({10, 0}));
  EXPECT_NEAR(trained(net, four_jars()).at({3, 0}), 10.0 + 6.0 / root, 1e-12);
}

TEST(normalise, keeps_running_figures_and_uses_them) {
  Network net(Shape{2}, "normalise decay 0.75, dense 1", Random(1));
  Worksheet sheet;
  Random chance(1);
  const Line y = net.forward(sheet, sheet.given("x", four_jars()), Phase::training(chance));
  Descent rule{.rate = 0.0};
  update(rule, net, reverse_sweep(mean(square(y))));
  EXPECT_THAT(net["normalise.mean"].numbers(), ElementsAre(1.0, 6.25));
  EXPECT_THAT(net["normalise.variance"].numbers(), ElementsAre(0.75 + 1.25, 0.75 + 31.25));
  EXPECT_EQ(sheet.line("normalise.batch-variance").value().at({1}), 125.0);
  // One example alone, in use: (5 − 1)/√2 and (20 − 6.25)/√32.
  net.set("output.weight", tensor({{1}, {0}}));
  const Tensor one = tensor({{5, 20}}).with({Role::example, Role::feature});
  EXPECT_NEAR(net(one).at({0, 0}), 4.0 / std::sqrt(2.0 + 1e-5), 1e-12);
}

TEST(normalise, takes_each_channel_of_pictures_over_examples_and_places) {
  const Dataset bars = testing::bars(6, 3);
  const Tensor x = bars.features.all();
  const Network net(bars.example(), "normalise", Random(1));
  EXPECT_EQ(net.plan().weights(), 6);
  const Tensor y = trained(net, x);
  const Tensor means = mean(y, {.axes = {0, 1, 2}});
  const Tensor spreads = variance(y, {.axes = {0, 1, 2}});
  EXPECT_THAT(means.numbers(), Pointwise(DoubleNear(1e-12), {0.0, 0.0, 0.0}));
  EXPECT_THAT(spreads.numbers(), Pointwise(DoubleNear(1e-5), {1.0, 1.0, 1.0}));
}

TEST(normalise, takes_each_example_by_itself_where_that_is_asked_for) {
  const Network net(Shape{2}, "normalise each example", Random(1));
  EXPECT_EQ(net.weights().size(), 2U);
  const Tensor one = tensor({{5, 20}}).with({Role::example, Role::feature});
  const double far = 7.5 / std::sqrt(56.25 + 1e-5);
  EXPECT_THAT(net(one).numbers(), Pointwise(DoubleNear(1e-12), {-far, far}));
  EXPECT_EQ(trained(net, four_jars()), net(four_jars()));
}

/// Loss and gradients of a normalisation over some axes, fused or not.
std::vector<Tensor> swept(const Tensor& x, const Along& along, Form form) {
  Random random(5);
  const Shape columns{x.shape()[x.shape().rank() - 1]};
  const Tensor weights = normal(x.shape(), 0.0, 1.0, random);
  Worksheet sheet;
  const Line scale = sheet.weight("scale", normal(columns, 1.0, 0.5, random));
  const Line shift = sheet.weight("shift", normal(columns, 0.0, 0.5, random));
  const Line y = normalised_along(sheet.weight("x", x), scale, shift, along, {.form = form}).result;
  const Line loss = sum(square(y) * sheet.given("w", weights));
  const Gradients gradients = reverse_sweep(loss);
  return {y.value(), gradients["x"], gradients["scale"], gradients["shift"]};
}

TEST(normalised, is_the_same_fused_and_written_out) {
  Random random(3);
  const Tensor table = normal({40, 7}, 3.0, 2.0, random);
  const Tensor pictures = normal({5, 6, 4, 3}, -1.0, 2.0, random);
  const auto compare = [&](const Tensor& x, const std::vector<int>& axes) {
    const Along along{.axes = axes, .keep = true};
    const std::vector<Tensor> fused = swept(x, along, Form::one_line);
    const std::vector<Tensor> written = swept(x, along, Form::written_out);
    for (std::size_t at = 0; at < fused.size(); ++at)
      EXPECT_THAT(fused[at].numbers(), Pointwise(DoubleNear(1e-10), written[at].numbers()));
  };
  compare(table, {0});
  compare(table, {1});
  compare(pictures, {0, 1, 2});
  compare(pictures, {1, 2, 3});
}

TEST(normalised, has_the_same_bits_on_any_number_of_threads) {
  Random random(3);
  const Tensor x = normal({64, 16, 16, 32}, 0.0, 1.0, random, Precision::single);
  const auto on = [&](int threads) {
    const Threads some(threads);
    Worksheet sheet;
    const Line scale = sheet.weight("scale", ones({32}, Precision::single));
    const Line y =
        normalised_along(sheet.weight("x", x), scale,
                         sheet.weight("shift", zeros({32}, Precision::single)), {.axes = {0, 1, 2}})
            .result;
    const Gradients gradients = reverse_sweep(mean(square(square(y))));
    return std::pair(gradients["x"], gradients["scale"]);
  };
  EXPECT_EQ(on(1), on(3));
}

TEST(normalised, refuses_what_does_not_fit) {
  const Tensor x = four_jars();
  EXPECT_THAT(
      said<ShapeError>([&] { (void)normalised(x, zeros({2}), ones({2}), ones({3}), zeros({2})); }),
      HasSubstr("normalised: "));
  EXPECT_THAT(said<SettingError>([&] {
                (void)normalised(x, zeros({2}), ones({2}), ones({2}), zeros({2}), {.epsilon = 0.0});
              }),
              HasSubstr("above 0"));
  EXPECT_THAT(said<SettingError>([] { (void)parse_blueprint("normalise decay 1"); }),
              HasSubstr("»normalise«"));
  EXPECT_THAT(said<SettingError>([] { (void)parse_blueprint("normalise epsilon 0"); }),
              HasSubstr("»normalise«"));
  EXPECT_THAT(said<SettingError>([] { (void)parse_blueprint("normalise batch"); }),
              HasSubstr("each example"));
  const std::string text = "normalise decay 0.5 epsilon 0.001";
  EXPECT_EQ(parse_blueprint(text)[0].text(), text);
  EXPECT_EQ(parse_blueprint("normalise each example")[0].text(), "normalise each example");
}

}  // namespace
}  // namespace lattice
