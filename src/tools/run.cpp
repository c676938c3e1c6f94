#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <new>
#include <system_error>

#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/version.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

/// What is wrong with the count of something.
std::string in_our_words(const CLI::ParseError& error) {
  std::string said = error.what();
  const std::string option = said.substr(0, said.find(':'));
  if (said.find("At Most") != std::string::npos)
    return fmt::format("{} was given more than once", option);
  if (error.get_name() == "ArgumentMismatch") return fmt::format("{} needs a value", option);
  return said;
}

/// What cannot be understood on the command line, said in our way.
Trouble understood_as(const CLI::ParseError& error, const CLI::App& app) {
  const std::vector<CLI::App*> chosen = app.get_subcommands();
  const CLI::App& verb = chosen.empty() ? app : *chosen.front();
  const std::string help =
      chosen.empty() ? "lattice --help" : fmt::format("lattice {} --help", verb.get_name());
  const std::vector<std::string> left = app.remaining(true);
  if (left.empty()) return {.what = in_our_words(error), .remedy = help};

  std::vector<std::string> known;
  if (left.front().starts_with("-")) {
    for (const CLI::Option* option : verb.get_options())
      known.push_back(option->get_name());
  } else if (chosen.empty()) {
    for (const CLI::App* each : app.get_subcommands({}))
      known.push_back(each->get_name());
  }
  const std::string near = nearest(left.front(), known);
  return {.what = fmt::format("unknown argument '{}'", left.front()),
          .where = chosen.empty() ? "" : "lattice " + verb.get_name(),
          .remedy = near.empty() ? help : fmt::format("{} Else: {}", did_you_mean(near), help)};
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

/// `--shuffled false` as `--shuffled=false`: a yes or no stands behind its flag, as a number does.
std::vector<std::string> with_yes_or_no(std::vector<std::string> arguments) {
  for (std::size_t at = 0; at + 1 < arguments.size(); ++at) {
    const std::string answer = arguments[at + 1];
    const bool is_flag =
        arguments[at].starts_with("--") && arguments[at].find('=') == std::string::npos;
    if (!is_flag || (answer != "true" && answer != "false")) continue;
    arguments[at] += "=" + answer;
    arguments.erase(arguments.begin() + static_cast<std::ptrdiff_t>(at) + 1);
  }
  return arguments;
}

/// The name of an option, without its second one.
std::string first_name(const Option& option) {
  return option.name.substr(0, option.name.find(','));
}

/// Declares an option, `needs` and `excludes` aside.
void declare(CLI::App& app, const Option& option) {
  CLI::Option* declared = nullptr;
  if (option.takes == Option::Takes::none) {
    declared = app.add_flag_function(
        option.name, [&option](std::int64_t count) { option.read({count > 0 ? "true" : "false"}); },
        option.sentence);
  } else if (option.takes == Option::Takes::one) {
    declared = app.add_option_function<std::string>(
        option.name, [&option](const std::string& text) { option.read({text}); }, option.sentence);
  } else {
    declared = app.add_option_function<std::vector<std::string>>(option.name, option.read,
                                                                 option.sentence);
    const bool has_dashes = option.name.starts_with("-");
    if (option.takes == Option::Takes::two) declared->expected(2);
    if (option.takes == Option::Takes::repeated && has_dashes) declared->allow_extra_args(false);
  }
  if (!option.type.empty()) declared->type_name(option.type);
  declared->group(option.heading)->required(option.demands.required);
}

/// Declares a verb, and the verbs it has; what may be said behind it only where the words name it.
/// It has to stay where it is while the command runs.
void declare(CLI::App& app, Verb& verb, const std::vector<std::string>& words, Console& console) {
  CLI::App& declared = *app.add_subcommand(verb.name(), verb.sentence());
  const auto is_said = [&](const std::string& word) {
    return std::ranges::find(words, word) != words.end();
  };
  if (!is_said(verb.name()) && !is_said("--help-all")) return;
  verb.declare();
  const bool prints_numbers =
      std::ranges::find(verb.options(), "--digits", &Option::name) != verb.options().end();
  if (prints_numbers && app.get_parent() == nullptr) declare_width(verb, console.style);
  for (const Option& option : verb.options())
    declare(declared, option);
  for (const Option& option : verb.options()) {
    CLI::Option* const asking = declared.get_option(first_name(option));
    if (!option.demands.needs.empty()) asking->needs(declared.get_option(option.demands.needs));
    if (!option.demands.excludes.empty())
      asking->excludes(declared.get_option(option.demands.excludes));
  }
  for (Verb& inner : verb.verbs())
    declare(declared, inner, words, console);
  if (!verb.verbs().empty()) declared.require_subcommand(1);
  if (verb.run()) declared.callback(verb.run());
}

/// Does what the words say, or tells what in them is not understood.
Exit obey(const std::vector<std::string>& arguments, Console& console) {
  CLI::App app("Open Lattice works small networks number by number, and explains every number.",
               "lattice");
  app.require_subcommand(1);
  app.set_version_flag("--version", std::string("Open Lattice ") + version, "The version");
  app.set_help_all_flag("--help-all", "The help of every verb");
  std::vector<Verb> verbs = {demo_verb(console),    data_verb(console),   plan_verb(console),
                             work_verb(console),    why_verb(console),    check_verb(console),
                             train_verb(console),   assess_verb(console), ask_verb(console),
                             compare_verb(console), draw_verb(console),   mark_verb(console),
                             new_verb(console),     about_verb(console)};
  for (Verb& verb : verbs)
    declare(app, verb, arguments, console);
  if (arguments.empty()) {
    console.out << app.help();
    return Exit::done;
  }
  try {
    std::vector<std::string> told = with_yes_or_no(with_json_told(arguments));
    std::ranges::reverse(told);
    app.parse(std::move(told));
    return Exit::done;
  } catch (const CLI::Success& asked_for_help) {
    app.exit(asked_for_help, console.out, console.err);
    return Exit::done;
  } catch (const CLI::ParseError& error) {
    throw Error(understood_as(error, app));
  }
}

}  // namespace

Exit run(const std::vector<std::string>& arguments, Console& console) {
  try {
    return obey(arguments, console);
  } catch (const AnswerIsNo&) {
    return Exit::answer_is_no;
  } catch (const Error& error) {
    Trouble trouble = error.trouble();
    trouble.remedy = in_flags(trouble.remedy, trouble.advice);
    console.err << Error(std::move(trouble)).what() << "\n";
    return Exit::bad_input;
  } catch (const std::bad_alloc&) {
    // No message is put together where there is no memory for one.
    console.err << "there is not enough memory for this\n"
                   "  try:      smaller data, minibatches or networks, or single precision\n";
    return Exit::bad_input;
  } catch (const std::system_error& error) {
    console.tell("the machine refuses something that the work needs: " + error.code().message() +
                 "\n");
    return Exit::bad_input;
  } catch (const std::exception& error) {
    console.tell(
        fmt::format("internal error (a bug in Open Lattice): {}\n"
                    "  try:      tell us what you asked for; nothing was written over\n",
                    error.what()));
    return Exit::our_fault;
  }
}

std::string parser_version() {
  return CLI11_VERSION;
}

}  // namespace lattice::tools
