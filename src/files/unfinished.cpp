#include "files/unfinished.hpp"

#include <unistd.h>

#include <array>
#include <utility>

namespace lattice {
namespace {

/// More at once than anything here has; what finds no room is taken away by its destructor alone.
constexpr std::size_t most_at_once = 16;

/// Pointers alone, since a handler of signals may come at any moment.
constinit std::array<std::atomic<const char*>, most_at_once> entries{};

std::atomic<const char*>* enter(const char* path) {
  for (std::atomic<const char*>& entry : entries) {
    const char* free = nullptr;
    if (entry.compare_exchange_strong(free, path)) return &entry;
  }
  return nullptr;
}

void take_away(const char* path) noexcept {
  if (unlink(path) != 0) rmdir(path);
}

}  // namespace

Unfinished::Unfinished(std::string path) : path_(std::move(path)), entry_(enter(path_.c_str())) {}

Unfinished::~Unfinished() {
  if (!path_.empty()) take_away(path_.c_str());
  if (entry_ != nullptr) entry_->store(nullptr);
}

void Unfinished::finish() {
  if (entry_ != nullptr) std::exchange(entry_, nullptr)->store(nullptr);
  path_.clear();
}

void take_unfinished_away() noexcept {
  // Twice, since a folder can go only after what is in it.
  for (int round = 0; round < 2; ++round) {
    for (const std::atomic<const char*>& entry : entries) {
      if (const char* const path = entry.load()) take_away(path);
    }
  }
}

}  // namespace lattice
