#pragma once

#include <fmt/format.h>

#include <cstdint>
#include <string>
#include <string_view>

namespace lattice {

/// Returns a count with its noun: `1 epoch`, `2 epochs`; `3 classes` where the plural is given.
[[nodiscard]] inline std::string counted(std::int64_t count, std::string_view one,
                                         std::string_view several = "") {
  if (count == 1) return fmt::format("1 {}", one);
  return several.empty() ? fmt::format("{} {}s", count, one) : fmt::format("{} {}", count, several);
}

}  // namespace lattice
