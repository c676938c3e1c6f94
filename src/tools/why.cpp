#include <fmt/format.h>

#include <memory>

#include "tools/commands.hpp"
#include "tools/settings.hpp"

namespace lattice::tools {
namespace {

/// Where a number of the data came from: the row and the column. Empty for other lines.
std::string origin(const Place& place, const WorkedExample& example, const Lesson& lesson) {
  const Line line = example.sheet().line(place.line);
  const bool is_target = line.name() == "y";
  const bool is_feature =
      line.kind() == Line::Kind::given && (line.name() == "x" || line.name() == "raw");
  if (!is_target && !is_feature) return "";
  const std::int64_t row = example.batch().rows[static_cast<std::size_t>(place.at[0])];
  const std::string& column =
      is_target ? lesson.data.target_name
                : lesson.data.feature_names[static_cast<std::size_t>(place.at[1])];
  return fmt::format("{}, row {}, column {}", lesson.data.name, row, column);
}

}  // namespace

void add_why(CLI::App& app, Console& console) {
  struct Asked {
    Settings settings;
    std::string place;
    bool gradient = false;
    bool update = false;
    int depth = 0;
  };
  auto asked = std::make_shared<Asked>();
  CLI::App& verb =
      *app.add_subcommand("why", "Explain one number of the minibatch that work shows");
  verb.add_option("place", asked->place,
                  "The number: a line and a position, such as W[1,0] or cost")
      ->required()
      ->group("Question");
  CLI::Option* const gradient =
      verb.add_flag("--gradient", asked->gradient, "How the cost changes with it")
          ->group("Question");
  verb.add_flag("--update", asked->update, "The weight after the update")
      ->excludes(gradient)
      ->group("Question");
  verb.add_option_function<std::string>(
          "--depth",
          [asked](const std::string& text) {
            asked->depth = static_cast<int>(whole_number("--depth", text, 0, 100));
          },
          "Explain the numbers in the explanation too, so many times (default 0)")
      ->type_name("N")
      ->group("Question");
  asked->settings.declare(verb);
  verb.callback([asked, &console] {
    using Ask = WorkedExample::Ask;
    const Settings& settings = asked->settings;
    const Place place = parse_place(asked->place);
    const Lesson lesson(settings);
    const WorkedExample example = lesson.work(settings);
    const Ask ask = asked->gradient ? Ask::gradient : asked->update ? Ask::update : Ask::value;
    const Notation notation{.digits = settings.digits};
    Chain chain = example.why(place, ask, asked->depth, notation);
    if (const std::string data = ask == Ask::value ? origin(place, example, lesson) : "";
        !data.empty()) {
      chain.explanation.note = "given: " + data;
    }
    if (settings.json) {
      Json json = to_json(chain);
      json["settings"] = settings_json(settings, lesson);
      write(console.out, json);
      return;
    }
    console.out << chain.text(notation) << "\n";
  });
}

}  // namespace lattice::tools
