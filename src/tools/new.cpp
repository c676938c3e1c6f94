#include <fmt/format.h>

#include <filesystem>
#include <memory>
#include <system_error>
#include <vector>

#include "files/file.hpp"
#include "lattice/network/blueprint.hpp"
#include "lattice/network/layers.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "text/typed.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {

namespace {

/// The lesson with a comment on every setting; with a hidden layer, where no network was named.
std::string text_of(Lesson& lesson) {
  const Prepared usual = prepare(lesson);
  if (!lesson.network.blueprint.empty()) return to_toml(lesson, usual.in_full());
  // In front of the layer that answers; pictures and graphs have one before that.
  std::vector<Layer> layers = usual.network.layers();
  layers.insert(layers.end() - 1, {Dense{.outputs = 8}, Tanh{}});
  lesson.network.blueprint = blueprint_of(layers);
  return to_toml(lesson, prepare(lesson).in_full());
}

void declare_new(Verb& verb, Console& console) {
  struct Asked {
    LessonOptions options;
    std::string path;
    bool over = false;
  };
  auto asked = std::make_shared<Asked>();
  asked->options.declare(verb, console);
  verb.heading("Keeping");
  verb.file("--out", asked->path, "Write it to a file; else it is printed", "PATH");
  verb.flag("--over", asked->over, "Overwrite an existing file");
  verb.runs([asked, &console] {
    Lesson lesson = asked->options.lesson();
    if (!lesson.data.is_named()) lesson.data.set = "glazes";
    const std::string text = text_of(lesson);
    check_outputs({{"--out", asked->path}}, files_read_by(lesson), console);
    if (asked->options.json) {
      Json json = {{"lesson", to_json(lesson)}, {"text", text}};
      if (!asked->path.empty()) json["written_to"] = asked->path;
      write(console.out, json);
    }
    if (asked->path.empty()) {
      if (!asked->options.json) console.out << text;
      return;
    }
    std::error_code problem;
    if (std::filesystem::exists(asked->path, problem) && !asked->over) {
      throw FileError({.what = fmt::format("{} is there already", asked->path),
                       .expected = "a path without a file",
                       .found = "a file",
                       .remedy = "another path, or --over to write over it"});
    }
    write_file(asked->path, text);
    if (asked->options.json) return;
    console.print_line("written: " + asked->path);
    console.print_line("try: lattice train " + typed(asked->path));
  });
}

}  // namespace

Verb new_verb(Console& console) {
  return {"new", "Write a lesson file with a comment on every setting", console, declare_new};
}

}  // namespace lattice::tools
