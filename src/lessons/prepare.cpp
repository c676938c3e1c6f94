#include "lattice/lessons/prepare.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "lattice/data/demo_sets.hpp"
#include "lattice/data/row_kind.hpp"
#include "lattice/learning/look_through.hpp"
#include "lattice/learning/worked_answers.hpp"
#include "lattice/lessons/lesson_data.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/network/blueprint.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

constexpr std::int64_t usual_batch = 16;

Network build(const Lesson& lesson, const Dataset& data) {
  const std::int64_t outputs = data.has_classes() ? data.class_count() : data.targets.shape()[1];
  const RowKind& kind = kind_of(data);
  const std::string_view first = !kind.first_layer.empty() ? kind.first_layer
                                 : data.is_table()         ? ""
                                                           : "flatten";
  const std::string blueprint =
      lesson.network.blueprint.empty()
          ? fmt::format("{}{}dense {}", first, first.empty() ? "" : ", ", outputs)
          : lesson.network.blueprint;
  Network network(data.example(), blueprint, Random(lesson.seed).branch("start"),
                  lesson.network.precision);
  label_outputs(network, data.has_classes());
  return network;
}

/// Puts a start of the lesson, or numbers given by hand, in place of those of the blueprint.
void set_start(Network& network, const std::string& text, std::uint64_t seed) {
  const std::size_t equals = text.find('=');
  if (equals == std::string::npos) {
    const Start start = parse_start(text);
    for (const Plan::Row& row : network.plan().rows) {
      for (const WeightNeed& need : row.needs) {
        if (!need.is_slope()) continue;
        Random random = Random(seed).branch("start").branch(need.name);
        network.set(need.name, need.draw(start, random, network.precision()));
      }
    }
    return;
  }
  const std::string name = text.substr(0, equals);
  const Shape shape = network[name].shape();
  std::vector<double> numbers;
  for (std::size_t from = equals + 1; from <= text.size();) {
    const std::size_t comma = std::min(text.find(',', from), text.size());
    const std::string field = text.substr(from, comma - from);
    const std::optional<double> number = parse_number(field);
    const double most = network.precision() == Precision::single
                            ? double{std::numeric_limits<float>::max()}
                            : std::numeric_limits<double>::max();
    if (!number || !(std::abs(*number) <= most)) {
      throw SettingError(
          {.what = fmt::format("--start {} cannot be read", text),
           .expected = fmt::format("a weight and its numbers, such as output.bias=0,0.5; none "
                                   "beyond {} in {} precision",
                                   format_number(most, 3), word(network.precision())),
           .found = fmt::format("'{}'", field)});
    }
    numbers.push_back(*number);
    from = comma + 1;
  }
  if (std::ssize(numbers) != shape.count()) {
    throw SettingError(
        {.what = fmt::format("--start {0} has the wrong number of values", name),
         .expected = fmt::format("{} for {} {}", shape.count(), name, to_string(shape)),
         .found = fmt::format("{}: {}", numbers.size(), fmt::join(numbers, ", "))});
  }
  network.set(name, tensor(shape, numbers));
}

/// The numbers of a weight as a start: `hidden.bias=0,0.5`.
std::string start_of(const Weight& weight) {
  return fmt::format("{}={}", weight.name, fmt::join(weight.value.numbers(), ","));
}

/// Puts the numbers that a model has learnt among the starts of a lesson: behind those for all
/// weights, before those for single ones. So the lesson stays whole without the model.
/// @param network as the lesson makes it
std::optional<Prepared::Beginning> begin_from(Lesson& lesson, Network network) {
  if (lesson.network.from.empty()) return std::nullopt;
  const std::string path = std::exchange(lesson.network.from, {});
  const Model model = load_model(path).model;
  Prepared::Beginning beginning{.model = path,
                                .weights = network.start_from(model.network.weights()),
                                .features = feature_names_of(model.columns)};
  std::vector<std::string> learnt;
  learnt.reserve(beginning.weights.size());
  for (const std::string& name : beginning.weights)
    learnt.push_back(start_of(network.weights().find(name)));
  const auto is_for_all = [](const std::string& start) {
    return start.find('=') == std::string::npos;
  };
  const auto single =
      std::stable_partition(lesson.network.start.begin(), lesson.network.start.end(), is_for_all);
  lesson.network.start.insert(single, learnt.begin(), learnt.end());
  return beginning;
}

/// Refuses numbers that are beyond what a precision can hold.
void check_finite(const Dataset& data, Precision precision) {
  if (precision == Precision::double_) return;  // Readers let no other numbers in.
  const auto check = [&](const auto& all) {
    std::int64_t beyond = 0;
    while (beyond < all.count() && std::isfinite(all.at_offset(beyond)))
      ++beyond;
    if (beyond == all.count()) return;
    const std::int64_t row = beyond / (all.count() / all.shape()[0]);
    throw NumberError({.what = fmt::format("a number of {} is beyond what {} precision holds",
                                           data.name, word(precision)),
                       .where = fmt::format("row {}", row),
                       .expected = fmt::format("numbers up to {}",
                                               format_number(std::numeric_limits<float>::max(), 3)),
                       .remedy = "--precision double"});
  };
  if (!data.features.are_bytes()) check(data.features);
  check(data.truth());
}

/// Trains a run until a step is the next one.
void go_to(Training& run, std::int64_t step) {
  while (run.goes_on() && run.upcoming_step() < step)
    run.step();
  if (step >= 1 && run.goes_on()) return;
  throw SettingError({.what = fmt::format("the run has no step {}", step),
                      .expected = step < 1 ? "1 or more: steps are counted from 1"
                                  : run.upcoming_step() == 1
                                      ? "a run of one epoch or more"
                                      : fmt::format("1 to {}", run.upcoming_step() - 1),
                      .found = fmt::format("{}", step),
                      .remedy = step < 1 ? "" : "more --epochs make a longer run"});
}

/// The next minibatch of a run, as it was measured.
WorkedMinibatch work_upcoming(const Prepared& prepared, const Network& network,
                              const Training& run) {
  WorkSettings settings = prepared.work_settings();
  settings.augmented = run.augmented();
  return {network, RowSet(prepared.data()).at(run.upcoming().rows), run.rule(), settings,
          run.chance()};
}

/// One row of the data that may be any other, worked with the weights of a moment.
/// @param rows of which the first that may be chosen is taken
AnyRow any_row_of(const Prepared& prepared, const Network& network,
                  const std::vector<std::int64_t>& rows) {
  const Dataset& data = prepared.data();
  const auto may_be_chosen = [](std::int64_t row) { return row < most_rows_to_choose; };
  const auto found = std::ranges::find_if(rows, may_be_chosen);
  const std::int64_t row = found == rows.end() ? 0 : *found;
  std::vector<std::string> parts(static_cast<std::size_t>(data.rows()));
  for (const DataPart part : all_data_parts) {
    if (!prepared.split.has(part)) continue;
    for (const std::int64_t each : prepared.split[part].rows())
      parts[static_cast<std::size_t>(each)] = word(part);
  }
  Batch measured = RowSet(data).from(row, 1);
  measured.side.clear();
  return {.rows = data,
          .parts = std::move(parts),
          .step = {.step = 0,
                   .epoch = 0,
                   .work = work_any_row(model_of(network, prepared.loss, prepared.split.train),
                                        measured)}};
}

}  // namespace

std::int64_t outputs_of(const std::string& blueprint) {
  if (blueprint.empty()) return 0;
  const std::vector<Layer> layers = parse_blueprint(blueprint);
  const auto last = std::find_if(layers.rbegin(), layers.rend(), [](const Layer& layer) {
    return layer.nature().units.has_value();
  });
  return last == layers.rend() ? 0 : *last->nature().units;
}

UpdateRule rule_of(const Lesson& lesson) {
  UpdateRule rule = rule_called(lesson.rule);
  for (const auto& [name, number] : lesson.rule_settings)
    rule.set(name, number);
  rule.check();
  return rule;
}

TrainSettings training_of(const Lesson& lesson, const RowSet& train) {
  const bool is_whole = train.data().is_connected();
  const std::int64_t rows = train.count();
  if (is_whole && lesson.batch.value_or(1) > rows) {
    const RowKind& kind = kind_of(train.data());
    throw SettingError({.what = fmt::format("a minibatch of {} {} is too large: {} are known",
                                            *lesson.batch, kind.several, rows),
                        .expected = fmt::format("1 to {}, or all", rows),
                        .found = fmt::format("{}", *lesson.batch),
                        .remedy = fmt::format("leave it out: a {} is one batch", kind.name),
                        .advice = {"batch", "all"}});
  }
  TrainSettings settings = lesson.training;
  settings.rule = rule_of(lesson);
  settings.seed = lesson.seed;
  settings.batch = lesson.whole_batch
                       ? rows
                       : lesson.batch.value_or(is_whole ? rows : std::min(usual_batch, rows));
  return settings;
}

Prepared prepare(const Lesson& lesson, std::optional<Fold> fold) {
  TableReading reading = read_data(lesson, outputs_of(lesson.network.blueprint));
  reading.data = reading.data.in(lesson.network.precision);
  check_finite(reading.data, lesson.network.precision);
  Random dealing = Random(lesson.seed).branch("parts");
  Split dealt = split(reading.data, lesson.split_in_force(), dealing);
  if (fold) dealt = folded(dealt, *fold);
  Lesson whole = lesson;
  whole.data.scale = lesson.scale_for(reading.data);
  Split parts =
      prepared(dealt, whole.data.scale, lesson.data.scale_target.value_or(whole.data.scale));
  Network network = build(lesson, reading.data);
  std::optional<Prepared::Beginning> beginning = begin_from(whole, network);
  for (const std::string& start : whole.network.start)
    set_start(network, start, lesson.seed);
  for (const std::string& name : lesson.network.frozen)
    network.freeze(name);
  for (const auto& [name, rate_multiplier] : lesson.network.rate_multipliers)
    network.set_rate_multiplier(name, rate_multiplier);
  network.set_biases_decay(lesson.network.biases_decay);
  const Loss loss = lesson.training.loss.value_or(usual_loss(network, reading.data));
  check_fits(network, loss, parts.train);
  TrainSettings training = training_of(lesson, parts.train);
  return {.lesson = std::move(whole),
          .reading = std::move(reading),
          .split = std::move(parts),
          .network = std::move(network),
          .training = std::move(training),
          .loss = loss,
          .beginning = std::move(beginning)};
}

WorkSettings Prepared::work_settings() const {
  return {.loss = loss,
          .form = lesson.form,
          .epsilon = lesson.log_epsilon,
          .layer_form = lesson.layer_form,
          .over_rows = training.over_rows,
          .l2 = training.l2,
          .clip_norm = training.clip_norm,
          .preparation = split.data().preparation,
          .target_preparation = split.data().target_preparation};
}

WorkedExample Prepared::work(std::vector<std::int64_t> steps, bool to_the_end,
                             std::int64_t further) const {
  std::ranges::sort(steps);
  steps.erase(std::unique(steps.begin(), steps.end()), steps.end());
  if (steps.empty()) {
    throw SettingError({.what = "which steps of the run are worked?",
                        .expected = "1, or 1,2,50",
                        .found = "none"});
  }
  WorkedExample example{.title = title(), .about = in_words(), .names = data().axis_names()};
  Network trained = network;
  Training run(trained, split, training);
  for (const std::int64_t step : steps) {
    go_to(run, step);
    if (!example.any_row && data().is_table() && !data().is_connected())
      example.any_row = any_row_of(*this, trained, run.upcoming().rows);
    WorkedMinibatch work = work_upcoming(*this, trained, run);
    std::vector<LayerFlow> flow = look_through(work, network.plan());
    example.steps.push_back({.step = step,
                             .epoch = run.upcoming_epoch(),
                             .work = std::move(work),
                             .flow = std::move(flow)});
  }
  for (; further > 0 && run.step() && run.goes_on(); --further) {
    example.further.push_back({.step = run.upcoming_step(),
                               .epoch = run.upcoming_epoch(),
                               .work = work_upcoming(*this, trained, run)});
  }
  if (to_the_end) {
    while (run.step()) {
    }
    example.run = run.finish();
    example.references = lesson.references;
  }
  return example;
}

WorkedMinibatch Prepared::work(std::int64_t step) const {
  Network trained = network;
  Training run(trained, split, training);
  go_to(run, step);
  return work_upcoming(*this, trained, run);
}

Prepared::Moment Prepared::before(std::int64_t step) const {
  Network trained = network;
  Training run(trained, split, training);
  go_to(run, step);
  return {run.upcoming().rows, trained, run.augmented()};
}

Lesson Prepared::in_full() const {
  Lesson full = lesson;
  if (const auto set = full.data.demo_set()) {
    full.data.set = *set;
    if (!full.data.set_seed) full.data.set_seed = demo_set_called(full.data.set).usual_seed;
    full.data.rows = data().rows();
  }
  if (!full.data.scale_target) full.data.scale_target = lesson.data.scale;
  full.split = lattice::in_full(data(), lesson.split_in_force());
  full.network.blueprint = network.blueprint();
  for (const auto& [name, number] : training.rule.settings())
    full.rule_settings.insert_or_assign(name, number);
  if (!lesson.whole_batch) full.batch = training.batch;
  full.training.loss = loss;
  return full;
}

std::string Prepared::title() const {
  return lesson.title.empty() ? fmt::format("{}: {}", data().name, network.blueprint())
                              : lesson.title;
}

std::vector<std::string> Prepared::in_words(int digits) const {
  std::vector<std::string> rows;
  for (const DataPart part : all_data_parts) {
    if (!split.has(part)) continue;
    const FixedPart* const fixed = data().fixed_part(part);
    rows.push_back(fmt::format("{} {}{}", split[part].count(), word(part),
                               fixed == nullptr ? "" : " from " + fixed->name));
  }
  const std::string targets = fmt::format("{}", fmt::join(data().all_target_names(), ", "));
  if (const auto without = std::ssize(data().unlabelled); without > 0)
    rows.push_back(fmt::format("{} without {}", without, targets));
  std::vector<std::string> rule;
  for (const auto& [name, number] : training.rule.settings()) {
    if (name == "rate" || lesson.rule_settings.contains(name))
      rule.push_back(fmt::format("{} {}", name, format_number(number, digits)));
  }
  const std::string features = data().has_own_features() ? "connections alone"
                               : !data().is_table()      ? to_string(data().example())
                               : data().feature_names.size() > 6
                                   ? counted(std::ssize(data().feature_names), "feature")
                                   : fmt::format("{}", fmt::join(data().feature_names, ", "));
  std::vector<std::string> words = {
      fmt::format("{}: {} from {}", data().name, targets, features),
      fmt::format("{}: {}", data().is_connected() ? kind_of(data()).several : "rows",
                  fmt::join(rows, ", ")),
      network.blueprint(),
      word(loss),
      fmt::format("{} {}", training.rule.word(), fmt::join(rule, ", ")),
      fmt::format("batch {}", training.batch),
      fmt::format("seed {}", lesson.seed),
      split.data().preparation.empty()          ? "features as they are"
      : split.data().target_preparation.empty() ? "features scaled"
                                                : "features and target scaled"};
  if (lesson.training.over_rows == OverRows::sum) words[3] += ", summed over rows";
  if (takes_levels(loss) && network.outputs().count() > 1)
    words[3] += fmt::format(", mean over {} outputs too", network.outputs().count());
  if (training.judge_train && *training.judge_train < split.train.count()) {
    words.push_back(*training.judge_train == 0
                        ? "the train part is not evaluated"
                        : fmt::format("the train part is evaluated by {}, drawn once",
                                      counted(*training.judge_train, "row")));
  }
  if (beginning) words.push_back(fmt::format("from {}", beginning->model));
  for (const std::string& start : lesson.network.start) {
    const std::size_t equals = start.find('=');
    const bool is_taken =
        beginning &&
        std::ranges::find(beginning->weights, start.substr(0, equals)) != beginning->weights.end();
    if (is_taken) continue;
    words.push_back(equals == std::string::npos ? fmt::format("start {}", start)
                                                : start.substr(0, equals) + " given");
  }
  for (const std::string& name : lesson.network.frozen)
    words.push_back(fmt::format("{} frozen", name));
  for (const auto& [name, rate_multiplier] : lesson.network.rate_multipliers)
    words.push_back(
        fmt::format("{} at {} × the rate", name, format_number(rate_multiplier, digits)));
  if (lesson.network.biases_decay) words.emplace_back("biases decay, too");
  if (lesson.training.order != RowOrder::shuffled_each_epoch)
    words.push_back(fmt::format("rows {}", row_order_words.of(lesson.training.order)));
  if (lesson.training.l2 > 0.0)
    words.push_back(fmt::format("L2 {}", format_number(lesson.training.l2, digits)));
  if (lesson.training.clip_norm)
    words.push_back(fmt::format("gradients clipped to norm {}",
                                format_number(*lesson.training.clip_norm, digits)));
  if (lesson.training.schedule.text() != Schedule::constant().text())
    words.push_back(fmt::format("schedule {}", lesson.training.schedule.text()));
  if (!lesson.training.augmentation.empty())
    words.push_back(fmt::format("augmented: {}", text(lesson.training.augmentation)));
  if (lesson.training.patience) {
    words.push_back(fmt::format("stops {} {} after the best", *lesson.training.patience,
                                *lesson.training.patience == 1 ? "epoch" : "epochs"));
  }
  if (lesson.training.keep_best) words.emplace_back("keeps the best weights");
  if (lesson.network.precision == Precision::single) words.emplace_back("single precision");
  return words;
}

}  // namespace lattice
