#include "tools/draw_network.hpp"

#include <filesystem>
#include <limits>
#include <memory>
#include <system_error>

#include "lattice/show/charts.hpp"
#include "tools/asked_sheet.hpp"
#include "tools/options.hpp"
#include "tools/outputs.hpp"

namespace lattice::tools {

namespace {

void declare_network(Verb& verb, Console& console) {
  struct Asked {
    LessonOptions options;
    SheetQuestion sheet;
    std::string out = "network.svg";
    std::int64_t example = 0;
    bool gradients = false;
  };
  auto asked = std::make_shared<Asked>();
  verb.heading("Picture");
  verb.file("--out", asked->out, "The picture: .svg or .png (default network.svg)", "FILE");
  verb.read(
      "--example",
      [asked](const std::string& text) {
        asked->example =
            whole_number("--example", text, 0, std::numeric_limits<std::int64_t>::max());
      },
      "Which example of the minibatch, from 0 (the default)", "N");
  verb.flag("--gradients", asked->gradients,
            "The gradients of the reverse sweep in place of the values");
  verb.heading("Question");
  asked->sheet.declare(verb, SheetQuestion::Answers::yes);
  asked->options.declare(verb, console);
  verb.runs([asked, &console] {
    Chart::check_ending(asked->out);
    check_outputs({{"--out", asked->out}}, {asked->options.subject}, console);
    const AskedSheet sheet = asked->sheet.work(asked->options, console);
    const std::string title = sheet.words.empty() ? sheet.data : sheet.words.front();
    network_chart(title, sheet.work, sheet.names, asked->example, asked->gradients)
        .write(asked->out);
    if (asked->options.json) {
      std::error_code problem;
      const auto bytes = std::filesystem::file_size(asked->out, problem);
      write(
          console.out,
          {{"chart", "network"}, {"file", asked->out}, {"bytes", problem ? Json() : Json(bytes)}});
    } else {
      console.print_line(written(asked->out));
    }
  });
}

}  // namespace

Verb network_verb(Console& console) {
  return {"network", "A network for one example: units with their values, and weights between",
          console, declare_network};
}

}  // namespace lattice::tools
