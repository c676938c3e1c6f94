#pragma once

#include <array>
#include <atomic>
#include <bit>
#include <cstddef>
#include <cstdint>
#include <new>

#if __has_include(<sys/single_threaded.h>)
#include <sys/single_threaded.h>
#endif

#include "lattice/tensor/precision.hpp"

namespace lattice {

struct Storage;
class SparseNumbers;

/// What a thread keeps for its next tensors: for each size of block, a list of free ones.
struct StoragePool {
  static constexpr std::size_t class_count = 160;

  struct Free {
    Free* next;
  };

  std::array<Free*, class_count> first{};
  std::array<std::uint32_t, class_count> room{};  ///< how many more blocks may be kept
};

extern constinit thread_local StoragePool storage_pool;

/// The memory behind tensors: a header, then the numbers, starting on a 64-byte boundary and padded
/// to whole blocks of 64 bytes, so that kernels work in whole vector registers and never in tails.
///
/// Blocks that are given back wait in a pool of the thread for the next tensor of their size: a
/// training step asks the system for nothing that an earlier step has used.
struct alignas(64) Storage {
  Storage(std::int64_t count_, Precision precision_, std::size_t size_class_)
      : users(1),
        precision(precision_),
        size_class(static_cast<std::uint8_t>(size_class_)),
        count(count_) {}

  std::atomic<std::uint32_t> users;
  Precision precision;
  std::uint8_t size_class;
  std::int64_t count;
  SparseNumbers* sparse =
      nullptr;  ///< of a sparse matrix: what is stored of it, instead of numbers
  std::int64_t sparse_columns = 0;  ///< of that matrix

  /// Where the numbers are; of a sparse matrix they are written out when they are first asked for.
  [[nodiscard]] void* numbers() { return sparse == nullptr ? this + 1 : written_out(); }

  /// A block for `count` numbers, with one user; the numbers are whatever was there before.
  [[nodiscard]] static Storage* take(std::int64_t count, Precision precision) {
    // 8 or 16 numbers fill 64 bytes. A shift, as a division takes longer than all the rest.
    const int shift = precision == Precision::double_ ? 3 : 4;
    const std::size_t size_class = class_of((static_cast<std::size_t>(count - 1) >> shift) + 1);
    StoragePool::Free* const block = storage_pool.first[size_class];
    if (block == nullptr)
      return new (fresh_block(size_class)) Storage(count, precision, size_class);
    wake(block, size_class);
    storage_pool.first[size_class] = block->next;
    ++storage_pool.room[size_class];
    return new (static_cast<void*>(block)) Storage(count, precision, size_class);
  }

  void join() {
    if (one_thread()) {
      users.store(users.load(std::memory_order_relaxed) + 1, std::memory_order_relaxed);
    } else {
      users.fetch_add(1, std::memory_order_relaxed);
    }
  }

  void leave() {
    const std::uint32_t others = users.load(std::memory_order_acquire) - 1;
    if (others != 0) {
      if (one_thread()) {
        users.store(others, std::memory_order_relaxed);
        return;
      }
      if (users.fetch_sub(1, std::memory_order_acq_rel) != 1) return;
    }
    if (sparse != nullptr) drop_sparse();
    const std::size_t of_class = size_class;
    if (storage_pool.room[of_class] == 0) {
      return_to_system(this);
      return;
    }
    --storage_pool.room[of_class];
    storage_pool.first[of_class] =
        new (static_cast<void*>(this)) StoragePool::Free{storage_pool.first[of_class]};
    put_to_sleep(this, of_class);
  }

 private:
  /// While a process has one thread only, counting needs no atomic steps, which cost as much as the
  /// arithmetic on a small tensor.
  [[nodiscard]] static bool one_thread() {
#if defined(__GLIBC__)
    return __libc_single_threaded != 0;
#else
    return false;
#endif
  }

  /// Four sizes for each doubling, so a block is at most a quarter larger than what was asked for.
  [[nodiscard]] static std::size_t class_of(std::size_t lines) {
    if (lines <= 4) return lines - 1;
    const auto doubling = static_cast<std::size_t>(std::bit_width(lines - 1)) - 1;
    return 4 * (doubling - 1) + (((lines - 1) >> (doubling - 2)) & 3);
  }

  [[nodiscard]] void* written_out() const;
  void drop_sparse();
  [[nodiscard]] static void* fresh_block(std::size_t size_class);
  static void return_to_system(void* block);

#if defined(LATTICE_WATCHES_MEMORY)
  /// Blocks in the pool are off limits, so that a sanitizer sees a tensor used after its end: in a
  /// library that was built with one, whatever the program was built with.
  static void wake(void* block, std::size_t size_class);
  static void put_to_sleep(void* block, std::size_t size_class);
#else
  static void wake(void*, std::size_t) {}
  static void put_to_sleep(void*, std::size_t) {}
#endif
};

static_assert(sizeof(Storage) == 64);

}  // namespace lattice
