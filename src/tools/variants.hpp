#pragma once

#include <cstdint>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "lattice/learning/worked_example.hpp"
#include "lattice/lessons/lesson.hpp"
#include "lattice/show/exercise.hpp"
#include "tools/console.hpp"
#include "tools/outputs.hpp"

namespace lattice::tools {

/// One variant of an exercise: the lesson with a seed of its own.
struct Variant {
  std::int64_t number;
  std::uint64_t seed;
  WorkedExample example;
  Exercise exercise;
  AnswerKey key;
};

/// The variants of an exercise for a class, one after another: the same lesson with other rows and
/// other start weights, as many blanks in the same tables.
class VariantSeries {
 public:
  /// @param steps of the lesson that are shown
  /// @param exercise of the first; the others are like it
  VariantSeries(Lesson lesson, std::vector<std::int64_t> steps, Exercise exercise);

  /// The next one, from 1. @throws SettingError when there is none that differs from all before.
  [[nodiscard]] Variant next();

 private:
  [[nodiscard]] std::optional<Variant> variant_of(std::uint64_t seed) const;

  Lesson lesson_;
  std::vector<std::int64_t> steps_;
  Exercise exercise_;
  std::uint64_t seed_;  ///< of the one that is tried next
  std::set<std::string> ids_ = {};
};

/// The files of so many variants: of `exercise.html` the pages exercise-01.html and so on, the same
/// of a PDF, and one answer key, exercise-key.json.
class VariantFiles {
 public:
  /// @param html, pdf empty where the variants are not written so; not both
  VariantFiles(const std::string& html, const std::string& pdf, std::int64_t count);

  [[nodiscard]] std::int64_t count() const { return count_; }
  [[nodiscard]] const std::string& key() const { return key_; }

  /// The page and the PDF of a variant, from 1; empty where there is none.
  [[nodiscard]] std::string html(std::int64_t number) const;
  [[nodiscard]] std::string pdf(std::int64_t number) const;

  /// All of them, with their options.
  [[nodiscard]] std::vector<Output> outputs() const;

 private:
  std::string html_;
  std::string pdf_;
  std::int64_t count_;
  std::string key_;
};

/// Writes the variants, and one key to all of them.
void write_variants(VariantSeries series, const VariantFiles& files, int digits,
                    const Console& console);

}  // namespace lattice::tools
