#pragma once

#include <array>
#include <cstddef>
#include <initializer_list>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/text/nearest.hpp"

namespace lattice {

/// The words for the values of a type: one table for writing and reading. A value that is listed
/// more than once is written as its first word, and read from each.
///
/// @code
/// constexpr Words<Precision> words = {{Precision::double_, "double"},
///                                     {Precision::single, "single"}};
/// words.of(Precision::single);   // single
/// words.find("double");          // Precision::double_
/// words.find("half");            // nothing
/// @endcode
template <class Value>
class Words {
 public:
  struct Entry {
    Value value;
    std::string_view word;
  };

  constexpr Words(std::initializer_list<Entry> entries) : count_(entries.size()) {
    std::size_t at = 0;
    for (const Entry& entry : entries)
      entries_[at++] = entry;
  }

  [[nodiscard]] constexpr auto begin() const { return entries_.begin(); }
  [[nodiscard]] constexpr auto end() const { return entries_.begin() + count_; }

  /// The word for a value; empty where it has none.
  [[nodiscard]] constexpr std::string_view of(const Value& value) const {
    for (const Entry& entry : *this) {
      if (entry.value == value) return entry.word;
    }
    return {};
  }

  /// The value that a word stands for; nothing for another text.
  [[nodiscard]] constexpr std::optional<Value> find(std::string_view word) const {
    for (const Entry& entry : *this) {
      if (entry.word == word) return entry.value;
    }
    return std::nullopt;
  }

  /// The same. @throws SettingError that begins with `what` and tells all words, for another text.
  [[nodiscard]] Value parse(std::string what, std::string_view word) const {
    if (const std::optional<Value> value = find(word)) return *value;
    throw SettingError(not_among(std::move(what), word, all()));
  }

  /// All words.
  [[nodiscard]] std::vector<std::string> all() const {
    std::vector<std::string> words;
    for (const Entry& entry : *this)
      words.emplace_back(entry.word);
    return words;
  }

 private:
  static constexpr std::size_t most = 16;

  std::array<Entry, most> entries_ = {};
  std::size_t count_;
};

}  // namespace lattice
