#include "lattice/judging/model.hpp"

#include <fmt/format.h>

#include "lattice/judging/assess.hpp"
#include "lattice/text/error.hpp"

namespace lattice {

Model model_of(const Network& network, Loss loss, const Dataset& learnt_from) {
  return {.network = network,
          .loss = loss,
          .columns = learnt_from.columns_or_features(),
          .target_names = learnt_from.all_target_names(),
          .class_names = learnt_from.has_classes() ? learnt_from.all_class_names()
                                                   : std::vector<std::string>(),
          .scaling = learnt_from.scaling,
          .target_scaling = learnt_from.target_scaling};
}

Answers ask(const Model& model, const Tensor& raw_features) {
  const Tensor raw = raw_features.in(model.network.precision());
  Worksheet sheet;
  const Line x = sheet.given("x", model.scaling ? model.scaling->scaled(raw) : raw);
  Answers answers{.features = raw,
                  .scores = write_scores(sheet, model.network, model.loss, x).value()};
  if (model.class_names.empty()) {
    answers.numbers =
        model.target_scaling ? model.target_scaling->raw(answers.scores) : answers.scores;
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

Dataset dataset_for(const Model& model, const Table& table) {
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
  return data.in(model.network.precision()).scaled_with(model.scaling, model.target_scaling);
}

}  // namespace lattice
