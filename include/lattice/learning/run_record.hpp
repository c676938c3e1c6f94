#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "lattice/judging/figures.hpp"
#include "lattice/learning/layer_flow.hpp"
#include "lattice/learning/schedule.hpp"
#include "lattice/learning/update_rule.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/text/printing.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// The figures of one epoch: of all rows of the parts, with the weights at its end. The running
/// figures lag behind: each minibatch was evaluated with the weights before its step.
struct EpochFigures {
  std::int64_t epoch = 0;    ///< counted from 1; 0 for the figures before the first update
  std::int64_t updates = 0;  ///< the number of updates by its end
  std::optional<Figures> running = std::nullopt;  ///< mean over the epoch's examples
  std::optional<Figures> train = std::nullopt;    ///< unless `TrainSettings::judge_train` is 0
  std::optional<Figures> validation = std::nullopt;
  std::optional<double> l2_term = std::nullopt;  ///< added to the training loss, if there is one
  double rate = 0.0;                             ///< the learning rate in the epoch
  double seconds = 0.0;                          ///< since the run was started or resumed
  double learning_seconds = 0.0;  ///< in an epoch without evaluations; the mean since the last one
  double judging_seconds = 0.0;   ///< of the evaluation after the epoch

  /// The loss by which epochs are compared: of the validation part, or else of the train part, or
  /// else the running loss. Infinity where there is none of them.
  [[nodiscard]] double watched() const;
};

/// The figures of one step, which is one minibatch and one update.
struct StepFigures {
  std::int64_t step = 0;                          ///< counted from 1, through all epochs
  std::int64_t epoch = 0;                         ///< counted from 1
  Figures minibatch = {};                         ///< before the update
  std::optional<Figures> running = std::nullopt;  ///< mean over the epoch's examples so far

  /// Of all rows of the validation part, or of the train part if there is none, after the update;
  /// on request.
  std::optional<Figures> watched = std::nullopt;
};

/// A change of the learning rate.
struct RateChange {
  std::int64_t epoch = 0;  ///< the first with the new rate
  double before = 0.0;
  double after = 0.0;
};

/// Why a run ended.
enum class Ending : std::uint8_t {
  all_epochs,     ///< every epoch was trained
  all_updates,    ///< the requested number of updates was made
  stopped_early,  ///< the watched loss had no new minimum for long enough
  asked,          ///< on request
  diverged        ///< the loss was NaN or infinite
};

inline constexpr Words<Ending> ending_words = {{Ending::all_epochs, "all epochs"},
                                               {Ending::all_updates, "all updates"},
                                               {Ending::stopped_early, "stopped early"},
                                               {Ending::asked, "asked"},
                                               {Ending::diverged, "diverged"}};

/// `all epochs`, `all updates`, `stopped early`, `asked`, `diverged`.
[[nodiscard]] constexpr std::string_view word(Ending ending) {
  return ending_words.of(ending);
}

/// The weights with the lowest watched loss so far.
struct BestWeights {
  std::int64_t epoch = 0;
  double loss = 0.0;
  Weights weights = {};
};

/// The state for resuming a run with the same bits.
struct RunState {
  UpdateRule rule;       ///< with its memory
  double first_rate;     ///< the rate in epoch 1
  Random row_order;      ///< of the next epoch
  Random chance;         ///< of dropout
  Random augmenting;     ///< of augmentation
  Weights weights = {};  ///< after the last update
};

/// The record of a training run, including every time it was resumed.
struct RunRecord {
  std::vector<EpochFigures> epochs = {};  ///< the first is epoch 0, before any update
  std::vector<StepFigures> steps = {};    ///< on request
  std::vector<RateChange> rate_changes = {};
  std::vector<FlowMoment> flow = {};     ///< activations and gradients by layer, on request
  std::vector<std::int64_t> joins = {};  ///< the epochs after which the run was resumed
  std::int64_t updates = 0;
  Ending ending = Ending::all_epochs;
  bool ends_with_best = false;  ///< whether the network ends with the best weights, not the last
  std::string trouble = {};     ///< where and why, for a run that diverged
  double seconds = 0.0;         ///< in total, including observers
  double waited = 0.0;          ///< seconds of these for minibatches that were not ready
  double judged = 0.0;          ///< seconds of these for evaluations

  /// The number of rows of the train part that are evaluated, unless that is all of them.
  std::optional<std::int64_t> judged_train_rows = std::nullopt;
  std::optional<BestWeights> best = std::nullopt;
  std::optional<RunState> state = std::nullopt;

  [[nodiscard]] std::int64_t last_epoch() const { return epochs.empty() ? 0 : epochs.back().epoch; }

  /// Returns the epoch after which the network had the weights that the run left it with: the best
  /// one where `ends_with_best` says so or the run diverged, and otherwise the last.
  [[nodiscard]] std::int64_t epoch_of_weights() const;

  /// The watched loss before epoch 1 and after each evaluated epoch.
  [[nodiscard]] std::vector<Look> watched() const;
};

template <>
inline constexpr bool detail::is_shown_elsewhere<RunRecord> = true;

}  // namespace lattice
