#pragma once

#include <cstdint>
#include <initializer_list>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/files/json.hpp"
#include "lattice/judging/decision_map.hpp"
#include "lattice/learning/remarks.hpp"
#include "lattice/lessons/lesson.hpp"
#include "lattice/lessons/prepare.hpp"
#include "tools/console.hpp"
#include "tools/named.hpp"
#include "tools/outputs.hpp"
#include "tools/verb.hpp"

namespace lattice::tools {

/// Files of rows that are read as one (`FileOfClass`), and those of their labels if there are any.
struct FileRows {
  std::vector<std::string> files = {};
  std::vector<std::string> labels = {};
};

/// The lesson options of the command line, the same for all verbs.
class LessonOptions {
 public:
  /// Whether a verb has the flag `--json`.
  enum class JsonFlag : std::uint8_t { no, yes };

  /// Declares the name of a lesson or demo set, a flag for every setting of a lesson, and printing.
  /// @param console for messages about files outside the folder of a lesson; must outlive this
  void declare(Verb& verb, const Console& console, JsonFlag json_flag = JsonFlag::yes);

  /// The named lesson with the flags applied: flags override it.
  [[nodiscard]] Lesson lesson() const;

  /// The flags applied to another lesson.
  [[nodiscard]] Lesson lesson_on(Lesson lesson) const;

  /// The input files of such a lesson.
  [[nodiscard]] std::vector<std::string> inputs(const Lesson& lesson) const;

  /// Whether a flag for this setting was given.
  [[nodiscard]] bool names(std::string_view key) const;

  /// The files that a model is asked about by `--file`; none without that flag.
  [[nodiscard]] FileRows file_rows() const;

  /// Refuses flags for settings of a lesson with something else: a model, which is trained already,
  /// or a sheet.
  /// @param what it is, for the message: `a trained model`
  /// @param but keys of settings that apply to it, too
  void check_for(const std::string& named, std::string_view what, std::string_view expected,
                 const std::vector<std::string>& but) const;
  void check_for(const std::string& model, const std::vector<std::string>& but = {}) const {
    check_for(model, "a trained model", "a model without settings of a run", but);
  }

  /// The first name: a lesson file or a demo set; empty if there is none.
  std::string subject = {};

  int digits = usual_digits;
  bool json = false;

 private:
  std::vector<std::pair<const LessonSetting*, std::string>> given_ = {};
  const Console* console_ = nullptr;
  mutable std::vector<std::string> told_ = {};  ///< files outside that were reported
};

/// Reports on stderr which files outside its own folder a lesson reads.
/// @param told files that were reported already; new ones are added
void say_what_is_outside(const Lesson& lesson, const Console& console,
                         std::vector<std::string>* told = nullptr);

/// Declares `--digits`, and `--json`.
void declare_digits(Verb& verb, int& digits);

/// The narrowest and the widest page that can be asked for, in columns.
inline constexpr std::int64_t narrowest_page = 80;
inline constexpr std::int64_t widest_page = 200;

/// Declares `--width`.
void declare_width(Verb& verb, TerminalStyle& style);
void declare_printing(Verb& verb, int& digits, bool& json);

/// The settings and the version, which are part of every JSON document.
[[nodiscard]] Json settings_json(const Lesson& lesson);

/// The same in a few lines, for the top of the output.
[[nodiscard]] std::string settings_text(const Prepared& prepared, const TerminalStyle& style);
[[nodiscard]] std::string settings_text(const std::vector<std::string>& words,
                                        const TerminalStyle& style);

/// Prints remarks on stderr, except those that the lesson hides.
void say(const std::vector<Remark>& remarks, const Lesson& lesson, Console& console);

/// Reports on stderr what was done to read a table.
void say(const TableReading& reading, Console& console);

/// Remarks as JSON: code, text, remedy.
[[nodiscard]] Json to_json(const std::vector<Remark>& remarks);

/// A worked example with the settings and the version.
[[nodiscard]] Json worked_json(const WorkedExample& example, const Lesson& lesson);

/// Writes a JSON document.
void write(std::ostream& out, const Json& json);

/// A whole number in a range, from the text of an option. @throws SettingError.
[[nodiscard]] std::int64_t whole_number(const std::string& option, const std::string& text,
                                        std::int64_t low, std::int64_t high);

/// A number, from the text of an option. @throws SettingError.
[[nodiscard]] double any_number(const std::string& option, const std::string& text);

/// A number above 0, from the text of an option. @throws SettingError.
[[nodiscard]] double positive_number(const std::string& option, const std::string& text);

/// Two whole numbers with a cross between them, `12x8`, from the text of an option.
/// @param sentence what they are: `rows x columns, such as 12x8`
/// @throws SettingError.
[[nodiscard]] std::pair<std::int64_t, std::int64_t> crossed_numbers(const std::string& option,
                                                                    const std::string& text,
                                                                    const std::string& sentence,
                                                                    std::int64_t low,
                                                                    std::int64_t high);

/// A range from one number to a higher one, `0,2.5`, from the text of an option.
/// @throws SettingError.
[[nodiscard]] Stretch stretch_in(const std::string& option, const std::string& text);

}  // namespace lattice::tools
