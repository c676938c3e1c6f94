#include "tools/named.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <system_error>

#include "files/file.hpp"
#include "lattice/data/demo_sets.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/text/error.hpp"
#include "text/typed.hpp"

namespace lattice::tools {
namespace {

/// Whether a file begins as JSON does, or as CBOR with a map (RFC 8949, 3.1).
bool begins_as_model(const std::string& path) {
  const std::string first = first_bytes(path, 1);
  if (first.empty()) return false;
  constexpr unsigned major_type = 0xE0;
  constexpr unsigned map = 0xA0;
  return first == "{" || (static_cast<unsigned char>(first[0]) & major_type) == map;
}

}  // namespace

Named what_is_named(const std::string& word) {
  if (word.empty()) return Named::nothing;
  if (word.ends_with(".toml")) return Named::lesson_file;
  if (word.ends_with(".sheet")) return Named::sheet_file;
  if (word.ends_with(".lattice")) return Named::model_file;
  if (std::ranges::find(demo_sets(), word, &DemoSet::name) != demo_sets().end())
    return Named::demo_set;
  if (is_plain_file(word) && begins_as_model(word)) return Named::model_file;
  // A link to nowhere is a file, too, and refused when it is read.
  std::error_code problem;
  const bool is_there = std::filesystem::exists(std::filesystem::symlink_status(word, problem));
  return is_there ? Named::lesson_file : Named::demo_set;
}

bool is_model_file(const std::string& word) {
  return what_is_named(word) == Named::model_file;
}

Lesson lesson_named(const std::string& word) {
  Lesson lesson;
  switch (what_is_named(word)) {
    case Named::lesson_file:
      return read_lesson(word);
    case Named::model_file:
      // What only looks like a model is refused as such.
      static_cast<void>(load_model(word));
      throw SettingError({.what = fmt::format("{} is a trained model", word),
                          .expected = "a lesson file or a demo set",
                          .found = "a model",
                          .remedy = "lattice assess " + typed(word)});
    case Named::sheet_file:
      throw SettingError({.what = fmt::format("{} is a sheet", word),
                          .expected = "a lesson file or a demo set",
                          .found = "a sheet",
                          .remedy = "lattice work " + typed(word)});
    case Named::demo_set:
      lesson.data.set = word;
      break;
    case Named::nothing:
      break;
  }
  return lesson;
}

}  // namespace lattice::tools
