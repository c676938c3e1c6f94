#include "lattice/network/blueprint.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <optional>
#include <string>

#include "lattice/network/parts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

/// A word of a blueprint, or one of the signs `,` `:` `(` `)`, and where it stands.
struct Token {
  std::string_view text;
  std::size_t from = 0;
};

std::vector<Token> tokens_of(std::string_view text) {
  constexpr std::string_view signs = ",:()";
  constexpr std::string_view blank = " \t\r\n";
  std::vector<Token> tokens;
  for (std::size_t at = 0; at < text.size();) {
    if (blank.find(text[at]) != std::string_view::npos) {
      ++at;
      continue;
    }
    std::size_t end = at + 1;
    if (signs.find(text[at]) == std::string_view::npos) {
      while (end < text.size() && signs.find(text[end]) == std::string_view::npos &&
             blank.find(text[end]) == std::string_view::npos) {
        ++end;
      }
    }
    tokens.push_back({text.substr(at, end - at), at});
    at = end;
  }
  return tokens;
}

/// Reads a blueprint from its first word to its last.
class Reader {
 public:
  Reader(std::string_view text, std::span<const Part> own)
      : text_(text), tokens_(tokens_of(text)), own_(own) {}

  std::vector<Part> read() {
    if (tokens_.empty()) {
      throw SettingError({.what = "a network without a part",
                          .expected = "a blueprint, such as dense 8, tanh, dense 4",
                          .found = "nothing"});
    }
    std::vector<Part> parts = read_parts();
    if (next_ < tokens_.size()) refuse("this does not belong to a part", "a comma, or the end");
    return parts;
  }

 private:
  using ReadPart = Part (Reader::*)();
  struct Kind {
    std::string_view word;
    ReadPart read;
  };

  /// All parts by their words. A new one has a row here.
  static const std::vector<Kind>& kinds() {
    static const std::vector<Kind> all = {
        {"dense", &Reader::read_dense},
        {"sigmoid", &Reader::read_rule<Sigmoid>},
        {"tanh", &Reader::read_rule<Tanh>},
        {"relu", &Reader::read_rule<Relu>},
        {"leaky-relu", &Reader::read_leaky_relu},
        {"softplus", &Reader::read_rule<Softplus>},
        {"elu", &Reader::read_elu},
        {"softmax", &Reader::read_rule<Softmax>},
        {"dropout", &Reader::read_dropout},
        {"bypass", &Reader::read_bypass},
    };
    return all;
  }

  std::vector<Part> read_parts() {
    std::vector<Part> parts;
    do {
      parts.push_back(read_part());
    } while (take(","));
    return parts;
  }

  Part read_part() {
    std::optional<std::size_t> name;
    if (next_ + 1 < tokens_.size() && tokens_[next_ + 1].text == ":") {
      name = next_;
      next_ += 2;
    }
    const std::size_t word = next_;
    const std::string_view text = next_ < tokens_.size() ? tokens_[next_].text : "";
    const auto kind = std::ranges::find(kinds(), text, &Kind::word);
    const auto own = std::ranges::find(own_, text, &Part::kind);
    if (kind == kinds().end() && own == own_.end()) refuse_kind(text);
    ++next_;
    Part part = own != own_.end() ? *own : at_word(word, [&] { return (this->*kind->read)(); });
    return name ? at_word(*name, [&] { return named(tokens_[*name].text, part); }) : part;
  }

  [[noreturn]] void refuse_kind(std::string_view text) {
    std::vector<std::string> words;
    for (const Kind& kind : kinds())
      words.emplace_back(kind.word);
    for (const Part& part : own_)
      words.emplace_back(part.kind());
    const std::string near = nearest(text, words);
    refuse(text.empty() ? "a part is missing" : fmt::format("'{}' is not a part", text),
           fmt::format("one of {}", fmt::join(words, ", ")),
           near.empty() ? "" : fmt::format("did you mean {}?", near));
  }

  template <class P>
  Part read_rule() {
    return P{};
  }

  Part read_dense() {
    Dense dense{.outputs = 1};
    const std::size_t units = next_;
    const double number = take_number("how many units", "a whole number from 1 to 1000000");
    if (number != std::floor(number) || number < 1.0 || number > 1e6) {
      next_ = units;
      refuse(fmt::format("a dense part cannot have {} units", tokens_[units].text),
             "a whole number from 1 to 1000000");
    }
    dense.outputs = static_cast<std::int64_t>(number);
    while (!at_end_of_part()) {
      if (take("without")) {
        demand("bias");
        dense.bias = Bias::none;
      } else if (take("with")) {
        demand("bias");
        demand("as");
        demand("input");
        dense.bias = Bias::as_input;
      } else if (take("start")) {
        dense.start = take_start();
      } else if (take("bias")) {
        demand("start");
        dense.bias_start = take_start();
      } else {
        refuse("this does not belong to a dense part",
               "without bias, with bias as input, start HOW, bias start HOW, or a comma");
      }
    }
    return dense;
  }

  Part read_leaky_relu() {
    LeakyRelu rule;
    if (!at_end_of_part()) rule.leak = take_number("the leak", "a number, such as 0.01");
    return rule;
  }

  Part read_elu() {
    Elu rule;
    if (!at_end_of_part()) rule.depth = take_number("the depth", "a number, such as 1");
    return rule;
  }

  Part read_dropout() {
    const std::size_t word = next_;
    Dropout dropout{.share = take_number("the share to leave out", "a number, such as 0.2")};
    return at_word(word, [&] {
      static_cast<void>(dropout.shape(Shape{1}));
      return Part(dropout);
    });
  }

  Part read_bypass() {
    const std::size_t word = next_ - 1;
    demand("(");
    if (++depth_ > deepest) {
      next_ = word;
      refuse("bypasses stand in one another too deep", fmt::format("up to {}", deepest));
    }
    std::vector<Part> inner = read_parts();
    --depth_;
    demand(")");
    return Bypass(std::move(inner));
  }

  Start take_start() {
    const std::size_t first = next_;
    std::string words;
    while (!at_end_of_part() && (next_ == first || parse_number(tokens_[next_].text))) {
      words += (words.empty() ? "" : " ") + std::string(tokens_[next_++].text);
    }
    return at_word(first, [&] { return parse_start(words); });
  }

  [[nodiscard]] bool at_end_of_part() const {
    return next_ == tokens_.size() || tokens_[next_].text == "," || tokens_[next_].text == ")";
  }

  bool take(std::string_view text) {
    if (next_ == tokens_.size() || tokens_[next_].text != text) return false;
    ++next_;
    return true;
  }

  void demand(std::string_view text) {
    if (!take(text)) refuse(fmt::format("'{}' is missing", text), fmt::format("'{}'", text));
  }

  double take_number(std::string_view what, std::string_view expected) {
    if (at_end_of_part()) refuse(fmt::format("{} is missing", what), std::string(expected));
    const std::optional<double> number = parse_number(tokens_[next_].text);
    if (!number || !std::isfinite(*number)) {
      refuse(fmt::format("'{}' does not say {}", tokens_[next_].text, what), std::string(expected));
    }
    ++next_;
    return *number;
  }

  /// The blueprint with one word marked.
  [[nodiscard]] std::string marked(std::size_t token) const {
    constexpr std::size_t around = 60;
    const bool at_end = token >= tokens_.size();
    const Token word = at_end ? Token{"", text_.size()} : tokens_[token];
    const std::size_t from = word.from > around ? word.from - around : 0;
    const std::string_view before = text_.substr(from, word.from - from);
    const std::string_view behind = text_.substr(word.from + word.text.size());
    return fmt::format("at {} the blueprint: {}{}{}»{}«{}{}",
                       at_end ? "the end of" : fmt::format("word {} of", token + 1),
                       from > 0 ? "…" : "", before, at_end ? " " : "", word.text,
                       behind.substr(0, around), behind.size() > around ? "…" : "");
  }

  [[noreturn]] void refuse(const std::string& what, const std::string& expected,
                           const std::string& remedy = "") const {
    throw SettingError(
        {.what = what,
         .where = marked(next_),
         .expected = expected,
         .found = next_ < tokens_.size() ? fmt::format("'{}'", tokens_[next_].text) : "the end",
         .remedy = remedy});
  }

  /// What `make` gives; trouble in it is told to be at a word.
  template <class Make>
  auto at_word(std::size_t token, Make make) const -> decltype(make()) {
    try {
      return make();
    } catch (const Error& error) {
      Trouble trouble = error.trouble();
      if (trouble.where.empty()) trouble.where = marked(token);
      throw SettingError(trouble);
    }
  }

  /// How deep bypasses may stand in one another: what is deeper than anything that is taught would
  /// only use up the stack.
  static constexpr int deepest = 50;

  std::string_view text_;
  std::vector<Token> tokens_;
  std::span<const Part> own_;
  std::size_t next_ = 0;
  int depth_ = 0;
};

}  // namespace

std::vector<Part> parse_blueprint(std::string_view text, std::span<const Part> own) {
  return Reader(text, own).read();
}

}  // namespace lattice
