#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <string>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// Everything that is said of rows, to the last bit.
std::string all_of(const Assessment& judged) {
  std::string text = fmt::format("{:a} ", judged.loss);
  if (judged.classes) {
    text += fmt::format("{:a} {:a}", judged.classes->accuracy, judged.classes->top_accuracy);
    for (const double number : judged.classes->confusion.numbers())
      text += fmt::format(" {:a}", number);
  }
  for (const NumberJudgement& each : judged.numbers) {
    text += fmt::format("{:a} {:a} {:a} {:a}", each.mean_squared, each.mean_absolute,
                        each.r_squared, each.mean_guess_squared);
  }
  return text;
}

TEST(chunks, of_any_size_give_the_same_figures_to_the_last_bit) {
  Random random(17);
  const std::vector<std::string> parts = {"dense 3",  "tanh",    "dense 17", "relu",
                                          "dense 33", "softmax", "dense 16", "dense 1"};
  for (int trial = 0; trial < 40; ++trial) {
    const bool has_classes = trial % 2 == 0;
    const std::int64_t width = 1 + random.below(40);
    std::string blueprint;
    for (std::int64_t count = random.below(4); count > 0; --count)
      blueprint += parts[static_cast<std::size_t>(random.below(std::ssize(parts)))] + ", ";
    const std::int64_t outputs = has_classes ? 3 : 1 + random.below(3);
    blueprint += fmt::format("dense {}", outputs);
    const std::int64_t rows = 2 + random.below(90);
    const Tensor x = normal({rows, width}, 0, 1, random);
    std::vector<double> classes;
    for (std::int64_t row = 0; row < rows; ++row)
      classes.push_back(static_cast<double>(random.below(3)));
    Dataset data = has_classes ? dataset_of_classes(x, tensor(Shape{rows}, classes),
                                                    {.classes = {"a", "b", "c"}})
                               : dataset_of_numbers(x, normal({rows, outputs}, 0, 1, random));
    if (trial % 3 == 0) data = data.with_row_weights(uniform(Shape{rows}, 0, 2, random));
    if (trial % 4 == 0) data = data.prepared_by(fit({{}}, data.features));
    const Precision precision = trial % 5 == 0 ? Precision::single : Precision::double_;
    const Network net(Shape{width}, blueprint, random, precision);
    const RowSet all = data.in(precision);
    const std::string at_once = all_of(assess(net, all, {.chunk = rows}));
    for (const std::int64_t chunk :
         {std::int64_t{1}, std::int64_t{2}, std::int64_t{3}, std::int64_t{16}, rows - 1}) {
      EXPECT_EQ(all_of(assess(net, all, {.chunk = chunk})), at_once)
          << blueprint << " on " << rows << " × " << width << " by " << chunk;
    }
  }
  EXPECT_THROW(static_cast<void>(
                   assess(Network(Shape{1}, "dense 1", random), demo_set("kiln"), {.chunk = 0})),
               SettingError);
}

TEST(chunks, do_not_matter_to_a_run) {
  Random random(1);
  const Split glazes = scaled(split(demo_set("glazes", 150, 1), {}, random), ScalingKind::standard);
  const auto record = [&](std::int64_t chunk) {
    Network net(Shape{5}, "dense 8, tanh, dense 4", Random(2));
    return train(net, glazes, {.rule = Adam{.rate = 0.02}, .epochs = 3, .chunk = chunk});
  };
  const RunRecord whole = record(1000);
  const RunRecord in_chunks = record(7);
  ASSERT_EQ(whole.epochs.size(), in_chunks.epochs.size());
  for (std::size_t at = 0; at < whole.epochs.size(); ++at) {
    EXPECT_EQ(whole.epochs[at].train->loss, in_chunks.epochs[at].train->loss);
    EXPECT_EQ(whole.epochs[at].validation->loss, in_chunks.epochs[at].validation->loss);
  }
}

TEST(loss_of_rows, has_the_loss_as_its_mean) {
  Random random(5);
  const Tensor scores = normal({6, 3}, 0, 2, random);
  const Tensor single = normal({6, 1}, 0, 2, random);
  const Tensor classes = tensor({0, 1, 2, 2, 1, 0});
  const Tensor labels = tensor({0, 1, 0, 0, 1, 1});
  const Tensor targets = normal({6, 3}, 0, 1, random);
  const auto expect_mean = [](const Tensor& of_rows, const Tensor& loss) {
    EXPECT_EQ(of_rows.shape(), Shape{6});
    EXPECT_NEAR(mean(of_rows).number(), loss.number(), 1e-15);
  };
  expect_mean(loss_of_rows(Loss::cross_entropy, scores, classes), cross_entropy(scores, classes));
  expect_mean(cross_entropy_of_rows(scores, softmax(targets)),
              cross_entropy(scores, softmax(targets)));
  expect_mean(loss_of_rows(Loss::binary_cross_entropy, single, labels),
              binary_cross_entropy(single, labels.reshaped({6, 1})));
  expect_mean(loss_of_rows(Loss::mean_squared, scores, targets), mean_squared(scores, targets));
  expect_mean(loss_of_rows(Loss::half_mean_squared, scores, classes),
              half_mean_squared(scores, one_hot(classes, 3)));
  EXPECT_THROW(static_cast<void>(loss_of_rows(Loss::cross_entropy, scores,
                                              labels.rows(std::vector<std::int64_t>{0, 1}))),
               ShapeError);
}

}  // namespace
}  // namespace lattice
