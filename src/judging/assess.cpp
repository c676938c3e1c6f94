#include "lattice/judging/assess.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/judging/figures.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"

namespace lattice {
namespace {

double ratio(double part, double whole) {
  return whole == 0.0 ? 0.0 : part / whole;
}

std::vector<ClassFigures> by_class(const Tensor& confusion, const std::vector<std::string>& names) {
  std::vector<ClassFigures> figures;
  const auto count = std::ssize(names);
  for (std::int64_t of = 0; of < count; ++of) {
    double rows = 0.0;
    double answers = 0.0;
    for (std::int64_t other = 0; other < count; ++other) {
      rows += confusion.at({of, other});
      answers += confusion.at({other, of});
    }
    const double right = confusion.at({of, of});
    figures.push_back({.name = names[static_cast<std::size_t>(of)],
                       .rows = static_cast<std::int64_t>(rows),
                       .answers = static_cast<std::int64_t>(answers),
                       .precision = ratio(right, answers),
                       .recall = ratio(right, rows),
                       .f1 = ratio(2.0 * right, rows + answers)});
  }
  return figures;
}

/// The loss of as much for every class.
double even_guess_loss(Loss loss, double classes, std::int64_t outputs) {
  if (!is_squared(loss)) return std::log(classes);
  const double half = loss == Loss::half_mean_squared ? 0.5 : 1.0;
  const double even = 1.0 / classes;
  // One output in n is to be 1, the others 0.
  return half *
         (outputs == 1 ? 0.25 : even * (1.0 - even) * (1.0 - even) + (1.0 - even) * even * even);
}

ClassJudgement judge_classes(const Tensor& outputs, Outputs kind, Loss loss, const Dataset& data,
                             const AssessSettings& settings) {
  const std::int64_t top = settings.top;
  if (top < 1) {
    throw SettingError({.what = fmt::format("the {} likeliest classes", top),
                        .expected = "1 or more",
                        .found = fmt::format("{}", top)});
  }
  const std::int64_t count = data.class_count();
  const Tensor answers = answers_of(outputs, kind);
  ClassJudgement judgement{.accuracy = accuracy(answers, data.classes),
                           .top = std::min(top, count),
                           .confusion = confusion(answers, data.classes, count)};
  judgement.top_accuracy =
      top_accuracy(probabilities_of(outputs, kind), data.classes, judgement.top);
  judgement.classes = by_class(judgement.confusion, data.all_class_names());
  if (settings.as_groups) {
    judgement.grouping.emplace().matching = best_matching(judgement.confusion);
    judgement.grouping->accuracy =
        matched_accuracy(judgement.confusion, judgement.grouping->matching);
  }
  judgement.even_guess_loss = even_guess_loss(loss, static_cast<double>(count), outputs.shape()[1]);
  judgement.even_guess_accuracy = 1.0 / static_cast<double>(count);
  const auto commonest = std::ranges::max_element(judgement.classes, {}, &ClassFigures::rows);
  judgement.commonest = commonest->name;
  judgement.commonest_accuracy =
      static_cast<double>(commonest->rows) / static_cast<double>(data.rows());
  return judgement;
}

NumberJudgement judge_target(const std::vector<double>& answers, const std::vector<double>& truth) {
  const auto count = static_cast<double>(truth.size());
  double mean = 0.0;
  for (const double number : truth)
    mean += number;
  mean /= count;
  NumberJudgement judgement;
  for (std::size_t at = 0; at < truth.size(); ++at) {
    const double apart = answers[at] - truth[at];
    judgement.mean_squared += apart * apart;
    judgement.mean_absolute += std::abs(apart);
    judgement.mean_guess_squared += (truth[at] - mean) * (truth[at] - mean);
  }
  // Where the truth never changes there is no variance to explain.
  const bool varies = judgement.mean_guess_squared > 0.0;
  judgement.r_squared = varies ? 1.0 - judgement.mean_squared / judgement.mean_guess_squared
                               : (judgement.mean_squared == 0.0 ? 1.0 : 0.0);
  judgement.mean_squared /= count;
  judgement.mean_absolute /= count;
  judgement.mean_guess_squared /= count;
  return judgement;
}

std::vector<NumberJudgement> judge_numbers(const Tensor& outputs, const Dataset& data) {
  const auto in_units = [&](const Tensor& numbers, std::int64_t target) {
    return slice(data.target_scaling ? data.target_scaling->raw(numbers) : numbers, 1,
                 {.from = target, .end = target + 1})
        .numbers();
  };
  std::vector<NumberJudgement> judgements;
  for (std::int64_t target = 0; target < data.targets.shape()[1]; ++target) {
    judgements.push_back(judge_target(in_units(outputs, target), in_units(data.targets, target)));
    judgements.back().target = data.target_name(target);
    const auto at = static_cast<std::size_t>(target);
    if (at < data.target_units.size()) judgements.back().unit = data.target_units[at];
  }
  return judgements;
}

}  // namespace

Tensor answers_of(const Tensor& outputs, Outputs kind) {
  if (outputs.shape()[1] > 1) return argmax(outputs);
  const double border = kind == Outputs::scores ? 0.0 : 0.5;
  return reshape(above(outputs, border), Shape{outputs.shape()[0]}.with({Role::example}));
}

Tensor probabilities_of(const Tensor& outputs, Outputs kind) {
  const bool are_scores = kind == Outputs::scores;
  if (outputs.shape()[1] > 1) return are_scores ? softmax(outputs) : outputs;
  const Tensor second = are_scores ? sigmoid(outputs) : outputs;
  return join({1.0 - second, second}, 1).with({Role::example, Role::class_});
}

double Assessment::figure() const {
  if (classes) return classes->accuracy;
  double sum = 0.0;
  for (const NumberJudgement& judgement : numbers)
    sum += judgement.r_squared;
  return sum / static_cast<double>(numbers.size());
}

Assessment assess(const Network& network, const Dataset& data, const AssessSettings& settings) {
  const Loss loss = settings.loss.value_or(usual_loss(network, data));
  check_fits(network, loss, data);
  Worksheet sheet;
  const Line x = sheet.given("x", data.features);
  const Line truth = sheet.given("y", data.truth());
  const Line scores = write_scores(sheet, network, loss, x);
  Assessment assessment{.rows = data.rows(),
                        .loss = write_loss(sheet, loss, scores, truth).value().number(),
                        .loss_is_scaled = data.target_scaling.has_value()};
  if (data.has_classes()) {
    const Outputs kind = outputs_of(network, loss);
    assessment.classes = judge_classes(scores.value(), kind, loss, data, settings);
  } else {
    assessment.numbers = judge_numbers(scores.value(), data);
  }
  return assessment;
}

}  // namespace lattice
