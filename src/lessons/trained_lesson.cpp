#include "lattice/lessons/trained_lesson.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace lattice {

std::string TrainedLesson::name_of_part(DataPart part) const {
  return has_own_rows ? fmt::format("{} part", word(part)) : prepared.data().name;
}

void each_frame(const TrainedLesson& trained, std::int64_t frames,
                const std::function<void(const std::string& when, const Network& network)>& look) {
  Network network = trained.prepared.network;
  const std::int64_t steps = std::max<std::int64_t>(1, trained.run.updates);
  look("before training", network);
  Training run(network, trained.prepared.split, trained.prepared.training);
  for (std::int64_t frame = 1; frame < frames; ++frame) {
    const std::int64_t until = frame * steps / (frames - 1);
    while (run.goes_on() && run.upcoming_step() <= until)
      run.step();
    look(fmt::format("step {}", until), network);
  }
}

}  // namespace lattice
