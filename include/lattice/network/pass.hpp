#pragma once

#include <cstddef>
#include <string>
#include <string_view>

#include "lattice/network/weights.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

class Layer;

/// The phase of a forward pass. Some layers behave differently in training.
class Phase {
 public:
  /// Evaluation: nothing is random.
  [[nodiscard]] static Phase in_use() { return Phase(false, nullptr); }

  /// Training; dropout draws from `random`.
  [[nodiscard]] static Phase training(Random& random) { return Phase(true, &random); }

  /// The same with layers written in another form: `Form::written_out` in primitive lines.
  [[nodiscard]] Phase written(Form form) const {
    Phase phase = *this;
    phase.form_ = form;
    return phase;
  }

  [[nodiscard]] bool is_training() const { return is_training_; }
  [[nodiscard]] Random* random() const { return random_; }
  [[nodiscard]] Form form() const { return form_; }

 private:
  Phase(bool is_training, Random* random) : is_training_(is_training), random_(random) {}

  bool is_training_;
  Random* random_;
  Form form_ = Form::one_line;
};

/// A forward pass as seen by a layer: the worksheet, and the weights of the layer by their short
/// names.
class Pass {
 public:
  Pass(Worksheet& sheet, const Weights& weights, Phase phase)
      : sheet_(&sheet), weights_(&weights), phase_(phase) {}

  [[nodiscard]] Worksheet& sheet() const { return *sheet_; }
  [[nodiscard]] const Phase& phase() const { return phase_; }

  /// The name of the layer in its network: `hidden`.
  [[nodiscard]] const std::string& name() const { return name_; }

  /// Writes a weight of the layer on the worksheet: `weight("bias")` is `hidden.bias` there. A
  /// running statistic has its value before the step.
  [[nodiscard]] Line weight(std::string_view name);

  /// Sets the value of a running statistic after the next update (`Worksheet::set_next`).
  ///
  /// @code
  /// const Line running = pass.weight("mean");
  /// pass.set_next("mean", 0.9 * running + 0.1 * mean(x, {.axes = {0}}));
  /// @endcode
  /// @throws NameError when the layer has no such running statistic, ShapeError when `next` has
  ///         another shape.
  void set_next(std::string_view name, const Line& next);

  /// A side input by its name, such as the connections of rows or the row weights.
  /// @throws NameError when the worksheet has no such line; `remedy` says how to give it.
  [[nodiscard]] Line side(
      std::string_view name,
      std::string_view remedy = "data.side.push_back({.name = …, .value = …})") const;

  /// Writes data of the layer on the worksheet, under its name: `hidden.one`.
  Line given(std::string_view name, Tensor value) const;

  /// The forward pass of a layer inside this one; its result gets a name.
  Line through(const Layer& layer, const std::string& name, const Line& x);

 private:
  [[nodiscard]] std::string full(std::string_view name) const;
  [[nodiscard]] const Weight& find(std::string_view name);

  Worksheet* sheet_;
  const Weights* weights_;
  Phase phase_;
  std::string name_ = {};
  std::size_t next_ = 0;  ///< the position of the weight that is probably next
};

}  // namespace lattice
