#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/dataset.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/judging/decision_map.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/shown_subject.hpp"

namespace lattice {

/// The facts about a run before it begins, for the watch page.
struct Watched {
  std::string title = {};
  std::vector<std::string> about = {};
  std::int64_t epochs = 0;                      ///< the last one
  std::optional<Dataset> plane = std::nullopt;  ///< raw rows of two features, if there are
  std::vector<Reference> references = {};       ///< the results of others
};

/// The page that shows a run in progress. It reads server-sent events from `events`, beside it.
/// @param subjects the additions of the subjects in use
[[nodiscard]] std::string watch_page(
    const Watched& watched, const AxisNames& names,
    std::span<const std::unique_ptr<WatchedSubject>> subjects = {});

/// The ranges of the plane that the page shows, for the map of `picture_event`.
struct Plane {
  Stretch across;
  Stretch up;
};
[[nodiscard]] Plane plane_of(const Dataset& raw);

/// The drawable state of a network at one moment of its run.
struct WatchedMoment {
  std::int64_t epoch = 0;
  std::string part = {};  ///< that was evaluated
  std::optional<Tensor> confusion = std::nullopt;
  std::optional<DecisionMap> map = std::nullopt;
  std::vector<LayerFlow> flow = {};  ///< activations and gradients by layer
};

/// What happens, as server-sent events (HTML Living Standard, 9.2).
[[nodiscard]] std::string start_event();
[[nodiscard]] std::string epoch_event(const EpochFigures& figures);
[[nodiscard]] std::string step_event(const StepFigures& figures);
/// @param more an object with what else is drawn, such as what subjects add, or null
[[nodiscard]] std::string moment_event(const WatchedMoment& moment, const Json& more);
[[nodiscard]] std::string end_event(const RunRecord& run);

}  // namespace lattice
