#include "lattice/learning/rules.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

/// Gradients of Σ g·w, which are g.
Gradients gradients_of(const Weights& weights, const std::vector<Tensor>& gradients) {
  Worksheet sheet;
  std::optional<Line> total;
  std::size_t at = 0;
  for (const Weight& weight : weights) {
    const Line w = sheet.weight(weight.name, weight.value);
    const Line term = sum(w * sheet.given("g" + std::to_string(at), gradients[at]));
    total = total ? *total + term : term;
    ++at;
  }
  return reverse_sweep(*total);
}

Weights one_weight() {
  return {{"W", tensor({{0.5, -1.25}, {2.0, 0.1}})}, {"b", tensor({0.3, -0.7})}};
}

const std::vector<std::vector<Tensor>> three_gradients = {
    {tensor({{0.1, -2}, {0, 5}}), tensor({0.2, -0.3})},
    {tensor({{-0.4, 1}, {3, 5}}), tensor({0.1, 0})},
    {tensor({{0.2, 0.5}, {-1, 4}}), tensor({-2, 0.7})}};

/// Takes three steps.
Weights after_three_steps(UpdateRule rule) {
  Weights weights = one_weight();
  for (const std::vector<Tensor>& gradients : three_gradients)
    update(rule, weights, gradients_of(weights, gradients));
  return weights;
}

/// The same three steps worked number by number with a function of the book.
template <class Step>
void expect_worked_alike(const Weights& weights, const char* name, std::size_t which, Step step) {
  const std::vector<double> start = one_weight()[name].numbers();
  const std::vector<double> found = weights[name].numbers();
  for (std::size_t i = 0; i < start.size(); ++i) {
    double w = start[i];
    double first = 0.0;
    double second = 0.0;
    for (std::size_t t = 1; t <= three_gradients.size(); ++t)
      w = step(w, three_gradients[t - 1][which].numbers()[i], first, second,
               static_cast<double>(t));
    EXPECT_NEAR(found[i], w, 1e-12) << name << " " << i;
  }
}

TEST(descent, goes_rate_times_gradient_against_the_gradient) {
  const Weights weights = after_three_steps(Descent{.rate = 0.1});
  expect_worked_alike(weights, "W", 0,
                      [](double w, double g, double&, double&, double) { return w - 0.1 * g; });
}

TEST(momentum, keeps_a_part_of_the_velocity) {
  const Weights weights = after_three_steps(Momentum{.rate = 0.1, .momentum = 0.8});
  expect_worked_alike(weights, "W", 0, [](double w, double g, double& v, double&, double) {
    v = 0.8 * v + g;
    return w - 0.1 * v;
  });
}

TEST(rms_scaling, divides_by_the_root_of_a_running_mean) {
  const Weights weights = after_three_steps(RmsScaling{.rate = 0.1, .decay = 0.7, .epsilon = 1e-6});
  expect_worked_alike(weights, "W", 0, [](double w, double g, double& s, double&, double) {
    s = 0.7 * s + (1 - 0.7) * g * g;
    return w - 0.1 * g / (std::sqrt(s) + 1e-6);
  });
}

TEST(adam, with_weight_decay_is_as_worked_independently) {
  const Weights weights = after_three_steps(
      Adam{.rate = 0.05, .beta_1 = 0.8, .beta_2 = 0.95, .epsilon = 1e-7, .weight_decay = 0.02});
  const auto with_decay = [](double decay) {
    return [decay](double w, double g, double& m, double& v, double t) {
      m = 0.8 * m + 0.2 * g;
      v = 0.95 * v + 0.05 * g * g;
      const double corrected_m = m / (1 - std::pow(0.8, t));
      const double corrected_v = v / (1 - std::pow(0.95, t));
      return w - 0.05 * corrected_m / (std::sqrt(corrected_v) + 1e-7) - 0.05 * decay * w;
    };
  };
  expect_worked_alike(weights, "W", 0, with_decay(0.02));
  expect_worked_alike(weights, "b", 1, with_decay(0.0));  // biases do not decay
}

// Worked with bc to 30 places: w = 0.5, g = 0.1, the settings of the paper and decay 0.01.
TEST(adam, first_step_with_weight_decay_to_the_last_digit) {
  Weights weights{{"W", tensor({{0.5}})}};
  Adam rule{.rate = 0.01, .weight_decay = 0.01};
  update(rule, weights, gradients_of(weights, {tensor({{0.1}})}));
  EXPECT_NEAR(weights["W"].number(), 0.489950000999999900000009999999, 1e-12);
}

TEST(adam, with_decay_in_the_gradient_is_as_worked_independently) {
  const Weights weights = after_three_steps(
      Adam{.rate = 0.05, .beta_1 = 0.8, .beta_2 = 0.95, .epsilon = 1e-7, .gradient_decay = 0.02});
  const auto with_decay = [](double decay) {
    return [decay](double w, double gradient, double& m, double& v, double t) {
      const double g = gradient + decay * w;
      m = 0.8 * m + 0.2 * g;
      v = 0.95 * v + 0.05 * g * g;
      return w -
             0.05 * m / (1 - std::pow(0.8, t)) / (std::sqrt(v / (1 - std::pow(0.95, t))) + 1e-7);
    };
  };
  expect_worked_alike(weights, "W", 0, with_decay(0.02));
  expect_worked_alike(weights, "b", 1, with_decay(0.0));
}

TEST(rules, explain_every_update_so_that_the_formula_gives_it_again) {
  const std::vector<UpdateRule> rules = {
      Descent{.rate = 0.1},    Descent{.rate = 0.1, .weight_decay = 0.1, .gradient_decay = 0.2},
      Momentum{.rate = 0.1},   Momentum{.rate = 0.1, .gradient_decay = 0.2},
      RmsScaling{.rate = 0.1}, RmsScaling{.rate = 0.1, .gradient_decay = 0.2},
      Adam{.rate = 0.1},       Adam{.rate = 0.1, .weight_decay = 0.01, .gradient_decay = 0.2}};
  for (const Precision precision : {Precision::double_, Precision::single}) {
    for (UpdateRule rule : rules) {
      Weights weights;
      for (const Weight& weight : one_weight())
        weights.add({weight.name, weight.value.in(precision)});
      for (const std::vector<Tensor>& numbers : three_gradients) {
        std::vector<Tensor> in_precision;
        for (const Tensor& each : numbers)
          in_precision.push_back(each.in(precision));
        const Gradients gradients = gradients_of(weights, in_precision);
        for (const double clip_factor : {1.0, 0.25}) {
          const Weights before = weights;
          Weights after = weights;
          UpdateRule next = rule;
          update(next, after, gradients, clip_factor);
          Worksheet sheet;
          for (const Weight& weight : before) {
            const Line line = sheet.weight(weight.name, weight.value);
            for (std::int64_t offset = 0; offset < weight.value.count(); ++offset) {
              const Index at = weight.value.shape().index(offset);
              const Explanation why = rule.explain({.line = line,
                                                    .weight = weight,
                                                    .gradient = gradients[weight.name],
                                                    .clip_factor = Formula(clip_factor)},
                                                   at);
              EXPECT_EQ(why.value, after[weight.name].at(at)) << rule.word();
              EXPECT_EQ(why.formula.evaluate(precision), why.value) << rule.word();
              // What is read is worked in double: the step that was taken, to seven digits.
              const double step = why.value - weight.value.at(at);
              EXPECT_NEAR(why.formula.evaluate() - weight.value.at(at), step,
                          precision == Precision::double_ ? 0.0 : 2e-7)
                  << rule.word();
            }
          }
        }
        update(rule, weights, gradients);
      }
    }
  }
}

TEST(adam, is_explained_in_names_and_in_numbers) {
  Adam rule{.rate = 0.1};
  Weights weights = one_weight();
  for (int step = 0; step < 2; ++step)
    update(rule, weights, gradients_of(weights, three_gradients[static_cast<std::size_t>(step)]));
  Worksheet sheet;
  const Line W = sheet.weight("W", weights["W"]);
  const std::string text =
      UpdateRule(rule)
          .explain({.line = W, .weight = weights.find("W"), .gradient = three_gradients[2][0]},
                   {0, 1})
          .text();
  EXPECT_THAT(text, HasSubstr("new W[0,1] = W[0,1] − rate·m̂/(√(v̂) + ε)"));
  EXPECT_THAT(text, HasSubstr("with m̂ = m/(1 − β1^t) = "));
  EXPECT_THAT(text, HasSubstr("/(1 − 0.9^3) = "));
  EXPECT_THAT(text, HasSubstr("with m = β1·m_before + (1 − β1)·∂W[0,1] = 0.9·"));
  EXPECT_THAT(text, HasSubstr("with v = β2·v_before + (1 − β2)·∂W[0,1]² = 0.999·"));
  EXPECT_THROW(
      static_cast<void>(UpdateRule(rule).explain(
          {.line = W, .weight = weights.find("W"), .gradient = three_gradients[2][0]}, {5, 1})),
      IndexError);
}

TEST(rules, are_found_by_their_words_and_set_by_name) {
  for (const char* word : {"descent", "momentum", "rms", "adam"})
    EXPECT_EQ(rule_called(word).word(), word);
  UpdateRule rule = rule_called("adam");
  rule.set("beta_1", 0.5);
  rule.set_rate(0.2);
  EXPECT_EQ(rule.settings()[1], RuleSetting("beta_1", 0.5));
  EXPECT_EQ(rule.rate(), 0.2);
  EXPECT_THROW(rule.set("momentum", 0.5), NameError);
  try {
    static_cast<void>(rule_called("adm"));
    FAIL();
  } catch (const NameError& error) {
    EXPECT_EQ(error.trouble().remedy, "did you mean adam?");
  }
}

TEST(rules, refuse_impossible_settings) {
  const double none = std::nan("");
  const double endless = std::numeric_limits<double>::infinity();
  for (const UpdateRule& rule : std::vector<UpdateRule>{
           Descent{.rate = 0}, Descent{.rate = -1}, Descent{.rate = none}, Descent{.rate = endless},
           Descent{.weight_decay = -1}, Momentum{.momentum = 1}, Momentum{.momentum = -0.1},
           RmsScaling{.epsilon = 0}, RmsScaling{.decay = none}, Adam{.beta_1 = 1},
           Adam{.beta_2 = 2}, Adam{.epsilon = -1}, Adam{.weight_decay = none}}) {
    EXPECT_THROW(rule.check(), SettingError) << rule.word();
  }
}

TEST(rules, keep_a_memory_for_each_weight_and_start_over_when_new) {
  Adam rule;
  Weights weights = one_weight();
  update(rule, weights, gradients_of(weights, three_gradients[0]));
  EXPECT_EQ(rule.memory.step, 1);
  ASSERT_NE(rule.memory.find("b"), nullptr);
  EXPECT_EQ(rule.memory.find("b")->tensors.size(), 2U);
  EXPECT_EQ(rule.memory.find("c"), nullptr);
  EXPECT_EQ(Adam{}.memory.step, 0);
  Weights other{{"W", ones({3})}};
  EXPECT_THROW(update(rule, other, gradients_of(weights, three_gradients[0])), ShapeError);
}

// A long weight goes through in blocks: each number as if it stood alone, the last ones too.
TEST(rules, update_a_number_the_same_wherever_it_stands) {
  constexpr std::int64_t count = 71;
  for (const Precision precision : {Precision::double_, Precision::single}) {
    for (const UpdateRule& made :
         {UpdateRule(Descent{.rate = 0.1, .weight_decay = 0.01}), UpdateRule(Momentum{.rate = 0.1}),
          UpdateRule(RmsScaling{.rate = 0.1}),
          UpdateRule(Adam{.rate = 0.1, .weight_decay = 0.01})}) {
      Random random(3);
      Weights together{{"W", normal({count, 1}, 0, 1, random, precision)}};
      Weights apart;
      for (std::int64_t at = 0; at < count; ++at)
        apart.add({"w" + std::to_string(at), slice(together["W"], 0, {.from = at, .end = at + 1})});
      UpdateRule rule = made;
      UpdateRule each = made;
      for (int step = 0; step < 3; ++step) {
        const Tensor gradient = normal({count, 1}, 0, 1, random, precision);
        std::vector<Tensor> pieces;
        for (std::int64_t at = 0; at < count; ++at)
          pieces.push_back(slice(gradient, 0, {.from = at, .end = at + 1}));
        update(rule, together, gradients_of(together, {gradient}), 0.5);
        update(each, apart, gradients_of(apart, pieces), 0.5);
      }
      for (std::int64_t at = 0; at < count; ++at) {
        EXPECT_EQ(together["W"].at({at, 0}), apart["w" + std::to_string(at)].number())
            << made.word() << " " << at;
      }
    }
  }
}

TEST(rules, leave_gradients_and_worksheets_what_they_are) {
  Random random(4);
  Weights weights{{"W", normal(Shape{50, 2}.with({Role::feature, Role::unit}), 0, 1, random)}};
  Worksheet sheet;
  const Line W = sheet.weight("W", weights["W"]);
  const Tensor before = W.value();
  const std::vector<double> numbers = before.numbers();
  const Gradients gradients = reverse_sweep(sum(square(W)));
  Weights again = weights;
  Descent rule{.rate = 0.1};
  update(rule, weights, gradients);
  EXPECT_EQ(gradients["W"].numbers(), (2 * before).numbers());
  EXPECT_EQ(W.value().numbers(), numbers);
  EXPECT_EQ(weights["W"].shape().role(1), Role::unit);
  // With gradients that are given away it comes to the same.
  update(rule, again, reverse_sweep(sum(square(W))));
  EXPECT_EQ(again["W"], weights["W"]);
  EXPECT_EQ(W.value().numbers(), numbers);
}

/// A rule of one's own: the sign of the gradient alone.
struct SignRule {
  double rate = 0.1;
  UpdateMemory memory = {};

  static constexpr std::string_view word = "sign";
  static constexpr std::array<std::string_view, 0> memories = {};

  template <class X>
  auto common(const UpdateMoment<X>& moment) const {
    return moment.setting("rate", rate);
  }
  template <class X>
  static X new_weight(UpdateCase<X>& now, const X& how_far) {
    return now.weight() - how_far * now.gradient() / abs(now.gradient());
  }
  void each_setting(auto visit) { visit("rate", rate); }
  void check() const {}
};

TEST(rules, may_be_ones_own) {
  UpdateRule rule = SignRule{.rate = 0.5};
  Weights weights{{"w", tensor({1, 1})}};
  update(rule, weights, gradients_of(weights, {tensor({3, -0.1})}));
  EXPECT_EQ(weights["w"], tensor({0.5, 1.5}));
}

// Whatever a rule makes of its rate: another multiplier is another rate for this weight alone.
TEST(rules, take_a_weight_at_its_own_rate) {
  for (const UpdateRule& usual :
       {UpdateRule(Descent{.rate = 0.1, .weight_decay = 0.3}), UpdateRule(Momentum{.rate = 0.1}),
        UpdateRule(RmsScaling{.rate = 0.1, .gradient_decay = 0.2}), UpdateRule(Adam{.rate = 0.1}),
        UpdateRule(SignRule{.rate = 0.1})}) {
    for (const Precision precision : {Precision::double_, Precision::single}) {
      Weights slowed{{"a.w", tensor({{0.5, -2}}).in(precision)},
                     {"b.w", tensor({{0.5, -2}}).in(precision)}};
      slowed.set_rate_multiplier("a", 0.25);
      Weights same = slowed;
      same.set_rate_multiplier("a", 1.0);
      UpdateRule rule = usual;
      UpdateRule slower = usual;
      slower.set_rate(0.025);
      for (int step = 0; step < 3; ++step) {
        const Tensor gradient = tensor({{3.0 - step, -0.1}}).in(precision);
        const Tensor before = slowed["a.w"];
        Worksheet sheet;
        const Explanation why = rule.explain({.line = sheet.weight("a.w", before),
                                              .weight = slowed.find("a.w"),
                                              .gradient = gradient},
                                             {0, 1});
        update(rule, slowed, gradients_of(slowed, {gradient, gradient}));
        update(slower, same, gradients_of(same, {gradient, gradient}));
        EXPECT_EQ(slowed["a.w"], same["a.w"]) << usual.word();
        EXPECT_NE(slowed["b.w"], same["b.w"]) << usual.word();
        EXPECT_EQ(why.value, (slowed["a.w"].at({0, 1}))) << usual.word();
        EXPECT_EQ(why.formula.evaluate(precision), why.value) << usual.word();
        EXPECT_THAT(why.text(), ::testing::HasSubstr("0.25·rate")) << usual.word();
      }
    }
  }
}

TEST(gradients, are_clipped_all_together) {
  const Weights weights{{"a", tensor({1, 1})}, {"b", tensor({1})}};
  const Gradients gradients = gradients_of(weights, {tensor({2, 3}), tensor({6})});
  EXPECT_DOUBLE_EQ(norm(gradients), 7.0);
  EXPECT_DOUBLE_EQ(clip_factor(gradients, 3.5), 0.5);
  EXPECT_DOUBLE_EQ(clip_factor(gradients, 7.5), 1.0);
}

/// The watched losses of epochs from 0 on.
std::vector<Look> looks(const std::vector<double>& losses) {
  std::vector<Look> all;
  for (const double loss : losses)
    all.push_back({.epoch = std::ssize(all), .loss = loss});
  return all;
}

TEST(schedule, changes_the_rate_as_it_says) {
  EXPECT_EQ(Schedule::constant().rate(0.1, 99, {}), 0.1);
  const Schedule steps = Schedule::steps(10, 0.5);
  EXPECT_EQ(steps.rate(0.8, 10, {}), 0.8);
  EXPECT_EQ(steps.rate(0.8, 11, {}), 0.4);
  EXPECT_EQ(steps.rate(0.8, 31, {}), 0.1);
  EXPECT_DOUBLE_EQ(Schedule::exponential(0.9).rate(1, 4, {}), 0.729);
  const Schedule cosine = Schedule::cosine(10, 0.2);
  EXPECT_DOUBLE_EQ(cosine.rate(1.0, 1, {}), 1.0);
  EXPECT_DOUBLE_EQ(cosine.rate(1.0, 6, {}), 0.6);
  EXPECT_DOUBLE_EQ(cosine.rate(1.0, 11, {}), 0.2);
  EXPECT_DOUBLE_EQ(cosine.rate(1.0, 50, {}), 0.2);
  const Schedule stall = Schedule::on_stall(2, 0.5);
  EXPECT_EQ(stall.rate(1, 3, looks({5, 4, 3})), 1.0);
  EXPECT_EQ(stall.rate(1, 4, looks({5, 4, 4, 4})), 0.5);
  EXPECT_EQ(stall.rate(1, 5, looks({5, 4, 4, 4, 4})), 0.5);
  EXPECT_EQ(stall.rate(1, 6, looks({5, 4, 4, 4, 4, 4})), 0.25);
  EXPECT_EQ(stall.rate(1, 6, looks({5, 4, 4, 4, 3, 4})), 0.5);
}

TEST(schedule, on_stall_has_a_floor_and_may_ask_for_more_than_any_new_low) {
  const Schedule floor = Schedule::on_stall(1, 0.5, {.least = 0.3});
  EXPECT_EQ(floor.rate(1, 3, looks({5, 5})), 0.5);
  EXPECT_EQ(floor.rate(1, 4, looks({5, 5, 5})), 0.3);
  EXPECT_EQ(floor.rate(1, 5, looks({5, 5, 5, 5})), 0.3);
  // A rate that is lower already is not raised.
  EXPECT_EQ(floor.rate(0.2, 3, looks({5, 5})), 0.2);
  const Schedule choosy = Schedule::on_stall(1, 0.5, {.by = 0.1});
  EXPECT_EQ(choosy.rate(1, 3, looks({5, 4.6})), 0.5);
  EXPECT_EQ(choosy.rate(1, 3, looks({5, 4.4})), 1.0);
  // Small steps that add up to enough are a new low in the end.
  EXPECT_EQ(Schedule::on_stall(2, 0.5, {.by = 0.1}).rate(1, 4, looks({5, 4.7, 4.4, 4.2})), 1.0);
}

TEST(schedule, may_begin_with_a_warm_up) {
  const Schedule steps = Schedule::steps(2, 0.5).after_warm_up(4);
  EXPECT_EQ(steps.rate(0.8, 1, {}), 0.2);
  EXPECT_DOUBLE_EQ(steps.rate(0.8, 3, {}), 0.6);
  EXPECT_EQ(steps.rate(0.8, 4, {}), 0.8);
  EXPECT_EQ(steps.rate(0.8, 6, {}), 0.8);
  EXPECT_EQ(steps.rate(0.8, 7, {}), 0.4);
  // No look during the warm-up counts as a stall.
  const Schedule stall = Schedule::on_stall(2, 0.5).after_warm_up(3);
  EXPECT_EQ(stall.rate(1, 6, looks({5, 5, 5, 5, 5})), 1.0);
  EXPECT_EQ(stall.rate(1, 7, looks({5, 5, 5, 5, 5, 5})), 0.5);
}

TEST(schedule, may_be_followed_by_others) {
  const auto rates = [](const Schedule& schedule, std::int64_t epochs,
                        std::span<const Look> watched = {}) {
    std::vector<double> all;
    for (std::int64_t epoch = 1; epoch <= epochs; ++epoch)
      all.push_back(schedule.rate(1.0, epoch, watched));
    return all;
  };
  // The next one begins with the rate that the epoch would have had.
  const Schedule halved = Schedule::steps(2, 0.5).followed_by(Schedule::exponential(0.1), 4);
  EXPECT_EQ(rates(halved, 6), (std::vector<double>{1, 1, 0.5, 0.5, 0.25, 0.025}));
  const Schedule again = Schedule::steps(1, 0.5).followed_by(Schedule::steps(1, 0.25), 2, true);
  EXPECT_EQ(rates(again, 5), (std::vector<double>{1, 0.5, 1, 0.25, 0.0625}));
  const Schedule three = Schedule::constant()
                             .followed_by(Schedule::steps(1, 0.5), 1)
                             .followed_by(Schedule::constant(), 2);
  EXPECT_EQ(rates(three, 5), (std::vector<double>{1, 1, 0.5, 0.25, 0.25}));
  // Counted from the end of a warm-up; stalls of one are no stalls of the next.
  const Schedule warm =
      Schedule::steps(1, 0.5).after_warm_up(2).followed_by(Schedule::constant(), 1);
  EXPECT_EQ(rates(warm, 5), (std::vector<double>{0.5, 1, 1, 0.5, 0.5}));
  const Schedule stalls = Schedule::on_stall(2, 0.5).followed_by(Schedule::on_stall(1, 0.1), 2);
  EXPECT_EQ(stalls.rate(1, 3, looks({5, 5, 5})), 0.5);
  EXPECT_DOUBLE_EQ(stalls.rate(1, 4, looks({5, 5, 5, 5})), 0.05);
  EXPECT_EQ(stalls.rate(1, 4, looks({5, 5, 5, 4})), 0.5);
  // A rate that has come down to 0 stays there, and divides nothing.
  const Schedule nothing = Schedule::cosine(2).followed_by(
      Schedule::steps(1, 0.5).together_with(Schedule::exponential(0.9)), 2);
  EXPECT_EQ(nothing.rate(1, 4, {}), 0.0);

  for (const char* text :
       {"constant for 20 then cosine 40 0", "cosine 40 0 for 40 then again cosine 40 0",
        "warm-up 4 then steps 10 0.5 and stall 5 0.5 for 30 then exponential 0.9 for 5 then "
        "again constant"})
    EXPECT_EQ(parse_schedule(text).text(), text);
  EXPECT_EQ(parse_schedule("cosine 40 for 40 then constant").text(),
            "cosine 40 0 for 40 then constant");
  const auto said = [](const char* text) {
    return testing::said<SettingError>([&] { return parse_schedule(text); });
  };
  EXPECT_THAT(said("constant for 0 then constant"), HasSubstr("a schedule cannot count 0 epochs"));
  EXPECT_THAT(said("constant for 5"), HasSubstr("then"));
  EXPECT_THAT(said("constant for 5 then warm-up 3 then constant"), HasSubstr("»warm-up«"));
  EXPECT_THAT(testing::said<SettingError>([] {
                return Schedule::constant().followed_by(Schedule::constant().after_warm_up(2), 3);
              }),
              HasSubstr("a warm-up comes first"));
}

TEST(schedule, has_milestones_and_may_be_several_together) {
  const Schedule milestones = Schedule::milestones({3, 5}, 0.1);
  const auto rates = [](const Schedule& schedule, std::span<const Look> watched = {}) {
    std::vector<double> all;
    for (std::int64_t epoch = 1; epoch <= 7; ++epoch)
      all.push_back(schedule.rate(1.0, epoch, watched));
    return all;
  };
  const auto near = [](const std::vector<double>& numbers) {
    std::vector<::testing::Matcher<double>> all;
    for (const double number : numbers)
      all.push_back(::testing::DoubleNear(number, 1e-12));
    return ::testing::ElementsAreArray(all);
  };
  EXPECT_THAT(rates(milestones), near({1, 1, 1, 0.1, 0.1, 0.01, 0.01}));
  EXPECT_THAT(rates(milestones.after_warm_up(2)), near({0.5, 1, 1, 1, 1, 0.1, 0.1}));
  EXPECT_THAT(rates(Schedule::steps(2, 0.5).together_with(milestones)),
              near({1, 1, 0.5, 0.05, 0.025, 0.0025, 0.00125}));
  EXPECT_NEAR(milestones.together_with(Schedule::on_stall(2, 0.5)).rate(1.0, 4, looks({1, 1, 1})),
              0.05, 1e-12);
  // Three together are the same in any order of putting them together.
  const Schedule all =
      Schedule::exponential(0.9).together_with(milestones).together_with(Schedule::steps(2, 0.5));
  EXPECT_EQ(all, Schedule::exponential(0.9).together_with(
                     milestones.together_with(Schedule::steps(2, 0.5))));
  EXPECT_EQ(all.text(), "exponential 0.9 and milestones 3 5 by 0.1 and steps 2 0.5");
  EXPECT_THROW(static_cast<void>(milestones.together_with(milestones.after_warm_up(1))),
               SettingError);
  EXPECT_THROW(static_cast<void>(Schedule::milestones({5, 3}, 0.1)), SettingError);
  EXPECT_THROW(static_cast<void>(Schedule::milestones({}, 0.1)), SettingError);
}

TEST(schedule, is_read_from_text) {
  for (const char* text :
       {"constant", "steps 10 0.5", "exponential 0.95", "cosine 40 0.001", "stall 5 0.5",
        "stall 5 0.5 least 0.001", "stall 5 0.5 least 0.001 by 0.02", "stall 5 0.5 by 0.02",
        "warm-up 3 then constant", "warm-up 3 then stall 2 0.1 by 0.02", "milestones 80 120 by 0.1",
        "warm-up 4 then milestones 8 by 0.5 and stall 5 0.5 by 0.1 and cosine 9 0"}) {
    EXPECT_EQ(parse_schedule(text).text(), text);
  }
  EXPECT_EQ(parse_schedule("cosine 40"), Schedule::cosine(40));
  for (const char* text : {"",
                           "steps",
                           "steps 10",
                           "steps 0 0.5",
                           "steps 2.5 0.5",
                           "steps 10 2",
                           "exponential x",
                           "cosine",
                           "cosine 5 -1",
                           "stall 5",
                           "weekly 3",
                           "constant 3",
                           "stall 5 0.5 by 1",
                           "stall 5 0.5 least -1",
                           "stall 5 0.5 by",
                           "stall 5 0.5 least much",
                           "steps 5 0.5 by 0.1",
                           "milestones by 0.1",
                           "milestones 5 3 by 0.1",
                           "milestones 5 0.1",
                           "milestones 5 by 2",
                           "constant and",
                           "constant and warm-up 3 then constant",
                           "warm-up 3",
                           "warm-up 3 steps 5 0.5",
                           "warm-up 0 then constant",
                           "warm-up 3 then",
                           "warm-up 2.5 then constant",
                           "warm-up 3 then warm-up 3 then constant"}) {
    EXPECT_THROW(static_cast<void>(parse_schedule(text)), SettingError) << text;
  }
}

}  // namespace
}  // namespace lattice
