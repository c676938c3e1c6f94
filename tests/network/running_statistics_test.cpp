#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <string>

#include "lattice/core.hpp"
#include "support/centred.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using testing::Centred;
using ::testing::Each;
using ::testing::HasSubstr;

Tensor four_pots() {
  return tensor({{1, 10}, {3, 30}, {5, 20}, {7, 40}}).with({Role::example, Role::feature});
}

Network centred_net() {
  return {Shape{2}, {Centred{}, Dense{.outputs = 1}}, Random(3)};
}

/// The loss of a step of training, on a worksheet that is to be kept.
Line step(Worksheet& sheet, const Network& net) {
  Random chance(1);
  return mean(square(net.forward(sheet, sheet.given("x", four_pots()), Phase::training(chance))));
}

TEST(running_statistic, moves_with_an_update_and_with_nothing_else) {
  Network net = centred_net();
  Worksheet sheet;
  const Line loss = step(sheet, net);
  EXPECT_THAT(net["centred.mean"].numbers(), Each(0.0));
  Gradients gradients = reverse_sweep(loss);
  ASSERT_EQ(gradients.running().size(), 1U);
  EXPECT_EQ(gradients.running()[0].name, "centred.mean");
  EXPECT_THAT(net["centred.mean"].numbers(), Each(0.0));
  Descent rule{.rate = 0.01};
  update(rule, net, std::move(gradients));
  // 0.9·0 + 0.1·4 and 0.1·25
  EXPECT_DOUBLE_EQ(net["centred.mean"].at({0}), 0.4);
  EXPECT_DOUBLE_EQ(net["centred.mean"].at({1}), 2.5);
  EXPECT_THAT(sheet.line("centred.mean").value().numbers(), Each(0.0));
}

TEST(running_statistic, is_a_line_that_can_be_asked) {
  Worksheet sheet;
  const Network net = centred_net();
  static_cast<void>(step(sheet, net));
  const Line kept = sheet.line("centred.mean");
  EXPECT_EQ(kept.kind(), Line::Kind::running);
  EXPECT_EQ(kept.operation(), "running statistic");
  EXPECT_FALSE(kept.is_swept());
  ASSERT_TRUE(kept.next());
  EXPECT_EQ(kept.next()->name(), "centred.mean.next");
  const Explanation why = explain(sheet.line("centred.mean.next"), {1});
  EXPECT_DOUBLE_EQ(why.formula.evaluate(), 2.5);
  EXPECT_THAT(explain(kept, {1}).note, HasSubstr("a running statistic"));
}

TEST(running_statistic, is_used_when_the_network_is_and_stays_as_it_is) {
  Network net = centred_net();
  net.set("centred.mean", tensor({4, 25}));
  const Tensor W = net["output.weight"];
  EXPECT_EQ(net(four_pots()), matmul(four_pots() - tensor({4, 25}), W) + net["output.bias"]);
  EXPECT_EQ(net["centred.mean"], tensor({4, 25}));
}

TEST(running_statistic, is_no_weight_to_learn) {
  const Network net = centred_net();
  EXPECT_EQ(net.plan().weights(), 3);
  EXPECT_TRUE(net.weights().find("centred.mean").is_running);
  EXPECT_FALSE(net.weights().find("centred.mean").is_slope());
  Worksheet sheet;
  const Gradients gradients = reverse_sweep(step(sheet, net));
  EXPECT_EQ(gradients.size(), 2U);
  EXPECT_THROW(static_cast<void>(gradients["centred.mean"]), NameError);
}

/// What is said when something is kept that cannot be.
template <class Keep>
std::string said_of(Keep keep) {
  Worksheet sheet;
  const Line running = sheet.running_statistic("running", tensor({0, 0}));
  const Line other = sheet.given("x", tensor({1, 2}));
  return testing::said([&] { keep(sheet, running, other); });
}

TEST(running_statistic, refuses_what_cannot_become_of_it) {
  EXPECT_THAT(said_of([](Worksheet& sheet, const Line& running, const Line&) {
                sheet.set_next(running, sheet.given("wide", ones({3})));
              }),
              AllOf(HasSubstr("the next value of running does not fit it"), HasSubstr("[3]")));
  EXPECT_THAT(said_of([](Worksheet& sheet, const Line& running, const Line& x) {
                sheet.set_next(running, x + running);
                sheet.set_next(running, x);
              }),
              HasSubstr("one next value a worksheet"));
  EXPECT_THAT(said_of([](Worksheet& sheet, const Line& running, const Line& x) {
                sheet.set_next(x, running);
              }),
              AllOf(HasSubstr("x cannot be a running statistic"), HasSubstr("data")));
  EXPECT_THAT(said_of([](Worksheet&, const Line& running, const Line& x) {
                Worksheet another;
                another.set_next(running, x);
              }),
              HasSubstr("another one"));
}

TEST(running_statistic, has_one_line_by_its_name_like_a_weight) {
  Worksheet sheet;
  const Line running = sheet.running_statistic("running", tensor({1, 2}));
  EXPECT_EQ(sheet.running_statistic("running", tensor({1, 2})), running);
  EXPECT_THROW(sheet.running_statistic("running", tensor({1, 3})), NameError);
  EXPECT_THROW(sheet.weight("running", tensor({1, 2})), NameError);
}

TEST(running_statistic, does_not_come_over_to_the_next_worksheet) {
  {
    Worksheet sheet;
    const Line running = sheet.running_statistic("running", tensor({1, 2}));
    sheet.set_next(running, 0.5 * running);
  }
  Worksheet sheet;
  const Line W = sheet.weight("W", tensor({1, 2}));
  EXPECT_TRUE(reverse_sweep(sum(W)).running().empty());
}

}  // namespace
}  // namespace lattice
