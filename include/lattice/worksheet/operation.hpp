#pragma once

#include <bitset>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/tensor.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/formula.hpp"

namespace lattice {

/// The largest number of inputs of an operation.
inline constexpr std::size_t most_inputs = 8;

/// Some of the inputs of an operation.
using InputSet = std::bitset<most_inputs>;

/// The inputs of an operation: tensors and, for messages, their names.
class Inputs {
 public:
  /// Finds the name of an input when a message needs one.
  class Names {
   public:
    [[nodiscard]] virtual std::string name(std::size_t input) const = 0;

   protected:
    ~Names() = default;
  };

  explicit Inputs(std::span<const Tensor* const> tensors, const Names* names = nullptr)
      : tensors_(tensors), names_(names) {}

  [[nodiscard]] std::size_t size() const { return tensors_.size(); }
  [[nodiscard]] const Tensor& operator[](std::size_t input) const { return *tensors_[input]; }
  [[nodiscard]] const Shape& shape(std::size_t input) const { return tensors_[input]->shape(); }

  /// The line's name, or `the first`, `the second` … for tensors without one.
  [[nodiscard]] std::string name(std::size_t input) const;

  /// Name and shape: `x [example 16 × feature 3]`.
  [[nodiscard]] std::string describe(std::size_t input) const;

  /// The same after its role in the operation: `the bias b [4]`; for a tensor without a name
  /// `the bias [4]`.
  [[nodiscard]] std::string describe(std::string_view what, std::size_t input) const;

  /// One number: `b[1]`; for a tensor without a name `row 1 of the second`, or `[1,0] of it`.
  [[nodiscard]] std::string place(std::size_t input, const Index& at) const;

 private:
  std::span<const Tensor* const> tensors_;
  const Names* names_;
};

/// One step of the reverse sweep, as passed to the reverse kernel of an operation.
struct BackwardStep {
  static inline const Tensor nothing = {};

  const Inputs& inputs;
  const Tensor& result;           ///< of the forward kernel
  const Tensor& gradient;         ///< the gradient of the result; of the result's shape
  const Tensor& aside = nothing;  ///< what `forward_with_aside` kept; empty where it kept nothing
};

/// The formulas of the numbers around an operation.
class Cells {
 public:
  [[nodiscard]] virtual const Shape& shape(std::size_t input) const = 0;
  [[nodiscard]] virtual const Shape& result_shape() const = 0;
  [[nodiscard]] virtual Formula input(std::size_t input, const Index& at) const = 0;
  [[nodiscard]] virtual Formula result(const Index& at) const = 0;
  [[nodiscard]] virtual Formula gradient(const Index& at) const = 0;

  /// The number of a line with the softmax of an input along an axis, where one was written down
  /// before: what is made of both is easier to follow by it.
  [[nodiscard]] virtual std::optional<Formula> softmax(std::size_t input, int axis,
                                                       const Index& at) const = 0;

  /// The same for the sigmoid of an input.
  [[nodiscard]] virtual std::optional<Formula> sigmoid(std::size_t input,
                                                       const Index& at) const = 0;

  /// The positions along an axis of an input that are stored (`stored_along`): the others are 0,
  /// and sums can skip them.
  [[nodiscard]] virtual std::vector<std::int64_t> stored(std::size_t input, int axis,
                                                         std::int64_t place) const = 0;

  /// The one of several formulas whose number, from 0, `which` gives: of formulas that hold for any
  /// numbers (`Holds`) all of them to pick from, else that one.
  [[nodiscard]] virtual Formula picked(
      const Formula& which, std::int64_t count,
      const std::function<Formula(std::int64_t option)>& option) const = 0;

  /// Whether formulas are wanted that hold for any numbers of the lines.
  [[nodiscard]] virtual bool hold_for_any() const = 0;

  /// A formula that several numbers share, such as the total of their row, written once for all
  /// that are explained together.
  /// @param which distinguishes the shared formulas of an operation
  /// @param at the same for all numbers that share it
  [[nodiscard]] virtual Formula in_common(int which, const Index& at,
                                          const std::function<Formula()>& write) const = 0;

 protected:
  ~Cells() = default;
};

/// The names of the lines around an operation, for writing it in symbols.
struct Symbols {
  std::vector<std::string> inputs = {};
  std::vector<Shape> shapes = {};  ///< of the inputs
  std::string result;
  Shape result_shape;

  /// For a sheet (`sheet_text`): then `Operation::symbols` gives what is read back as the very same
  /// operation, with all digits, and not what is nicest to read.
  bool are_typed = false;

  [[nodiscard]] std::string number(double number) const {
    return format_number(number, are_typed ? all_digits : usual_digits);
  }
};

/// How an operation passes what arrives on to one of its inputs: what its local derivative looks
/// like when it is shown in numbers (`local_derivative`).
struct Passing {
  enum class Kind : std::uint8_t {
    mixed,             ///< in another way; of one number, a factor for each number of the input
    number_by_number,  ///< each number that arrives, times one of its own; then summed over what
                       ///< was stretched
    shared_out,        ///< to each number of the input one that arrives, times one of its own
    as_it_is,          ///< what arrives, summed over what was stretched
    matrix,            ///< a matrix product with another input
    across,            ///< what arrives along an axis, by a matrix of its own for each such row
    window             ///< under each place of a window, times the numbers of another input
  };

  Kind kind = Kind::mixed;
  std::size_t factor = 0;      ///< the other input of a matrix product or a window
  bool is_transposed = false;  ///< whether that is transposed for it
  int axis = 0;                ///< along which what arrives is multiplied by a matrix
};

/// The facts about an operation that losses, remarks and others need.
struct OperationNature {
  bool makes_probabilities = false;                 ///< between 0 and 1; tiny ones are rounded to 0
  std::optional<int> softmax_along = std::nullopt;  ///< gives the softmax of its input, along this
  bool is_sigmoid = false;                          ///< gives the sigmoid of its input

  /// How it is worked, if `element` tells it by probabilities on a line above and not as it is.
  std::string_view worked_as = {};
  bool takes_scores = false;          ///< turns its first input into probabilities itself
  bool has_no_value_at_zero = false;  ///< −∞ there, such as a logarithm
  bool is_own = false;                ///< defined by a program, and known to no sheet
  bool multiplies_numbers = false;    ///< of two tensors, one by one: not a matrix product
  bool rearranges = false;            ///< gives the numbers of its input in another shape
  bool multiplies_rows =
      false;  ///< x·weight: a row of the second input for each column of the first

  /// Which terms the formula of a number has, and from where, follows from its position along each
  /// axis by itself, never from two of them together; so does what it passes on. Formulas along
  /// each axis then tell those of all numbers.
  bool goes_by_axis = false;

  /// What its result is called where that has no name, if not by its word: `difference`.
  std::string_view gives = {};
};

/// The contract of every operation. Everything about an operation is stated here, once: nothing
/// else in the library knows an operation by name.
///
/// An operation is a small final class with trivially destructible members (an axis, a number) and
/// no state that changes. A new one is one class and one line in the list of operations that the
/// property tests run over.
class Operation {
 public:
  /// Its word: `matmul`, `half mean squared`.
  [[nodiscard]] virtual std::string_view name() const = 0;

  [[nodiscard]] virtual OperationNature nature() const { return {}; }

  /// The shape of the result, with the roles of its axes.
  /// @throws ShapeError that names the inputs when their shapes do not fit.
  [[nodiscard]] virtual Shape shape(const Inputs& inputs) const = 0;

  /// False for an input that never gets a gradient: class numbers, masks.
  /// `reverse`, `reverse_element` and `reverse_symbols` are then never asked about it.
  [[nodiscard]] virtual bool passes_back(std::size_t input) const {
    static_cast<void>(input);
    return true;
  }

  /// False for an input that its formulas are written for: with other numbers there, such as by how
  /// much a picture is rotated, they would be others. Formulas hold for any numbers of the rest.
  [[nodiscard]] virtual bool holds_for_any(std::size_t input) const {
    static_cast<void>(input);
    return true;
  }

  /// How many things the numbers of an input choose between, such as classes: they are whole
  /// numbers below that. 0 for other numbers.
  [[nodiscard]] virtual std::int64_t choices(const Inputs& inputs, std::size_t input) const {
    static_cast<void>(inputs);
    static_cast<void>(input);
    return 0;
  }

  /// How `reverse` passes on to an input.
  [[nodiscard]] virtual Passing passing(std::size_t input) const {
    static_cast<void>(input);
    return {};
  }

  /// The result, of the shape given by `shape`.
  [[nodiscard]] virtual Tensor forward(const Inputs& inputs, const Shape& shape) const = 0;

  /// The same for a line that the reverse sweep may come to: in `aside` it may keep numbers that it
  /// worked on the way and that `reverse` would have to work again. They make no difference but to
  /// the time.
  [[nodiscard]] virtual Tensor forward_with_aside(const Inputs& inputs, const Shape& shape,
                                                  Tensor& aside) const {
    static_cast<void>(aside);
    return forward(inputs, shape);
  }

  /// The contribution to the gradient of one input: the gradient of the result times the local
  /// derivative, summed over all uses of each number. Of that input's shape.
  [[nodiscard]] virtual Tensor reverse(const BackwardStep& step, std::size_t input) const = 0;

  /// The same for several inputs in one call, for operations that can share work between them.
  /// @param wanted which inputs; their contributions go to their positions in `passed_on`
  virtual void reverse_to_all(const BackwardStep& step, const InputSet& wanted,
                              std::span<Tensor> passed_on) const {
    for (std::size_t input = 0; input < step.inputs.size(); ++input) {
      if (wanted.test(input)) passed_on[input] = reverse(step, input);
    }
  }

  /// The formula of one number of the result.
  [[nodiscard]] virtual Formula element(const Cells& cells, const Index& at) const = 0;

  /// The formula of one number of the contribution to an input.
  [[nodiscard]] virtual Formula reverse_element(const Cells& cells, std::size_t input,
                                                const Index& at) const = 0;

  /// The operation in symbols: `x·W`. For a sheet, where other operations are written alike, as a
  /// function: `dense(x, W, b)`.
  [[nodiscard]] virtual std::string symbols(const Symbols& symbols) const = 0;

  /// The contribution to one input, in symbols: `xᵀ·∂z`.
  [[nodiscard]] virtual std::string reverse_symbols(const Symbols& symbols,
                                                    std::size_t input) const = 0;

 protected:
  Operation() = default;
  Operation(const Operation&) = default;
  Operation& operator=(const Operation&) = default;
  ~Operation() = default;
};

/// An operation that passes no gradient on to any of its inputs: a comparison, a choice.
template <class Base = Operation>
class WithoutGradient : public Base {
 public:
  using Base::Base;

  [[nodiscard]] bool passes_back(std::size_t) const final { return false; }
  [[nodiscard]] Tensor reverse(const BackwardStep&, std::size_t) const final { return {}; }
  [[nodiscard]] Formula reverse_element(const Cells&, std::size_t, const Index&) const final {
    return 0.0;
  }
  [[nodiscard]] std::string reverse_symbols(const Symbols&, std::size_t) const final { return ""; }

 protected:
  ~WithoutGradient() = default;
};

/// Applies an operation to tensors, without recording it.
/// @param aside for `forward_with_aside`; null where no reverse sweep follows
/// @throws NumberError when an input is empty or the precisions differ, ShapeError when the shapes
///         do not fit.
[[nodiscard]] Tensor calculate(const Operation& operation, const Inputs& inputs,
                               Tensor* aside = nullptr);

}  // namespace lattice
