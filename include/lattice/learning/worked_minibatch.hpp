#pragma once

#include <optional>
#include <string>
#include <vector>

#include "lattice/data/minibatches.hpp"
#include "lattice/judging/loss.hpp"
#include "lattice/learning/training.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/gradient_check.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// What a minibatch is worked with.
struct WorkSettings {
  std::optional<Loss> loss = std::nullopt;  ///< as in `TrainSettings`

  /// How a cross-entropy is written down. In one line it gives the bits of training; in lines of
  /// its steps the same to rounding, and carelessly what the textbook formula gives.
  Form form = Form::one_line;
  double l2 = 0.0;
  std::optional<double> longest_gradient = std::nullopt;

  /// What is done on the worksheet itself; the minibatch holds numbers as they were measured then.
  Preparation preparation = {};
  Preparation target_preparation = {};
};

/// One minibatch worked from the first line to the last update: everything that is shown, in any
/// form, is drawn from this. It gives the bits that a step of training gives (see `WorkSettings`).
class WorkedMinibatch {
 public:
  /// What becomes of a weight, or of a kept number.
  struct Update {
    std::string weight;
    Tensor before;
    Tensor gradient;  ///< empty for a kept number, which gets none
    Tensor after;
  };

  /// Numbers that a rule has for each number of a weight, by name.
  struct RuleFigure {
    std::string name;
    Tensor numbers;  ///< of the weight's shape
  };

  /// Works a minibatch: forward, the whole reverse sweep, one update, and forward again.
  /// @param rule with what it remembers from the updates before
  /// @param chance what dropout draws from
  WorkedMinibatch(Network network, Batch batch, UpdateRule rule, const WorkSettings& settings = {},
                  const Random& chance = Random(1));

  [[nodiscard]] const Batch& batch() const { return batch_; }
  [[nodiscard]] const Worksheet& sheet() const { return sheet_; }

  /// The line that the sweep starts from: the loss, or the total with an L2 term.
  [[nodiscard]] const Line& loss() const { return loss_; }
  [[nodiscard]] const ReverseSweep& sweep() const { return sweep_; }
  [[nodiscard]] const std::vector<ReverseStep>& reverse_steps() const { return steps_; }

  /// The step in which the sweep came past a line; nothing where it did not.
  [[nodiscard]] const ReverseStep* reverse_step_of(const Line& line) const;
  [[nodiscard]] const std::vector<Update>& updates() const { return updates_; }

  /// The rule as it was before the update.
  [[nodiscard]] const UpdateRule& rule() const { return rule_; }
  [[nodiscard]] const Network& network() const { return network_; }

  /// What the gradients were multiplied by to limit their length; 1 when they were not.
  [[nodiscard]] double shrink() const;

  /// How that was worked out; nothing where no limit was set.
  [[nodiscard]] const std::optional<Shrink>& how_shrunk() const { return shrink_; }
  [[nodiscard]] double loss_before() const { return loss_.value().number(); }

  /// What the rule remembered of a weight from the updates before: `m_before`; zeros before the
  /// first.
  [[nodiscard]] std::vector<RuleFigure> remembered(const Update& update) const;

  /// What the rule works out on the way to the new weight: `m`, `v`, `m̂`, `v̂`.
  [[nodiscard]] std::vector<RuleFigure> worked_out(const Update& update) const;

  /// The loss of the same minibatch with the updated weights.
  [[nodiscard]] double loss_after() const { return loss_after_; }

  /// Which of the numbers that belong to a place is asked about.
  enum class Ask { value, gradient, update };

  /// Explains one number. @throws NameError for an unknown name, or where there is no such number;
  /// IndexError for a place outside the line.
  [[nodiscard]] Explanation why(const Place& place, Ask ask) const;
  [[nodiscard]] Explanation why(const Line& line, const Index& at, Ask ask) const;

  /// The same, and the numbers in the explanation explained in turn, `depth` times.
  [[nodiscard]] Chain why(const Place& place, Ask ask, int depth,
                          const Notation& notation = {}) const;

  /// The gradients of this minibatch beside central differences.
  [[nodiscard]] GradientCheck check(const CheckSettings& settings = {}) const;

 private:
  [[nodiscard]] Line write_down(Worksheet& sheet, const Network& network, Random chance) const;

  Network network_;
  Batch batch_;
  UpdateRule rule_;
  WorkSettings settings_;
  Worksheet sheet_;
  Line loss_;
  ReverseSweep sweep_;
  std::vector<ReverseStep> steps_;
  std::vector<Update> updates_;
  std::optional<Shrink> shrink_ = std::nullopt;
  double loss_after_ = 0.0;
};

}  // namespace lattice
