#pragma once

#include <atomic>
#include <cstddef>
#include <cstdint>

#include "lattice/tensor/precision.hpp"

namespace lattice {

/// The memory behind tensors: a header, then the numbers, starting on a 64-byte boundary and padded
/// to whole blocks of 64 bytes, so that kernels work in whole vector registers and never in tails.
///
/// Blocks that are given back wait in a pool of the thread for the next tensor of their size: a
/// training step asks the system for nothing that an earlier step has used.
struct alignas(64) Storage {
  std::atomic<std::uint32_t> users;
  Precision precision;
  std::uint8_t size_class;

  [[nodiscard]] void* numbers() { return this + 1; }

  /// A block for `count` numbers, with one user; the numbers are whatever was there before.
  [[nodiscard]] static Storage* take(std::int64_t count, Precision precision);

  void join() { users.fetch_add(1, std::memory_order_relaxed); }

  void leave() {
    if (users.load(std::memory_order_acquire) == 1 ||
        users.fetch_sub(1, std::memory_order_acq_rel) == 1) {
      give_back();
    }
  }

 private:
  void give_back();
};

static_assert(sizeof(Storage) == 64);

}  // namespace lattice
