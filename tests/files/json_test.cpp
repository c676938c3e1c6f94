#include "lattice/files/json.hpp"

#include <gtest/gtest.h>

#include <limits>

#include "lattice/lattice.hpp"

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

TEST(json, has_every_line_and_every_reverse_step_of_a_worked_example) {
  const Dataset kiln = demo_set("kiln");
  Random random(1);
  const LinearModel model = LinearModel::start(kiln, random);
  const WorkedExample example(
      [](Worksheet& sheet, const Weights& weights, const Batch& batch) {
        return LinearModel{weights, {}}.write_down(sheet, batch);
      },
      model.weights, take_rows(kiln, {5, 2}), Descent{.rate = 0.02});
  const Json json = to_json(example);
  EXPECT_EQ(json["rows"].dump(), "[5,2]");
  ASSERT_EQ(json["lines"].size(), example.sheet().size());
  const Json& x = json["lines"][0];
  EXPECT_EQ(x["name"], "x");
  EXPECT_EQ(x["roles"].dump(), R"(["example","feature"])");
  EXPECT_EQ(x["values"].size(), 2U);
  EXPECT_EQ(json["lines"][4]["inputs"].dump(), "[1,3]");
  ASSERT_EQ(json["reverse"].size(), example.reverse_steps().size());
  const Json& z = json["reverse"][4];
  EXPECT_EQ(z["name"], "z");
  EXPECT_EQ(z["passed_on"][1]["to"], "b");
  EXPECT_EQ(z["passed_on"][1]["symbols"], "Σ(example) ∂z");
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

TEST(json, has_the_figures_of_a_run_and_no_clock) {
  const RunRecord run{.epochs = {{.epoch = 0, .running_cost = 0, .whole_cost = 5},
                                 {.epoch = 1, .running_cost = 4, .whole_cost = 3}},
                      .seconds = 12};
  EXPECT_EQ(to_json(run).dump(), R"({"epochs":[{"epoch":0,"whole_cost":5.0},)"
                                 R"({"epoch":1,"running_cost":4.0,"whole_cost":3.0}]})");
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
