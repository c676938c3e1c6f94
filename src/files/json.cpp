#include "lattice/files/json.hpp"

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

Json roles(const Shape& shape) {
  Json list = Json::array();
  for (int axis = 0; axis < shape.rank(); ++axis)
    list.push_back(word(shape.role(axis)));
  return list;
}

Json to_json(const Line& line) {
  Json inputs = Json::array();
  for (const Line& input : line.inputs())
    inputs.push_back(input.number());
  return {{"number", line.number()},        {"name", line.name()},
          {"section", line.section()},      {"operation", line.operation()},
          {"symbols", line.symbols()},      {"inputs", std::move(inputs)},
          {"shape", to_json(line.shape())}, {"roles", roles(line.shape())},
          {"values", to_json(line.value())}};
}

Json to_json(const ReverseStep& step) {
  Json passed_on = Json::array();
  for (const ReverseStep::PassedOn& passed : step.passed_on) {
    passed_on.push_back({{"to", passed.to.name()},
                         {"symbols", step.line.reverse_symbols(passed.input)},
                         {"values", to_json(passed.contribution)}});
  }
  return {{"number", step.line.number()},
          {"name", step.line.name()},
          {"arrived", to_json(step.arrived)},
          {"passed_on", std::move(passed_on)}};
}

}  // namespace

Json to_json(const Tensor& tensor) {
  std::int64_t offset = 0;
  return nested(tensor, 0, offset);
}

Json to_json(const Shape& shape) {
  Json list = Json::array();
  for (int axis = 0; axis < shape.rank(); ++axis)
    list.push_back(shape[axis]);
  return list;
}

Json to_json(const WorkedExample& example) {
  Json json = {{"rows", example.batch().rows},
               {"lines", Json::array()},
               {"loss_before", example.loss_before()},
               {"loss_after", example.loss_after()},
               {"reverse", Json::array()},
               {"gradients", Json::object()},
               {"updates", Json::object()}};
  for (const Line& line : example.sheet().lines())
    json["lines"].push_back(to_json(line));
  for (const ReverseStep& step : example.reverse_steps())
    json["reverse"].push_back(to_json(step));
  for (const WorkedExample::Update& update : example.updates()) {
    json["gradients"][update.weight] = to_json(update.gradient);
    json["updates"][update.weight] = {{"before", to_json(update.before)},
                                      {"gradient", to_json(update.gradient)},
                                      {"after", to_json(update.after)}};
  }
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
    weights[weight.name] = {{"shape", to_json(weight.shape)},  {"checked", weight.checked},
                            {"worst", std::move(worst)},       {"engine", weight.engine},
                            {"difference", weight.difference}, {"error", weight.error},
                            {"agrees", weight.agrees}};
  }
  return {{"agrees", check.agrees()},
          {"step", check.settings.step},
          {"tolerance", check.settings.tolerance},
          {"weights", std::move(weights)}};
}

Json to_json(const RunRecord& run) {
  Json epochs = Json::array();
  for (const EpochFigures& figures : run.epochs) {
    Json entry = {{"epoch", figures.epoch}};
    if (figures.epoch > 0) entry["running_cost"] = figures.running_cost;
    entry["whole_cost"] = figures.whole_cost;
    epochs.push_back(std::move(entry));
  }
  return {{"epochs", std::move(epochs)}};
}

}  // namespace lattice
