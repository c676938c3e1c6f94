#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <memory>

#include "files/file.hpp"
#include "lattice/judging/significance.hpp"
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
  Comparing comparing = {};
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

/// A lesson, by its title if it has one, or a model.
Entry entry_of(const CompareAsked& asked, const std::string& subject) {
  Entry entry{.name = subject, .lesson = {}};
  if (is_model_file(subject)) {
    asked.options.check_for(subject);
    entry.model = std::make_shared<const ModelFile>(load_model(subject));
    entry.lesson = entry.model->lesson;
    return entry;
  }
  entry.lesson = asked.options.lesson_on(lesson_named(subject));
  if (!entry.lesson.title.empty()) entry.name = entry.lesson.title;
  return entry;
}

/// Every combination of the values that are to be varied.
std::vector<Entry> entries_of(const CompareAsked& asked) {
  std::vector<Entry> entries = {entry_of(asked, asked.options.subject)};
  for (const std::string& path : asked.more)
    entries.push_back(entry_of(asked, path));
  const bool has_model =
      std::ranges::any_of(entries, [](const Entry& entry) { return entry.model != nullptr; });
  if (has_model && (!asked.vary.empty() || asked.repeats.any())) {
    throw SettingError({.what = "a trained model has its settings",
                        .expected = "models without --vary, --seeds and --folds",
                        .found = "a model with one of them",
                        .remedy = "compare the lesson that it was trained by"});
  }
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
        more.name = alone ? what : joined(entry.name, what);
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

/// Says of a run when its loss went up.
void say_of_run(const Outcome& outcome, const Lesson& lesson, Console& console) {
  std::vector<Remark> remarks = remarks_on(outcome.run, 0);
  std::erase_if(remarks, [](const Remark& remark) { return remark.code != "rate-too-high"; });
  for (Remark& remark : remarks)
    remark.text = outcome.name + ": " + remark.text;
  say(remarks, lesson, console);
}

/// Whether nothing but the seed is varied.
bool varies_seed_alone(const CompareAsked& asked) {
  if (!asked.more.empty() || asked.vary.size() != 1) return false;
  const std::string& vary = asked.vary.front();
  return setting_called(vary.substr(0, vary.find('='))).key == "seed";
}

/// Which is best, where all were judged by the same rows and the same loss, and a setting was
/// varied.
const Outcome* best_of(const std::vector<Outcome>& outcomes, const CompareAsked& asked) {
  if (!are_alike(outcomes) || varies_seed_alone(asked)) return nullptr;
  return &*std::ranges::min_element(
      outcomes, [](const Outcome& a, const Outcome& b) { return a.watched() < b.watched(); });
}

/// The losses by which outcomes that differ in their seed alone are compared, over one another.
std::string seeds_told(const std::vector<Outcome>& outcomes, const TerminalStyle& style) {
  std::vector<double> losses(outcomes.size());
  std::ranges::transform(outcomes, losses.begin(), &Outcome::watched);
  const OverRuns over = over_runs(losses);
  return paragraph(
      fmt::format(
          "Only the seed differs: the {} is {} on average, with a standard deviation of {}. "
          "No seed is better than another.",
          watched_loss(outcomes.front()), format_number(over.mean, style.digits),
          format_number(over.deviation, 2)),
      style.width);
}

std::string comparison_text(const std::vector<Outcome>& outcomes, const CompareAsked& asked,
                            const Outcome* best, const TerminalStyle& style) {
  std::string text = outcomes_text(outcomes, asked.comparing, style) + "\n";
  if (!are_alike(outcomes)) {
    text += "Not the same rows, or not the same loss: no figure says which is best.\n";
    const std::vector<std::string> names = names_of(outcomes);
    const std::vector<std::string> labels = labels_for(names);
    for (std::size_t at = 0; at < outcomes.size(); ++at) {
      text += fmt::format("  {}: {}\n",
                          labels[at] == names[at] ? harmless(names[at]) : fmt::format("{}", at + 1),
                          harmless(outcomes[at].judged_by));
    }
    return text;
  }
  if (best == nullptr) return text + seeds_told(outcomes, style);
  text += paragraph(fmt::format("The lowest {}: {}", watched_loss(*best), harmless(best->name)),
                    style.width);
  const Assessment* const test = part_of(*best, "test");
  if (test != nullptr && !asked.comparing.with_test) {
    text += fmt::format("Its test part (not used in the choice): loss {}, {} {}\n",
                        format_number(test->loss, style.digits), word_for_figure(*best),
                        format_number(test->figure(), style.digits));
  }
  return text;
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
  const bool has_one_seed = std::ranges::all_of(outcomes, [&](const Outcome& outcome) {
    return outcome.training.seed == outcomes.front().training.seed;
  });
  const char* const title = !are_alike(outcomes) ? "several runs"
                            : has_one_seed       ? "the same rows and seed"
                                                 : "the same rows";
  curves_chart(title, runs, references).write(asked.draw);
}

void compare_lessons(const CompareAsked& asked, Console& console) {
  const std::vector<Entry> entries = entries_of(asked);
  check_files(asked, entries, console);
  if (asked.repeats.any()) {
    compare_repeatedly(entries, asked.repeats,
                       {.comparing = asked.comparing,
                        .csv = asked.csv,
                        .draw = asked.draw,
                        .json = asked.options.json,
                        .digits = asked.options.digits},
                       console);
    return;
  }
  std::vector<EntryRun> runs;
  runs.reserve(entries.size());
  for (const Entry& entry : entries)
    runs.push_back({.entry = entry});
  const std::vector<Outcome> outcomes = run_all(runs, console);
  const Outcome* const best = best_of(outcomes, asked);
  say(outcomes.front().on_choosing, entries.front().lesson, console);
  if (asked.comparing.with_test)
    say(outcomes.front().on_test_figures, entries.front().lesson, console);
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
    console.out << settings_text(in_common(outcomes), console.style)
                << comparison_text(outcomes, asked, best, style);
  }
  write_files(asked, outcomes, entries.front().lesson.references);
}

void declare_compare(Verb& verb, Console& console) {
  auto asked = std::make_shared<CompareAsked>();
  asked->options.declare(verb, console);
  verb.heading("Lesson");
  verb.texts("more", asked->more, "More lesson files, or model files, which are not trained again");
  verb.heading("Comparing");
  verb.texts("--vary", asked->vary,
             "A setting and its values: rate=0.1,0.01, or with commas in them "
             "\"net=dense 4|dense 8, tanh, dense 4\"; may be repeated",
             "KEY=A,B");
  asked->repeats.declare(verb);
  verb.flag("--test-figures", asked->comparing.with_test,
            "Show the figures of the test part of all, too; do not choose by them");
  verb.flag("--each-run", asked->comparing.each_run,
            "With --seeds or --folds, list every run below the means");
  verb.heading("Keeping");
  verb.file("--csv", asked->csv, "Write every epoch of every run as a table for charts", "PATH");
  verb.file("--draw", asked->draw, "Draw the curves of all runs over one another: .svg or .png",
            "PATH");
  verb.runs([asked, &console] { compare_lessons(*asked, console); });
}

}  // namespace

Verb compare_verb(Console& console) {
  return {"compare",
          "Train several lessons, or one with several settings, on the same rows and seeds",
          console, declare_compare};
}

}  // namespace lattice::tools
