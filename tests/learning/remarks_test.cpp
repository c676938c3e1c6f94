#include "lattice/learning/remarks.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <numeric>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::Contains;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

std::vector<std::string> codes(const std::vector<Remark>& remarks) {
  std::vector<std::string> all;
  for (const Remark& remark : remarks)
    all.push_back(remark.code);
  return all;
}

std::string text_of(const std::vector<Remark>& remarks, const std::string& code) {
  for (const Remark& remark : remarks) {
    if (remark.code == code) return remark.text;
  }
  return "";
}

Dataset sorted_glazes() {
  const Dataset glazes = demo_set("glazes", 120, 1);
  std::vector<std::int64_t> rows;
  for (double kind = 0; kind < 4; ++kind) {
    for (std::int64_t row = 0; row < glazes.rows(); ++row) {
      if (glazes.classes.at({row}) == kind) rows.push_back(row);
    }
  }
  return glazes.taking(rows);
}

Split parts_of(const Dataset& data, const SplitSettings& settings = {}) {
  Random random(1);
  return split(data, settings, random);
}

Split good_parts() {
  return scaled(parts_of(demo_set("glazes", 200, 1), {.stratified = true}), ScalingKind::standard);
}

TEST(remarks, say_nothing_about_a_lesson_without_a_mistake) {
  const Split parts = good_parts();
  Network net(Shape{5}, "dense 8 start normal 0.1, tanh, dense 4 start normal 0.1", Random(1));
  EXPECT_THAT(remarks_on(parts), IsEmpty());
  EXPECT_THAT(remarks_on(net), IsEmpty());
  const RunRecord run = train(net, parts, {.rule = Adam{.rate = 0.01}, .epochs = 10});
  EXPECT_THAT(remarks_on(run, 4), IsEmpty());
}

TEST(remarks, notice_rows_sorted_by_class) {
  const std::vector<Remark> remarks =
      remarks_on(scaled(parts_of(sorted_glazes(), {.shuffled = false}), ScalingKind::standard));
  EXPECT_THAT(codes(remarks), Contains("sorted-rows"));
  EXPECT_THAT(codes(remarks), Contains("class-missing"));
  EXPECT_THAT(codes(remarks_on(scaled(parts_of(sorted_glazes()), ScalingKind::standard))),
              Not(Contains("sorted-rows")));
}

TEST(remarks, notice_a_class_that_cannot_be_learnt) {
  Split parts = good_parts();
  const auto ash_aside = [](const RowSet& all) {
    std::vector<std::int64_t> places;
    const Tensor classes = all.classes();
    for (std::int64_t place = 0; place < all.count(); ++place) {
      if (classes.at({place}) != 0.0) places.push_back(place);
    }
    return all.taking(places);
  };
  Split no_ash_to_learn = parts;
  no_ash_to_learn.train = ash_aside(parts.train);
  EXPECT_THAT(text_of(remarks_on(no_ash_to_learn), "class-missing"),
              HasSubstr("'ash' is in the validation part"));
  parts.test = ash_aside(parts.test);
  EXPECT_THAT(text_of(remarks_on(parts), "class-missing"),
              HasSubstr("the test part has no row of the class 'ash'"));
}

TEST(remarks, notice_features_that_are_constant_or_of_very_different_size) {
  const Split raw = parts_of(demo_set("glazes", 200, 1));
  EXPECT_THAT(text_of(remarks_on(raw), "features-differ"), HasSubstr("'peak' is about 125"));
  EXPECT_THAT(codes(remarks_on(parts_of(demo_set("cracks", 200, 1)))),
              Not(Contains("features-differ")));
  Dataset constant = demo_set("cracks", 100, 1);
  for (std::int64_t row = 0; row < constant.rows(); ++row)
    constant.features.set({row, 0}, 7.5);
  EXPECT_THAT(text_of(remarks_on(parts_of(constant)), "constant-feature"),
              HasSubstr("'thickness' is 7.5 in every row of the train part"));
  EXPECT_THAT(codes(remarks_on(raw)), Not(Contains("constant-feature")));
}

TEST(remarks, notice_rows_that_are_in_two_parts_but_not_those_that_are_alike_by_chance) {
  const Dataset glazes = demo_set("glazes", 100, 1);
  const Dataset others = demo_set("glazes", 100, 2);
  const auto said_of = [](const Dataset& data) {
    return text_of(remarks_on(scaled(parts_of(data, {.validation = 0}), ScalingKind::standard)),
                   "shared-rows");
  };
  EXPECT_THAT(said_of(with_part(glazes, DataPart::test, glazes)),
              HasSubstr("100 of 100 rows of the test part are in the train part"));
  EXPECT_EQ(said_of(with_part(glazes, DataPart::test, others)), "");
  std::vector<std::int64_t> ten(10);
  std::iota(ten.begin(), ten.end(), 0);
  std::vector<std::int64_t> last_sixty(60);
  std::iota(last_sixty.begin(), last_sixty.end(), 50);
  const Dataset mixed = appended(others, glazes.taking(ten)).taking(last_sixty);
  EXPECT_THAT(said_of(with_part(glazes, DataPart::test, mixed)), HasSubstr("10 of 60 rows"));
  // Readings to a few digits are alike now and then, and the truth of a row belongs to it.
  EXPECT_EQ(said_of(demo_set("cracks", 3000, 1)), "");
  Dataset other_truth = glazes;
  other_truth.classes = tensor(Shape{100}.with({Role::example}),
                               std::vector<double>(100, glazes.classes.at_offset(0)));
  EXPECT_THAT(said_of(with_part(glazes, DataPart::test, other_truth)),
              Not(HasSubstr("100 of 100")));
}

TEST(remarks, notice_a_part_that_was_scaled_by_itself) {
  const Split raw = parts_of(demo_set("glazes", 200, 1));
  Split parts = scaled(raw, ScalingKind::standard);
  parts.test = raw.test.prepared_by(fit({{}}, raw.test.features()));
  EXPECT_THAT(text_of(remarks_on(parts), "own-scaling"), HasSubstr("the test part"));
  parts.test = raw.test;
  EXPECT_THAT(codes(remarks_on(parts)), Contains("own-scaling"));
}

TEST(remarks, notice_a_hidden_part_whose_units_stay_alike_and_say_so_only_when_they_do) {
  // Said or not, it is tried: after three updates the units are alike, or they are not.
  const auto columns_differ = [](const Tensor& weight) {
    for (std::int64_t row = 0; row < weight.shape()[0]; ++row) {
      for (std::int64_t column = 1; column < weight.shape()[1]; ++column) {
        if (weight.at({row, column}) != weight.at({row, 0})) return true;
      }
    }
    return false;
  };
  const Dataset data =
      demo_set("cracks", 40, 1).prepared_by(fit({{}}, demo_set("cracks", 40, 1).features));
  for (const auto& [blueprint, stay_alike] : std::vector<std::pair<std::string, bool>>{
           {"dense 8 start zeros, tanh, dense 2 start zeros", true},
           {"dense 8 start constant 0.5, sigmoid, dense 2 start constant 0.1", true},
           {"dense 8 start constant 0.5 with bias as input, tanh, dense 2 start zeros", true},
           {"dense 8 start constant 0.5, tanh, dense 2", false},
           {"dense 8 start zeros, tanh, dense 2", false},
           {"dense 8, tanh, dense 2 start zeros", false},
           {"dense 8 start zeros bias start normal 0.5, tanh, dense 2 start zeros", false},
           {"dense 8 start constant 0.5, dropout 0.5, dense 2 start constant 0.1", false}}) {
    Network net(Shape{2}, blueprint, Random(1));
    EXPECT_EQ(remarks_on(net).size(), stay_alike ? 1U : 0U) << blueprint;
    Random chance(3);
    Descent rule{.rate = 0.5};
    for (int step = 0; step < 3; ++step) {
      Worksheet sheet;
      const Line scores =
          net.forward(sheet, sheet.given("x", data.features), Phase::training(chance));
      update(rule, net, reverse_sweep(cross_entropy(scores, sheet.given("y", data.classes))));
    }
    EXPECT_EQ(columns_differ(net["hidden.weight"]), !stay_alike) << blueprint;
  }
  EXPECT_THAT(
      text_of(remarks_on(
                  Network(Shape{5}, "dense 8 start zeros, tanh, dense 4 start zeros", Random(1))),
              "zero-start"),
      HasSubstr("the 8 units of hidden start with identical incoming and outgoing weights"));
  // One unit is alike to none; an output is told apart by its targets.
  EXPECT_THAT(
      remarks_on(Network(Shape{5}, "dense 1 start zeros, tanh, dense 4 start zeros", Random(1))),
      IsEmpty());
  EXPECT_THAT(remarks_on(Network(Shape{5}, "dense 4 start zeros", Random(1))), IsEmpty());
}

TEST(remarks, notice_softmax_twice_and_naive_logs_on_a_worksheet) {
  const Tensor numbers = tensor({{1, 2, 3}, {0, 1, 0}});
  const Tensor classes = tensor({0, 2});
  {
    Worksheet sheet;
    const Line p = named("p", softmax(sheet.weight("z", numbers)));
    static_cast<void>(cross_entropy(p, sheet.given("y", classes)));
    EXPECT_THAT(text_of(remarks_on(sheet), "softmax-twice"), HasSubstr("gets p, which softmax"));
  }
  {
    Worksheet sheet;
    const Line p = sigmoid(sheet.weight("z", numbers));
    static_cast<void>(binary_cross_entropy(p, sheet.given("y", zeros({2, 3}))));
    EXPECT_THAT(codes(remarks_on(sheet)), Contains("softmax-twice"));
  }
  {
    Worksheet sheet;
    static_cast<void>(log(softmax(sheet.weight("z", numbers))));
    EXPECT_THAT(codes(remarks_on(sheet)), Contains("naive-log"));
  }
  {
    const auto patched = [&](Precision precision, double epsilon) {
      Worksheet sheet;
      const Line z = sheet.weight("z", numbers.in(precision));
      static_cast<void>(log_softmax(z, 1, Form::patched, epsilon));
      return text_of(remarks_on(sheet), "epsilon-lost");
    };
    EXPECT_THAT(patched(Precision::single, 1e-50), HasSubstr("adds 1e−50 in front of a log"));
    EXPECT_THAT(patched(Precision::single, 1e-12), IsEmpty());
    EXPECT_THAT(patched(Precision::double_, 1e-50), IsEmpty());
  }
  Worksheet sheet;
  const Line z = sheet.weight("z", numbers);
  static_cast<void>(cross_entropy(z, sheet.given("y", classes)));
  static_cast<void>(log_softmax(z));
  EXPECT_THAT(remarks_on(sheet), IsEmpty());
}

TEST(remarks, notice_a_rate_that_is_kept_for_the_sum_over_a_larger_minibatch) {
  const auto said = [](OverRows over_rows, std::int64_t batch, double rate) {
    const TrainSettings before{.rule = Descent{.rate = 0.1}, .batch = 8, .over_rows = over_rows};
    const TrainSettings now{.rule = Descent{.rate = rate}, .batch = batch, .over_rows = over_rows};
    return remarks_on(before, now);
  };
  ASSERT_EQ(said(OverRows::sum, 32, 0.1).size(), 1U);
  EXPECT_THAT(text_of(said(OverRows::sum, 32, 0.1), "summed-rate"),
              HasSubstr("the rate 0.1 now acts as 0.4 did"));
  EXPECT_EQ(said(OverRows::sum, 32, 0.1).front().advice.value, "0.025");
  EXPECT_THAT(said(OverRows::mean, 32, 0.1), IsEmpty());
  EXPECT_THAT(said(OverRows::sum, 8, 0.1), IsEmpty());
  EXPECT_THAT(said(OverRows::sum, 32, 0.025), IsEmpty());
}

TEST(remarks, notice_a_column_less_a_list_that_becomes_a_square) {
  const auto said = [](const Tensor& guesses, const Tensor& truths) {
    Worksheet sheet;
    static_cast<void>(sheet.weight("z", guesses) - sheet.given("y", truths));
    return remarks_on(sheet);
  };
  EXPECT_THAT(text_of(said(zeros({4, 1}), zeros({4})), "square"),
              HasSubstr("combines z [4 × 1] with y [4]: both are broadcast to [4 × 4]"));
  EXPECT_THAT(said(zeros({4, 1}), zeros({4, 1})), IsEmpty());
  EXPECT_THAT(said(zeros({4, 4}), zeros({4})), IsEmpty());
  EXPECT_THAT(said(zeros({4}), zeros({4})), IsEmpty());
  EXPECT_THAT(said(zeros({4, 1}), zeros({3})), IsEmpty());
}

TEST(remarks, notice_overfitting) {
  const auto said = [](const std::vector<double>& train, const std::vector<double>& validation) {
    RunRecord run;
    for (std::size_t epoch = 0; epoch < train.size(); ++epoch) {
      run.epochs.push_back({.epoch = static_cast<std::int64_t>(epoch),
                            .train = Figures{.loss = train[epoch]},
                            .validation = Figures{.loss = validation[epoch]}});
    }
    return run;
  };
  const std::vector<double> falls = {9, 8, 7, 6, 5, 4, 3, 2, 1};
  const std::vector<double> turns = {9, 8, 7, 7.1, 7.2, 7.3, 7.5, 7.7, 8};
  EXPECT_THAT(text_of(remarks_on(said(falls, turns), 0), "overfitting"),
              HasSubstr("lowest after epoch 2, at 7, and has grown to 8"));
  const std::vector<double> flat = {9, 8, 7, 7.1, 7.1, 7.1, 7.1, 7.1, 7.1};
  EXPECT_THAT(codes(remarks_on(said(falls, flat), 0)), ::testing::Not(Contains("overfitting")));
  EXPECT_THAT(codes(remarks_on(said(turns, turns), 0)), ::testing::Not(Contains("overfitting")));
  const std::vector<double> late = {9, 8, 7, 6, 5, 4, 3, 2, 3};
  EXPECT_THAT(codes(remarks_on(said(falls, late), 0)), ::testing::Not(Contains("overfitting")));
  RunRecord kept = said(falls, turns);
  kept.ends_with_best = true;
  EXPECT_THAT(codes(remarks_on(kept, 0)), ::testing::Not(Contains("overfitting")));
}

TEST(remarks, notice_settings_that_may_be_chosen_by_the_test_part) {
  Random random(1);
  const Dataset pots = demo_set("kiln", 40, 1);
  const auto said = [&](double validation, double test) {
    return codes(
        remarks_on_choosing(split(pots, {.validation = validation, .test = test}, random)));
  };
  EXPECT_THAT(said(0.2, 0.2), IsEmpty());
  EXPECT_EQ(said(0.0, 0.0), (std::vector<std::string>{"no-validation"}));
  EXPECT_EQ(said(0.0, 0.2), (std::vector<std::string>{"no-validation", "chosen-by-test"}));
}

TEST(remarks, notice_records_far_from_what_was_learnt_from_however_it_is_scaled) {
  for (const char* const scaling : {"none", "standard", "min-max", "standard as a whole",
                                    "less mean", "less 20 over 5", "min-max as a whole"}) {
    SCOPED_TRACE(scaling);
    Random random(1);
    const Split parts =
        prepared(split(demo_set("glazes", 100, 1), {}, random), {parse_scaling(scaling)}, {});
    const Network net(Shape{5}, "dense 4", Random(1));
    const Model model = model_of(net, Loss::cross_entropy, parts.train);
    const auto said = [&](const Tensor& record) { return remarks_on(model, record); };
    EXPECT_THAT(said(demo_set("glazes", 20, 9).features), IsEmpty());
    EXPECT_THAT(text_of(said(tensor({{2.7, 45, 0.53, 63, 12}})), "far-outside"),
                AllOf(HasSubstr("record 0: peak is 12"), HasSubstr("it lay between 1")));
    EXPECT_THAT(text_of(said(tensor({{2.7, 45, 0.53, 63, 1e308}})), "far-outside"),
                HasSubstr("peak is 1"));
    const bool is_from_data =
        !parts.train.data().preparation.empty() && std::string_view(scaling) != "less 20 over 5";
    EXPECT_EQ(codes(said(tensor({{0.3, -1.2, 0.5, 0.1, -2}}))),
              (std::vector<std::string>{is_from_data ? "scaled-already" : "far-outside"}));
  }
  // What was always the same is a range of no width.
  Dataset data = demo_set("glazes", 20, 1);
  Tensor features = data.features.all();
  for (std::int64_t row = 0; row < features.shape()[0]; ++row)
    features.set({row, 2}, 7.0);
  data.features = features;
  const Network net(Shape{5}, "dense 4", Random(1));
  const Model model = model_of(net, Loss::cross_entropy, data);
  Tensor record = features.rows(std::vector<std::int64_t>{0});
  EXPECT_THAT(remarks_on(model, record), IsEmpty());
  record.set({0, 2}, 7.5);
  EXPECT_THAT(text_of(remarks_on(model, record), "far-outside"),
              HasSubstr("thickness is 7.5, but it was always 7 in training"));
}

TEST(remarks, notice_a_mean_of_means_and_the_right_one_is_offered) {
  MeanOfRows uneven;
  uneven.add(1.0, 16);
  uneven.add(3.0, 4);
  EXPECT_DOUBLE_EQ(uneven.mean(), (16.0 + 12.0) / 20.0);
  EXPECT_DOUBLE_EQ(uneven.mean_of_means(), 2.0);
  EXPECT_THAT(text_of(remarks_on(uneven), "mean-of-means"),
              HasSubstr("is 2, and the mean over rows 1.4"));
  MeanOfRows even;
  even.add(1.0, 16);
  even.add(3.0, 16);
  EXPECT_THAT(remarks_on(even), IsEmpty());
}

RunRecord run_with(double first, double last) {
  RunRecord run;
  run.epochs = {{.epoch = 0, .train = Figures{.loss = first}, .validation = Figures{.loss = first}},
                {.epoch = 1,
                 .running = Figures{.loss = last},
                 .train = Figures{.loss = last},
                 .validation = Figures{.loss = last},
                 .rate = 0.5}};
  return run;
}

TEST(remarks, notice_a_first_loss_far_from_that_of_a_uniform_guess) {
  EXPECT_THAT(text_of(remarks_on(run_with(4.2, 1.0), 4), "first-loss"),
              HasSubstr("first loss 4.2; a uniform guess over 4 classes gives ln 4 = 1.3863"));
  EXPECT_THAT(codes(remarks_on(run_with(1.4, 1.0), 4)), Not(Contains("first-loss")));
  EXPECT_THAT(codes(remarks_on(run_with(4.2, 1.0), 0)), Not(Contains("first-loss")));
}

TEST(remarks, notice_a_rate_that_is_too_high) {
  EXPECT_THAT(codes(remarks_on(run_with(1.4, 1.5), 4)), Contains("rate-too-high"));
  EXPECT_THAT(codes(remarks_on(run_with(1.4, std::nan("")), 4)), Contains("rate-too-high"));
  EXPECT_THAT(codes(remarks_on(run_with(1.4, 1.3), 4)), Not(Contains("rate-too-high")));
  // What reads as the same number twice is no growth.
  EXPECT_THAT(codes(remarks_on(run_with(0.81861, 0.818613), 4)), Not(Contains("rate-too-high")));
}

TEST(remarks, notice_commas_for_decimal_points) {
  const std::vector<Table::DecimalCommas> commas = {{.column = "wall", .as_written = "-3,5"},
                                                    {.column = "hours", .as_written = "1,25"}};
  EXPECT_THAT(
      text_of(remarks_on(commas, "pots.csv"), "decimal-commas"),
      HasSubstr("pots.csv: commas are taken for decimal points in wall, hours: -3,5 is -3.5"));
  EXPECT_THAT(remarks_on(std::vector<Table::DecimalCommas>(), "pots.csv"), IsEmpty());
}

TEST(remarks, notice_a_running_loss_that_only_lags) {
  RunRecord run = run_with(1.4, 1.0);
  run.epochs[1].running->loss = 1.3;
  run.epochs[1].train->loss = 0.9;
  EXPECT_THAT(codes(remarks_on(run, 4)), Contains("running-lags"));
  EXPECT_THAT(text_of(remarks_on(run, 4), "running-lags"), Not(HasSubstr("accuracy")));
  run.epochs[1].running->accuracy = 0.5;
  run.epochs[1].train->accuracy = 0.75;
  EXPECT_THAT(text_of(remarks_on(run, 4), "running-lags"),
              HasSubstr("The running accuracy, 0.5, lags likewise: it is 0.75 at the end"));
  run.epochs[1].train->loss = 1.1;
  EXPECT_THAT(codes(remarks_on(run, 4)), Not(Contains("running-lags")));
}

TEST(remarks, notice_that_a_run_went_on_and_that_there_was_no_validation) {
  RunRecord run = run_with(1.4, 1.0);
  EXPECT_THAT(remarks_on(run, 4), IsEmpty());
  run.joins = {1};
  EXPECT_THAT(text_of(remarks_on(run, 4), "went-on"), HasSubstr("resumes after epoch 1"));
  run.epochs[1].validation.reset();
  EXPECT_THAT(codes(remarks_on(run, 4)), Not(Contains("no-validation")));
  run.updates = 1;  // Without one nothing was compared.
  EXPECT_THAT(codes(remarks_on(run, 4)), Contains("no-validation"));
}

TEST(remarks, can_be_silenced) {
  const std::vector<Remark> remarks = {{.code = "went-on", .text = "a"},
                                       {.code = "first-loss", .text = "b"}};
  EXPECT_EQ(without(remarks, std::vector<std::string>{}).size(), 2U);
  EXPECT_EQ(codes(without(remarks, std::vector<std::string>{"went-on"})),
            std::vector<std::string>{"first-loss"});
  EXPECT_THAT(without(remarks, std::vector<std::string>{"all"}), IsEmpty());
}

TEST(remarks, notice_matrices_that_were_multiplied_number_by_number) {
  const auto said = [](const Tensor& x, const Tensor& w, bool is_weight = true) {
    Worksheet sheet;
    const Line first = sheet.given("x", x);
    static_cast<void>(first * (is_weight ? sheet.weight("W", w) : sheet.given("W", w)));
    return remarks_on(sheet);
  };
  EXPECT_THAT(text_of(said(zeros({1, 3}), zeros({3, 1})), "number-by-number"),
              HasSubstr("line 3 multiplies x [1 × 3] and W [3 × 1] number by number, broadcast to "
                        "[3 × 3]; the matrix product x·W is [1 × 1]"));
  EXPECT_THAT(text_of(said(zeros({1, 3}), zeros({3, 3})), "number-by-number"),
              HasSubstr("[1 × 3]"));
  EXPECT_THAT(text_of(said(zeros({3, 3}), zeros({3, 1})), "number-by-number"),
              HasSubstr("[3 × 1]"));
  // The same numbers as a matrix product, no such product, no stretching, or a mask of data.
  EXPECT_THAT(said(zeros({4, 1}), zeros({1, 3})), IsEmpty());
  EXPECT_THAT(said(zeros({4, 3}), zeros({1, 3})), IsEmpty());
  EXPECT_THAT(said(zeros({3, 3}), zeros({3, 3})), IsEmpty());
  EXPECT_THAT(said(zeros({3, 3}), zeros({3, 1}), false), IsEmpty());
  Worksheet sheet;
  static_cast<void>(sheet.weight("a", zeros({1, 3})) + sheet.weight("b", zeros({3, 1})));
  EXPECT_THAT(remarks_on(sheet), IsEmpty());
}

}  // namespace
}  // namespace lattice
