#pragma once

#include "lattice/files/json.hpp"
#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// Tensors of more numbers than this are large on a page.
inline constexpr std::int64_t most_small_numbers = 20'000;

/// The numbers of a tensor for the script of a page, in order: a list of numbers (`number_in_json`)
/// or, of a large tensor where it is shorter, their bytes in Base64 (RFC 4648), as in a file
/// (`add_bytes`), those of lowest value first. A zero takes two letters in a list, and eleven in
/// bytes.
[[nodiscard]] Json numbers_on_page(const Tensor& tensor);

}  // namespace lattice
