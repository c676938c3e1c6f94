#include "worksheet/sheets/tokens.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <limits>
#include <optional>

#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice::sheets {
namespace {

struct Spelling {
  std::string_view written;
  std::string_view sign;
};

/// Longer ones first.
constexpr std::array<Spelling, 38> spellings = {{
    {">=", "≥"}, {"<=", "≤"}, {"==", "="}, {"≥", "≥"}, {"≤", "≤"}, {"×", "×"},  {"·", "·"},
    {"∗", "∗"},  {"−", "−"},  {"²", "²"},  {"³", "³"}, {"ᵀ", "ᵀ"}, {"√", "√"},  {"Σ", "Σ"},
    {"+", "+"},  {"-", "−"},  {"*", "×"},  {"/", "/"}, {"^", "^"}, {"(", "("},  {")", ")"},
    {"[", "["},  {"]", "]"},  {",", ","},  {";", ";"}, {":", ":"}, {"=", "="},  {"|", "|"},
    {">", ">"},  {"<", "<"},  {"│", "|"},  {"⋅", "·"}, {"•", "·"}, {"“", "\""}, {"”", "\""},
    {"…", "…"},  {"─", "─"},  {"½", "½"},
}};

std::optional<Spelling> sign_at(std::string_view text) {
  const auto found = std::ranges::find_if(
      spellings, [&](const Spelling& each) { return text.starts_with(each.written); });
  return found == spellings.end() ? std::nullopt : std::optional(*found);
}

constexpr bool is_digit(char letter) {
  return letter >= '0' && letter <= '9';
}

/// Whether a name can go on with this letter; a first one is no digit, dot or mark.
bool is_of_name(std::string_view text) {
  const char letter = text.front();
  if (text.starts_with("′")) return true;
  if ((letter & 0x80) != 0) return !sign_at(text) && !text.starts_with("∞");
  return is_digit(letter) || (letter >= 'a' && letter <= 'z') || (letter >= 'A' && letter <= 'Z') ||
         letter == '_' || letter == '.' || letter == '\'';
}

std::size_t length_of_letter(char first) {
  const auto byte = static_cast<unsigned char>(first);
  return byte < 0xC0U ? 1 : byte < 0xE0U ? 2 : byte < 0xF0U ? 3 : 4;
}

std::size_t length_of_name(std::string_view text) {
  std::size_t length = 0;
  while (length < text.size() && is_of_name(text.substr(length)))
    length += std::min(length_of_letter(text[length]), text.size() - length);
  // What ends a sentence is not of the name.
  while (length > 0 && text[length - 1] == '.')
    --length;
  return length;
}

std::size_t length_of_number(std::string_view text) {
  std::size_t length = 0;
  const auto digits = [&] {
    const std::size_t start = length;
    while (length < text.size() && is_digit(text[length]))
      ++length;
    return length > start;
  };
  const bool whole = digits();
  if (length < text.size() && text[length] == '.') {
    ++length;
    if (!digits() && !whole) return 0;
  } else if (!whole) {
    return 0;
  }
  const std::size_t before = length;
  if (length < text.size() && (text[length] == 'e' || text[length] == 'E')) {
    ++length;
    constexpr std::string_view minus = "−";
    if (text.substr(length).starts_with(minus)) {
      length += minus.size();
    } else if (length < text.size() && (text[length] == '-' || text[length] == '+')) {
      ++length;
    }
    if (!digits()) length = before;
  }
  return length;
}

/// Reads the tokens of one statement.
class Lexer {
 public:
  Lexer(const Source& source, std::size_t at) : source_(source), at_(at) {}

  std::vector<Token> read() {
    while (at_ < source_.text.size()) {
      const char letter = source_.text[at_];
      if (letter == '\n' && open_.empty()) break;
      if (letter == ' ' || letter == '\t' || letter == '\r' || letter == '\n') {
        ++at_;
      } else if (letter == '#' && !is_reference()) {
        skip_comment();
      } else {
        take();
      }
    }
    if (!open_.empty()) {
      const bool is_round = open_.back().text == "(";
      source_.refuse(open_.back(), {.what = "this bracket is never closed",
                                    .expected = is_round ? ")" : "]",
                                    .found = "the end of the sheet"});
    }
    tokens_.push_back({.kind = Token::Kind::end, .from = end_of_last()});
    if (at_ < source_.text.size()) ++at_;
    return std::move(tokens_);
  }

  [[nodiscard]] std::size_t at() const { return at_; }

 private:
  [[nodiscard]] std::size_t end_of_last() const {
    return tokens_.empty() ? at_ : tokens_.back().from + tokens_.back().length;
  }

  [[nodiscard]] std::string_view rest() const { return source_.text.substr(at_); }

  /// `#5`, where a line can stand: elsewhere a comment begins.
  [[nodiscard]] bool is_reference() const {
    std::size_t stop = at_ + 1;
    while (stop < source_.text.size() && is_digit(source_.text[stop]))
      ++stop;
    if (stop == at_ + 1) return false;
    if (!tokens_.empty()) {
      const Token& last = tokens_.back();
      const bool ends_operand = last.is(")") || last.is("]") || last.is("²") || last.is("³") ||
                                last.is("ᵀ") || last.kind != Token::Kind::sign;
      const bool is_word = last.is_word("at") || last.is_word("if") || last.is_word("else") ||
                           last.is_word("next") || last.is_word("from") || last.is_word("by") ||
                           last.is_word("bias") || last.is_word("table");
      const bool is_kind = tokens_.size() == 1 && last.kind == Token::Kind::name &&
                           std::ranges::find(kinds_of_leaf, last.text) != kinds_of_leaf.end();
      return !ends_operand || is_word || is_kind;
    }
    const std::size_t next = source_.text.find_first_not_of(" \t", stop);
    return next != std::string_view::npos &&
           (source_.text[next] == '=' || source_.text[next] == '[');
  }

  void skip_comment() {
    while (at_ < source_.text.size() && source_.text[at_] != '\n')
      ++at_;
  }

  void add(Token::Kind kind, std::string text, std::size_t length, double number = 0.0) {
    tokens_.push_back(
        {.kind = kind, .text = std::move(text), .number = number, .from = at_, .length = length});
    at_ += length;
  }

  void take() {
    constexpr std::string_view infinity = "∞";
    const std::string_view text = rest();
    if (text.front() == '"') return take_quoted();
    if (text.front() == '#') {
      const std::size_t length = 1 + length_of_digits(text.substr(1));
      return add(Token::Kind::reference, std::string(text.substr(0, length)), length);
    }
    if (text.starts_with(infinity))
      return add(Token::Kind::number, "∞", infinity.size(),
                 std::numeric_limits<double>::infinity());
    if (const std::size_t length = length_of_number(text); length > 0) {
      const std::string digits(text.substr(0, length));
      return add(Token::Kind::number, digits, length, parse_number(digits).value_or(0.0));
    }
    if (const std::size_t length = length_of_name(text); length > 0) {
      const std::string name(text.substr(0, length));
      if (name == "NaN")
        return add(Token::Kind::number, name, length, std::numeric_limits<double>::quiet_NaN());
      return add(Token::Kind::name, name, length);
    }
    const std::optional<Spelling> spelling = sign_at(text);
    if (!spelling) refuse_letter(text);
    add(Token::Kind::sign, std::string(spelling->sign), spelling->written.size());
    follow_brackets();
  }

  static std::size_t length_of_digits(std::string_view text) {
    const auto stop = std::ranges::find_if_not(text, is_digit);
    return static_cast<std::size_t>(stop - text.begin());
  }

  void take_quoted() {
    const std::string_view text = rest();
    std::string name;
    std::size_t stop = 1;
    for (; stop < text.size() && text[stop] != '\n'; ++stop) {
      // Two quotes stand for one.
      if (text[stop] == '"' && (stop + 1 == text.size() || text[stop + 1] != '"'))
        return add(Token::Kind::quoted, name, stop + 1);
      if (text[stop] == '"') ++stop;
      name += text[stop];
    }
    source_.refuse(
        {.from = at_, .length = 1},
        {.what = "this quote is never closed", .expected = "\"", .found = "the end of the line"});
  }

  void follow_brackets() {
    const Token& last = tokens_.back();
    if (last.is("(") || last.is("[")) {
      constexpr std::size_t deepest = 100;
      if (open_.size() == deepest) {
        source_.refuse(last, {.what = "the brackets are too deep",
                              .expected = fmt::format("at most {} in each other", deepest),
                              .found = "one more",
                              .remedy = "give a part of it a name, in a line of its own"});
      }
      open_.push_back(last);
    }
    if (!last.is(")") && !last.is("]")) return;
    const std::string_view opening = last.is(")") ? "(" : "[";
    if (open_.empty() || open_.back().text != opening) {
      source_.refuse(last, {.what = "this bracket closes nothing",
                            .expected = open_.empty()          ? "no bracket"
                                        : open_.back().is("(") ? ")"
                                                               : "]",
                            .found = last.text});
    }
    open_.pop_back();
  }

  [[noreturn]] void refuse_letter(std::string_view text) const {
    const std::size_t length = std::min(length_of_letter(text.front()), text.size());
    source_.refuse({.from = at_, .length = length},
                   {.what = "this sign has no meaning in a sheet",
                    .expected = "a name, a number, or one of + − × · / ^ ² ³ ᵀ √ ( ) [ ] , ; : =",
                    .found = fmt::format("'{}'", text.substr(0, length))});
  }

  const Source& source_;
  std::size_t at_;
  std::vector<Token> tokens_ = {};
  std::vector<Token> open_ = {};
};

}  // namespace

std::string in_words(const Token& token) {
  return token.kind == Token::Kind::end ? "the end of the line" : fmt::format("'{}'", token.text);
}

void Source::refuse(const Token& at, Trouble trouble) const {
  const std::size_t from = std::min(at.from, text.size());
  const std::size_t start = from == 0 ? std::string_view::npos : text.rfind('\n', from - 1);
  const std::size_t first = start == std::string_view::npos ? 0 : start + 1;
  const std::size_t stop = std::min(text.find('\n', first), text.size());
  const auto line = std::ranges::count(text.substr(0, first), '\n') + 1;
  trouble.where = fmt::format("line {} of {}", line, name);
  trouble.excerpt = {
      .text = std::string(text.substr(first, stop - first)),
      .from = columns(text.substr(first, from - first)),
      .columns = columns(text.substr(from, std::min(at.length, stop - std::min(from, stop))))};
  throw SettingError(std::move(trouble));
}

std::vector<Token> tokens_of_statement(const Source& source, std::size_t& at) {
  Lexer lexer(source, at);
  std::vector<Token> tokens = lexer.read();
  at = lexer.at();
  return tokens;
}

std::string rest_of_line(const Source& source, std::size_t& at) {
  const std::size_t stop = std::min(source.text.find('\n', at), source.text.size());
  std::string_view line = source.text.substr(at, stop - at);
  at = std::min(stop + 1, source.text.size());
  bool is_quoted = false;
  for (std::size_t letter = 0; letter < line.size(); ++letter) {
    if (line[letter] == '"') is_quoted = !is_quoted;
    if (line[letter] == '#' && !is_quoted) {
      line = line.substr(0, letter);
      break;
    }
  }
  return std::string(trimmed(line));
}

bool is_plain_name(std::string_view text) {
  return !text.empty() && !is_digit(text.front()) && text.front() != '.' && text.front() != '\'' &&
         length_of_name(text) == text.size();
}

}  // namespace lattice::sheets
