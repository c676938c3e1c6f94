#include <memory>

#include "tools/commands.hpp"
#include "tools/settings.hpp"

namespace lattice::tools {

void add_check(CLI::App& app, Console& console) {
  struct Asked {
    Settings settings;
    CheckSettings check;
  };
  auto asked = std::make_shared<Asked>();
  CLI::App& verb =
      *app.add_subcommand("check", "Put the gradients of a minibatch beside central differences");
  const auto number_option = [&](const char* name, double& number, const char* sentence) {
    verb.add_option_function<std::string>(
            name,
            [name, &number](const std::string& text) { number = positive_number(name, text); },
            sentence)
        ->type_name("NUMBER")
        ->group("Check");
  };
  number_option("--step", asked->check.step, "How far each number is moved (default 1e-5)");
  number_option("--tolerance", asked->check.tolerance,
                "The largest error that passes (default 1e-6)");
  asked->settings.declare(verb);
  verb.callback([asked, &console] {
    const Settings& settings = asked->settings;
    const Lesson lesson(settings);
    const GradientCheck check = lesson.work(settings).check(asked->check);
    if (settings.json) {
      Json json = to_json(check);
      json["settings"] = settings_json(settings, lesson);
      write(console.out, json);
    } else {
      TerminalStyle style = console.style;
      style.digits = settings.digits;
      console.out << settings_text(settings, lesson, style)
                  << show_heading("gradients and central differences", style)
                  << show_check(check, style);
    }
    if (!check.agrees()) throw AnswerIsNo{};
  });
}

}  // namespace lattice::tools
