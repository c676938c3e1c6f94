#include <fmt/format.h>
#include <fmt/ranges.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>

#include "support/worked.hpp"

/// What is changed on a page moves all that is made from it: to the numbers of the command.
namespace lattice::testing {
namespace {

using ::testing::HasSubstr;

/// A number of a step that is changed: `hidden.weight[0,1]`.
struct Change {
  std::int64_t step;
  std::string number;
  double value;
};

/// Changes, the command that works the same, and how many steps are taken on the page.
struct Case {
  std::string what;
  std::vector<Change> changes;
  Words command;
  std::int64_t taken = 0;
};

/// What a page shows after each of several changes, see change_page.py.
Json changed_page(const Folder& folder, const std::string& page, const std::vector<Case>& cases) {
  Json list = Json::array();
  for (const Case& each : cases) {
    Json changes = Json::array();
    for (const Change& change : each.changes)
      changes.push_back({change.step, change.number, change.value});
    list.push_back({{"changes", changes}, {"taken", each.taken}});
  }
  const std::string file = folder.file("cases.json", list.dump());
  const Json seen = json_of(run_program(
      "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/change_page.py", page, file}));
  EXPECT_EQ(seen["console"], Json::array());
  return seen["cases"];
}

double number_of(const Json& number) {
  return number.is_number() ? number.get<double>() : std::nan("");
}

/// Every number that a page has is the one of the command, and some moved by the change.
/// @param before the step with nothing changed
void expect_same_step(const Json& tables, const Json& step, const Json& before,
                      const std::string& where) {
  std::size_t moved = 0;
  for (const auto& [name, numbers] : tables.items()) {
    const std::size_t of = name.find(" of ");
    const Json ours = of == std::string::npos
                          ? numbers_of(step, name)
                          : numbers_of(step, name.substr(0, of), name.substr(of + 4));
    if (ours.is_null()) continue;  // settings, and the norm of clipped gradients
    const std::vector<double> expected = flat(ours);
    ASSERT_EQ(numbers.size(), expected.size()) << where << name;
    double largest = 0.0;
    for (const double number : expected)
      largest = std::max(largest, std::abs(number));
    for (std::size_t at = 0; at < expected.size(); ++at) {
      ASSERT_NEAR(number_of(numbers[at]), expected[at], 1e-12 * std::max(1e-3, largest))
          << where << name << " " << at;
      moved += numbers[at] != before[name][at] ? 1U : 0U;
    }
  }
  EXPECT_GT(moved, 0U) << where;
}

/// Each change on the page of a command gives the numbers of the command that has it from the
/// start.
void expect_to_follow(const std::string& of, const Words& command, const std::vector<Case>& cases) {
  const Folder folder;
  const std::string page = folder.path() / "page.html";
  const Answer written = lattice(with(command, {"--html", page}));
  ASSERT_EQ(written.status, 0) << of << written.err;
  std::vector<Case> with_none = {{"nothing", {}, {}, cases.front().taken}};
  with_none.insert(with_none.end(), cases.begin(), cases.end());
  const Json seen = changed_page(folder, page, with_none);
  for (std::size_t at = 0; at < cases.size(); ++at) {
    const std::string where = fmt::format("{}, {}: ", of, cases[at].what);
    const Json& after_change = seen[at + 1];
    EXPECT_EQ(after_change["changes"], cases[at].changes.size()) << where;
    const Json steps = json_of(lattice(with(cases[at].command, {"--json"})))["steps"];
    ASSERT_GE(steps.size(), after_change["steps"].size()) << where;
    for (std::size_t step = 0; step < after_change["steps"].size(); ++step) {
      const std::string number = fmt::format("{}", steps[step].value("step", 0));
      const std::string place = fmt::format("{}step {}: ", where, number);
      expect_same_step(after_change["steps"][number], steps[step], seen[0]["steps"][number], place);
      if (::testing::Test::HasFatalFailure()) return;
      if (!after_change["after"][step].is_null()) {
        EXPECT_NEAR(number_of(after_change["after"][step]), steps[step]["loss_after"].get<double>(),
                    1e-12 * std::max(1.0, std::abs(steps[step]["loss_after"].get<double>())))
            << place;
      }
    }
  }
}

/// Ways to change the start weights of a lesson, and what the command is told to start from.
std::vector<Case> changes_of_weights(const Words& lesson, const std::vector<std::string>& weights) {
  const Json updates = json_of(lattice(with(lesson, {"--json"})))["steps"][0]["updates"];
  std::vector<Case> cases;
  const auto add = [&](const std::string& what, const std::vector<std::string>& of,
                       const std::function<double(double)>& to) {
    Case changed{what, {}, lesson};
    for (const std::string& weight : of) {
      const Json& before = updates[weight]["before"];
      std::vector<double> numbers = flat(before);
      const std::size_t place = numbers.size() - 1;
      numbers[place] = to(numbers[place]);
      std::string index;
      const Json* inner = &before;
      for (; inner->is_array(); inner = &inner->back())
        index += fmt::format("{}{}", index.empty() ? "" : ",", inner->size() - 1);
      changed.changes.push_back({1, fmt::format("{}[{}]", weight, index), numbers[place]});
      changed.command.emplace_back("--start");
      changed.command.push_back(fmt::format("{}={}", weight, fmt::join(numbers, ",")));
    }
    cases.push_back(std::move(changed));
  };
  add("a little more", {weights.front()}, [](double w) { return w + 0.01; });
  add("another sign", {weights.front()}, [](double w) { return -2.0 * w - 0.5; });
  add("much more", {weights.back()}, [](double) { return 5.0; });
  add("zero", {weights.front()}, [](double) { return 0.0; });
  add("all of them", weights, [](double w) { return w - 0.3; });
  return cases;
}

/// A command with another value of a flag that it has.
Words with_other(Words command, const std::string& flag, const std::string& value) {
  const auto found = std::ranges::find(command, flag);
  *(found + 1) = value;
  return command;
}

std::vector<Case> joined(std::vector<Case> cases, const std::vector<Case>& more) {
  cases.insert(cases.end(), more.begin(), more.end());
  return cases;
}

/// A table of six pots, with a number or a class of one pot changed.
std::string pots(const std::string& width = "0.4", const std::string& kind = "cup") {
  return "width,height,kind\n1.2,0.3,cup\n" + width + ",1.5," + kind +
         "\n-0.7,0.2,jug\n0.9,-1.1,pot\n0.1,0.8,jug\n-1.3,-0.4,pot\n";
}

const Words three_steps = {"--steps", "1,2,3"};

// What is made of a large weight is left out of the page, and worked there when it is looked at.
TEST(changes_on_page, of_a_layer_with_many_weights_give_the_numbers_of_the_command) {
  const Words lesson = {"work",    "glazes", "--net",  "dense 4100, tanh, dense 4",
                        "--batch", "6",      "--rate", "0.05"};
  expect_to_follow("a wide layer", lesson,
                   {{"a rate", {{1, "rate", 0.1}}, with_other(lesson, "--rate", "0.1")}});
}

TEST(changes_on_page, are_made_from_the_numbers_of_the_command_in_single_precision_too) {
  const Words lesson = {"work",    "glazes", "--net",       "dense 4100, tanh, dense 4",
                        "--batch", "6",      "--precision", "single"};
  const Folder folder;
  const std::string page = folder.path() / "page.html";
  ASSERT_EQ(lattice(with(lesson, {"--html", page})).status, 0);
  const Json seen = changed_page(folder, page, {{"a rate", {{1, "rate", 0.1}}, {}}});
  const Json step = json_of(lattice(with(lesson, {"--json"})))["steps"][0];
  const Json& tables = seen[0]["steps"]["1"];
  for (const std::string name : {"hidden.weight", "tanh", "∂hidden.weight", "∂tanh"}) {
    const std::vector<double> expected = flat(numbers_of(step, name));
    ASSERT_EQ(tables[name].size(), expected.size()) << name;
    ASSERT_GT(expected.size(), 20'000U) << name;
    for (std::size_t at = 0; at < expected.size(); ++at)
      ASSERT_NEAR(number_of(tables[name][at]), expected[at], 1e-6) << name << " " << at;
  }
}

TEST(changes_on_page, of_a_dense_network_with_a_softmax_give_the_numbers_of_the_command) {
  const Folder folder;
  const std::string file = folder.file("pots.csv", pots());
  const auto lesson = [&](const std::string& data) -> Words {
    return {"work",
            "--file",
            data,
            "--scale",
            "none",
            "--net",
            "dense 3, tanh, dense 3",
            "--batch",
            "2",
            "--seed",
            "4",
            "--rate",
            "0.2",
            "--order",
            "as in the data",
            "--train",
            "6",
            "--validation",
            "0",
            "--test",
            "0"};
  };
  const Words asked = with(lesson(file), three_steps);
  expect_to_follow(
      "softmax", asked,
      joined(changes_of_weights(asked, {"hidden.weight", "output.bias"}),
             {{"a rate", {{1, "rate", 0.7}}, with_other(asked, "--rate", "0.7")},
              {"a number that is given",
               {{1, "x[1,0]", 2.5}},
               with(lesson(folder.file("other.csv", pots("2.5"))), three_steps)},
              {"another true class",
               {{1, "y[1]", 1.0}},
               with(lesson(folder.file("class.csv", pots("0.4", "jug"))), three_steps)},
              {"a score that is far off",
               {{1, "x[1,0]", 20000.0}},
               with(lesson(folder.file("far.csv", pots("20000"))), three_steps)},
              {"two of them at once",
               {{1, "x[1,0]", -0.9}, {1, "rate", 0.05}},
               with_other(with(lesson(folder.file("two.csv", pots("-0.9"))), three_steps), "--rate",
                          "0.05")}}));
}

TEST(changes_on_page, go_on_into_the_steps_that_are_taken_there) {
  const Words lesson = {"work",    "cracks", "--net",  "dense 4, relu, dense 2",
                        "--batch", "8",      "--rule", "adam",
                        "--rate",  "0.05"};
  const Words eleven = with(lesson, {"--steps", "1,2,3,4,5,6,7,8,9,10,11"});
  std::vector<Case> cases = changes_of_weights(eleven, {"hidden.weight", "output.weight"});
  cases.push_back({"a rate", {{1, "rate", 0.01}}, with_other(eleven, "--rate", "0.01")});
  for (Case& each : cases)
    each.taken = 10;
  expect_to_follow("steps taken", lesson, cases);
}

TEST(changes_on_page, of_what_adam_remembers_by_momentum_and_clipped_gradients) {
  const Words small = {"work", "glazes", "--net", "dense 3, sigmoid, dense 4", "--batch", "3"};
  const Words adam = with(small, {"--rule", "adam", "--rate", "0.1", "--steps", "1,2,3"});
  expect_to_follow("adam", adam,
                   joined(changes_of_weights(adam, {"output.weight", "hidden.bias"}),
                          {{"beta 1", {{1, "β1", 0.5}}, with(adam, {"--beta-1", "0.5"})},
                           {"beta 2", {{1, "β2", 0.9}}, with(adam, {"--beta-2", "0.9"})},
                           {"epsilon", {{1, "ε", 0.01}}, with(adam, {"--epsilon", "0.01"})}}));
  const Words clipped = with(small, {"--rule", "momentum", "--momentum", "0.8", "--rate", "0.1",
                                     "--clip-norm", "0.4", "--steps", "1,2,3"});
  expect_to_follow(
      "momentum", clipped,
      joined(changes_of_weights(clipped, {"hidden.weight", "output.bias"}),
             {{"clip norm", {{1, "clip_norm", 0.1}}, with_other(clipped, "--clip-norm", "0.1")},
              {"rate", {{1, "rate", 1.0}}, with_other(clipped, "--rate", "1")}}));
  const Words rms = with(small, {"--rule", "rms", "--rate", "0.1", "--steps", "1,2,3", "--schedule",
                                 "exponential 0.5", "--l2", "0.1"});
  expect_to_follow("rms", rms,
                   joined(changes_of_weights(rms, {"output.weight"}),
                          {{"rate", {{1, "rate", 0.03}}, with_other(rms, "--rate", "0.03")},
                           {"decay", {{1, "decay", 0.7}}, with(rms, {"--decay", "0.7"})}}));
}

TEST(changes_on_page, keep_the_masks_of_dropout) {
  const Words lesson = {"work",    "glazes", "--net",   "dense 6, relu, dropout 0.5, dense 4",
                        "--batch", "4",      "--steps", "1,2"};
  expect_to_follow("dropout", lesson,
                   changes_of_weights(lesson, {"hidden.weight", "output.weight"}));
}

TEST(changes_on_page, of_a_convolution_move_the_winners_of_its_windows) {
  const Words lesson = {
      "work",    "stamps",  "--rows", "60",    "--resize",
      "8x8",     "--batch", "3",      "--net", "conv 2 of 3x3, maximum 2, flatten, dense 8",
      "--steps", "1,2"};
  expect_to_follow("convolution", lesson,
                   changes_of_weights(lesson, {"conv.kernel", "output.weight"}));
}

TEST(changes_on_page, of_normalised_and_residual_layers) {
  const Words normalised = {"work",    "glazes", "--net",   "dense 4, normalise, relu, dense 4",
                            "--batch", "5",      "--steps", "1,2"};
  expect_to_follow("normalised", normalised,
                   changes_of_weights(normalised, {"hidden.weight", "output.bias"}));
  const Words residual = {
      "work",    "glazes", "--net",   "dense 4, tanh, residual (dense 4, tanh), dense 4",
      "--batch", "3",      "--steps", "1,2"};
  expect_to_follow("residual", residual,
                   changes_of_weights(residual, {"hidden.weight", "output.weight"}));
}

TEST(changes_on_page, of_a_graph_of_an_edge_and_of_a_weight) {
  const Folder folder;
  const std::string nodes = folder.file(
      "nodes.csv", "name,guild\nAda,hill\nBo,river\nCy,hill\nDot,river\nEve,hill\nFlo,river\n");
  const std::string edges = "Ada,Cy\nCy,Eve\nBo,Dot\nDot,Flo\n";
  const auto lesson = [&](const std::string& file, const std::string& all_edges) -> Words {
    return {"work",
            "--file",
            nodes,
            "--edges",
            folder.file(file, all_edges),
            "--target",
            "guild",
            "--known",
            "1",
            "--net",
            "neighbours, dense 3, tanh, neighbours, dense 2",
            "--steps",
            "1,2"};
  };
  const Words plain = lesson("plain.csv", edges);
  expect_to_follow("graph", plain,
                   joined(changes_of_weights(plain, {"hidden.weight", "output.weight"}),
                          {{"an edge",
                            {{1, "A[0,1]", 1.0}, {1, "A[1,0]", 1.0}},
                            lesson("more.csv", edges + "Ada,Bo\n")}}));
}

TEST(changes_on_page, of_a_regression_and_of_a_class_or_the_other) {
  const Words line = {"work", "shrinkage", "--net", "dense 1", "--batch", "4", "--steps", "1,2,3"};
  expect_to_follow("regression", line, changes_of_weights(line, {"output.weight", "output.bias"}));
  const Words binary = {"work",    "cracks", "--net",  "dense 3, tanh, dense 1",
                        "--batch", "4",      "--loss", "binary cross-entropy",
                        "--steps", "1,2"};
  expect_to_follow("binary", binary,
                   changes_of_weights(binary, {"hidden.weight", "output.weight"}));
}

TEST(changes_on_page, of_the_answers_of_a_model_follow_the_record) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice({"train", "--file", folder.file("pots.csv", pots()), "--scale", "none", "--net",
                     "dense 3, tanh, dense 3", "--epochs", "5", "--rate", "0.5", "--train", "6",
                     "--validation", "0", "--test", "0", "--save", model})
                .status,
            0);
  const auto work = [&](const std::string& record) -> Words {
    return {"work", model, "--record", record};
  };
  expect_to_follow("answer", work("0.3,0.9"),
                   {{"a little", {{0, "x[0,0]", 0.5}}, work("0.5,0.9")},
                    {"to another answer", {{0, "x[0,1]", -3.0}}, work("0.3,-3")},
                    {"both", {{0, "x[0,0]", -1.5}, {0, "x[0,1]", 4.0}}, work("-1.5,4")}});
}

TEST(changes_on_page, of_a_sheet_from_text) {
  const Folder folder;
  const auto sheet = [&](const std::string& name, const std::string& x, const std::string& w) {
    return folder.file(name, "given x = [[1, " + x +
                                 "], [0.5, 2]]\ngiven y = [0, 1]\nweight W = [[" + w +
                                 ", -0.3], [0.7, 0.1]]\nz = x·W\nloss = cross_entropy(z, y)\n");
  };
  const auto work = [&](const std::string& file, const std::string& rate) -> Words {
    return {"work", file, "--rule", "descent", "--rate", rate, "--steps", "1,2"};
  };
  const std::string plain = sheet("plain.sheet", "3", "0.2");
  expect_to_follow("sheet", work(plain, "0.5"),
                   {{"data", {{1, "x[0,1]", -1.0}}, work(sheet("x.sheet", "-1", "0.2"), "0.5")},
                    {"a weight", {{1, "W[0,0]", 4.0}}, work(sheet("w.sheet", "3", "4"), "0.5")},
                    {"a rate", {{1, "rate", 2.0}}, work(plain, "2")}});
}

}  // namespace
}  // namespace lattice::testing
