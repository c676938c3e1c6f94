#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

#include "lattice/worksheet/worksheet.hpp"

/// The functions that can be called in a sheet (`read_sheet`): those of the core, and those that
/// subjects add.
namespace lattice {

/// What an expression in a sheet gives: a plain number, numbers that are not on the worksheet, or a
/// line of it.
using SheetValue = std::variant<double, Tensor, Line>;

/// A call of a function in a sheet: its arguments, and the settings behind the semicolon, which are
/// taken one after another. `softmax(z; axis 1)` has the argument z and the setting `axis 1`.
class SheetCall {
 public:
  virtual ~SheetCall() = default;

  [[nodiscard]] std::size_t count() const { return arguments_.size(); }
  [[nodiscard]] const SheetValue& argument(std::size_t at) const { return arguments_[at]; }

  /// The shape of an argument; of one number for a plain one.
  [[nodiscard]] Shape shape(std::size_t at) const;

  /// All arguments as the extents of a shape. @throws SettingError for another argument than a
  /// whole number of 1 or more, and for more numbers than a line of the sheet may have.
  [[nodiscard]] Shape as_extents() const;

  /// Whether another setting comes, behind a comma if it is not the first.
  virtual bool has_setting() = 0;

  /// Takes these words where they come next: `keeping size`.
  virtual bool takes(std::string_view words) = 0;

  /// Take a number, a whole number from `low` on, and a word, which have to come next.
  /// @param what it is, for the message: `the stride`
  virtual double take_number(std::string_view what) = 0;
  virtual std::int64_t take_whole(std::string_view what, std::int64_t low) = 0;

  /// Takes an axis of a shape, `axis 1` or `class`, where one comes next.
  virtual std::optional<int> takes_axis(const Shape& shape) = 0;

  /// Takes a shape: `row 3 × column 4`.
  virtual Shape take_shape() = 0;

  /// Takes the name of a line, or a number in its place, and adds it to the arguments.
  /// @returns which argument it is
  virtual std::size_t take_argument() = 0;

  /// A generator of random numbers that only this call uses, and the precision of the sheet.
  [[nodiscard]] virtual Random& random() = 0;
  [[nodiscard]] virtual Precision precision() const = 0;

  /// The most numbers that a line of the sheet may have.
  [[nodiscard]] virtual std::int64_t most_numbers() const = 0;

  /// Refuses a result with more numbers than that, before it is worked. @throws SettingError.
  void check_count(double numbers) const;

  /// @throws SettingError that marks the setting that comes next.
  [[noreturn]] virtual void refuse_setting(const std::string& expected) = 0;

  /// What a function gives for all arguments: lines, if one of them is a line, else tensors.
  /// @throws SettingError for lines and plain numbers together.
  template <class F>
  [[nodiscard]] SheetValue of_all(F function) const {
    if (!has_line()) return SheetValue(function(tensors()));
    return SheetValue(function(lines()));
  }

  /// What a function gives for the first argument.
  template <class F>
  [[nodiscard]] SheetValue of_first(F function) const {
    if (const auto* const line = std::get_if<Line>(&arguments_[0]))
      return SheetValue(function(*line));
    return SheetValue(function(tensor_of(arguments_[0])));
  }

  /// The same as `of_all` for two arguments, one of which may be a plain number.
  template <class F>
  [[nodiscard]] SheetValue of_pair(F function) const {
    const auto* const first = std::get_if<double>(&arguments_[0]);
    const auto* const second = std::get_if<double>(&arguments_[1]);
    if (!has_line() || (first == nullptr && second == nullptr))
      return of_all([&](const auto& x) { return function(x[0], x[1]); });
    if (first != nullptr) return SheetValue(function(*first, std::get<Line>(arguments_[1])));
    return SheetValue(function(std::get<Line>(arguments_[0]), *second));
  }

 protected:
  explicit SheetCall(std::vector<SheetValue> arguments) : arguments_(std::move(arguments)) {}

  [[nodiscard]] bool has_line() const;
  [[nodiscard]] Tensor tensor_of(const SheetValue& value) const;
  [[nodiscard]] std::vector<Tensor> tensors() const;
  [[nodiscard]] std::vector<Line> lines() const;

  std::vector<SheetValue> arguments_;
};

/// A function that can be called in a sheet.
struct SheetFunction {
  std::string name;
  std::size_t fewest = 1;  ///< arguments
  std::size_t most = 1;
  std::string form;  ///< for messages: `slice(x; axis 1: 2 to 5 by 1)`
  std::function<SheetValue(SheetCall& call)> carry_out;
};

/// All functions, and those with a name, which take different numbers of arguments.
[[nodiscard]] std::span<const SheetFunction> sheet_functions();

/// Adds the functions of a subject. Call it before any sheet is read.
void add_sheet_functions(std::span<const SheetFunction> functions);

/// A function of one line, or tensor, without settings.
template <class F>
[[nodiscard]] SheetFunction sheet_function(const std::string& name, F function) {
  std::string form = name + "(x)";
  return {.name = name, .form = std::move(form), .carry_out = [function](SheetCall& call) {
            return call.of_all([&](const auto& x) { return function(x[0]); });
          }};
}

}  // namespace lattice
