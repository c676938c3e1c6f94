#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "lattice/judging/decision_map.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/lessons/trained_lesson.hpp"
#include "lattice/show/charts.hpp"
#include "tools/options.hpp"

/// What all charts of `lattice draw` share.
namespace lattice::tools {

/// The options of a chart.
struct DrawAsked {
  LessonOptions options;
  Console* console = nullptr;  ///< for what there is to say about files
  std::vector<std::string> more;
  std::string out;
  std::string part;
  std::string weight;
  bool learnt_alone = false;  ///< a weight less its start
  std::optional<std::pair<std::int64_t, std::int64_t>> lay_out = std::nullopt;
  std::vector<std::string> functions;
  std::string title = "activation and derivative";
  std::optional<ChartSize> size = std::nullopt;
  std::optional<Stretch> across = std::nullopt;
  std::optional<Stretch> up = std::nullopt;
  std::optional<Stretch> up_accuracy = std::nullopt;
  std::int64_t frames = 60;
  std::int64_t samples = 12;
  std::optional<std::int64_t> wrong = std::nullopt;  ///< the number of wrong rows to draw
  std::optional<std::int64_t> step = std::nullopt;
  std::vector<std::string> places;
  std::map<std::string, std::string, std::less<>> options_of_subject;
};

/// The trained network of a model, or of a lesson, which is trained first.
[[nodiscard]] TrainedLesson learnt_by(const std::string& subject, const Lesson& lesson);
[[nodiscard]] TrainedLesson learnt_of(const std::string& subject, const LessonOptions& options);

/// The same for a chart of rows: those of the files that are named beside a model, if there are
/// any.
[[nodiscard]] TrainedLesson learnt_on(const DrawAsked& asked);

/// The same with records of the layer flow, by default after every epoch.
[[nodiscard]] TrainedLesson learnt_with_flow(const std::string& subject,
                                             const LessonOptions& options);

/// The raw data of the lesson, of the requested part.
[[nodiscard]] Dataset raw_part(const TrainedLesson& learnt, const DrawAsked& asked);

// What is drawn of weights and rows.
[[nodiscard]] Chart draw_weights(const DrawAsked& asked);
[[nodiscard]] Chart draw_samples(const DrawAsked& asked);

}  // namespace lattice::tools
