#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/files/json.hpp"
#include "lattice/lessons/model_file.hpp"
#include "support/bars.hpp"
#include "support/process.hpp"
#include "support/runs.hpp"
#include "support/said.hpp"

// A model file names losses and layers of our own, and they are handed in when it is read.
namespace lattice {
namespace {

using testing::bars_in_parts;
using ::testing::HasSubstr;
using testing::net_for;
using testing::own_layers;
using testing::parts_of;

const OwnLoss own_half{
    .word = "my half square",
    .lost = [](const Line& outputs, const Line& truth) { return 0.5 * square(outputs - truth); }};

TEST(own_loss, is_named_in_a_model_file_and_handed_in_again) {
  const testing::Folder folder;
  const std::filesystem::path path = folder.path() / "own.lattice";
  const Split kiln = parts_of("kiln", 40);
  Network net(kiln.data().example(), "dense 1", Random(5));
  const RunRecord run =
      train(net, kiln, {.rule = Adam{.rate = 0.01}, .epochs = 3, .loss = own_half});
  save_model(path, {.model = model_of(net, own_half, kiln.train),
                    .lesson = {.training = {.loss = own_half}},
                    .run = run,
                    .data_name = "kiln",
                    .rows = 40});
  const std::vector<Loss> losses = {own_half};
  ModelFile back = load_model(path, {.losses = losses});
  EXPECT_EQ(back.model.loss, losses.front());
  go_on(back.model.network, back.run, kiln, {.epochs = 1, .loss = back.model.loss});
  EXPECT_EQ(back.run.last_epoch(), 4);
  EXPECT_THAT(testing::said<Error>([&] { static_cast<void>(load_model(path)); }),
              HasSubstr("there is no loss 'my half square'"));
}

TEST(pictures, and_running_statistics_come_back_from_a_model_file_to_the_last_bit) {
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
  EXPECT_THROW(static_cast<void>(load_model(path)), Error) << "its layers are our own";
  ModelFile back = load_model(path, {.layers = own_layers});
  const Network& read = back.model.network;
  EXPECT_EQ(read["centred.mean"], net["centred.mean"]);
  EXPECT_TRUE(read.weights().find("centred.mean").is_running);
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

}  // namespace
}  // namespace lattice
