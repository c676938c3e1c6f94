// Lesson 6: a table, and one record.
//
// A table of four glazes from five measurements in very different units: split, scaled, learnt,
// judged by class. Then a single shard from the kiln is asked about, in raw units; and what happens
// when somebody scales that one record by itself.

#include <fmt/core.h>

#include "lattice/lattice.hpp"

using namespace lattice;

namespace {

void print_classes(const ClassJudgement& judged) {
  fmt::print("  {:<10}", "true glaze");
  for (const ClassFigures& each : judged.classes)
    fmt::print(" {:>8}", each.name);
  fmt::print("   precision  recall     F1\n");
  for (std::size_t truth = 0; truth < judged.classes.size(); ++truth) {
    const ClassFigures& each = judged.classes[truth];
    fmt::print("  {:<10}", each.name);
    for (std::size_t answer = 0; answer < judged.classes.size(); ++answer) {
      fmt::print(" {:>8}", judged.confusion.at({static_cast<std::int64_t>(truth),
                                                static_cast<std::int64_t>(answer)}));
    }
    fmt::print("   {:>9.3f} {:>7.3f} {:>6.3f}\n", each.precision, each.recall, each.f1);
  }
}

void print_probabilities(const Tensor& probabilities, const std::vector<std::string>& names) {
  for (std::size_t at = 0; at < names.size(); ++at) {
    fmt::print("  {:<8} {:5.1f} %\n", names[at],
               100.0 * probabilities.at({0, static_cast<std::int64_t>(at)}));
  }
}

}  // namespace

int main() {
  const Dataset glazes = demo_set("glazes");
  Random dealing(1);
  const Split dealt = scaled(split(glazes, {.stratified = true}, dealing), ScalingKind::standard);

  const Scaling& scaling = dealt.data().preparation.steps.front();
  const Tensor measured = dealt.train.as_measured().features();
  const Tensor prepared = dealt.train.features();
  fmt::print("As measured, and as scaled with the factors of the train part:\n");
  for (std::int64_t feature = 0; feature < 5; ++feature) {
    fmt::print("  {:<10} mean {:>8.2f}, divisor {:>6.2f}   row 0: {:>7.2f} becomes {:>6.2f}\n",
               glazes.feature_names[static_cast<std::size_t>(feature)],
               scaling.centre.at({feature}), scaling.divisor.at({feature}),
               measured.at({0, feature}), prepared.at({0, feature}));
  }

  Network net(Shape{5}, "dense 8, tanh, dense 4", Random(1));
  const RunRecord run = train(
      net, dealt,
      {.rule = Adam{.rate = 0.01}, .epochs = 60, .batch = 16, .patience = 15, .keep_best = true});
  fmt::print("\n{} epochs; the best was {}, with a validation loss of {:.4f}\n", run.last_epoch(),
             run.best->epoch, run.best->loss);
  for (const DataPart part : all_data_parts) {
    const Assessment judged = assess(net, dealt[part]);
    fmt::print("  {:<10} {:>4} rows: loss {:.4f}, accuracy {:.4f}\n", word(part), judged.rows,
               judged.loss, judged.classes->accuracy);
  }
  fmt::print("\nThe test part, true glaze down and answer across:\n");
  print_classes(*assess(net, dealt.test).classes);

  // One shard, as the co-operative measured it.
  const Tensor shard = tensor({{8.4, 19, 0.86, 81, 1271}}).with({Role::example, Role::feature});
  const Model model = model_of(net, Loss::cross_entropy, dealt.train);
  fmt::print("\nA shard: iron 8.4 %, lightness 19, thickness 0.86 mm, gloss 81, peak 1271 °C\n");
  print_probabilities(ask(model, shard).probabilities, model.class_names);

  // The mistake: fitted on one record, every feature is its own mean, and becomes 0.
  const Preparation by_itself = fit({{.kind = ScalingKind::standard}}, shard);
  fmt::print("\nThe same shard scaled by itself, which is 0 in every feature:\n");
  print_probabilities(softmax(net(by_itself.prepared(shard))), model.class_names);
}
