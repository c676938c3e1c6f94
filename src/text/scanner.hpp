#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/text/error.hpp"

namespace lattice {

/// Two words that always end a phrase; none where they are empty.
struct PhraseEnd {
  std::string_view first = {};
  std::string_view second = {};
};

/// Reads a short text word by word: a blueprint, a schedule, an augmentation. Its errors mark the
/// word that cannot be read, »so«.
class Scanner {
 public:
  /// @param object what the text is, for messages: `the blueprint`
  Scanner(std::string_view text, std::string_view object, PhraseEnd end = {});

  [[nodiscard]] std::string_view text() const { return text_; }
  [[nodiscard]] bool at_end() const { return next_ == tokens_.size(); }

  /// Whether a comma, a bracket that closes, or what else ends a phrase comes next.
  [[nodiscard]] bool at_end_of_phrase() const;

  /// The next word, or sign; empty at the end.
  [[nodiscard]] std::string_view next() const;

  /// The number of the next word, and back to one that was read.
  [[nodiscard]] std::size_t position() const { return next_; }
  void go_back_to(std::size_t position) { next_ = position; }

  /// Whether the word after so many others is this one.
  [[nodiscard]] bool is_next(std::size_t after, std::string_view word) const;

  /// Takes the next word, whatever it is.
  std::string_view take();

  /// Takes a word, or two, where they come next.
  bool take(std::string_view word);
  bool take_both(std::string_view first, std::string_view second);

  /// Takes a word that has to come next.
  void demand(std::string_view word);

  /// Takes the words up to the end of the phrase, with blanks between them.
  std::string take_phrase();

  /// Takes a number.
  /// @param what it says: `the stride`
  /// @param expected what would have been right
  double take_number(std::string_view what, std::string_view expected);

  /// Takes a whole number from `low` to 1 000 000.
  /// @param refusal of another number, which stands in it as {}
  std::int64_t take_whole(std::string_view what, std::string_view refusal, std::int64_t low = 1);

  /// Takes two whole numbers with a cross between them, `5x3`, or one for both. Takes nothing, and
  /// gives nothing, where something else comes next.
  std::optional<std::pair<std::int64_t, std::int64_t>> take_crossed();

  /// @throws SettingError that marks the next word.
  [[noreturn]] void refuse(const std::string& what, const std::string& expected,
                           const std::string& remedy = "") const;

  /// What `make` returns; errors in it are said to be at a word.
  template <class Make>
  auto at_word(std::size_t word, Make make) const -> decltype(make()) {
    try {
      return make();
    } catch (const Error& error) {
      Trouble trouble = error.trouble();
      if (trouble.where.empty()) trouble.where = marked(word);
      throw SettingError(trouble);
    }
  }

 private:
  struct Token {
    std::string_view text;
    std::size_t from = 0;
  };

  /// The text with one word marked.
  [[nodiscard]] std::string marked(std::size_t word) const;

  std::string_view text_;
  std::string_view object_;
  PhraseEnd end_;
  std::vector<Token> tokens_ = {};
  std::size_t next_ = 0;
};

}  // namespace lattice
