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

/// What there is to know of a run before it begins, for a page that watches it.
struct Watched {
  std::string title = {};
  std::vector<std::string> about = {};
  std::int64_t epochs = 0;                      ///< the last one
  std::optional<Dataset> plane = std::nullopt;  ///< raw rows of two features, where there are
  std::vector<Reference> references = {};       ///< what others reached
};

/// The page that draws a run while it goes on. It asks `events`, beside it, for what happens.
/// @param subjects what the subjects in use add to it
[[nodiscard]] std::string watch_page(
    const Watched& watched, const AxisNames& names,
    std::span<const std::unique_ptr<WatchedSubject>> subjects = {});

/// The stretches of the plane that the page shows; those that `picture_event` is to be mapped on.
struct Plane {
  Stretch across;
  Stretch up;
};
[[nodiscard]] Plane plane_of(const Dataset& raw);

/// What a network does at a moment of its run, as far as there is something to draw.
struct WatchedMoment {
  std::int64_t epoch = 0;
  std::string part = {};  ///< that it was asked about
  std::optional<Tensor> confusion = std::nullopt;
  std::optional<DecisionMap> map = std::nullopt;
  std::vector<LayerFlow> depth = {};  ///< what passes through the layers
};

/// What happens, as server-sent events (HTML Living Standard, 9.2).
[[nodiscard]] std::string start_event();
[[nodiscard]] std::string epoch_event(const EpochFigures& figures);
[[nodiscard]] std::string step_event(const StepFigures& figures);
/// @param of_subjects an object with what they add, or null
[[nodiscard]] std::string moment_event(const WatchedMoment& moment, const Json& of_subjects);
[[nodiscard]] std::string end_event(const RunRecord& run);

}  // namespace lattice
