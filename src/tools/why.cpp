#include <fmt/format.h>

#include <memory>
#include <utility>

#include "lattice/text/error.hpp"
#include "tools/answer_options.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

/// The sheet that is asked, and what its numbers are called.
struct AskedSheet {
  WorkedSheet work;
  AxisNames names;
  std::string data;  ///< what it is called
  Lesson lesson;
};

/// Where a number of the data came from: the row and the column. Empty for other lines.
std::string origin(const Place& place, const AskedSheet& asked) {
  const Line line = asked.work.sheet().line(place.line);
  const std::string& name = place.line;
  const bool is_target = name == "y" || name == "y_raw";
  const bool is_feature = name == "x" || name == "raw";
  if (line.kind() == Line::Kind::calculated || (!is_target && !is_feature)) return "";
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

/// The minibatch of a step of a lesson.
AskedSheet sheet_of(const Lesson& lesson, std::int64_t step) {
  const Prepared prepared = prepare(lesson);
  return {prepared.work(step), prepared.data().axis_names(), prepared.data().name, lesson};
}

/// Answers of a model.
AskedSheet sheet_of(AskedAnswers answers) {
  return {std::move(answers.example.steps.front().work), answers.example.names,
          answers.file.data_name, answers.file.lesson};
}

}  // namespace

Verb why_verb(Console& console) {
  struct Asked {
    LessonOptions options;
    std::string place;
    bool gradient = false;
    bool update = false;
    int depth = 0;
    std::optional<std::int64_t> step = std::nullopt;
    AnswerOptions answers;
  };
  auto asked = std::make_shared<Asked>();
  Verb verb("why", "Explain one number of what work shows");
  verb.heading("Question");
  verb.text("place", asked->place,
            "The number: a line and a position, such as output.weight[1,0] or loss", "TEXT",
            {.required = true});
  verb.flag("--gradient", asked->gradient, "Explain its gradient instead of its value");
  verb.flag("--update", asked->update, "The weight after the update", {.excludes = "--gradient"});
  verb.read(
      "--depth",
      [asked](const std::string& text) {
        asked->depth = static_cast<int>(whole_number("--depth", text, 0, 100));
      },
      "Explain the numbers in the explanation too, N levels deep (default 0)", "N");
  declare_step(verb, asked->step);
  asked->answers.declare(verb);
  asked->options.declare(verb, console);
  verb.runs([asked, &console] {
    using Ask = WorkedSheet::Ask;
    const bool is_model = asked->answers.names_model(asked->options);
    if (is_model && asked->step) {
      throw SettingError({.what = "a model has no steps",
                          .expected = "a lesson with --step",
                          .found = asked->options.subject});
    }
    const AskedSheet sheet = is_model ? sheet_of(asked->answers.work(asked->options, console))
                                      : sheet_of(asked->options.lesson(), asked->step.value_or(1));
    const WorkedSheet& work = sheet.work;
    Place place = parse_place(asked->place);
    const Line line = work.sheet().line(place.line);
    place = {.line = place.line, .at = index_on(line, place, sheet.names)};
    const Ask ask = asked->gradient ? Ask::gradient : asked->update ? Ask::update : Ask::value;
    const Notation notation{.digits = asked->options.digits};
    Chain chain = work.why(place, ask, asked->depth, notation);
    if (const std::string data = ask == Ask::value ? origin(place, sheet) : ""; !data.empty()) {
      chain.explanation.note = "given: " + data;
    }
    const std::string words =
        place_in_words(sheet.names, line, place.at, chain.explanation.formula, work.sheet());
    if (asked->options.json) {
      Json json = to_json(chain);
      if (!words.empty()) json["place"] = words;
      if (!is_model) json["step"] = asked->step.value_or(1);
      json["settings"] = settings_json(sheet.lesson);
      write(console.out, json);
      return;
    }
    console.print(show_explanation(chain, words, notation) + "\n");
    TerminalStyle style = console.style;
    style.digits = asked->options.digits;
    console.out << show_patches(patches_of(chain.explanation.formula, work.sheet()), style);
  });
  return verb;
}

}  // namespace lattice::tools
