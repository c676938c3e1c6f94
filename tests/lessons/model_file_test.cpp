#include "lattice/lessons/model_file.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "support/process.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

struct Trained {
  Prepared prepared;
  ModelFile file;
};

Trained trained(const std::string& lesson_text) {
  const Lesson lesson = parse_lesson(lesson_text, "lesson");
  Prepared prepared = prepare(lesson);
  Network net = prepared.network;
  RunRecord run = train(net, prepared.split, prepared.training);
  ModelFile file{.model = model_of(net, prepared.loss, prepared.split.train),
                 .lesson = lesson,
                 .run = std::move(run),
                 .data_name = prepared.data().name,
                 .rows = prepared.data().rows(),
                 .fingerprint = fingerprint(prepared.data())};
  return {std::move(prepared), std::move(file)};
}

const std::string glazes =
    "seed = 4\n[data]\nset = \"glazes\"\nrows = 150\n"
    "[network]\nnet = \"first: dense 5 start he, relu, residual(dense 5, tanh), dropout 0.1, dense "
    "4\"\n"
    "[training]\nrule = \"adam\"\nbeta_1 = 0.8\nepochs = 4\nl2 = 0.01\nsteps_every = 3\n"
    "schedule = \"exponential 0.9\"\n";

TEST(model_file, holds_every_bit_in_both_formats) {
  const testing::Folder folder;
  for (const std::string& lesson :
       {glazes, glazes + "[split]\ntest = 0\n",
        std::string("[data]\nset = \"shrinkage\"\nscale = \"min-max\"\n[network]\nprecision = "
                    "\"single\"\n[training]\nrule = \"rms\"\nepochs = 3\n"),
        std::string("[data]\nset = \"cracks\"\nrows = 90\nscale = \"none\"\n[network]\nnet = "
                    "\"dense 3 with bias as input, elu, dense 1 without bias\"\n")}) {
    const Trained one = trained(lesson);
    for (const ModelFormat format : {ModelFormat::json, ModelFormat::cbor}) {
      const std::filesystem::path path = folder.path() / "model.lattice";
      save_model(path, one.file, format);
      const ModelFile back = load_model(path);
      EXPECT_EQ(to_json(back), to_json(one.file));
      for (const Weight& weight : one.file.model.network.weights())
        EXPECT_EQ(back.model.network[weight.name], weight.value) << weight.name;
      EXPECT_EQ(back.model.network.updates(), one.file.model.network.updates());
      EXPECT_EQ(back.fingerprint, one.file.fingerprint);
      EXPECT_EQ(back.run.state->row_order.state(), one.file.run.state->row_order.state());
      EXPECT_EQ(back.run.best->epoch, one.file.run.best->epoch);
      const Tensor records = RowSet(one.prepared.data(), {0, 1, 2}).features();
      EXPECT_EQ(ask(back.model, records).scores, ask(one.file.model, records).scores);
    }
  }
}

TEST(model_file, holds_what_is_frozen_so_that_going_on_leaves_it_alone) {
  const testing::Folder folder;
  Prepared prepared = prepare(parse_lesson(glazes, "lesson"));
  Network net = prepared.network;
  net.freeze("first.weight");
  const Tensor fixed = net["first.weight"];
  RunRecord run = train(net, prepared.split, prepared.training);
  ASSERT_EQ(net["first.weight"], fixed);
  const ModelFile file{.model = model_of(net, prepared.loss, prepared.split.train),
                       .lesson = parse_lesson(glazes, "lesson"),
                       .run = run,
                       .data_name = "glazes",
                       .rows = prepared.data().rows()};
  for (const ModelFormat format : {ModelFormat::json, ModelFormat::cbor}) {
    save_model(folder.path() / "frozen", file, format);
    ModelFile back = load_model(folder.path() / "frozen");
    EXPECT_TRUE(back.model.network.weights().find("first.weight").is_frozen);
    go_on(back.model.network, back.run, prepared.split, prepared.training);
    EXPECT_EQ(back.model.network["first.weight"], fixed);
    EXPECT_NE(back.model.network["first.bias"], net["first.bias"]);
  }

  // Frozen only when it is gone on with: the record does not let it go.
  Network later = net;
  later.freeze("first.bias");
  const Tensor bias = run.state->weights["first.bias"];
  go_on(later, run, prepared.split, prepared.training);
  EXPECT_EQ(run.state->weights["first.bias"], bias);

  Json json = to_json(file);
  EXPECT_EQ(json["network"]["frozen"], Json({"first.weight"}));
  json["network"]["frozen"] = {"first.wieght"};
  EXPECT_THROW(static_cast<void>(model_from_json(json, "m")), FileError);
}

TEST(model_file, holds_the_rate_multipliers_of_weights) {
  Trained one =
      trained("[network]\nrate_multiplier = [\"output = 0.5\"]\n[data]\nset = \"glazes\"\n");
  Json json = to_json(one.file);
  EXPECT_EQ(json["network"]["rate_multipliers"].dump(),
            R"({"output.weight":0.5,"output.bias":0.5})");
  EXPECT_EQ(model_from_json(json, "m").model.network.weights().find("output.bias").rate_multiplier,
            0.5);
  json["network"]["rate_multipliers"]["output.bias"] = 0;
  EXPECT_THAT(testing::said<FileError>([&] { static_cast<void>(model_from_json(json, "m")); }),
              AllOf(HasSubstr("network.rate_multipliers.output.bias"), HasSubstr("above 0")));
  json["network"]["rate_multipliers"] = {{"outptu", 2}};
  EXPECT_THAT(testing::said<FileError>([&] { static_cast<void>(model_from_json(json, "m")); }),
              HasSubstr("'outptu'"));
}

/// What is wrong with a model file, as its reader is told.
std::string trouble_with(const Json& json) {
  return testing::said<FileError>([&] { static_cast<void>(model_from_json(json, "m")); });
}

// What a file of another version says may mean something else here.
TEST(model_file, of_another_version_is_refused) {
  Json json = to_json(trained(glazes).file);
  const std::int64_t version = json["version"];
  json["version"] = version - 1;
  EXPECT_THAT(trouble_with(json),
              AllOf(HasSubstr("an older version"), HasSubstr("train the lesson")));
  json["version"] = version + 1;
  EXPECT_THAT(trouble_with(json),
              AllOf(HasSubstr("a newer version"), HasSubstr("train the lesson")));
}

TEST(model_file, is_smaller_in_cbor) {
  const testing::Folder folder;
  const Trained one = trained(glazes);
  save_model(folder.path() / "a", one.file, ModelFormat::json);
  save_model(folder.path() / "b", one.file, ModelFormat::cbor);
  EXPECT_LT(2 * std::filesystem::file_size(folder.path() / "b"),
            std::filesystem::file_size(folder.path() / "a"));
}

/// A network of so many weights that has learnt nothing.
ModelFile untrained(std::int64_t units, Precision precision) {
  Random random(1);
  const Dataset rows = demo_set("glazes", 10, 1);
  const Network net(rows.example(), {Dense{.outputs = units}, Tanh{}, Dense{.outputs = 4}}, random,
                    precision);
  return {.model = model_of(net, Loss::cross_entropy, rows),
          .lesson = {},
          .run = {},
          .data_name = "glazes",
          .rows = 10};
}

TEST(model_file, of_a_large_network_has_a_weight_in_as_many_bytes_as_it_takes) {
  const testing::Folder folder;
  const std::string path = folder.path() / "model.lattice";
  for (const Precision precision : {Precision::double_, Precision::single}) {
    const ModelFile file = untrained(20'000, precision);
    const std::int64_t weights = file.model.network.plan().weights();
    ASSERT_GT(weights, most_readable_weights);
    save_model(path, file);
    const int each = precision == Precision::single ? 4 : 8;
    EXPECT_LT(std::filesystem::file_size(path), static_cast<std::uintmax_t>(weights * each + 4000));
    const ModelFile back = load_model(path);
    for (const Weight& weight : file.model.network.weights())
      EXPECT_EQ(back.model.network[weight.name], weight.value) << weight.name;
    save_model(path, file, ModelFormat::json);
    EXPECT_EQ(testing::content_of(path).front(), '{');
  }
  save_model(path, untrained(1000, Precision::double_));
  EXPECT_EQ(testing::content_of(path).front(), '{');
}

TEST(model_file, with_too_few_or_too_many_bytes_for_a_weight_is_refused) {
  const Json whole = to_json(trained(glazes).file, ModelFormat::cbor);
  for (const std::size_t length : {0U, 7U, 192U, 199U, 201U, 208U, 320U}) {
    Json json = whole;
    auto& bytes = json["network"]["weights"]["first.weight"].get_binary();
    ASSERT_EQ(bytes.size(), 200U);
    bytes.resize(length);
    EXPECT_THAT(trouble_with(json), AllOf(HasSubstr("network.weights.first.weight"),
                                          HasSubstr("the bytes of 25 numbers, 8 each"),
                                          HasSubstr(fmt::format("{}", length))));
  }
  Json json = whole;
  json["loss"] = Json::binary({1, 2, 3});
  EXPECT_THAT(trouble_with(json), HasSubstr("a text"));
}

// The weights that a run goes on from, and the best ones, are often those of the network.
TEST(model_file, tells_the_same_weights_once) {
  const Trained one = trained(glazes);
  ModelFile file = one.file;
  file.run.best->weights = file.model.network.weights();
  file.run.state->weights = file.model.network.weights();
  const Json once = to_json(file);
  EXPECT_FALSE(once["best"].contains("weights"));
  EXPECT_FALSE(once["resume"].contains("weights"));
  const std::string name = "first.weight";
  const Tensor& own = file.model.network[name];
  EXPECT_EQ(model_from_json(once, "m").run.best->weights[name], own);
  EXPECT_EQ(model_from_json(once, "m").run.state->weights[name], own);
  file.run.best->weights.find(name).value = own + 1.0;
  file.run.state->weights.find(name).value = own + 2.0;
  const ModelFile back = model_from_json(to_json(file), "m");
  EXPECT_EQ(back.run.best->weights[name], own + 1.0);
  EXPECT_EQ(back.run.state->weights[name], own + 2.0);
  EXPECT_EQ(back.model.network[name], own);
}

TEST(model_file, leaves_nothing_beside_it_and_the_old_one_when_it_cannot_be_written) {
  const testing::Folder folder;
  const Trained one = trained(glazes);
  const std::filesystem::path path = folder.path() / "model.lattice";
  save_model(path, one.file);
  save_model(path, one.file, ModelFormat::cbor);
  const auto files = std::filesystem::directory_iterator(folder.path());
  EXPECT_EQ(std::distance(begin(files), end(files)), 1);
  EXPECT_THROW(save_model("/dev/full/model.lattice", one.file), FileError);
  EXPECT_THROW(save_model(folder.path(), one.file), FileError);
}

// Whatever is cut off or changed, it is an error that says so, and never a wrong model.
TEST(model_file, cut_short_anywhere_is_refused) {
  const testing::Folder folder;
  const Trained one = trained(glazes);
  for (const ModelFormat format : {ModelFormat::json, ModelFormat::cbor}) {
    save_model(folder.path() / "whole", one.file, format);
    const std::string whole = testing::content_of(folder.path() / "whole");
    Random random(6);
    for (int cut = 0; cut < 40; ++cut) {
      const auto length = static_cast<std::size_t>(random.below(std::ssize(whole) - 1));
      const std::string path = folder.file("cut", whole.substr(0, length));
      EXPECT_THROW(static_cast<void>(load_model(path)), FileError) << length;
    }
  }
}

TEST(model_file, without_any_of_its_members_is_refused) {
  const Json whole = to_json(trained(glazes).file);
  for (const char* where : {"", "/network", "/run", "/run/epochs/1", "/data", "/resume"}) {
    const Json::json_pointer place(where);
    for (const auto& [name, member] : whole[place].items()) {
      // Of a network that learns numbers, of one that was looked at more closely, and so on.
      const std::set<std::string> optional = {
          "best",   "resume",         "feature_ranges", "validation", "running_accuracy",
          "flow",   "trouble",        "l2_term",        "train",      "learning_seconds",
          "judged", "judging_seconds"};
      if (optional.contains(name)) continue;
      Json less = whole;
      less[place].erase(name);
      EXPECT_THAT(trouble_with(less), HasSubstr("'" + name + "'")) << where;
    }
  }
  Json less = whole;
  less.erase("best");
  less.erase("resume");
  EXPECT_FALSE(model_from_json(less, "m").run.state.has_value());
}

TEST(model_file, takes_no_word_for_another_that_it_does_not_know) {
  const Json whole = to_json(trained(glazes).file);
  const auto refusal = [&](const char* where, const Json& word) {
    Json other = whole;
    other[Json::json_pointer(where)] = word;
    return testing::said<FileError>([&] { return model_from_json(other, "m"); });
  };
  EXPECT_THAT(refusal("/network/precision", "half"), HasSubstr("one of 'double', 'single'"));
  EXPECT_THAT(refusal("/run/ending", "tired"), HasSubstr("'stopped early'"));
  EXPECT_THAT(refusal("/network/roles/0", "glaze"), HasSubstr("'', 'example', 'feature'"));
}

TEST(model_file, names_each_target) {
  const Trained one = trained(glazes);
  Json json = to_json(one.file);
  EXPECT_EQ(json["target"]["names"], Json({"glaze"}));
  json["target"]["names"] = {"glaze", "another"};
  try {
    static_cast<void>(model_from_json(json, "wrong"));
    ADD_FAILURE();
  } catch (const FileError& error) {
    EXPECT_THAT(error.what(), HasSubstr("1 names of targets"));
  }
}

TEST(model_file, of_a_part_of_ones_own_says_that_it_cannot_be_read_back) {
  const OwnLayer own{.word = "mine", .carry_out = [](const Line& x, Pass&) { return tanh(x); }};
  Trained one = trained("[data]\nset = \"kiln\"\n");
  one.file.model.network = Network(Shape{1}, {own, Dense{.outputs = 1}}, Random(1));
  EXPECT_THAT(testing::said([&] { return model_from_json(to_json(one.file), "m"); }),
              HasSubstr("'mine' is not a layer"));
}

}  // namespace
}  // namespace lattice
