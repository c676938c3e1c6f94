#include "lattice/tensor/detail/storage.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <limits>
#include <new>

#if __has_include(<unistd.h>)
#include <sys/resource.h>
#include <unistd.h>
#endif

#if defined(LATTICE_WATCHES_MEMORY)
#include <sanitizer/asan_interface.h>
#endif

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "tensor/memory.hpp"

namespace lattice {

constinit thread_local StoragePool storage_pool;

std::size_t machine_bytes() {
#if __has_include(<unistd.h>)
  const auto all = static_cast<std::size_t>(sysconf(_SC_PHYS_PAGES)) *
                   static_cast<std::size_t>(sysconf(_SC_PAGESIZE));
  rlimit allowed{};
  const bool is_limited = getrlimit(RLIMIT_AS, &allowed) == 0 && allowed.rlim_cur != RLIM_INFINITY;
  return is_limited ? std::min<std::size_t>(all, allowed.rlim_cur) : all;
#else
  return std::numeric_limits<std::size_t>::max();
#endif
}

namespace {

constexpr std::size_t line_bytes = 64;
constexpr std::size_t kept_bytes_a_class = std::size_t{64} << 20;

std::size_t lines_of(std::size_t size_class) {
  if (size_class < 4) return size_class + 1;
  const std::size_t doubling = size_class / 4 + 1;
  return (std::size_t{1} << doubling) + ((size_class % 4 + 1) << (doubling - 2));
}

std::size_t bytes_of(std::size_t size_class) {
  return sizeof(Storage) + line_bytes * lines_of(size_class);
}

[[noreturn]] void refuse(std::size_t bytes) {
  const auto in_gigabytes = [](std::size_t count) {
    return fmt::format("{} GB", format_number(static_cast<double>(count) / 1e9, 3));
  };
  throw MemoryError(
      {.what = "a tensor does not fit into memory",
       .expected = bytes > machine_bytes()
                       ? fmt::format("at most {}, what there is for this program",
                                     in_gigabytes(machine_bytes()))
                       : fmt::format("no more than is left of {}", in_gigabytes(machine_bytes())),
       .found = in_gigabytes(bytes),
       .remedy = "smaller shapes, minibatches, or single precision"});
}

/// Opens the pool of a thread, and hands its blocks back when the thread ends. Before and after,
/// the pool has no room, and blocks go straight back to the system.
struct PoolKeeper {
  PoolKeeper() {
    for (std::size_t size_class = 0; size_class < StoragePool::class_count; ++size_class) {
      storage_pool.room[size_class] = static_cast<std::uint32_t>(
          std::clamp<std::size_t>(kept_bytes_a_class / bytes_of(size_class), 4, 1U << 20U));
    }
  }
  PoolKeeper(const PoolKeeper&) = delete;
  PoolKeeper& operator=(const PoolKeeper&) = delete;
  ~PoolKeeper() {
    storage_pool.room.fill(0);
    for (StoragePool::Free*& head : storage_pool.first) {
      while (head != nullptr) {
        StoragePool::Free* const block = head;
#if defined(LATTICE_WATCHES_MEMORY)
        ASAN_UNPOISON_MEMORY_REGION(block, sizeof(StoragePool::Free));
#endif
        head = block->next;
        ::operator delete (static_cast<void*>(block), std::align_val_t{line_bytes});
      }
    }
  }
};

}  // namespace

void* Storage::fresh_block(std::size_t size_class) {
  thread_local const PoolKeeper keeper;
  const std::size_t bytes = bytes_of(size_class);
  if (bytes > machine_bytes()) refuse(bytes);
  void* const block = ::operator new (bytes, std::align_val_t{line_bytes}, std::nothrow);
  if (block == nullptr) refuse(bytes);
  std::memset(block, 0, bytes);
  return block;
}

void Storage::return_to_system(void* block) {
  ::operator delete (block, std::align_val_t{line_bytes});
}

#if defined(LATTICE_WATCHES_MEMORY)
void Storage::wake(void* block, std::size_t size_class) {
  ASAN_UNPOISON_MEMORY_REGION(block, bytes_of(size_class));
}

void Storage::put_to_sleep(void* block, std::size_t size_class) {
  ASAN_POISON_MEMORY_REGION(block, bytes_of(size_class));
}
#endif

}  // namespace lattice
