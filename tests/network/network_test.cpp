#include "lattice/network/network.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

template <class Act>
std::string trouble_in(Act act) {
  return testing::said([&] { act(); });
}

Tensor five_examples() {
  Random random(7);
  return normal(Shape{5, 3}.with({Role::example, Role::feature}), 0, 1, random);
}

TEST(network, finds_its_input_sizes_from_the_shape_of_an_example) {
  const Network net(Shape{5}, {Dense{.outputs = 8}, Tanh{}, Dense{.outputs = 4}}, Random(1));
  EXPECT_EQ(to_string(net["hidden.weight"].shape()), "[feature 5 × unit 8]");
  EXPECT_EQ(to_string(net["hidden.bias"].shape()), "[unit 8]");
  EXPECT_EQ(to_string(net["output.weight"].shape()), "[unit 8 × unit 4]");
  EXPECT_EQ(net.plan().weights(), 84);
  EXPECT_EQ(net.outputs(), Shape{4});
  EXPECT_EQ(net.blueprint(), "dense 8, tanh, dense 4");
}

TEST(network, of_a_table_is_made_from_its_number_of_features) {
  const Network one(Shape{5}, "dense 8, tanh, dense 4", Random(1));
  const Network other(5, "dense 8, tanh, dense 4", Random(1));
  EXPECT_EQ(other["hidden.weight"], one["hidden.weight"]);
  EXPECT_EQ(to_string(other["hidden.weight"].shape()), to_string(one["hidden.weight"].shape()));
  EXPECT_EQ(plan(Shape{5}, "dense 8, tanh, dense 4").weights(), one.plan().weights());
}

TEST(network, gives_what_its_arithmetic_gives) {
  const Network net(Shape{3}, "dense 4, sigmoid, dense 2, softmax", Random(2));
  const Tensor x = five_examples();
  const Tensor h = sigmoid(matmul(x, net["hidden.weight"]) + net["hidden.bias"]);
  EXPECT_EQ(net(x), softmax(matmul(h, net["output.weight"]) + net["output.bias"]));
}

TEST(network, writes_every_weight_and_every_part_down_by_name) {
  const Network net(Shape{3}, "dense 4, tanh, dense 4, tanh, dense 2", Random(2));
  Worksheet sheet;
  const Line result = net.forward(sheet, sheet.given("x", five_examples()));
  std::vector<std::string> names;
  for (const Line& line : sheet.lines())
    names.push_back(line.name());
  EXPECT_THAT(names, ElementsAre("x", "hidden.weight", "hidden.bias", "hidden", "tanh",
                                 "hidden2.weight", "hidden2.bias", "hidden2", "tanh2",
                                 "output.weight", "output.bias", "output"));
  EXPECT_EQ(sheet.line("tanh2").section(), "tanh2");
  EXPECT_EQ(result, sheet.line("output"));
}

TEST(network, leaves_a_softmax_at_its_end_out_of_scores) {
  const Network net(Shape{3}, "dense 2, softmax", Random(2));
  Worksheet sheet;
  const Line x = sheet.given("x", five_examples());
  EXPECT_EQ(softmax(net.scores(sheet, x).value()), net(five_examples()));
  EXPECT_EQ(net.makes_probabilities(), Probabilities::together);
  EXPECT_EQ(Network(Shape{3}, "dense 2", Random(2)).makes_probabilities(), Probabilities::none);
}

TEST(network, is_a_value) {
  Network net(Shape{3}, "dense 2", Random(2));
  const Network copy = net;
  net.set("output.bias", tensor({1, 2}));
  EXPECT_THAT(net["output.bias"].numbers(), ElementsAre(1, 2));
  EXPECT_THAT(copy["output.bias"].numbers(), ElementsAre(0, 0));
  EXPECT_THAT(trouble_in([&] {
                net.set("output.bias", tensor({1, 2, 3}));
              }),
              HasSubstr("output.bias cannot be given these numbers"));
  EXPECT_THAT(trouble_in([&] { static_cast<void>(net["output.wieght"]); }),
              HasSubstr("did you mean output.weight?"));
}

TEST(network, draws_each_weight_by_itself) {
  const Network small(Shape{3}, "dense 4, tanh, dense 2", Random(5));
  const Network large(Shape{3}, "dense 4, tanh, dense 6, dense 2", Random(5));
  EXPECT_EQ(small["hidden.weight"], large["hidden.weight"]);
  Network again = small;
  again.set("hidden.weight", zeros({3, 4}));
  again.start_over(Random(5));
  EXPECT_EQ(again["hidden.weight"], small["hidden.weight"]);
}

TEST(network, holds_weights_fixed) {
  Network net(Shape{3}, "dense 4, tanh, dense 2", Random(5));
  net.freeze("hidden.weight");
  Worksheet sheet;
  const Line loss = sum(square(net.forward(sheet, sheet.given("x", five_examples()))));
  const Gradients gradients = reverse_sweep(loss);
  EXPECT_EQ(gradients.size(), 3U);
  EXPECT_THROW(static_cast<void>(gradients["hidden.weight"]), NameError);
  EXPECT_EQ(sheet.line("hidden.weight").operation(), "frozen weight");
}

TEST(layers, of_ones_own_start_by_the_shape_of_their_weights) {
  // Xavier draws with a variance of 2/(inputs + outputs).
  const OwnLayer own{
      .word = "own",
      .needs = {{.name = "weight", .shape = Shape{30, 70}, .start = Start::xavier()}},
      .carry_out = [](const Line& x, Pass& pass) { return matmul(x, pass.weight("weight")); }};
  const Network net(Shape{30}, {own}, Random(1));
  EXPECT_NEAR(mean(square(net["own.weight"])).number(), 0.02, 0.002);
}

TEST(network, labels_its_outputs_with_what_they_are) {
  Network net(Shape{3}, "dense 4, tanh, dense 2, softmax", Random(5));
  net.label_outputs(Role::class_);
  EXPECT_EQ(to_string(net["hidden.weight"].shape()), "[feature 3 × unit 4]");
  EXPECT_EQ(to_string(net["output.weight"].shape()), "[unit 4 × class 2]");
  EXPECT_EQ(to_string(net["output.bias"].shape()), "[class 2]");
  EXPECT_EQ(to_string(net.outputs()), "[class 2]");
  Worksheet sheet;
  const Line x = sheet.given("x", five_examples().with({Role::example, Role::feature}));
  EXPECT_EQ(to_string(net.forward(sheet, x).shape()), "[example 5 × class 2]");
  EXPECT_EQ(to_string(sheet.line("output").shape()), "[example 5 × class 2]");
  EXPECT_EQ(to_string(sheet.line("hidden").shape()), "[example 5 × unit 4]");
  net.start_over(Random(6));
  EXPECT_EQ(to_string(net["output.weight"].shape()), "[unit 4 × class 2]");

  // The output of a residual block is of units, whatever it ends in.
  Network residual(Shape{2}, "dense 2, residual(dense 2)", Random(5));
  residual.label_outputs(Role::class_);
  EXPECT_EQ(to_string(residual["residual.hidden.weight"].shape()), "[unit 2 × unit 2]");
  EXPECT_EQ(to_string(residual(ones({1, 2})).shape()), "[1 × class 2]");
}

TEST(network, freezes_and_slows_whole_parts_by_their_names) {
  Network net(Shape{3}, "dense 4, dense 4, tanh, residual(dense 4), dense 2", Random(5));
  const auto having = [&](const auto& what) {
    std::vector<std::string> names;
    for (const Weight& weight : net.weights()) {
      if (what(weight)) names.push_back(weight.name);
    }
    return names;
  };
  net.freeze("hidden");
  net.set_rate_multiplier("residual", 0.5);
  net.set_rate_multiplier("output.bias", 3.0);
  const auto frozen = [](const Weight& weight) { return weight.is_frozen; };
  const auto slowed = [](const Weight& weight) { return weight.rate_multiplier != 1.0; };
  EXPECT_THAT(having(frozen), ElementsAre("hidden.weight", "hidden.bias"));
  EXPECT_THAT(having(slowed),
              ElementsAre("residual.hidden.weight", "residual.hidden.bias", "output.bias"));
  net.start_over(Random(6));
  EXPECT_EQ(having(slowed).size(), 3U);
  EXPECT_THAT(trouble_in([&] { net.freeze("hiden"); }), HasSubstr("hidden"));
  EXPECT_THAT(trouble_in([&] { net.set_rate_multiplier("hidden", 0.0); }), HasSubstr("freeze it"));
  EXPECT_THROW(net.set_rate_multiplier("hidden", std::nan("")), SettingError);
}

TEST(network, keeps_what_is_frozen_when_it_starts_over) {
  Network net(Shape{3}, "dense 4, tanh, dense 2", Random(5));
  net.freeze("hidden.weight");
  const Tensor before = net["hidden.weight"];
  net.start_over(Random(6));
  EXPECT_NE(net["hidden.weight"], before);
  for (const Weight& weight : net.weights())
    EXPECT_EQ(weight.is_frozen, weight.name == "hidden.weight") << weight.name;
  net.freeze("hidden.weight", false);
  EXPECT_FALSE(net.weights().find("hidden.weight").is_frozen);
}

TEST(network, begins_anew_from_what_another_has_learnt) {
  Network learnt(Shape{3}, "first: dense 4, tanh, residual(dense 4), dense 2", Random(5));
  learnt.set_updates(7);
  Network fresh(Shape{3}, "first: dense 4, tanh, residual(dense 4), dense 3", Random(6));
  const Tensor output = fresh["output.weight"];
  fresh.freeze("first");
  EXPECT_THAT(
      fresh.start_from(learnt.weights()),
      ElementsAre("first.weight", "first.bias", "residual.hidden.weight", "residual.hidden.bias"));
  EXPECT_EQ(fresh["first.weight"], learnt["first.weight"]);
  EXPECT_EQ(fresh["residual.hidden.weight"], learnt["residual.hidden.weight"]);
  EXPECT_EQ(fresh["output.weight"], output);
  EXPECT_TRUE(fresh.weights().find("first.bias").is_frozen);
  EXPECT_EQ(fresh.updates(), 0);
  // A layer is taken whole, or not at all.
  Network narrow(Shape{2}, "first: dense 4, tanh, dense 2", Random(6));
  const Tensor bias = narrow["first.bias"];
  EXPECT_THAT(narrow.start_from(learnt.weights()), ElementsAre("output.weight", "output.bias"));
  EXPECT_EQ(narrow["first.bias"], bias);
  Network other(Shape{2}, "dense 5", Random(6));
  EXPECT_THAT(trouble_in([&] { other.start_from(learnt.weights()); }),
              HasSubstr("no layer of the trained model fits"));
  // Its own numbers, too: trained already, it is ready for a new run.
  EXPECT_EQ(learnt.start_from(Weights(learnt.weights())).size(), 6U);
  EXPECT_EQ(learnt.updates(), 0);
  // In its own precision.
  Network single(Shape{3}, "first: dense 4", Random(6), Precision::single);
  static_cast<void>(single.start_from(learnt.weights()));
  EXPECT_EQ(single["first.weight"], learnt["first.weight"].in(Precision::single));
}

TEST(network, adds_up_all_uses_of_a_weight) {
  // The same layer passed twice on one sheet: one line, and one gradient that has both shares.
  const Network net(Shape{3}, "dense 3, tanh", Random(5));
  Worksheet sheet;
  const Line once = net.forward(sheet, sheet.given("x", five_examples()));
  const Line loss = mean(square(net.forward(sheet, once)));
  EXPECT_EQ(sheet.line("output.weight").number(), 2U);
  EXPECT_EQ(reverse_sweep(loss).size(), 2U);

  const auto loss_with = [&](double number) {
    Network moved = net;
    Tensor weight = net["output.weight"];
    weight.set({0, 1}, number);
    moved.set("output.weight", weight);
    return mean(square(moved(moved(five_examples())))).number();
  };
  const double here = net["output.weight"].at({0, 1});
  EXPECT_NEAR(reverse_sweep(loss)["output.weight"].at({0, 1}),
              (loss_with(here + 1e-5) - loss_with(here - 1e-5)) / 2e-5, 1e-9);
  EXPECT_TRUE(check_gradients(loss).agrees());
}

TEST(network, refuses_examples_of_another_shape) {
  const Network net(Shape{3}, "dense 2", Random(2));
  EXPECT_THAT(trouble_in([&] {
                static_cast<void>(net(ones({5, 4})));
              }),
              HasSubstr("the shape of the examples does not fit"));
  EXPECT_THAT(trouble_in([&] { static_cast<void>(net(ones({3}))); }),
              HasSubstr("this is one example: a batch of it has an axis of 1 in front"));
}

TEST(network, works_in_single_precision) {
  const Network net(Shape{3}, "dense 4, tanh, dropout 0.5, dense 2", Random(2), Precision::single);
  EXPECT_EQ(net["hidden.weight"].precision(), Precision::single);
  Random chance(1);
  Worksheet sheet;
  const Line x = sheet.given("x", five_examples().in(Precision::single));
  EXPECT_EQ(net.forward(sheet, x, Phase::training(chance)).value().precision(), Precision::single);
}

TEST(dense, may_do_without_bias_or_take_it_as_an_input) {
  const Network none(Shape{3}, "dense 2 without bias", Random(2));
  EXPECT_EQ(none.plan().weights(), 6);
  Network as_input(Shape{3}, "dense 2 with bias as input", Random(2));
  EXPECT_EQ(to_string(as_input["output.weight"].shape()), "[feature 4 × unit 2]");
  const Network behind_units(Shape{3}, "dense 2, tanh, dense 2 with bias as input", Random(2));
  const Shape of_units = behind_units["output.weight"].shape();
  EXPECT_EQ(to_string(of_units), "[input 3 × unit 2]");
  EXPECT_EQ(AxisNames().label(of_units, 0, 1), "1");
  EXPECT_EQ(AxisNames().label(of_units, 0, 2), "2 bias");
  // The last row is the bias.
  Network added(Shape{3}, "dense 2", Random(2));
  Tensor weight = as_input["output.weight"];
  added.set("output.weight", slice(weight, 0, {.from = 0, .end = 3}));
  added.set("output.bias", slice(weight, 0, {.from = 3, .end = 4}).reshaped({2}));
  const Tensor a = added(five_examples());
  const Tensor b = as_input(five_examples());
  EXPECT_TRUE(agreement(a, b).agrees);
}

TEST(dropout, leaves_numbers_out_while_learning_and_grows_the_others) {
  const Network net(Shape{3}, {Dropout{.share = 0.25}}, Random(2));
  Random chance(3);
  Worksheet sheet;
  const Line x = sheet.given("x", ones({1000, 3}));
  const Line y = net.forward(sheet, x, Phase::training(chance));
  int left_out = 0;
  for (const double number : y.value().numbers()) {
    left_out += number == 0.0 ? 1 : 0;
    EXPECT_TRUE(number == 0.0 || std::abs(number - 4.0 / 3.0) < 1e-15);
  }
  EXPECT_NEAR(left_out, 750, 75);
  EXPECT_EQ(sheet.line("dropout.mask").kind(), Line::Kind::given);
  EXPECT_EQ(net(ones({2, 3})), ones({2, 3}));
}

TEST(residual, adds_what_comes_in_to_what_goes_through) {
  const Network net(Shape{3}, "residual(dense 3, tanh), dense 1", Random(2));
  const Tensor x = five_examples();
  const Tensor through =
      tanh(matmul(x, net["residual.hidden.weight"]) + net["residual.hidden.bias"]);
  EXPECT_EQ(net(x), matmul(x + through, net["output.weight"]) + net["output.bias"]);
  EXPECT_THAT(trouble_in([] { Network(Shape{3}, "dense 3, residual(dense 4)", Random(1)); }),
              HasSubstr("layer 2, residual(dense 4)"));
  const Network nested(Shape{2}, "residual(dense 2, residual(dense 2, tanh)), dense 1", Random(2));
  EXPECT_EQ(to_string(nested["residual.residual.hidden.weight"].shape()), "[unit 2 × unit 2]");
}

TEST(layers, may_be_operations_and_functions_of_ones_own) {
  const auto swish = own_operation(
      "swish", [](auto z) { return z / (1 + exp(-z)); },
      [](auto z) { return 1 / (1 + exp(-z)) + z * exp(-z) / square(1 + exp(-z)); });
  int seen = 0;
  const OwnLayer gate{
      .word = "gate",
      .needs = {{.name = "W", .shape = {4, 6}, .inputs = 4, .outputs = 6, .start = Start::he()}},
      .carry_out = [&seen](const Line& x, Pass& pass) {
        ++seen;
        const Line mixed = matmul(x, pass.weight("W"));
        return x.shape()[0] > 1 ? sigmoid(mixed) : mixed;
      }};
  Network net(Shape{3}, {Dense{.outputs = 4}, swish, named("mine", gate), Dense{.outputs = 2}},
              Random(1));
  EXPECT_EQ(to_string(net["mine.W"].shape()), "[4 × 6]");
  EXPECT_EQ(to_string(net["output.weight"].shape()), "[unit 6 × unit 2]");
  seen = 0;
  Worksheet sheet;
  const Line y = net.forward(sheet, sheet.given("x", five_examples()));
  EXPECT_EQ(seen, 1);
  EXPECT_EQ(sheet.line("swish").operation(), "swish");
  EXPECT_TRUE(check_gradients(sum(square(y))).agrees());
}

TEST(layers, of_every_kind_pass_gradients_that_agree_with_central_differences) {
  for (const char* blueprint :
       {"dense 4, sigmoid, dense 2", "dense 4 with bias as input, tanh, dense 2 without bias",
        "dense 4, relu, dense 2, softmax", "dense 4, leaky-relu 0.2, dense 2, sigmoid",
        "dense 4, softplus, elu 0.5, dense 2", "residual(dense 3, tanh, dropout 0.3), dense 2"}) {
    const Network net(Shape{3}, blueprint, Random(3));
    Random chance(4);
    Worksheet sheet;
    const Line y = net.forward(sheet, sheet.given("x", five_examples()), Phase::training(chance));
    EXPECT_TRUE(check_gradients(sum(square(y))).agrees()) << blueprint;
  }
}

TEST(plan, names_the_part_where_shapes_do_not_fit) {
  EXPECT_THAT(trouble_in([] {
                static_cast<void>(plan(Shape{4, 4}, parse_blueprint("tanh, dense 2")));
              }),
              HasSubstr("layer 2, dense 2"));
  EXPECT_THAT(trouble_in([] { static_cast<void>(plan(Shape{4}, {Dense{.outputs = 0}})); }),
              HasSubstr("cannot have 0 units"));
  EXPECT_THAT(trouble_in([] { static_cast<void>(plan(Shape{4}, {})); }),
              HasSubstr("a network without layers"));
}

TEST(plan, has_the_parts_that_a_part_is_made_of) {
  const Network net(Shape{3},
                    "residual(first: dense 2, tanh, residual(dense 2 without bias), dense 3)",
                    Random(1));
  const Plan::Row& residual = net.plan().rows.front();
  EXPECT_TRUE(residual.adds_its_input);
  EXPECT_EQ(residual.weights, 8 + 4 + 9);
  std::vector<std::string> names;
  std::vector<std::string> needs;
  for (const Plan::Row& row : residual.inside) {
    names.push_back(row.name);
    EXPECT_EQ(row.adds_its_input, !row.inside.empty());
    for (const WeightNeed& need : row.needs)
      needs.push_back(need.name);
  }
  EXPECT_THAT(names, ElementsAre("residual.first", "residual.tanh", "residual.residual",
                                 "residual.hidden"));
  // The weights inside are those of the whole, by the same names.
  ASSERT_EQ(needs.size(), net.weights().size());
  for (const std::string& need : needs)
    EXPECT_NO_THROW(static_cast<void>(net[need])) << need;
  EXPECT_EQ(residual.inside[2].inside.front().own_name(), "hidden");
  EXPECT_EQ(residual.inside[2].inside.front().outputs, (Shape{2}));
}

TEST(names, are_given_or_found) {
  const Network net(Shape{3}, "first: dense 4, tanh, dense 4, relu, tanh, last: dense 2",
                    Random(1));
  std::vector<std::string> names;
  for (const Plan::Row& row : net.plan().rows)
    names.push_back(row.name);
  EXPECT_THAT(names, ElementsAre("first", "tanh", "hidden", "relu", "tanh2", "last"));
  EXPECT_EQ(net.blueprint(), "first: dense 4, tanh, dense 4, relu, tanh, last: dense 2");
  EXPECT_THAT(trouble_in([] { Network(Shape{3}, "a: dense 4, a: dense 2", Random(1)); }),
              HasSubstr("two layers are called 'a'"));
  EXPECT_THROW(static_cast<void>(named("1st", Tanh{})), NameError);
}

TEST(start, draws_what_it_says) {
  Random random(1);
  const Shape shape{60, 40};
  const auto spread = [&](const Start& start) {
    return std::sqrt(variance(start.draw(shape, 60, 40, random)).number());
  };
  EXPECT_EQ(Start::zeros().draw(shape, 60, 40, random), zeros(shape));
  EXPECT_EQ(Start::constant(0.5).draw(shape, 60, 40, random), constant(shape, 0.5));
  EXPECT_NEAR(spread(Start::uniform(-1, 1)), std::sqrt(1.0 / 3.0), 0.02);
  EXPECT_NEAR(spread(Start::normal(0.2)), 0.2, 0.01);
  // Within five standard errors of a standard deviation over so many numbers, √(1/2n) of it.
  constexpr double numbers = 300.0 * 400.0;
  const double bound = 5.0 / std::sqrt(2.0 * numbers);
  const auto expect_deviation = [&](const Start& start, std::int64_t inputs, std::int64_t outputs,
                                    double expected) {
    const Tensor drawn = start.draw(Shape{300, 400}, inputs, outputs, random);
    EXPECT_NEAR(std::sqrt(mean(square(drawn)).number()), expected, bound * expected);
    EXPECT_NEAR(mean(drawn).number(), 0.0, 5.0 * expected / std::sqrt(numbers));
  };
  expect_deviation(Start::xavier(), 300, 400, std::sqrt(2.0 / 700.0));
  expect_deviation(Start::xavier(), 10, 90, std::sqrt(2.0 / 100.0));
  expect_deviation(Start::he(), 300, 400, std::sqrt(2.0 / 300.0));
  expect_deviation(Start::normal(0.05), 300, 400, 0.05);
  // An even spread from −a to a has a standard deviation of a/√3.
  expect_deviation(Start::uniform(-0.3, 0.3), 300, 400, 0.3 / std::sqrt(3.0));
  EXPECT_NEAR(spread(Start::he()), std::sqrt(2.0 / 60.0), 0.01);
  EXPECT_EQ(Start::numbers(tensor({1, 2})).draw(Shape{2, 1}, 2, 1, random), tensor({{1}, {2}}));
  EXPECT_THROW(static_cast<void>(Start::numbers(tensor({1, 2})).draw(shape, 1, 1, random)),
               ShapeError);
  EXPECT_THROW(static_cast<void>(Start::normal(-1)), SettingError);
  EXPECT_THROW(static_cast<void>(Start::uniform(1, 0)), SettingError);
  for (const char* text :
       {"zeros", "constant 0.5", "uniform -0.1 0.1", "normal 0.05", "xavier", "he"}) {
    EXPECT_EQ(parse_start(text).text(), text);
  }
  for (const char* text : {"", "he 2", "normal", "normal x", "uniform 1", "random"})
    EXPECT_THROW(static_cast<void>(parse_start(text)), SettingError) << text;
}

TEST(network, that_was_moved_elsewhere_says_so) {
  Network net(Shape{2}, "dense 3, tanh, dense 2", Random(1));
  const Network moved = std::move(net);
  const auto use = [&](const auto& act) {
    EXPECT_THAT(testing::said<SettingError>(act), ::testing::HasSubstr("was moved elsewhere"));
  };
  Worksheet sheet;
  const Line x = sheet.given("x", ones({1, 2}));
  use([&] { return net.forward(sheet, x); });
  use([&] { return net.scores(sheet, x); });
  use([&] { return net(ones({1, 2})); });
  use([&] { return net.blueprint(); });
  use([&] { return net.outputs(); });
  use([&] { return net.makes_probabilities(); });
  use([&] { return net.layers().size(); });
  EXPECT_EQ(moved(ones({1, 2})).shape(), Shape({1, 2}));
  net = moved;
  EXPECT_EQ(net.blueprint(), "dense 3, tanh, dense 2");
}

}  // namespace
}  // namespace lattice
