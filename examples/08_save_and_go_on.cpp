// Lesson 8: save, and go on.
//
// Ten epochs, saved to a file, read back, and ten more: the same bits as twenty at once, with Adam,
// dropout, a learning rate that changes, and rows in a new order every epoch. And a new run that
// begins with what was learnt.

#include <fmt/core.h>

#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/lessons/prepare.hpp"

using namespace lattice;

namespace {

bool same(const Network& a, const Network& b) {
  for (const Weight& weight : a.weights()) {
    if (!(weight.value == b[weight.name])) return false;
  }
  return true;
}

}  // namespace

int main() {
  // A lesson, as a file of settings would say it.
  const Lesson lesson = parse_lesson(R"(
seed = 3
[data]
set = "glazes"
rows = 500
[network]
net = "dense 8, tanh, dropout 0.1, dense 4"
[training]
rule = "adam"
rate = 0.02
schedule = "steps 6 0.5"
epochs = 10
)",
                                     "the lesson");
  Prepared prepared = prepare(lesson);

  // Twenty epochs at once.
  Network at_once = prepared.network;
  TrainSettings twenty = prepared.training;
  twenty.epochs = 20;
  const RunRecord whole = train(at_once, prepared.split, twenty);

  // Ten, saved, and forgotten.
  const std::filesystem::path path =
      std::filesystem::temp_directory_path() / "open-lattice-example-08.lattice";
  {
    Network net = prepared.network;
    const RunRecord run = train(net, prepared.split, prepared.training);
    save_model(path, {.model = model_of(net, prepared.loss, prepared.split.train),
                      .lesson = lesson,
                      .run = run,
                      .data_name = prepared.data().name,
                      .rows = prepared.data().rows(),
                      .fingerprint = fingerprint(prepared.data())});
    fmt::print("After {} epochs, {} updates: saved\n", run.last_epoch(), run.updates);
  }

  // Read back, and ten more.
  ModelFile file = load_model(path);
  std::filesystem::remove(path);
  const Prepared again = prepare(file.lesson);
  Network& net = file.model.network;
  go_on(net, file.run, again.split, again.training);
  fmt::print("Gone on with after epoch {}, as far as epoch {}, {} updates\n", file.run.joins[0],
             file.run.last_epoch(), file.run.updates);
  for (const RateChange& change : file.run.rate_changes)
    fmt::print("  from epoch {} on the rate is {}\n", change.epoch, change.after);

  fmt::print("\n  {:>5} {:>22} {:>22}\n", "epoch", "20 at once", "10, saved, and 10");
  for (const std::size_t epoch : {9U, 10U, 11U, 20U}) {
    fmt::print("  {:>5} {:>22.17g} {:>22.17g}\n", epoch, whole.epochs[epoch].train->loss,
               file.run.epochs[epoch].train->loss);
  }
  fmt::print("\nEvery weight has the same bits: {}\n", same(at_once, net) ? "yes" : "no");

  // A third thing: a run of its own that begins with what was learnt, by another rule, the first
  // layer a tenth as fast and the dropout gone.
  Network finer(Shape{5}, "dense 8, tanh, dense 4", Random(9));
  const std::vector<std::string> taken = finer.start_from(net.weights());
  finer.set_rate_multiplier("hidden", 0.1);
  const RunRecord new_run =
      train(finer, again.split, {.rule = Momentum{.rate = 0.01}, .epochs = 5});
  fmt::print("\nA new run from {} weights: train loss {:.4f}, after {} updates {:.4f}\n",
             taken.size(), new_run.epochs.front().train->loss, new_run.updates,
             new_run.epochs.back().train->loss);

  // Going on, starting over and beginning anew are different calls.
  try {
    static_cast<void>(train(net, again.split, again.training));
  } catch (const SettingError& error) {
    fmt::print("\nAnd train() on a network that has learnt already says:\n{}\n", error.what());
  }
}
