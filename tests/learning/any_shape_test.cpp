#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "lattice/lattice.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/show/data.hpp"
#include "lattice/show/page.hpp"
#include "lattice/show/spreadsheet.hpp"
#include "lattice/show/terminal.hpp"
#include "support/centred.hpp"
#include "support/pictures.hpp"
#include "support/process.hpp"
#include "support/said.hpp"

// Pictures go through everything that tables go through; so do kept numbers.
namespace lattice {
namespace {

using ::testing::AllOf;
using testing::Centred;
using testing::Flat;
using ::testing::HasSubstr;

const std::vector<Part> own_parts = {Flat{}, Centred{}};

Split bars_in_parts() {
  Random random(3);
  return prepared(
      split(testing::bars(400), {}, random),
      {{.kind = ScalingKind::min_max, .by = ScaledBy::whole}, {.by = ScaledBy::channel}});
}

Network net_for(const Dataset& data) {
  return {data.example(), parse_blueprint("centred, flat, dense 6, tanh, dense 2", own_parts),
          Random(5)};
}

TEST(pictures, are_learnt_and_judged) {
  const Split bars = bars_in_parts();
  Network net = net_for(bars.data());
  EXPECT_EQ(to_string(net["centred.mean"].shape()), "[row 4 × column 5 × channel 2]");
  const RunRecord run =
      train(net, bars, {.rule = Adam{.rate = 0.02}, .epochs = 30, .batch = 12, .keep_best = true});
  EXPECT_GE(assess(net, bars.test).classes->accuracy, 0.9);
  EXPECT_LT(run.epochs.back().train.loss, 0.2);
  EXPECT_GT(max(abs(net["centred.mean"])).number(), 0.0);
}

TEST(pictures, that_meet_a_part_for_rows_are_an_error_that_names_it) {
  const Dataset bars = testing::bars(4);
  EXPECT_THAT(
      testing::said<ShapeError>([&] { const Network net(bars.example(), "dense 2", Random(1)); }),
      AllOf(HasSubstr("part 1, dense 2"), HasSubstr("[row 4 × column 5 × channel 2]")));
  const Network for_tables(Shape{5}, "dense 2", Random(1));
  EXPECT_THROW(static_cast<void>(assess(for_tables, bars)), ShapeError);
  EXPECT_THROW(static_cast<void>(to_csv(bars)), SettingError);
}

// Prepared on the sheet or before, worked or trained: the same bits, at every step.
TEST(pictures, are_worked_as_they_are_trained) {
  const Split bars = bars_in_parts();
  Network net = net_for(bars.data());
  Training run(net, bars, {.rule = Momentum{.rate = 0.05}, .epochs = 1, .batch = 20, .l2 = 0.01});
  const RowSet measured = bars.data().as_measured();
  while (run.goes_on()) {
    const WorkedMinibatch work(net, measured.at(run.upcoming().rows), run.rule(),
                               {.l2 = 0.01, .preparation = bars.data().preparation}, run.chance());
    run.step();
    EXPECT_EQ(work.updates().size(), net.weights().size());
    for (const WorkedMinibatch::Update& update : work.updates())
      EXPECT_EQ(update.after, net[update.weight]) << update.weight;
    const Explanation kept = work.why({"centred.mean", {1, 2, 0}}, WorkedMinibatch::Ask::update);
    EXPECT_EQ(kept.subject, "new centred.mean[1,2,0]");
    EXPECT_DOUBLE_EQ(kept.formula.evaluate(), net["centred.mean"].at({1, 2, 0}));
  }
}

TEST(pictures, have_every_form_that_a_worked_minibatch_has) {
  const testing::Folder folder;
  const Split bars = bars_in_parts();
  WorkedExample example{.title = "bars", .names = bars.data().axis_names()};
  example.steps.push_back(
      {.work = WorkedMinibatch{net_for(bars.data()),
                               RowSet(bars.data().as_measured(), {0, 1, 2}).all(),
                               Adam{},
                               {.preparation = bars.data().preparation}}});
  const std::string text = show_worked_example(example, {});
  EXPECT_THAT(text, AllOf(HasSubstr("[example 3 × row 4 × column 5 × channel 2]"),
                          HasSubstr("centre2"), HasSubstr("new centred.mean")));
  EXPECT_THAT(text, HasSubstr("centred.mean.next"));
  EXPECT_THAT(show_data(bars.data(), {}), AllOf(HasSubstr("channel 1"), HasSubstr("standing")));
  const std::string html = page(example);
  EXPECT_THAT(html, HasSubstr("centred.mean.next"));
  write_spreadsheet(folder.path() / "bars.xlsx", example);
  EXPECT_GT(std::filesystem::file_size(folder.path() / "bars.xlsx"), 10'000U);
  Json json = to_json(example);
  json["settings"] = {{"version", "0.1.0"}};  // what `lattice work` adds
  const std::string path = folder.file("bars.json", json_text(json));
  const testing::Answer schema = testing::run_program(
      "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/check_schema.py",
                           LATTICE_SOURCE "/docs/schemas/worked_example.schema.json", path});
  EXPECT_EQ(schema.status, 0) << schema.out << schema.err;
}

TEST(pictures, and_kept_numbers_come_back_from_a_model_file_to_the_last_bit) {
  const testing::Folder folder;
  const Split bars = bars_in_parts();
  const TrainSettings settings{.rule = Adam{.rate = 0.02}, .epochs = 3, .batch = 16};
  Network net = net_for(bars.data());
  RunRecord run = train(net, bars, settings);
  const std::filesystem::path path = folder.path() / "bars.lattice";
  save_model(path, {.model = model_of(net, Loss::cross_entropy, bars.train),
                    .lesson = {},
                    .run = run,
                    .data_name = "bars",
                    .rows = bars.data().rows(),
                    .fingerprint = fingerprint(bars.data())});
  EXPECT_THROW(static_cast<void>(load_model(path)), Error) << "its parts are our own";
  ModelFile back = load_model(path, {.parts = own_parts});
  const Network& read = back.model.network;
  EXPECT_EQ(read["centred.mean"], net["centred.mean"]);
  EXPECT_TRUE(read.weights().find("centred.mean").is_kept);
  EXPECT_EQ(to_string(read.example()), to_string(net.example()));
  EXPECT_EQ(back.model.preparation, bars.data().preparation);
  const Tensor asked = RowSet(bars.data(), {7, 8}).as_measured().features();
  EXPECT_EQ(ask(back.model, asked).scores,
            outputs_for(net, Loss::cross_entropy, RowSet(bars.data(), {7, 8}).all()));
  EXPECT_THROW(static_cast<void>(ask(back.model, tensor({{1, 2}}))), ShapeError);

  // Gone on with, here and from the file.
  go_on(net, run, bars, settings);
  go_on(back.model.network, back.run, bars, settings);
  for (const Weight& weight : net.weights())
    EXPECT_EQ(back.model.network[weight.name], weight.value) << weight.name;
  EXPECT_EQ(run.best->weights["centred.mean"], back.run.best->weights["centred.mean"]);
}

/// Rows that are mixed as a matrix beside the features says.
struct Mixed {
  [[nodiscard]] static std::string_view kind() { return "mixed"; }
  [[nodiscard]] static std::string text() { return "mixed"; }
  [[nodiscard]] static Shape shape(const Shape& example) { return example; }
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass& pass) {
    return matmul(pass.side("mix"), x);
  }
};

TEST(side_inputs, reach_a_part_by_name_wherever_it_is_carried_out) {
  Dataset glazes = demo_set("glazes", 21, 1);
  Network net(Shape{5}, {Mixed{}, Dense{.outputs = 4}}, Random(2));
  EXPECT_THAT(testing::said<NameError>([&] { return assess(net, glazes); }),
              HasSubstr("mixed needs 'mix' beside the features"));
  glazes.side.push_back({.name = "mix", .value = identity(21)});
  const Split all{.train = glazes.prepared_by(fit({{}}, glazes.features))};
  Network plain(Shape{5}, {Dense{.outputs = 4}}, Random(2));
  net.set("output.weight", plain["output.weight"]);
  const TrainSettings settings{.rule = Descent{.rate = 0.1}, .epochs = 2, .batch = 21, .chunk = 4};
  EXPECT_EQ(train(net, all, settings).epochs.back().train.loss,
            train(plain, all, settings).epochs.back().train.loss);
  EXPECT_EQ(net["output.weight"], plain["output.weight"]);
  const WorkedMinibatch work(net, all.train.all(), Descent{});
  EXPECT_EQ(work.sheet().line("mix").kind(), Line::Kind::given);
  EXPECT_TRUE(work.check().agrees());
}

TEST(kept_number, of_the_best_epoch_comes_back_with_the_best_weights) {
  const Split bars = bars_in_parts();
  Network net = net_for(bars.data());
  const RunRecord run =
      train(net, bars, {.rule = Descent{.rate = 3.0}, .epochs = 6, .batch = 16, .keep_best = true});
  ASSERT_LT(run.best->epoch, 6);
  EXPECT_EQ(net["centred.mean"], run.best->weights["centred.mean"]);
  EXPECT_NE(net["centred.mean"], run.state->weights["centred.mean"]);
}

}  // namespace
}  // namespace lattice
