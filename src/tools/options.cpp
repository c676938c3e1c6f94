#include "tools/options.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <system_error>

#include "lattice/data/demo_sets.hpp"
#include "lattice/show/remark.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "lattice/version.hpp"
#include "text/counted.hpp"

namespace lattice::tools {
namespace {

/// The heading in the help under which a section of settings stands.
std::string group_of(const LessonSetting& setting) {
  if (setting.section.empty()) return "Lesson";
  std::string group = setting.section;
  group[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(group[0])));
  return group;
}

/// Pieces one after another, in lines of a width.
std::string in_lines(const std::vector<std::string>& pieces, std::size_t width) {
  std::string text;
  std::string line;
  for (const std::string& piece : pieces) {
    if (!line.empty() && columns(line) + 3 + columns(piece) > width) {
      text += line + "\n";
      line.clear();
    }
    line += (line.empty() ? "" : " · ") + piece;
  }
  return text + line + "\n";
}

}  // namespace

void LessonOptions::declare(Verb& verb, const Console& console, JsonFlag json_flag) {
  console_ = &console;
  std::vector<std::string> sets;
  for (const DemoSet& set : demo_sets())
    sets.push_back(set.name);
  verb.heading("Lesson");
  verb.text("lesson", subject,
            fmt::format("A lesson file (.toml), or a demo set: {}", fmt::join(sets, ", ")));
  for (const LessonSetting& setting : lesson_settings()) {
    if (setting.full_key() == "data.set") continue;
    const auto give = [this, which = &setting](const std::string& text) {
      given_.emplace_back(which, text);
    };
    verb.heading(group_of(setting));
    if (setting.entry == LessonSetting::Entry::yes_or_no) {
      verb.read_flag(
          setting.flag(), [give](bool yes) { give(yes ? "true" : "false"); }, setting.sentence);
    } else if (setting.entry == LessonSetting::Entry::repeated) {
      verb.read_each(setting.flag(), give, setting.sentence, setting.type);
    } else {
      verb.read(setting.flag(), give, setting.sentence, setting.type);
    }
  }
  if (json_flag == JsonFlag::yes) {
    declare_printing(verb, digits, json);
  } else {
    declare_digits(verb, digits);
  }
}

Lesson LessonOptions::lesson() const {
  return lesson_on(lesson_named(subject));
}

Lesson LessonOptions::lesson_on(Lesson lesson) const {
  if (names("file") || names("points")) {
    lesson.data.files.clear();
    lesson.data.points.clear();
    if (what_is_named(subject) != Named::demo_set) {
      lesson.data.set.clear();
      lesson.data.set_seed = std::nullopt;
    }
  }
  if (names("start")) lesson.network.start.clear();
  // Files that are typed take the place of those of the lesson.
  for (const auto& [setting, text] : given_) {
    const bool are_files =
        setting->paths != nullptr && setting->entry == LessonSetting::Entry::repeated;
    if (are_files) setting->set(lesson, Json::array());
  }
  if (names("epochs") && names("updates")) {
    throw SettingError({.what = "--epochs and --updates exclude each other",
                        .expected = "one of --epochs and --updates",
                        .found = "both"});
  }
  for (const auto& [setting, text] : given_)
    set_from_flag(lesson, *setting, text);
  if (console_ != nullptr) say_what_is_outside(lesson, *console_, &told_);
  return lesson;
}

std::vector<std::string> LessonOptions::inputs(const Lesson& lesson) const {
  std::vector<std::string> paths = files_read_by(lesson);
  paths.push_back(subject);
  return paths;
}

void say_what_is_outside(const Lesson& lesson, const Console& console,
                         std::vector<std::string>* told) {
  for (const std::string& path : files_read_by(lesson)) {
    const auto outside = std::ranges::find(lesson.outside, path, &Lesson::Outside::path);
    if (outside == lesson.outside.end()) continue;
    if (told != nullptr) {
      if (std::ranges::find(*told, outside->full) != told->end()) continue;
      told->push_back(outside->full);
    }
    console.tell_line(fmt::format("the lesson reads {}, which is not in its own folder",
                                  harmless(outside->full)));
  }
}

bool LessonOptions::names(std::string_view key) const {
  return std::ranges::any_of(given_, [&](const auto& given) { return given.first->key == key; });
}

FileRows LessonOptions::file_rows() const {
  FileRows rows;
  for (const auto& [setting, text] : given_) {
    if (setting->full_key() == "data.file") rows.files.push_back(text);
    if (setting->full_key() == "data.labels") rows.labels.push_back(text);
  }
  return rows;
}

void LessonOptions::check_for(const std::string& named, std::string_view what,
                              std::string_view expected,
                              const std::vector<std::string>& but) const {
  for (const auto& [setting, text] : given_) {
    if (std::ranges::find(but, setting->key) != but.end()) continue;
    throw SettingError(
        {.what = fmt::format("{} is for a lesson, but {} is {}", setting->flag(), named, what),
         .expected = std::string(expected),
         .found = setting->flag()});
  }
}

void declare_digits(Verb& verb, int& digits) {
  verb.heading("Printing");
  verb.read(
      "--digits",
      [&digits](const std::string& text) {
        digits = static_cast<int>(whole_number("--digits", text, 1, all_digits));
      },
      "Significant digits of printed numbers, 1 to 17 (default 5)", "N");
}

void declare_width(Verb& verb, TerminalStyle& style) {
  verb.heading("Printing");
  verb.read(
      "--width",
      [&style](const std::string& text) {
        style.width =
            static_cast<std::size_t>(whole_number("--width", text, narrowest_page, widest_page));
      },
      fmt::format("Columns of printed text, {} to {} (default: those of the terminal; {} where "
                  "there is none)",
                  narrowest_page, widest_page, page_width),
      "N");
}

void declare_printing(Verb& verb, int& digits, bool& json) {
  declare_digits(verb, digits);
  verb.flag("--json", json, "Print one JSON document and nothing else");
}

Json settings_json(const Lesson& lesson) {
  Json json = {{"version", version}};
  json.update(to_json(lesson));
  return json;
}

std::string settings_text(const Prepared& prepared, const TerminalStyle& style) {
  return settings_text(prepared.in_words(style.digits), style);
}

std::string settings_text(const std::vector<std::string>& words, const TerminalStyle& style) {
  std::vector<std::string> pieces = {fmt::format("Open Lattice {}", version)};
  for (const std::string& each : words)
    pieces.push_back(harmless(each));
  return in_lines(pieces, style.width) + "\n";
}

void say(const std::vector<Remark>& remarks, const Lesson& lesson, Console& console) {
  constexpr std::size_t most = 4;
  std::vector<Remark> shown = without(remarks, lesson.quiet);
  for (Remark& remark : shown)
    remark.remedy = in_flags(remark.remedy, remark.advice);
  for (std::size_t at = 0; at < std::min(shown.size(), most); ++at)
    console.err << show_remark(shown[at], {});
  if (shown.size() > most)
    console.err << fmt::format("(and {} remarks more: --json has them all)\n", shown.size() - most);
}

void say(const TableReading& reading, Console& console) {
  const std::string& name = reading.data.name;
  if (!reading.told.empty()) console.tell_line(fmt::format("{}: {}", name, reading.told));
  if (reading.rows_dropped > 0) {
    console.tell_line(fmt::format("{}: {} with a missing value left out", name,
                                  counted(reading.rows_dropped, "row")));
  }
  if (reading.rows_drawn_from > 0) {
    std::int64_t drawn = reading.data.rows();
    for (const FixedPart& fixed : reading.data.fixed_parts)
      drawn -= std::ssize(fixed.rows);
    console.tell_line(fmt::format("{}: {} of {} were drawn, by the seed", name, drawn,
                                  counted(reading.rows_drawn_from, "row")));
  }
  if (!reading.left_out.empty()) {
    console.tell_line(fmt::format("{}: columns of more than {} different words were left out: {}",
                                  name, most_words, fmt::join(reading.left_out, ", ")));
  }
  if (reading.last_as_target) {
    console.tell_line(
        fmt::format("{}: the last column, '{}', is taken for the target (else: --target)", name,
                    reading.data.target_name()));
  }
  if (reading.whole_numbers_as_classes) {
    console.tell_line(
        fmt::format("{}: the whole numbers of '{}' are taken for classes, as the network "
                    "has an output for each (else: --task numbers)",
                    name, reading.data.target_name()));
  }
}

Json worked_json(const WorkedExample& example, const Lesson& lesson) {
  Json json = to_json(example);
  json["settings"] = settings_json(lesson);
  return json;
}

Json to_json(const std::vector<Remark>& remarks) {
  Json json = Json::array();
  for (const Remark& remark : remarks) {
    json.push_back({{"code", remark.code},
                    {"text", remark.text},
                    {"try", in_flags(remark.remedy, remark.advice)}});
  }
  return json;
}

void write(std::ostream& out, const Json& json) {
  out << json_text(json, 2) << "\n";
}

std::int64_t whole_number(const std::string& option, const std::string& text, std::int64_t low,
                          std::int64_t high) {
  const std::optional<std::int64_t> number = parse_whole_number(text);
  if (number && *number >= low && *number <= high) return *number;
  throw SettingError({.what = fmt::format("{} cannot be '{}'", option, text),
                      .expected = fmt::format("a whole number from {} to {}", low, high),
                      .found = fmt::format("'{}'", text)});
}

double any_number(const std::string& option, const std::string& text) {
  const std::optional<double> number = parse_number(text);
  if (number && std::isfinite(*number)) return *number;
  throw SettingError({.what = fmt::format("{} cannot be '{}'", option, text),
                      .expected = "a number, such as -4 or 0.5",
                      .found = number ? format_number(*number) : "no number"});
}

double positive_number(const std::string& option, const std::string& text) {
  const std::optional<double> number = parse_number(text);
  if (number && std::isfinite(*number) && *number > 0.0) return *number;
  throw SettingError({.what = fmt::format("{} cannot be '{}'", option, text),
                      .expected = "a number above 0, such as 0.01",
                      .found = number ? format_number(*number) : "no number"});
}

std::pair<std::int64_t, std::int64_t> crossed_numbers(const std::string& option,
                                                      const std::string& text,
                                                      const std::string& sentence, std::int64_t low,
                                                      std::int64_t high) {
  const std::size_t cross = text.find('x');
  if (cross == std::string::npos) {
    throw SettingError({.what = fmt::format("{} cannot be '{}'", option, text),
                        .expected = sentence,
                        .found = fmt::format("'{}'", text)});
  }
  return {whole_number(option, text.substr(0, cross), low, high),
          whole_number(option, text.substr(cross + 1), low, high)};
}

Stretch stretch_in(const std::string& option, const std::string& text) {
  const std::vector<std::string> ends = parse_csv_record(text);
  if (ends.size() != 2) {
    throw SettingError({.what = fmt::format("{} cannot be '{}'", option, text),
                        .expected = "the low end and the high end, such as 0,2.5",
                        .found = fmt::format("'{}'", text)});
  }
  const Stretch stretch{.low = any_number(option, ends[0]), .high = any_number(option, ends[1])};
  if (stretch.low < stretch.high) return stretch;
  throw SettingError(
      {.what = fmt::format("there is nothing to draw between the ends of {}", option),
       .expected = "the low end, then the high end",
       .found = fmt::format("'{}'", text)});
}

}  // namespace lattice::tools
