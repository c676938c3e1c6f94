#include <fmt/format.h>

#include <memory>

#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

/// Where a number of the data came from: the row and the column. Empty for other lines.
std::string origin(const Place& place, const WorkedMinibatch& example, const Prepared& prepared) {
  const Line line = example.sheet().line(place.line);
  const std::string& name = place.line;
  const bool is_target = name == "y" || name == "y_raw";
  const bool is_feature = name == "x" || name == "raw";
  if (line.kind() != Line::Kind::given || (!is_target && !is_feature)) return "";
  const Dataset& data = prepared.data();
  const std::int64_t row = example.batch().rows[static_cast<std::size_t>(place.at[0])];
  const std::string column = !is_target           ? data.feature_name(place.at[1])
                             : data.has_classes() ? data.target_name()
                                                  : data.target_name(place.at[1]);
  std::string text = fmt::format("{}, row {}, column {}", data.name, row, column);
  if (is_target && data.has_classes()) {
    const auto number = static_cast<std::int64_t>(data.classes.at_offset(row));
    text += fmt::format(": {} is class {}", data.class_name(number), number);
  }
  return text;
}

}  // namespace

Verb why_verb(Console& console) {
  struct Asked {
    LessonOptions options;
    std::string place;
    bool gradient = false;
    bool update = false;
    int depth = 0;
    std::int64_t step = 1;
  };
  auto asked = std::make_shared<Asked>();
  Verb verb("why", "Explain one number of the minibatch that work shows");
  verb.heading("Question");
  verb.text("place", asked->place,
            "The number: a line and a position, such as output.weight[1,0] or loss", "TEXT",
            {.required = true});
  verb.flag("--gradient", asked->gradient, "How the loss changes with it, instead of its value");
  verb.flag("--update", asked->update, "The weight after the update", {.excludes = "--gradient"});
  verb.read(
      "--depth",
      [asked](const std::string& text) {
        asked->depth = static_cast<int>(whole_number("--depth", text, 0, 100));
      },
      "Explain the numbers in the explanation too, so many times (default 0)", "N");
  declare_step(verb, asked->step);
  asked->options.declare(verb);
  verb.runs([asked, &console] {
    using Ask = WorkedMinibatch::Ask;
    const Place place = parse_place(asked->place);
    const Lesson lesson = asked->options.lesson();
    const Prepared prepared = prepare(lesson);
    const WorkedMinibatch example = prepared.work(asked->step);
    const Ask ask = asked->gradient ? Ask::gradient : asked->update ? Ask::update : Ask::value;
    const Notation notation{.digits = asked->options.digits};
    Chain chain = example.why(place, ask, asked->depth, notation);
    if (const std::string data = ask == Ask::value ? origin(place, example, prepared) : "";
        !data.empty()) {
      chain.explanation.note = "given: " + data;
    }
    const Shape& shape = example.sheet().line(place.line).shape();
    const std::string words = prepared.data().axis_names().in_words(shape, place.at);
    if (asked->options.json) {
      Json json = to_json(chain);
      if (!words.empty()) json["place"] = words;
      json["step"] = asked->step;
      json["settings"] = settings_json(lesson);
      write(console.out, json);
      return;
    }
    console.print(show_explanation(chain, words, notation) + "\n");
  });
  return verb;
}

}  // namespace lattice::tools
