#include "lattice/judging/model.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "lattice/data/row_kind.hpp"
#include "lattice/judging/answers.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

/// The factor of a scaling that belongs to a place of an example.
double factor_at(const Tensor& factors, std::int64_t place) {
  return factors.at_offset(factors.count() == 1 ? 0 : place);
}

/// What a preparation does to a feature, as slope and constant.
std::pair<double, double> prepared_as(const Preparation& preparation, std::int64_t feature) {
  double slope = 1.0;
  double constant = 0.0;
  for (const Scaling& step : preparation.steps) {
    const double divisor = factor_at(step.divisor, feature);
    slope /= divisor;
    constant = (constant - factor_at(step.centre, feature)) / divisor;
  }
  return {slope, constant};
}

std::string name_of_output(const Model& model, std::int64_t output) {
  const auto at = static_cast<std::size_t>(output);
  if (model.class_names.empty()) return model.target_names[at];
  // A single score speaks for the second class.
  const bool is_single = model.network.outputs() == Shape{1};
  return fmt::format("score of {}", model.class_names[is_single ? 1 : at]);
}

/// From where to where each feature of a table lies.
std::vector<Model::Range> ranges_of(const RowSet& rows) {
  const Dataset& data = rows.data();
  if (data.example().rank() != 1 || data.is_connected()) return {};
  const Tensor numbers = data.features.all();
  std::vector<Model::Range> ranges;
  for (std::int64_t feature = 0; feature < data.example()[0]; ++feature) {
    Model::Range range{.low = std::numeric_limits<double>::infinity(),
                       .high = -std::numeric_limits<double>::infinity()};
    for (const std::int64_t row : rows.rows()) {
      const double number = numbers.at({row, feature});
      range.low = std::min(range.low, number);
      range.high = std::max(range.high, number);
    }
    ranges.push_back(range);
  }
  return ranges;
}

}  // namespace

Model model_of(const Network& network, const Loss& loss, const RowSet& learnt_from) {
  const Dataset& data = learnt_from.data();
  std::optional<Dataset> rows;
  if (data.is_connected()) {
    rows = data.as_measured();
    rows->classes = {};
    rows->targets = {};
    rows->known = {};
    rows->unlabelled = {};
  }
  return {.network = network,
          .loss = loss,
          .columns = data.columns_or_features(),
          .target_names = data.all_target_names(),
          .class_names = data.has_classes() ? data.all_class_names() : std::vector<std::string>(),
          .class_labels = data.has_classes() ? data.class_labels : std::vector<std::string>(),
          .preparation = data.preparation,
          .target_preparation = data.target_preparation,
          .feature_ranges = ranges_of(learnt_from),
          .rows = std::move(rows)};
}

std::vector<LinearForm> raw_forms(const Model& model) {
  const Network& network = model.network;
  const std::vector<Layer>& layers = network.layers();
  const bool ends_there = std::all_of(layers.begin() + 1, layers.end(), [](const Layer& layer) {
    return layer.nature().probabilities != Probabilities::none;
  });
  const bool takes_scores = !model.class_names.empty() || layers.size() == 1;
  if (!layers.front().nature().is_affine || !ends_there || !takes_scores ||
      network.example().rank() != 1)
    return {};
  const std::vector<WeightNeed>& needs = network.plan().rows.front().needs;
  const Tensor& weight = network[needs[0].name];
  const std::int64_t features = network.example()[0];
  // A bias is a weight of its own, or that of an input that is always 1, or there is none.
  const auto bias_of = [&](std::int64_t output) {
    if (needs.size() > 1) return network[needs[1].name].at({output});
    return weight.shape()[0] > features ? weight.at({features, output}) : 0.0;
  };
  std::vector<LinearForm> forms;
  for (std::int64_t output = 0; output < weight.shape()[1]; ++output) {
    LinearForm form{.target = name_of_output(model, output),
                    .features = feature_names_of(model.columns),
                    .slopes = {},
                    .constant = bias_of(output)};
    for (std::int64_t feature = 0; feature < features; ++feature) {
      const auto [slope, constant] = prepared_as(model.preparation, feature);
      form.slopes.push_back(weight.at({feature, output}) * slope);
      form.constant += weight.at({feature, output}) * constant;
    }
    const std::vector<Scaling>& back = model.target_preparation.steps;
    for (auto step = back.rbegin(); step != back.rend(); ++step) {
      const double divisor = factor_at(step->divisor, output);
      for (double& slope : form.slopes)
        slope *= divisor;
      form.constant = form.constant * divisor + factor_at(step->centre, output);
    }
    forms.push_back(std::move(form));
  }
  return forms;
}

bool Answers::has_answer(std::int64_t record) const {
  const auto is_finite_in = [record](const Tensor& tensor) {
    const std::int64_t each = tensor.shape().without_first_axis().count();
    for (std::int64_t at = 0; at < each; ++at) {
      if (!std::isfinite(tensor.at_offset(record * each + at))) return false;
    }
    return true;
  };
  return is_finite_in(scores) && (numbers.empty() || is_finite_in(numbers));
}

std::string Answers::name_of(std::int64_t record) const {
  return names.empty() ? fmt::format("{}", record) : names.at(static_cast<std::size_t>(record));
}

namespace {

/// What a model says about rows that are prepared for it.
Answers answers_about(const Model& model, const RowSet& rows) {
  Answers answers{.scores = outputs_for(model.network, model.loss, rows)};
  if (model.class_names.empty()) {
    answers.numbers = model.target_preparation.raw(answers.scores);
  } else {
    answers.kind = outputs_of(model.network, model.loss);
    answers.probabilities = probabilities_of(answers.scores, answers.kind);
    answers.classes = answers_of(answers.scores, answers.kind);
  }
  return answers;
}

}  // namespace

Answers ask(const Model& model, const Examples& raw) {
  if (model.rows) {
    const RowKind& kind = kind_of(*model.rows);
    throw SettingError(
        {.what = fmt::format("a model of a {} answers only for its {}", kind.name, kind.several),
         .expected = fmt::format("{} of the {} it was trained on", kind.several, kind.name),
         .found = "records without edges",
         .remedy = "ask_rows(model, …)",
         .advice = {std::string(kind.one), model.rows->row_name(0)}});
  }
  return answers_about(
      model, Dataset{.name = {}, .features = raw.in(model.network.precision())}.prepared_by(
                 model.preparation));
}

Answers ask_rows(const Model& model, const std::vector<std::int64_t>& rows) {
  if (!model.rows) {
    throw SettingError({.what = "this model was not trained on connected rows",
                        .expected = "a model of connected rows, such as the nodes of a graph",
                        .found = model.network.blueprint(),
                        .remedy = "ask it about records"});
  }
  Answers answers = answers_about(
      model, {model.rows->in(model.network.precision()).prepared_by(model.preparation), rows});
  for (const std::int64_t row : rows)
    answers.names.push_back(model.rows->row_name(row));
  return answers;
}

Tensor examples_from(const Model& model, const Table& records) {
  Tensor features = features_from(records, model.columns);
  const Shape example = model.network.example();
  if (example.rank() == 1) return features;
  return features.reshaped(example.with_first_axis(features.shape()[0], Role::example));
}

Answers ask(const Model& model, const Table& records) {
  return ask(model, examples_from(model, records));
}

std::string class_called(const Model& model, const std::string& field) {
  const auto same = std::ranges::find(model.class_names, field);
  if (same != model.class_names.end()) return field;
  const std::optional<double> number = parse_number(field);
  if (!number) return field;
  for (std::size_t of = 0; of < model.class_names.size(); ++of) {
    const bool is_label =
        of < model.class_labels.size() && parse_number(model.class_labels[of]) == number;
    if (is_label || parse_number(model.class_names[of]) == number) return model.class_names[of];
  }
  return field;
}

namespace {

/// A table in which classes have the names that the model has for them.
Table with_classes_named(const Model& model, Table table) {
  FieldRows named;
  for (const FieldRows::Row row : table.rows) {
    for (std::size_t column = 0; column < row.size(); ++column) {
      const bool is_target =
          std::ranges::find(model.target_names, table.header[column]) != model.target_names.end();
      named.add_field(is_target ? class_called(model, std::string(trimmed(row[column])))
                                : std::string(row[column]));
    }
    named.end_row();
  }
  table.rows = std::move(named);
  return table;
}

}  // namespace

Dataset dataset_for(const Model& model, const Table& table, const std::string& weights) {
  std::vector<Column> targets;
  for (const std::string& name : model.target_names)
    targets.push_back({.name = name, .words = model.class_names});
  Dataset data{.name = table.name,
               .features = examples_from(model, table),
               .feature_names = model.network.example().rank() == 1
                                    ? feature_names_of(model.columns)
                                    : std::vector<std::string>(),
               .target_names = model.target_names,
               .class_names = model.class_names,
               .columns = model.columns};
  const Tensor truth = model.class_labels.empty()
                           ? features_from(table, targets)
                           : features_from(with_classes_named(model, table), targets);
  const std::int64_t rows = truth.shape()[0];
  if (model.class_names.empty()) {
    data.targets = truth.with({Role::example, Role::target});
  } else {
    std::vector<double> classes;
    for (std::int64_t row = 0; row < rows; ++row) {
      std::int64_t number = 0;
      while (truth.at({row, number}) == 0.0)
        ++number;
      classes.push_back(static_cast<double>(number));
    }
    data.classes = tensor(Shape{rows}.with({Role::example}), classes);
  }
  if (!weights.empty()) {
    const std::vector<Column> column = {{.name = weights}};
    data = data.with_row_weights(features_from(table, column).reshaped({rows}));
  }
  return data.in(model.network.precision())
      .prepared_by(model.preparation, model.target_preparation);
}

}  // namespace lattice
