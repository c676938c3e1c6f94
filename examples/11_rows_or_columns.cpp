// Lesson 11: examples as rows, or as columns.
//
// Some books put an example in a row and write X·W + b; others put it in a column and write
// W·X + b. Here both, for four glazes, side by side: every table lies the other way, and every
// number is the same. What the library does example by example (softmax, argmax, losses) it does
// along the axis whose role says so.

#include <fmt/core.h>

#include "lattice/lattice.hpp"

using namespace lattice;

namespace {

/// A calculation as far as the loss, and what is needed of it.
struct Written {
  Line scores;
  Line probabilities;
  Line loss;
};

/// An example a row: X [example × feature], W [feature × class], b [class].
Written write_rows(Worksheet& sheet, const Batch& batch, const Tensor& W, const Tensor& b) {
  const Line x = sheet.given("X", batch.features);
  const Line y = sheet.given("y", batch.classes);
  const Line z = named("Z", matmul(x, sheet.weight("W", W)) + sheet.weight("b", b));
  return {z, named("P", softmax(z)), named("loss", cross_entropy(z, y))};
}

/// An example a column: X [feature × example], W [class × feature], b [class × 1].
Written write_columns(Worksheet& sheet, const Batch& batch, const Tensor& W, const Tensor& b) {
  const Line x = sheet.given("X", permute(batch.features, {1, 0}));
  const Line y = sheet.given("y", batch.classes);
  const Line z = named("Z", matmul(sheet.weight("W", W), x) + sheet.weight("b", b));
  return {z, named("P", softmax(z)), named("loss", cross_entropy(z, y))};
}

Tensor turned(const Tensor& table) {
  return permute(table, {1, 0});
}

}  // namespace

int main() {
  Random dealing(1);
  const Split dealt =
      scaled(split(demo_set("glazes"), {.stratified = true}, dealing), ScalingKind::standard);
  const Batch batch = dealt.train.from(0, 3);
  Random random(4);
  const Tensor W = normal({5, 4}, 0.0, 0.5, random).with({Role::feature, Role::class_});
  const Tensor b = normal({4}, 0.0, 0.5, random).with({Role::class_});

  // One minibatch of three, both ways.
  Worksheet rows_sheet;
  Worksheet columns_sheet;
  const Written rows = write_rows(rows_sheet, batch, W, b);
  const Written columns = write_columns(columns_sheet, batch, turned(W), reshape(b, Shape{4, 1}));
  fmt::print("{:>6}  {:<24} {}\n", "", "examples as rows", "as columns");
  for (const char* name : {"X", "W", "b", "Z", "P", "loss"}) {
    fmt::print("{:>6}  {:<24} {}\n", name, to_string(rows_sheet.line(name).shape()),
               to_string(columns_sheet.line(name).shape()));
  }
  fmt::print("\nThe probabilities, a row an example:\n{}\n", rows.probabilities.value());
  fmt::print("and a column an example:\n{}\n", columns.probabilities.value());
  fmt::print("One-hot, as columns:\n{}\n", one_hot(batch.classes, 4, 0));

  // The same numbers, laid the other way.
  const Gradients by_rows = reverse_sweep(rows.loss);
  const Gradients by_columns = reverse_sweep(columns.loss);
  fmt::print("Z, turned,     {}\n", agreement(rows.scores.value(), turned(columns.scores.value())));
  fmt::print("loss           {}\n", agreement(rows.loss.value(), columns.loss.value()));
  fmt::print("∂W, turned,    {}\n", agreement(by_rows["W"], turned(by_columns["W"])));
  fmt::print("∂b, as a row,  {}\n\n", agreement(by_rows["b"], reshape(by_columns["b"], Shape{4})));
  fmt::print("{}\n{}\n\n", explain(rows.scores, {2, 1}), explain(columns.scores, {1, 2}));

  // A hundred steps down, both ways.
  Weights as_rows{{"W", W}, {"b", b}};
  Weights as_columns{{"W", turned(W)}, {"b", reshape(b, Shape{4, 1})}};
  Descent rule{.rate = 0.5};
  Descent other_rule = rule;
  const Batch all = dealt.train.all();
  for (int step = 0; step < 100; ++step) {
    Worksheet sheet;
    update(rule, as_rows, reverse_sweep(write_rows(sheet, all, as_rows["W"], as_rows["b"]).loss));
    Worksheet other;
    update(other_rule, as_columns,
           reverse_sweep(write_columns(other, all, as_columns["W"], as_columns["b"]).loss));
  }
  Worksheet sheet;
  const Batch test = dealt.test.all();
  const Tensor answers =
      argmax(write_columns(sheet, test, as_columns["W"], as_columns["b"]).scores.value());
  fmt::print("After 100 steps W, turned, {}\n", agreement(as_rows["W"], turned(as_columns["W"])));
  fmt::print("Test accuracy, by columns: {:.4f}\n", accuracy(answers, test.classes));
}
