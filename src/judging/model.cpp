#include "lattice/judging/model.hpp"

#include <fmt/format.h>

#include "lattice/judging/answers.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/text/error.hpp"

namespace lattice {

Model model_of(const Network& network, Loss loss, const RowSet& learnt_from) {
  const Dataset& data = learnt_from.data();
  return {.network = network,
          .loss = loss,
          .columns = data.columns_or_features(),
          .target_names = data.all_target_names(),
          .class_names = data.has_classes() ? data.all_class_names() : std::vector<std::string>(),
          .preparation = data.preparation,
          .target_preparation = data.target_preparation};
}

Answers ask(const Model& model, const Tensor& raw_features) {
  const Tensor raw = raw_features.in(model.network.precision());
  const Batch batch{.rows = {}, .features = model.preparation.prepared(raw)};
  Answers answers{.features = raw, .scores = outputs_for(model.network, model.loss, batch)};
  if (model.class_names.empty()) {
    answers.numbers = model.target_preparation.raw(answers.scores);
  } else {
    answers.kind = outputs_of(model.network, model.loss);
    answers.probabilities = probabilities_of(answers.scores, answers.kind);
    answers.classes = answers_of(answers.scores, answers.kind);
  }
  return answers;
}

Answers ask(const Model& model, const Table& records) {
  return ask(model, features_from(records, model.columns));
}

Dataset dataset_for(const Model& model, const Table& table, const std::string& weights) {
  std::vector<Column> targets;
  for (const std::string& name : model.target_names)
    targets.push_back({.name = name, .words = model.class_names});
  Dataset data{.name = table.name,
               .features = features_from(table, model.columns),
               .feature_names = feature_names_of(model.columns),
               .target_names = model.target_names,
               .class_names = model.class_names,
               .columns = model.columns};
  const Tensor truth = features_from(table, targets);
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
    data = data.counting(features_from(table, column).reshaped({rows}));
  }
  return data.in(model.network.precision())
      .prepared_by(model.preparation, model.target_preparation);
}

}  // namespace lattice
