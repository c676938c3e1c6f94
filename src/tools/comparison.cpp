#include "tools/comparison.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <utility>

#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "text/counted.hpp"
#include "tools/interrupt.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {

Outcome run_entry(const Entry& entry, Console& console, std::optional<Fold> fold) {
  Prepared prepared = prepare(entry.lesson, fold);
  prepared.training.should_stop = Interrupt::asked;
  Network network = prepared.network;
  RunRecord run = train(network, prepared.split, prepared.training);
  console.tell_line(fmt::format("{}: {} in {} s", entry.name, counted(run.last_epoch(), "epoch"),
                                format_number(run.seconds, 3)));
  NamedAssessments parts = assess_parts(network, prepared.split, {.loss = prepared.loss});
  return {.name = entry.name,
          .judged_by = fmt::format("{}, {}, {}", prepared.data().name,
                                   counted(prepared.data().rows(), "row"), word(prepared.loss)),
          .fingerprint = fingerprint(prepared.data()),
          .about = prepared.in_words(),
          .blueprint = network.blueprint(),
          .weights = network.plan().weights(),
          .training = prepared.training,
          .on_choosing = remarks_on_choosing(prepared.split),
          .run = std::move(run),
          .parts = std::move(parts)};
}

const Assessment* part_of(const Outcome& outcome, std::string_view name) {
  const auto found =
      std::ranges::find(outcome.parts, name, &std::pair<std::string, Assessment>::first);
  return found == outcome.parts.end() ? nullptr : &found->second;
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

std::vector<std::string> row_names(const std::vector<std::string>& names) {
  constexpr std::size_t longest = 28;
  std::set<std::string> short_ones;
  for (const std::string& name : names) {
    if (columns(name) <= longest) short_ones.insert(name);
  }
  if (short_ones.size() == names.size()) return names;
  std::vector<std::string> rows;
  for (std::size_t number = 1; number <= names.size(); ++number)
    rows.push_back(fmt::format("{}", number));
  return rows;
}

std::string legend(const std::vector<std::string>& names, const std::vector<std::string>& rows) {
  std::string text;
  for (std::size_t at = 0; at < rows.size(); ++at) {
    if (rows[at] != names[at])
      text += paragraph(fmt::format("{}: {}", rows[at], harmless(names[at])));
  }
  return text.empty() ? "" : text + "\n";
}

}  // namespace lattice::tools
