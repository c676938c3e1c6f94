#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <optional>
#include <string_view>
#include <utility>
#include <vector>

namespace lattice::detail {

/// Some letters of a name as one number.
template <class Number>
[[nodiscard]] inline std::uint64_t letters_at(const char* letters) {
  Number number{0};
  std::memcpy(&number, letters, sizeof(number));
  return number;
}

/// The letters of a name of up to eight as one number: with its size it tells the name.
[[nodiscard]] inline std::uint64_t letters_of(std::string_view name) {
  const char* const first = name.data();
  const std::size_t size = name.size();
  if (size == 8) return letters_at<std::uint64_t>(first);
  if (size >= 4) {
    return letters_at<std::uint32_t>(first) | letters_at<std::uint32_t>(first + size - 4)
                                                  << 8U * (size - 4);
  }
  if (size >= 2) {
    return letters_at<std::uint16_t>(first) | letters_at<std::uint16_t>(first + size - 2)
                                                  << 8U * (size - 2);
  }
  return size == 1 ? letters_at<std::uint8_t>(first) : 0;
}

/// Calls `each(letters)` for the letters of a name, eight at a time; the last eight of a longer
/// name may begin among those before.
template <class Each>
void by_eight_letters(std::string_view name, const Each& each) {
  constexpr std::size_t eight = sizeof(std::uint64_t);
  if (name.size() <= eight) return each(letters_of(name));
  for (std::size_t at = 0; at + eight < name.size(); at += eight)
    each(letters_at<std::uint64_t>(name.data() + at));
  each(letters_at<std::uint64_t>(name.data() + name.size() - eight));
}

/// A hash of a name.
[[nodiscard]] inline std::uint32_t hash_of(std::string_view name) {
  constexpr std::uint64_t factor = 0x9E3779B97F4A7C15U;
  std::uint64_t hash = name.size() * factor;
  by_eight_letters(name, [&](std::uint64_t letters) {
    hash = (hash ^ letters) * factor;
    hash ^= hash >> 32U;
  });
  return static_cast<std::uint32_t>(hash);
}

/// Whether two names of one size are the same, told by their first letters and their last ones,
/// which may overlap.
template <class Number>
[[nodiscard]] inline bool has_same_letters(std::string_view a, std::string_view b) {
  const std::size_t last = a.size() - sizeof(Number);
  return ((letters_at<Number>(a.data()) ^ letters_at<Number>(b.data())) |
          (letters_at<Number>(a.data() + last) ^ letters_at<Number>(b.data() + last))) == 0;
}

/// Whether two names are the same. Most are short, and then it is told without a call.
[[nodiscard]] inline bool is_same_name(std::string_view a, std::string_view b) {
  const std::size_t size = a.size();
  if (size != b.size()) return false;
  if (size > 16) return a == b;
  if (size >= 8) return has_same_letters<std::uint64_t>(a, b);
  if (size >= 4) return has_same_letters<std::uint32_t>(a, b);
  if (size >= 2) return has_same_letters<std::uint16_t>(a, b);
  return size == 0 || a[0] == b[0];
}

/// Finds positions by names that are kept elsewhere, at the same cost however many there are. It
/// keeps its room when it is cleared.
class NameIndex {
 public:
  /// The position that was added under a name with this hash. `name_of(position)` is the name it
  /// has.
  template <class NameOf>
  [[nodiscard]] std::optional<std::uint32_t> find(std::string_view name, std::uint32_t hash,
                                                  const NameOf& name_of) const {
    if (count_ == 0) return std::nullopt;
    for (std::size_t at = place(hash); slots_[at].is_taken(); at = next(at)) {
      const Slot& slot = slots_[at];
      if (slot.hash == hash && is_same_name(name_of(slot.number - 1), name)) return slot.number - 1;
    }
    return std::nullopt;
  }

  /// Adds a position under a name that no other has, with this hash.
  void add(std::uint32_t hash, std::uint32_t position) {
    make_room();
    put({.hash = hash, .number = position + 1});
    ++count_;
  }

  /// After this, the next one is added without asking for memory.
  void make_room() {
    if (2 * (count_ + 1) > slots_.size()) grow();
  }

  void clear() {
    if (count_ > 0) std::ranges::fill(slots_, Slot());
    count_ = 0;
  }

 private:
  struct Slot {
    std::uint32_t hash = 0;
    std::uint32_t number = 0;  ///< the position, counted from 1; 0 where none is

    [[nodiscard]] bool is_taken() const { return number != 0; }
  };

  [[nodiscard]] std::size_t place(std::uint32_t hash) const { return hash & (slots_.size() - 1); }
  [[nodiscard]] std::size_t next(std::size_t at) const { return (at + 1) & (slots_.size() - 1); }

  void put(const Slot& slot) {
    std::size_t at = place(slot.hash);
    while (slots_[at].is_taken())
      at = next(at);
    slots_[at] = slot;
  }

  void grow() {
    const std::vector<Slot> before =
        std::exchange(slots_, std::vector<Slot>(std::max<std::size_t>(16, 2 * slots_.size())));
    for (const Slot& slot : before) {
      if (slot.is_taken()) put(slot);
    }
  }

  std::vector<Slot> slots_ = {};  ///< a power of two of them, at least half of them free
  std::size_t count_ = 0;
};

}  // namespace lattice::detail
