#include <fmt/format.h>

#include <memory>

#include "tools/asked_sheet.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

/// Where a number of the data came from: the row and the column. Empty for other lines.
std::string origin(const Place& place, const AskedSheet& asked) {
  const Line line = asked.work.sheet().line(place.line);
  const std::string& name = place.line;
  const bool is_target = name == "y" || name == "y_raw";
  const bool is_feature = name == "x" || name == "raw";
  if (asked.data.empty() || line.kind() == Line::Kind::calculated || (!is_target && !is_feature))
    return "";
  const std::vector<std::int64_t>& rows = asked.work.batch().rows;
  const std::string row = rows.empty() ? fmt::format("record {}", place.at[0])
                                       : fmt::format("{}, row {}", asked.data,
                                                     rows[static_cast<std::size_t>(place.at[0])]);
  const bool is_class = is_target && line.shape().rank() == 1;
  const std::string column =
      asked.names.of(is_target ? Role::target : Role::feature, is_class ? 0 : place.at[1]);
  std::string text = fmt::format("{}, column {}", row, column);
  if (is_class) {
    const auto number = static_cast<std::int64_t>(line.value().at(place.at));
    text += fmt::format(": {} is class {}", asked.names.of(Role::class_, number), number);
  }
  return text;
}

void declare_why(Verb& verb, Console& console) {
  struct Asked {
    LessonOptions options;
    std::string place;
    bool gradient = false;
    bool update = false;
    int depth = 0;
    bool as_worked = false;
    bool all_terms = false;
    SheetQuestion sheet;
  };
  auto asked = std::make_shared<Asked>();
  verb.heading("Question");
  verb.text(
      "place", asked->place,
      "The number: a line and a position, such as output.weight[1,0] or loss; with ∂ in front "
      "its gradient, with new the weight after the update",
      "TEXT", {.required = true});
  verb.flag("--gradient", asked->gradient, "Explain its gradient instead of its value");
  verb.flag("--update", asked->update, "The weight after the update", {.excludes = "--gradient"});
  verb.read(
      "--depth",
      [asked](const std::string& text) {
        asked->depth = static_cast<int>(whole_number("--depth", text, 0, 100));
      },
      "Explain the numbers in the explanation too, N levels deep (default 0)", "N");
  verb.flag("--as-worked", asked->as_worked,
            "A cross-entropy in the form that never overflows, also where a line above has the "
            "probabilities that tell it more simply");
  verb.flag("--all-terms", asked->all_terms, "Every term of a long sum");
  asked->sheet.declare(verb, SheetQuestion::Answers::yes);
  asked->options.declare(verb, console);
  verb.runs([asked, &console] {
    using Ask = WorkedSheet::Ask;
    const AskedSheet sheet = asked->sheet.work(asked->options, console);
    const WorkedSheet& work = sheet.work;
    const WorkedSheet::Asked number = WorkedSheet::parse_asked(asked->place);
    const Line line = work.sheet().line(number.place.line);
    const Place place{.line = number.place.line, .at = index_on(line, number.place, sheet.names)};
    const Ask ask = asked->gradient ? Ask::gradient : asked->update ? Ask::update : number.ask;
    Notation notation{.digits = asked->options.digits};
    if (asked->all_terms) notation.longest_sum = std::string::npos;
    Chain chain = work.why(place, ask, asked->depth, notation,
                           asked->as_worked ? Told::as_worked : Told::by_probabilities);
    if (const std::string data = ask == Ask::value ? origin(place, sheet) : ""; !data.empty()) {
      chain.explanation.note = "given: " + data;
    }
    const std::string words =
        place_in_words(sheet.names, line, place.at, chain.explanation.formula, work.sheet());
    if (asked->options.json) {
      Json json = to_json(chain);
      if (!words.empty()) json["place"] = words;
      if (sheet.step) json["step"] = *sheet.step;
      json["settings"] = sheet.settings;
      write(console.out, json);
      return;
    }
    console.print(show_explanation(chain, words, notation, console.style.width) + "\n");
    TerminalStyle style = console.style;
    style.digits = asked->options.digits;
    console.out << show_patches(patches_of(chain.explanation.formula, work.sheet()), style);
  });
}

}  // namespace

Verb why_verb(Console& console) {
  return {"why", "Explain one number of what work shows", console, declare_why};
}

}  // namespace lattice::tools
