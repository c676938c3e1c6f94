#include "tools/variants.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <utility>

#include "files/file.hpp"
#include "lattice/files/json.hpp"
#include "lattice/lessons/prepare.hpp"
#include "lattice/show/page.hpp"
#include "lattice/text/error.hpp"
#include "tools/outputs.hpp"

namespace lattice::tools {
namespace {

Json in_json(const Variant& variant, const std::string& page) {
  Json answers = Json::array();
  for (const AnswerKey::Answer& each : variant.key.answers) {
    answers.push_back({{"number", each.number}, {"answer", each.answer}, {"within", each.within}});
  }
  return {{"variant", variant.number},
          {"exercise", variant.key.id},
          {"page", page},
          {"answers", std::move(answers)}};
}

/// How many blanks each table has.
std::map<std::string, std::int64_t> tables_of(const AnswerKey& key) {
  std::map<std::string, std::int64_t> counts;
  for (const AnswerKey::Answer& each : key.answers)
    ++counts[each.table];
  return counts;
}

/// A path without its ending.
std::string stem_of(const std::filesystem::path& path) {
  return (path.parent_path() / path.stem()).string();
}

/// The path of one of so many; empty where there is none.
std::string numbered(const std::string& path, std::int64_t number, std::int64_t count) {
  if (path.empty()) return "";
  const std::size_t digits = std::max<std::size_t>(2, fmt::format("{}", count).size());
  return fmt::format("{}-{:0{}}{}", stem_of(path), number, digits,
                     std::filesystem::path(path).extension().string());
}

}  // namespace

VariantSeries::VariantSeries(Lesson lesson, std::vector<std::int64_t> steps, Exercise exercise)
    : lesson_(std::move(lesson)),
      steps_(std::move(steps)),
      exercise_(std::move(exercise)),
      seed_(lesson_.seed) {}

/// The variant of a seed; nothing where its numbers do not allow such an exercise.
std::optional<Variant> VariantSeries::variant_of(std::uint64_t seed) const {
  Lesson lesson = lesson_;
  lesson.seed = seed;
  Variant variant{.number = std::ssize(ids_) + 1,
                  .seed = seed,
                  .example = prepare(lesson).work(steps_),
                  .exercise = exercise_,
                  .key = {}};
  variant.exercise.seed += seed - lesson_.seed;
  try {
    variant.key = answer_key(variant.example, variant.exercise);
  } catch (const SettingError&) {
    if (ids_.empty()) throw;
    return std::nullopt;
  }
  return variant;
}

Variant VariantSeries::next() {
  constexpr int most_tries = 100;
  for (int tries = 0; tries < most_tries; ++tries) {
    std::optional<Variant> variant = variant_of(seed_++);
    if (!variant || !ids_.insert(variant->key.id).second) continue;
    // Numbers that were named stay the same in all of them.
    if (variant->number == 1 && exercise_.named.empty()) exercise_.like = tables_of(variant->key);
    return *std::move(variant);
  }
  throw SettingError({.what = "there are not so many different variants",
                      .expected = fmt::format("up to {}", ids_.size()),
                      .found = "more",
                      .remedy = "fewer blanks, or more rows"});
}

VariantFiles::VariantFiles(const std::string& html, const std::string& pdf, std::int64_t count)
    : html_(html),
      pdf_(pdf),
      count_(count),
      key_(stem_of(html.empty() ? pdf : html) + "-key.json") {}

std::string VariantFiles::html(std::int64_t number) const {
  return numbered(html_, number, count_);
}

std::string VariantFiles::pdf(std::int64_t number) const {
  return numbered(pdf_, number, count_);
}

std::vector<Output> VariantFiles::outputs() const {
  std::vector<Output> all;
  for (std::int64_t number = 1; number <= count_; ++number) {
    all.push_back({"--html", html(number)});
    all.push_back({"--pdf", pdf(number)});
  }
  all.push_back({html_.empty() ? "--pdf" : "--html", key_});
  return all;
}

void write_variants(VariantSeries series, const VariantFiles& files, int digits,
                    const Console& console) {
  Json key = Json::array();
  std::string title;
  for (std::int64_t number = 1; number <= files.count(); ++number) {
    const Variant variant = series.next();
    title = variant.example.title;
    const PageSettings page = {
        .exercise = variant.exercise, .variant = variant.number, .digits = digits};
    const std::string html = files.html(number);
    const std::string pdf = files.pdf(number);
    if (!html.empty()) write_page(html, variant.example, page);
    if (!html.empty()) console.print_line(written(html));
    if (!pdf.empty()) write_pdf(pdf, variant.example, page);
    if (!pdf.empty()) console.print_line(written(pdf));
    const std::filesystem::path named = html.empty() ? pdf : html;
    key.push_back(in_json(variant, named.filename().string()));
  }
  write_file(files.key(), json_text({{"key", title}, {"variants", key}}, 1) + "\n");
  console.print_line(written(files.key()) + "  answer key: to mark, lattice mark");
}

}  // namespace lattice::tools
