#include "lessons/setting_kinds.hpp"

#include <fmt/format.h>

#include <cmath>

#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice::settings {

// What a value has to be

SettingError wrong(std::string expected, const Json& value) {
  return SettingError({.what = "this value cannot be used",
                       .expected = std::move(expected),
                       .found = value.is_string() ? fmt::format("'{}'", value.get<std::string>())
                                                  : json_text(value)});
}

std::string text_in(const Json& value) {
  if (!value.is_string()) throw wrong("a text in quotes", value);
  std::string text = value.get<std::string>();
  if (const std::optional<std::string> unwelcome = unwelcome_in(text)) {
    throw SettingError({.what = "this value cannot be used",
                        .expected = "a text in UTF-8, without control characters",
                        .found = fmt::format("'{}', with {}", text, *unwelcome)});
  }
  return text;
}

bool yes_or_no_in(const Json& value) {
  if (!value.is_boolean()) throw wrong("true or false", value);
  return value.get<bool>();
}

double number_in(const Json& value, double low, double high, const char* expected) {
  if (!value.is_number()) throw wrong(expected, value);
  const auto number = value.get<double>();
  if (!std::isfinite(number) || number < low || number > high) throw wrong(expected, value);
  return number;
}

std::int64_t whole_in(const Json& value, std::int64_t low, std::int64_t high,
                      std::string expected) {
  if (expected.empty()) {
    expected = high > 1'000'000'000 ? fmt::format("a whole number, {} or more", low)
                                    : fmt::format("a whole number from {} to {}", low, high);
  }
  if (high > 1'000'000'000 && value.is_number() &&
      value.get<double>() > static_cast<double>(high)) {
    throw wrong(fmt::format("a whole number, at most {}", high), value);
  }
  if (!value.is_number_integer()) throw wrong(expected, value);
  if (value.is_number_unsigned() &&
      value.get<std::uint64_t>() > std::uint64_t{std::numeric_limits<std::int64_t>::max()})
    throw wrong(expected, value);
  const auto number = value.get<std::int64_t>();
  if (number < low || number > high) throw wrong(expected, value);
  return number;
}

std::vector<std::string> texts_in(const Json& value) {
  if (value.is_string()) return {text_in(value)};
  if (!value.is_array()) throw wrong("texts in brackets, such as [\"a\", \"b\"]", value);
  std::vector<std::string> texts;
  for (const Json& each : value)
    texts.push_back(each.is_number_integer() ? json_text(each) : text_in(each));
  return texts;
}

/// Back: a text, a list of texts, or null for none.
Json one_or_several(const std::vector<std::string>& texts) {
  if (texts.empty()) return {};
  return texts.size() == 1 ? Json(texts.front()) : Json(texts);
}

/// A name and a number: `hidden = 0.1`. Nothing where it is anything else.
std::optional<std::pair<std::string, double>> named_number(std::string_view text) {
  const std::size_t equals = text.rfind('=');
  if (equals == std::string_view::npos) return std::nullopt;
  const std::string_view name = trimmed(text.substr(0, equals));
  const std::optional<double> number = parse_number(trimmed(text.substr(equals + 1)));
  if (name.empty() || !number || !std::isfinite(*number)) return std::nullopt;
  return std::pair(std::string(name), *number);
}

LessonSetting own_setting(std::string section, std::string key, Entry entry, std::string type,
                          std::string sentence, decltype(LessonSetting::set) set,
                          decltype(LessonSetting::get) get) {
  return {.section = std::move(section),
          .key = std::move(key),
          .sentence = std::move(sentence),
          .type = std::move(type),
          .entry = entry,
          .set = std::move(set),
          .get = std::move(get)};
}

}  // namespace lattice::settings
