#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/said.hpp"

// Rows that count more than others, or not at all.
namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

Dataset pots() {
  return demo_set("glazes", 60, 1);
}

/// The weights of every row: 1, 2, 0, 1, 2, 0 …
Tensor by_turns(std::int64_t rows) {
  std::vector<double> numbers;
  for (std::int64_t row = 0; row < rows; ++row)
    numbers.push_back(static_cast<double>((row + 1) % 3));
  return tensor(Shape{rows}, numbers);
}

/// The same rows, each as often as it counts.
Dataset repeated(const Dataset& data, const Tensor& times) {
  std::vector<std::int64_t> rows;
  for (std::int64_t row = 0; row < data.rows(); ++row)
    rows.insert(rows.end(), static_cast<std::size_t>(times.at({row})), row);
  return data.taking(rows);
}

TEST(row_weights, count_like_as_many_rows_in_figures) {
  const Dataset data = pots();
  const Tensor times = by_turns(data.rows());
  const Network net(Shape{5}, "dense 4", Random(3));
  const Assessment weighed = assess(net, data.with_row_weights(times));
  const Assessment often = assess(net, repeated(data, times));
  EXPECT_NEAR(weighed.loss, often.loss, 1e-12 * often.loss);
  EXPECT_NEAR(weighed.classes->accuracy, often.classes->accuracy, 1e-14);
  EXPECT_NEAR(weighed.classes->top_accuracy, often.classes->top_accuracy, 1e-14);
  EXPECT_EQ(weighed.classes->confusion, often.classes->confusion);
  EXPECT_EQ(weighed.classes->classes[1].rows, often.classes->classes[1].rows);
  EXPECT_EQ(weighed.classes->commonest_accuracy, often.classes->commonest_accuracy);
  const Dataset kiln = demo_set("kiln");
  const Network line(Shape{1}, "dense 1", Random(3));
  const NumberJudgement one = assess(line, kiln.with_row_weights(by_turns(kiln.rows()))).numbers[0];
  const NumberJudgement other = assess(line, repeated(kiln, by_turns(kiln.rows()))).numbers[0];
  EXPECT_NEAR(one.r_squared, other.r_squared, 1e-12 * std::abs(other.r_squared));
  EXPECT_NEAR(one.mean_absolute, other.mean_absolute, 1e-12 * other.mean_absolute);
}

TEST(row_weights, pull_a_run_like_as_many_rows) {
  const Dataset data = pots();
  const Tensor times = by_turns(data.rows());
  const auto learnt = [](const Dataset& rows) {
    Network net(Shape{5}, "dense 4", Random(3));
    const Split all{.train = rows.prepared_by(fit({{}}, pots().features))};
    static_cast<void>(
        train(net, all, {.rule = Descent{.rate = 0.5}, .epochs = 20, .batch = all.train.count()}));
    return net["output.weight"];
  };
  const Tensor weighed = learnt(data.with_row_weights(times));
  EXPECT_LT(distance(weighed, learnt(repeated(data, times))).largest, 1e-12);
  EXPECT_GT(distance(weighed, learnt(data)).largest, 1e-3);
}

TEST(row_weights, of_0_let_no_label_through) {
  Dataset data = pots();
  Dataset other = data;
  for (std::int64_t row = 2; row < data.rows(); row += 3)
    other.classes.set({row}, 3.0 - other.classes.at({row}));
  const auto learnt = [](const Dataset& rows) {
    Network net(Shape{5}, "dense 6, tanh, dense 4", Random(3));
    Random random(1);
    const Split parts = scaled(split(rows, {}, random), ScalingKind::standard);
    RunRecord run = train(net, parts, {.rule = Adam{.rate = 0.02}, .epochs = 3});
    return std::pair(net["hidden.weight"], run.epochs.back());
  };
  const auto one = learnt(data.with_row_weights(by_turns(60)));
  const auto two = learnt(other.with_row_weights(by_turns(60)));
  EXPECT_EQ(one.first, two.first);
  EXPECT_EQ(one.second.train->loss, two.second.train->loss);
  EXPECT_EQ(one.second.running->accuracy, two.second.running->accuracy);
}

// All forms of all losses, worked with the weights on the worksheet.
TEST(row_weights, stand_on_the_worksheet_and_are_explained) {
  const RowSet rows(pots().with_row_weights(by_turns(60)), {0, 1, 2, 3, 4});
  for (const Loss& loss : {Loss::cross_entropy, Loss::mean_squared, Loss::half_mean_squared}) {
    for (const Form form : {Form::one_line, Form::written_out, Form::naive}) {
      const Network net(Shape{5}, "dense 4 start normal 0.001", Random(3));
      const WorkedMinibatch work(net, rows.all(), Descent{}, {.loss = loss, .form = form});
      EXPECT_EQ(work.sheet().line("row_weights").value(), tensor({1, 2, 0, 1, 2}));
      const Figures judged = figures_of(net, loss, rows);
      EXPECT_NEAR(work.loss_before(), judged.loss, 1e-12 * judged.loss) << word(loss);
      const Explanation why = work.why({"loss", {}}, WorkedMinibatch::Ask::value);
      EXPECT_DOUBLE_EQ(why.formula.evaluate(), why.value);
      EXPECT_TRUE(work.check().agrees()) << word(loss);
    }
    const WorkedMinibatch summed(Network(Shape{5}, "dense 4", Random(3)), rows.all(), Descent{},
                                 {.loss = loss, .over_rows = OverRows::sum});
    EXPECT_NEAR(summed.result_before(), 6.0 * summed.sheet().line("loss").value().number(), 1e-12);
    EXPECT_TRUE(summed.check().agrees()) << word(loss);
  }
}

TEST(row_weights, of_0_for_a_whole_part_are_refused) {
  Tensor first = zeros(Shape{60});
  first.set({0}, 1.0);
  const Dataset data = pots().with_row_weights(first);
  const Network net(Shape{5}, "dense 4", Random(3));
  EXPECT_NO_THROW(static_cast<void>(assess(net, RowSet(data, {0, 1}))));
  EXPECT_THROW(static_cast<void>(assess(net, RowSet(data, {1, 2}))), NumberError);
}

}  // namespace
}  // namespace lattice
