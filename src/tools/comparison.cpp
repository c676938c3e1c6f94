#include "tools/comparison.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <exception>
#include <functional>
#include <limits>
#include <mutex>
#include <set>
#include <sstream>
#include <system_error>
#include <thread>
#include <utility>

#include "lattice/files/csv.hpp"
#include "lattice/tensor/threads.hpp"
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

namespace {

/// @param should_stop whether training is to end after the step that it is at
Outcome outcome_of(const EntryRun& to_run, Console& console,
                   const std::function<bool()>& should_stop) {
  const Entry& entry = to_run.entry;
  Prepared prepared =
      entry.model == nullptr
          ? prepare(entry.lesson, to_run.fold)
          : prepared_again(*entry.model, "compare models on their own rows alone", console);
  Network network = entry.model == nullptr ? prepared.network : entry.model->model.network;
  RunRecord run;
  if (entry.model == nullptr) {
    prepared.training.should_stop = should_stop;
    run = train(network, prepared.split, prepared.training);
    prepared.training.should_stop = {};
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

/// Runs that several threads take one after another.
class SharedRuns {
 public:
  SharedRuns(std::span<const EntryRun> runs, Console& console)
      : runs_(runs), console_(console), ended_(runs.size()) {}

  /// Takes runs until none is left, or they are to stop.
  void work() {
    while (const std::optional<std::size_t> number = next()) {
      std::ostringstream said;
      Console own{.out = said, .err = said, .style = console_.style};
      Ended ended;
      try {
        ended.outcome = outcome_of(runs_[*number], own, [&] { return is_to_stop(*number); });
      } catch (...) {
        ended.error = std::current_exception();
      }
      ended.said = said.str();
      keep(*number, std::move(ended));
    }
  }

  /// What came of those that began.
  [[nodiscard]] std::vector<Outcome> outcomes() && {
    std::vector<Outcome> outcomes;
    for (Ended& ended : ended_) {
      if (ended.error != nullptr) std::rethrow_exception(ended.error);
      if (ended.outcome) outcomes.push_back(std::move(*ended.outcome));
    }
    return outcomes;
  }

 private:
  struct Ended {
    std::optional<Outcome> outcome = std::nullopt;
    std::exception_ptr error = nullptr;
    std::string said = {};
  };

  /// Whether a run is given up: of those before one that failed, none is.
  [[nodiscard]] bool is_to_stop(std::size_t number) const {
    return number > first_failed_ || Interrupt::asked();
  }

  /// The number of the run that comes next.
  std::optional<std::size_t> next() {
    const std::lock_guard lock(guard_);
    const bool is_over = begun_ > 0 && is_to_stop(begun_);  // one at least begins
    if (is_over || begun_ == runs_.size()) return std::nullopt;
    return begun_++;
  }

  /// Keeps what came of a run, and says what is to be said of those before which none is missing
  /// and none has failed: as much as if one came after another.
  void keep(std::size_t number, Ended ended) {
    const std::lock_guard lock(guard_);
    if (ended.error != nullptr) first_failed_ = std::min(first_failed_.load(), number);
    ended_[number] = std::move(ended);
    while (told_ < begun_ && (ended_[told_].outcome || ended_[told_].error != nullptr)) {
      console_.err << ended_[told_].said << std::flush;
      told_ = ended_[told_].error != nullptr ? runs_.size() : told_ + 1;
    }
  }

  std::span<const EntryRun> runs_;
  Console& console_;
  std::mutex guard_ = {};
  std::vector<Ended> ended_;
  std::size_t begun_ = 0;
  std::size_t told_ = 0;
  std::atomic<std::size_t> first_failed_ = std::numeric_limits<std::size_t>::max();
};

}  // namespace

std::vector<Outcome> run_all(std::span<const EntryRun> runs, Console& console) {
  const Interrupt interrupt;
  SharedRuns shared(runs, console);
  const int threads = std::min(Threads::allowed(), static_cast<int>(runs.size()));
  const int for_each = Threads::allowed() / std::max(threads, 1);
  const auto work = [&] {
    const Threads some(for_each);
    shared.work();
  };
  {
    std::vector<std::jthread> others;
    try {
      while (std::ssize(others) + 1 < threads)
        others.emplace_back(work);
    } catch (const std::system_error&) {
      // These are all there are.
    }
    work();
  }
  return std::move(shared).outcomes();
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
