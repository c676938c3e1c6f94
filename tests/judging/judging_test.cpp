#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

TEST(figures, count_answers_by_true_class) {
  const Tensor truth = tensor({0, 0, 1, 1, 1, 2});
  const Tensor answers = tensor({0, 1, 1, 1, 2, 2});
  EXPECT_EQ(confusion(answers, truth, 3), tensor({{1, 1, 0}, {0, 2, 1}, {0, 0, 1}}));
  EXPECT_DOUBLE_EQ(accuracy(answers, truth), 4.0 / 6.0);
  EXPECT_THROW(static_cast<void>(accuracy(answers, tensor({1}))), ShapeError);
  const auto found = recalls(tensor({{1, 3, 0}, {0, 2, 0}, {0, 0, 0}}));
  EXPECT_EQ(found, (std::vector<std::optional<double>>{0.25, 1.0, std::nullopt}));
}

TEST(figures, look_for_the_true_class_among_the_likeliest) {
  const Tensor scores = tensor({{3, 2, 1}, {1, 2, 3}, {2, 2, 2}, {0, 5, 1}});
  const Tensor truth = tensor({1, 0, 1, 1});
  EXPECT_DOUBLE_EQ(top_accuracy(scores, truth, 1), 0.25);
  EXPECT_DOUBLE_EQ(top_accuracy(scores, truth, 2), 0.75);
  EXPECT_DOUBLE_EQ(top_accuracy(scores, truth, 3), 1.0);
  EXPECT_DOUBLE_EQ(top_accuracy(scores, truth, 1), accuracy(argmax(scores), truth));
  EXPECT_THROW(static_cast<void>(top_accuracy(scores, truth, 4)), SettingError);
}

TEST(figures, place_no_class_among_the_likeliest_beside_what_is_no_number) {
  const double none = std::nan("");
  const Tensor scores = tensor({{none, none, none}, {3.0, none, 1.0}, {1.0, 2.0, none}});
  const Tensor truth = tensor({0, 0, 2});
  EXPECT_DOUBLE_EQ(top_accuracy(scores, truth, 1), 0.0);
  EXPECT_DOUBLE_EQ(top_accuracy(scores, truth, 2), 1.0 / 3.0);
}

// Every matching is tried, which only small ones allow.
TEST(figures, match_names_as_well_as_can_be) {
  Random random(11);
  for (int trial = 0; trial < 200; ++trial) {
    const std::int64_t count = 1 + random.below(6);
    std::vector<double> counts(static_cast<std::size_t>(count * count));
    for (double& number : counts)
      number = static_cast<double>(random.below(20));
    const Tensor table = tensor(Shape{count, count}, counts);
    const std::vector<std::int64_t> found = best_matching(table);
    std::vector<std::int64_t> sorted = found;
    std::ranges::sort(sorted);
    const auto rows_right = [&](const std::vector<std::int64_t>& matching) {
      double right = 0.0;
      for (std::int64_t answer = 0; answer < count; ++answer)
        right += table.at({matching[static_cast<std::size_t>(answer)], answer});
      return right;
    };
    std::vector<std::int64_t> each(static_cast<std::size_t>(count));
    std::iota(each.begin(), each.end(), 0);
    EXPECT_EQ(sorted, each);
    double best = 0.0;
    do {
      best = std::max(best, rows_right(each));
    } while (std::ranges::next_permutation(each).found);
    EXPECT_EQ(rows_right(found), best);
  }
}

/// Three features go straight through to three scores.
Network identity_network() {
  Network net(Shape{3}, "dense 3", Random(1));
  net.set("output.weight", identity(3));
  return net;
}

Dataset three_classes() {
  return {.name = "three",
          .features = tensor({{5, 0, 0}, {0, 5, 0}, {0, 4, 5}, {0, 0, 5}, {5, 0, 1}})
                          .with({Role::example, Role::feature}),
          .classes = tensor({0, 1, 1, 2, 0}),
          .feature_names = {"a", "b", "c"},
          .target_names = {"kind"},
          .class_names = {"bowl", "jug", "vase"}};
}

TEST(assess, judges_classes) {
  const Assessment judged = assess(identity_network(), three_classes());
  EXPECT_EQ(judged.rows, 5);
  const ClassJudgement& classes = *judged.classes;
  EXPECT_DOUBLE_EQ(classes.accuracy, 0.8);
  EXPECT_DOUBLE_EQ(classes.top_accuracy, 1.0);
  EXPECT_EQ(classes.confusion, tensor({{2, 0, 0}, {0, 1, 1}, {0, 0, 1}}));
  EXPECT_DOUBLE_EQ(classes.classes[1].precision, 1.0);
  EXPECT_DOUBLE_EQ(classes.classes[1].recall, 0.5);
  EXPECT_DOUBLE_EQ(classes.classes[1].f1, 2.0 / 3.0);
  EXPECT_DOUBLE_EQ(classes.classes[2].precision, 0.5);
  EXPECT_EQ(classes.classes[2].rows, 1);
  EXPECT_EQ(classes.classes[2].answers, 2);
  EXPECT_DOUBLE_EQ(classes.uniform_guess_loss, std::log(3.0));
  EXPECT_EQ(classes.commonest, "bowl");
  EXPECT_DOUBLE_EQ(classes.commonest_accuracy, 0.4);
  EXPECT_DOUBLE_EQ(judged.loss,
                   cross_entropy(three_classes().features.all(), three_classes().classes).number());
}

TEST(assess, finds_that_names_were_only_exchanged) {
  Dataset turned = three_classes();
  turned.classes = tensor({1, 2, 2, 0, 1});
  const Assessment judged = assess(identity_network(), turned, {.as_groups = true});
  EXPECT_DOUBLE_EQ(judged.classes->accuracy, 0.2);
  EXPECT_DOUBLE_EQ(judged.classes->grouping->accuracy, 0.8);
  EXPECT_THAT(judged.classes->grouping->matching, ElementsAre(1, 2, 0));
  EXPECT_FALSE(assess(identity_network(), turned).classes->grouping) << "nobody asked for it";
}

TEST(assess, judges_classes_by_squared_losses_against_one_for_the_true_class) {
  // The scores are the features themselves: the loss is over all numbers of one-hot rows.
  const Dataset data = three_classes();
  const Tensor truth = one_hot(data.classes, 3);
  const double expected = mean(square(data.features.all() - truth)).number();
  const Assessment judged = assess(identity_network(), data, {.loss = Loss::mean_squared});
  EXPECT_NEAR(judged.loss, expected, 1e-15);
  EXPECT_NEAR(assess(identity_network(), data, {.loss = Loss::half_mean_squared}).loss,
              expected / 2, 1e-15);
  EXPECT_EQ(judged.classes->accuracy, assess(identity_network(), data).classes->accuracy);
  EXPECT_NEAR(judged.classes->uniform_guess_loss, mean(square(Tensor(truth - 1.0 / 3.0))).number(),
              1e-15);

  // A single output is compared with the class, 0 or 1, and read from the middle between them.
  Dataset two{.name = "two",
              .features = tensor({{0.2}, {0.4}, {0.6}, {2.0}}),
              .classes = tensor({0, 0, 1, 1}),
              .class_names = {"sound", "cracked"}};
  Network one(Shape{1}, "dense 1", Random(1));
  one.set("output.weight", tensor({{1}}));
  const Assessment single = assess(one, two, {.loss = Loss::mean_squared});
  EXPECT_NEAR(single.loss, (0.04 + 0.16 + 0.16 + 1.0) / 4, 1e-15);
  EXPECT_EQ(single.classes->accuracy, 1.0);
  EXPECT_EQ(single.classes->uniform_guess_loss, 0.25);
  Network squeezed(Shape{1}, "dense 1, sigmoid", Random(1));
  squeezed.set("output.weight", tensor({{1}}));
  EXPECT_NEAR(
      assess(squeezed, two, {.loss = Loss::mean_squared}).loss,
      mean(square(sigmoid(two.features.all()) - reshape(two.classes, Shape{4, 1}))).number(),
      1e-15);
  EXPECT_EQ(outputs_of(squeezed, Loss::mean_squared), Outputs::probabilities);
  EXPECT_EQ(outputs_of(one, Loss::mean_squared), Outputs::levels);
  EXPECT_EQ(outputs_of(squeezed, Loss::binary_cross_entropy), Outputs::scores);
}

TEST(assess, judges_two_classes_by_a_single_score) {
  Network net(Shape{1}, "dense 1", Random(1));
  net.set("output.weight", tensor({{2}}));
  const Dataset data{.name = "two",
                     .features = tensor({{-1}, {1}, {3}}).with({Role::example, Role::feature}),
                     .classes = tensor({0, 1, 0}),
                     .feature_names = {"a"},
                     .class_names = {"no", "yes"}};
  const Assessment judged = assess(net, data);
  EXPECT_DOUBLE_EQ(judged.classes->accuracy, 2.0 / 3.0);
  EXPECT_NEAR(judged.loss, (2 * std::log1p(std::exp(-2.0)) + 6 + std::log1p(std::exp(-6.0))) / 3,
              1e-12);
  const Tensor p = probabilities_of(tensor({{2}}));
  EXPECT_DOUBLE_EQ(p.at({0, 0}) + p.at({0, 1}), 1.0);
  EXPECT_DOUBLE_EQ(p.at({0, 1}), 1 / (1 + std::exp(-2.0)));
}

TEST(assess, judges_numbers_in_the_unit_of_the_target) {
  Network net(Shape{1}, "dense 1", Random(1));
  net.set("output.weight", tensor({{1}}));
  Dataset data{.name = "numbers",
               .features = tensor({{0}, {1}, {2}}).with({Role::example, Role::feature}),
               .targets = tensor({{0}, {1}, {4}}).with({Role::example, Role::unit}),
               .feature_names = {"a"}};
  const Assessment plain = assess(net, data);
  EXPECT_DOUBLE_EQ(plain.numbers[0].mean_squared, 4.0 / 3.0);
  EXPECT_DOUBLE_EQ(plain.numbers[0].mean_absolute, 2.0 / 3.0);
  EXPECT_DOUBLE_EQ(plain.numbers[0].mean_guess_squared, 26.0 / 9.0);
  EXPECT_DOUBLE_EQ(plain.numbers[0].r_squared, 1.0 - (4.0 / 3.0) / (26.0 / 9.0));
  EXPECT_DOUBLE_EQ(plain.loss, 2.0 / 3.0);
  data.target_preparation.steps = {{.centre = tensor({10}), .divisor = tensor({5})}};
  data.targets = data.target_preparation.raw(data.targets);
  const Assessment scaled = assess(net, data);
  EXPECT_DOUBLE_EQ(scaled.numbers[0].mean_squared, 25.0 * 4.0 / 3.0);
  EXPECT_DOUBLE_EQ(scaled.numbers[0].r_squared, plain.numbers[0].r_squared);
  EXPECT_DOUBLE_EQ(scaled.loss, plain.loss);
}

TEST(assess, judges_each_target_in_its_own_unit) {
  Network net(Shape{1}, "dense 2", Random(1));
  net.set("output.weight", tensor({{1, 2}}));
  Dataset data = dataset_of_numbers(tensor({{0}, {1}, {2}}), tensor({{0, 0}, {1, 2}, {4, 5}}),
                                    {.targets = {"height", "width"}});
  data.target_units = {"mm"};
  const Assessment judged = assess(net, data);
  ASSERT_EQ(judged.numbers.size(), 2U);
  EXPECT_EQ(judged.numbers[0].target, "height");
  EXPECT_EQ(judged.numbers[0].unit, "mm");
  EXPECT_EQ(judged.numbers[1].unit, "");
  EXPECT_DOUBLE_EQ(judged.numbers[0].mean_squared, 4.0 / 3.0);
  EXPECT_DOUBLE_EQ(judged.numbers[1].mean_squared, 1.0 / 3.0);
  EXPECT_DOUBLE_EQ(judged.numbers[1].r_squared, 1.0 - (1.0 / 3.0) / (38.0 / 9.0));
  EXPECT_DOUBLE_EQ(judged.figure(),
                   (judged.numbers[0].r_squared + judged.numbers[1].r_squared) / 2.0);
  const Model model = model_of(net, Loss::mean_squared, data);
  EXPECT_THAT(model.target_names, ::testing::ElementsAre("height", "width"));
  const Dataset again = dataset_for(
      model, {.name = "t", .header = {"width", "feature 0", "height"}, .rows = {{"5", "2", "4"}}});
  EXPECT_THAT(again.targets.numbers(), ::testing::ElementsAre(4, 5));
}

TEST(assess, explains_nothing_where_the_truth_never_changes) {
  Network net(Shape{1}, "dense 1", Random(1));
  net.set("output.weight", tensor({{1}}));
  Dataset data{.name = "flat",
               .features = tensor({{1}, {2}}).with({Role::example, Role::feature}),
               .targets = tensor({{3}, {3}}).with({Role::example, Role::unit}),
               .feature_names = {"a"}};
  EXPECT_EQ(assess(net, data).numbers[0].r_squared, 0.0);
  data.features = tensor({{3}, {3}}).with({Role::example, Role::feature});
  EXPECT_EQ(assess(net, data).numbers[0].r_squared, 1.0);
}

TEST(loss, says_what_does_not_go_together) {
  const auto trouble = [](const char* blueprint, std::optional<Loss> loss, const Dataset& data) {
    return testing::said([&] {
      const Network net(Shape{3}, blueprint, Random(1));
      check_fits(net, loss.value_or(usual_loss(net, data)), data);
    });
  };
  EXPECT_THAT(trouble("dense 2", {}, three_classes()), HasSubstr("3 outputs, one for each class"));
  EXPECT_THAT(trouble("dense 2", {}, three_classes()), HasSubstr("dense 3"));
  EXPECT_THAT(trouble("dense 1", Loss::cross_entropy, demo_set("shrinkage")),
              HasSubstr("does not fit the target of shrinkage"));
  EXPECT_EQ(trouble("dense 3", Loss::mean_squared, three_classes()), "nothing");
  EXPECT_THAT(trouble("dense 1", Loss::mean_squared, three_classes()),
              HasSubstr("3 outputs, one for each class"));
  EXPECT_THAT(trouble("dense 2", Loss::mean_squared, three_classes()),
              HasSubstr("3 outputs, one for each class"));
  Dataset no_names = three_classes();
  no_names.class_names = {};
  EXPECT_THAT(trouble("dense 2", {}, no_names), HasSubstr("class 0, class 1, class 2"));
  Dataset no_rows = three_classes();
  no_rows.name = "";
  EXPECT_THAT(trouble("dense 2", {}, no_rows), HasSubstr("outputs"));
  no_rows.features = Tensor();
  EXPECT_THAT(trouble("dense 2", {}, no_rows), HasSubstr("there is no row of this table"));
  EXPECT_THAT(trouble("dense 1", Loss::binary_cross_entropy, three_classes()),
              HasSubstr("needs two classes"));
  EXPECT_EQ(trouble("dense 3", {}, three_classes()), "nothing");
  EXPECT_THAT(trouble("dense 3", {}, demo_set("kiln")), HasSubstr("not for the features of kiln"));
  for (const Loss& loss : {Loss::mean_squared, Loss::half_mean_squared, Loss::binary_cross_entropy,
                           Loss::cross_entropy}) {
    EXPECT_EQ(parse_loss(word(loss)), loss);
  }
  EXPECT_THROW(static_cast<void>(parse_loss("hinge")), SettingError);
}

TEST(loss, gives_the_same_bits_at_length_and_in_brief) {
  Random random(5);
  const Tensor outputs = normal({7, 1}, 0, 1, random);
  const Tensor targets = normal({7, 1}, 0, 1, random);
  const Tensor scores = normal({7, 3}, 0, 1, random);
  const Tensor classes = tensor({0, 1, 2, 0, 1, 2, 0});
  const Tensor labels = tensor({0, 1, 1, 0, 1, 0, 0});
  const auto written = [](const Loss& loss, const Tensor& z, const Tensor& y, Detail detail) {
    Worksheet sheet;
    const Line w = sheet.weight("z", z);
    const Line line = write_loss(sheet, loss, w, {.x = w, .y = sheet.given("y", y)}, detail);
    return std::pair(line.value(), reverse_sweep(line)["z"]);
  };
  for (const auto& [loss, z, y] : {std::tuple(Loss::mean_squared, outputs, targets),
                                   std::tuple(Loss::half_mean_squared, outputs, targets),
                                   std::tuple(Loss::binary_cross_entropy, outputs, labels),
                                   std::tuple(Loss::cross_entropy, scores, classes)}) {
    const auto brief = written(loss, z, y, Detail::brief);
    const auto at_length = written(loss, z, y, Detail::at_length);
    EXPECT_EQ(brief.first, at_length.first) << word(loss);
    EXPECT_EQ(brief.second, at_length.second) << word(loss);
  }
}

TEST(ask, takes_raw_records_and_scales_them_as_for_learning) {
  Random random(1);
  const Split parts = scaled(split(demo_set("glazes", 300, 1), {}, random), ScalingKind::standard);
  Network net(Shape{5}, "dense 4", Random(1));
  const Model model = model_of(net, Loss::cross_entropy, parts.train);
  const Tensor raw = tensor({{8.5, 20, 0.8, 77, 1270}});
  const Answers answers = ask(model, raw);
  EXPECT_EQ(answers.scores, net(parts.data().preparation.prepared(raw)));
  EXPECT_NEAR(sum(answers.probabilities).number(), 1.0, 1e-12);
  EXPECT_EQ(answers.classes, argmax(answers.scores));
  const Table table{.name = "",
                    .header = {"peak", "iron", "lightness", "thickness", "gloss"},
                    .rows = {{"1270", "8.5", "20", "0.8", "77"}}};
  EXPECT_EQ(ask(model, table).scores, answers.scores);
  EXPECT_THROW(static_cast<void>(ask(model, tensor({{1, 2}}))), ShapeError);
}

TEST(ask, answers_numbers_in_the_unit_of_the_target) {
  Random random(1);
  const Split parts =
      scaled(split(demo_set("kiln"), {}, random), ScalingKind::standard, ScalingKind::standard);
  Network net(Shape{1}, "dense 1", Random(1));
  const Model model = model_of(net, Loss::half_mean_squared, parts.train);
  const Answers answers = ask(model, tensor({{4.0}}));
  EXPECT_EQ(answers.numbers, parts.data().target_preparation.raw(answers.scores));
  const RowSet data = dataset_for(
      model,
      {.name = "more", .header = {"minutes", "temperature"}, .rows = {{"1", "100"}, {"2", "200"}}});
  EXPECT_EQ(data.features(), parts.data().preparation.prepared(tensor({{1}, {2}})));
  EXPECT_EQ(data.targets(), parts.data().target_preparation.prepared(tensor({{100}, {200}})));
}

TEST(loss, reports_another_precision_before_anything_else) {
  const Network net(Shape{7}, "dense 2", Random(1), Precision::single);
  const Dataset data = demo_set("glazes", 20, 1);
  const auto trouble = [&](const Dataset& rows) {
    return testing::said([&] { check_fits(net, Loss::cross_entropy, rows); });
  };
  EXPECT_THAT(trouble(data), HasSubstr("different precisions"));
  EXPECT_THAT(trouble(data), HasSubstr("data.in(Precision::single)"));
  EXPECT_THAT(trouble(data.in(Precision::single)), HasSubstr("not for the features"));
  const Network other(Shape{5}, "dense 4", Random(1));
  EXPECT_THAT(
      testing::said([&] { check_fits(other, Loss::cross_entropy, data.in(Precision::single)); }),
      HasSubstr("data.in(Precision::double_)"));
  const Network single(Shape{5}, "dense 4", Random(1), Precision::single);
  EXPECT_THAT(testing::said([&] {
                return single(zeros({2, 5}));
              }),
              HasSubstr("the network and x are in different precisions"));
}

TEST(judge, takes_class_numbers_that_no_network_gave) {
  const ClassJudgement judged =
      judge(tensor({0, 2, 1, 1}), tensor({0, 2, 2, 1}), {"bowl", "plate", "jug"});
  EXPECT_EQ(judged.accuracy, 0.75);
  EXPECT_EQ(judged.top, 1);
  EXPECT_EQ(judged.top_accuracy, 0.75);
  EXPECT_EQ(judged.confusion, tensor({{1, 0, 0}, {0, 1, 0}, {0, 1, 1}}));
  EXPECT_EQ(judged.classes[2].name, "jug");
  EXPECT_EQ(judged.classes[2].recall, 0.5);
  EXPECT_EQ(judged.classes[2].precision, 1.0);
  EXPECT_EQ(judged.commonest, "jug");
  EXPECT_EQ(judged.commonest_accuracy, 0.5);
  EXPECT_DOUBLE_EQ(judged.uniform_guess_loss, std::log(3.0));
}

TEST(judge, takes_a_number_for_each_class) {
  const Tensor scores = tensor({{0.1, 0.7, 0.2}, {0.5, 0.4, 0.1}, {0.2, 0.3, 0.5}});
  const ClassJudgement judged = judge(scores, tensor({1, 1, 0}));
  EXPECT_NEAR(judged.accuracy, 1.0 / 3.0, 1e-15);
  EXPECT_EQ(judged.top, 2);
  EXPECT_NEAR(judged.top_accuracy, 2.0 / 3.0, 1e-15);
  EXPECT_EQ(judged.classes.size(), 3U);
  EXPECT_EQ(judged.classes[2].name, "class 2");
  EXPECT_EQ(judged.classes[2].rows, 0.0);
}

TEST(judge, refuses_answers_that_cannot_be_judged) {
  EXPECT_THROW(static_cast<void>(judge(tensor({0, 1}), tensor({0, 1, 1}))), ShapeError);
  EXPECT_THROW(static_cast<void>(judge(tensor({0, 0.5}), tensor({0, 1}))), NumberError);
  EXPECT_THROW(static_cast<void>(judge(tensor({0, -1}), tensor({0, 1}))), NumberError);
  EXPECT_THROW(static_cast<void>(judge(tensor({0, 3}), tensor({0, 1}), {"a", "b"})), NumberError);
  EXPECT_THROW(static_cast<void>(judge(zeros({2, 3}), tensor({0, 1}), {"a", "b"})), NumberError);
  EXPECT_THROW(static_cast<void>(judge(Tensor(), Tensor())), Error);
}

}  // namespace
}  // namespace lattice
