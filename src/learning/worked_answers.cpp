#include "lattice/learning/worked_answers.hpp"
#include "lattice/network/given_lines.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "lattice/judging/answers.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/choosing.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"

namespace lattice {
namespace {

/// The line of the features as they were measured.
std::string_view measured_name(const Model& model) {
  return model.preparation.empty() ? "x" : "raw";
}

Network frozen(Network network) {
  for (const Weight& weight : network.weights()) {
    if (!weight.is_running) network.weights().freeze(weight.name);
  }
  return network;
}

/// Refuses a class or a target that is not there.
void check_of(std::int64_t of, std::int64_t count, std::string_view what) {
  if (of >= 0 && of < count) return;
  throw IndexError({.what = fmt::format("there is no {} {}", what, of),
                    .expected = fmt::format("0 to {}", count - 1),
                    .found = fmt::format("{}", of)});
}

/// What belongs to one class or target in each row, of two axes.
Line column_of(const Line& numbers, std::int64_t of) {
  return slice(numbers, 1, {.from = of, .end = of + 1});
}

/// How much speaks for the class that was answered, or for one that is asked about [example]. A
/// single score speaks for the second class, and as much against the first.
Line score_of(const Line& outputs, const Line& answers, std::optional<std::int64_t> of) {
  const std::int64_t rows = outputs.shape()[0];
  if (of) {
    check_of(*of, classes_of(outputs), "class");
    if (outputs.shape()[1] > 1) return named("score", column_of(outputs, *of));
    return named("score", *of == 1 ? 1.0 * outputs : -outputs);
  }
  if (outputs.shape()[1] > 1) return named("winning", at_class(outputs, answers));
  return named("winning", reshape(outputs, Shape{rows}) * (2.0 * answers - 1.0));
}

Line write_classes(Worksheet& sheet, const Model& model, const Line& outputs,
                   const GivenLines& given, std::optional<std::int64_t> of) {
  const Outputs kind = outputs_of(model.network, model.loss);
  const Line answers = write_answers(sheet, outputs, kind);
  if (!given.y && kind == Outputs::scores)
    named("p", outputs.shape()[1] > 1 ? softmax(outputs) : sigmoid(outputs));
  if (given.y) write_accuracy(write_right(answers, given), given);
  return score_of(outputs, answers, of);
}

Line write_numbers(Worksheet& sheet, const Line& outputs, const GivenLines& given,
                   std::optional<std::int64_t> of) {
  sheet.section(answers_section);
  const Line answers = named(
      "answer", given.y_factors.empty() ? 1.0 * outputs : write_raw(outputs, given.y_factors));
  if (given.y_raw) named("off", answers - *given.y_raw);
  const std::int64_t targets = outputs.shape()[1];
  check_of(of.value_or(0), targets, "target");
  return targets == 1 ? answers : named("number", column_of(answers, of.value_or(0)));
}

/// Rows that are asked about, and what a network makes of them.
struct Passed {
  GivenLines given;
  Line outputs;
};

/// Whether it is told how the answer changes with the features: not where each of very many nodes
/// is its own, since that is a number for every two of them.
Features asked_of(const Batch& measured) {
  constexpr std::int64_t most_numbers = std::int64_t{1} << 24;
  const bool are_too_many =
      measured.features.is_sparse() && measured.features.count() > most_numbers;
  return are_too_many ? Features::given : Features::asked;
}

Passed write_pass(Worksheet& sheet, const Model& model, const Batch& measured) {
  sheet.section(model.preparation.empty() ? std::string_view("given") : scaling_section);
  const Features how = asked_of(measured);
  const GivenLines given =
      write_given(sheet, measured,
                  {.features = model.preparation, .targets = model.target_preparation, .how = how});
  // Where it is not told of the features, it is of the weights.
  const bool are_asked = how == Features::asked;
  return {given, write_scores(sheet, are_asked ? frozen(model.network) : model.network, model.loss,
                              given.x)};
}

/// Where all connected rows were given, the answers for those that are asked about.
Line of_asked(Worksheet& sheet, const Line& of_all, const Batch& batch) {
  std::vector<double> nodes(batch.rows.begin(), batch.rows.end());
  const Line asked =
      sheet.given("asked", tensor({std::ssize(nodes)}, nodes, of_all.value().precision()));
  // The first of them is no longer node 0.
  return named("of.asked", labelled(0, Role::example, gather_rows(of_all, asked)));
}

/// Writes answers down, and gives the line that the sweep starts from.
Line write_down(Worksheet& sheet, const Model& model, const Batch& measured,
                std::optional<std::int64_t> of) {
  const auto [given, outputs] = write_pass(sheet, model, measured);
  if (given.y) {
    static_cast<void>(write_loss(sheet, model.loss, outputs, given, Detail::at_length));
  }
  const Line of_all = model.class_names.empty() ? write_numbers(sheet, outputs, given, of)
                                                : write_classes(sheet, model, outputs, given, of);
  const Line of_rows = measured.is_whole ? of_asked(sheet, of_all, measured) : of_all;
  return of_rows.value().count() == 1 ? of_rows : named("total", sum(of_rows));
}

/// Writes an answer and the truth down, picking nothing by a class number.
Line write_any_row(Worksheet& sheet, const Model& model, const Batch& measured) {
  const auto [given, outputs] = write_pass(sheet, model, measured);
  sheet.section(answers_section);
  if (model.class_names.empty())
    return named("total", sum(write_numbers(sheet, outputs, given, std::nullopt)));
  const Outputs kind = outputs_of(model.network, model.loss);
  named(kind == Outputs::levels ? "level" : "p", kind != Outputs::scores  ? 1.0 * outputs
                                                 : outputs.shape()[1] > 1 ? softmax(outputs)
                                                                          : sigmoid(outputs));
  const Line answer = write_answers(sheet, outputs, kind);
  if (given.y) {
    named("t", one_hot(*given.y, classes_of(outputs)));
    write_right(answer, given);
  }
  return named("total", sum(outputs));
}

/// How far a feature is moved at most: four standard deviations, where it was standardised; else
/// the stretch that was brought to 0 to 1, or where nothing was, its own size.
double reach_of(const Model& model, std::int64_t feature, double value) {
  constexpr double spreads = 4.0;
  if (model.preparation.empty()) return std::max(1.0, std::abs(value));
  const Scaling& first = model.preparation.steps.front();
  const Tensor& divisor = first.divisor;
  const double one = divisor.at_offset(divisor.count() == 1 ? 0 : feature);
  return first.settings.kind == ScalingKind::standard ? spreads * one : one;
}

/// The answers to one record with a feature at other values.
std::vector<std::int64_t> answers_with(const Model& model, const Tensor& record,
                                       std::int64_t feature, const std::vector<double>& values) {
  std::vector<std::int64_t> same(values.size(), 0);
  Tensor records = record.rows(same);
  for (std::size_t row = 0; row < values.size(); ++row)
    records.set({static_cast<std::int64_t>(row), feature}, values[row]);
  std::vector<std::int64_t> answers;
  for (const double answer : ask(model, records).classes.numbers())
    answers.push_back(static_cast<std::int64_t>(answer));
  return answers;
}

/// Moves one feature of a record by itself until the answer is another one.
void find_turn(const Model& model, const Tensor& record, std::int64_t feature,
               Influence& influence) {
  constexpr int looks = 128;
  constexpr int halvings = 48;
  const double reach = reach_of(model, feature, influence.value);
  std::vector<double> values = {influence.value};
  for (int look = 1; look <= looks; ++look) {
    for (const double sign : {1.0, -1.0})
      values.push_back(influence.value + sign * reach * look / looks);
  }
  const std::vector<std::int64_t> answers = answers_with(model, record, feature, values);
  const auto other =
      std::ranges::find_if(answers, [&](std::int64_t answer) { return answer != answers.front(); });
  if (other == answers.end()) return;
  const auto at = static_cast<std::size_t>(other - answers.begin());
  double same = at > 2 ? values[at - 2] : influence.value;
  double turned = values[at];
  influence.becomes = *other;
  for (int halving = 0; halving < halvings; ++halving) {
    const double middle = same + (turned - same) / 2.0;
    const std::int64_t answer = answers_with(model, record, feature, {middle}).front();
    if (answer == answers.front()) {
      same = middle;
    } else {
      turned = middle;
      influence.becomes = answer;
    }
  }
  influence.turn = turned;
}

/// Whether a number of a record is a 1 or 0 that stands for a word.
std::vector<bool> are_words(const Model& model) {
  std::vector<bool> all;
  for (const Column& column : model.columns) {
    const std::size_t width = std::max<std::size_t>(1, column.words.size());
    all.insert(all.end(), width, !column.words.empty());
  }
  return all;
}

}  // namespace

WorkedSheet work_answers(const Model& model, const Batch& measured,
                         std::optional<std::int64_t> of) {
  Worksheet sheet;
  const Line result = write_down(sheet, model, measured, of);
  return {std::move(sheet), result, measured};
}

WorkedSheet work_any_row(const Model& model, const Batch& measured) {
  Worksheet sheet;
  const Line total = write_any_row(sheet, model, measured);
  return {std::move(sheet), total, measured};
}

std::vector<Influence> influences(const Model& model, const WorkedSheet& work) {
  const Line raw = work.sheet().line(measured_name(model));
  const Shape& shape = raw.shape();
  if (shape.rank() != 2 || shape[0] != 1) {
    throw SettingError({.what = "influences are calculated for one record of a table",
                        .expected = "[example 1 × feature …]",
                        .found = to_string(shape)});
  }
  const Tensor slopes = work.sweep().gradient(raw);
  const std::vector<bool> is_word = are_words(model);
  std::vector<Influence> all;
  for (std::int64_t feature = 0; feature < shape[1]; ++feature) {
    Influence influence{.value = raw.value().at({0, feature}), .slope = slopes.at({0, feature})};
    if (!model.class_names.empty() && !is_word[static_cast<std::size_t>(feature)])
      find_turn(model, raw.value(), feature, influence);
    all.push_back(influence);
  }
  return all;
}

}  // namespace lattice
