// Lesson 2: a walk through a record and back.
//
// Will a pot crack? Two measurements of each pot, two hidden units, one score. We write the forward
// pass down, look at the record, then walk it backward one line at a time: the gradient of a line,
// and what it passes on. At the end one gradient is derived by hand and put beside the engine's,
// and all of them beside central differences. With the name of a folder, the walk is put there as a
// page.

#include <fmt/core.h>

#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/show/page.hpp"

using namespace lattice;

/// The pots: moisture and wall thickness, both already brought to a common size; 1 means cracked.
const Tensor pots =
    tensor({{0.8, 1.2}, {-0.5, 0.4}, {-1.1, -0.9}}).with({Role::example, Role::feature});
const Tensor cracked = tensor({{1}, {0}, {0}}).with({Role::example, Role::unit});

/// One line of the record: its number, how it was made, its value.
void show(const Line& line) {
  const std::string symbols = line.symbols();
  fmt::print("{:>2}  {}{}\n{}\n", line.number(), line.name(),
             symbols.empty() ? fmt::format(", {}", line.operation()) : " = " + symbols,
             line.value());
}

/// One step of the walk back: the gradient of a line, and what is passed to each input.
void show(const ReverseStep& step) {
  fmt::print("line {}, {}: gradient\n{}", step.line.number(), step.line.name(), step.gradient);
  for (const ReverseStep::PassedOn& passed : step.passed_on) {
    fmt::print("passed on to {}: {}\n{}", passed.to.name(), step.line.reverse_symbols(passed.input),
               passed.contribution);
  }
  if (step.passed_on.empty()) fmt::print("a weight: here the walk ends\n");
  fmt::print("\n");
}

int main(int count, char** arguments) {
  // Forward. Every line remembers how it was made.
  Worksheet sheet;
  sheet.section("data");
  const Line x = sheet.given("x", pots);
  const Line y = sheet.given("y", cracked);
  sheet.section("hidden layer");
  const Line W = sheet.weight("W", tensor({{0.5, -0.3}, {0.2, 0.4}}));
  const Line a = named("a", matmul(x, W));
  const Line h = named("h", tanh(a));
  sheet.section("score");
  const Line V = sheet.weight("V", tensor({{1.0}, {-0.5}}));
  const Line s = named("s", matmul(h, V));
  sheet.section("cost");
  const Line cost = named("cost", binary_cross_entropy(s, y));

  fmt::print("Forward: {} lines\n\n", sheet.size());
  for (const Line& line : sheet.lines())
    show(line);

  // Back, one line at a time. next() is false when no line is left.
  fmt::print("Back: ∂ is short for how the cost changes with it\n\n");
  ReverseSweep sweep(cost);
  int steps = 0;
  while (sweep.next()) {
    ++steps;
    show(sweep.step());
  }
  fmt::print("{} steps\n\n", steps);

  // One can also go forward again, to look at a step a second time.
  sweep.previous();
  sweep.previous();
  fmt::print("Two steps forward again: we stand at {}\n\n", sweep.step().line.name());
  while (sweep.next()) {
  }

  // By hand: ∂cost/∂s is (sigmoid(s) − y)/3, and V gets hᵀ times that. Here the third was
  // forgotten.
  const Tensor forgotten = matmul(transpose(h.value()), sigmoid(s.value()) - y.value());
  fmt::print("∂V by hand, first try:  {}\n", agreement(forgotten, sweep, V));
  fmt::print("∂V by hand, second try: {}\n\n", agreement(forgotten / 3, sweep, V));

  // Where does the gradient of one weight come from? And the numbers it is made of?
  fmt::print("{}\n\n",
             explain_further(explain_gradient(sweep, W, {1, 0}), sheet, &sweep, 1).text());

  // All of them, beside what really happens when a weight is moved a little.
  const GradientCheck check = check_gradients(cost);
  for (const GradientCheck::Weight& weight : check.weights) {
    fmt::print("{}: {} numbers moved, largest error {:.0e}, {}\n", weight.name, weight.checked,
               weight.error, weight.agrees ? "agrees" : "differs");
  }

  if (count > 1) {
    write_page(std::filesystem::path(arguments[1]) / "a_walk_back.html",
               work_sheet(std::move(sheet), cost,
                          {.title = "Will a pot crack?",
                           .names = {.features = {"moisture", "wall"}},
                           .rule = Descent{.rate = 0.5}}));
  }
  return check.agrees() ? 0 : 1;
}
