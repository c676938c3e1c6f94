#include "tools/draw_graph.hpp"

#include <filesystem>
#include <memory>
#include <system_error>

#include "lattice/show/graph.hpp"
#include "tools/asked_sheet.hpp"
#include "tools/options.hpp"
#include "tools/outputs.hpp"

namespace lattice::tools {

namespace {

void declare_graph(Verb& verb, Console& console) {
  struct Asked {
    LessonOptions options;
    SheetQuestion sheet;
    std::string out = "graph.svg";
    GraphSettings settings;
  };
  auto asked = std::make_shared<Asked>();
  verb.heading("Picture");
  verb.file("--out", asked->out, "The picture: .svg, .png, .pdf or .dot (default graph.svg)",
            "FILE");
  verb.flag("--gradients", asked->settings.gradients, "Say what the reverse sweep passes on");
  verb.heading("Question");
  asked->sheet.declare(verb, SheetQuestion::Answers::yes);
  asked->options.declare(verb, console);
  verb.runs([asked, &console] {
    check_graph_ending(asked->out);
    check_outputs({{"--out", asked->out}}, {asked->options.subject}, console);
    const AskedSheet sheet = asked->sheet.work(asked->options, console);
    write_graph(asked->out, sheet.work, asked->settings);
    if (asked->options.json) {
      std::error_code problem;
      const auto bytes = std::filesystem::file_size(asked->out, problem);
      write(console.out,
            {{"chart", "graph"}, {"file", asked->out}, {"bytes", problem ? Json() : Json(bytes)}});
    } else {
      console.print_line(written(asked->out));
    }
  });
}

}  // namespace

Verb graph_verb(Console& console) {
  return {"graph", "A calculation as a graph: the lines of a minibatch, a sheet or an answer",
          console, declare_graph};
}

}  // namespace lattice::tools
