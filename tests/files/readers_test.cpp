#include "../fuzz/readers.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "lattice/lattice.hpp"
#include "lattice/lessons/lesson.hpp"
#include "lattice/lessons/model_file.hpp"
#include "support/command.hpp"
#include "support/said.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;

constexpr const char* seeds = LATTICE_SOURCE "/fuzz/seeds";

std::string model_seed(const std::string& name) {
  return content_of(std::filesystem::path(seeds) / "model_json" / name);
}

/// What a reader answers to bytes.
template <class Read>
std::string said_by(Read read, std::string_view bytes) {
  return testing::said([&] { return read(bytes); });
}

std::string said_of_model(const std::string& json) {
  return said_by([](std::string_view bytes) { return model_from_json(parse_json(bytes), "model"); },
                 json);
}

// What was found by feeding, and what is worth feeding.
TEST(readers, come_to_an_end_with_every_seed) {
  std::size_t given = 0;
  for (const fuzz::Reader& reader : fuzz::readers()) {
    for (const auto& seed :
         std::filesystem::directory_iterator(std::filesystem::path(seeds) / reader.name)) {
      SCOPED_TRACE(seed.path());
      fuzz::give(reader, content_of(seed.path()));
      ++given;
    }
  }
  EXPECT_GT(given, 20U);
}

TEST(seeds, of_whole_model_files_are_of_the_version_that_is_read) {
  for (const char* folder : {"model_json", "model_cbor"}) {
    for (const auto& entry :
         std::filesystem::directory_iterator(std::filesystem::path(seeds) / folder)) {
      if (entry.path().extension() == ".json") continue;  // those are wrong on purpose
      EXPECT_NO_THROW(static_cast<void>(load_model(entry.path()))) << entry.path();
    }
  }
}

TEST(readers, say_how_deep_they_go) {
  const auto blueprint_in = [](std::string_view text) { return parse_blueprint(text); };
  constexpr std::size_t depth = 175'000;
  EXPECT_THAT(said_by(parse_json, std::string(depth, '[')), HasSubstr("up to 64"));
  EXPECT_THAT(said_by(parse_cbor, std::string(depth, '\x81')), HasSubstr("up to 64"));
  EXPECT_EQ(said_by(parse_json, std::string(64, '[') + std::string(64, ']')), "nothing");
  EXPECT_THAT(said_by(parse_json, std::string(65, '[') + std::string(65, ']')),
              HasSubstr("up to 64"));

  const auto lesson = [](std::string_view text) { return parse_lesson(text, "lesson"); };
  std::string key;
  for (int at = 0; at < 30'000; ++at)
    key += "a.";
  for (const std::string& text : {key + "a = 1", "[" + key + "a]", "x = {" + key + "a = 1}"})
    EXPECT_THAT(said_by(lesson, "seed = 1\n" + text), HasSubstr("lesson, line 2"));
  EXPECT_THAT(said_by(lesson, "x = " + std::string(30'000, '[')), HasSubstr("is not TOML"));
  EXPECT_EQ(said_by(lesson, "title = \"" + std::string(200, '.') + "\""), "nothing");

  std::string blueprint;
  for (int at = 0; at < 10'000; ++at)
    blueprint += "residual(";
  EXPECT_THAT(said_by(blueprint_in, blueprint), HasSubstr("up to 50"));
  const std::string deep = "residual(residual(dense 2))";
  EXPECT_EQ(said_by(blueprint_in, deep), "nothing");
}

TEST(readers, use_words_of_their_own) {
  EXPECT_EQ(said_by(parse_json, R"({"a": 1e999})"),
            "this is not JSON\n  expected: a whole JSON document\n  found:    a number that is too "
            "large");
  EXPECT_THAT(said_by(parse_json, R"({"a": 1,})"), HasSubstr("byte 9"));
  EXPECT_THAT(said_by(parse_cbor, "\x9b\xff\xff\xff\xff\xff\xff\xff\xff"), HasSubstr("CBOR"));
}

TEST(model_files, cannot_ask_for_more_than_they_hold) {
  EXPECT_THAT(said_of_model(model_seed("claims_much.json")), HasSubstr("16000"));
  EXPECT_THAT(said_of_model(model_seed("random_zero.json")), HasSubstr("not all 0"));
  EXPECT_THAT(said_of_model(model_seed("one_class.json")), HasSubstr("target.classes"));
  EXPECT_THAT(said_of_model(model_seed("half_update.json")),
              HasSubstr("a whole number, 0 or more"));
  EXPECT_THAT(said_of_model(model_seed("negative_extent.json")),
              HasSubstr("a whole number, 1 or more"));
  EXPECT_EQ(said_of_model(model_seed("cracks.lattice")), "nothing");

  nlohmann::json model = nlohmann::json::parse(model_seed("cracks.lattice"));
  const auto with = [&](const char* place, const nlohmann::json& value) {
    nlohmann::json changed = model;
    changed[nlohmann::json::json_pointer(place)] = value;
    return said_of_model(changed.dump());
  };
  EXPECT_THAT(with("/network/updates", 1.8446744073709552e19), HasSubstr("a whole number"));
  EXPECT_THAT(with("/network/updates", std::uint64_t{1} << 63U), HasSubstr("a whole number"));
  EXPECT_THAT(with("/resume/first_rate", "NaN"), HasSubstr("a number above 0"));
  EXPECT_THAT(with("/resume/rule/settings/rate", -1.0), HasSubstr("rate"));
  EXPECT_THAT(with("/lesson", "a text"), HasSubstr("an object"));
  EXPECT_THAT(with("/resume/rule/memory", 7), HasSubstr("an object"));
  EXPECT_THAT(with("/target/names/0", "a\x1b[31m"), HasSubstr("U+001B"));
  EXPECT_THAT(with("/columns/0/name", std::string("a\0b", 3)), HasSubstr("U+0000"));
  EXPECT_THAT(with("/target/classes/0", 7), HasSubstr("a text"));
}

TEST(model_files, are_refused_where_their_graph_is_none) {
  const nlohmann::json studios = nlohmann::json::parse(model_seed("studios.lattice"));
  const auto with = [&](const char* place, const nlohmann::json& value) {
    nlohmann::json changed = studios;
    changed[nlohmann::json::json_pointer(place)] = value;
    return said_of_model(changed.dump());
  };
  EXPECT_THAT(with("/graph/nodes", 1'000'000'000'000), HasSubstr("this many features"));
  EXPECT_THAT(with("/graph/edges/0", nlohmann::json::array({0, 99})), HasSubstr("0 to 7"));
  EXPECT_THAT(with("/graph/edges/0", nlohmann::json::array({0})), HasSubstr("two nodes"));
  EXPECT_THAT(with("/graph/edges/0", nlohmann::json::array({0, 1, -1})), HasSubstr("above 0"));
  EXPECT_THAT(with("/graph/names/0", studios["graph"]["names"][1]), HasSubstr("a name of its own"));
  EXPECT_THAT(with("/graph/names", nlohmann::json::array({"Ada"})), HasSubstr("8 names"));
  EXPECT_THAT(with("/graph/directed", 3), HasSubstr("true or false"));
  EXPECT_THAT(with("/graph/features", nlohmann::json::array({nlohmann::json::array({1, 2})})),
              HasSubstr("numbers of the shape"));
  nlohmann::json wide = studios;
  wide["graph"]["nodes"] = 50'000'000;
  wide["graph"]["names"] = nullptr;
  wide["network"] = {{"blueprint", "neighbours"},
                     {"example", {50'000'000}},
                     {"roles", {"feature"}},
                     {"precision", "double"},
                     {"updates", 0},
                     {"weights", nlohmann::json::object()},
                     {"frozen", nlohmann::json::array()},
                     {"rate_multipliers", nlohmann::json::object()}};
  EXPECT_THAT(said_of_model(wide.dump()), HasSubstr("columns that make 50000000 features"));
}

TEST(model_files, keep_numbers_that_json_has_no_word_for) {
  const Folder folder;
  const std::string path = folder.path() / "a.lattice";
  ASSERT_EQ(lattice({"train", "kiln", "--rows", "20", "--epochs", "1", "--save", path}).status, 0);
  ModelFile file = load_model(path);
  const double infinity = std::numeric_limits<double>::infinity();
  file.model.network.set("output.weight", tensor({{-infinity}}));
  file.model.network.set("output.bias", tensor({std::nan("")}));
  file.run.epochs.back().train->loss = infinity;
  file.run.epochs.front().train.reset();
  file.run.epochs.back().validation->confusion = tensor({{3, 1}, {0, 2}});
  file.run.epochs.back().learning_seconds = 1.5;
  file.run.judged_train_rows = 7;
  file.run.steps = {
      {.step = 1, .epoch = 1, .minibatch = {.loss = 2}, .running = Figures{.loss = 3}}};
  for (const ModelFormat format : {ModelFormat::json, ModelFormat::cbor}) {
    save_model(path, file, format);
    const ModelFile again = load_model(path);
    EXPECT_EQ(again.model.network["output.weight"].at_offset(0), -infinity);
    EXPECT_TRUE(std::isnan(again.model.network["output.bias"].at_offset(0)));
    EXPECT_EQ(again.run.epochs.back().train->loss, infinity);
    EXPECT_FALSE(again.run.epochs.front().train.has_value());
    EXPECT_EQ(*again.run.epochs.back().validation->confusion, tensor({{3, 1}, {0, 2}}));
    EXPECT_EQ(again.run.epochs.back().learning_seconds, 1.5);
    EXPECT_EQ(again.run.judged_train_rows, 7);
    EXPECT_EQ(again.run.steps.front().running->loss, 3.0);
  }
  save_model(path, file);
  EXPECT_EQ(
      run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/check_schema.py",
                                       LATTICE_SOURCE "/docs/schemas/model.schema.json", path})
          .status,
      0);
}

}  // namespace
}  // namespace lattice::testing
