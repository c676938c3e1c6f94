#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// The order of the bytes of a number in a file.
enum class ByteOrder : std::uint8_t { lowest_first, highest_first };

/// Adds the numbers of a tensor to some bytes, in their order: 8 bytes each as in IEEE 754, 4 in
/// single precision.
void add_bytes(std::string& bytes, const Tensor& tensor, ByteOrder order);

/// The tensor that such bytes stand for, those of lowest value first; nothing where they are not as
/// many as its numbers take.
[[nodiscard]] std::optional<Tensor> tensor_of_bytes(std::string_view bytes, const Shape& shape,
                                                    Precision precision);

}  // namespace lattice
