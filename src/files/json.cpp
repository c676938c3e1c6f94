#include "lattice/files/json.hpp"

#include <nlohmann/json.hpp>

#include "lattice/worksheet/local_derivative.hpp"

namespace lattice {
namespace {

Json nested(const Tensor& tensor, int axis, std::int64_t& offset) {
  if (axis == tensor.shape().rank()) return tensor.at_offset(offset++);
  Json list = Json::array();
  for (std::int64_t i = 0; i < tensor.shape()[axis]; ++i) {
    list.push_back(nested(tensor, axis + 1, offset));
  }
  return list;
}

Json to_json(const Line& line) {
  Json inputs = Json::array();
  for (const Line& input : line.inputs())
    inputs.push_back(input.number());
  return {{"number", line.number()},        {"name", line.name()},
          {"section", line.section()},      {"operation", line.operation()},
          {"symbols", line.symbols()},      {"inputs", std::move(inputs)},
          {"shape", to_json(line.shape())}, {"roles", roles_of(line.shape())},
          {"values", to_json(line.value())}};
}

Json to_json(const LocalDerivative& local) {
  if (local.kind == LocalDerivative::Kind::matrix)
    return {{"matrix", local.factor.name()}, {"transposed", local.is_transposed}};
  if (local.kind == LocalDerivative::Kind::window) return {{"window", local.factor.name()}};
  if (local.kind == LocalDerivative::Kind::across)
    return {{"first_matrix", to_json(local.numbers)}};
  if (local.everywhere) return {{"everywhere", *local.everywhere}};
  return {{"values", to_json(local.numbers)}};
}

Json to_json(const ReverseStep& step) {
  Json passed_on = Json::array();
  for (const ReverseStep::PassedOn& passed : step.passed_on) {
    passed_on.push_back({{"to", passed.to.name()},
                         {"symbols", step.line.reverse_symbols(passed.input)},
                         {"values", to_json(passed.contribution)}});
    if (const auto local = local_derivative(step.line, passed.input))
      passed_on.back()["local_derivative"] = to_json(*local);
  }
  return {{"number", step.line.number()},
          {"name", step.line.name()},
          {"gradient", to_json(step.gradient)},
          {"passed_on", std::move(passed_on)}};
}

Json to_json(const std::vector<WorkedSheet::RuleFigure>& figures) {
  Json json = Json::object();
  for (const WorkedSheet::RuleFigure& figure : figures)
    json[figure.name] = to_json(figure.numbers);
  return json;
}

}  // namespace

Json to_json(const Tensor& tensor) {
  // What is too large to be written out is refused before it is begun.
  if (tensor.is_sparse()) static_cast<void>(tensor.numbers());
  std::int64_t offset = 0;
  return nested(tensor, 0, offset);
}

Json roles_of(const Shape& shape) {
  Json list = Json::array();
  for (int axis = 0; axis < shape.rank(); ++axis)
    list.push_back(word(shape.role(axis)));
  return list;
}

Json to_json(const Shape& shape) {
  Json list = Json::array();
  for (int axis = 0; axis < shape.rank(); ++axis)
    list.push_back(shape[axis]);
  return list;
}

Json to_json(const WorkedSheet& work) {
  Json json = {{"rows", work.batch().rows},
               {"lines", Json::array()},
               {"reverse", Json::array()},
               {"gradients", Json::object()}};
  if (work.has_sweep()) json["swept_from"] = work.result().name();
  if (const auto words = work.batch().augmented_in_words(); !words.empty())
    json["augmented"] = words;
  if (const std::optional<UpdateRule>& rule = work.rule()) {
    json["loss_before"] = work.result_before();
    json["loss_after"] = work.result_after().value();
    json["rule"]["word"] = rule->word();
    for (const auto& [name, number] : rule->settings())
      json["rule"]["settings"][name] = number;
    json["clip_factor"] = work.clip_factor();
    json["updates"] = Json::object();
  }
  for (const Line& line : work.sheet().lines()) {
    if (line.kind() == Line::Kind::asked && work.has_sweep() && work.sweep().has_reached(line))
      json["gradients"][line.name()] = to_json(work.sweep().gradient(line));
  }
  for (const Line& line : work.sheet().lines())
    json["lines"].push_back(to_json(line));
  for (const ReverseStep& step : work.reverse_steps())
    json["reverse"].push_back(to_json(step));
  for (const WorkedSheet::Update& update : work.updates()) {
    const bool is_learnt = !update.gradient.empty();
    if (is_learnt) json["gradients"][update.weight] = to_json(update.gradient);
    json["updates"][update.weight] = {{"before", to_json(update.before)},
                                      {"gradient", is_learnt ? to_json(update.gradient) : Json()},
                                      {"remembered", to_json(work.remembered(update))},
                                      {"worked_out", to_json(work.worked_out(update))},
                                      {"after", to_json(update.after)}};
  }
  return json;
}

Json to_json(const WorkedExample& example) {
  Json json = {{"title", example.title},
               {"about", example.about},
               {"features", example.names.features},
               {"targets", example.names.targets},
               {"classes", example.names.classes},
               {"steps", Json::array()}};
  if (!example.names.nodes.empty()) json["nodes"] = example.names.nodes;
  for (const WorkedStep& step : example.steps) {
    Json entry = Json::object();
    if (step.step > 0) entry["step"] = step.step;
    if (step.epoch > 0) entry["epoch"] = step.epoch;
    entry.update(to_json(step.work));
    if (!step.flow.empty()) entry["flow"] = to_json(step.flow);
    json["steps"].push_back(std::move(entry));
  }
  if (example.run) json["run"] = to_json(*example.run);
  return json;
}

Json to_json(const Explanation& explanation) {
  const Notation in_full{.digits = all_digits, .longest_sum = std::string::npos};
  Notation filled_in = in_full;
  filled_in.filled_in = true;
  Json json = {{"subject", explanation.subject}, {"value", explanation.value}};
  if (explanation.note.empty()) {
    json["formula"] = explanation.formula.text(in_full);
    for (const Formula::Definition& short_for : explanation.formula.shorthands(in_full))
      json["with"][short_for.name] = short_for.text;
    json["filled_in"] = explanation.formula.text(filled_in);
    json["evaluates_to"] = explanation.formula.evaluate();
  } else {
    json["note"] = explanation.note;
  }
  if (!explanation.worked.empty()) json["worked"] = explanation.worked;
  return json;
}

Json to_json(const Chain& chain) {
  Json json = to_json(chain.explanation);
  for (const Chain& each : chain.because)
    json["because"].push_back(to_json(each));
  return json;
}

Json to_json(const GradientCheck& check) {
  Json weights = Json::object();
  for (const GradientCheck::Weight& weight : check.weights) {
    Json worst = Json::array();
    for (int axis = 0; axis < weight.worst.rank(); ++axis)
      worst.push_back(weight.worst[axis]);
    weights[weight.name] = {{"shape", to_json(weight.shape)}, {"checked", weight.checked},
                            {"on_kinks", weight.on_kinks},    {"worst", std::move(worst)},
                            {"engine", weight.engine},        {"difference", weight.difference},
                            {"error", weight.error},          {"agrees", weight.agrees}};
  }
  return {{"agrees", check.agrees()},
          {"step", check.settings.step},
          {"tolerance", check.settings.tolerance},
          {"weights", std::move(weights)}};
}

Json to_json(const RunRecord& run) {
  const auto part = [](const Figures& figures) {
    Json json = {{"loss", figures.loss}};
    if (figures.accuracy) json["accuracy"] = *figures.accuracy;
    if (!figures.confusion) return json;
    json["confusion"] = to_json(*figures.confusion);
    json["recall"] = Json::array();
    for (const std::optional<double>& recall : recalls(*figures.confusion))
      json["recall"].push_back(recall ? Json(*recall) : Json());
    return json;
  };
  Json epochs = Json::array();
  for (const EpochFigures& figures : run.epochs) {
    Json entry = {{"epoch", figures.epoch},
                  {"updates", figures.updates},
                  {"running_loss", figures.running ? Json(figures.running->loss) : Json()}};
    if (figures.running && figures.running->accuracy)
      entry["running_accuracy"] = *figures.running->accuracy;
    if (figures.train) entry["train"] = part(*figures.train);
    if (figures.validation) entry["validation"] = part(*figures.validation);
    if (figures.l2_term) entry["l2_term"] = *figures.l2_term;
    entry["rate"] = figures.rate;
    entry["seconds"] = figures.seconds;
    entry["learning_seconds"] = figures.learning_seconds;
    entry["judging_seconds"] = figures.judging_seconds;
    epochs.push_back(std::move(entry));
  }
  Json steps = Json::array();
  for (const StepFigures& figures : run.steps) {
    Json entry = {{"step", figures.step}, {"epoch", figures.epoch}};
    entry.update(part(figures.minibatch));
    if (figures.running) entry["running"] = part(*figures.running);
    if (figures.watched) entry["watched"] = part(*figures.watched);
    steps.push_back(std::move(entry));
  }
  Json changes = Json::array();
  for (const RateChange& change : run.rate_changes) {
    changes.push_back(
        {{"epoch", change.epoch}, {"before", change.before}, {"after", change.after}});
  }
  Json json = {{"epochs", std::move(epochs)},
               {"steps", std::move(steps)},
               {"rate_changes", std::move(changes)},
               {"joins", run.joins},
               {"updates", run.updates},
               {"ending", word(run.ending)},
               {"ends_with_best", run.ends_with_best},
               {"seconds", run.seconds},
               {"waited", run.waited},
               {"judged", run.judged}};
  if (run.judged_train_rows) json["judged_train_rows"] = *run.judged_train_rows;
  for (const FlowMoment& moment : run.flow)
    json["flow"].push_back({{"epoch", moment.epoch}, {"layers", to_json(moment.layers)}});
  if (run.best) json["best"] = {{"epoch", run.best->epoch}, {"loss", run.best->loss}};
  if (!run.trouble.empty()) json["trouble"] = run.trouble;
  return json;
}

Json to_json(const std::vector<LayerFlow>& layers) {
  Json list = Json::array();
  for (const LayerFlow& layer : layers) {
    list.push_back({{"layer", layer.layer},
                    {"learns", layer.learns},
                    {"standard_deviation", layer.standard_deviation},
                    {"gradient_norm", layer.gradient_norm},
                    {"weight_gradient_norm", layer.weight_gradient_norm},
                    {"dead", layer.dead}});
  }
  return list;
}

Json to_json(const Plan::Row& row) {
  Json weights = Json::object();
  for (const WeightNeed& need : row.needs) {
    weights[need.name] = {{"shape", to_json(need.shape)},
                          {"count", need.shape.count()},
                          {"start", need.start.text()}};
    for (const auto& [in, out] : need.connections)
      weights[need.name]["connections"].push_back({in, out});
  }
  Json json = {{"name", row.name},
               {"layer", row.layer},
               {"outputs", to_json(row.outputs)},
               {"weights", std::move(weights)},
               {"count", row.weights},
               {"multiplications", row.multiplications},
               {"written", row.written}};
  for (const Plan::Row& inner : row.inside)
    json["inside"].push_back(to_json(inner));
  for (const Plan::Row& projection : row.projection)
    json["projection"] = to_json(projection);
  return json;
}

Json to_json(const Plan& plan) {
  Json layers = Json::array();
  for (const Plan::Row& row : plan.rows)
    layers.push_back(to_json(row));
  Json json = {{"example", to_json(plan.example)},          {"layers", std::move(layers)},
               {"outputs", to_json(plan.outputs())},        {"weights", plan.weights()},
               {"multiplications", plan.multiplications()}, {"written", plan.written()}};
  if (plan.together) json["rows_together"] = *plan.together;
  return json;
}

namespace {

/// How many rows: a whole number, unless rows count by halves.
Json count_json(double count) {
  const auto whole = static_cast<std::int64_t>(count);
  return static_cast<double>(whole) == count ? Json(whole) : Json(count);
}

}  // namespace

Json to_json(const std::vector<Reference>& references) {
  Json list = Json::array();
  for (const Reference& each : references)
    list.push_back({{"name", each.name}, {"figure", each.figure}});
  return list;
}

Json to_json(const Assessment& assessment) {
  Json json = {{"rows", assessment.rows}, {"loss", assessment.loss}};
  if (assessment.loss_is_scaled) json["loss_is_of_scaled_numbers"] = true;
  if (assessment.classes) {
    const ClassJudgement& judgement = *assessment.classes;
    Json classes = Json::object();
    for (const ClassFigures& figures : judgement.classes) {
      classes[figures.name] = {{"rows", count_json(figures.rows)},
                               {"answers", count_json(figures.answers)},
                               {"precision", figures.precision},
                               {"recall", figures.recall},
                               {"f1", figures.f1}};
    }
    json["accuracy"] = judgement.accuracy;
    json["top"] = {{"k", judgement.top}, {"accuracy", judgement.top_accuracy}};
    if (judgement.grouping) {
      Json taken_for = Json::object();
      for (std::size_t answer = 0; answer < judgement.classes.size(); ++answer) {
        const auto of = static_cast<std::size_t>(judgement.grouping->matching[answer]);
        taken_for[judgement.classes[answer].name] = judgement.classes[of].name;
      }
      json["as_groups"] = {{"accuracy", judgement.grouping->accuracy},
                           {"taken_for", std::move(taken_for)}};
    }
    json["uniform_guess"] = {{"loss", judgement.uniform_guess_loss},
                             {"accuracy", judgement.uniform_guess_accuracy}};
    json["commonest"] = {{"class", judgement.commonest},
                         {"accuracy", judgement.commonest_accuracy}};
    json["classes"] = std::move(classes);
    json["confusion"] = to_json(judgement.confusion);
  }
  for (const NumberJudgement& judgement : assessment.numbers) {
    json["targets"][judgement.target] = {
        {"mean_squared", judgement.mean_squared},
        {"mean_absolute", judgement.mean_absolute},
        {"r_squared", judgement.r_squared},
        {"mean_guess", {{"mean_squared", judgement.mean_guess_squared}}}};
  }
  return json;
}

}  // namespace lattice
