#include "lattice/judging/assess.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/judging/figures.hpp"
#include "lattice/tensor/error.hpp"
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

ClassJudgement judge_classes(const Tensor& scores, const Dataset& data, std::int64_t top) {
  if (top < 1) {
    throw SettingError({.what = fmt::format("the {} likeliest classes", top),
                        .expected = "1 or more",
                        .found = fmt::format("{}", top)});
  }
  const std::int64_t count = data.class_count();
  const Tensor answers = answers_of(scores);
  ClassJudgement judgement{.accuracy = accuracy(answers, data.classes),
                           .top = std::min(top, count),
                           .confusion = confusion(answers, data.classes, count)};
  judgement.top_accuracy = top_accuracy(probabilities_of(scores), data.classes, judgement.top);
  judgement.classes = by_class(judgement.confusion, data.class_names);
  judgement.matching = best_matching(judgement.confusion);
  judgement.matched_accuracy = matched_accuracy(judgement.confusion, judgement.matching);
  judgement.even_guess_loss = std::log(static_cast<double>(count));
  judgement.even_guess_accuracy = 1.0 / static_cast<double>(count);
  const auto commonest = std::ranges::max_element(judgement.classes, {}, &ClassFigures::rows);
  judgement.commonest = commonest->name;
  judgement.commonest_accuracy =
      static_cast<double>(commonest->rows) / static_cast<double>(data.rows());
  return judgement;
}

NumberJudgement judge_numbers(const Tensor& outputs, const Dataset& data) {
  const auto in_units = [&](const Tensor& numbers) {
    return data.target_scaling ? data.target_scaling->raw(numbers) : numbers;
  };
  const std::vector<double> answers = in_units(outputs).numbers();
  const std::vector<double> truth = in_units(data.targets).numbers();
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

}  // namespace

Tensor answers_of(const Tensor& scores) {
  if (scores.shape()[1] > 1) return argmax(scores);
  return reshape(above(scores, 0.0), Shape{scores.shape()[0]}.with({Role::example}));
}

Tensor probabilities_of(const Tensor& scores) {
  if (scores.shape()[1] > 1) return softmax(scores);
  const Tensor second = sigmoid(scores);
  return join({1.0 - second, second}, 1).with({Role::example, Role::class_});
}

Assessment assess(const Network& network, const Dataset& data, const AssessSettings& settings) {
  const Loss loss = settings.loss.value_or(usual_loss(network, data));
  check_fits(network, loss, data);
  Worksheet sheet;
  const Line x = sheet.given("x", data.features);
  const Line truth = sheet.given("y", data.truth());
  const Line scores = write_scores(sheet, network, loss, x);
  Assessment assessment{.rows = data.rows(),
                        .loss = write_loss(sheet, loss, scores, truth).value().number()};
  if (data.has_classes()) {
    assessment.classes = judge_classes(scores.value(), data, settings.top);
  } else {
    assessment.numbers = judge_numbers(scores.value(), data);
  }
  return assessment;
}

}  // namespace lattice
