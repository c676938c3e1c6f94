#include <memory>
#include <optional>

#include "lattice/worksheet/watch.hpp"
#include "tools/commands.hpp"
#include "tools/settings.hpp"

namespace lattice::tools {

void add_work(CLI::App& app, Console& console) {
  auto settings = std::make_shared<Settings>();
  CLI::App& verb = *app.add_subcommand("work", "Work one minibatch line by line");
  settings->declare(verb);
  verb.callback([settings, &console] {
    const Lesson lesson(*settings);
    const WorkedExample example = lesson.work(*settings);
    if (const std::optional<Alarm> alarm = watch(example.sheet()))
      console.err << alarm->text() << "\n";
    if (settings->json) {
      Json json = to_json(example);
      json["settings"] = settings_json(*settings, lesson);
      write(console.out, json);
      return;
    }
    TerminalStyle style = console.style;
    style.digits = settings->digits;
    console.out << settings_text(*settings, lesson, style)
                << show_worked_example(example, style, lesson.names());
  });
}

}  // namespace lattice::tools
