#include "lattice/learning/descent_path.hpp"

#include "lattice/judging/assess.hpp"

namespace lattice {
namespace {

void put(Network& network, const Place& place, double number) {
  Tensor weight = network[place.line];
  weight.set(place.at, number);
  network.set(place.line, weight);
}

}  // namespace

DescentPath descent_path(const std::string& name, const Network& network, const Split& split,
                         const TrainSettings& settings, const Place& across, const Place& up) {
  DescentPath path{.name = name, .across = {}, .up = {}, .network = network};
  const auto note_down = [&] {
    path.across.push_back(path.network[across.line].at(across.at));
    path.up.push_back(path.network[up.line].at(up.at));
  };
  note_down();
  Training run(path.network, split, settings);
  while (run.goes_on()) {
    run.step();
    note_down();
  }
  return path;
}

LossSurface loss_surface(const Network& network, const Loss& loss, const RowSet& rows,
                         const Place& across, const Place& up, Stretch across_values,
                         Stretch up_values, std::int64_t count) {
  const Precision precision = network.precision();
  LossSurface surface{
      .across = evenly_spaced(across_values.low, across_values.high, count, precision),
      .up = evenly_spaced(up_values.low, up_values.high, count, precision),
      .losses = zeros({count, count}, precision)};
  Network moved = network;
  for (std::int64_t row = 0; row < count; ++row) {
    put(moved, up, surface.up.at_offset(row));
    for (std::int64_t column = 0; column < count; ++column) {
      put(moved, across, surface.across.at_offset(column));
      surface.losses.set({row, column}, figures_of(moved, loss, rows).loss);
    }
  }
  return surface;
}

}  // namespace lattice
