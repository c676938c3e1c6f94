#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/text/error.hpp"

namespace lattice::sheets {

/// The words that a line of data or a weight begins with.
inline constexpr std::array<std::string_view, 5> kinds_of_leaf = {"given", "asked", "weight",
                                                                  "frozen", "running"};

/// A word, a number or a sign of a sheet.
struct Token {
  enum class Kind : std::uint8_t {
    name,
    quoted,  ///< a name in quotes
    number,
    sign,       ///< in one spelling: `×` for `*`
    reference,  ///< to a line without a name: `#5`
    end
  };

  Kind kind = Kind::end;
  std::string text = {};
  double number = 0.0;
  std::size_t from = 0;  ///< in the text, in bytes
  std::size_t length = 0;

  [[nodiscard]] bool is(std::string_view sign) const { return kind == Kind::sign && text == sign; }
  [[nodiscard]] bool is_word(std::string_view word) const {
    return kind == Kind::name && text == word;
  }
};

/// `'x'`, or that the line ends.
[[nodiscard]] std::string in_words(const Token& token);

/// The text of a sheet and its name, for messages.
struct Source {
  std::string_view text;
  std::string name;

  /// @throws SettingError that shows the line of a place, and marks the place.
  [[noreturn]] void refuse(const Token& at, Trouble trouble) const;
};

/// The tokens of the statement that begins at a place, up to the end of its line; in brackets line
/// breaks do not count. `at` becomes the beginning of the next line. Ends in a token of kind `end`.
/// @throws SettingError that marks what is no token.
[[nodiscard]] std::vector<Token> tokens_of_statement(const Source& source, std::size_t& at);

/// The rest of the line at a place, without a comment and blanks around it. `at` becomes the
/// beginning of the next line.
[[nodiscard]] std::string rest_of_line(const Source& source, std::size_t& at);

/// Whether a text can stand in a sheet as a name without quotes.
[[nodiscard]] bool is_plain_name(std::string_view text);

}  // namespace lattice::sheets
