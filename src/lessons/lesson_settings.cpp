#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <nlohmann/json.hpp>

#include "lattice/files/csv.hpp"
#include "lattice/lessons/lesson.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lessons/setting_kinds.hpp"

namespace lattice {
namespace {

std::vector<LessonSetting> make_settings() {
  using namespace settings;
  std::vector<LessonSetting> all;
  all.push_back(text_setting("", "title", &Lesson::title, "TEXT", "What the lesson is about"));
  all.push_back(own_setting(
      "", "seed", Entry::whole, "N", "Decides parts, start weights, the order of rows and dropout",
      [](Lesson& l, const Json& v) {
        l.seed =
            static_cast<std::uint64_t>(whole_in(v, 0, std::numeric_limits<std::int64_t>::max()));
      },
      [](const Lesson& l) -> Json { return l.seed; }));
  all.push_back(own_setting(
      "", "quiet", Entry::list, "CODES", "Codes of remarks that are not shown; all for none at all",
      [](Lesson& l, const Json& v) { l.quiet = texts_in(v); },
      [](const Lesson& l) -> Json { return l.quiet.empty() ? Json() : Json(l.quiet); }));
  add_data_settings(all);
  add_picture_settings(all);
  add_split_settings(all);
  add_network_settings(all);
  add_training_settings(all);
  add_judging_settings(all);
  return all;
}

}  // namespace

std::string LessonSetting::flag() const {
  std::string flag = "--" + key;
  std::ranges::replace(flag, '_', '-');
  return flag;
}

std::string LessonSetting::full_key() const {
  return section.empty() ? key : section + "." + key;
}

const std::vector<LessonSetting>& lesson_settings() {
  static const std::vector<LessonSetting> settings = make_settings();
  return settings;
}

void set_from_flag(Lesson& lesson, const LessonSetting& setting, const std::string& text) {
  const std::string flag = setting.flag();
  Json value = text;
  if (setting.entry == LessonSetting::Entry::whole ||
      setting.entry == LessonSetting::Entry::number) {
    if (const std::optional<std::int64_t> whole = parse_whole_number(text)) {
      value = *whole;
    } else if (const std::optional<double> number = parse_number(text)) {
      value = *number;
    }
  } else if (setting.entry == LessonSetting::Entry::list) {
    value = parse_csv_record(text);
  } else if (setting.entry == LessonSetting::Entry::yes_or_no &&
             (text == "true" || text == "false")) {
    value = text == "true";
  }
  try {
    setting.set(lesson, value);
  } catch (const Error& error) {
    Trouble trouble = error.trouble();
    if (trouble.where.empty()) {
      trouble.what = fmt::format("{} cannot be '{}'", flag, text);
      trouble.found = fmt::format("'{}'", text);
    } else {
      trouble.what = fmt::format("{}: {}", flag, trouble.what);
    }
    throw SettingError(trouble);
  }
}

}  // namespace lattice
