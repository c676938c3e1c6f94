#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <optional>
#include <string_view>
#include <utility>
#include <vector>

namespace lattice {

/// Finds positions by names that are kept elsewhere, at the same cost however many there are. It
/// keeps its room when it is cleared.
class NameIndex {
 public:
  /// The position that was added under a name. `name_of(position)` is the name it has.
  template <class NameOf>
  [[nodiscard]] std::optional<std::uint32_t> find(std::string_view name,
                                                  const NameOf& name_of) const {
    if (count_ == 0) return std::nullopt;
    const std::size_t hash = std::hash<std::string_view>()(name);
    for (std::size_t at = place(hash); slots_[at].is_taken; at = next(at)) {
      if (slots_[at].hash == hash && name_of(slots_[at].position) == name)
        return slots_[at].position;
    }
    return std::nullopt;
  }

  /// Adds a position under a name that no other has.
  void add(std::string_view name, std::uint32_t position) {
    if (2 * (count_ + 1) > slots_.size()) grow();
    put({.hash = std::hash<std::string_view>()(name), .position = position, .is_taken = true});
    ++count_;
  }

  void clear() {
    if (count_ > 0) std::ranges::fill(slots_, Slot());
    count_ = 0;
  }

 private:
  struct Slot {
    std::size_t hash = 0;
    std::uint32_t position = 0;
    bool is_taken = false;
  };

  [[nodiscard]] std::size_t place(std::size_t hash) const { return hash & (slots_.size() - 1); }
  [[nodiscard]] std::size_t next(std::size_t at) const { return place(at + 1); }

  void put(const Slot& slot) {
    std::size_t at = place(slot.hash);
    while (slots_[at].is_taken)
      at = next(at);
    slots_[at] = slot;
  }

  void grow() {
    const std::vector<Slot> before =
        std::exchange(slots_, std::vector<Slot>(std::max<std::size_t>(16, 2 * slots_.size())));
    for (const Slot& slot : before) {
      if (slot.is_taken) put(slot);
    }
  }

  std::vector<Slot> slots_ = {};  ///< a power of two of them, at least half of them free
  std::size_t count_ = 0;
};

}  // namespace lattice
