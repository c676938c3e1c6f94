#include "tools/variants.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>

#include "files/file.hpp"
#include "lattice/files/json.hpp"
#include "lattice/lessons/prepare.hpp"
#include "lattice/show/page.hpp"
#include "lattice/text/error.hpp"
#include "tools/outputs.hpp"

namespace lattice::tools {
namespace {

/// One variant: the lesson with a seed of its own, and its exercise.
struct Variant {
  WorkedExample example;
  Exercise exercise;
  AnswerKey key;
};

/// The variant of a seed; nothing where its numbers do not allow such an exercise.
std::optional<Variant> variant_of(Lesson lesson, std::uint64_t seed, const Variants& variants,
                                  const Exercise& exercise) {
  const std::uint64_t lesson_seed = lesson.seed;
  lesson.seed = seed;
  Variant variant{.example = prepare(lesson).work(variants.steps), .exercise = exercise, .key = {}};
  variant.exercise.seed += seed - lesson_seed;
  try {
    variant.key = answer_key(variant.example, variant.exercise);
  } catch (const SettingError&) {
    if (exercise.like.empty()) throw;
    return std::nullopt;
  }
  return variant;
}

Json in_json(const AnswerKey& key, std::int64_t number, const std::string& page) {
  Json answers = Json::array();
  for (const AnswerKey::Answer& each : key.answers) {
    answers.push_back({{"number", each.number}, {"answer", each.answer}, {"within", each.within}});
  }
  return {{"variant", number}, {"exercise", key.id}, {"page", page}, {"answers", answers}};
}

/// How many blanks each table has.
std::map<std::string, std::int64_t> tables_of(const AnswerKey& key) {
  std::map<std::string, std::int64_t> counts;
  for (const AnswerKey::Answer& each : key.answers)
    ++counts[each.table];
  return counts;
}

}  // namespace

std::vector<std::string> Variants::paths() const {
  const std::filesystem::path path = html;
  const std::string stem = (path.parent_path() / path.stem()).string();
  const std::size_t digits = std::max<std::size_t>(2, fmt::format("{}", count).size());
  std::vector<std::string> all;
  for (std::int64_t each = 1; each <= count; ++each)
    all.push_back(fmt::format("{}-{:0{}}{}", stem, each, digits, path.extension().string()));
  all.push_back(stem + "-key.json");
  return all;
}

void write_variants(const Variants& variants, const Lesson& lesson, const Console& console) {
  const std::vector<std::string> paths = variants.paths();
  // So many seeds are tried for each.
  constexpr std::uint64_t most_tries = 20;
  const std::uint64_t last = lesson.seed + static_cast<std::uint64_t>(variants.count) * most_tries;
  std::set<std::string> ids;
  Exercise exercise = variants.exercise;
  Json key = Json::array();
  std::string title;
  std::uint64_t seed = lesson.seed;
  for (std::int64_t number = 1; number <= variants.count; ++seed) {
    if (seed > last) {
      throw SettingError({.what = "there are not so many different variants",
                          .expected = fmt::format("up to {}", number - 1),
                          .found = fmt::format("{}", variants.count),
                          .remedy = "fewer blanks, or more rows"});
    }
    const std::optional<Variant> variant = variant_of(lesson, seed, variants, exercise);
    if (!variant || !ids.insert(variant->key.id).second) continue;
    if (number == 1) {
      // Numbers that were named stay the same in all of them.
      exercise.like = exercise.named.empty() ? tables_of(variant->key) : exercise.like;
      title = variant->example.title;
    }
    const std::string& path = paths[static_cast<std::size_t>(number - 1)];
    write_page(path, variant->example,
               {.exercise = variant->exercise, .variant = number, .digits = variants.digits});
    console.print_line(written(path));
    key.push_back(in_json(variant->key, number, std::filesystem::path(path).filename().string()));
    ++number;
  }
  write_file(paths.back(), json_text({{"key", title}, {"variants", key}}, 1) + "\n");
  console.print_line(written(paths.back()) + "  answer key: to mark, lattice mark");
}

}  // namespace lattice::tools
