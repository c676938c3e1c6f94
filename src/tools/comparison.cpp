#include "tools/comparison.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "tools/interrupt.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {

Outcome run_entry(const Entry& entry, Console& console, std::optional<Fold> fold) {
  Prepared prepared = prepare(entry.lesson, fold);
  prepared.training.should_stop = Interrupt::asked;
  Network network = prepared.network;
  RunRecord run = train(network, prepared.split, prepared.training);
  console.tell(fmt::format("{}: {} epochs in {} s\n", entry.name, run.last_epoch(),
                           format_number(run.seconds, 3)));
  NamedAssessments parts = assess_parts(network, prepared.split, {.loss = prepared.loss});
  return {.name = entry.name,
          .judged_by = fmt::format("{}, {} rows, {}", prepared.data().name, prepared.data().rows(),
                                   word(prepared.loss)),
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

}  // namespace lattice::tools
