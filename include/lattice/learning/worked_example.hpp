#pragma once

#include <functional>
#include <vector>

#include "lattice/data/minibatches.hpp"
#include "lattice/learning/descent.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/gradient_check.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// How a network writes a batch down, as far as the line of the cost.
using WriteDown = std::function<Line(Worksheet& sheet, const Weights& weights, const Batch& batch)>;

/// One minibatch worked from the first line to the last update: everything that is shown, in any
/// form, is drawn from this.
class WorkedExample {
 public:
  struct Update {
    std::string weight;
    Tensor before;
    Tensor gradient;
    Tensor after;
  };

  /// Works a minibatch: forward, the whole reverse sweep, one update, and forward again.
  WorkedExample(const WriteDown& write_down, const Weights& weights, Batch batch, Descent rule);

  [[nodiscard]] const Batch& batch() const { return batch_; }
  [[nodiscard]] const Worksheet& sheet() const { return sheet_; }
  [[nodiscard]] const Line& cost() const { return cost_; }
  [[nodiscard]] const std::vector<ReverseStep>& reverse_steps() const { return steps_; }
  [[nodiscard]] const std::vector<Update>& updates() const { return updates_; }
  [[nodiscard]] const Descent& rule() const { return rule_; }
  [[nodiscard]] double loss_before() const { return cost_.value().number(); }

  /// The cost of the same minibatch with the updated weights.
  [[nodiscard]] double loss_after() const { return loss_after_; }

  /// Which of the numbers that belong to a place is asked about.
  enum class Ask { value, gradient, update };

  /// Explains one number. @throws NameError for an unknown name, or where there is no such number;
  /// IndexError for a place outside the line.
  [[nodiscard]] Explanation why(const Place& place, Ask ask) const;

  /// The same, and the numbers in the explanation explained in turn, `depth` times.
  [[nodiscard]] Chain why(const Place& place, Ask ask, int depth,
                          const Notation& notation = {}) const;

  /// The gradients of this minibatch beside central differences.
  [[nodiscard]] GradientCheck check(const CheckSettings& settings = {}) const;

 private:
  Batch batch_;
  Descent rule_;
  Worksheet sheet_;
  Line cost_;
  ReverseSweep sweep_;
  std::vector<ReverseStep> steps_;
  std::vector<Update> updates_;
  double loss_after_ = 0.0;
};

}  // namespace lattice
