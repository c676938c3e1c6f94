#include "lattice/judging/loss.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>

#include "judging/mean_of_rows.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/choosing.hpp"
#include "lattice/worksheet/operations/losses.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "worksheet/operations/naive_log.hpp"

namespace lattice {
namespace {

constexpr Words<Loss::Kind> loss_words = {
    {Loss::Kind::mean_squared, "mean squared"},
    {Loss::Kind::half_mean_squared, "half mean squared"},
    {Loss::Kind::binary_cross_entropy, "binary cross-entropy"},
    {Loss::Kind::cross_entropy, "cross-entropy"}};

/// True when the loss takes scores, and what makes probabilities at the end is its own business.
bool takes_scores(const Loss& loss, const Network& network) {
  const Probabilities made = network.makes_probabilities();
  return (loss == Loss::cross_entropy && made == Probabilities::together) ||
         (loss == Loss::binary_cross_entropy && made == Probabilities::each);
}

/// What squared losses compare outputs with: for classes 1 for the true one and 0 for the others,
/// or the class itself beside a single output.
template <Operand X>
X levels_of(const X& truth, const X& outputs) {
  if (truth.shape().rank() == outputs.shape().rank()) return truth;
  const std::int64_t count = outputs.shape()[1];
  return count > 1 ? one_hot(truth, count) : reshape(truth, outputs.shape());
}

/// What each output, or each example, loses by a loss of one's own.
/// @throws ShapeError when that is neither.
Line lost_by(const OwnLoss& own, const Line& outputs, const Line& levels) {
  const Line lost = own.lost(outputs, levels);
  const Shape rows{outputs.shape()[0]};
  if (lost.shape() == rows || lost.shape() == outputs.shape()) return lost;
  throw ShapeError({.what = fmt::format("the loss {} has the wrong shape", own.word),
                    .expected = fmt::format("a number for each example {}, or for each output {}",
                                            to_string(rows), to_string(outputs.shape())),
                    .found = to_string(lost.shape()),
                    .remedy = lost.shape().rank() == 0 ? "leave the mean to the library" : ""});
}

Line write_squared(const Loss& loss, const Line& outputs, const Line& targets,
                   const std::optional<Line>& row_weights) {
  const Line e = named("e", outputs - targets);
  const Line s = named("s", square(e));
  if (loss == Loss::mean_squared) return mean_of_rows(s, row_weights);
  return 0.5 * named("m", mean_of_rows(s, row_weights));
}

/// Class numbers stand in a row of their own; the scores of one unit are a column.
template <Operand X>
X labels_of(const X& truth, const X& scores) {
  return truth.shape() == scores.shape() ? truth : reshape(truth, scores.shape());
}

}  // namespace

Line mean_of_rows(const Line& numbers, const std::optional<Line>& row_weights) {
  if (!row_weights) return mean(numbers);
  const std::int64_t rows = numbers.shape()[0];
  const std::int64_t width = numbers.shape().count() / rows;
  const bool is_row = numbers.shape().rank() == 1;
  const Line beside =
      is_row ? *row_weights : described("weights", reshape(*row_weights, Shape{rows, 1}));
  const Line weighed = described("weighed", numbers * beside);
  const Line total =
      described("weighed_total", sum(weighed)) / described("weights_total", sum(*row_weights));
  return width == 1 ? total : total / static_cast<double>(width);
}

Loss::Loss(OwnLoss own) : kind_(Kind::own) {
  const bool has_word = !own.word.empty() && !loss_words.find(own.word);
  if (!has_word || own.lost == nullptr) {
    throw SettingError(
        {.what = "your own loss is incomplete",
         .expected = "a word that no other loss has, and a function for the loss of each output",
         .found = !has_word ? fmt::format("the word '{}'", own.word)
                            : fmt::format("{} without a function", own.word)});
  }
  own_ = std::make_shared<const OwnLoss>(std::move(own));
}

std::string word(const Loss& loss) {
  return loss.own() != nullptr ? loss.own()->word : std::string(loss_words.of(loss.kind()));
}

Loss parse_loss(std::string_view text, std::span<const Loss> own) {
  std::vector<std::string> known;
  for (const Loss& loss : {Loss::mean_squared, Loss::half_mean_squared, Loss::binary_cross_entropy,
                           Loss::cross_entropy}) {
    known.push_back(word(loss));
    if (known.back() == text) return loss;
  }
  for (const Loss& loss : own) {
    known.push_back(word(loss));
    if (known.back() == text) return loss;
  }
  throw SettingError(not_among(fmt::format("there is no loss '{}'", text), text, known));
}

bool takes_levels(const Loss& loss) {
  return loss == Loss::mean_squared || loss == Loss::half_mean_squared || loss.own() != nullptr;
}

Outputs outputs_of(const Network& network, const Loss& loss) {
  if (!takes_levels(loss)) return Outputs::scores;
  if (network.makes_probabilities() != Probabilities::none) return Outputs::probabilities;
  return loss.own() != nullptr ? loss.own()->outputs : Outputs::levels;
}

Loss usual_loss(const Network& network, bool has_classes) {
  if (!has_classes) return Loss::half_mean_squared;
  return network.outputs() == Shape{1} ? Loss::binary_cross_entropy : Loss::cross_entropy;
}

Loss usual_loss(const Network& network, const Dataset& data) {
  const bool two_classes = data.class_count() == 2;
  const Loss loss = usual_loss(network, data.has_classes());
  // A single output cannot tell more than two apart; cross-entropy says how many it takes.
  return loss == Loss::binary_cross_entropy && !two_classes ? Loss::cross_entropy : loss;
}

void check_fits(const Network& network, const Loss& loss, const RowSet& rows) {
  const Dataset& data = rows.data();
  const std::string of_data = data.name.empty() ? "this table" : data.name;
  if (rows.empty()) {
    throw SettingError({.what = fmt::format("there is no row of {}", of_data),
                        .expected = "one row or more",
                        .found = "an empty part",
                        .remedy = "give this part a share of the rows"});
  }
  if (data.features.precision() != network.precision()) {
    throw NumberError(
        {.what = fmt::format("the network and {} are in different precisions", of_data),
         .expected =
             fmt::format("data in {} precision, like the network", word(network.precision())),
         .found = fmt::format("{} precision", word(data.features.precision())),
         .remedy = fmt::format("data.in(Precision::{}) before the data are split",
                               network.precision() == Precision::single ? "single" : "double_")});
  }
  if (data.example() != network.example()) {
    throw ShapeError({.what = fmt::format("the network is not for the features of {}", of_data),
                      .expected = fmt::format("examples of {}", to_string(network.example())),
                      .found = to_string(data.example())});
  }
  if (!takes_levels(loss) && !data.has_classes()) {
    throw SettingError(
        {.what = fmt::format("the loss {} does not fit the target of {}", word(loss), of_data),
         .expected = "mean squared or half mean squared, for numbers",
         .found = word(loss)});
  }
  std::int64_t outputs = 1;
  std::string for_what = "for the number to predict";
  const bool one_each =
      loss == Loss::cross_entropy || (takes_levels(loss) && network.outputs() != Shape{1});
  if (!data.has_classes()) {
    outputs = data.targets.shape()[1];
    if (outputs > 1) for_what = "one for each number to predict";
  } else if (one_each || data.class_count() != 2) {
    if (loss == Loss::binary_cross_entropy) {
      throw SettingError({.what = "binary cross-entropy needs two classes",
                          .expected = "2 classes",
                          .found = fmt::format("{}: {}", data.class_count(),
                                               fmt::join(data.all_class_names(), ", ")),
                          .remedy = "cross-entropy, with an output for each class"});
    }
    outputs = data.class_count();
    for_what = fmt::format("one for each class: {}", fmt::join(data.all_class_names(), ", "));
  } else {
    for_what = "for two classes";
  }
  if (network.outputs() == Shape{outputs}) return;
  throw ShapeError(
      {.what = "the network's outputs do not match the target",
       .expected = fmt::format("{} {}, {}", outputs, outputs == 1 ? "output" : "outputs", for_what),
       .found = fmt::format("{}, from: {}", to_string(network.outputs()), network.blueprint()),
       .remedy = fmt::format("let the network end in dense {}", outputs)});
}

Line write_loss(Worksheet& sheet, const Loss& loss, const Line& scores, const GivenLines& given,
                Detail detail, Form form, double epsilon) {
  sheet.section(loss_section);
  const bool at_length = detail == Detail::at_length;
  const Line& truth = given.y.value();
  const LossSettings<Line> settings{
      .row_weights = given.row_weights, .form = form, .epsilon = epsilon};
  switch (loss.kind()) {
    case Loss::Kind::mean_squared:
    case Loss::Kind::half_mean_squared: {
      const Line levels = levels_of(truth, scores);
      if (levels != truth) named("t", levels);
      if (at_length) return named("loss", write_squared(loss, scores, levels, given.row_weights));
      const LossSettings<Line> brief{.row_weights = given.row_weights};
      return named("loss", loss == Loss::mean_squared ? mean_squared(scores, levels, brief)
                                                      : half_mean_squared(scores, levels, brief));
    }
    case Loss::Kind::binary_cross_entropy:
      if (at_length && form == Form::one_line) named("p", sigmoid(scores));
      return named("loss", binary_cross_entropy(
                               scores, described("labels", labels_of(truth, scores)), settings));
    case Loss::Kind::cross_entropy:
      if (is_naive(form) && truth.shape().rank() == 1) {
        const Line p = named("p", softmax(scores, 1, form));
        const Line p_true = named("p_true", at_class(p, truth));
        const Line log_p_true = described("log_p_true", naive_log(p_true, form, epsilon));
        return named("loss",
                     -described("log_likelihood", mean_of_rows(log_p_true, given.row_weights)));
      }
      if (at_length && form == Form::one_line) named("p", softmax(scores));
      return named("loss", cross_entropy(scores, truth, settings));
    case Loss::Kind::own: {
      const Line levels = levels_of(truth, scores);
      if (levels != truth) named("t", levels);
      const Line lost = named("lost", lost_by(*loss.own(), scores, levels));
      return named("loss", mean_of_rows(lost, given.row_weights));
    }
  }
  return {};
}

Line write_over_rows(const Line& loss, OverRows over_rows, const GivenLines& given) {
  if (over_rows == OverRows::mean) return loss;
  if (given.row_weights) return named("summed", sum(*given.row_weights) * loss);
  return named("summed", static_cast<double>(given.x.shape()[0]) * loss);
}

Tensor loss_of_rows(const Loss& loss, const Tensor& scores, const Tensor& truth) {
  switch (loss.kind()) {
    case Loss::Kind::mean_squared:
      return squared_of_rows(scores, levels_of(truth, scores));
    case Loss::Kind::half_mean_squared:
      return 0.5 * squared_of_rows(scores, levels_of(truth, scores));
    case Loss::Kind::binary_cross_entropy:
      return binary_cross_entropy_of_rows(scores, labels_of(truth, scores));
    case Loss::Kind::cross_entropy:
      return cross_entropy_of_rows(scores, truth);
    case Loss::Kind::own: {
      Worksheet sheet;
      const Line outputs = sheet.given("outputs", scores);
      const Line levels = levels_of(sheet.given("truth", truth), outputs);
      const Tensor lost = lost_by(*loss.own(), outputs, levels).value();
      return lost.shape().rank() == 1 ? lost : mean(lost, {.axes = {1}});
    }
  }
  return {};
}

Line write_scores(Worksheet& sheet, const Network& network, const Loss& loss, const Line& x,
                  const Phase& phase) {
  return takes_scores(loss, network) ? network.scores(sheet, x, phase)
                                     : network.forward(sheet, x, phase);
}

}  // namespace lattice
