#include <fmt/format.h>

#include <algorithm>
#include <iostream>
#include <limits>
#include <memory>
#include <optional>

#include "files/file.hpp"
#include "lattice/learning/rules.hpp"
#include "lattice/show/graph.hpp"
#include "lattice/show/judgement.hpp"
#include "lattice/show/page.hpp"
#include "lattice/show/spreadsheet.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/watch.hpp"
#include "text/typed.hpp"
#include "tools/answer_options.hpp"
#include "tools/commands.hpp"
#include "tools/exercise.hpp"
#include "tools/options.hpp"
#include "tools/outputs.hpp"
#include "tools/sheets.hpp"
#include "tools/variants.hpp"
#include "tools/walk.hpp"

namespace lattice::tools {
namespace {

/// What `--json` is given when no file is named after it.
constexpr std::string_view on_stdout = "-";

struct WorkAsked {
  LessonOptions options;
  AnswerOptions answers;
  SheetOptions sheet;
  std::vector<std::int64_t> steps = {};  ///< of a lesson; the first when none is named
  WorkView view = {};
  bool walk = false;
  bool curves = false;
  Exercise exercise = {};
  bool at_prompt = false;  ///< whether the exercise is worked there
  std::string answers_file = {};
  std::int64_t variants = 0;
  std::int64_t variant = 0;  ///< one of them; none if 0
  std::optional<std::uint64_t> blanks_seed = std::nullopt;
  std::string html = {};
  std::string pdf = {};
  std::string xlsx = {};
  std::string graph = {};
  bool gradients = false;
  std::string json = {};
  std::string as_sheet = {};

  [[nodiscard]] bool names_files() const {
    return !html.empty() || !pdf.empty() || !xlsx.empty() || !graph.empty() || !as_sheet.empty() ||
           (!json.empty() && json != on_stdout);
  }

  /// The steps of a lesson.
  [[nodiscard]] std::vector<std::int64_t> steps_of_lesson() const {
    return steps.empty() ? std::vector<std::int64_t>{1} : steps;
  }

  /// So many steps a page can go on by.
  [[nodiscard]] std::int64_t further() const { return html.empty() ? 0 : 10; }
};

void declare_forms(Verb& verb, WorkAsked& asked) {
  verb.heading("Forms");
  verb.file("--html", asked.html, "Write a page that needs nothing but a browser", "FILE");
  verb.file("--pdf", asked.pdf, "Write the page as it prints, by a browser of this machine",
            "FILE");
  verb.file("--xlsx", asked.xlsx, "Write a spreadsheet in which every calculated cell is a formula",
            "FILE");
  verb.file("--graph", asked.graph,
            "Draw the calculation of the first minibatch as a graph: .svg, .png, .pdf or .dot",
            "FILE");
  verb.file("--sheet", asked.as_sheet,
            "Write the lines of the first minibatch as text: change one, and work it again",
            "FILE");
  verb.flag("--gradients", asked.gradients, "Say on the graph what the reverse sweep passes on",
            {.needs = "--graph"});
  verb.file("--json", asked.json, "Write JSON to a file; without a file print it, and nothing else",
            "[FILE]");
  verb.flag("--curves", asked.curves,
            "Train to the end of the run, and put its curves on the page");
}

void declare_exercise(Verb& verb, WorkAsked& asked) {
  verb.heading("Exercise");
  verb.flag("--exercise", asked.at_prompt,
            "Fill in the blanks here, at the prompt: 6 unless --blanks says how many");
  verb.file("--answers", asked.answers_file,
            "Keep the answers of --exercise in this file: it goes on where it was left, and "
            "lattice mark marks it",
            "FILE");
  verb.read(
      "--blanks",
      [&asked](const std::string& text) {
        asked.exercise.blanks = whole_number("--blanks", text, 1, 10'000);
      },
      "Leave N numbers of the first minibatch blank, to be filled in", "N");
  verb.texts("--blank", asked.exercise.named,
             "Leave this number blank: 'hidden[0,2]', '∂hidden.weight[1,0]', "
             "'new output.bias[0]'; as often as you like",
             "NUMBER");
  verb.read(
      "--in", [&asked](const std::string& text) { asked.exercise.in = parse_csv_record(text); },
      "Where they are chosen: forward, loss, reverse, update, or layers and lines by name",
      "PLACE,…");
  verb.flag("--hard", asked.exercise.hard, "Numbers of more than six terms as well");
  verb.read(
      "--variants",
      [&asked](const std::string& text) {
        asked.variants = whole_number("--variants", text, 1, 999);
      },
      "Write N variants of the exercise for a class, with other rows and weights, and an answer "
      "key",
      "N");
  verb.read(
      "--variant",
      [&asked](const std::string& text) {
        asked.variant = whole_number("--variant", text, 1, 999);
      },
      "The variant N of those, at the prompt or as one page", "N");
  verb.read(
      "--blanks-seed",
      [&asked](const std::string& text) {
        asked.blanks_seed = static_cast<std::uint64_t>(
            whole_number("--blanks-seed", text, 0, std::numeric_limits<std::int64_t>::max()));
      },
      "Another seed is another choice of blanks (default: the seed of the lesson)", "N");
  verb.read(
      "--tolerance",
      [&asked](const std::string& text) {
        asked.exercise.tolerance = positive_number("--tolerance", text);
      },
      "How far an answer may be off, as a share of the number (default 0.005)", "SHARE");
}

/// The command that works a sheet with the update it was worked with; empty without one, and where
/// it depends on what no sheet says: earlier updates, clipped gradients, multiples of the rate.
std::string command_for(const std::string& sheet, const WorkedSheet& work) {
  const std::optional<UpdateRule>& rule = work.rule();
  const bool has_multipliers = std::ranges::any_of(
      work.updates(), [](const auto& each) { return each.rate_multiplier != 1.0; });
  if (!rule || rule->memory().step > 0 || work.clipping() || has_multipliers) return "";
  std::string command = fmt::format("lattice work {} --rule {}", typed(sheet), typed(rule->word()));
  const std::vector<RuleSetting> usual = rule_called(rule->word()).settings();
  for (const RuleSetting& setting : rule->settings()) {
    if (setting.first != "rate" && std::ranges::find(usual, setting) != usual.end()) continue;
    std::string flag = "--" + setting.first;
    std::ranges::replace(flag, '_', '-');
    command += " " + typed_flag(flag, fmt::format("{}", setting.second));
  }
  return command;
}

/// Writes the forms that have a file, and says on stdout what was written.
void write_forms(const WorkAsked& asked, const WorkedExample& example, const Json& json,
                 Console& console) {
  const auto tell = [&](const std::string& path, std::string_view what) {
    if (asked.json != on_stdout) console.print_line(fmt::format("{}  {}", written(path), what));
  };
  const PageSettings page = {
      .exercise = asked.exercise, .variant = asked.variant, .digits = asked.options.digits};
  if (!asked.html.empty()) {
    write_page(asked.html, example, page);
    tell(asked.html, "page: open it in a browser");
  }
  if (!asked.pdf.empty()) {
    write_pdf(asked.pdf, example, page);
    tell(asked.pdf, asked.exercise.is_asked_for()
                        ? "to print: the answers are on a sheet of their own"
                        : "to print");
  }
  if (!asked.xlsx.empty()) {
    write_spreadsheet(asked.xlsx, example, asked.exercise);
    tell(asked.xlsx, "spreadsheet: change a number and watch the others");
  }
  if (!asked.graph.empty()) {
    write_graph(asked.graph, example.steps.front().work, {.gradients = asked.gradients});
    tell(asked.graph, "graph of the calculation");
  }
  if (!asked.as_sheet.empty()) {
    const WorkedSheet& work = example.steps.front().work;
    const std::string command = command_for(asked.as_sheet, work);
    const std::string text =
        sheet_text(work.sheet(), work.result(), {.title = example.title, .names = example.names});
    write_file(asked.as_sheet, (command.empty() ? "" : "# " + command + "\n") + text);
    tell(asked.as_sheet,
         "sheet: change a line, and work it again: lattice work " + typed(asked.as_sheet));
  }
  if (!asked.json.empty() && asked.json != on_stdout) {
    write_file(asked.json, json_text(json) + "\n");
    tell(asked.json, "JSON");
  }
}

/// Refuses what would have no effect.
void check(const WorkAsked& asked) {
  const bool has_pages = !asked.html.empty() || !asked.pdf.empty();
  const bool has_blanks = has_pages || !asked.xlsx.empty() || asked.at_prompt;
  if (asked.exercise.is_asked_for() && !has_blanks) {
    throw SettingError({.what = "blanks need a page, a spreadsheet or the prompt",
                        .expected = "--html, --pdf, --xlsx or --exercise with --blanks and --blank",
                        .found = "none of them",
                        .remedy = "--html exercise.html"});
  }
  if ((asked.exercise.hard || !asked.exercise.in.empty()) && asked.exercise.blanks == 0) {
    throw SettingError({.what = "--in and --hard say which numbers are chosen",
                        .expected = "--blanks with --in and --hard",
                        .found = "no --blanks",
                        .remedy = "--blanks 12"});
  }
  if (asked.variant > 0 && asked.variants > 0) {
    throw SettingError({.what = "--variant and --variants exclude each other",
                        .expected = "one variant, or all of them",
                        .found = "both"});
  }
  if (asked.variants > 0 && (!asked.exercise.is_asked_for() || !has_pages)) {
    throw SettingError({.what = "--variants are exercises on pages",
                        .expected = "--blanks with --html or --pdf",
                        .found = has_pages ? "no --blanks" : "neither --html nor --pdf",
                        .remedy = "--blanks 12 --html exercise.html"});
  }
  const bool has_other_forms = asked.walk || asked.curves || !asked.xlsx.empty() ||
                               !asked.graph.empty() || !asked.as_sheet.empty() ||
                               !asked.json.empty() || asked.at_prompt;
  if (asked.variants > 0 && has_other_forms) {
    throw SettingError({.what = "--variants are written as pages alone",
                        .expected = "--html, --pdf and no other form",
                        .found = "another form"});
  }
  if (asked.variant > 0 && !asked.exercise.is_asked_for()) {
    throw SettingError({.what = "--variant is one of an exercise",
                        .expected = "--blanks or --exercise with --variant",
                        .found = "neither",
                        .remedy = "--exercise"});
  }
  if (!asked.answers_file.empty() && !asked.at_prompt) {
    throw SettingError({.what = "--answers keeps what is typed at the prompt",
                        .expected = "--exercise with --answers",
                        .found = "no --exercise",
                        .remedy = "--exercise"});
  }
  if (asked.at_prompt && (asked.walk || asked.json == on_stdout)) {
    throw SettingError({.what = "the exercise has the prompt to itself",
                        .expected = "--exercise without --walk, and with a file after --json",
                        .found = asked.walk ? "--walk" : "--json without a file"});
  }
  if (asked.curves && asked.html.empty() && asked.json.empty()) {
    throw SettingError({.what = "--curves needs a page or JSON",
                        .expected = "--html or --json with --curves",
                        .found = "neither",
                        .remedy = "for a picture of them: lattice draw curves"});
  }
  if (!asked.graph.empty()) check_graph_ending(asked.graph);
  if (!asked.pdf.empty() && !asked.pdf.ends_with(".pdf")) {
    throw SettingError(
        {.what = "--pdf writes a PDF", .expected = "a file that ends in .pdf", .found = asked.pdf});
  }
  if (!asked.as_sheet.empty() && !asked.as_sheet.ends_with(".sheet")) {
    throw SettingError({.what = "--sheet writes a sheet",
                        .expected = "a file that ends in .sheet",
                        .found = asked.as_sheet});
  }
  if (asked.walk && asked.json == on_stdout) {
    throw SettingError({.what = "--walk and --json exclude each other",
                        .expected = "one of --walk and --json",
                        .found = "both"});
  }
}

/// What is shown line by line: minibatches of a lesson, or answers of a model.
struct Worked {
  WorkedExample example = {};
  Json json = {};        ///< all there is to say of it, where that is asked for
  std::string top = {};  ///< what stands above it in a terminal, and below it
  std::string bottom = {};
};

Worked work_lesson(const WorkAsked& asked, const Lesson& lesson, Console& console) {
  const Prepared prepared = prepare(lesson);
  Worked worked{.example = prepared.work(asked.steps_of_lesson(), asked.curves, asked.further())};
  const TableReading& reading = prepared.reading;
  say(remarks_on(reading.decimal_commas, reading.data.name), lesson, console);
  say(remarks_on(prepared.network), lesson, console);
  say(remarks_on(prepared.network, prepared.split.train), lesson, console);
  if (!asked.json.empty()) worked.json = worked_json(worked.example, lesson);
  worked.top = settings_text(prepared.in_words(asked.options.digits), console.style);
  return worked;
}

Worked work_model(const WorkAsked& asked, const TerminalStyle& style, Console& console) {
  if (!asked.steps.empty() || asked.curves) {
    throw SettingError({.what = "a model has no steps and no curves",
                        .expected = "a lesson with --steps and --curves",
                        .found = asked.options.subject,
                        .remedy = "for the curves of its run: lattice draw curves " +
                                  typed(asked.options.subject)});
  }
  AskedAnswers answers = asked.answers.work(asked.options, console);
  Worked worked;
  if (!asked.json.empty()) worked.json = worked_json(answers.example, answers.file.lesson);
  worked.top = settings_text(answers.example.about, style);
  if (!answers.influences.empty()) {
    if (!asked.json.empty()) worked.json["influences"] = influences_json(answers);
    const Line& swept = answers.example.steps.front().work.result();
    worked.bottom = "\n" + show_heading("what the answer depends on", style) +
                    show_influences(answers.influences, swept.name(), answers.file.model, style);
  }
  worked.example = std::move(answers.example);
  return worked;
}

Worked work_own_sheet(const WorkAsked& asked, const Console& console) {
  if (asked.curves) {
    throw SettingError({.what = "a sheet has no curves",
                        .expected = "a lesson with --curves",
                        .found = "a sheet"});
  }
  Worked worked{.example = asked.sheet.work(asked.options, asked.steps, console, asked.further())};
  if (!asked.json.empty()) {
    worked.json = to_json(worked.example);
    worked.json["settings"] = sheet_settings_json(worked.example);
  }
  worked.top = settings_text(in_words(worked.example), console.style);
  return worked;
}

/// Writes the variants of a lesson.
void write_variants_of(const WorkAsked& asked, const Lesson& lesson, const Console& console) {
  const VariantFiles files(asked.html, asked.pdf, asked.variants);
  check_outputs(files.outputs(), asked.options.inputs(lesson), console);
  write_variants(VariantSeries(lesson, asked.steps_of_lesson(), asked.exercise), files,
                 asked.options.digits, console);
}

/// Makes a lesson and the exercise those of one variant.
void take_variant(WorkAsked& asked, Lesson& lesson) {
  VariantSeries series(lesson, asked.steps_of_lesson(), asked.exercise);
  for (std::int64_t number = 1; number < asked.variant; ++number)
    static_cast<void>(series.next());
  Variant variant = series.next();
  lesson.seed = variant.seed;
  asked.exercise = std::move(variant.exercise);
}

void work(WorkAsked& asked, Console& console) {
  if (asked.at_prompt && !asked.exercise.is_asked_for()) {
    constexpr std::int64_t usual_blanks = 6;
    asked.exercise.blanks = usual_blanks;
  }
  check(asked);
  const bool is_model = asked.answers.names_model(asked.options);
  const bool is_sheet = !is_model && asked.sheet.names_sheet(asked.options);
  Lesson lesson = is_model   ? Lesson()
                  : is_sheet ? asked.options.lesson_on({})
                             : asked.options.lesson();
  check_outputs({{"--html", asked.html},
                 {"--pdf", asked.pdf},
                 {"--xlsx", asked.xlsx},
                 {"--graph", asked.graph},
                 {"--sheet", asked.as_sheet},
                 {"--answers", asked.answers_file},
                 {"--json", asked.json == on_stdout ? "" : asked.json}},
                asked.options.inputs(lesson), console);
  asked.exercise.seed = asked.blanks_seed.value_or(lesson.seed);
  if ((asked.variants > 0 || asked.variant > 0) && (is_model || is_sheet)) {
    throw SettingError({.what = "variants need other rows and start weights",
                        .expected = "a lesson, or a demo set",
                        .found = is_model ? "a model" : "a sheet"});
  }
  if (asked.variants > 0) {
    write_variants_of(asked, lesson, console);
    return;
  }
  if (asked.variant > 0) take_variant(asked, lesson);
  TerminalStyle style = console.style;
  style.digits = asked.options.digits;
  const Worked worked = is_model   ? work_model(asked, style, console)
                        : is_sheet ? work_own_sheet(asked, console)
                                   : work_lesson(asked, lesson, console);
  const WorkedExample& example = worked.example;
  for (const WorkedStep& step : example.steps) {
    if (const std::optional<Alarm> alarm = watch(step.work.sheet()))
      console.tell(alarm->text() + "\n");
  }
  say(remarks_on(example.steps.front().work.sheet()), lesson, console);
  if (asked.names_files()) write_forms(asked, worked.example, worked.json, console);
  if (asked.json == on_stdout) write(console.out, worked.json);
  if (asked.at_prompt) {
    Console inner{.out = console.out, .err = console.err, .style = style};
    work_exercise(
        example,
        {.exercise = asked.exercise, .variant = asked.variant, .answers = asked.answers_file},
        std::cin, inner);
    return;
  }
  const bool is_done = asked.names_files() || asked.json == on_stdout;
  if (is_done && !asked.walk) return;
  if (asked.walk) {
    Console inner{.out = console.out, .err = console.err, .style = style};
    walk_through(example, std::cin, inner);
    return;
  }
  console.out << worked.top << show_worked_example(example, style, asked.view) << worked.bottom;
}

}  // namespace

void declare_step(Verb& verb, std::optional<std::int64_t>& step) {
  verb.read(
      "--step",
      [&step](const std::string& text) {
        step = whole_number("--step", text, 1, std::numeric_limits<std::int64_t>::max());
      },
      "Which step of the run, from 1 (the default)", "N");
}

namespace {

void declare_work(Verb& verb, Console& console) {
  auto asked = std::make_shared<WorkAsked>();
  asked->options.declare(verb, console, LessonOptions::JsonFlag::no);
  verb.heading("Question");
  verb.read(
      "--steps,--step",
      [asked](const std::string& text) {
        asked->steps.clear();
        for (const std::string& each : parse_csv_record(text)) {
          asked->steps.push_back(
              whole_number("--steps", each, 1, std::numeric_limits<std::int64_t>::max()));
        }
      },
      "Which steps of the run, from 1: 1,2,50 (default 1)", "N,…");
  asked->answers.declare(verb);
  asked->sheet.declare(verb);
  verb.heading("Printing");
  verb.read(
      "--only", [asked](const std::string& text) { asked->view.only = parse_csv_record(text); },
      "Open these sections alone: hidden,loss", "SECTION,…");
  verb.flag("--brief", asked->view.brief, "Every line in one row, without its table");
  verb.flag("--walk", asked->walk,
            "One line at a time, forward and back, with questions at the prompt");
  declare_forms(verb, *asked);
  declare_exercise(verb, *asked);
  verb.runs([asked, &console] { work(*asked, console); });
}

}  // namespace

Verb work_verb(Console& console) {
  return {"work", "Work minibatches line by line, a sheet, or answers of a trained network",
          console, declare_work};
}

}  // namespace lattice::tools
