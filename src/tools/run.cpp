#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/text.hpp"
#include "tools/commands.hpp"
#include "tools/version.hpp"

namespace lattice::tools {
namespace {

/// What cannot be understood on the command line, said in our way.
Trouble understood_as(const CLI::ParseError& error, const CLI::App& app) {
  const std::vector<CLI::App*> chosen = app.get_subcommands();
  const CLI::App& verb = chosen.empty() ? app : *chosen.front();
  const std::string help =
      chosen.empty() ? "lattice --help" : fmt::format("lattice {} --help", verb.get_name());
  const std::vector<std::string> left = app.remaining(true);
  if (left.empty()) return {.what = error.what(), .remedy = help};

  std::vector<std::string> known;
  if (left.front().starts_with("-")) {
    for (const CLI::Option* option : verb.get_options())
      known.push_back(option->get_name());
  } else if (chosen.empty()) {
    for (const CLI::App* each : app.get_subcommands({}))
      known.push_back(each->get_name());
  }
  const std::string near = nearest(left.front(), known);
  return {.what = fmt::format("'{}' is not understood here", left.front()),
          .where = chosen.empty() ? "" : "lattice " + verb.get_name(),
          .remedy = near.empty() ? help : fmt::format("did you mean {}? Else: {}", near, help)};
}

/// `work --json` writes to a file when one is named behind it, and else prints: the command line
/// has to be told, as it would take the next word for the file.
std::vector<std::string> with_json_told(std::vector<std::string> arguments) {
  if (arguments.empty() || arguments.front() != "work") return arguments;
  for (std::size_t at = 1; at < arguments.size(); ++at) {
    const bool has_file = at + 1 < arguments.size() && arguments[at + 1].ends_with(".json");
    if (arguments[at] == "--json" && !has_file) arguments[at] = "--json=-";
  }
  return arguments;
}

}  // namespace

Exit run(const std::vector<std::string>& arguments, Console& console) {
  CLI::App app("Open Lattice works small networks number by number, and explains every number.",
               "lattice");
  app.require_subcommand(1);
  app.set_version_flag("--version", std::string("Open Lattice ") + version, "The version");
  app.set_help_all_flag("--help-all", "The help of every verb");
  add_demo(app, console);
  add_data(app, console);
  add_plan(app, console);
  add_work(app, console);
  add_why(app, console);
  add_check(app, console);
  add_train(app, console);
  add_assess(app, console);
  add_ask(app, console);
  add_compare(app, console);
  add_draw(app, console);
  add_new(app, console);
  add_about(app, console);

  try {
    std::vector<std::string> told = with_json_told(arguments);
    std::ranges::reverse(told);
    app.parse(std::move(told));
    return Exit::done;
  } catch (const CLI::Success& asked_for_help) {
    app.exit(asked_for_help, console.out, console.err);
    return Exit::done;
  } catch (const AnswerIsNo&) {
    return Exit::answer_is_no;
  } catch (const CLI::ParseError& error) {
    console.err << Error(understood_as(error, app)).what() << "\n";
    return Exit::bad_input;
  } catch (const Error& error) {
    console.err << error.what() << "\n";
    return Exit::bad_input;
  } catch (const std::exception& error) {
    console.err << "a fault of ours: " << error.what() << "\n";
    return Exit::our_fault;
  }
}

}  // namespace lattice::tools
