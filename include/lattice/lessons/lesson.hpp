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

/// A file of a lesson, and the class of everything in it if it is for one class: `bowl=bowls.idx`.
/// A path with a `=` of its own has a `/` before it: `./a=b.csv`.
struct FileOfClass {
  std::string class_name = {};
  std::string path = {};

  [[nodiscard]] static FileOfClass in(std::string_view text);
  [[nodiscard]] std::string text() const {
    return class_name.empty() ? path : class_name + "=" + path;
  }
};

/// The rows of a lesson and their preparation.
struct LessonData {
  std::string set = {};  ///< a demo set; by default `kiln`
  std::optional<std::uint64_t> set_seed =
      std::nullopt;                                ///< of the demo set; by default its usual one
  std::vector<std::string> files = {};             ///< files instead, read as one (FileOfClass)
  std::vector<std::string> validation_files = {};  ///< the validation part, if in files of its own
  std::vector<std::string> test_files = {};        ///< the test part, likewise
  std::vector<std::vector<std::string>> points = {};  ///< typed-in rows instead, the target last
  std::optional<std::int64_t> rows =
      std::nullopt;  ///< number of rows of the demo set; for files the maximum
  ColumnChoice columns = {};
  CsvSettings csv = {};
  std::vector<ScalingSettings> scale = {};  ///< of features, step by step; or the default
  std::optional<std::vector<ScalingSettings>> scale_target =
      std::nullopt;  ///< by default like the features

  /// The files of a part that has files of its own.
  [[nodiscard]] const std::vector<std::string>& files_of(DataPart part) const {
    return part == DataPart::test         ? test_files
           : part == DataPart::validation ? validation_files
                                          : files;
  }

  /// Whether a demo set, files or points are named.
  [[nodiscard]] bool is_named() const { return !set.empty() || !files.empty() || !points.empty(); }

  /// The demo set that the rows are from; nothing where they are from files or typed in.
  [[nodiscard]] std::optional<std::string> demo_set() const {
    if (!files.empty() || !points.empty()) return std::nullopt;
    return set.empty() ? "kiln" : set;
  }
};

/// The network of a lesson and its initial weights.
struct LessonNetwork {
  std::string blueprint = {};            ///< by default one dense layer
  std::vector<std::string> start = {};   ///< for all weights, or numbers: `hidden.weight=0.5,-0.2`
  std::string from = {};                 ///< a model file with initial weights
  std::vector<std::string> frozen = {};  ///< layers or weights that are not trained
  std::vector<std::pair<std::string, double>> rate_multipliers = {};
  bool biases_decay = false;  ///< whether the L2 term and decay apply to biases, too
  Precision precision = Precision::double_;
};

/// The settings of a lesson: data, network, training. Each has a key in the lesson file and a flag
/// of the command; `lesson_settings` lists them all.
struct Lesson {
  std::string title = {};
  std::uint64_t seed = 1;  ///< of the split, initial weights, row order and dropout
  LessonData data = {};
  SplitSettings split = {};
  LessonNetwork network = {};

  std::string rule = "descent";
  std::map<std::string, double, std::less<>> rule_settings = {};
  std::optional<std::int64_t> batch = std::nullopt;  ///< 16, or all rows if there are fewer
  bool whole_batch = false;                          ///< all rows in one minibatch
  TrainSettings training = {};  ///< all but rule, batch and seed, which are above

  Form form = Form::one_line;              ///< of the loss in a worked minibatch
  double log_epsilon = usual_log_epsilon;  ///< added inside the log in the patched form
  Form layer_form = Form::one_line;        ///< of layers in a worked minibatch
  std::vector<Reference> references = {};
  std::vector<std::string> quiet = {};  ///< codes of remarks to hide; `all` for all
  OwnSettings own = {};                 ///< those of subjects

  /// The paths outside the folder of the lesson file that the lesson reads: as written, and in
  /// full. Empty if the lesson was typed.
  struct Outside {
    std::string path;
    std::string full;
  };
  std::vector<Outside> outside = {};

  /// The split in force: by default all typed-in points are for training.
  [[nodiscard]] SplitSettings split_in_force() const;

  /// The scaling of the features of a dataset: by default to mean 0 and standard deviation 1, by
  /// channel if the last axis is channels, else number by number.
  [[nodiscard]] std::vector<ScalingSettings> scale_for(const Dataset& data) const;
};

/// One setting of a lesson.
struct LessonSetting {
  /// How the text of a flag is converted to a value.
  enum class Entry : std::uint8_t { text, whole, number, yes_or_no, list, repeated };

  std::string section;   ///< of the lesson file; empty for the top
  std::string key;       ///< in the section; the flag is `--key`, with `-` for `_`
  std::string sentence;  ///< its help
  std::string type;      ///< of the value in the help: `NAME`
  Entry entry = Entry::text;
  std::string left_out = {};  ///< a word for leaving it out: `none`; or empty

  /// Sets it. @throws SettingError without a place for an impossible value.
  std::function<void(Lesson& lesson, const Json& value)> set = nullptr;

  /// Its value; null if it is left out.
  std::function<Json(const Lesson& lesson)> get = nullptr;

  /// Calls a function with the path of each file in it that the lesson reads, which it may change;
  /// null for most settings.
  using PathUse = std::function<void(std::string& path)>;
  std::function<void(Lesson& lesson, const PathUse& use)> paths = nullptr;

  [[nodiscard]] std::string flag() const;

  /// `data.target`, or `seed`.
  [[nodiscard]] std::string full_key() const;
};

/// All settings, in the order of a lesson file: those of the subjects in use are last in each
/// section.
[[nodiscard]] const std::vector<LessonSetting>& lesson_settings();

/// Adds a setting to its section.
void know(const LessonSetting& setting);

/// Sets a setting from the text of its flag. @throws SettingError that names the flag.
void set_from_flag(Lesson& lesson, const LessonSetting& setting, const std::string& text);

/// Reads a lesson file (TOML). File paths in it are relative to its folder.
/// @throws FileError with line and column for what is not TOML, for an unknown key (with
///         the nearest known one), and for a value of the wrong type or an impossible one.
[[nodiscard]] Lesson read_lesson(const std::filesystem::path& path);

/// The same from text; `name` stands for it in messages.
[[nodiscard]] Lesson parse_lesson(std::string_view text, const std::string& name);

/// The files that a lesson reads: its data, and the model of its initial weights.
[[nodiscard]] std::vector<std::string> files_read_by(const Lesson& lesson);

/// Records which of these are outside the folder of the lesson file, so that users of a stranger's
/// lesson can be warned.
void note_what_is_outside(Lesson& lesson, const std::filesystem::path& file);

/// A lesson as JSON, section by section, without settings that are left out.
[[nodiscard]] Json to_json(const Lesson& lesson);

/// A lesson from that JSON. @throws FileError for an unknown key or an impossible value.
[[nodiscard]] Lesson lesson_from_json(const Json& json);

/// A lesson as a commented TOML file: every setting with its help; those that are left out are
/// commented out, with the value in force.
/// @param in_force the same lesson in full, from `Prepared::in_full`
[[nodiscard]] std::string to_toml(const Lesson& lesson, const Lesson& in_force);

}  // namespace lattice
