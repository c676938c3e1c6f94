#include "text/scanner.hpp"

#include <fmt/format.h>

#include <cmath>

#include "lattice/text/numbers.hpp"

namespace lattice {

Scanner::Scanner(std::string_view text, std::string_view object, PhraseEnd end)
    : text_(text), object_(object), end_(end) {
  constexpr std::string_view signs = ",:()";
  constexpr std::string_view blank = " \t\r\n";
  for (std::size_t at = 0; at < text.size();) {
    if (blank.find(text[at]) != std::string_view::npos) {
      ++at;
      continue;
    }
    std::size_t stop = at + 1;
    if (signs.find(text[at]) == std::string_view::npos) {
      while (stop < text.size() && signs.find(text[stop]) == std::string_view::npos &&
             blank.find(text[stop]) == std::string_view::npos) {
        ++stop;
      }
    }
    tokens_.push_back({text.substr(at, stop - at), at});
    at = stop;
  }
}

bool Scanner::at_end_of_phrase() const {
  const bool ends = !end_.first.empty() && is_next(0, end_.first) && is_next(1, end_.second);
  return at_end() || ends || is_next(0, ",") || is_next(0, ")");
}

std::string_view Scanner::next() const {
  return at_end() ? std::string_view() : tokens_[next_].text;
}

bool Scanner::is_next(std::size_t after, std::string_view word) const {
  return next_ + after < tokens_.size() && tokens_[next_ + after].text == word;
}

std::string_view Scanner::take() {
  return tokens_[next_++].text;
}

bool Scanner::take(std::string_view word) {
  if (!is_next(0, word)) return false;
  ++next_;
  return true;
}

bool Scanner::take_both(std::string_view first, std::string_view second) {
  if (!is_next(0, first) || !is_next(1, second)) return false;
  next_ += 2;
  return true;
}

void Scanner::demand(std::string_view word) {
  if (!take(word)) refuse(fmt::format("'{}' is missing", word), fmt::format("'{}'", word));
}

std::string Scanner::take_phrase() {
  std::string words;
  while (!at_end_of_phrase())
    words += fmt::format("{}{}", words.empty() ? "" : " ", take());
  return words;
}

double Scanner::take_number(std::string_view what, std::string_view expected) {
  if (at_end_of_phrase()) refuse(fmt::format("{} is missing", what), std::string(expected));
  const std::optional<double> number = parse_number(next());
  if (!number || !std::isfinite(*number))
    refuse(fmt::format("'{}' cannot be {}", next(), what), std::string(expected));
  ++next_;
  return *number;
}

std::int64_t Scanner::take_whole(std::string_view what, std::string_view refusal,
                                 std::int64_t low) {
  constexpr std::int64_t most = 1'000'000;
  const std::string expected = fmt::format("a whole number from {} to {}", low, most);
  const std::size_t word = next_;
  const double number = take_number(what, expected);
  if (number == std::floor(number) && number >= static_cast<double>(low) &&
      number <= static_cast<double>(most))
    return static_cast<std::int64_t>(number);
  next_ = word;
  refuse(fmt::format(fmt::runtime(refusal), next()), expected);
}

std::optional<std::pair<std::int64_t, std::int64_t>> Scanner::take_crossed() {
  const std::string_view word = next();
  std::size_t between = word.find('x');
  std::size_t after = between + 1;
  constexpr std::string_view times = "×";
  if (between == std::string_view::npos) {
    between = word.find(times);
    after = between + times.size();
  }
  const auto first = parse_whole_number(word.substr(0, between));
  const auto second =
      between == std::string_view::npos ? first : parse_whole_number(word.substr(after));
  if (!first || !second) return std::nullopt;
  ++next_;
  return std::pair(*first, *second);
}

std::string Scanner::marked(std::size_t token) const {
  constexpr std::size_t around = 60;
  const bool is_end = token >= tokens_.size();
  const Token word = is_end ? Token{"", text_.size()} : tokens_[token];
  const std::size_t from = word.from > around ? word.from - around : 0;
  const std::string_view before = text_.substr(from, word.from - from);
  const std::string_view behind = text_.substr(word.from + word.text.size());
  return fmt::format("at {} {}: {}{}{}»{}«{}{}",
                     is_end ? "the end of" : fmt::format("word {} of", token + 1), object_,
                     from > 0 ? "…" : "", before, is_end ? " " : "", word.text,
                     behind.substr(0, around), behind.size() > around ? "…" : "");
}

void Scanner::refuse(const std::string& what, const std::string& expected,
                     const std::string& remedy) const {
  throw SettingError({.what = what,
                      .where = marked(next_),
                      .expected = expected,
                      .found = at_end() ? "the end" : fmt::format("'{}'", next()),
                      .remedy = remedy});
}

}  // namespace lattice
