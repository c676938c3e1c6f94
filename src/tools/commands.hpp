#pragma once

#include <string>
#include <vector>

#include "tools/console.hpp"

namespace CLI {
class App;
}

/// The verbs of the command, one file each. `add_…` declares a verb with its options and says what
/// runs when it is asked for.
namespace lattice::tools {

/// Thrown by a verb that has done its work, and whose answer is no.
struct AnswerIsNo {};

/// Runs the command with these arguments, its own name not among them.
Exit run(const std::vector<std::string>& arguments, Console& console);

void add_demo(CLI::App& app, Console& console);
void add_work(CLI::App& app, Console& console);
void add_why(CLI::App& app, Console& console);
void add_check(CLI::App& app, Console& console);
void add_train(CLI::App& app, Console& console);
void add_about(CLI::App& app, Console& console);

}  // namespace lattice::tools
