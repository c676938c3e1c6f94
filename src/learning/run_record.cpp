#include "lattice/learning/run_record.hpp"

namespace lattice {

std::string_view word(Ending ending) {
  switch (ending) {
    case Ending::all_epochs:
      return "all epochs";
    case Ending::all_updates:
      return "all updates";
    case Ending::stopped_early:
      return "stopped early";
    case Ending::asked:
      return "asked";
    case Ending::diverged:
      return "diverged";
  }
  return "";
}

std::vector<double> RunRecord::watched() const {
  std::vector<double> losses;
  for (const EpochFigures& figures : epochs)
    losses.push_back(figures.watched());
  return losses;
}

}  // namespace lattice
