#include "tools/compare_repeated.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <utility>

#include "files/file.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/files/json.hpp"
#include "lattice/judging/significance.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/text_table.hpp"
#include "tools/interrupt.hpp"
#include "tools/options.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

/// One lesson, run several times.
struct Repeated {
  std::string name;
  std::vector<Outcome> runs;
};

/// The runs of all, one after another.
std::vector<Outcome> every_run(const std::vector<Repeated>& all) {
  std::vector<Outcome> every;
  for (const Repeated& each : all)
    every.insert(every.end(), each.runs.begin(), each.runs.end());
  return every;
}

/// Reads a figure of one part.
using Figure = std::function<double(const Assessment&)>;

const Figure loss_of = [](const Assessment& part) { return part.loss; };
const Figure figure_of = [](const Assessment& part) { return part.figure(); };

std::vector<double> figures_of(const Repeated& repeated, std::string_view part,
                               const Figure& figure) {
  std::vector<double> figures;
  for (const Outcome& run : repeated.runs) {
    if (const Assessment* const judged = part_of(run, part)) figures.push_back(figure(*judged));
  }
  return figures;
}

std::vector<double> watched_of(const Repeated& repeated) {
  std::vector<double> losses(repeated.runs.size());
  std::ranges::transform(repeated.runs, losses.begin(), &Outcome::watched);
  return losses;
}

/// A lesson with another seed, or as it is where folds are what changes.
Entry entry_of_run(const Entry& entry, const Repeats& repeats, std::int64_t run) {
  Entry one = entry;
  if (repeats.seeds) one.lesson.seed += static_cast<std::uint64_t>(run);
  one.name = joined(entry.name, repeats.seeds ? fmt::format("seed {}", one.lesson.seed)
                                              : fmt::format("fold {}", run));
  return one;
}

/// Run by run, and in each every lesson; so that an interrupt leaves as many of each.
std::vector<Repeated> run_repeatedly(const std::vector<Entry>& entries, const Repeats& repeats,
                                     Console& console) {
  std::vector<Repeated> all;
  all.reserve(entries.size());
  for (const Entry& entry : entries)
    all.push_back({.name = entry.name, .runs = {}});
  const std::int64_t count = repeats.seeds ? *repeats.seeds : *repeats.folds;
  std::vector<EntryRun> runs;
  for (std::int64_t run = 0; run < count; ++run) {
    const std::optional<Fold> fold =
        repeats.folds ? std::optional(Fold{.number = run, .count = count}) : std::nullopt;
    for (const Entry& entry : entries)
      runs.push_back({.entry = entry_of_run(entry, repeats, run), .fold = fold});
  }
  std::vector<Outcome> outcomes = run_all(runs, console);
  const std::size_t complete = outcomes.size() / entries.size() * entries.size();
  for (std::size_t at = 0; at < complete; ++at)
    all[at % entries.size()].runs.push_back(std::move(outcomes[at]));
  if (all.front().runs.empty()) {
    throw SettingError({.what = "interrupted before the first run of each was complete",
                        .expected = "one run or more of each lesson",
                        .found = "none"});
  }
  return all;
}

std::string with_deviation(const std::vector<double>& figures, const TerminalStyle& style) {
  if (figures.empty()) return "–";
  const OverRuns over = over_runs(figures);
  return fmt::format("{} ± {}", format_number(over.mean, style.digits),
                     format_number(over.deviation, 2));
}

std::string table_text(const std::vector<Repeated>& all, const Comparing& comparing,
                       const TerminalStyle& style) {
  std::vector<std::string> names(all.size());
  std::ranges::transform(all, names.begin(), &Repeated::name);
  const std::string figure = word_for_figure(all.front().runs.front());
  const std::vector<std::string_view> parts = parts_in_table(comparing);
  std::vector<TextTable::Heading> headings = {{"", TextTable::Set::left}, {"runs"}};
  for (const std::string_view part : parts) {
    headings.push_back({loss_heading(part)});
    headings.push_back({figure});
  }
  TextTable table(headings);
  for (std::size_t at = 0; at < all.size(); ++at) {
    const Repeated& each = all[at];
    std::vector<TextTable::Entry> row = {names[at], fmt::format("{}", each.runs.size())};
    for (const std::string_view part : parts) {
      row.emplace_back(with_deviation(figures_of(each, part, loss_of), style));
      row.emplace_back(with_deviation(figures_of(each, part, figure_of), style));
    }
    table.add(std::move(row));
  }
  std::string text = labelled(std::move(table), names, style);
  if (!comparing.each_run) return text;
  return text + "\n" + outcomes_text(every_run(all), comparing, style);
}

bool is_alike(const std::vector<Repeated>& all) {
  for (std::size_t run = 0; run < all.front().runs.size(); ++run) {
    std::vector<Outcome> outcomes;
    outcomes.reserve(all.size());
    for (const Repeated& each : all)
      outcomes.push_back(each.runs[run]);
    if (!are_alike(outcomes)) return false;
  }
  return true;
}

/// The lesson whose mean watched loss is lowest.
const Repeated& lowest_of(const std::vector<Repeated>& all) {
  return *std::ranges::min_element(
      all, {}, [](const Repeated& each) { return over_runs(watched_of(each)).mean; });
}

/// The differences to the lowest, each in words.
std::string difference_text(const Repeated& lowest, const Repeated& other,
                            const TerminalStyle& style) {
  const Difference difference = difference_of(watched_of(lowest), watched_of(other));
  if (!std::isfinite(difference.difference.mean)) {
    return paragraph(fmt::format("{}: its {} was not finite in some run.", harmless(other.name),
                                 watched_loss(lowest.runs.front())),
                     style.width);
  }
  return paragraph(
      fmt::format("{}: its {} is {} higher on average; chance alone explains up to {}. {}",
                  harmless(other.name), watched_loss(lowest.runs.front()),
                  format_number(difference.difference.mean, style.digits),
                  format_number(difference.margin, style.digits),
                  difference.is_significant
                      ? "The difference is significant."
                      : "With this many runs, the difference is not significant."),
      style.width);
}

std::string comparison_text(const std::vector<Repeated>& all, const Repeats& repeats,
                            const Comparing& comparing, const TerminalStyle& style) {
  const std::size_t runs = all.front().runs.size();
  std::string text = table_text(all, comparing, style);
  text += fmt::format(
      "± is the standard deviation over {} {}. No {} is better than another: what is "
      "chosen is a setting.\n",
      runs, repeats.seeds ? "seeds" : "folds", repeats.seeds ? "seed" : "fold");
  if (!is_alike(all)) {
    return text + "\nRows or losses differ: the figures cannot be compared.\n";
  }
  const Repeated& lowest = lowest_of(all);
  const std::string_view loss = watched_loss(lowest.runs.front());
  if (all.size() > 1) {
    text += fmt::format("\nThe lowest {} on average: {}\n", loss, harmless(lowest.name));
    for (const Repeated& each : all) {
      if (&each != &lowest && runs > 1) text += difference_text(lowest, each, style);
    }
  }
  const std::vector<double> losses = figures_of(lowest, "test", loss_of);
  if (!losses.empty() && !comparing.with_test) {
    text += fmt::format("{} test part (not used in the choice): loss {}, {} {}\n",
                        all.size() > 1 ? "Its" : "The", with_deviation(losses, style),
                        word_for_figure(lowest.runs.front()),
                        with_deviation(figures_of(lowest, "test", figure_of), style));
  }
  return text;
}

Json runs_json(const std::vector<double>& figures) {
  if (figures.empty()) return {};
  const OverRuns over = over_runs(figures);
  return {{"mean", over.mean}, {"standard_deviation", over.deviation}, {"runs", over.count}};
}

Json comparison_json(const std::vector<Repeated>& all, const Repeats& repeats) {
  Json list = Json::array();
  for (const Repeated& each : all) {
    Json runs = Json::array();
    for (const Outcome& run : each.runs) {
      runs.push_back(
          {{"name", run.name}, {"parts", to_json(run.parts)}, {"run", lattice::to_json(run.run)}});
    }
    Json parts = Json::object();
    for (const DataPart part : all_data_parts) {
      const std::string word(lattice::word(part));
      if (figures_of(each, word, loss_of).empty()) continue;
      parts[word] = {{"loss", runs_json(figures_of(each, word, loss_of))},
                     {"figure", runs_json(figures_of(each, word, figure_of))}};
    }
    list.push_back({{"name", each.name}, {"runs", std::move(runs)}, {"parts", std::move(parts)}});
  }
  Json json = {{"compared", std::move(list)}, {"over", repeats.seeds ? "seeds" : "folds"}};
  if (all.size() == 1 || all.front().runs.size() < 2 || !is_alike(all)) return json;
  const Repeated& lowest = lowest_of(all);
  json["lowest"] = lowest.name;
  for (const Repeated& each : all) {
    if (&each == &lowest) continue;
    const Difference difference = difference_of(watched_of(lowest), watched_of(each));
    json["apart"].push_back({{"name", each.name},
                             {"difference", difference.difference.mean},
                             {"standard_deviation", difference.difference.deviation},
                             {"margin", difference.margin},
                             {"is_significant", difference.is_significant}});
  }
  return json;
}

void write_files(const std::vector<Repeated>& all, const RepeatedOutputs& outputs,
                 const std::vector<Reference>& references) {
  if (!outputs.csv.empty()) write_file(outputs.csv, curves_csv(every_run(all)));
  if (outputs.draw.empty()) return;
  std::vector<NamedRuns> groups;
  for (const Repeated& each : all) {
    NamedRuns group{each.name, {}};
    for (const Outcome& run : each.runs)
      group.second.push_back(run.run);
    groups.push_back(std::move(group));
  }
  spread_chart(fmt::format("{} runs of each, and their means", all.front().runs.size()), groups,
               references)
      .write(outputs.draw);
}

}  // namespace

void Repeats::declare(Verb& verb) {
  const auto count = [&verb](const char* name, std::optional<std::int64_t>& place,
                             const char* sentence) {
    verb.read(
        name,
        [name, &place](const std::string& text) { place = whole_number(name, text, 2, 10'000); },
        sentence, "N");
  };
  count("--seeds", seeds, "Repeat each run with N seeds: mean, deviation, significance");
  count("--folds", folds, "Cross-validate over N folds of all rows except the test part");
}

void compare_repeatedly(const std::vector<Entry>& entries, const Repeats& repeats,
                        const RepeatedOutputs& outputs, Console& console) {
  if (repeats.seeds && repeats.folds) {
    throw SettingError({.what = "--seeds and --folds exclude each other",
                        .expected = "one of --seeds and --folds",
                        .found = "both"});
  }
  const std::vector<Repeated> all = run_repeatedly(entries, repeats, console);
  const Lesson& lesson = entries.front().lesson;
  say(all.front().runs.front().on_choosing, lesson, console);
  if (outputs.comparing.with_test && entries.size() > 1)
    say(all.front().runs.front().on_test_figures, lesson, console);
  if (outputs.json) {
    Json json = comparison_json(all, repeats);
    json["settings"] = settings_json(lesson);
    write(console.out, json);
  } else {
    TerminalStyle style = console.style;
    style.digits = outputs.digits;
    console.out << settings_text(in_common(every_run(all)), console.style)
                << comparison_text(all, repeats, outputs.comparing, style);
  }
  write_files(all, outputs, lesson.references);
}

}  // namespace lattice::tools
