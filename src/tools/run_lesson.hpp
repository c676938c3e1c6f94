#pragma once

#include <chrono>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "lattice/lessons/model_file.hpp"
#include "lattice/show/judgement.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

/// How much is said on stderr while a network learns.
enum class Say : std::uint8_t { nothing, some, much };

/// From where to where a run goes.
struct RunLength {
  std::int64_t first_epoch;  ///< the last one before
  std::int64_t last_epoch;
  std::int64_t first_step;  ///< the last one before
  std::int64_t last_step;
};

/// Says on stderr how far a run has come: on a terminal a small panel that is drawn anew, about
/// twenty lines elsewhere, every epoch and recorded step in a line of its own when much is to be
/// said.
class Progress {
 public:
  Progress(Console& console, const RunLength& length, Say how_much)
      : console_(&console), length_(length), how_much_(how_much) {}

  void tell(const EpochFigures& figures);
  void tell(const StepFigures& figures);
  void tell(const RateChange& change);

  /// To be called after every step: draws the panel anew, ten times a second at most.
  void tick(const Training& run);

  /// Draws the panel for the last time.
  void finish();

 private:
  using Clock = std::chrono::steady_clock;

  [[nodiscard]] bool has_panel() const {
    return console_->err_is_terminal && how_much_ == Say::some;
  }
  void draw_panel(std::int64_t epoch, std::int64_t step, const std::optional<Figures>& running);

  Console* console_;
  RunLength length_;
  Say how_much_;
  [[nodiscard]] std::string left_text(double seconds, std::int64_t step) const;
  [[nodiscard]] std::string best_text() const;

  std::vector<EpochFigures> epochs_ = {};
  std::optional<RateChange> change_ = std::nullopt;  ///< the last one
  Clock::time_point start_ = Clock::now();
  Clock::time_point drawn_ = {};
  bool is_drawn_ = false;
};

/// Judges a network on every part that has rows.
[[nodiscard]] NamedAssessments assess_parts(const Network& network, const Split& split,
                                            const AssessSettings& settings);

/// The part by its word. @throws NameError for one that has no rows, saying which have.
[[nodiscard]] DataPart part_called(const Split& split, const std::string& name);

/// The lesson of a model made ready again, with the rows that it learnt from.
/// @param remedy what to try where these rows are no longer there
/// @throws SettingError when they are no longer what they were.
[[nodiscard]] Prepared prepared_again(const ModelFile& file, const std::string& remedy,
                                      const Console& console);

/// The plan of a network for which no data are needed, as the shape of an example is said: so many
/// features, or the shape that a subject tells where no data are named. Nothing for others.
[[nodiscard]] std::optional<Plan> plan_without_data(
    const Lesson& lesson, const std::optional<std::int64_t>& inputs = std::nullopt);

/// What the data of a lesson follow but for noise, where it is a demo set of which that is known.
[[nodiscard]] std::optional<LinearForm> law_of(const Lesson& lesson);

/// What a model has learnt, as JSON: `weights`, and `in_raw_units` where it is one dense layer.
[[nodiscard]] Json learnt_json(const Model& model);

/// Assessments by part, as JSON.
[[nodiscard]] Json to_json(const NamedAssessments& parts);

/// A trained lesson as a file to be saved.
[[nodiscard]] ModelFile model_file_of(const Prepared& prepared, const Network& network,
                                      const RunRecord& run);

}  // namespace lattice::tools
