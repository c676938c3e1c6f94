#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "lattice/judging/answer_curve.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;
using ::testing::IsEmpty;

Model model_for(const std::string& set, const std::string& blueprint,
                const std::vector<ScalingSettings>& scale,
                std::optional<Loss> loss = std::nullopt) {
  Random random(3);
  const Split parts = prepared(split(demo_set(set, 100, 1), {}, random), scale, scale);
  Network net(parts.data().example(), blueprint, Random(4));
  static_cast<void>(train(net, parts, {.epochs = 4, .loss = loss}));
  return model_of(net, loss.value_or(usual_loss(net, parts.data())), parts.train);
}

TEST(raw_forms, give_what_the_model_answers_in_the_units_of_the_data) {
  const std::vector<ScalingSettings> standard = {{}};
  const std::vector<ScalingSettings> two_steps = {
      {.kind = ScalingKind::min_max}, {.kind = ScalingKind::known, .less = 0.5, .over = 0.25}};
  struct Case {
    std::string set;
    std::string blueprint;
    std::optional<Loss> loss = std::nullopt;
  };
  for (const auto& scale : {standard, two_steps, std::vector<ScalingSettings>{}}) {
    for (const Case& each :
         {Case{"kiln", "dense 1"}, Case{"kiln", "dense 1 with bias as input"},
          Case{"kiln", "dense 1 without bias"}, Case{"shrinkage", "dense 1"},
          Case{"glazes", "dense 4 with bias as input"}, Case{"glazes", "dense 4"},
          Case{"glazes", "dense 4, softmax"}, Case{"cracks", "dense 1"}}) {
      const Model model = model_for(each.set, each.blueprint, scale, each.loss);
      const Tensor records = demo_set(each.set, 100, 1).features;
      const Answers answers = ask(model, records);
      const Tensor& expected = model.class_names.empty() ? answers.numbers : answers.scores;
      const std::vector<LinearForm> forms = raw_forms(model);
      ASSERT_EQ(std::ssize(forms), expected.shape()[1]) << each.set;
      for (std::int64_t row : {0, 7, 99}) {
        for (std::size_t output = 0; output < forms.size(); ++output) {
          double number = forms[output].constant;
          for (std::int64_t feature = 0; feature < records.shape()[1]; ++feature) {
            number += forms[output].slopes[static_cast<std::size_t>(feature)] *
                      records.at({row, feature});
          }
          const double answer = expected.at({row, static_cast<std::int64_t>(output)});
          EXPECT_NEAR(number, answer, 1e-9 * std::max(1.0, std::abs(answer))) << each.set;
        }
      }
    }
  }
  const Model cracks = model_for("cracks", "dense 1", standard);
  EXPECT_EQ(raw_forms(cracks).front().target, "score of sound");
}

TEST(raw_forms, are_of_one_dense_part_alone) {
  for (const char* const blueprint : {"dense 3, dense 1", "dense 1, tanh", "dense 1, sigmoid"})
    EXPECT_THAT(raw_forms(model_for("shrinkage", blueprint, {{}})), IsEmpty()) << blueprint;
}

TEST(linear_form, is_written_as_a_sum) {
  const LinearForm form{"y", {"a", "b", "c"}, {-2.0, 0.5, -0.25}, -1.0};
  EXPECT_EQ(form.text(), "y = −2·a + 0.5·b − 0.25·c − 1");
  EXPECT_EQ(LinearForm({"y", {}, {}, 3.0}).text(), "y = 3");
}

// The law of a demo set is what its numbers are made by: what is left over is noise around 0.
TEST(demo_sets, follow_their_laws_but_for_noise) {
  int laws = 0;
  for (const DemoSet& set : demo_sets()) {
    if (!set.law) continue;
    ++laws;
    const Dataset data = demo_set(set.name, 20'000, 3);
    EXPECT_EQ(set.law->features, data.feature_names);
    EXPECT_EQ(set.law->target, data.target_name());
    std::vector<double> left_over;
    for (std::int64_t row = 0; row < data.rows(); ++row) {
      double number = set.law->constant;
      for (std::int64_t feature = 0; feature < data.feature_count(); ++feature)
        number +=
            set.law->slopes[static_cast<std::size_t>(feature)] * data.features.at({row, feature});
      left_over.push_back(data.targets.at({row, 0}) - number);
    }
    const Tensor noise = tensor(Shape{std::ssize(left_over)}, left_over);
    const double spread = std::sqrt(variance(noise).number());
    EXPECT_LT(std::abs(mean(noise).number()), 5.0 * spread / std::sqrt(20'000.0)) << set.name;
    EXPECT_LT(spread, 0.1 * std::sqrt(variance(data.targets).number()) + 0.3) << set.name;
  }
  EXPECT_EQ(laws, 2);
}

TEST(answer_curve, is_what_the_model_answers_along_its_only_feature) {
  const Model model = model_for("kiln", "dense 3, tanh, dense 1", {{}});
  const AnswerCurve curve = answer_curve(model, {.low = 1.0, .high = 5.0}, 5);
  EXPECT_EQ(curve.across.numbers(), (std::vector<double>{1, 2, 3, 4, 5}));
  EXPECT_EQ(curve.numbers.at({2, 0}), ask(model, tensor({{3}})).numbers.number());
  const auto trouble = [](const Model& of, Stretch stretch, std::int64_t count) {
    return testing::said<Error>([&] { static_cast<void>(answer_curve(of, stretch, count)); });
  };
  EXPECT_THAT(trouble(model, {}, 1), HasSubstr("two values or more"));
  EXPECT_THAT(trouble(model, {.low = 1.0, .high = 1.0}, 9), HasSubstr("two values or more"));
  EXPECT_THAT(trouble(model_for("cracks", "dense 2", {{}}), {}, 9), HasSubstr("one feature"));
}

}  // namespace
}  // namespace lattice
