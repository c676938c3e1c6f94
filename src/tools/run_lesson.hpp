#pragma once

#include <chrono>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/lessons/model_file.hpp"
#include "lattice/show/judgement.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

/// How much training prints on stderr.
enum class Say : std::uint8_t { nothing, some, much };

/// The extent of a run.
struct RunLength {
  std::int64_t first_epoch;  ///< the last one before
  std::int64_t last_epoch;
  std::int64_t first_step;  ///< the last one before
  std::int64_t last_step;
  std::int64_t evaluations;  ///< after epochs, and the one before the first
};

/// Prints the progress of a run on stderr: a small panel on a terminal, about twenty lines
/// elsewhere, or a line for every epoch and recorded step with `--say much`.
class Progress {
 public:
  Progress(Console& console, const RunLength& length, Say how_much)
      : console_(&console), length_(length), how_much_(how_much) {}

  void tell(const EpochFigures& figures);
  void tell(const StepFigures& figures);
  void tell(const RateChange& change);

  /// Call it after every step: redraws the panel, at most ten times a second.
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
  [[nodiscard]] std::string left_text(std::int64_t step) const;
  [[nodiscard]] std::string best_text(std::string_view before) const;

  const Training* run_ = nullptr;  ///< known after the first step
  std::vector<EpochFigures> epochs_ = {};
  std::optional<RateChange> change_ = std::nullopt;  ///< the last one
  Clock::time_point start_ = Clock::now();
  Clock::time_point drawn_ = {};
  bool is_drawn_ = false;
};

/// Assesses a network on every part that has rows.
[[nodiscard]] NamedAssessments assess_parts(const Network& network, const Split& split,
                                            const AssessSettings& settings);

/// Assesses what a run has trained, with those rows of the train part that the run evaluates.
[[nodiscard]] NamedAssessments assess_run(const Network& network, const Prepared& prepared);

/// The part with a word. @throws NameError for a part without rows; it lists the others.
[[nodiscard]] DataPart part_called(const Split& split, const std::string& name);

/// The lesson of a model prepared again, with the rows of its training.
/// @param remedy what to try if these rows have changed
/// @throws SettingError if they have changed.
[[nodiscard]] Prepared prepared_again(const ModelFile& file, const std::string& remedy,
                                      const Console& console);

/// The rows of files with their truth, with the columns, classes and preparation of a model.
/// @throws as reading does, and for columns, classes and shapes that the model does not know.
[[nodiscard]] Dataset rows_of_files(const ModelFile& file, const FileRows& rows, Console& console);

/// The lesson of a model with the rows of files in place of its own: all of them are the test part,
/// in the preparation of the model.
[[nodiscard]] Prepared prepared_on_files(const ModelFile& file, const FileRows& rows,
                                         Console& console);

/// The plan of a network if the shape of an example is known without data: from the number of
/// features, or from a subject if no data are named. Else nothing.
[[nodiscard]] std::optional<Plan> plan_without_data(
    const Lesson& lesson, const std::optional<std::int64_t>& inputs = std::nullopt);

/// The law behind the data of a demo set, apart from noise, if it is known.
[[nodiscard]] std::optional<LinearForm> law_of(const Lesson& lesson);

/// The weights of a model as JSON: `weights`, and `in_raw_units` for a single dense layer.
[[nodiscard]] Json learnt_json(const Model& model);

/// Assessments by part, as JSON.
[[nodiscard]] Json to_json(const NamedAssessments& parts);

/// The model file of a trained lesson.
[[nodiscard]] ModelFile model_file_of(const Prepared& prepared, const Network& network,
                                      const RunRecord& run);

}  // namespace lattice::tools
