#include <fmt/format.h>

#include <limits>
#include <memory>
#include <optional>

#include "lattice/worksheet/watch.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

CLI::Option* declare_step(CLI::App& verb, std::int64_t& step) {
  return text_option(
             verb, "--step",
             [&step](const std::string& text) {
               step = whole_number("--step", text, 1, std::numeric_limits<std::int64_t>::max());
             },
             "Which step of the run, from 1 (the default)", "N")
      ->group("Question");
}

void add_work(CLI::App& app, Console& console) {
  struct Asked {
    LessonOptions options;
    std::int64_t step = 1;
  };
  auto asked = std::make_shared<Asked>();
  CLI::App& verb = *app.add_subcommand("work", "Work one minibatch line by line");
  asked->options.declare(verb);
  declare_step(verb, asked->step);
  verb.callback([asked, &console] {
    const Lesson lesson = asked->options.lesson();
    const Prepared prepared = prepare(lesson);
    const WorkedExample example = prepared.work(asked->step);
    if (const std::optional<Alarm> alarm = watch(example.sheet()))
      console.err << alarm->text() << "\n";
    say(remarks_on(prepared.network), lesson, console);
    say(remarks_on(example.sheet()), lesson, console);
    if (asked->options.json) {
      Json json = to_json(example);
      json["step"] = asked->step;
      json["settings"] = settings_json(lesson);
      write(console.out, json);
      return;
    }
    TerminalStyle style = console.style;
    style.digits = asked->options.digits;
    console.out << settings_text(lesson, prepared, style)
                << show_worked_example(example, style, names_of(prepared.data()));
  });
}

}  // namespace lattice::tools
