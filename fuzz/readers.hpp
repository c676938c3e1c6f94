#pragma once

#include <span>
#include <string_view>

namespace lattice::fuzz {

/// Something that reads what comes from outside, and may refuse it in no other way than by one of
/// our errors.
struct Reader {
  std::string_view name;
  void (*read)(std::string_view bytes);
};

/// All of them. A new reader has a row here, and a folder of seeds.
[[nodiscard]] std::span<const Reader> readers();

/// Has a reader read; what it refuses is all right.
void give(const Reader& reader, std::string_view bytes);

}  // namespace lattice::fuzz
