#pragma once

#include <array>
#include <cstdint>
#include <string_view>

#include "lattice/text/words.hpp"

namespace lattice {

/// The purpose of a part of the data.
enum class DataPart : std::uint8_t {
  train,       ///< for weights and scaling factors
  validation,  ///< for choosing settings
  test         ///< for the final assessment only
};

inline constexpr std::array all_data_parts = {DataPart::train, DataPart::validation,
                                              DataPart::test};

inline constexpr Words<DataPart> data_part_words = {
    {DataPart::train, "train"}, {DataPart::validation, "validation"}, {DataPart::test, "test"}};

/// The word for a part: `train`, `validation`, `test`.
[[nodiscard]] constexpr std::string_view word(DataPart part) {
  return data_part_words.of(part);
}

}  // namespace lattice
