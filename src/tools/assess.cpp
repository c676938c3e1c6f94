#include <fmt/format.h>

#include <memory>

#include "lattice/text/error.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"
#include "tools/records.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

struct AssessAsked {
  std::string model;
  FileRows rows;
  std::string part;
  AssessSettings settings = {};
  bool weights = false;
  std::optional<double> at_least = std::nullopt;
  int digits = usual_digits;
  bool json = false;
};

/// What stands for all of them.
constexpr std::string_view all_parts = "all";

/// The parts the model learnt from, dealt out again; or the rows of another file.
NamedAssessments assess_all(const AssessAsked& asked, const ModelFile& file, Console& console) {
  AssessSettings settings = asked.settings;
  settings.loss = file.model.loss;
  if (!asked.rows.files.empty()) {
    const Dataset data = rows_of_files(file, asked.rows, console);
    return {{data.name, assess(file.model.network, data, settings)}};
  }
  const Prepared prepared =
      prepared_again(file, "to assess it on other rows: --file rows.csv", console);
  if (!asked.part.empty() && asked.part != all_parts)
    static_cast<void>(part_called(prepared.split, asked.part));
  return assess_parts(file.model.network, prepared.split, settings);
}

/// The parts that are told class by class: the one that is named, all, or the last; and a file of
/// other rows by itself.
NamedAssessments told_by_class(const AssessAsked& asked, const NamedAssessments& parts) {
  if (asked.part == all_parts) return parts;
  for (const auto& [name, assessment] : parts) {
    if (name == asked.part) return {{name, assessment}};
  }
  return {parts.back()};
}

void assess_model(const AssessAsked& asked, Console& console) {
  const ModelFile file = load_model(asked.model);
  const NamedAssessments parts = assess_all(asked, file, console);
  const NamedAssessments by_class = told_by_class(asked, parts);
  const auto& [last_name, last] = by_class.back();
  const double figure = last.figure();
  const bool reached = !asked.at_least || figure >= *asked.at_least;
  if (asked.json) {
    Json json = {{"model", asked.model}, {"parts", to_json(parts)}};
    if (asked.weights) json["learnt"] = learnt_json(file.model);
    if (asked.at_least) json["reached"] = reached;
    write(console.out, json);
  } else {
    TerminalStyle style = console.style;
    style.digits = asked.digits;
    console.print_line(fmt::format("{} · {} · trained on {}", asked.model,
                                   file.model.network.blueprint(), file.data_name));
    console.out << "\n";
    console.out << show_figures(parts, style, file.lesson.references);
    for (const auto& [name, assessment] : by_class) {
      if (!assessment.classes) continue;
      const bool is_part = asked.rows.files.empty();
      console.out << "\n"
                  << show_heading(is_part ? name + " part by class" : "rows of the file by class",
                                  style)
                  << show_classes(*assessment.classes, style);
    }
    if (asked.weights) {
      console.out << "\n"
                  << show_heading("learnt", style)
                  << show_learnt(file.model, law_of(file.lesson), style);
    }
    if (asked.at_least) {
      console.print(fmt::format(
          "\n{} on {}: {}, asked for {}: {}\n", last.classes ? "accuracy" : "R²", last_name,
          format_number(figure, style.digits), format_number(*asked.at_least, style.digits),
          reached ? "reached" : "not reached"));
    }
  }
  if (!reached) throw AnswerIsNo{};
}

void declare_assess(Verb& verb, Console& console) {
  auto asked = std::make_shared<AssessAsked>();
  verb.text("model", asked->model, "A model file, as train --save writes it", "TEXT",
            {.required = true});
  verb.texts(
      "--file", asked->rows.files,
      "Other rows: a CSV file with the columns and the target; or pictures, all of one class "
      "too: bowl=bowls.idx; may be repeated",
      "PATH");
  verb.texts("--labels", asked->rows.labels, "The class of each picture of the file", "PATH");
  verb.text(
      "--part", asked->part,
      "The part that is told class by class, and that --at-least is about: train, validation, "
      "test, or all (default: the last)",
      "PART", {.excludes = "--file"});
  verb.read(
      "--top",
      [asked](const std::string& text) {
        asked->settings.top = whole_number("--top", text, 1, 1'000'000);
      },
      "Count a row as right if its class is among the N likeliest (default 2)", "N");
  verb.flag("--as-groups", asked->settings.as_groups,
            "Also assess the answers as groups, ignoring class names");
  verb.flag("--weights", asked->weights,
            "Print the weights; of a single dense layer also in the units of the data");
  verb.read(
      "--at-least",
      [asked](const std::string& text) { asked->at_least = positive_number("--at-least", text); },
      "Exit with status 1 if the part is below this accuracy or R²", "NUMBER");
  declare_printing(verb, asked->digits, asked->json);
  verb.runs([asked, &console] { assess_model(*asked, console); });
}

}  // namespace

Verb assess_verb(Console& console) {
  return {"assess", "Judge a model on every part, or on other rows", console, declare_assess};
}

}  // namespace lattice::tools
