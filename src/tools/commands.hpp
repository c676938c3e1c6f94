#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "tools/console.hpp"
#include "tools/verb.hpp"

/// The verbs of the command, one file each: its options and its action.
namespace lattice::tools {

/// Thrown by a verb whose check failed (exit status 1).
struct AnswerIsNo {};

/// Runs the command with these arguments, without its own name.
Exit run(const std::vector<std::string>& arguments, Console& console);

[[nodiscard]] Verb demo_verb(Console& console);
[[nodiscard]] Verb data_verb(Console& console);
[[nodiscard]] Verb plan_verb(Console& console);
[[nodiscard]] Verb work_verb(Console& console);
[[nodiscard]] Verb why_verb(Console& console);
[[nodiscard]] Verb check_verb(Console& console);
[[nodiscard]] Verb train_verb(Console& console);
[[nodiscard]] Verb assess_verb(Console& console);
[[nodiscard]] Verb ask_verb(Console& console);
[[nodiscard]] Verb compare_verb(Console& console);
[[nodiscard]] Verb draw_verb(Console& console);
[[nodiscard]] Verb mark_verb(Console& console);
[[nodiscard]] Verb new_verb(Console& console);
[[nodiscard]] Verb about_verb(Console& console);

/// Declares `--step`, for verbs that work one step of a run.
void declare_step(Verb& verb, std::optional<std::int64_t>& step);

/// The version of the library that parses the command line.
[[nodiscard]] std::string parser_version();

}  // namespace lattice::tools
