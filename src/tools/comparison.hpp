#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/split.hpp"
#include "lattice/learning/remarks.hpp"
#include "lattice/lessons/lesson.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/show/judgement.hpp"
#include "show/text_table.hpp"
#include "tools/console.hpp"

/// Comparisons of lessons.
namespace lattice::tools {

/// A lesson to compare, with a name for what distinguishes it; or a model of it, which is trained.
struct Entry {
  std::string name;
  Lesson lesson;
  std::shared_ptr<const ModelFile> model = nullptr;
};

/// A name with what is special about it: `glazes · seed 2`, or `seed 2` alone.
[[nodiscard]] std::string joined(const std::string& name, const std::string& special);

/// Its run and its figures.
struct Outcome {
  std::string name;
  std::vector<std::string> classes = {};
  std::string judged_by;           ///< the rows and the loss, in a few words
  std::uint64_t fingerprint = 0;   ///< of these rows
  std::vector<std::string> about;  ///< its settings, in a few words each
  std::string blueprint;
  std::int64_t weights = 0;
  TrainSettings training = {};
  std::vector<Remark> on_choosing = {};
  std::vector<Remark> on_test_figures = {};
  RunRecord run;
  NamedAssessments parts;

  /// The figure that decides which is best: the loss of the validation part, or of the train part
  /// if there is none, or the running loss if that is not evaluated. A loss that is not finite is
  /// the worst.
  [[nodiscard]] double watched() const;
};

/// A lesson to train and to assess, or one fold of it; a model is assessed on the rows of its
/// training.
struct EntryRun {
  Entry entry;
  std::optional<Fold> fold = std::nullopt;
};

/// Runs all, as many at a time as there may be threads: that changes no figure. Says of each, in
/// their order, how long it took. After an interrupt, those that had begun.
/// @throws what the first of those that fail throws; those after it are then given up.
[[nodiscard]] std::vector<Outcome> run_all(std::span<const EntryRun> runs, Console& console);

/// Trains a lesson. @throws as preparing does.
[[nodiscard]] Model trained_model(const Entry& entry, Console& console);

/// The assessment of a part, by its word; null if it has no rows.
[[nodiscard]] const Assessment* part_of(const Outcome& outcome, std::string_view name);

/// The common settings.
[[nodiscard]] std::vector<std::string> in_common(const std::vector<Outcome>& outcomes);

[[nodiscard]] std::vector<std::string> names_of(const std::vector<Outcome>& outcomes);

/// The labels of things with these names: the names, or numbers with what differs if names are long
/// or equal.
[[nodiscard]] std::vector<std::string> labels_for(const std::vector<std::string>& names);

/// A table with labels for its rows, or numbers alone where there is no room; after a legend if
/// they are numbered.
[[nodiscard]] std::string labelled(TextTable table, const std::vector<std::string>& names,
                                   const TerminalStyle& style);

/// Of what the loss is by which outcomes are compared: `validation loss`.
[[nodiscard]] std::string_view watched_loss(const Outcome& outcome);

/// What the table of a comparison has.
struct Comparing {
  bool with_test = false;  ///< the figures of the test part of all
  bool each_run = false;   ///< a row for each run of those that are repeated
};

/// The parts in such a table, and the heading of the loss of one.
[[nodiscard]] std::vector<std::string_view> parts_in_table(const Comparing& comparing);
[[nodiscard]] std::string loss_heading(std::string_view part);

/// The table, a row for each outcome, after a legend if its rows are numbered.
[[nodiscard]] std::string outcomes_text(const std::vector<Outcome>& outcomes,
                                        const Comparing& comparing, const TerminalStyle& style);

/// The epochs and steps of all runs as a CSV table.
[[nodiscard]] std::string curves_csv(const std::vector<Outcome>& outcomes);

/// The word for the figure beside a loss.
[[nodiscard]] std::string word_for_figure(const Outcome& outcome);

/// Whether all were assessed on the same rows with the same loss.
[[nodiscard]] bool are_alike(const std::vector<Outcome>& outcomes);

}  // namespace lattice::tools
