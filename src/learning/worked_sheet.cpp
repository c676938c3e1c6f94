#include "lattice/learning/worked_sheet.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/worksheet/watch.hpp"

namespace lattice {
namespace {

/// What nobody could go through line by line is not worked line by line.
void check_length(const Worksheet& sheet) {
  constexpr std::size_t most_lines = 10'000;
  const std::size_t lines = sheet.size();
  if (lines <= most_lines) return;
  throw SettingError({.what = "the worksheet is too long to be worked line by line",
                      .expected = fmt::format("up to {} lines", most_lines),
                      .found = fmt::format("{}", lines),
                      .remedy = "a network of fewer layers"});
}

}  // namespace

WorkedSheet::WorkedSheet(Worksheet sheet, const Line& result, Batch rows)
    : batch_(std::move(rows)), sheet_(std::move(sheet)) {
  sweep_all(result);
}

WorkedSheet::WorkedSheet(Worksheet sheet, const Line& result, const UpdateRule& rule,
                         std::optional<double> clip_norm, Batch rows)
    : WorkedSheet(std::move(sheet), result, std::move(rows)) {
  const Weights updated = learn(rule, weights_of(sheet_), clip_norm);
  const Worksheet again = worked_again(sheet_, updated);
  take_result_after(again.line(result_.number()), again);
}

WorkedSheet::WorkedSheet(const std::function<Line(Worksheet&)>& write, Batch rows)
    : batch_(std::move(rows)) {
  sweep_all(write(sheet_));
}

void WorkedSheet::sweep_all(const Line& result) {
  check_length(sheet_);
  result_ = result;
  if (!result.is_swept() || result.value().count() != 1) return;
  sweep_.emplace(result);
  while (sweep_->next())
    steps_.push_back(sweep_->step());
}

const ReverseSweep& WorkedSheet::sweep() const {
  // Without one, its constructor says why there is none.
  if (!sweep_) static_cast<void>(ReverseSweep(result_));
  return *sweep_;
}

Weights WorkedSheet::learn(const UpdateRule& rule, const Weights& weights,
                           std::optional<double> clip_norm) {
  rule_ = rule;
  weights_ = weights;
  const Gradients gradients = sweep().gradients();
  const double factor = clip_norm ? lattice::clip_factor(gradients, *clip_norm) : 1.0;
  Weights updated = weights;
  UpdateRule next = rule;
  update(next, updated, gradients, factor);
  std::vector<BeforeUpdate> before;
  for (const Weight& weight : weights_) {
    const Line line = sheet_.line(weight.name);
    if (line.next()) updates_.push_back({weight.name, weight.value, {}, updated[weight.name]});
    if (!sweep_->has_reached(line)) continue;
    before.push_back({.line = line, .weight = weight, .gradient = sweep_->gradient(line)});
    updates_.push_back({weight.name, weight.value, sweep_->gradient(line), updated[weight.name],
                        weight.rate_multiplier});
  }
  if (clip_norm) clipping_ = explain_clipping(before, *clip_norm);
  return updated;
}

const ReverseStep* WorkedSheet::reverse_step_of(const Line& line) const {
  // The sweep goes from the last line to the first.
  const auto found = std::ranges::lower_bound(steps_, line.number(), std::greater{},
                                              [](const ReverseStep& s) { return s.line.number(); });
  return found == steps_.end() || found->line != line ? nullptr : &*found;
}

WorkedSheet::Asked WorkedSheet::parse_asked(std::string_view text) {
  text = trimmed(text);
  for (const auto& [mark, ask] :
       {std::pair<std::string_view, Ask>{"∂", Ask::gradient}, {"new ", Ask::update}}) {
    if (text.starts_with(mark)) return {parse_place(trimmed(text.substr(mark.size()))), ask};
  }
  return {parse_place(text)};
}

Explanation WorkedSheet::why(const Place& place, Ask ask, Told told) const {
  const Line line = sheet_.line(place.line);
  return why(line, index_on(line, place), ask, told);
}

Explanation WorkedSheet::why(const Line& line, const Index& at, Ask ask, Told told) const {
  if (ask == Ask::value) return explain(line, at, told);
  if (ask == Ask::gradient) return explain_gradient(sweep(), line, at, told);
  // Refuses a place that is not there, by the line's name.
  static_cast<void>(explain(line, at));
  if (const std::optional<Line> next = line.next()) {
    Explanation becomes = explain(*next, at, told);
    becomes.subject = fmt::format("new {}{}", line.name(), to_string(at));
    return becomes;
  }
  const auto update = std::ranges::find(updates_, line.name(), &Update::weight);
  if (update == updates_.end()) {
    std::vector<std::string> names;
    for (const Update& each : updates_)
      names.push_back(each.weight);
    throw NameError({.what = fmt::format("{} is not updated", line.name()),
                     .where = fmt::format("line {}", line.number()),
                     .expected = names.empty()
                                     ? "a minibatch with trained weights: here none is"
                                     : fmt::format("a weight: one of {}", fmt::join(names, ", ")),
                     .found = std::string(line.operation())});
  }
  return rule_->explain(before_update(line, *update), at);
}

BeforeUpdate WorkedSheet::before_update(const Line& line, const Update& update) const {
  BeforeUpdate before{
      .line = line, .weight = weights_.find(update.weight), .gradient = update.gradient};
  if (clipping_) before.clip_factor = clipping_->factor;
  return before;
}

double WorkedSheet::clip_factor() const {
  return clipping_ ? clipping_->factor.evaluate() : 1.0;
}

Chain WorkedSheet::why(const Place& place, Ask ask, int depth, const Notation& notation,
                       Told told) const {
  return explain_further(why(place, ask, told), sheet_, sweep_ ? &*sweep_ : nullptr, depth,
                         notation, told);
}

std::vector<WorkedSheet::RuleFigure> WorkedSheet::remembered(const Update& update) const {
  std::vector<RuleFigure> figures;
  if (update.gradient.empty()) return figures;
  const UpdateMemory::Entry* const kept = rule_->memory().find(update.weight);
  const std::vector<std::string> names = rule_->memory_names();
  for (std::size_t at = 0; at < names.size(); ++at) {
    figures.push_back({name_before(names[at]),
                       kept == nullptr ? zeros(update.before.shape(), update.before.precision())
                                       : kept->tensors[at]});
  }
  return figures;
}

std::vector<WorkedSheet::RuleFigure> WorkedSheet::worked_out(const Update& update) const {
  std::vector<RuleFigure> figures;
  if (update.gradient.empty()) return figures;
  const Precision precision = update.before.precision();
  const BeforeUpdate before = before_update(sheet_.line(update.weight), update);
  for (std::int64_t offset = 0; offset < update.before.count(); ++offset) {
    const Index at = update.before.shape().index(offset);
    // They are the same ones, in the same order, for each number.
    const std::vector<Formula> parts = rule_->explain(before, at).formula.shorthand_parts();
    if (parts.empty()) break;
    if (figures.empty()) {
      for (const Formula& each : parts)
        figures.push_back({each.function_name(), zeros(update.before.shape(), precision)});
    }
    for (std::size_t figure = 0; figure < figures.size(); ++figure)
      figures[figure].numbers.set(at, parts[figure].evaluate(precision));
  }
  return figures;
}

GradientCheck WorkedSheet::check(const CheckSettings& settings) const {
  return check_gradients(result(), settings);
}

void WorkedSheet::take_result_after(const Line& result, const Worksheet& again) {
  result_after_ = result.value().number();
  if (std::isfinite(*result_after_)) return;
  if (const std::optional<Alarm> alarm = watch(again)) alarm_after_ = alarm->place();
}

}  // namespace lattice
