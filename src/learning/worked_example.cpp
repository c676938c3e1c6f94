#include "lattice/learning/worked_example.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// The steps to show, in order, each once.
std::vector<std::int64_t> in_order(std::vector<std::int64_t> steps, bool has_rule) {
  constexpr std::int64_t most = 100'000;
  std::ranges::sort(steps);
  steps.erase(std::unique(steps.begin(), steps.end()), steps.end());
  if (steps.empty() || steps.front() < 1 || steps.back() > most) {
    throw SettingError({.what = "which steps are worked?",
                        .expected = fmt::format("numbers from 1 to {}, such as 1, 2, 3", most),
                        .found = steps.empty()       ? "none"
                                 : steps.front() < 1 ? fmt::format("{}", steps.front())
                                                     : fmt::format("{}", steps.back())});
  }
  if (!has_rule && steps.back() > 1) {
    throw SettingError({.what = "without an update every step is like the first",
                        .expected = "an update rule, or step 1 alone",
                        .found = fmt::format("step {} and no rule", steps.back()),
                        .remedy = "an update rule",
                        .advice = {"rule", "descent"}});
  }
  return steps;
}

}  // namespace

WorkedExample work_sheet(Worksheet sheet, const Line& result, const SheetSettings& settings) {
  const std::vector<std::int64_t> steps = in_order(settings.steps, settings.rule.has_value());
  const std::size_t number = result.number();
  WorkedExample example{.title = settings.title, .names = settings.names};
  if (!settings.rule) {
    example.steps.push_back(
        {.step = 0, .epoch = 0, .work = WorkedSheet(std::move(sheet), result, settings.rows)});
    return example;
  }
  UpdateRule rule = *settings.rule;
  Weights weights = weights_of(sheet);
  for (std::int64_t step = 1; step <= steps.back() + settings.further; ++step) {
    const Line line = sheet.line(number);
    const UpdateRule before = rule;
    const Gradients gradients = reverse_sweep(line);
    update(rule, weights, gradients,
           settings.clip_norm ? clip_factor(gradients, *settings.clip_norm) : 1.0);
    Worksheet next = worked_again(sheet, weights);
    const bool is_shown = std::ranges::binary_search(steps, step);
    if (is_shown || step > steps.back()) {
      (is_shown ? example.steps : example.further)
          .push_back({.step = step,
                      .epoch = 0,
                      .work = {std::move(sheet), line, before, settings.clip_norm, settings.rows}});
    }
    sheet = std::move(next);
  }
  return example;
}

}  // namespace lattice
