#include "worksheet/explainer.hpp"

#include <gtest/gtest.h>

#include <string>

#include "lattice/core.hpp"

namespace lattice {
namespace {

const Notation in_full{.longest_sum = std::string::npos};

/// Numbers asked of one explainer, from the first to the last and back, have the formulas that each
/// has when it is asked for alone.
void expect_same_as_alone(const Worksheet& sheet, const ReverseSweep& sweep) {
  Explainer together(sweep.result(), &sweep);
  for (const bool backward : {false, true}) {
    for (std::size_t number = 1; number <= sheet.lines().size(); ++number) {
      const Line line = sheet.line(backward ? sheet.lines().size() + 1 - number : number);
      const Shape& shape = line.shape();
      for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
        const Index at = shape.index(backward ? shape.count() - 1 - offset : offset);
        EXPECT_EQ(together.value(line, at).formula.text(in_full),
                  explain(line, at).formula.text(in_full));
        if (!sweep.has_reached(line)) continue;
        EXPECT_EQ(together.gradient(line, at).formula.text(in_full),
                  explain_gradient(sweep, line, at).formula.text(in_full));
      }
    }
  }
}

TEST(explainer, gives_many_numbers_the_formulas_that_each_has_alone) {
  Random random(5);
  Worksheet sheet;
  const Line x = sheet.weight("x", normal({2, 3}, 0.0, 1.0, random));
  // Deeper than lines without a name are written out.
  Line h = x;
  for (int depth = 0; depth < 3; ++depth)
    h = tanh(h - mean(h, {.axes = {1}, .keep = true}));
  const Line spread = named("spread", variance(h, {.axes = {1}, .keep = true}));
  const Line shares = softmax(h / sqrt(spread + 0.1));
  const Line loss =
      named("loss", sum(log_softmax(shares) * max(shares, {.axes = {1}, .keep = true})));
  ReverseSweep sweep(loss);
  while (sweep.next()) {
  }
  expect_same_as_alone(sheet, sweep);
}

TEST(explainer, writes_out_as_much_as_alone_where_a_formula_becomes_too_long) {
  Random random(6);
  Worksheet sheet;
  const Line x = sheet.weight("x", normal({150}, 0.0, 1.0, random));
  const Line away = x - mean(x);
  const Line loss = named("loss", mean(square(away)) + sum(away));
  ReverseSweep sweep(loss);
  while (sweep.next()) {
  }
  Explainer together(loss, &sweep);
  for (std::int64_t at = 0; at < 150; ++at)
    static_cast<void>(together.value(away, {at}));
  EXPECT_EQ(together.value(loss, {}).formula.text(in_full),
            explain(loss, {}).formula.text(in_full));
  EXPECT_EQ(together.value(loss, {}).formula.evaluate(), explain(loss, {}).formula.evaluate());
}

}  // namespace
}  // namespace lattice
