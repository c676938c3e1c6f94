#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

class Gradients;

namespace detail {

/// All gradients from a line on whose own gradient fits it.
[[nodiscard]] Gradients swept(const Line& result, Tensor seed);

}  // namespace detail

/// The derivatives of one number with respect to every weight that it depends on, each a tensor of
/// the weight's shape. Gradients of data that is asked about are found by name or line too, but
/// update rules ignore them.
class Gradients {
 public:
  struct Entry {
    Entry(std::string_view weight_, Tensor gradient_)
        : weight(weight_), gradient(std::move(gradient_)) {}

    std::string weight;
    Tensor gradient;
  };

  /// The gradient by the name of the weight.
  /// @throws NameError that lists those there are.
  [[nodiscard]] const Tensor& operator[](std::string_view weight) const;

  /// The gradient by the weight's line. @throws NameError when it is neither a weight nor data that
  /// is asked about, or when the result does not depend on it.
  [[nodiscard]] const Tensor& operator[](const Line& weight) const;

  [[nodiscard]] auto begin() const { return entries_.begin(); }
  [[nodiscard]] auto end() const { return entries_.end(); }
  [[nodiscard]] auto begin() { return entries_.begin(); }
  [[nodiscard]] auto end() { return entries_.end(); }
  [[nodiscard]] std::size_t size() const { return entries_.size(); }

  /// A running statistic and its value after the next update.
  struct Next {
    std::string name;
    Tensor value;
  };

  /// The next values of the running statistics (`Worksheet::set_next`).
  [[nodiscard]] const std::vector<Next>& running() const { return running_; }

 private:
  friend class ReverseSweep;
  friend Gradients detail::swept(const Line& result, Tensor seed);

  void add(Line::Kind kind, std::string_view name, Tensor gradient);

  std::vector<Entry> entries_;
  std::vector<Entry> asked_;
  std::vector<Next> running_;
};

/// All gradients of one number, in one call. A weight that is used in several places gets the sum
/// over its uses.
/// @throws ShapeError when the line holds more than one number, NameError when it depends on no
///         weight, LineError when it is dead.
[[nodiscard]] Gradients reverse_sweep(const Line& result);

/// The same from any line with a given gradient `seed`: the derivatives of Σ seed·result.
/// @throws ShapeError when seed and result differ in shape, NumberError when they differ in
///         precision.
[[nodiscard]] Gradients reverse_sweep(const Line& result, Tensor seed);

/// What happens at one line of the reverse sweep.
struct ReverseStep {
  /// What the line passes on to one of its inputs.
  struct PassedOn {
    Line to;
    std::size_t input = 0;  ///< its position among the inputs of the line, from 0
    Tensor contribution;    ///< of the shape of `to`
  };

  Line line;
  Tensor gradient;                  ///< the gradient of this line, summed over its uses
  std::vector<PassedOn> passed_on;  ///< empty at a weight: there the sweep ends
};

/// The walk from the last line back to the first, one line at a time, and forward again. Lines that
/// the result does not depend on, or without a gradient, are skipped.
///
/// @code
/// ReverseSweep sweep(cost);
/// while (sweep.next()) show(sweep.step());
/// Tensor dW = sweep.gradient(W);
/// @endcode
class ReverseSweep {
 public:
  /// Before the first step; nothing is computed yet.
  /// @throws as `reverse_sweep` does.
  explicit ReverseSweep(const Line& result);
  ReverseSweep(const Line& result, Tensor seed);

  /// Goes one line back. False when no line is left.
  bool next();

  /// Undoes the last step, as if `next` had not been called. False when there is none to undo.
  bool previous();

  /// The last step. @throws LineError before the first.
  [[nodiscard]] const ReverseStep& step() const;

  /// The line whose gradients are computed.
  [[nodiscard]] const Line& result() const { return result_; }

  /// The line of the swept worksheet with a number from 1, or with a name.
  /// @throws IndexError, NameError as `Worksheet::line` does.
  [[nodiscard]] Line line(std::size_t number) const;
  [[nodiscard]] Line line(std::string_view name) const;

  /// Whether a line has a gradient.
  [[nodiscard]] bool has_reached(const Line& line) const;

  /// The derivative of the result with respect to each number of a line, of that line's shape.
  /// @throws LineError when the sweep has not reached the line yet, NameError when it has no
  ///         gradient: it is data, or the result does not depend on it.
  [[nodiscard]] const Tensor& gradient(const Line& line) const;

  /// The same by the line's name.
  [[nodiscard]] const Tensor& gradient(std::string_view name) const;

  /// The gradients of all weights after the last step, as `reverse_sweep` returns them.
  /// @throws LineError when it is not over yet.
  [[nodiscard]] Gradients gradients() const;

 private:
  /// A step, and the state to undo it.
  struct Taken {
    ReverseStep step;
    std::uint32_t next;            ///< as it was before
    std::vector<Tensor> gradient;  ///< before it, at each line that the step passed something on to
  };

  Line result_;
  std::uint32_t next_;  ///< lines before this position are still to come
  std::vector<Tensor> gradients_;
  std::vector<Taken> taken_;
};

/// `∂W`, its shape and its numbers, weight by weight.
[[nodiscard]] std::string to_string(const Gradients& gradients);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Gradients> : lattice::detail::Printed<lattice::Gradients> {};
