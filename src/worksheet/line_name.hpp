#pragma once

#include <cstdint>
#include <string>
#include <string_view>

#include "lattice/text/detail/name_index.hpp"

namespace lattice {

/// What a line is called, if anything: a name, or words that stand in its place.
///
/// The text is remembered when it is cleared. Most worksheets are written line by line like the one
/// before, and a text that has been there needs neither be checked again nor copied.
class LineName {
 public:
  /// Empty for a line that is called nothing.
  [[nodiscard]] std::string_view text() const {
    return kind_ == Kind::none ? std::string_view() : text_;
  }
  [[nodiscard]] std::uint32_t hash() const { return hash_; }
  [[nodiscard]] bool is_name() const { return kind_ == Kind::name; }
  [[nodiscard]] bool is_words() const { return kind_ == Kind::words; }

  /// Whether this was the last text, so that it has been checked.
  [[nodiscard]] bool remembers(std::string_view text) const {
    return !text_.empty() && detail::is_same_name(text_, text);
  }

  void set_name(std::string_view name) { set(name, Kind::name); }

  /// Makes the last text a name again.
  void set_remembered_name() { kind_ = Kind::name; }

  /// The text, or the last one where it was cleared.
  [[nodiscard]] std::string_view remembered() const { return text_; }

  void set_words(std::string_view words) { set(words, Kind::words); }
  void clear() { kind_ = Kind::none; }

 private:
  enum class Kind : std::uint8_t { none, name, words };

  void set(std::string_view text, Kind kind) {
    if (!remembers(text)) {
      text_ = text;
      hash_ = detail::hash_of(text);
    }
    kind_ = kind;
  }

  std::string text_;
  std::uint32_t hash_ = 0;
  Kind kind_ = Kind::none;
};

}  // namespace lattice
