#include "tools/comparison.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>
#include <utility>

#include "lattice/files/csv.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"
#include "tools/interrupt.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {

std::string joined(const std::string& name, const std::string& special) {
  return name.empty() ? special : fmt::format("{} · {}", name, special);
}

namespace {

void say_of(const Entry& entry, const RunRecord& run, const Console& console) {
  console.tell_line(fmt::format("{}: {} in {} s", entry.name, counted(run.last_epoch(), "epoch"),
                                format_number(run.seconds, 3)));
}

}  // namespace

Model trained_model(const Entry& entry, Console& console) {
  Prepared prepared = prepare(entry.lesson);
  prepared.training.should_stop = Interrupt::asked;
  Network network = prepared.network;
  const RunRecord run = train(network, prepared.split, prepared.training);
  say_of(entry, run, console);
  return model_of(network, prepared.loss, prepared.split.train);
}

Outcome run_entry(const Entry& entry, Console& console, std::optional<Fold> fold) {
  Prepared prepared =
      entry.model == nullptr
          ? prepare(entry.lesson, fold)
          : prepared_again(*entry.model, "compare models on their own rows alone", console);
  Network network = entry.model == nullptr ? prepared.network : entry.model->model.network;
  RunRecord run;
  if (entry.model == nullptr) {
    prepared.training.should_stop = Interrupt::asked;
    run = train(network, prepared.split, prepared.training);
    say_of(entry, run, console);
  } else {
    run = entry.model->run;
  }
  NamedAssessments parts = assess_run(network, prepared);
  return {.name = entry.name,
          .classes = prepared.data().has_classes() ? prepared.data().all_class_names()
                                                   : std::vector<std::string>(),
          .judged_by = fmt::format("{}, {}, {}", prepared.data().name,
                                   counted(prepared.data().rows(), "row"), word(prepared.loss)),
          .fingerprint = fingerprint(prepared.data()),
          .about = prepared.in_words(),
          .blueprint = network.blueprint(),
          .weights = network.plan().weights(),
          .training = prepared.training,
          .on_choosing = remarks_on_choosing(prepared.split),
          .on_test_figures = remarks_on_test_figures(prepared.split),
          .run = std::move(run),
          .parts = std::move(parts)};
}

double Outcome::watched() const {
  double loss = run.epochs.back().watched();
  for (const char* const part : {"validation", "train"}) {
    const Assessment* const found = part_of(*this, part);
    if (found == nullptr) continue;
    loss = found->loss;
    break;
  }
  return std::isnan(loss) ? std::numeric_limits<double>::infinity() : loss;
}

const Assessment* part_of(const Outcome& outcome, std::string_view name) {
  const auto found =
      std::ranges::find(outcome.parts, name, &std::pair<std::string, Assessment>::first);
  return found == outcome.parts.end() ? nullptr : &found->second;
}

std::string_view watched_loss(const Outcome& outcome) {
  return part_of(outcome, "validation") != nullptr ? "validation loss"
         : part_of(outcome, "train") != nullptr    ? "train loss"
                                                   : "running loss";
}

std::string word_for_figure(const Outcome& outcome) {
  return outcome.classes.empty() ? "R²" : "accuracy";
}

std::string curves_csv(const std::vector<Outcome>& outcomes) {
  // With other classes the columns would be others, too.
  const std::vector<std::string>& classes = outcomes.front().classes;
  const bool have_confusion = std::ranges::all_of(outcomes, [&](const Outcome& outcome) {
    return !outcome.training.confusion.empty() && outcome.classes == classes;
  });
  std::vector<Table> tables;
  tables.reserve(outcomes.size());
  for (const Outcome& outcome : outcomes) {
    tables.push_back(figures_table(outcome.name, outcome.run,
                                   have_confusion ? classes : std::vector<std::string>()));
  }
  return to_csv(appended(std::move(tables)));
}

std::vector<std::string> in_common(const std::vector<Outcome>& outcomes) {
  std::vector<std::string> words = outcomes.front().about;
  for (const Outcome& outcome : outcomes) {
    std::erase_if(words, [&](const std::string& each) {
      return std::ranges::find(outcome.about, each) == outcome.about.end();
    });
  }
  return words;
}

bool are_alike(const std::vector<Outcome>& outcomes) {
  return std::ranges::all_of(outcomes, [&](const Outcome& outcome) {
    return outcome.fingerprint == outcomes.front().fingerprint &&
           outcome.judged_by == outcomes.front().judged_by &&
           outcome.parts.size() == outcomes.front().parts.size();
  });
}

std::vector<std::string_view> parts_in_table(const Comparing& comparing) {
  if (comparing.with_test) return {"train", "validation", "test"};
  return {"train", "validation"};
}

std::string loss_heading(std::string_view part) {
  return part == "validation" ? "valid. loss" : fmt::format("{} loss", part);
}

std::vector<std::string> names_of(const std::vector<Outcome>& outcomes) {
  std::vector<std::string> names(outcomes.size());
  std::ranges::transform(outcomes, names.begin(), &Outcome::name);
  return names;
}

std::string outcomes_text(const std::vector<Outcome>& outcomes, const Comparing& comparing,
                          const TerminalStyle& style) {
  const std::vector<std::string> names = names_of(outcomes);
  const bool all_ended = std::ranges::all_of(
      outcomes, [](const Outcome& outcome) { return outcome.run.ending == Ending::all_epochs; });
  std::vector<TextTable::Heading> headings = {
      {"", TextTable::Set::left}, {"weights"}, {"epochs"}, {"updates"}};
  for (const std::string_view part : parts_in_table(comparing)) {
    headings.push_back({loss_heading(part)});
    headings.push_back({word_for_figure(outcomes.front())});
  }
  if (!all_ended) headings.push_back({"ended", TextTable::Set::left});
  TextTable table(headings);
  for (std::size_t at = 0; at < outcomes.size(); ++at) {
    const Outcome& outcome = outcomes[at];
    std::vector<TextTable::Entry> row = {names[at], fmt::format("{}", outcome.weights),
                                         fmt::format("{}", outcome.run.last_epoch()),
                                         fmt::format("{}", outcome.run.updates)};
    for (const std::string_view part : parts_in_table(comparing)) {
      const Assessment* const judged = part_of(outcome, part);
      row.emplace_back(judged == nullptr ? "–" : format_number(judged->loss, style.digits));
      row.emplace_back(judged == nullptr ? "–" : format_number(judged->figure(), style.digits));
    }
    if (!all_ended) row.emplace_back(std::string(word(outcome.run.ending)));
    table.add(std::move(row));
  }
  return labelled(std::move(table), names, style);
}

std::vector<std::string> labels_for(const std::vector<std::string>& names) {
  constexpr std::size_t longest = 28;
  std::set<std::string> short_ones;
  for (const std::string& name : names) {
    if (columns(name) <= longest) short_ones.insert(name);
  }
  if (short_ones.size() == names.size()) return names;
  std::vector<std::string> rows;
  for (const std::string& differs : what_differs(names)) {
    const std::string number = fmt::format("{}", rows.size() + 1);
    rows.push_back(differs.empty() ? number
                                   : fmt::format("{}: {}", number, shortened(differs, longest)));
  }
  return rows;
}

std::string labelled(TextTable table, const std::vector<std::string>& names,
                     const TerminalStyle& style) {
  std::vector<std::string> rows = labels_for(names);
  table.label_rows(rows);
  if (!table.fits(style.width)) {
    for (std::size_t at = 0; at < rows.size(); ++at)
      rows[at] = fmt::format("{}", at + 1);
    table.label_rows(rows);
  }
  std::string legend;
  for (std::size_t at = 0; at < rows.size(); ++at) {
    if (rows[at] != names[at])
      legend += paragraph(fmt::format("{}: {}", at + 1, harmless(names[at])), style.width);
  }
  return (legend.empty() ? "" : legend + "\n") + table.text(style);
}

}  // namespace lattice::tools
