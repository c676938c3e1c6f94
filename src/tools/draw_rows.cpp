#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "lattice/judging/answers.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/show/picture_grid.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "tools/answer_options.hpp"
#include "tools/drawing.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {
namespace {

/// How the inputs of a weight lie: the shape of what was flattened into them. Nothing where they
/// are no picture.
std::optional<Shape> inputs_of_weight(const Network& network, const std::string& name) {
  Shape before = network.example();
  std::optional<Shape> flattened = std::nullopt;
  const std::vector<Plan::Row>& rows = network.plan().rows;
  for (std::size_t at = 0; at < rows.size(); ++at) {
    if (network.layers()[at].nature().lays_out_anew) {
      flattened = is_raster(before) ? std::optional(before) : std::nullopt;
    } else if (!rows[at].needs.empty()) {
      if (rows[at].needs.front().name == name) return flattened;
      flattened = std::nullopt;
    }
    before = rows[at].outputs;
  }
  return std::nullopt;
}

/// The weight of a layer, however deep in groups.
const WeightNeed* need_of(const std::vector<Plan::Row>& rows, const std::string& name) {
  for (const Plan::Row& row : rows) {
    for (const std::vector<Plan::Row>* const inner : {&row.inside, &row.projection}) {
      if (const WeightNeed* const found = need_of(*inner, name)) return found;
    }
    const auto found = std::ranges::find(row.needs, name, &WeightNeed::name);
    if (found != row.needs.end()) return &*found;
  }
  return nullptr;
}

/// `channel 3 → 7` for each connection of a weight, if only some channels are connected.
std::vector<std::string> connection_names(const Network& network, const std::string& name) {
  std::vector<std::string> names;
  if (const WeightNeed* const need = need_of(network.plan().rows, name)) {
    for (const auto& [in, out] : need->connections)
      names.push_back(fmt::format("channel {} → {}", in, out));
  }
  return names;
}

}  // namespace

Chart draw_weights(const DrawAsked& asked) {
  const TrainedLesson learnt = learnt_of(asked.options.subject, asked.options);
  const std::string name =
      asked.weight.empty() ? learnt.network.weights().begin()->name : asked.weight;
  const Tensor weight = asked.learnt_alone ? learnt.network[name] - learnt.prepared.network[name]
                                           : learnt.network[name];
  const std::vector<std::string>& features = learnt.prepared.data().feature_names;
  const bool takes_features =
      std::ssize(features) == weight.shape()[0] && name == learnt.network.weights().begin()->name;
  WeightSetting setting{.inputs = inputs_of_weight(learnt.network, name)};
  if (takes_features) setting.input_names = features;
  if (asked.lay_out) setting.inputs = Shape{asked.lay_out->first, asked.lay_out->second, 1};
  if (weight.shape().role(weight.shape().rank() - 1) == Role::class_)
    setting.unit_names = learnt.prepared.data().all_class_names();
  if (std::vector<std::string> connections = connection_names(learnt.network, name);
      !connections.empty())
    setting.unit_names = std::move(connections);
  const std::string& title = learnt.prepared.lesson.title;
  return weights_chart(fmt::format("{}: {}{}", title.empty() ? learnt.prepared.data().name : title,
                                   name, asked.learnt_alone ? ", now − start" : ""),
                       weight, setting);
}

namespace {

/// Rows, as they were measured, and the network that is asked about them.
struct Shown {
  std::string title;
  std::vector<std::int64_t> rows;  ///< their numbers in the data
  Network network;
  AugmentedEpoch augmented = {};
};

/// The minibatch of a step and the network as it was then; else rows of a part and what
/// the network learnt.
Shown shown_by(const DrawAsked& asked, const TrainedLesson& learnt) {
  const Prepared& prepared = learnt.prepared;
  if (asked.step) {
    Prepared::Moment moment = prepared.before(*asked.step);
    return {fmt::format("minibatch of step {}, asked before the step", *asked.step),
            std::move(moment.rows), std::move(moment.network), moment.augmented};
  }
  const Split& split = prepared.split;
  const bool has_train = split.has(DataPart::train);
  const DataPart of = asked.part.empty() ? (has_train ? DataPart::train : last_part(split))
                                         : part_called(split, asked.part);
  const RowSet& part = split[of];
  const std::string name = (learnt.has_own_rows ? "the " : "") + learnt.name_of_part(of);
  if (!asked.wrong) return {"rows of " + name, part.rows(), learnt.network};
  std::vector<std::int64_t> rows =
      worst_rows(learnt.model_at(learnt.network), part, name, *asked.wrong);
  return {fmt::format("got wrong in {}, the worst first", name), std::move(rows), learnt.network};
}

/// So many of some rows, from all over them: parts that are stratified have class after class.
std::vector<std::int64_t> spread(const std::vector<std::int64_t>& rows, std::int64_t count) {
  if (std::ssize(rows) <= count) return rows;
  std::vector<std::int64_t> some;
  some.reserve(static_cast<std::size_t>(count));
  for (std::int64_t at = 0; at < count; ++at)
    some.push_back(rows[static_cast<std::size_t>(at * std::ssize(rows) / count)]);
  return some;
}

}  // namespace

Chart draw_samples(const DrawAsked& asked) {
  const TrainedLesson learnt = learnt_on(asked);
  const Dataset& data = learnt.prepared.data();
  Shown shown = shown_by(asked, learnt);
  if (!asked.wrong) shown.rows = spread(shown.rows, asked.samples);
  const Batch batch = RowSet(data).at(shown.rows, shown.augmented);
  const Answers answers = ask(learnt.model_at(shown.network), batch.features);
  const Preparation& preparation = learnt.prepared.split.data().preparation;
  const Tensor features = preparation.prepared(batch.features);
  const auto words = [&](const Tensor& classes, const Tensor& numbers, std::int64_t at) {
    return data.has_classes() ? data.class_name(static_cast<std::int64_t>(classes.at_offset(at)))
                              : format_number(numbers.at({at, 0}), 4);
  };
  if (is_raster(data.example())) {
    std::vector<CaptionedPicture> pictures =
        samples_of(RowSet(data, shown.rows), std::ssize(shown.rows));
    for (std::size_t at = 0; at < pictures.size(); ++at) {
      const auto place = static_cast<std::int64_t>(at);
      pictures[at].picture =
          batch.features.rows(std::vector<std::int64_t>{place}).reshaped(data.example());
      pictures[at].answer = words(answers.classes, answers.numbers, place);
      pictures[at].is_noticed = pictures[at].answer != words(batch.classes, batch.targets, place);
    }
    return pictures_chart(
        fmt::format("{}: {}", learnt.prepared.title(), shown.title),
        {{.pictures = std::move(pictures), .brightness = brightness_of(data.features)}});
  }
  std::vector<Sample> samples;
  for (std::int64_t at = 0; at < std::ssize(shown.rows); ++at) {
    Sample sample{.row = shown.rows[static_cast<std::size_t>(at)],
                  .features = {},
                  .truth = words(batch.classes, batch.targets, at),
                  .answer = words(answers.classes, answers.numbers, at)};
    for (std::int64_t feature = 0; feature < features.shape()[1]; ++feature)
      sample.features.push_back(features.at({at, feature}));
    samples.push_back(std::move(sample));
  }
  return samples_chart(fmt::format("{}: {}, features {}", learnt.prepared.title(), shown.title,
                                   preparation.empty() ? "as they are" : "as scaled"),
                       data.feature_names, samples);
}

}  // namespace lattice::tools
