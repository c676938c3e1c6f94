#include "lattice/learning/work_entry.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "lattice/judging/loss.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/words.hpp"
#include "lattice/worksheet/watch.hpp"

namespace lattice {
namespace {

using Stage = WorkEntry::Stage;

constexpr Words<Stage> stage_words = {
    {Stage::rows, "rows taken"}, {Stage::forward, "forward"},
    {Stage::loss, "loss"},       {Stage::reverse, "reverse sweep"},
    {Stage::update, "update"},   {Stage::again, "the same again"}};

WorkEntry rows_entry(const Batch& batch) {
  const Role role = batch.features.shape().role(0);
  return {.stage = Stage::rows,
          .section = batch.is_whole ? plural(role, "rows") + " that count"
                                    : std::string(stage_words.of(Stage::rows))};
}

WorkEntry reverse_entry(const WorkedSheet& work, const ReverseStep& step) {
  WorkEntry entry{.stage = Stage::reverse,
                  .section = step.line.section(),
                  .line = step.line.number(),
                  .name = "∂" + step.line.name(),
                  .title = "∂" + step.line.name(),
                  .numbers = step.gradient};
  for (const ReverseStep::PassedOn& passed : step.passed_on) {
    const ReverseStep* const of_input = work.reverse_step_of(passed.to);
    entry.passed_on.push_back(
        {.to = passed.to.name(),
         .line = passed.to.number(),
         .symbols = step.line.reverse_symbols(passed.input),
         .contribution = passed.contribution,
         .is_whole = of_input != nullptr && of_input->gradient == passed.contribution,
         .input = passed.input});
  }
  if (entry.passed_on.empty()) {
    const bool is_data = step.line.kind() == Line::Kind::asked;
    entry.note = fmt::format("{}: the sweep ends here.", is_data ? "Data" : "A weight");
  }
  return entry;
}

WorkEntry update_entry(const Line& line, const WorkedSheet::Update& update) {
  WorkEntry entry{.stage = Stage::update,
                  .section = line.section(),
                  .line = line.number(),
                  .name = "new " + update.weight,
                  .title = "new " + update.weight,
                  .numbers = update.after};
  if (update.rate_multiplier != 1.0)
    entry.note = fmt::format("at {} × the rate", format_number(update.rate_multiplier));
  return entry;
}

/// What there is to say where the loss has not fallen; nothing where it has.
std::string why_not_lower(const WorkedSheet& work, double after) {
  const double before = work.result_before();
  if (after < before) return "";
  if (!std::isfinite(before)) {
    const std::optional<Alarm> alarm = watch(work.sheet());
    return fmt::format("It is no finite number: {}.",
                       alarm ? alarm->place() : work.result().name() + " itself is none");
  }
  if (!std::isfinite(after)) {
    return fmt::format("It is no finite number any more: {}. Try a smaller rate.",
                       work.alarm_after());
  }
  if (after > before) return "It rose: a step in this direction was too long. Try a smaller rate.";
  const bool has_moved = std::ranges::any_of(
      work.updates(), [](const auto& update) { return update.before != update.after; });
  return has_moved
             ? fmt::format("It stayed the same: the change of the weights does not affect {}.",
                           work.result().name())
             : "It stayed the same, as every weight did.";
}

}  // namespace

std::string WorkEntry::heading() const {
  const bool by_stage = stage == Stage::reverse || stage == Stage::update;
  return by_stage ? std::string(word(stage)) : section;
}

std::string title_of(const Line& line) {
  const std::string symbols = line.symbols();
  return symbols.empty() ? line.name() : fmt::format("{} = {}", line.name(), symbols);
}

std::string_view word(WorkEntry::Stage stage) {
  return stage_words.of(stage);
}

std::vector<WorkEntry> entries_of(const WorkedSheet& work) {
  std::vector<WorkEntry> entries;
  if (!work.batch().rows.empty()) entries.push_back(rows_entry(work.batch()));
  Stage stage = Stage::forward;
  for (const Line& line : work.sheet().lines()) {
    if (line.section() == loss_section) stage = Stage::loss;
    entries.push_back({.stage = stage,
                       .section = line.section(),
                       .line = line.number(),
                       .name = line.name(),
                       .title = title_of(line),
                       .operation = std::string(line.operation()),
                       .numbers = line.value()});
  }
  for (const ReverseStep& step : work.reverse_steps())
    entries.push_back(reverse_entry(work, step));
  for (const WorkedSheet::Update& update : work.updates())
    entries.push_back(update_entry(work.sheet().line(update.weight), update));
  if (const std::optional<double> after = work.result_after()) {
    entries.push_back(
        {.stage = Stage::again,
         .section = work.batch().rows.empty() ? "the same lines again" : "the same minibatch again",
         .note = why_not_lower(work, *after)});
  }
  return entries;
}

std::vector<std::string> rule_in_words(const WorkedSheet& work, int digits) {
  std::vector<std::string> lines;
  if (!work.rule()) return lines;
  lines.emplace_back(work.rule()->word());
  for (const auto& [name, number] : work.rule()->settings()) {
    if (name.ends_with("_decay") && number == 0.0) continue;
    lines.front() += fmt::format(" · {} {}", name, format_number(number, digits));
  }
  if (work.clip_factor() != 1.0) {
    lines.push_back(fmt::format("gradients clipped: each was multiplied by {}",
                                format_number(work.clip_factor(), digits)));
  }
  return lines;
}

}  // namespace lattice
