#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "lattice/files/json.hpp"
#include "lattice/text/words.hpp"

namespace lattice::tools {

/// How a blank was answered.
enum class Mark : std::uint8_t { right, wrong, shown, empty };

inline constexpr Words<Mark> mark_words = {
    {Mark::right, "right"}, {Mark::wrong, "wrong"}, {Mark::shown, "shown"}, {Mark::empty, "empty"}};

/// What a student did about a blank.
struct BlankAnswer {
  std::string number = {};  ///< the name of the blank
  std::string typed = {};
  std::optional<double> value = std::nullopt;  ///< of what was typed, if it is a number
  Mark state = Mark::empty;                    ///< as whoever wrote it judged
  std::int64_t tries = 0;
  std::int64_t hints = 0;  ///< 0 to 2: its formula, and the numbers in it
};

/// The answers to an exercise, as pages and the prompt write them.
struct Answers {
  std::string exercise;  ///< its id
  std::int64_t variant = 0;
  std::string page = {};  ///< the title of the exercise
  std::string name = {};  ///< whose they are
  std::vector<BlankAnswer> blanks = {};
};

/// Reads answers; nothing where a file holds something else.
[[nodiscard]] std::optional<Answers> read_answers(const std::filesystem::path& path);

[[nodiscard]] Json to_json(const Answers& answers);

}  // namespace lattice::tools
