#include "lattice/tensor/storage.hpp"

#include <array>
#include <bit>
#include <cstring>
#include <new>

#if defined(__SANITIZE_ADDRESS__)
#include <sanitizer/asan_interface.h>
#endif

namespace lattice {
namespace {

constexpr std::size_t line_bytes = 64;
constexpr std::size_t class_count = 160;
constexpr std::size_t kept_bytes_a_class = std::size_t{64} << 20;

/// Four sizes for each doubling, so a block is at most a quarter larger than what was asked for.
std::size_t class_of(std::size_t lines) {
  if (lines <= 4) return lines - 1;
  const auto doubling = static_cast<std::size_t>(std::bit_width(lines - 1)) - 1;
  return 4 * (doubling - 1) + (((lines - 1) >> (doubling - 2)) & 3);
}

std::size_t lines_of(std::size_t size_class) {
  if (size_class < 4) return size_class + 1;
  const std::size_t doubling = size_class / 4 + 1;
  return (std::size_t{1} << doubling) + ((size_class % 4 + 1) << (doubling - 2));
}

std::size_t bytes_of(std::size_t size_class) {
  return sizeof(Storage) + line_bytes * lines_of(size_class);
}

struct Free {
  Free* next;
};

/// What a thread keeps for its next tensors. Plain data, so that reaching it costs nothing.
struct Pool {
  std::array<Free*, class_count> first{};
  std::array<std::uint32_t, class_count> kept{};
  bool closed = false;
};

constinit thread_local Pool pool;

void return_to_system(void* block) { ::operator delete(block, std::align_val_t{line_bytes}); }

/// Hands the pool's blocks back when the thread ends; made on the first block a thread takes.
struct PoolKeeper {
  PoolKeeper() = default;
  PoolKeeper(const PoolKeeper&) = delete;
  PoolKeeper& operator=(const PoolKeeper&) = delete;
  ~PoolKeeper() {
    pool.closed = true;
    for (Free*& head : pool.first) {
      while (head != nullptr) {
        Free* const block = head;
#if defined(__SANITIZE_ADDRESS__)
        ASAN_UNPOISON_MEMORY_REGION(block, sizeof(Free));
#endif
        head = block->next;
        return_to_system(block);
      }
    }
  }
};

void* fresh_block(std::size_t size_class) {
  thread_local const PoolKeeper keeper;
  void* const block = ::operator new(bytes_of(size_class), std::align_val_t{line_bytes});
  std::memset(block, 0, bytes_of(size_class));
  return block;
}

}  // namespace

Storage* Storage::take(std::int64_t count, Precision precision) {
  const std::size_t bytes = static_cast<std::size_t>(count) *
                            (precision == Precision::double_ ? sizeof(double) : sizeof(float));
  const std::size_t size_class = class_of((bytes + line_bytes - 1) / line_bytes);
  void* block = pool.first[size_class];
  if (block != nullptr) {
#if defined(__SANITIZE_ADDRESS__)
    ASAN_UNPOISON_MEMORY_REGION(block, bytes_of(size_class));
#endif
    pool.first[size_class] = static_cast<Free*>(block)->next;
    --pool.kept[size_class];
  } else {
    block = fresh_block(size_class);
  }
  auto* const storage = new (block) Storage;
  storage->users.store(1, std::memory_order_relaxed);
  storage->precision = precision;
  storage->size_class = static_cast<std::uint8_t>(size_class);
  return storage;
}

void Storage::give_back() {
  const std::size_t of_class = size_class;
  if (pool.closed || pool.kept[of_class] * bytes_of(of_class) > kept_bytes_a_class) {
    return_to_system(this);
    return;
  }
  pool.first[of_class] = new (this) Free{pool.first[of_class]};
  ++pool.kept[of_class];
#if defined(__SANITIZE_ADDRESS__)
  ASAN_POISON_MEMORY_REGION(this, bytes_of(of_class));
#endif
}

}  // namespace lattice
