#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/split.hpp"
#include "lattice/data/table.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/files/json.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/learning/training.hpp"
#include "lattice/lessons/own_settings.hpp"

namespace lattice {

/// Where the rows of a lesson come from, and what is done to them.
struct LessonData {
  std::string set = {};  ///< a demo set; `kiln` when there is no file either
  std::optional<std::uint64_t> set_seed = std::nullopt;  ///< what it is made from; or its usual one
  std::vector<std::string> files = {};                   ///< CSV files instead, read as one
  std::vector<std::vector<std::string>> points = {};     ///< typed in instead, the target last
  std::optional<std::int64_t> rows = std::nullopt;       ///< of the demo set; at most, of a file
  ColumnChoice columns = {};
  CsvSettings csv = {};
  std::vector<ScalingSettings> scale = {};  ///< of features, step by step; or the usual way
  std::optional<std::vector<ScalingSettings>> scale_target = std::nullopt;  ///< as the features

  /// Whether a demo set, files or points are named.
  [[nodiscard]] bool is_named() const { return !set.empty() || !files.empty() || !points.empty(); }
};

/// The network of a lesson, and what its weights begin with.
struct LessonNetwork {
  std::string blueprint = {};            ///< `dense` with an output for what there is to predict
  std::vector<std::string> start = {};   ///< a start for all, or numbers: `hidden.weight=0.5,-0.2`
  std::string from = {};                 ///< a model file from whose weights a new run begins
  std::vector<std::string> frozen = {};  ///< layers or weights that are not trained
  std::vector<std::pair<std::string, double>> rate_multipliers = {};
  Precision precision = Precision::double_;
};

/// A lesson as it is written down: data, network, training. Each setting has a place in the lesson
/// file and a flag of the command; `lesson_settings` lists them all, once.
struct Lesson {
  std::string title = {};
  std::uint64_t seed = 1;  ///< decides parts, start weights, the order of rows and dropout
  LessonData data = {};
  SplitSettings split = {};
  LessonNetwork network = {};

  std::string rule = "descent";
  std::map<std::string, double, std::less<>> rule_settings = {};
  std::optional<std::int64_t> batch = std::nullopt;  ///< 16, or all rows where there are fewer
  bool whole_batch = false;                          ///< all rows in one minibatch
  TrainSettings training = {};  ///< all but rule, batch and seed, which stand above

  Form form = Form::one_line;              ///< of the loss, where a minibatch is worked
  double log_epsilon = usual_log_epsilon;  ///< added inside the log in the patched form
  std::vector<Reference> references = {};
  std::vector<std::string> quiet = {};  ///< codes of remarks that are not shown; `all` for all
  OwnSettings own = {};                 ///< what subjects bring along

  /// A path read by the lesson that lies outside the folder of the lesson's own file: as it stands
  /// above, and in full. Empty where the lesson was typed.
  struct Outside {
    std::string path;
    std::string full;
  };
  std::vector<Outside> outside = {};

  /// The split in force: of points that are typed in, all are for training unless it says so.
  [[nodiscard]] SplitSettings split_in_force() const;

  /// How the features of a dataset are scaled: as it says, or else to mean 0 and standard deviation
  /// 1, by channel where the last axis is of channels, else number by number.
  [[nodiscard]] std::vector<ScalingSettings> scale_for(const Dataset& data) const;
};

/// One setting of a lesson.
struct LessonSetting {
  /// How the text of a flag becomes a value.
  enum class Entry : std::uint8_t { text, whole, number, yes_or_no, list, repeated };

  std::string section;   ///< of the lesson file; empty for the top
  std::string key;       ///< in the section; the flag is `--key`, with `-` for `_`
  std::string sentence;  ///< what it is
  std::string type;      ///< what stands behind the flag: `NAME`
  Entry entry = Entry::text;
  std::string left_out =
      {};  ///< a word that may be given for leaving it out: `none`; or no such word

  /// Sets it. @throws SettingError without a place when the value cannot be.
  std::function<void(Lesson& lesson, const Json& value)> set = nullptr;

  /// The value it has; null when it is left out.
  std::function<Json(const Lesson& lesson)> get = nullptr;

  /// The paths of files in it that the lesson reads; none for most settings.
  std::function<std::vector<std::string*>(Lesson& lesson)> paths = nullptr;

  [[nodiscard]] std::string flag() const;

  /// `data.target`, or `seed`.
  [[nodiscard]] std::string full_key() const;
};

/// Every setting, in the order of a lesson file: in each section those of the subjects in use come
/// last.
[[nodiscard]] const std::vector<LessonSetting>& lesson_settings();

/// Adds a setting to its section.
void know(const LessonSetting& setting);

/// Sets a setting from the text behind its flag. @throws SettingError that names the flag.
void set_from_flag(Lesson& lesson, const LessonSetting& setting, const std::string& text);

/// Reads a lesson file (TOML). A file path in it is taken from the folder the lesson is in.
/// @throws FileError with line and column for what is not TOML, for an unknown key (with the
/// nearest
///         known one), and for a value of the wrong type or an impossible one.
[[nodiscard]] Lesson read_lesson(const std::filesystem::path& path);

/// The same from text; `name` stands for it in messages.
[[nodiscard]] Lesson parse_lesson(std::string_view text, const std::string& name);

/// The files that a lesson has read: its data, and the model that it begins from.
[[nodiscard]] std::vector<std::string> files_read_by(const Lesson& lesson);

/// Notes which of these lie outside of the folder of the file that the lesson was read from, so
/// that whoever got it from a stranger can be told.
void note_what_is_outside(Lesson& lesson, const std::filesystem::path& file);

/// A lesson as JSON, section by section; settings that are left out are left out.
[[nodiscard]] Json to_json(const Lesson& lesson);

/// A lesson from that JSON. @throws FileError for an unknown key or an impossible value.
[[nodiscard]] Lesson lesson_from_json(const Json& json);

/// A lesson as a commented TOML file: every setting with its sentence; those that are left out
/// behind a `#`, with the value that is in force without them.
/// @param in_force the same lesson in full, as `Prepared::in_full` gives it
[[nodiscard]] std::string to_toml(const Lesson& lesson, const Lesson& in_force);

}  // namespace lattice
