#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// How one number changes with each weight: a tensor of the weight's shape for every weight of the
/// worksheet that it depends on.
class Gradients {
 public:
  struct Entry {
    Entry(std::string weight_, Tensor gradient_)
        : weight(std::move(weight_)), gradient(std::move(gradient_)) {}

    std::string weight;
    Tensor gradient;
  };

  /// The gradient by the name of the weight.
  /// @throws NameError when there is none, saying which there are.
  [[nodiscard]] const Tensor& operator[](std::string_view weight) const;

  /// The gradient by the weight's line. @throws NameError when it is not a weight, or the result of
  /// the sweep does not depend on it.
  [[nodiscard]] const Tensor& operator[](const Line& weight) const;

  [[nodiscard]] auto begin() const { return entries_.begin(); }
  [[nodiscard]] auto end() const { return entries_.end(); }
  [[nodiscard]] std::size_t size() const { return entries_.size(); }

 private:
  friend Gradients reverse_sweep(const Line& result);

  std::vector<Entry> entries_;
};

/// All gradients of one number, in one call. A weight that is used in several places gets the sum
/// of what comes back from each.
/// @throws ShapeError when the line holds more than one number, NameError when it depends on no
///         weight, LineError when it is dead.
[[nodiscard]] Gradients reverse_sweep(const Line& result);

/// What happens at one line of the reverse sweep.
struct ReverseStep {
  /// What the line passes on to one of its inputs.
  struct PassedOn {
    Line to;
    std::size_t input = 0;  ///< which input of the line that is, from 0
    Tensor contribution;    ///< of the shape of `to`
  };

  Line line;
  Tensor arrived;                   ///< the whole gradient at this line, every use summed up
  std::vector<PassedOn> passed_on;  ///< empty at a weight: there the sweep ends
};

/// The walk from the last line back to the first, one line at a time. Lines that the result does
/// not depend on, or that depend on no weight, are passed over.
///
/// @code
/// ReverseSweep sweep(cost);
/// while (sweep.next()) show(sweep.step());
/// Tensor dW = sweep.gradient(W);
/// @endcode
class ReverseSweep {
 public:
  /// Stands in front of the first step; nothing is computed yet.
  /// @throws as `reverse_sweep` does.
  explicit ReverseSweep(const Line& result);

  /// Goes one line back. False when no line is left.
  bool next();

  /// The step that `next` took. @throws LineError before the first.
  [[nodiscard]] const ReverseStep& step() const;

  /// The line whose gradients are asked for.
  [[nodiscard]] const Line& result() const { return result_; }

  /// True when something has arrived at a line.
  [[nodiscard]] bool has_reached(const Line& line) const;

  /// How the result changes with each number of a line, of that line's shape.
  /// @throws LineError when the sweep has not come to the line yet, NameError when nothing arrives
  ///         there: it is data, or the result does not depend on it.
  [[nodiscard]] const Tensor& gradient(const Line& line) const;

 private:
  Line result_;
  std::uint32_t next_;  ///< lines before this position are still to come
  std::vector<Tensor> arrived_;
  ReverseStep step_;
};

}  // namespace lattice
