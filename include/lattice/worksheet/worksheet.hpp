#pragma once

#include <array>
#include <concepts>
#include <cstdint>
#include <functional>
#include <new>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "lattice/tensor/tensor.hpp"
#include "lattice/worksheet/operation.hpp"

namespace lattice {

class Worksheet;
class WorksheetRecord;

/// One entry of a worksheet: a tensor that remembers how it was made.
///
/// A line is a light handle. It may outlive its worksheet; using it then is a LineError.
class Line {
 public:
  enum class Kind : std::uint8_t {
    given,      ///< data: gets no gradient
    asked,      ///< data whose gradient is wanted: gets a gradient, but no update
    weight,     ///< trained: gets a gradient
    frozen,     ///< a weight that is not trained: gets no gradient
    running,    ///< changes in training but is not learnt: gets no gradient
    calculated  ///< made from other lines
  };

  /// A line of no worksheet; using it is a LineError.
  Line() = default;

  /// Its place in the worksheet, counted from 1 in the order of calculation.
  [[nodiscard]] std::size_t number() const;

  /// Its name, or words that describe it; `#5` for line 5 when it was given neither.
  [[nodiscard]] std::string name() const;

  /// Whether it was given a name. Formulas write out lines without one.
  [[nodiscard]] bool has_name() const;

  [[nodiscard]] Kind kind() const;

  /// The section that was open when the line was written; may be empty.
  [[nodiscard]] const std::string& section() const;

  [[nodiscard]] const Shape& shape() const;
  [[nodiscard]] const Tensor& value() const;

  /// `given`, `given, and asked about`, `weight`, `frozen weight`, `running statistic`, or the
  /// operation's word: `matmul`.
  [[nodiscard]] std::string_view operation() const;

  /// The facts about its operation; for given lines and weights, none.
  [[nodiscard]] OperationNature nature() const;

  /// The operation in symbols: `x·W`; empty for given lines and weights.
  [[nodiscard]] std::string symbols() const;

  /// What the reverse sweep passes on to one of the inputs, in symbols: `xᵀ·∂z`.
  /// @throws IndexError when there is no such input.
  [[nodiscard]] std::string reverse_symbols(std::size_t input) const;

  [[nodiscard]] std::vector<Line> inputs() const;

  /// The lines that have it as an input.
  [[nodiscard]] std::vector<Line> uses() const;

  /// The line with the next value of a running statistic; nothing where none was set, and for any
  /// other line.
  [[nodiscard]] std::optional<Line> next() const;

  /// Whether it is, or was calculated from, a line that gets a gradient: a weight, or data that is
  /// asked about.
  [[nodiscard]] bool is_swept() const;

  friend bool operator==(const Line&, const Line&) = default;

 private:
  friend class Worksheet;
  friend class WorksheetRecord;

  Line(WorksheetRecord* record, std::uint32_t position, std::uint64_t generation)
      : record_(record), generation_(generation), position_(position) {}

  WorksheetRecord* record_ = nullptr;
  std::uint64_t generation_ = 0;
  std::uint32_t position_ = 0;
};

/// True for a trained or frozen weight and for a running statistic: for everything that is neither
/// data nor calculated.
[[nodiscard]] constexpr bool is_weight(Line::Kind kind) {
  return kind == Line::Kind::weight || kind == Line::Kind::frozen || kind == Line::Kind::running;
}

/// The record of a calculation: numbered lines in the order of calculation.
///
/// @code
/// Worksheet sheet;
/// Line x = sheet.given("x", {{1, 2}});
/// Line W = sheet.weight("W", {{3}, {4}});
/// Line z = named("z", matmul(x, W));   // 11, and z knows how it was made
/// @endcode
///
/// A worksheet's memory is reused by the next worksheet of the thread, so that one for each
/// minibatch is cheap.
class Worksheet {
 public:
  Worksheet();
  Worksheet(Worksheet&& other) noexcept : record_(std::exchange(other.record_, nullptr)) {}
  Worksheet& operator=(Worksheet&& other) noexcept {
    std::swap(record_, other.record_);
    return *this;
  }
  Worksheet(const Worksheet&) = delete;
  Worksheet& operator=(const Worksheet&) = delete;
  ~Worksheet();

  /// Adds data. It gets no gradient. Numbers in braces, `sheet.given("x", {{1, 2}})`, are a tensor,
  /// here and for weights.
  Line given(std::string_view name, Tensor value);
  Line given(std::string_view name, const Nested& numbers) { return given(name, tensor(numbers)); }

  /// Adds data without a name.
  Line given(Tensor value);

  /// Adds data whose gradient is wanted: it gets one, as a weight does, but no update changes it.
  ///
  /// @code
  /// const Line record = sheet.asked("record", tensor({{2.1, 45, 0.5, 60, 1250}}));
  /// const Line score = sum(net.forward(sheet, record));
  /// const Tensor by_feature = reverse_sweep(score)[record];
  /// @endcode
  Line asked(std::string_view name, Tensor value);

  /// Adds a trained tensor. The axis of a row of numbers, a bias, is of units if it has no role;
  /// those of a matrix follow from what it is multiplied with: features, or the units of another
  /// layer, by units.
  ///
  /// A name is one line: adding a weight again returns the existing line, so that the gradients of
  /// all its uses add up.
  /// @throws NameError when the name belongs to a weight with other numbers, or to a frozen one.
  Line weight(std::string_view name, Tensor value);
  Line weight(std::string_view name, const Nested& numbers) {
    return weight(name, tensor(numbers));
  }

  /// Refuses a line in the place of its numbers.
  template <std::same_as<Line> L>
  Line given(std::string_view name, const L& line) {
    return given(name, Tensor(line));
  }
  template <std::same_as<Line> L>
  Line weight(std::string_view name, const L& line) {
    return weight(name, Tensor(line));
  }

  /// Adds a weight that is frozen in this calculation: it gets no gradient, and no update changes
  /// it. Roles and names as in `weight`.
  Line frozen(std::string_view name, Tensor value);

  /// Adds a running statistic: a tensor that changes from step to step but is not learnt, such as a
  /// running mean. It gets no gradient. Names as in `weight`.
  Line running_statistic(std::string_view name, Tensor value);

  /// Sets the line with the value of a running statistic after the next update, and names it:
  /// `norm.mean.next`. `Gradients` include that value.
  ///
  /// @code
  /// const Line running = sheet.running_statistic("running", tensor({0, 0}));
  /// sheet.set_next(running, 0.9 * running + 0.1 * mean(x, {.axes = {0}}));
  /// @endcode
  /// @throws NameError for a line that is no running statistic, or whose next value is already set;
  ///         ShapeError when `next` has another shape.
  void set_next(const Line& running, const Line& next);

  /// Groups the following lines under a heading, such as the name of a layer.
  void section(std::string_view name);

  /// The number of lines.
  [[nodiscard]] std::size_t size() const;

  /// The line with a number from 1 to `size()`. @throws IndexError outside that.
  [[nodiscard]] Line line(std::size_t number) const;

  /// The line with a name; `#5` finds line 5.
  /// @throws NameError when no line, or more than one, has it.
  [[nodiscard]] Line line(std::string_view name) const;

  /// The first line with a name; nothing if no line has it.
  [[nodiscard]] std::optional<Line> find(std::string_view name) const;

  /// All lines in order.
  [[nodiscard]] std::vector<Line> lines() const;

  /// Removes every line. Handles to them are dead from now on.
  void clear();

 private:
  friend Worksheet worked_again(const Worksheet& sheet,
                                const std::function<Tensor(const Line& line)>& numbers);

  [[nodiscard]] WorksheetRecord& record() const;
  Line add_weight(Line::Kind kind, std::string_view name, Tensor value);

  WorksheetRecord* record_;
};

/// Names a line, and returns it. @throws NameError for an empty name.
Line named(std::string_view name, Line line);

/// Gives a line without a name words by which it is shown, `centred` instead of `#4`, and returns
/// it. Formulas write it out all the same. Where a line has that name, or earlier ones these words,
/// its number follows: `centred.9`. A line with a name keeps that.
Line described(std::string_view words, Line line);

/// A tensor is shown by no words: for what is written for lines and tensors alike.
inline Tensor described(std::string_view, Tensor tensor) {
  return tensor;
}

/// Sets the role of an axis of a line, and returns the line. @throws IndexError when it has no such
/// axis; LineError when this would change the axis of examples of a line that was already used.
Line labelled(int axis, Role role, Line line);

/// The same calculation on a worksheet of its own, worked again with other numbers: the lines keep
/// their order, names and sections, and the axes their roles.
///
/// @code
/// const Worksheet again = worked_again(sheet, [](const Line& line) {
///   return line.name() == "W" ? 2.0 * line.value() : line.value();
/// });
/// again.line("cost").value();
/// @endcode
/// @param numbers the value of a line that is not calculated: data or a weight
/// @throws ShapeError when the new numbers do not fit the lines that are made from them.
[[nodiscard]] Worksheet worked_again(const Worksheet& sheet,
                                     const std::function<Tensor(const Line& line)>& numbers);

namespace detail {

/// Room in the worksheet of `line` for an operation of this many bytes.
[[nodiscard]] void* room_for_operation(const Line& line, std::size_t bytes, std::size_t alignment);

/// Adds data without a name to the worksheet of `near`.
[[nodiscard]] Line data_beside(const Line& near, const Tensor& value);

/// Copies an operation into the worksheet of `near`.
using CopyOperation = const Operation& (*)(const Operation& operation, const Line& near);
template <class Op>
[[nodiscard]] const Operation& copy_operation(const Operation& operation, const Line& near) {
  void* const room = room_for_operation(near, sizeof(Op), alignof(Op));
  return *new (room) Op(static_cast<const Op&>(operation));
}

/// Applies `operation`, which lives as long as the worksheet, and adds the result.
/// @param copy for another worksheet; null for an operation that lives forever
[[nodiscard]] Line write_down(const Operation& operation, std::span<const Line> inputs,
                              CopyOperation copy);

}  // namespace detail

/// `z = x·W + b`, and below it the shape and the numbers, as `to_string` of a tensor.
[[nodiscard]] std::string to_string(const Line& line);

/// All lines, one after another.
[[nodiscard]] std::string to_string(const Worksheet& sheet);

/// What operations are applied to: lines, which are recorded, or tensors, which are not.
template <class X>
concept Operand = std::same_as<X, Line> || std::same_as<X, Tensor>;

/// Two operands; one may be a plain number.
template <class A, class B>
concept Operands = (Operand<A> && (Operand<B> || std::convertible_to<B, double>)) ||
                   (Operand<B> && std::convertible_to<A, double>);

/// The type of the result: a line if either is one.
template <class A, class B>
using OperandOf = std::conditional_t<std::same_as<A, Line> || std::same_as<B, Line>, Line, Tensor>;

/// A line and a tensor, which is written down as data without a name.
template <class A, class B>
concept LineAndTensor = Operand<A> && Operand<B> && !std::same_as<A, B>;

/// Two lines, or a line and a tensor or a plain number.
template <class A, class B>
concept Lines = Operands<A, B> && std::same_as<OperandOf<A, B>, Line>;

namespace detail {

/// Two operands as lines of the worksheet of either.
template <class A, class B>
requires LineAndTensor<A, B>
[[nodiscard]] std::pair<Line, Line> as_lines(const A& a, const B& b) {
  if constexpr (std::same_as<A, Line>) {
    return {a, data_beside(a, b)};
  } else {
    return {data_beside(b, a), b};
  }
}

}  // namespace detail

/// Applies an operation to lines of one worksheet, or to tensors.
/// @throws LineError when a line is dead or of another worksheet, NumberError when the precisions
///         differ, ShapeError when the shapes do not fit; with the names of the lines.
template <class Op, Operand X, std::same_as<X>... More>
[[nodiscard]] X apply(const Op& operation, const X& first, const More&... more) {
  static_assert(std::is_trivially_destructible_v<Op>, "a worksheet forgets its operations");
  static_assert(1 + sizeof...(More) <= most_inputs);
  if constexpr (std::same_as<X, Tensor>) {
    const std::array<const Tensor*, 1 + sizeof...(More)> inputs{&first, &more...};
    return calculate(operation, Inputs(inputs));
  } else {
    const std::array<Line, 1 + sizeof...(More)> inputs{first, more...};
    if constexpr (sizeof(Op) == sizeof(Operation)) {
      static const Op shared = operation;
      return detail::write_down(shared, inputs, nullptr);
    } else {
      void* const room = detail::room_for_operation(first, sizeof(Op), alignof(Op));
      return detail::write_down(*new (room) Op(operation), inputs, detail::copy_operation<Op>);
    }
  }
}

/// The same for as many inputs as a list holds: from one to `most_inputs`.
template <class Op, Operand X>
[[nodiscard]] X apply_to_all(const Op& operation, std::span<const X> inputs) {
  static_assert(std::is_trivially_destructible_v<Op>, "a worksheet forgets its operations");
  if constexpr (std::same_as<X, Tensor>) {
    std::vector<const Tensor*> tensors;
    for (const Tensor& input : inputs)
      tensors.push_back(&input);
    return calculate(operation, Inputs(tensors));
  } else {
    void* const room = detail::room_for_operation(inputs.front(), sizeof(Op), alignof(Op));
    return detail::write_down(*new (room) Op(operation), inputs, detail::copy_operation<Op>);
  }
}

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Line> : lattice::detail::Printed<lattice::Line> {};

template <>
struct fmt::formatter<lattice::Worksheet> : lattice::detail::Printed<lattice::Worksheet> {};
