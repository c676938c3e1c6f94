#include <memory>

#include "tools/asked_sheet.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

namespace {

void declare_check(Verb& verb, Console& console) {
  struct Asked {
    LessonOptions options;
    CheckSettings check;
    SheetQuestion sheet;
  };
  auto asked = std::make_shared<Asked>();
  verb.heading("Check");
  const auto number_option = [&](const char* name, double& number, const char* sentence) {
    verb.read(
        name, [name, &number](const std::string& text) { number = positive_number(name, text); },
        sentence, "NUMBER");
  };
  number_option("--move", asked->check.step, "How far each number is moved (default 1e-5)");
  number_option("--tolerance", asked->check.tolerance,
                "The largest error that passes (default 1e-6)");
  verb.heading("Question");
  asked->sheet.declare(verb, SheetQuestion::Answers::no);
  asked->options.declare(verb, console);
  verb.runs([asked, &console] {
    const AskedSheet sheet = asked->sheet.work(asked->options, console);
    const GradientCheck check = sheet.work.check(asked->check);
    if (asked->options.json) {
      Json json = to_json(check);
      json["settings"] = sheet.settings;
      write(console.out, json);
    } else {
      TerminalStyle style = console.style;
      style.digits = asked->options.digits;
      console.out << settings_text(sheet.words, console.style)
                  << show_heading("gradients and central differences", style)
                  << show_check(check, style);
    }
    if (!check.agrees()) throw AnswerIsNo{};
  });
}

}  // namespace

Verb check_verb(Console& console) {
  return {"check", "Compare the gradients of a minibatch with central differences", console,
          declare_check};
}

}  // namespace lattice::tools
