#include "tools/console.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/lessons/lesson.hpp"
#include "text/typed.hpp"

namespace lattice::tools {

std::string in_flags(const std::string& remedy, const Advice& advice) {
  if (advice.setting.empty()) return remedy;
  const auto& settings = lesson_settings();
  const auto setting = std::ranges::find(settings, advice.setting, &LessonSetting::key);
  std::string flag =
      setting == settings.end() ? fmt::format("--{}", advice.setting) : setting->flag();
  // A yes needs no word behind its flag.
  if (!advice.value.empty() && advice.value != "true") flag = typed_flag(flag, advice.value);
  return remedy.empty() ? flag : fmt::format("{}: {}", remedy, flag);
}

}  // namespace lattice::tools
