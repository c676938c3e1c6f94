#include "lattice/learning/training.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "lattice/judging/answers.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/judging/figures.hpp"
#include "lattice/learning/look_through.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/losses.hpp"
#include "lattice/worksheet/watch.hpp"
#include "text/clock.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

void check_count(std::int64_t count, std::string_view what, std::int64_t lowest) {
  if (count >= lowest && count <= most_counted) return;
  throw SettingError({.what = fmt::format("{} {}", count, what),
                      .expected = count < lowest ? fmt::format("{} or more", lowest)
                                                 : fmt::format("at most {}", most_counted),
                      .found = fmt::format("{}", count)});
}

/// Where so many more of what was counted lead to.
std::int64_t after(std::int64_t counted, std::int64_t more, std::string_view what) {
  check_count(counted, what, 0);
  check_count(more, what, 1);
  return counted + more;
}

double l2_of(const Network& network, double strength) {
  double squares = 0.0;
  for (const Weight& weight : network.weights()) {
    if (weight.decays()) squares = sum_of_squares(weight.value, squares);
  }
  return 0.5 * strength * squares;
}

void check_is_fresh(const Network& network) {
  if (network.updates() == 0) return;
  throw SettingError(
      {.what = "this network has been trained already",
       .expected = "a network as it starts",
       .found = "one with " + counted(network.updates(), "update"),
       .remedy = "to resume: go_on(network, run, …); to start over: network.start_over(…); a new "
                 "run from its weights: network.start_from(…)"});
}

bool has_numbers_of(const Network& network, const Weights& weights) {
  return std::ranges::all_of(network.weights(), [&](const Weight& weight) {
    return weights[weight.name].numbers() == weight.value.numbers();
  });
}

const RunState& state_of(const RunRecord& run, const Network& network) {
  const auto refuse = [](const std::string& found) {
    return SettingError({.what = "cannot resume the run in this network",
                         .expected = "the record of a run of this network, as train gives it",
                         .found = found});
  };
  if (!run.state) throw refuse("a record without weights, rule and random numbers");
  if (run.ending == Ending::diverged) throw refuse("a run whose loss was no longer a number");
  const Weights& learnt = run.state->weights;
  if (learnt.size() != network.weights().size()) throw refuse("a record with other weights");
  for (const Weight& weight : network.weights()) {
    if (learnt[weight.name].shape() != weight.value.shape())
      throw refuse(fmt::format("a record with another shape of {}", weight.name));
  }
  if (network.updates() != run.updates) {
    throw refuse(fmt::format("a network after {} updates, and a record of {}", network.updates(),
                             run.updates));
  }
  const bool ended_so =
      has_numbers_of(network, learnt) || (run.best && has_numbers_of(network, run.best->weights));
  if (!ended_so) throw refuse("a network with other numbers than the run ended with");
  return *run.state;
}

}  // namespace

Line add_l2(Worksheet& sheet, const Network& network, const Line& loss, double strength) {
  if (strength == 0.0) return loss;
  std::optional<Line> sum;
  for (const Weight& weight : network.weights()) {
    if (!weight.decays()) continue;
    // One name is one line: this is the line that the pass wrote.
    const Line line = weight.is_frozen ? sheet.frozen(weight.name, weight.value)
                                       : sheet.weight(weight.name, weight.value);
    const Line term = l2_term(line, strength);
    sum = sum ? *sum + term : term;
  }
  return sum ? named("total", loss + named("l2", *sum)) : loss;
}

Training::Training(Network& network, const Split& split, const TrainSettings& settings)
    : Training(network, split, settings, Random(settings.seed).branch("rows"),
               Random(settings.seed).branch("dropout")) {}

Training::Training(Network& network, const Split& split, const TrainSettings& settings,
                   const Random& row_order, const Random& chance)
    : network_(&network),
      split_(&split),
      judged_train_(judged_rows(split.train, settings)),
      settings_(settings),
      loss_(settings.loss.value_or(usual_loss(network, split.data()))),
      rule_(settings.rule),
      first_rate_(settings.rule.rate()),
      row_order_(row_order),
      chance_(chance),
      augmenting_(Random(settings.seed).branch("augmentation")),
      last_epoch_(settings.epochs),
      last_update_(settings.updates),
      start_(seconds_now()) {
  check();
  check_is_fresh(network);
  judge();
  begin_epoch();
}

Training::Training(Network& network, RunRecord run, const Split& split,
                   const TrainSettings& settings)
    : network_(&network),
      split_(&split),
      judged_train_(judged_rows(split.train, settings)),
      settings_(settings),
      loss_(settings.loss.value_or(usual_loss(network, split.data()))),
      rule_(state_of(run, network).rule),
      first_rate_(run.state->first_rate),
      row_order_(run.state->row_order),
      chance_(run.state->chance),
      augmenting_(run.state->augmenting),
      run_(std::move(run)),
      last_epoch_(after(run_.last_epoch(), settings.epochs, "epochs of training")),
      last_update_(settings.updates ? std::optional(after(run_.updates, *settings.updates,
                                                          "updates of training"))
                                    : std::nullopt),
      epoch_(run_.last_epoch()),
      start_(seconds_now()),
      seconds_before_(run_.seconds),
      judged_before_(run_.judged) {
  check();
  network.weights().take_numbers_of(run_.state->weights);
  network.set_updates(run_.updates);
  if (run_.joins.empty() || run_.joins.back() != epoch_) run_.joins.push_back(epoch_);
  begin_epoch();
}

void Training::check() {
  rule_.check();
  check_count(settings_.epochs, "epochs of training", 0);
  check_count(settings_.updates.value_or(1), "updates of training", 1);
  check_count(settings_.judge_every, "epochs between evaluations", 1);
  check_count(settings_.judge_steps, "steps between evaluations", 0);
  check_count(settings_.steps_every, "steps between two that are recorded", 0);
  check_count(settings_.flow_every, "epochs between records of the layers", 0);
  check_count(settings_.patience.value_or(1), "epochs of patience", 1);
  if (!std::isfinite(settings_.l2) || settings_.l2 < 0.0) {
    throw SettingError({.what = "an L2 term cannot have this strength",
                        .expected = "0 or more, such as 0.001",
                        .found = format_number(settings_.l2)});
  }
  if (const double most = settings_.clip_norm.value_or(1.0); !std::isfinite(most) || most <= 0.0) {
    throw SettingError({.what = "gradients cannot be clipped to this norm",
                        .expected = "a number above 0, such as 1",
                        .found = format_number(most)});
  }
  if (!settings_.confusion.empty() && !split_->data().has_classes()) {
    throw SettingError({.what = "a confusion matrix needs classes",
                        .expected = "classes to tell apart",
                        .found = "numbers to predict",
                        .remedy = "leave out the setting confusion"});
  }
  const auto learns = [](const Weight& weight) { return !weight.is_frozen && !weight.is_running; };
  if (network_->weights().size() > 0 && std::ranges::none_of(network_->weights(), learns)) {
    throw SettingError({.what = "every weight is frozen",
                        .expected = "a weight that is not",
                        .found = network_->blueprint(),
                        .remedy = "freeze fewer of them"});
  }
  // A resumed run is told by what it evaluates now.
  const bool are_all = judged_train_.count() == split_->train.count();
  run_.judged_train_rows = are_all ? std::nullopt : std::optional(judged_train_.count());
  check_fits(*network_, loss_, split_->train);
  label_outputs(*network_, split_->data().has_classes());
}

Figures Training::figures(const RowSet& rows, bool with_confusion) const {
  return figures_of(*network_, loss_, rows, settings_.chunk, with_confusion);
}

/// By whose loss epochs are compared.
const RowSet& Training::watched_rows() const {
  return split_->has(DataPart::validation) ? split_->validation : judged_train_;
}

double Training::learning_seconds() const {
  return seconds_now() - start_ - beside_learning_;
}

/// The loss of a worksheet, and how many of its answers are right, where there are classes.
Figures Training::figures(const Line& loss, const Line& scores, const Batch& batch) const {
  Figures figures{.loss = loss.value().number()};
  if (!batch.classes.empty()) {
    const Tensor answers = answers_of(scores.value(), outputs_of(*network_, loss_));
    figures.accuracy = accuracy(answers, batch.classes, find_side(batch.side, row_weights_name));
  }
  return figures;
}

/// Evaluates the parts, and keeps the weights when they are the best so far.
void Training::judge() {
  const double from = seconds_now();
  EpochFigures look{.epoch = epoch_, .updates = run_.updates};
  const std::int64_t epochs = run_.epochs.empty() ? 0 : epoch_ - run_.last_epoch();
  if (epochs > 0)
    look.learning_seconds = (learning_seconds() - learnt_before_) / static_cast<double>(epochs);
  learnt_before_ = learning_seconds();
  const bool has_validation = split_->has(DataPart::validation);
  const bool with_confusion = settings_.confusion.has_epoch(epoch_);
  if (!judged_train_.empty())
    look.train = figures(judged_train_, with_confusion && !has_validation);
  if (running_counted_ > 0.0) look.running = running();
  if (has_validation) look.validation = figures(split_->validation, with_confusion);
  if (settings_.l2 > 0.0) look.l2_term = l2_of(*network_, settings_.l2);
  look.rate = rule_.rate();
  const double to = seconds_now();
  look.judging_seconds = to - from;
  judging_seconds_ += look.judging_seconds;
  ++evaluations_;
  look.seconds = to - start_;
  run_.epochs.push_back(look);
  const bool is_usable =
      std::isfinite(look.watched()) && (!look.train || std::isfinite(look.train->loss));
  if (is_usable && (!run_.best || look.watched() < run_.best->loss)) {
    run_.best = {.epoch = epoch_, .loss = look.watched(), .weights = network_->weights()};
  }
  look_at_flow();
  if (settings_.observer) settings_.observer(look);
  beside_learning_ += seconds_now() - from;
}

void Training::look_at_flow() {
  if (settings_.flow_every == 0) return;
  const bool is_due = epoch_ % settings_.flow_every == 0 || epoch_ == last_epoch_;
  if (!is_due) return;
  run_.flow.push_back(
      {.epoch = epoch_, .layers = look_through(*network_, loss_, split_->train, chance_)});
}

void Training::begin_epoch() {
  const bool has_waited = settings_.patience && run_.best &&
                          run_.last_epoch() - run_.best->epoch >= *settings_.patience;
  if (has_waited) return end(Ending::stopped_early);
  if (has_all_updates()) return end(Ending::all_updates);
  if (!last_update_ && epoch_ >= last_epoch_) return end(Ending::all_epochs);
  ++epoch_;
  running_total_ = 0.0;
  running_right_ = 0.0;
  running_counted_ = 0.0;
  const double rate = settings_.schedule.rate(first_rate_, epoch_, run_.watched());
  if (rate != rule_.rate() && epoch_ > 1) {
    run_.rate_changes.push_back({.epoch = epoch_, .before = rule_.rate(), .after = rate});
    if (settings_.rate_observer) settings_.rate_observer(run_.rate_changes.back());
  }
  rule_.set_rate(rate);
  next_.reset();
  batches_.emplace(split_->train,
                   MinibatchSettings{.size = settings_.batch,
                                     .order = settings_.order,
                                     .ahead = settings_.ahead,
                                     .augmented = augmented()},
                   row_order_);
  next_.emplace(batches_->begin());
  run_.waited += batches_->waited();
}

bool Training::has_all_updates() const {
  return last_update_ && run_.updates >= *last_update_;
}

Figures Training::running() const {
  const double counted = running_counted_ > 0.0 ? running_counted_ : 1.0;
  Figures figures{.loss = running_total_ / counted};
  if (split_->data().has_classes()) figures.accuracy = running_right_ / counted;
  return figures;
}

bool Training::step() {
  if (!goes_on_) return false;
  const Batch& batch = upcoming();
  Worksheet sheet;
  const GivenLines given = write_given(sheet, batch);
  const Line scores = write_scores(sheet, *network_, loss_, given.x, Phase::training(chance_));
  const Line loss = write_loss(sheet, loss_, scores, given);
  const Figures minibatch = figures(loss, scores, batch);
  if (!std::isfinite(minibatch.loss)) {
    diverge(sheet, minibatch.loss);
    return true;
  }
  const Line learnt_from = write_over_rows(loss, settings_.over_rows, given);
  Gradients gradients = reverse_sweep(add_l2(sheet, *network_, learnt_from, settings_.l2));
  const double factor = settings_.clip_norm ? clip_factor(gradients, *settings_.clip_norm) : 1.0;
  update(rule_, *network_, std::move(gradients), factor);
  ++run_.updates;
  const double counted = batch.total_weight();
  running_total_ += minibatch.loss * counted;
  running_right_ += minibatch.accuracy.value_or(0.0) * counted;
  running_counted_ += counted;
  record(minibatch);
  const double before = batches_->waited();
  ++*next_;
  run_.waited += batches_->waited() - before;
  if (*next_ == Minibatches::end()) {
    end_epoch();
  } else if (has_all_updates()) {
    stop(Ending::all_updates);
  } else if (settings_.should_stop && settings_.should_stop()) {
    stop(Ending::asked);
  }
  return true;
}

/// Notes the step that was just made, where it is due.
void Training::record(const Figures& minibatch) {
  const auto is_due = [&](std::int64_t every) { return every > 0 && run_.updates % every == 0; };
  const bool with_confusion = settings_.confusion.has_step(run_.updates);
  const bool is_looked_at = with_confusion || is_due(settings_.judge_steps);
  if (!is_looked_at && !is_due(settings_.steps_every)) return;
  StepFigures step{
      .step = run_.updates, .epoch = epoch_, .minibatch = minibatch, .running = running()};
  if (is_looked_at && !watched_rows().empty()) {
    const double from = seconds_now();
    step.watched = figures(watched_rows(), with_confusion);
    const double seconds = seconds_now() - from;
    judging_seconds_ += seconds;
    beside_learning_ += seconds;
  }
  run_.steps.push_back(step);
  if (settings_.step_observer) settings_.step_observer(step);
}

void Training::end_epoch() {
  const bool is_last = last_update_ ? has_all_updates() : epoch_ == last_epoch_;
  const bool is_due = epoch_ % settings_.judge_every == 0 || settings_.confusion.has_epoch(epoch_);
  if (is_due || is_last) {
    judge();
    if (ends_without_number()) return;
  }
  if (settings_.should_stop && settings_.should_stop()) return stop(Ending::asked);
  begin_epoch();
}

/// Ends the run where the last look saw a loss that is no number, and says where that began.
bool Training::ends_without_number() {
  const EpochFigures& last = run_.epochs.back();
  const double loss = last.train ? last.train->loss : last.watched();
  if (std::isfinite(loss)) return false;
  Worksheet sheet;
  each_chunk(*network_, loss_, judged_train_.empty() ? watched_rows() : judged_train_,
             settings_.chunk, [&](const Batch& batch, const Tensor&) {
               if (sheet.size() > 0 && watch(sheet)) return;
               sheet.clear();
               const GivenLines given = write_given(sheet, batch);
               const Line scores = write_scores(sheet, *network_, loss_, given.x);
               static_cast<void>(write_loss(sheet, loss_, scores, given));
             });
  diverge(sheet, loss);
  return true;
}

/// Ends where it is. The epoch that was reached is looked at, though it may not be over: the run is
/// gone on with after it, and not after the last one that was to be looked at.
void Training::stop(Ending ending) {
  if (running_counted_ > 0.0 && run_.last_epoch() < epoch_) {
    judge();
    if (ends_without_number()) return;
  }
  end(ending);
}

/// Says why the loss of a worksheet is no number: the first line where that began.
void Training::diverge(const Worksheet& sheet, double loss) {
  const std::optional<Alarm> alarm = watch(sheet);
  run_.trouble =
      Error({.what = "training was stopped: the loss is not finite",
             .where = fmt::format("step {}, in epoch {}{}", upcoming_step(), epoch_,
                                  alarm ? "; " + alarm->place() : ""),
             .expected = "a loss that falls",
             .found = format_number(loss),
             .remedy = fmt::format("a smaller rate than {}, features of similar size, or clipped "
                                   "gradients (clip_norm)",
                                   format_number(rule_.rate()))})
          .what();
  if (run_.best) network_->weights().take_numbers_of(run_.best->weights);
  end(Ending::diverged);
}

void Training::end(Ending ending) {
  run_.ending = ending;
  goes_on_ = false;
}

/// Completes a record with what the run is gone on with.
void Training::complete(RunRecord& run) const {
  run.state = RunState{.rule = rule_,
                       .first_rate = first_rate_,
                       .row_order = row_order_,
                       .chance = chance_,
                       .augmenting = augmenting_,
                       .weights = network_->weights()};
  run.seconds = seconds_before_ + seconds_now() - start_;
  run.judged = judged_before_ + judging_seconds_;
}

RunRecord Training::so_far() const {
  RunRecord run = run_;
  run.ending = Ending::asked;
  complete(run);
  return run;
}

RunRecord Training::finish() {
  if (goes_on_) stop(Ending::asked);
  complete(run_);
  run_.ends_with_best = settings_.keep_best && run_.best.has_value();
  if (run_.ends_with_best) network_->weights().take_numbers_of(run_.best->weights);
  return std::move(run_);
}

RowSet judged_rows(const RowSet& train, const TrainSettings& settings) {
  const std::int64_t count = settings.judge_train.value_or(train.count());
  check_count(count, "rows of the train part to evaluate", 0);
  if (count >= train.count()) return train;
  std::vector<std::int64_t> places =
      Random(settings.seed).branch("evaluated rows").shuffled(train.count());
  places.resize(static_cast<std::size_t>(count));
  std::ranges::sort(places);
  return train.taking(places);
}

RunRecord train(Network& network, const Split& split, const TrainSettings& settings) {
  Training training(network, split, settings);
  while (training.step()) {
  }
  return training.finish();
}

RunRecord train(Network& network, const Split& split, const TrainSettings& settings,
                const Random& row_order, const Random& chance) {
  Training training(network, split, settings, row_order, chance);
  while (training.step()) {
  }
  return training.finish();
}

RunRecord train(Network& network, const RowSet& rows, const TrainSettings& settings) {
  return train(network, Split{.train = rows}, settings);
}

StepRows rows_of_step(const Split& split, const TrainSettings& settings, std::int64_t step) {
  const std::int64_t of_epoch = (split.train.count() + settings.batch - 1) / settings.batch;
  const std::int64_t most_epochs = std::numeric_limits<std::int64_t>::max() / of_epoch;
  const std::int64_t last =
      settings.updates.value_or(std::min(settings.epochs, most_epochs) * of_epoch);
  if (step < 1 || step > last) {
    throw SettingError(
        {.what = fmt::format("the run has no step {}", step),
         .expected = last > 0 ? fmt::format("1 to {}", last) : "a run of some epochs",
         .found = fmt::format("{}", step)});
  }
  StepRows found{.epoch = (step - 1) / of_epoch + 1};
  found.augmented = {.how = settings.augmentation,
                     .random = Random(settings.seed).branch("augmentation"),
                     .epoch = found.epoch};
  Random order = Random(settings.seed).branch("rows");
  for (std::int64_t epoch = 1;; ++epoch) {
    Minibatches all(split.train.as_measured(), {.size = settings.batch, .order = settings.order},
                    order);
    if (epoch < found.epoch) continue;
    auto next = all.begin();
    for (std::int64_t before = (found.epoch - 1) * of_epoch + 1; before < step; ++before)
      ++next;
    found.rows = (*next).rows;
    return found;
  }
}

void go_on(Network& network, RunRecord& run, const Split& split, const TrainSettings& settings) {
  Training training(network, run, split, settings);
  while (training.step()) {
  }
  run = training.finish();
}

}  // namespace lattice
