#pragma once

#include <cstdint>
#include <string>

#include "lattice/tensor/tensor.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/printing.hpp"
#include "lattice/text/wrapping.hpp"

namespace lattice {

/// How a tensor is printed.
struct PrintSettings {
  int digits = usual_digits;       ///< significant digits
  std::int64_t most_rows = 10;     ///< of longer tensors only these are printed, with a note
  std::size_t width = page_width;  ///< columns of text; what does not fit is left out, with a note
};

/// Returns the shape, and the numbers in a ruled box with labelled axes; a single number has no
/// box.
///
/// @code
/// fmt::print("{}", tensor({{1, 2}, {3, 4}}));
/// // [2 × 2]
/// // ┌───┬──────┐
/// // │   │ 0  1 │
/// // ├───┼──────┤
/// // │ 0 │ 1  2 │
/// // │ 1 │ 3  4 │
/// // └───┴──────┘
/// @endcode
/// An empty tensor is printed as `[nothing]`.
[[nodiscard]] std::string to_string(const Tensor& tensor, const PrintSettings& settings = {});

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Tensor> : lattice::detail::Printed<lattice::Tensor> {};
