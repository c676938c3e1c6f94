#include "lattice/network/network.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <numeric>
#include <set>

#include "lattice/network/blueprint.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {

namespace {

std::int64_t total(const std::vector<Plan::Row>& rows, std::int64_t Plan::Row::*of) {
  return std::accumulate(rows.begin(), rows.end(), std::int64_t{0},
                         [of](std::int64_t sum, const Plan::Row& row) { return sum + row.*of; });
}

}  // namespace

std::size_t Plan::alike(std::span<const Row> rows) {
  const Row& first = rows.front();
  if (first.inside.empty()) return 1;
  const auto other = std::ranges::find_if(rows, [&](const Row& row) {
    return row.layer != first.layer || row.outputs != first.outputs ||
           !std::ranges::equal(row.needs, first.needs, {}, &WeightNeed::shape, &WeightNeed::shape);
  });
  return static_cast<std::size_t>(other - rows.begin());
}

std::int64_t Plan::weights() const {
  return total(rows, &Row::weights);
}

std::int64_t Plan::multiplications() const {
  return total(rows, &Row::multiplications);
}

std::int64_t Plan::written() const {
  return (together ? written_at_first : example.count()) + total(rows, &Row::written);
}

Shape Plan::outputs() const {
  return rows.empty() ? example : rows.back().outputs;
}

namespace {

/// Passes a shape through a layer.
/// @param position from 1, for messages
Plan::Row row_of(const Layer& layer, const std::string& name, std::size_t position,
                 const Shape& shape) {
  Plan::Row row{.name = name,
                .kind = std::string(layer.kind()),
                .layer = layer.unnamed_text(),
                .outputs = {},
                .adds_its_input = layer.nature().adds_its_input,
                .uses_connections = layer.nature().uses_connections};
  try {
    row.outputs = layer.shape(shape);
    row.needs = layer.weights(shape);
    row.multiplications = layer.multiplications(shape);
  } catch (const Error& error) {
    Trouble trouble = error.trouble();
    trouble.where = trouble.where.empty() || layer.inside().empty()
                        ? fmt::format("layer {}, {}", position, row.layer)
                        : fmt::format("layer {}, {}, at {}", position, row.kind, trouble.where);
    throw ShapeError(trouble);
  }
  for (WeightNeed& need : row.needs) {
    need.name = name + "." + need.name;
    if (!need.is_running) row.weights += need.shape.count();
  }
  Shape inner = shape;
  const std::vector<std::string> names = names_of(layer.inside(), false);
  for (std::size_t at = 0; at < names.size(); ++at) {
    row.inside.push_back(
        row_of(layer.inside()[at], fmt::format("{}.{}", name, names[at]), at + 1, inner));
    inner = row.inside.back().outputs;
  }
  if (const Layer* const projection = layer.projection()) {
    row.projection.push_back(row_of(*projection,
                                    fmt::format("{}.{}", name, projection->given_name()),
                                    names.size() + 1, shape));
  }
  if (row.inside.empty()) {
    row.written = layer.written(shape);
  } else {
    row.written = total(row.inside, &Plan::Row::written) +
                  total(row.projection, &Plan::Row::written) +
                  (row.adds_its_input ? row.outputs.count() : 0);
  }
  return row;
}

}  // namespace

Plan plan(const Shape& example, const std::vector<Layer>& layers) {
  if (layers.empty()) {
    throw SettingError({.what = "a network without layers",
                        .expected = "one layer or more, such as dense 4",
                        .found = "none"});
  }
  Plan plan{.example = example, .rows = {}};
  const std::vector<std::string> names = names_of(layers, true);
  if (example.rank() == 1 && example.role(0) == Role::none) plan.example.set_role(0, Role::feature);
  Shape shape = plan.example;
  for (std::size_t at = 0; at < layers.size(); ++at) {
    plan.rows.push_back(row_of(layers[at], names[at], at + 1, shape));
    shape = plan.rows.back().outputs;
  }
  return plan;
}

Network::Network(const Shape& example, std::vector<Layer> layers, const Random& random,
                 Precision precision)
    : layers_(std::move(layers)), plan_(lattice::plan(example, layers_)), precision_(precision) {
  start_over(random);
}

Plan detail::plan_of_blueprint(const Shape& example, std::string_view blueprint) {
  return plan(example, parse_blueprint(blueprint));
}

Network::Network(const Shape& example, std::string_view blueprint, const Random& random,
                 Precision precision)
    : Network(example, parse_blueprint(blueprint), random, precision) {}

void Network::start_over(const Random& random) {
  Weights fresh;
  for (const Plan::Row& row : plan_.rows) {
    for (const WeightNeed& need : row.needs) {
      // Each weight has random numbers of its own: another layer more or less leaves it as it is.
      Random own = random.branch(need.name);
      fresh.add({.name = need.name,
                 .value = need.draw(own, precision_),
                 .is_running = need.is_running,
                 .bias = need.is_bias(),
                 .is_spared = need.is_spared});
    }
  }
  for (const Weight& weight : weights_) {
    fresh.find(weight.name).is_frozen = weight.is_frozen;
    fresh.find(weight.name).rate_multiplier = weight.rate_multiplier;
    fresh.find(weight.name).bias_decays = weight.bias_decays;
  }
  weights_ = std::move(fresh);
  updates_ = 0;
}

void Network::set_biases_decay(bool decay) {
  for (std::size_t at = 0; at < weights_.size(); ++at)
    weights_.at(at).bias_decays = decay;
}

std::vector<std::string> Network::start_from(const Weights& learnt) {
  const auto part_of = [](const Weight& weight) {
    return weight.name.substr(0, weight.name.rfind('.'));
  };
  const auto like = [&](const Weight& weight) {
    return std::ranges::find_if(learnt, [&](const Weight& other) {
      return other.name == weight.name && other.value.shape() == weight.value.shape();
    });
  };
  const auto shapes_of = [](const Weights& weights) {
    std::vector<std::string> shapes;
    for (const Weight& weight : weights)
      shapes.push_back(fmt::format("{} {}", weight.name, to_string(weight.value.shape())));
    return fmt::format("{}", fmt::join(shapes, ", "));
  };
  std::set<std::string> others;  // Layers of which not all is there.
  for (const Weight& weight : weights_) {
    if (like(weight) == learnt.end()) others.insert(part_of(weight));
  }
  std::vector<std::string> taken;
  for (const Weight& weight : weights_) {
    if (others.contains(part_of(weight))) continue;
    set(weight.name, like(weight)->value);
    taken.push_back(weight.name);
  }
  if (taken.empty()) {
    throw NameError({.what = "no layer of the trained model fits this network",
                     .expected = shapes_of(weights_),
                     .found = shapes_of(learnt),
                     .remedy = "give corresponding layers the same names and sizes"});
  }
  updates_ = 0;
  return taken;
}

void Network::label_outputs(Role role) {
  const auto label = [role](Shape& shape) {
    const int last = shape.rank() - 1;
    if (last >= 0) shape.set_role(last, role);
  };
  for (std::size_t at = layers_.size(); at-- > 0;) {
    Plan::Row& row = plan_.rows[at];
    label(row.outputs);
    if (layers_[at].nature().lays_out_anew) break;
    if (row.needs.empty()) continue;
    if (!layers_[at].nature().units) break;
    for (WeightNeed& need : row.needs) {
      label(need.shape);
      weights_[need.name].label(need.shape.rank() - 1, role);
    }
    break;
  }
}

void Network::refuse_moved() {
  throw SettingError({.what = "this network was moved elsewhere",
                      .expected = "a network with its layers",
                      .found = "none",
                      .remedy = "use the one it was moved to, or copy it"});
}

Line Network::through(std::size_t layers, Worksheet& sheet, const Line& x,
                      const Phase& phase) const {
  check_is_there();
  const Shape& shape = x.shape();
  bool fits = shape.rank() == plan_.example.rank() + 1;
  for (int axis = 1; fits && axis < shape.rank(); ++axis)
    fits = shape[axis] == plan_.example[axis - 1];
  if (!fits) {
    const bool one_example = shape == plan_.example;
    throw ShapeError(
        {.what = "the shape of the examples does not fit the network",
         .expected =
             fmt::format("a batch of examples, each of the shape {}", to_string(plan_.example)),
         .found = fmt::format("{} {}", x.name(), to_string(shape)),
         .remedy =
             one_example ? "this is one example: a batch of it has an axis of 1 in front" : ""});
  }
  if (x.value().precision() != precision_) {
    throw NumberError(
        {.what = fmt::format("the network and {} are in different precisions", x.name()),
         .expected = fmt::format("{} precision, like the network", word(precision_)),
         .found = fmt::format("{} precision", word(x.value().precision())),
         .remedy = fmt::format("in(Precision::{}) of the data or of the tensor",
                               precision_ == Precision::single ? "single" : "double_")});
  }
  Pass pass(sheet, weights_, phase);
  Line line = x;
  for (std::size_t at = 0; at < layers; ++at)
    line = pass.through(layers_[at], plan_.rows[at].name, line);
  const Shape& outputs = plan_.rows[layers - 1].outputs;
  if (const int last = line.shape().rank() - 1; line != x && last == outputs.rank())
    labelled(last, outputs.role(last - 1), line);
  return line;
}

Line Network::forward(Worksheet& sheet, const Line& x, const Phase& phase) const {
  return through(layers_.size(), sheet, x, phase);
}

Probabilities Network::makes_probabilities() const {
  return layers().back().nature().probabilities;
}

Line Network::scores(Worksheet& sheet, const Line& x, const Phase& phase) const {
  const bool has_more = makes_probabilities() != Probabilities::none;
  return through(has_more ? layers_.size() - 1 : layers_.size(), sheet, x, phase);
}

Tensor Network::operator()(const Tensor& x) const {
  Worksheet sheet;
  return forward(sheet, sheet.given("x", x)).value();
}

void Network::set_updates(std::int64_t updates) {
  if (updates < 0 || updates > most_counted) {
    throw SettingError({.what = "a network cannot have had this many updates",
                        .expected = fmt::format("0 to {}", most_counted),
                        .found = fmt::format("{}", updates)});
  }
  updates_ = updates;
}

void Network::set(std::string_view weight, const Tensor& numbers) {
  Tensor& place = weights_[weight];
  if (place.shape() != numbers.shape()) {
    throw ShapeError({.what = fmt::format("{} cannot be given these numbers", weight),
                      .expected = to_string(place.shape()),
                      .found = to_string(numbers.shape())});
  }
  place = tensor(place.shape(), numbers.numbers(), precision_);
}

std::string Network::blueprint() const {
  return blueprint_of(layers());
}

void label_outputs(Network& network, bool has_classes) {
  const bool is_single_score = has_classes && network.outputs() == Shape{1};
  network.label_outputs(is_single_score ? Role::unit : has_classes ? Role::class_ : Role::target);
}

}  // namespace lattice
