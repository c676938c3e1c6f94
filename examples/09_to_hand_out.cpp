// Lesson 9: to hand out.
//
// Two minibatches of a small run, worked once; and out of that a page, a spreadsheet, the graph of
// the calculation, an exercise; then pictures of what was learnt. Everything is put into a folder,
// which can be named behind the program.

#include <fmt/core.h>

#include <filesystem>

#include "lattice/lattice.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/graph.hpp"
#include "lattice/show/page.hpp"
#include "lattice/show/spreadsheet.hpp"

using namespace lattice;

namespace {

/// Pots, cracked or sound, in parts: as they were measured, and scaled.
Split pots() {
  Random dealing(1);
  return scaled(split(demo_set("cracks"), {.stratified = true}, dealing), ScalingKind::standard);
}

/// The first minibatch of a run and the hundredth, worked while it goes on, and its figures.
WorkedExample work_two(Network& net, const Split& pots, const TrainSettings& settings) {
  const RowSet measured = pots.data().as_measured();
  WorkedExample example{.title = "Cracked or sound",
                        .about = {"2 features", net.blueprint(), "adam rate 0.02", "batch 8"},
                        .names = pots.data().axis_names()};
  Training run(net, pots, settings);
  while (run.goes_on()) {
    if (run.upcoming_step() == 1 || run.upcoming_step() == 100) {
      // Raw numbers and the factors: so that scaling is on the worksheet, too.
      example.steps.push_back(
          {.step = run.upcoming_step(),
           .epoch = run.upcoming_epoch(),
           .work = WorkedMinibatch(net, measured.at(run.upcoming().rows), run.rule(),
                                   {.preparation = pots.data().preparation}, run.chance())});
    }
    run.step();
  }
  example.run = run.finish();
  return example;
}

}  // namespace

int main(int count, char** arguments) {
  const std::filesystem::path folder = count > 1 ? arguments[1] : "handout";
  std::filesystem::create_directories(folder);
  const Split dealt = pots();
  Network net(Shape{2}, "dense 6, tanh, dense 2", Random(2));
  const Network before = net;
  const TrainSettings settings{.rule = Adam{.rate = 0.02}, .epochs = 12, .batch = 8};
  const WorkedExample example = work_two(net, dealt, settings);

  // One worked example, every form of it.
  write_page(folder / "page.html", example);
  write_spreadsheet(folder / "sheet.xlsx", example);
  write_graph(folder / "graph.svg", example.steps.front().work, {.gradients = true});
  write_page(folder / "exercise.html", example,
             {.exercise = {.blanks = 6, .named = {"hidden[0,2]"}, .seed = 3}});

  // And pictures of what was learnt.
  const Dataset pots = dealt.data().taking(dealt.train.rows());
  const Stretch across = stretch_of(pots.features, 0);
  const Stretch up = stretch_of(pots.features, 1);
  const auto map = [&](const Network& network) {
    return decision_map(model_of(network, Loss::cross_entropy, dealt.train), across, up);
  };
  curves_chart(example.title, {{"run", *example.run}}).write(folder / "curves.svg");
  regions_chart(example.title, pots, {{"before", map(before)}, {"after 12 epochs", map(net)}})
      .write(folder / "regions.png");
  const Curve bend = curve([](const Line& x) { return tanh(x); }, -3, 3, 121);
  function_chart({{"tanh", bend}}).write(folder / "tanh.svg");

  fmt::print("step 1:   loss {:.4f}\nstep 100: loss {:.4f}\n",
             example.steps[0].work.result_before(), example.steps[1].work.result_before());
  fmt::print("written to {}:\n", folder.string());
  for (const char* name : {"page.html", "sheet.xlsx", "graph.svg", "exercise.html", "curves.svg",
                           "regions.png", "tanh.svg"}) {
    fmt::print("  {:<14} {:>7} bytes\n", name, std::filesystem::file_size(folder / name));
  }
}
