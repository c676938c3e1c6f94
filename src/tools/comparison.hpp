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

/// Lessons beside one another.
namespace lattice::tools {

/// A lesson to compare, by what is special about it.
struct Entry {
  std::string name;
  Lesson lesson;
};

/// What came of it.
struct Outcome {
  std::string name;
  std::string judged_by;           ///< which rows and which loss, in a few words
  std::uint64_t fingerprint = 0;   ///< of the numbers in them
  std::vector<std::string> about;  ///< its settings, a few words each
  std::string blueprint;
  std::int64_t weights = 0;
  TrainSettings training = {};
  std::vector<Remark> on_choosing = {};
  RunRecord run;
  NamedAssessments parts;

  /// Which of them is best is decided by the validation part; by the train part where there is
  /// none. A loss that is no number is the worst.
  [[nodiscard]] double watched() const {
    const bool has_validation = parts.size() > 1 && parts[1].first == "validation";
    const double loss = parts[has_validation ? 1 : 0].second.loss;
    return std::isnan(loss) ? std::numeric_limits<double>::infinity() : loss;
  }
};

/// Trains and judges a lesson, or one fold of it.
[[nodiscard]] Outcome run_entry(const Entry& entry, Console& console,
                                std::optional<Fold> fold = std::nullopt);

/// The judgement of a part, by its word; null where it has no rows.
[[nodiscard]] const Assessment* part_of(const Outcome& outcome, std::string_view name);

/// The settings that all have.
[[nodiscard]] std::vector<std::string> in_common(const std::vector<Outcome>& outcomes);

/// What each is called in a row of a table: by its name, or by its number where names are long or
/// not to be told apart; and in lines what the numbers stand for, where there are any.
[[nodiscard]] std::vector<std::string> row_names(const std::vector<std::string>& names);
[[nodiscard]] std::string legend(const std::vector<std::string>& names,
                                 const std::vector<std::string>& rows);

/// Whether all were judged by the same rows and the same loss.
[[nodiscard]] bool are_alike(const std::vector<Outcome>& outcomes);

}  // namespace lattice::tools
