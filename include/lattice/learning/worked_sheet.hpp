#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/learning/update_rule.hpp"
#include "lattice/network/weights.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/gradient_check.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {

/// A calculation worked from the first line to the last: its lines, the reverse sweep from one of
/// them and, in training, the update. Every form of output shows this.
class WorkedSheet {
 public:
  /// The update of a weight, or of a running statistic.
  struct Update {
    std::string weight;
    Tensor before;
    Tensor gradient;  ///< empty for a running statistic
    Tensor after;
    double rate_multiplier = 1.0;  ///< of its learning rate
  };

  /// Numbers of a rule for each number of a weight, by name.
  struct RuleFigure {
    std::string name;
    Tensor numbers;  ///< of the weight's shape
  };

  /// Works the whole reverse sweep from one line of a worksheet. Where that is not one number, or
  /// made of data alone, there is none.
  /// @param rows the rows of data, if there are any
  /// @throws SettingError for too many lines.
  WorkedSheet(Worksheet sheet, const Line& result, Batch rows = {});

  /// The same, one update of its weights, and the result with the updated ones.
  /// @param rule with its memory of earlier updates
  /// @throws as `ReverseSweep` does for the result.
  WorkedSheet(Worksheet sheet, const Line& result, const UpdateRule& rule,
              std::optional<double> clip_norm = std::nullopt, Batch rows = {});

  [[nodiscard]] const Batch& batch() const { return batch_; }
  [[nodiscard]] const Worksheet& sheet() const { return sheet_; }

  /// The line that the sweep starts from: the loss, or the total with an L2 term; a score.
  [[nodiscard]] const Line& result() const { return result_; }

  [[nodiscard]] bool has_sweep() const { return sweep_.has_value(); }

  /// @throws as `ReverseSweep` does for the result, where there is no sweep.
  [[nodiscard]] const ReverseSweep& sweep() const;
  [[nodiscard]] const std::vector<ReverseStep>& reverse_steps() const { return steps_; }

  /// The step in which the sweep passed a line; nothing if it did not.
  [[nodiscard]] const ReverseStep* reverse_step_of(const Line& line) const;

  /// The updates; empty without training.
  [[nodiscard]] const std::vector<Update>& updates() const { return updates_; }

  /// The rule before the update; nothing without training.
  [[nodiscard]] const std::optional<UpdateRule>& rule() const { return rule_; }

  /// The clip factor of the gradients; 1 if they were not clipped.
  [[nodiscard]] double clip_factor() const;

  /// How that was calculated; nothing without clipping.
  [[nodiscard]] const std::optional<Clipping>& clipping() const { return clipping_; }

  /// The result, if it is one number; and with the updated weights, nothing without training.
  [[nodiscard]] double result_before() const { return result().value().number(); }
  [[nodiscard]] std::optional<double> result_after() const { return result_after_; }

  /// The origin of the first NaN or infinity with the updated weights:
  /// `z[3,0] on line 5, dense, became ∞`; empty if all numbers are finite.
  [[nodiscard]] const std::string& alarm_after() const { return alarm_after_; }

  /// The memory of the rule for a weight before the update: `m_before`; zeros before the first.
  [[nodiscard]] std::vector<RuleFigure> remembered(const Update& update) const;

  /// The intermediate results of the rule: `m`, `v`, `m̂`, `v̂`.
  [[nodiscard]] std::vector<RuleFigure> worked_out(const Update& update) const;

  /// The kind of number of an element: its value, gradient, update and so on.
  enum class Ask { value, gradient, update };

  /// A number as every form calls it: `z[4,0]`, its gradient `∂z[4,0]`, a weight after the update,
  /// `new W[1,0]`.
  struct Asked {
    Place place;
    Ask ask = Ask::value;
  };
  /// @throws as `parse_place` does.
  [[nodiscard]] static Asked parse_asked(std::string_view text);

  /// Explains one number. @throws NameError for an unknown name, or if there is no such number;
  /// IndexError for an index outside the line.
  [[nodiscard]] Explanation why(const Place& place, Ask ask,
                                Told told = Told::by_probabilities) const;
  [[nodiscard]] Explanation why(const Line& line, const Index& at, Ask ask,
                                Told told = Told::by_probabilities) const;

  /// The same, and the numbers in the explanation explained in turn, `depth` times.
  [[nodiscard]] Chain why(const Place& place, Ask ask, int depth, const Notation& notation = {},
                          Told told = Told::by_probabilities) const;

  /// The gradients compared with central differences.
  [[nodiscard]] GradientCheck check(const CheckSettings& settings = {}) const;

 protected:
  /// The same for lines that `write` adds; it returns the line to start the sweep from.
  WorkedSheet(const std::function<Line(Worksheet& sheet)>& write, Batch rows);

  /// Works one update of the weights of the sheet, and returns the updated weights.
  /// @param rule with its memory of earlier updates
  [[nodiscard]] Weights learn(const UpdateRule& rule, const Weights& weights,
                              std::optional<double> clip_norm);

  /// Stores the results of the repeated calculation.
  void take_result_after(const Line& result, const Worksheet& again);

 private:
  void sweep_all(const Line& result);
  [[nodiscard]] BeforeUpdate before_update(const Line& line, const Update& update) const;

  Batch batch_;
  Worksheet sheet_;
  Line result_;
  std::optional<ReverseSweep> sweep_;
  std::vector<ReverseStep> steps_;
  std::optional<UpdateRule> rule_ = std::nullopt;
  Weights weights_ = {};  ///< before the update
  std::vector<Update> updates_;
  std::optional<Clipping> clipping_ = std::nullopt;
  std::optional<double> result_after_ = std::nullopt;
  std::string alarm_after_ = {};
};

}  // namespace lattice
