#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/learning/update_rule.hpp"
#include "lattice/network/weights.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/gradient_check.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// A calculation worked from the first line to the last: its lines, the reverse sweep from one of
/// them and, where something is learnt, the update. Everything that is shown, in any form, is drawn
/// from this.
class WorkedSheet {
 public:
  /// What becomes of a weight, or of a running statistic.
  struct Update {
    std::string weight;
    Tensor before;
    Tensor gradient;  ///< empty for a running statistic, which gets none
    Tensor after;
    double rate_multiplier = 1.0;  ///< it learns at so many times the rate
  };

  /// Numbers that a rule has for each number of a weight, by name.
  struct RuleFigure {
    std::string name;
    Tensor numbers;  ///< of the weight's shape
  };

  /// Works the whole reverse sweep from one line of a worksheet.
  /// @param rows the rows of data that it is about, where there are some
  /// @throws as `ReverseSweep` does; SettingError for more lines than anybody could go through.
  WorkedSheet(Worksheet sheet, const Line& result, Batch rows = {});

  [[nodiscard]] const Batch& batch() const { return batch_; }
  [[nodiscard]] const Worksheet& sheet() const { return sheet_; }

  /// The line that the sweep starts from: the loss, or the total with an L2 term; a score.
  [[nodiscard]] const Line& result() const { return sweep_.result(); }
  [[nodiscard]] const ReverseSweep& sweep() const { return sweep_; }
  [[nodiscard]] const std::vector<ReverseStep>& reverse_steps() const { return steps_; }

  /// The step in which the sweep came past a line; nothing where it did not.
  [[nodiscard]] const ReverseStep* reverse_step_of(const Line& line) const;

  /// What a rule makes of the weights; empty where nothing is learnt.
  [[nodiscard]] const std::vector<Update>& updates() const { return updates_; }

  /// The rule as it was before the update; nothing where nothing is learnt.
  [[nodiscard]] const std::optional<UpdateRule>& rule() const { return rule_; }

  /// What the gradients were multiplied by to limit their length; 1 when they were not.
  [[nodiscard]] double clip_factor() const;

  /// How that was worked out; nothing where no limit was set.
  [[nodiscard]] const std::optional<Clipping>& clipping() const { return clipping_; }

  /// The result, and what it is with the updated weights; nothing where nothing is learnt.
  [[nodiscard]] double result_before() const { return result().value().number(); }
  [[nodiscard]] std::optional<double> result_after() const { return result_after_; }

  /// Where the first number arose that is NaN or infinite, when the same was worked again with the
  /// new weights: `z[3,0] on line 5, dense, became ∞`; empty where none did.
  [[nodiscard]] const std::string& alarm_after() const { return alarm_after_; }

  /// What the rule remembered of a weight from the updates before: `m_before`; zeros before the
  /// first.
  [[nodiscard]] std::vector<RuleFigure> remembered(const Update& update) const;

  /// What the rule works out on the way to the new weight: `m`, `v`, `m̂`, `v̂`.
  [[nodiscard]] std::vector<RuleFigure> worked_out(const Update& update) const;

  /// Which of the numbers that belong to a place is asked about.
  enum class Ask { value, gradient, update };

  /// Explains one number. @throws NameError for an unknown name, or where there is no such number;
  /// IndexError for a place outside the line.
  [[nodiscard]] Explanation why(const Place& place, Ask ask) const;
  [[nodiscard]] Explanation why(const Line& line, const Index& at, Ask ask) const;

  /// The same, and the numbers in the explanation explained in turn, `depth` times.
  [[nodiscard]] Chain why(const Place& place, Ask ask, int depth,
                          const Notation& notation = {}) const;

  /// The gradients beside central differences.
  [[nodiscard]] GradientCheck check(const CheckSettings& settings = {}) const;

 protected:
  /// The same of lines that are still to be written: `write` gives the one to sweep from.
  WorkedSheet(const std::function<Line(Worksheet& sheet)>& write, Batch rows);

  /// Works one update of the weights of the sheet, and gives them back updated.
  /// @param rule with what it remembers from the updates before
  [[nodiscard]] Weights learn(const UpdateRule& rule, const Weights& weights,
                              std::optional<double> clip_norm);

  /// Takes what came out on a worksheet where the same was worked again.
  void take_result_after(const Line& result, const Worksheet& again);

 private:
  void sweep_all();

  Batch batch_;
  Worksheet sheet_;
  ReverseSweep sweep_;
  std::vector<ReverseStep> steps_;
  std::optional<UpdateRule> rule_ = std::nullopt;
  Weights weights_ = {};  ///< before the update
  std::vector<Update> updates_;
  std::optional<Clipping> clipping_ = std::nullopt;
  std::optional<double> result_after_ = std::nullopt;
  std::string alarm_after_ = {};
};

}  // namespace lattice
