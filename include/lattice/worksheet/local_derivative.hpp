#pragma once

#include <optional>
#include <string>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The local derivative of a line by one of its inputs, in numbers: by what a gradient that arrives
/// at the line is multiplied on its way to the input.
struct LocalDerivative {
  enum class Kind {
    numbers,  ///< number by number
    matrix,   ///< in a matrix product
    across,   ///< a matrix of its own for each row along an axis, such as that of a softmax
    window    ///< under each place of a window, by the numbers of another line
  };

  Kind kind = Kind::numbers;

  /// Of the shape of the line, or of the input where each of its numbers gets one that arrives; the
  /// matrix as it is multiplied by, and of several the first; the numbers under a window.
  Tensor numbers = {};

  /// Whether what arrives is passed on as it is, whatever the numbers are.
  bool is_as_it_is = false;

  /// The only number there is, where all are the same, such as the 1 of a sum.
  std::optional<double> everywhere = std::nullopt;

  /// Of a matrix or a window: the line that it is, and whether it is transposed for the product.
  Line factor = {};
  bool is_transposed = false;

  /// Of a matrix for each row: the axis of the line along which these rows lie.
  int axis = 0;

  /// Of several matrices: what there is one for, `example` or `row`; empty for a single one.
  std::string each = {};

  /// `Wᵀ`.
  [[nodiscard]] std::string factor_in_symbols() const;
};

/// The local derivative by an input that gets a gradient; nothing where it is neither a number for
/// each number nor made of one or more matrices, such as that of a normalisation, and for more than
/// `most_local_numbers`.
///
/// @code
/// Worksheet sheet;
/// const Line x = sheet.weight("x", tensor({1, 2}));
/// const Line y = named("y", square(x));
/// local_derivative(y, 0)->numbers;   // 2 4
/// @endcode
/// @throws IndexError when there is no such input.
[[nodiscard]] std::optional<LocalDerivative> local_derivative(const Line& line, std::size_t input);

inline constexpr std::int64_t most_local_numbers = std::int64_t{1} << 17;

}  // namespace lattice
