#include "lattice/lessons/lesson.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <toml++/toml.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <system_error>

#include "files/file.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice {
namespace {

using Entry = LessonSetting::Entry;

const LessonSetting* find_setting(std::string_view section, std::string_view key) {
  for (const LessonSetting& setting : lesson_settings()) {
    if (setting.section == section && setting.key == key) return &setting;
  }
  return nullptr;
}

// From TOML and JSON

/// The same value in JSON; nothing for what JSON has no word for.
std::optional<Json> json_of(const toml::node& node) {
  if (const auto* text = node.as_string()) return Json(text->get());
  if (const auto* whole = node.as_integer()) return Json(whole->get());
  if (const auto* number = node.as_floating_point()) return Json(number->get());
  if (const auto* truth = node.as_boolean()) return Json(truth->get());
  if (const auto* list = node.as_array()) {
    Json json = Json::array();
    for (const toml::node& each : *list) {
      const std::optional<Json> value = json_of(each);
      if (!value) return std::nullopt;
      json.push_back(*value);
    }
    return json;
  }
  return std::nullopt;
}

std::string place(const std::string& name, const toml::source_position& at) {
  return fmt::format("{}, line {}, column {}", name, at.line, at.column);
}

[[noreturn]] void refuse_key(const std::string& key, const std::string& where,
                             const std::string& section) {
  std::vector<std::string> keys;
  std::vector<std::string> known;
  for (const LessonSetting& setting : lesson_settings()) {
    keys.push_back(setting.full_key());
    if (setting.section == section) known.push_back(setting.key);
  }
  std::string near = nearest(key, known);
  if (near.empty()) {
    // Perhaps the key belongs to another section.
    for (const LessonSetting& setting : lesson_settings()) {
      if (setting.key == key) near = fmt::format("{} in [{}]", key, setting.section);
    }
  }
  if (known.empty()) {
    known = {"data", "split", "network", "training"};
    near = nearest(section, known);
    throw FileError({.what = fmt::format("a lesson has no section [{}]", section),
                     .where = where,
                     .expected = fmt::format("one of {}", fmt::join(known, ", ")),
                     .found = fmt::format("[{}]", section),
                     .remedy = near.empty() ? "" : fmt::format("did you mean [{}]?", near)});
  }
  throw FileError({.what = fmt::format("a lesson has no setting '{}'{}", key,
                                       section.empty() ? "" : fmt::format(" in [{}]", section)),
                   .where = where,
                   .expected = fmt::format("one of {}", fmt::join(known, ", ")),
                   .found = fmt::format("'{}'", key),
                   .remedy = did_you_mean(near)});
}

/// Sets a setting; trouble is told with its key and its place.
void set_at(Lesson& lesson, const LessonSetting& setting, const Json& value,
            const std::string& where) {
  try {
    setting.set(lesson, value);
  } catch (const Error& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("{}: {}", setting.full_key(), trouble.what);
    trouble.where = trouble.where.empty() ? where : fmt::format("{}; {}", where, trouble.where);
    throw FileError(trouble);
  }
}

void read_section(Lesson& lesson, const toml::table& table, const std::string& section,
                  const std::string& name) {
  for (const auto& [toml_key, node] : table) {
    const std::string key(toml_key.str());
    const std::string where = place(name, toml_key.source().begin);
    if (section.empty() && node.is_table()) {
      if (std::ranges::none_of(lesson_settings(), [&](const LessonSetting& setting) {
            return setting.section == key;
          })) {
        refuse_key("", where, key);
      }
      read_section(lesson, *node.as_table(), key, name);
      continue;
    }
    const LessonSetting* const setting = find_setting(section, key);
    if (setting == nullptr) refuse_key(key, where, section);
    const std::optional<Json> value = json_of(node);
    if (!value) {
      throw FileError({.what = fmt::format("{}: this value cannot be used", setting->full_key()),
                       .where = place(name, node.source().begin),
                       .expected = "a text, a number, true or false, or a list of them",
                       .found = "something else"});
    }
    set_at(lesson, *setting, *value, place(name, node.source().begin));
  }
}

/// Refuses keys of too many parts, `a.a.a…`: each is a table in the one before it, and the library
/// reads those, and takes them away again, by functions that call themselves.
void check_depth(std::string_view text, const std::string& name) {
  constexpr int deepest = 64;
  constexpr std::string_view ends_a_key = ",=[]{}#";
  int parts = 0;
  char quote = '\0';
  std::size_t line = 1;
  for (const char letter : text) {
    if (letter == '\n') {
      ++line;
      quote = '\0';
      parts = 0;
    } else if (quote != '\0') {
      if (letter == quote) quote = '\0';
    } else if (letter == '"' || letter == '\'') {
      quote = letter;
    } else if (letter == '.') {
      ++parts;
    } else if (ends_a_key.find(letter) != std::string_view::npos) {
      parts = 0;
    }
    if (parts <= deepest) continue;
    throw FileError({.what = fmt::format("{} has a key with too many parts", name),
                     .where = fmt::format("{}, line {}", name, line),
                     .expected = "keys such as rate, in sections such as [training]",
                     .found = fmt::format("more than {} dots in a row", deepest)});
  }
}

/// Calls a function with the path of each file that a lesson reads.
void each_path_in(Lesson& lesson, const LessonSetting::PathUse& use) {
  for (const LessonSetting& setting : lesson_settings()) {
    if (setting.paths != nullptr) setting.paths(lesson, use);
  }
}

std::string toml_value(const Json& value) {
  if (!value.is_array()) return json_text(value);
  std::vector<std::string> parts;
  for (const Json& each : value)
    parts.push_back(json_text(each));
  return fmt::format("[{}]", fmt::join(parts, ", "));
}

/// What stands behind the `#` of a setting that is left out: what is in force without it. Nothing
/// for a setting of another rule.
std::optional<std::string> value_in_force(const LessonSetting& setting, const Lesson& in_force) {
  if (const Json value = setting.get(in_force); !value.is_null()) return toml_value(value);
  if (!setting.left_out.empty()) return json_text(setting.left_out);
  switch (setting.entry) {
    case Entry::text:
      return R"("")";
    case Entry::list:
    case Entry::repeated:
      return "[]";
    default:
      return std::nullopt;
  }
}

}  // namespace

FileOfClass FileOfClass::in(std::string_view text) {
  const std::size_t equals = text.find('=');
  const bool has_class = equals != std::string_view::npos && equals > 0 && text.find('/') > equals;
  if (!has_class) return {.path = std::string(text)};
  return {.class_name = std::string(text.substr(0, equals)),
          .path = std::string(text.substr(equals + 1))};
}

SplitSettings Lesson::split_in_force() const {
  // Of a few points that somebody typed in none is to spare, unless they say so.
  const bool says_so = split.train || split.validation || split.test;
  if (data.points.empty() || says_so) return split;
  SplitSettings all_for_training = split;
  all_for_training.validation = 0.0;
  all_for_training.test = 0.0;
  return all_for_training;
}

std::vector<ScalingSettings> Lesson::scale_for(const Dataset& rows) const {
  if (!data.scale.empty()) return data.scale;
  // Where each row is its own feature, that says only which one it is: there is nothing to scale.
  if (rows.has_own_features()) return {{.kind = ScalingKind::none}};
  const Shape example = rows.example();
  const bool has_channels = example.rank() > 0 && example.role(example.rank() - 1) == Role::channel;
  return {
      {.kind = ScalingKind::standard, .by = has_channels ? ScaledBy::channel : ScaledBy::number}};
}

Lesson read_lesson(const std::filesystem::path& path) {
  const std::string text = read_file(path, "a lesson in TOML");
  Lesson lesson;
  try {
    lesson = parse_lesson(text, harmless(path.filename().string()));
  } catch (const FileError& error) {
    Trouble trouble = error.trouble();
    if (path.extension() == ".toml" || !trouble.remedy.empty()) throw;
    trouble.remedy = "if it holds rows, give it as";
    trouble.advice = {"file", path.string()};
    throw FileError(trouble);
  }
  each_path_in(lesson, [&](std::string& file) { file = (path.parent_path() / file).string(); });
  note_what_is_outside(lesson, path);
  return lesson;
}

std::vector<std::string> files_read_by(const Lesson& lesson) {
  Lesson copy = lesson;
  std::vector<std::string> paths;
  each_path_in(copy, [&](const std::string& file) { paths.push_back(file); });
  return paths;
}

void note_what_is_outside(Lesson& lesson, const std::filesystem::path& file) {
  namespace fs = std::filesystem;
  const auto full = [](const fs::path& path) {
    std::error_code problem;
    const fs::path real = fs::weakly_canonical(path, problem);
    return problem ? fs::absolute(path).lexically_normal() : real;
  };
  const fs::path folder = full(file).parent_path();
  for (const std::string& path : files_read_by(lesson)) {
    const fs::path there = full(path);
    const fs::path from_folder = there.lexically_relative(folder);
    if (from_folder.empty() || *from_folder.begin() == "..")
      lesson.outside.push_back({.path = path, .full = there.string()});
  }
}

Lesson parse_lesson(std::string_view text, const std::string& name) {
  check_depth(text, name);
  Lesson lesson;
  try {
    read_section(lesson, toml::parse(text, name), "", name);
  } catch (const toml::parse_error& error) {
    throw FileError({.what = fmt::format("{} is not TOML", name),
                     .where = place(name, error.source().begin),
                     .expected = "lines such as rate = 0.01, and sections such as [training]",
                     .found = std::string(error.description())});
  }
  return lesson;
}

Json to_json(const Lesson& lesson) {
  Json json = Json::object();
  for (const LessonSetting& setting : lesson_settings()) {
    const Json value = setting.get(lesson);
    if (value.is_null()) continue;
    if (setting.section.empty()) {
      json[setting.key] = value;
    } else {
      json[setting.section][setting.key] = value;
    }
  }
  return json;
}

Lesson lesson_from_json(const Json& json) {
  Lesson lesson;
  const auto read = [&](const Json& object, const std::string& section) {
    for (const auto& [key, value] : object.items()) {
      if (section.empty() && value.is_object()) continue;
      const LessonSetting* const setting = find_setting(section, key);
      if (setting == nullptr) refuse_key(key, "the lesson in the file", section);
      set_at(lesson, *setting, value, "the lesson in the file");
    }
  };
  read(json, "");
  for (const auto& [key, value] : json.items()) {
    if (value.is_object()) read(value, key);
  }
  return lesson;
}

std::string to_toml(const Lesson& lesson, const Lesson& in_force) {
  std::string text;
  std::string section;
  for (const LessonSetting& setting : lesson_settings()) {
    if (setting.section != section) {
      section = setting.section;
      text += fmt::format("\n[{}]\n", section);
    }
    text += fmt::format("# {}.\n", setting.sentence);
    if (const Json value = setting.get(lesson); !value.is_null()) {
      text += fmt::format("{} = {}\n", setting.key, toml_value(value));
    } else if (const auto without = value_in_force(setting, in_force)) {
      text += fmt::format("# {} = {}\n", setting.key, *without);
    }
  }
  return text;
}

}  // namespace lattice
