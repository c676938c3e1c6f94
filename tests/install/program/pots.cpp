// Learns on a demo set, explains a number and, where it can, reads an installed lesson and writes a
// page.
#include <fmt/format.h>

#include <filesystem>
#include <vector>

#include "lattice/core.hpp"
#ifdef SHOWS
#include "lattice/lessons/prepare.hpp"
#include "lattice/show/page.hpp"
#endif

using namespace lattice;

int main(int, char** arguments) {
  fmt::print("version {}, {}\n", version, std::filesystem::path(arguments[0]).stem().string());
  Random random(1);
  const Split pots = scaled(split(demo_set("cracks"), {}, random), ScalingKind::standard);
  Network net(Shape{2}, "dense 8, tanh, dense 1", Random(1));
  const RunRecord run = train(net, pots, {.rule = Adam{.rate = 0.02}, .epochs = 10});
  fmt::print("loss {:.6f}\n", run.epochs.back().train->loss);
  Worksheet sheet;
  const Line z = net.forward(sheet, sheet.given("x", pots.test.from(0, 2).features));
  fmt::print("{}\n", explain(z, {1, 0}).text());
#ifdef SHOWS
  const Prepared lesson = prepare(read_lesson(LATTICE_DATA "/lessons/kiln.toml"));
  write_page(std::filesystem::path(arguments[0]).parent_path() / "kiln.html",
             lesson.work(std::vector<std::int64_t>{1, 20}));
  fmt::print("page written\n");
#endif
}
