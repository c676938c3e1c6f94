#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "lattice/judging/decision_map.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/lessons/prepare.hpp"
#include "lattice/show/charts.hpp"
#include "tools/options.hpp"

/// What the kinds of `lattice draw` have in common.
namespace lattice::tools {

/// What was said behind `draw` and the kind of chart.
struct DrawAsked {
  LessonOptions options;
  std::vector<std::string> more;
  std::string out;
  std::string part = "train";
  std::string weight;
  std::optional<PictureSize> lay_out = std::nullopt;
  std::vector<std::string> functions;
  std::string title = "activation and derivative";
  std::optional<ChartSize> size = std::nullopt;
  std::optional<Stretch> across = std::nullopt;
  std::optional<Stretch> up = std::nullopt;
  std::optional<Stretch> up_accuracy = std::nullopt;
  std::int64_t frames = 60;
  std::int64_t samples = 12;
  std::optional<std::int64_t> wrong = std::nullopt;  ///< so many that the network gets wrong
  std::optional<std::int64_t> row = std::nullopt;
  std::optional<std::int64_t> step = std::nullopt;
  std::vector<std::string> places;
  std::vector<std::int64_t> units;
};

/// A lesson with what it learnt: trained now, or read from a model file.
struct Learnt {
  std::string name;
  Prepared prepared;
  Network network;
  RunRecord run;

  [[nodiscard]] Model model_at(const Network& moment) const {
    return model_of(moment, prepared.loss, prepared.split.train);
  }
};

/// What a lesson, or a model, has learnt; a lesson is trained for it.
[[nodiscard]] Learnt learnt_by(const std::string& subject, const Lesson& lesson);
[[nodiscard]] Learnt learnt_of(const std::string& subject, const LessonOptions& options);

/// The same of a lesson with looks at what passes through the parts, one an epoch where nobody
/// says.
[[nodiscard]] Learnt learnt_in_depth(const std::string& subject, const LessonOptions& options);

/// The lesson's data as they were measured, in the part that is asked for.
[[nodiscard]] Dataset raw_part(const Learnt& learnt, const DrawAsked& asked);

/// Trains once more from the start, with a look before the first step and at so many moments in
/// all, the last of them after the last step.
void each_frame(const Learnt& learnt, std::int64_t frames,
                const std::function<void(const std::string& when, const Network& network)>& look);

// What is drawn of weights, rows, channels and graphs.
[[nodiscard]] Chart draw_weights(const DrawAsked& asked);
[[nodiscard]] Chart draw_samples(const DrawAsked& asked);
[[nodiscard]] Chart draw_channels(const DrawAsked& asked);
[[nodiscard]] Chart draw_nodes(const DrawAsked& asked);
[[nodiscard]] Chart draw_embedding(const DrawAsked& asked);

}  // namespace lattice::tools
