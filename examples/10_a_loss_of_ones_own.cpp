// Lesson 10: a custom loss.
//
// Three readings of the kiln were written down wrongly. A squared loss follows them; a custom loss,
// which grows like the size of a large error and not like its square, hardly does. First without a
// derivative, then with a derivative by hand, which is checked; and with a wrong one, which the
// check finds.

#include <fmt/core.h>

#include "lattice/lattice.hpp"

using namespace lattice;

namespace {

/// A kiln whose thermometer was misread three times.
Dataset misread_kiln() {
  Dataset kiln = demo_set("kiln", 60, 1);
  for (const std::int64_t row : {7, 23, 41})
    kiln.targets.set({row, 0}, 4.0 * kiln.targets.at({row, 0}));
  return kiln;
}

/// The line that a loss finds, in minutes and degrees.
std::string line_by(const Loss& loss, const Split& dealt) {
  Network net(Shape{1}, "dense 1", Random(1));
  static_cast<void>(train(net, dealt, {.rule = Adam{.rate = 0.05}, .epochs = 200, .loss = loss}));
  return raw_forms(model_of(net, loss, dealt.train)).front().text(4);
}

/// A minibatch worked by a loss: the gradient of the slope, and whether differences agree with it.
void work(const std::string& title, const OwnLoss& loss, const Split& dealt) {
  const Network net(Shape{1}, "dense 1", Random(1));
  const WorkedMinibatch work(net, dealt.train.from(0, 8), Descent{}, {.loss = loss});
  const Line slope = work.sheet().line("output.weight");
  fmt::print("{:<28} {:.6f}, and finite differences {}\n", title,
             work.sweep().gradient(slope).number(),
             work.check().agrees() ? "agree" : "do not agree");
}

}  // namespace

int main() {
  Random dealing(1);
  const Split dealt = scaled(split(misread_kiln(), {.validation = 0.0, .test = 0.0}, dealing),
                             ScalingKind::standard, ScalingKind::standard);

  // √(1 + e²) − 1: half of e² where e is small, and its size where it is large.
  const OwnLoss smooth{.word = "smooth error", .lost = [](const Line& outputs, const Line& truth) {
                         return sqrt(1 + square(5 * (outputs - truth))) - 1;
                       }};
  fmt::print("What the readings follow, but for noise: {}\n", demo_set_called("kiln").law->text(4));
  fmt::print("  by half the mean square: {}\n", line_by(Loss::half_mean_squared, dealt));
  fmt::print("  by the smooth error:     {}\n\n", line_by(smooth, dealt));

  // The same with a derivative on paper: 25·(z − t)/(loss + 1). The engine takes it at its word;
  // finite differences do not.
  const auto value = [](auto z, auto t) { return sqrt(1 + square(5 * (z - t))) - 1; };
  const OwnLoss on_paper{.word = "smooth error",
                         .lost = own_comparison("smooth", value, [](auto z, auto t, auto lost) {
                           return 25 * (z - t) / (lost + 1);
                         })};
  const OwnLoss mistaken{.word = "smooth error",
                         .lost = own_comparison("smooth", value, [](auto z, auto t, auto lost) {
                           return 5 * (z - t) / (lost + 1);
                         })};
  fmt::print("∂loss/∂slope of one minibatch\n");
  work("  swept through operations:", smooth, dealt);
  work("  derivative on paper:", on_paper, dealt);
  work("  a factor 5 forgotten:", mistaken, dealt);

  // One number of it, asked.
  const Network net(Shape{1}, "dense 1", Random(1));
  const WorkedMinibatch worked(net, dealt.train.from(0, 8), Descent{}, {.loss = on_paper});
  fmt::print("\n{}\n{}\n", worked.why({"lost", {2, 0}}, WorkedSheet::Ask::value),
             worked.why({"output", {2, 0}}, WorkedSheet::Ask::gradient));
}
