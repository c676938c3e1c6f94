#pragma once

#include <cstdint>
#include <functional>
#include <optional>

#include "lattice/data/minibatches.hpp"
#include "lattice/data/split.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/judging/loss.hpp"
#include "lattice/learning/moments.hpp"
#include "lattice/learning/rules.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/learning/schedule.hpp"
#include "lattice/network/network.hpp"

namespace lattice {

/// The settings of a training run.
struct TrainSettings {
  UpdateRule rule = Descent{};
  std::int64_t epochs = 20;  ///< how many times every row is seen; with 0 nothing is trained
  std::optional<std::int64_t> updates = std::nullopt;  ///< ends the run after this many instead
  std::int64_t batch = 16;                             ///< rows in a minibatch
  RowOrder order = RowOrder::shuffled_each_epoch;      ///< in which the rows are seen
  std::uint64_t seed = 1;                              ///< of the order of rows, and of dropout

  std::optional<Loss> loss = std::nullopt;  ///< `usual_loss` when left out
  OverRows over_rows = OverRows::mean;
  double l2 = 0.0;  ///< strength of the L2 term in the loss; without biases
  std::optional<double> clip_norm = std::nullopt;  ///< gradients are scaled down to this norm
  Schedule schedule = Schedule::constant();
  std::optional<std::int64_t> patience = std::nullopt;  ///< epochs without a new minimum
  bool keep_best = false;  ///< the network ends with the best weights, not with the last

  Augmentation augmentation = {};  ///< of train examples; drawn by seed, epoch and row

  std::int64_t ahead = 0;            ///< threads that prepare minibatches ahead; 0 for none
  std::int64_t chunk = usual_chunk;  ///< rows evaluated at a time; never changes a result
  std::int64_t judge_every = 1;      ///< epochs between evaluations of all rows of the parts

  /// The number of rows of the train part that are evaluated, drawn once by the seed; all of them
  /// when left out, and 0 for none: then only running figures tell of the train part.
  std::optional<std::int64_t> judge_train = std::nullopt;

  std::int64_t judge_steps = 0;  ///< steps between evaluations of the validation part; 0 for none
  std::int64_t steps_every = 0;  ///< steps between recorded steps; 0 for none

  /// When the confusion matrix of the validation part, or of the train part if there is none, is
  /// recorded; each of these moments is evaluated, and each of these steps recorded.
  Moments confusion = {};

  /// Epochs between records of the activations and gradients of each layer, with one before the
  /// first epoch and one after the last; 0 for none. Each coincides with an evaluation of the
  /// parts.
  std::int64_t flow_every = 0;

  /// Called after each evaluated epoch, and once before the first.
  std::function<void(const EpochFigures&)> observer = nullptr;

  /// Called when the rate changes, before the first epoch with the new one.
  std::function<void(const RateChange&)> rate_observer = nullptr;

  /// Called after each recorded step.
  std::function<void(const StepFigures&)> step_observer = nullptr;

  /// Asked after each step; true ends the run.
  std::function<bool()> should_stop = nullptr;
};

/// The rows of a train part that a run evaluates. @throws SettingError for a count below 0.
[[nodiscard]] RowSet judged_rows(const RowSet& train, const TrainSettings& settings);

/// Trains a new network on the train part, minibatch by minibatch, and evaluates it on the
/// validation part. The test part is not used.
///
/// @code
/// Network net(Shape{5}, "dense 8, tanh, dense 4", random);
/// const RunRecord run = train(net, glazes, {.rule = Adam{.rate = 0.01}, .epochs = 40});
/// @endcode
///
/// A loss that is no longer a number ends the run; the network then has the best weights so far,
/// and the record says where and why.
/// @throws SettingError for impossible settings, or for a network that was trained before: to
/// resume
///         its run use `go_on`, to start over `Network::start_over`; as `check_fits` does.
[[nodiscard]] RunRecord train(Network& network, const Split& split, const TrainSettings& settings);

/// The same with your own generators: for the order of rows, and for dropout.
[[nodiscard]] RunRecord train(Network& network, const Split& split, const TrainSettings& settings,
                              const Random& row_order, const Random& chance);

/// The same on all of these rows, or on a whole dataset, with nothing kept for validation.
[[nodiscard]] RunRecord train(Network& network, const RowSet& rows, const TrainSettings& settings);

/// The minibatch of a step as a run trains on it, which needs no network.
struct StepRows {
  std::int64_t epoch = 1;
  std::vector<std::int64_t> rows = {};  ///< their numbers in the dataset
  AugmentedEpoch augmented = {};
};

/// @param step counted from 1
/// @throws SettingError for a step that the run does not have.
[[nodiscard]] StepRows rows_of_step(const Split& split, const TrainSettings& settings,
                                    std::int64_t step);

/// Resumes a run for `settings.epochs` more epochs, or `settings.updates` more updates, as if it
/// had never ended: rule, rate, generators and weights are those at its end, the rest comes from
/// `settings`. The record is continued, with the join marked. An epoch that was interrupted is
/// over; the next one begins.
/// @throws SettingError when the record is not of a run of this network.
void go_on(Network& network, RunRecord& run, const Split& split, const TrainSettings& settings);

/// A run step by step: what `train` is built from, for inspecting something in between.
///
/// @code
/// Training run(net, glazes, {.rule = Adam{.rate = 0.01}});
/// while (run.step()) …
/// RunRecord record = run.finish();
/// @endcode
class Training {
 public:
  /// Before the first step. The network, the split and the settings' functions must outlive the
  /// run. @throws as `train` does.
  Training(Network& network, const Split& split, const TrainSettings& settings);
  Training(Network& network, const Split& split, const TrainSettings& settings,
           const Random& row_order, const Random& chance);

  /// At the end of an earlier run. @throws as `go_on` does.
  Training(Network& network, RunRecord run, const Split& split, const TrainSettings& settings);

  Training(const Training&) = delete;
  Training& operator=(const Training&) = delete;
  ~Training() = default;

  /// Whether there is another step.
  [[nodiscard]] bool goes_on() const { return goes_on_; }

  /// How the examples of this epoch are augmented.
  [[nodiscard]] AugmentedEpoch augmented() const {
    return {.how = settings_.augmentation, .random = augmenting_, .epoch = epoch_};
  }

  /// The minibatch of the next step.
  [[nodiscard]] const Batch& upcoming() const { return **next_; }

  /// The rule as it is before the next step, with the rate of its epoch.
  [[nodiscard]] const UpdateRule& rule() const { return rule_; }

  /// The generator that dropout will use in the next step.
  [[nodiscard]] const Random& chance() const { return chance_; }

  /// The numbers of the next step and of its epoch, from 1.
  [[nodiscard]] std::int64_t upcoming_step() const { return run_.updates + 1; }
  [[nodiscard]] std::int64_t upcoming_epoch() const { return epoch_; }

  /// The mean over the epoch's examples so far, each evaluated before its step; 0 before the first.
  [[nodiscard]] Figures running() const;

  /// Seconds so far, since the run was started or resumed: of the steps, and of evaluations.
  [[nodiscard]] double learning_seconds() const;
  [[nodiscard]] double judging_seconds() const { return judging_seconds_; }

  /// The number of evaluations after epochs so far, with that before the first one.
  [[nodiscard]] std::int64_t evaluations() const { return evaluations_; }

  /// Trains on the next minibatch, and evaluates after the last of an epoch. False when the run was
  /// already over.
  bool step();

  /// The record up to an evaluated epoch, from which the run can be resumed as if it had been
  /// stopped there. To be called in the observer: later the next epoch has begun.
  [[nodiscard]] RunRecord so_far() const;

  /// Ends the run, and hands out its record.
  [[nodiscard]] RunRecord finish();

 private:
  void check();
  void begin_epoch();
  void end_epoch();
  void record(const Figures& minibatch);
  [[nodiscard]] bool has_all_updates() const;
  void judge();
  void look_at_flow();
  [[nodiscard]] Figures figures(const RowSet& rows, bool with_confusion) const;
  [[nodiscard]] const RowSet& watched_rows() const;
  [[nodiscard]] Figures figures(const Line& loss, const Line& scores, const Batch& batch) const;
  [[nodiscard]] bool ends_without_number();
  void diverge(const Worksheet& sheet, double loss);
  void stop(Ending ending);
  void end(Ending ending);
  void complete(RunRecord& run) const;

  Network* network_;
  const Split* split_;
  RowSet judged_train_;
  TrainSettings settings_;
  Loss loss_;
  UpdateRule rule_;
  double first_rate_;
  Random row_order_;
  Random chance_;
  Random augmenting_;
  RunRecord run_ = {};
  bool goes_on_ = true;
  std::int64_t last_epoch_ = 0;
  std::optional<std::int64_t> last_update_ = std::nullopt;
  std::int64_t epoch_ = 0;
  double running_total_ = 0.0;
  double running_right_ = 0.0;
  double running_counted_ = 0.0;  ///< how much the rows counted together
  std::optional<Minibatches> batches_ = std::nullopt;
  std::optional<Minibatches::Iterator> next_ = std::nullopt;
  double start_;  ///< when it began
  double judging_seconds_ = 0.0;
  double beside_learning_ = 0.0;  ///< seconds of evaluations and of what the observer does
  double learnt_before_ = 0.0;    ///< seconds of learning up to the last evaluation
  std::int64_t evaluations_ = 0;
  double seconds_before_ = 0.0;
  double judged_before_ = 0.0;
};

/// Adds the L2 term of a network's weights to a loss: the lines `l2` and `total`. The loss itself
/// when the strength is 0. Biases are free of it.
[[nodiscard]] Line add_l2(Worksheet& sheet, const Network& network, const Line& loss,
                          double strength);

}  // namespace lattice
