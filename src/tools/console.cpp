#include "tools/console.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "lattice/lessons/lesson.hpp"

namespace lattice::tools {

std::string typed(std::string_view word) {
  const bool is_plain = !word.empty() && std::ranges::all_of(word, [](char letter) {
    const auto byte = static_cast<unsigned char>(letter);
    return byte >= 128 || std::isalnum(byte) != 0 ||
           std::string_view("_-./,:=+@%").find(letter) != std::string_view::npos;
  });
  if (is_plain) return std::string(word);
  std::string text = "'";
  for (const char letter : word) {
    if (letter == '\'') {
      text += "'\\''";
    } else {
      text += letter;
    }
  }
  return text + "'";
}

std::string in_flags(const std::string& remedy, const Advice& advice) {
  if (advice.setting.empty()) return remedy;
  const auto& settings = lesson_settings();
  const auto setting = std::ranges::find(settings, advice.setting, &LessonSetting::key);
  std::string flag =
      setting == settings.end() ? fmt::format("--{}", advice.setting) : setting->flag();
  // A yes needs no word behind its flag.
  if (!advice.value.empty() && advice.value != "true") flag += " " + typed(advice.value);
  return remedy.empty() ? flag : fmt::format("{}: {}", remedy, flag);
}

}  // namespace lattice::tools
