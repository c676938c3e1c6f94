#include "lattice/files/json.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <limits>
#include <nlohmann/json.hpp>

#include "lattice/lattice.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

TEST(json, has_tensors_as_nested_arrays_in_full) {
  EXPECT_EQ(to_json(tensor({{1, 0.1}, {1.0 / 3.0, -4}})).dump(),
            "[[1.0,0.1],[0.3333333333333333,-4.0]]");
  EXPECT_EQ(to_json(tensor(2.5)).dump(), "2.5");
  EXPECT_EQ(to_json(Shape{2, 3}).dump(), "[2,3]");
  EXPECT_EQ(to_json(Shape{}).dump(), "[]");
  EXPECT_EQ(to_json(tensor({std::numeric_limits<double>::infinity()})).dump(), "[null]");
}

TEST(json, is_the_same_after_it_was_text_or_bytes) {
  const Json json = {{"z", 0.1}, {"a", {1, 2.5, nullptr}}, {"wörter", "∂W"}};
  EXPECT_EQ(json_text(json), R"({"z":0.1,"a":[1,2.5,null],"wörter":"∂W"})");
  EXPECT_EQ(json_text(Json::array({1}), 2), "[\n  1\n]");
  EXPECT_EQ(parse_json(json_text(json)), json);
  EXPECT_EQ(parse_cbor(to_cbor(json)), json);
  EXPECT_LT(to_cbor(json).size(), json_text(json).size());
  EXPECT_EQ(json_text("a\xff"), "\"a\uFFFD\"");
}

TEST(json, that_breaks_off_is_refused_with_the_place) {
  const auto trouble_of = [](const auto& read) -> std::string {
    return testing::said<FileError>([&] { read(); });
  };
  EXPECT_THAT(trouble_of([] { return parse_json(R"({"a": )"); }),
              ::testing::AllOf(::testing::HasSubstr("this is not JSON"),
                               ::testing::HasSubstr("breaks off at byte 7")));
  EXPECT_THAT(trouble_of([] { return parse_json(""); }), ::testing::HasSubstr("byte 1"));
  const std::string bytes = to_cbor({{"a", 1}});
  EXPECT_THAT(trouble_of([&] { return parse_cbor(bytes.substr(0, 2)); }),
              ::testing::HasSubstr("this is not CBOR"));
}

TEST(json, has_every_line_and_every_reverse_step_of_a_worked_example) {
  const Dataset kiln = demo_set("kiln");
  const WorkedMinibatch example(Network(Shape{1}, "dense 1", Random(1)), RowSet(kiln, {5, 2}).all(),
                                Descent{.rate = 0.02});
  const Json json = to_json(example);
  EXPECT_EQ(json["rows"].dump(), "[5,2]");
  ASSERT_EQ(json["lines"].size(), example.sheet().size());
  const Json& x = json["lines"][0];
  EXPECT_EQ(x["name"], "x");
  EXPECT_EQ(x["roles"].dump(), R"(["example","feature"])");
  EXPECT_EQ(x["values"].size(), 2U);
  EXPECT_EQ(json["lines"][4]["inputs"].dump(), "[1,3,4]");
  ASSERT_EQ(json["reverse"].size(), example.reverse_steps().size());
  const Json& z = json["reverse"][4];
  EXPECT_EQ(z["name"], "output");
  EXPECT_EQ(z["passed_on"][1]["to"], "output.bias");
  EXPECT_EQ(z["passed_on"][1]["symbols"], "Σ(example) ∂output");
  EXPECT_EQ(z["passed_on"][1]["local_derivative"].dump(), R"({"everywhere":1.0})");
  EXPECT_EQ(z["passed_on"][0]["local_derivative"].dump(), R"({"matrix":"x","transposed":true})");
  EXPECT_EQ(json["loss_before"], example.loss_before());
  EXPECT_EQ(json["loss_after"], example.loss_after());
}

TEST(json, has_explanations_that_another_program_can_check) {
  Worksheet sheet;
  const Line x = sheet.given("x", tensor({1.0 / 3.0}));
  const Line y = named("y", x * 3 - 0.5);
  const Json json = to_json(explain(y, {0}));
  EXPECT_EQ(json["formula"], "x[0]·3 − 0.5");
  EXPECT_EQ(json["filled_in"], "0.3333333333333333·3 − 0.5");
  EXPECT_EQ(json["value"], 0.5);
  EXPECT_EQ(json["evaluates_to"], 0.5);
  const Json given = to_json(explain(x, {0}));
  EXPECT_TRUE(given.contains("note"));
  EXPECT_FALSE(given.contains("formula"));
}

TEST(json, has_the_figures_of_a_run) {
  RunRecord run{.epochs = {{.epoch = 0, .train = Figures{.loss = 5}},
                           {.epoch = 1,
                            .updates = 7,
                            .running = Figures{.loss = 4, .accuracy = 0.25},
                            .train = Figures{.loss = 3, .accuracy = 0.5},
                            .validation = Figures{.loss = 2},
                            .rate = 0.1}},
                .steps = {{.step = 7,
                           .epoch = 1,
                           .minibatch = {.loss = 2.5, .accuracy = 1},
                           .watched = Figures{.loss = 2}}},
                .rate_changes = {{.epoch = 1, .before = 0.2, .after = 0.1}},
                .joins = {1},
                .updates = 7};
  run.best = BestWeights{.epoch = 1, .loss = 2};
  const Json json = to_json(run);
  EXPECT_TRUE(json["epochs"][0]["running_loss"].is_null());
  EXPECT_EQ(json["epochs"][1]["running_loss"], 4.0);
  EXPECT_EQ(json["epochs"][1]["running_accuracy"], 0.25);
  EXPECT_EQ(json["epochs"][1]["updates"], 7);
  EXPECT_EQ(json["epochs"][1]["train"].dump(), R"({"loss":3.0,"accuracy":0.5})");
  EXPECT_EQ(json["epochs"][1]["validation"].dump(), R"({"loss":2.0})");
  EXPECT_EQ(json["steps"][0].dump(),
            R"({"step":7,"epoch":1,"loss":2.5,"accuracy":1.0,"watched":{"loss":2.0}})");
  run.steps[0].running = Figures{.loss = 3};
  EXPECT_EQ(to_json(run)["steps"][0]["running"].dump(), R"({"loss":3.0})");
  Figures figures{.loss = 2};
  figures.confusion = tensor({{3, 1}, {0, 0}});
  run.epochs[1].validation = figures;
  run.epochs[1].train.reset();
  run.judged_train_rows = 0;
  const Json more = to_json(run);
  EXPECT_EQ(more["epochs"][1]["validation"].dump(),
            R"({"loss":2.0,"confusion":[[3.0,1.0],[0.0,0.0]],"recall":[0.75,null]})");
  EXPECT_FALSE(more["epochs"][1].contains("train"));
  EXPECT_EQ(more["judged_train_rows"], 0);
  EXPECT_EQ(json["rate_changes"][0].dump(), R"({"epoch":1,"before":0.2,"after":0.1})");
  EXPECT_EQ(json["joins"].dump(), "[1]");
  EXPECT_EQ(json["ending"], "all epochs");
  EXPECT_EQ(json["best"]["epoch"], 1);
}

TEST(json, has_a_plan_part_by_part) {
  const Json json = to_json(Network(Shape{5}, "dense 8, tanh, dense 4", Random(1)).plan());
  EXPECT_EQ(json["weights"], 84);
  EXPECT_EQ(json["layers"][0]["weights"]["hidden.weight"]["shape"].dump(), "[5,8]");
  EXPECT_EQ(json["layers"][1]["count"], 0);
  EXPECT_EQ(json["outputs"].dump(), "[4]");
  EXPECT_FALSE(json["layers"][0].contains("inside"));
  const Json inside = to_json(
      Network(Shape{5}, "residual(tanh, dense 5)", Random(1)).plan())["layers"][0]["inside"];
  ASSERT_EQ(inside.size(), 2U);
  EXPECT_EQ(inside[1]["name"], "residual.hidden");
  EXPECT_EQ(inside[1]["count"], 30);
}

TEST(json, of_a_chain_holds_the_explanations_below) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({{1, 2}}));
  const Line p = named("p", softmax(w));
  const Line cost = named("cost", sum(square(p)));
  const Json json = to_json(explain_further(explain(cost, {}), sheet, nullptr, 1));
  EXPECT_EQ(json["subject"], "cost");
  ASSERT_EQ(json["because"].size(), 2U);
  EXPECT_EQ(json["because"][1]["subject"], "p[0,1]");
  EXPECT_EQ(json["because"][1]["with"]["m"], "max(w[0,0], w[0,1])");
  EXPECT_FALSE(json["because"][1].contains("because"));
}

TEST(json, of_a_gradient_check_has_every_weight) {
  Worksheet sheet;
  const Line w = sheet.weight("w", tensor({{1, 2}, {3, 4}}));
  const Json json = to_json(check_gradients(sum(square(w))));
  EXPECT_EQ(json["agrees"], true);
  EXPECT_EQ(json["weights"]["w"]["checked"], 4);
  EXPECT_EQ(json["weights"]["w"]["shape"], Json({2, 2}));
  EXPECT_EQ(json["weights"]["w"]["worst"].size(), 2U);
  EXPECT_EQ(json["tolerance"], 1e-6);
}

}  // namespace
}  // namespace lattice
