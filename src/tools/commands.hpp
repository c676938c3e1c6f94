#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "tools/console.hpp"

namespace CLI {
class App;
class Option;
}  // namespace CLI

/// The verbs of the command, one file each. `add_…` declares a verb with its options and says what
/// runs when it is asked for.
namespace lattice::tools {

/// Thrown by a verb that has done its work, and whose answer is no.
struct AnswerIsNo {};

/// Runs the command with these arguments, its own name not among them.
Exit run(const std::vector<std::string>& arguments, Console& console);

void add_demo(CLI::App& app, Console& console);
void add_data(CLI::App& app, Console& console);
void add_plan(CLI::App& app, Console& console);
void add_work(CLI::App& app, Console& console);
void add_why(CLI::App& app, Console& console);
void add_check(CLI::App& app, Console& console);
void add_train(CLI::App& app, Console& console);
void add_assess(CLI::App& app, Console& console);
void add_ask(CLI::App& app, Console& console);
void add_draw(CLI::App& app, Console& console);
void add_compare(CLI::App& app, Console& console);
void add_new(CLI::App& app, Console& console);
void add_about(CLI::App& app, Console& console);

/// Declares `--step`, for the verbs that work one step of a run.
CLI::Option* declare_step(CLI::App& verb, std::int64_t& step);

}  // namespace lattice::tools
