#pragma once

#include <cmath>
#include <cstdint>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/split.hpp"
#include "lattice/learning/remarks.hpp"
#include "lattice/lessons/lesson.hpp"
#include "lattice/show/judgement.hpp"
#include "tools/console.hpp"

/// Comparisons of lessons.
namespace lattice::tools {

/// A lesson to compare, with a name for what distinguishes it.
struct Entry {
  std::string name;
  Lesson lesson;
};

/// Its run and its figures.
struct Outcome {
  std::string name;
  std::string judged_by;           ///< the rows and the loss, in a few words
  std::uint64_t fingerprint = 0;   ///< of these rows
  std::vector<std::string> about;  ///< its settings, in a few words each
  std::string blueprint;
  std::int64_t weights = 0;
  TrainSettings training = {};
  std::vector<Remark> on_choosing = {};
  RunRecord run;
  NamedAssessments parts;

  /// The figures that decide which is best: of the validation part, or of the train part if there
  /// is none. A loss that is not finite is the worst.
  [[nodiscard]] double watched() const {
    const bool has_validation = parts.size() > 1 && parts[1].first == "validation";
    const double loss = parts[has_validation ? 1 : 0].second.loss;
    return std::isnan(loss) ? std::numeric_limits<double>::infinity() : loss;
  }
};

/// Trains and assesses a lesson, or one fold of it.
[[nodiscard]] Outcome run_entry(const Entry& entry, Console& console,
                                std::optional<Fold> fold = std::nullopt);

/// The assessment of a part, by its word; null if it has no rows.
[[nodiscard]] const Assessment* part_of(const Outcome& outcome, std::string_view name);

/// The common settings.
[[nodiscard]] std::vector<std::string> in_common(const std::vector<Outcome>& outcomes);

/// The labels of the table rows: names, or numbers if names are long or equal; and a line for each
/// number with its meaning.
[[nodiscard]] std::vector<std::string> row_names(const std::vector<std::string>& names);
[[nodiscard]] std::string legend(const std::vector<std::string>& names,
                                 const std::vector<std::string>& rows);

/// Whether all were assessed on the same rows with the same loss.
[[nodiscard]] bool are_alike(const std::vector<Outcome>& outcomes);

}  // namespace lattice::tools
