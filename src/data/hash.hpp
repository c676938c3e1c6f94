#pragma once

#include <cstdint>
#include <span>

namespace lattice {

/// A hash that takes byte after byte. Source: FNV-1a, 64 bits (Fowler, Noll and Vo).
class Hash {
 public:
  void take(std::uint8_t byte) { state_ = (state_ ^ byte) * 0x100000001b3ULL; }

  /// The bytes of a word, the least significant first.
  void take(std::uint64_t word) {
    for (unsigned bit = 0; bit < 64; bit += 8)
      take(static_cast<std::uint8_t>(word >> bit & 0xFFU));
  }

  [[nodiscard]] std::uint64_t value() const { return state_; }

 private:
  std::uint64_t state_ = 0xcbf29ce484222325ULL;
};

[[nodiscard]] inline std::uint64_t hash_of(std::span<const std::uint8_t> bytes) {
  Hash hash;
  for (const std::uint8_t byte : bytes)
    hash.take(byte);
  return hash.value();
}

}  // namespace lattice
