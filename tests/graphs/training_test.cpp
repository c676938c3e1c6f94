#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>
#include <vector>

#include "lattice/lattice.hpp"

namespace lattice {
namespace {

constexpr const char* two_layers = "neighbours, dense 6 without bias, tanh, neighbours, dense 4";

struct OnStudios {
  Random random{1};
  Split studios = split(demo_set("studios"), {}, random);
  Network net{studios.data().example(), two_layers, random};
};

TEST(graph_training, learns_guilds_that_nobody_told_from_those_of_eight) {
  OnStudios f;
  const TrainSettings settings{.rule = Adam{.rate = 0.02}, .epochs = 100};
  const RunRecord run = train(f.net, f.studios, settings);
  EXPECT_EQ(run.updates, 100);
  EXPECT_EQ(*run.epochs.back().train->accuracy, 1.0);
  const Assessment told = assess(f.net, f.studios.test);
  EXPECT_EQ(told.rows, 40);
  EXPECT_GT(told.classes->accuracy, 0.75);
  Network alone(f.studios.data().example(), "dense 6 without bias, tanh, dense 4", f.random);
  static_cast<void>(train(alone, f.studios, settings));
  EXPECT_EQ(assess(alone, f.studios.train).classes->accuracy, 1.0);
  EXPECT_LT(assess(alone, f.studios.test).classes->accuracy, 0.5);
}

TEST(graph_training, judges_the_nodes_of_a_part_alone) {
  const OnStudios f;
  const Tensor scores = outputs_for(f.net, Loss::cross_entropy, f.studios.train);
  EXPECT_EQ(scores.shape(), (Shape{8, 4}));
  const Tensor all = outputs_for(f.net, Loss::cross_entropy, RowSet(f.studios.data()));
  double total = 0.0;
  double right = 0.0;
  for (std::size_t at = 0; at < 8; ++at) {
    const std::int64_t node = f.studios.train.rows()[at];
    const auto truth = static_cast<std::int64_t>(f.studios.data().classes.at({node}));
    double sum = 0.0;
    bool is_highest = true;
    for (std::int64_t of = 0; of < 4; ++of) {
      EXPECT_EQ(scores.at({static_cast<std::int64_t>(at), of}), all.at({node, of}));
      sum += std::exp(all.at({node, of}));
      is_highest = is_highest && all.at({node, of}) <= all.at({node, truth});
    }
    total += std::log(sum) - all.at({node, truth});
    right += is_highest ? 1.0 : 0.0;
  }
  const Figures figures = figures_of(f.net, Loss::cross_entropy, f.studios.train);
  EXPECT_NEAR(figures.loss, total / 8, 1e-14);
  EXPECT_EQ(*figures.accuracy, right / 8);
  for (const JudgedRow& row : rows_got_wrong(f.net, Loss::cross_entropy, f.studios.test, 48))
    EXPECT_EQ(std::ranges::count(f.studios.test.rows(), row.row), 1);
}

TEST(graph_training, judges_no_node_whose_truth_nobody_knows) {
  const OnStudios f;
  Dataset data = f.studios.data();
  const std::vector<std::int64_t> told = f.studios.test.rows();
  data.unlabelled.assign(told.begin(), told.begin() + 30);
  std::ranges::sort(data.unlabelled);
  std::vector<std::int64_t> others;
  for (std::int64_t node = 0; node < data.rows(); ++node) {
    if (data.has_truth(node)) others.push_back(node);
  }
  ASSERT_EQ(others.size(), 18U);
  const Figures all = figures_of(f.net, Loss::cross_entropy, RowSet(data));
  const Figures of_them = figures_of(f.net, Loss::cross_entropy, RowSet(data).taking(others));
  EXPECT_NEAR(all.loss, of_them.loss, 1e-14);
  EXPECT_NEAR(*all.accuracy, *of_them.accuracy, 1e-14);
}

/// What comes back to the weights from one look at the train part.
Gradients gradients_of(const Network& net, const Split& studios) {
  Worksheet sheet;
  const Batch batch = studios.train.all();
  const GivenLines given = write_given(sheet, batch);
  const Line scores = write_scores(sheet, net, Loss::cross_entropy, given.x);
  return reverse_sweep(write_loss(sheet, Loss::cross_entropy, scores, given));
}

TEST(graph_training, is_changed_in_no_bit_by_the_label_of_a_node_that_does_not_count) {
  const OnStudios f;
  const Gradients before = gradients_of(f.net, f.studios);
  Dataset other = f.studios.data();
  std::vector<double> classes = other.classes.numbers();
  for (const std::int64_t node : f.studios.test.rows())
    classes[static_cast<std::size_t>(node)] = 3.0 - classes[static_cast<std::size_t>(node)];
  other.classes = tensor(other.classes.shape(), classes);
  const RowSet whole = other;
  const Split changed{.train = whole.taking(f.studios.train.rows()),
                      .validation = {},
                      .test = whole.taking(f.studios.test.rows())};
  const Gradients after = gradients_of(f.net, changed);
  for (const Weight& weight : f.net.weights())
    EXPECT_EQ(before[weight.name], after[weight.name]) << weight.name;
  const std::int64_t known = f.studios.train.rows()[0];
  other.classes.set({known}, 3.0 - other.classes.at({known}));
  const RowSet told = other;
  const Split counts{.train = told.taking(f.studios.train.rows()),
                     .validation = {},
                     .test = told.taking(f.studios.test.rows())};
  EXPECT_NE(gradients_of(f.net, counts)["output.weight"], before["output.weight"]);
}

/// Three potters, with a feature each, worked to the end.
WorkedMinibatch small_work() {
  const Dataset people =
      dataset_of_classes(tensor({{0.5, -1}, {0.25, 2}, {1, 0}}), tensor({0, 1, 1}));
  const Dataset graph =
      graph_of(people, {{0, 1}, {1, 2, 2.0}}, {.names = {"Ada", "Bo", "Cy"}, .known = {0, 2}});
  Random random(3);
  const Split known = split(graph, {}, random);
  const Network net(graph.example(), "neighbours, dense 3 without bias, tanh, neighbours, dense 2",
                    random);
  return {net, known.train.all(), Descent{.rate = 0.1}, {.l2 = 0.01}};
}

TEST(graph_training, has_gradients_that_agree_with_central_differences) {
  const WorkedMinibatch work = small_work();
  EXPECT_TRUE(check_gradients(work.result()).agrees());
}

TEST(graph_training, has_a_formula_for_every_number_that_gives_it_again) {
  const WorkedMinibatch work = small_work();
  std::int64_t numbers = 0;
  for (const Line& line : work.sheet().lines()) {
    for (std::int64_t offset = 0; offset < line.value().count(); ++offset) {
      const Index at = line.shape().index(offset);
      if (line.kind() == Line::Kind::calculated) {
        EXPECT_NEAR(explain(line, at).formula.evaluate(), line.value().at(at), 1e-12)
            << line.name() << to_string(at);
        ++numbers;
      }
      if (work.reverse_step_of(line) == nullptr && !is_weight(line.kind())) continue;
      const Explanation back = work.why({line.name(), at}, WorkedSheet::Ask::gradient);
      EXPECT_NEAR(back.formula.evaluate(), back.value, 1e-12) << line.name() << to_string(at);
      ++numbers;
    }
  }
  EXPECT_GT(numbers, 100);
}

TEST(graph_training, is_gone_on_with_to_the_same_bits) {
  OnStudios whole;
  OnStudios halves;
  TrainSettings settings{.rule = Adam{.rate = 0.02}, .epochs = 20};
  static_cast<void>(train(whole.net, whole.studios, settings));
  settings.epochs = 10;
  RunRecord run = train(halves.net, halves.studios, settings);
  go_on(halves.net, run, halves.studios, settings);
  for (const Weight& weight : whole.net.weights())
    EXPECT_EQ(weight.value, halves.net[weight.name]) << weight.name;
}

TEST(graph_training, gives_the_same_bits_on_any_number_of_threads) {
  const Dataset many = demo_set("studios", 20'000, 1);
  Random random(1);
  const Split parts = split(many, {}, random);
  std::vector<Tensor> learnt;
  for (const int threads : {1, 2, 4}) {
    const Threads some(threads);
    Network net(many.example(), "neighbours, dense 16 without bias, tanh, neighbours, dense 4",
                Random(1));
    static_cast<void>(train(net, parts, {.rule = Descent{.rate = 0.5}, .epochs = 2}));
    learnt.push_back(net["hidden.weight"]);
  }
  EXPECT_EQ(learnt[0], learnt[1]);
  EXPECT_EQ(learnt[0], learnt[2]);
}

}  // namespace
}  // namespace lattice
