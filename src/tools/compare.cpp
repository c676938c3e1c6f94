#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <memory>

#include "files/file.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/text_table.hpp"
#include "tools/commands.hpp"
#include "tools/compare_repeated.hpp"
#include "tools/comparison.hpp"
#include "tools/interrupt.hpp"
#include "tools/options.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

struct CompareAsked {
  LessonOptions options;
  std::vector<std::string> more;
  std::vector<std::string> vary;
  Repeats repeats = {};
  std::string csv;
  std::string draw;
};

const LessonSetting& setting_called(const std::string& key) {
  std::vector<std::string> keys;
  for (const LessonSetting& setting : lesson_settings()) {
    if (setting.key == key || setting.full_key() == key || setting.flag() == "--" + key)
      return setting;
    keys.push_back(setting.key);
  }
  throw NameError(not_among(fmt::format("there is no setting '{}' to vary", key), key, keys));
}

/// The values of `rate=0.1,0.01`; with a `|` between them they may hold commas.
std::vector<std::string> values_of(const std::string& text) {
  if (text.find('|') == std::string::npos) return parse_csv_record(text);
  std::vector<std::string> values;
  for (std::size_t from = 0; from <= text.size();) {
    const std::size_t bar = std::min(text.find('|', from), text.size());
    values.emplace_back(trimmed(std::string_view(text).substr(from, bar - from)));
    from = bar + 1;
  }
  return values;
}

/// Gives those that are called alike a number each.
void tell_apart(std::vector<Entry>& entries) {
  std::map<std::string, int> times;
  for (const Entry& entry : entries)
    ++times[entry.name];
  std::map<std::string, int> before;
  for (Entry& entry : entries) {
    if (times[entry.name] > 1) entry.name += fmt::format(" ({})", ++before[entry.name]);
  }
}

/// Every combination of the values that are to be varied.
std::vector<Entry> entries_of(const CompareAsked& asked) {
  std::vector<Entry> entries = {{asked.options.subject, asked.options.lesson()}};
  for (const std::string& path : asked.more)
    entries.push_back({path, asked.options.lesson_on(read_lesson(path))});
  for (const std::string& vary : asked.vary) {
    const std::size_t equals = vary.find('=');
    if (equals == std::string::npos || equals == 0) {
      throw SettingError({.what = fmt::format("--vary {} cannot be read", vary),
                          .expected = "a setting and its values, such as rate=0.1,0.01",
                          .found = fmt::format("'{}'", vary)});
    }
    const LessonSetting& setting = setting_called(vary.substr(0, equals));
    std::vector<Entry> varied;
    for (const Entry& entry : entries) {
      for (const std::string& value : values_of(vary.substr(equals + 1))) {
        Entry more = entry;
        if (setting.key == "start") more.lesson.network.start.clear();
        set_from_flag(more.lesson, setting, value);
        const std::string what = fmt::format("{} {}", setting.key, value);
        const bool alone = entries.size() == 1 && asked.more.empty() && &vary == &asked.vary[0];
        more.name = alone ? what : fmt::format("{} · {}", entry.name, what);
        varied.push_back(std::move(more));
      }
    }
    entries = std::move(varied);
  }
  tell_apart(entries);
  if (entries.size() < 2 && !asked.repeats.any()) {
    throw SettingError({.what = "there is nothing to compare",
                        .expected = "two lessons or more, --vary, --seeds or --folds",
                        .found = "one lesson",
                        .remedy = "--vary rate=0.1,0.01,0.001"});
  }
  return entries;
}

std::string figure_of(const Assessment& assessment, const TerminalStyle& style) {
  return format_number(assessment.figure(), style.digits);
}

/// Says of a run when its loss went up.
void say_of_run(const Outcome& outcome, const Lesson& lesson, Console& console) {
  std::vector<Remark> remarks = remarks_on(outcome.run, 0);
  std::erase_if(remarks, [](const Remark& remark) { return remark.code != "rate-too-high"; });
  for (Remark& remark : remarks)
    remark.text = outcome.name + ": " + remark.text;
  say(remarks, lesson, console);
}

/// Which is best, where all were judged by the same rows and the same loss.
const Outcome* best_of(const std::vector<Outcome>& outcomes) {
  if (!are_alike(outcomes)) return nullptr;
  return &*std::ranges::min_element(
      outcomes, [](const Outcome& a, const Outcome& b) { return a.watched() < b.watched(); });
}

std::vector<std::string> names_of(const std::vector<Outcome>& outcomes) {
  std::vector<std::string> names(outcomes.size());
  std::ranges::transform(outcomes, names.begin(), &Outcome::name);
  return names;
}

TextTable comparison_table(const std::vector<Outcome>& outcomes,
                           const std::vector<std::string>& rows, const TerminalStyle& style) {
  const std::string figure = outcomes.front().parts.front().second.classes ? "accuracy" : "R²";
  const bool all_ended = std::ranges::all_of(
      outcomes, [](const Outcome& outcome) { return outcome.run.ending == Ending::all_epochs; });
  std::vector<TextTable::Heading> headings = {{"", TextTable::Set::left},
                                              {"weights"},
                                              {"epochs"},
                                              {"updates"},
                                              {"train loss"},
                                              {figure},
                                              {"valid. loss"},
                                              {figure}};
  if (!all_ended) headings.push_back({"ended", TextTable::Set::left});
  TextTable table(headings);
  for (std::size_t at = 0; at < outcomes.size(); ++at) {
    const Outcome& outcome = outcomes[at];
    const Assessment* const train = part_of(outcome, "train");
    const Assessment* const validation = part_of(outcome, "validation");
    std::vector<TextTable::Entry> row = {
        rows[at],
        fmt::format("{}", outcome.weights),
        fmt::format("{}", outcome.run.last_epoch()),
        fmt::format("{}", outcome.run.updates),
        format_number(train->loss, style.digits),
        figure_of(*train, style),
        validation == nullptr ? "–" : format_number(validation->loss, style.digits),
        validation == nullptr ? "–" : figure_of(*validation, style)};
    if (!all_ended) row.emplace_back(std::string(word(outcome.run.ending)));
    table.add(std::move(row));
  }
  return table;
}

std::string comparison_text(const std::vector<Outcome>& outcomes, const Outcome* best,
                            const TerminalStyle& style) {
  const std::vector<std::string> rows = row_names(names_of(outcomes));
  const auto row_of = [&](const Outcome& outcome) {
    return harmless(rows[static_cast<std::size_t>(&outcome - outcomes.data())]);
  };
  std::string text =
      legend(names_of(outcomes), rows) + comparison_table(outcomes, rows, style).text(style);
  text += "\n";
  if (best == nullptr) {
    text += "Not the same rows, or not the same loss: no figure says which is best.\n";
    for (const Outcome& outcome : outcomes)
      text += fmt::format("  {}: {}\n", row_of(outcome), harmless(outcome.judged_by));
    return text;
  }
  const bool validated = part_of(*best, "validation") != nullptr;
  text +=
      fmt::format("The lowest {} loss: {}\n", validated ? "validation" : "train", row_of(*best));
  if (const Assessment* const test = part_of(*best, "test")) {
    text += fmt::format("Its test part (not used in the choice): loss {}, {} {}\n",
                        format_number(test->loss, style.digits), test->classes ? "accuracy" : "R²",
                        figure_of(*test, style));
  }
  return text;
}

std::string curves_csv(const std::vector<Outcome>& outcomes) {
  std::vector<Table> tables;
  tables.reserve(outcomes.size());
  for (const Outcome& outcome : outcomes)
    tables.push_back(figures_table(outcome.name, outcome.run));
  return to_csv(appended(std::move(tables)));
}

void check_files(const CompareAsked& asked, const std::vector<Entry>& entries, Console& console) {
  std::vector<std::string> inputs = asked.more;
  inputs.push_back(asked.options.subject);
  for (const Entry& entry : entries) {
    const std::vector<std::string> files = files_read_by(entry.lesson);
    inputs.insert(inputs.end(), files.begin(), files.end());
  }
  if (!asked.draw.empty()) Chart::check_ending(asked.draw);
  check_outputs({{"--csv", asked.csv}, {"--draw", asked.draw}}, inputs, console);
}

/// Writes what has a file.
void write_files(const CompareAsked& asked, const std::vector<Outcome>& outcomes,
                 const std::vector<Reference>& references) {
  if (!asked.csv.empty()) write_file(asked.csv, curves_csv(outcomes));
  if (asked.draw.empty()) return;
  std::vector<NamedRun> runs;
  runs.reserve(outcomes.size());
  for (const Outcome& outcome : outcomes)
    runs.emplace_back(outcome.name, outcome.run);
  curves_chart("the same rows and seeds", runs, references).write(asked.draw);
}

void compare_lessons(const CompareAsked& asked, Console& console) {
  const std::vector<Entry> entries = entries_of(asked);
  check_files(asked, entries, console);
  if (asked.repeats.any()) {
    compare_repeatedly(entries, asked.repeats,
                       {.csv = asked.csv,
                        .draw = asked.draw,
                        .json = asked.options.json,
                        .digits = asked.options.digits},
                       console);
    return;
  }
  std::vector<Outcome> outcomes;
  {
    const Interrupt interrupt;
    for (const Entry& entry : entries) {
      if (Interrupt::asked()) break;
      outcomes.push_back(run_entry(entry, console));
    }
  }
  const Outcome* const best = best_of(outcomes);
  say(outcomes.front().on_choosing, entries.front().lesson, console);
  for (std::size_t at = 0; at < outcomes.size(); ++at) {
    say_of_run(outcomes[at], entries.front().lesson, console);
    if (at > 0) {
      say(remarks_on(outcomes[at - 1].training, outcomes[at].training), entries.front().lesson,
          console);
    }
  }
  if (asked.options.json) {
    Json list = Json::array();
    for (const Outcome& outcome : outcomes) {
      list.push_back({{"name", outcome.name},
                      {"judged_by", outcome.judged_by},
                      {"net", outcome.blueprint},
                      {"weights", outcome.weights},
                      {"parts", to_json(outcome.parts)},
                      {"run", lattice::to_json(outcome.run)}});
    }
    write(console.out, {{"compared", std::move(list)},
                        {"best", best == nullptr ? Json() : Json(best->name)},
                        {"settings", settings_json(entries.front().lesson)}});
  } else {
    TerminalStyle style = console.style;
    style.digits = asked.options.digits;
    console.out << settings_text(in_common(outcomes)) << comparison_text(outcomes, best, style);
  }
  write_files(asked, outcomes, entries.front().lesson.references);
}

}  // namespace

Verb compare_verb(Console& console) {
  auto asked = std::make_shared<CompareAsked>();
  Verb verb("compare",
            "Train several lessons, or one with several settings, on the same rows and seeds");
  asked->options.declare(verb, console);
  verb.heading("Lesson");
  verb.texts("more", asked->more, "More lesson files");
  verb.heading("Comparing");
  verb.texts("--vary", asked->vary,
             "A setting and its values: rate=0.1,0.01, or with commas in them "
             "\"net=dense 4|dense 8, tanh, dense 4\"; may be repeated",
             "KEY=A,B");
  asked->repeats.declare(verb);
  verb.heading("Keeping");
  verb.file("--csv", asked->csv, "Write every epoch of every run as a table for charts", "PATH");
  verb.file("--draw", asked->draw, "Draw the curves of all runs over one another: .svg or .png",
            "PATH");
  verb.runs([asked, &console] { compare_lessons(*asked, console); });
  return verb;
}

}  // namespace lattice::tools
