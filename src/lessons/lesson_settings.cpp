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
  all.push_back(text_setting(
      "", "title", [](auto& l) -> auto& { return l.title; }, "TEXT", "Title of the lesson"));
  all.push_back(whole_setting(
      "", "seed", [](auto& l) -> auto& { return l.seed; }, 0,
      "Random seed for the split, start weights, row order and dropout",
      std::numeric_limits<std::int64_t>::max()));
  all.push_back(list_setting(
      "", "quiet", [](auto& l) -> auto& { return l.quiet; }, Entry::list, "CODES",
      "Codes of remarks not to show; all for none at all"));
  add_data_settings(all);
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

namespace {

std::vector<LessonSetting>& all_settings() {
  static std::vector<LessonSetting> settings = make_settings();
  return settings;
}

}  // namespace

const std::vector<LessonSetting>& lesson_settings() {
  return all_settings();
}

void know(const LessonSetting& setting) {
  const auto last =
      std::find_if(all_settings().rbegin(), all_settings().rend(),
                   [&](const LessonSetting& each) { return each.section == setting.section; });
  all_settings().insert(last.base(), setting);
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
