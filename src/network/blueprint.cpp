#include "lattice/network/blueprint.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <optional>
#include <string>

#include "lattice/network/contrast_part.hpp"
#include "lattice/network/graph_parts.hpp"
#include "lattice/network/grouping_parts.hpp"
#include "lattice/network/normalising_parts.hpp"
#include "lattice/network/parts.hpp"
#include "lattice/network/window_parts.hpp"
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
        {"residual", &Reader::read_residual},
        {"conv", &Reader::read_convolution},
        {"maximum", &Reader::read_pooling<MaxPooling>},
        {"average", &Reader::read_pooling<MeanPooling>},
        {"flatten", &Reader::read_rule<Flatten>},
        {"normalise", &Reader::read_normalise},
        {"contrast", &Reader::read_contrast},
        {"neighbours", &Reader::read_rule<Neighbours>},
    };
    return all;
  }

  std::vector<Part> read_parts() {
    std::vector<Part> parts;
    do {
      for (Part& part : read_parts_alike())
        parts.push_back(std::move(part));
    } while (take(","));
    return parts;
  }

  /// One part, or several that are alike: `dense 8`, `first: dense 8`, `3 times (dense 8, tanh)`.
  std::vector<Part> read_parts_alike() {
    const std::size_t first = next_;
    const bool has_name = is_next(1, ":");
    if (has_name) next_ += 2;
    std::int64_t times = 1;
    if (is_next(1, "times")) {
      times = take_whole("how many times", "a part cannot be taken {} times");
      demand("times");
    }
    const std::size_t made_before = made_;
    const Part part = read_part();
    made_ += (made_ - made_before) * static_cast<std::size_t>(times - 1);
    if (made_ > most_parts) {
      next_ = first;
      refuse("a network of too many parts", fmt::format("{} at most, groups opened", most_parts));
    }
    std::vector<Part> parts(static_cast<std::size_t>(times), part);
    for (std::size_t at = 0; has_name && at < parts.size(); ++at) {
      parts[at] =
          at_word(first, [&] { return named(numbered(tokens_[first].text, at + 1), parts[at]); });
    }
    return parts;
  }

  Part read_part() {
    ++made_;
    Part part = read_kind_of_part();
    return take_both("without", "l2") ? without_l2(std::move(part)) : part;
  }

  Part read_kind_of_part() {
    const std::size_t word = next_;
    if (is_next(0, "(")) return at_word(word, [&] { return Block(read_group()); });
    const std::string_view text = next_ < tokens_.size() ? tokens_[next_].text : "";
    const auto kind = std::ranges::find(kinds(), text, &Kind::word);
    const auto own = std::ranges::find(own_, text, &Part::kind);
    if (kind == kinds().end() && own == own_.end()) refuse_kind(text);
    ++next_;
    return own != own_.end() ? *own : at_word(word, [&] { return (this->*kind->read)(); });
  }

  [[noreturn]] void refuse_kind(std::string_view text) {
    std::vector<std::string> words;
    for (const Kind& kind : kinds())
      words.emplace_back(kind.word);
    for (const Part& part : own_)
      words.emplace_back(part.kind());
    const std::string near = nearest(text, words);
    refuse(text.empty() ? "a part is missing" : fmt::format("'{}' is not a part", text),
           fmt::format("one of {}", fmt::join(words, ", ")), did_you_mean(near));
  }

  template <class P>
  Part read_rule() {
    return P{};
  }

  Part read_dense() {
    Dense dense{.outputs = take_whole("how many units", "a dense part cannot have {} units")};
    while (!at_end_of_part()) {
      if (take_both("without", "bias")) {
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
               "without bias, with bias as input, start HOW, bias start HOW, without l2, or a "
               "comma");
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
    dropout.channels = take_both("of", "channels");
    return at_word(word, [&] {
      static_cast<void>(dropout.shape(dropout.channels ? Shape{1, 1, 1} : Shape{1}));
      return Part(dropout);
    });
  }

  /// `(dense 8, tanh)`.
  std::vector<Part> read_group() {
    demand("(");
    if (++depth_ > deepest) {
      --next_;
      refuse("groups stand in one another too deep", fmt::format("up to {}", deepest));
    }
    std::vector<Part> inner = read_parts();
    --depth_;
    demand(")");
    return inner;
  }

  Part read_residual() {
    std::vector<Part> inner = read_group();
    if (!take("with")) return Residual(std::move(inner));
    demand("projection");
    const bool has_name = is_next(1, ":");
    const std::size_t name = next_;
    if (has_name) next_ += 2;
    const Part projection = read_part();
    return Residual(std::move(inner),
                    has_name ? at_word(name, [&] { return named(tokens_[name].text, projection); })
                             : projection);
  }

  Part read_convolution() {
    const std::size_t word = next_ - 1;
    Convolution part{.outputs =
                         take_whole("how many channels", "a convolution cannot give {} channels")};
    demand("of");
    part.window = take_window();
    while (!at_end_of_part()) {
      if (take_more_of(part.window)) continue;
      if (take("from")) {
        part.from = take_connections();
      } else if (take_both("without", "bias")) {
        part.has_bias = false;
      } else if (take("start")) {
        part.start = take_start();
      } else if (take("bias")) {
        demand("start");
        part.bias_start = take_start();
      } else {
        refuse("this does not belong to a convolution",
               "stride N, padding N, keeping size, from CHANNELS, without bias, start HOW, bias "
               "start HOW, or a comma");
      }
    }
    check_window(word, part.window);
    return part;
  }

  template <class Pooling>
  Part read_pooling() {
    const std::size_t word = next_ - 1;
    if (take("all")) return Pooling{.is_whole = true};
    Pooling part;
    part.window = take_window();
    part.window.stride = std::min(part.window.rows, part.window.columns);
    while (!at_end_of_part()) {
      if (take_more_of(part.window)) continue;
      refuse("this does not belong to a pooling", "stride N, padding N, keeping size, or a comma");
    }
    check_window(word, part.window);
    return part;
  }

  Part read_normalise() {
    const std::size_t word = next_ - 1;
    Normalise part;
    while (!at_end_of_part()) {
      if (take("each")) {
        demand("example");
        part.over = NormalisedOver::example;
      } else if (take("decay")) {
        part.decay = take_number("the decay", "a number, such as 0.9");
      } else if (take("epsilon")) {
        part.epsilon = take_number("what is added to variances", "a number, such as 1e-5");
      } else {
        refuse("this does not belong to a normalisation",
               "each example, decay SHARE, epsilon NUMBER, or a comma");
      }
    }
    return at_word(word, [&] {
      static_cast<void>(part.shape(Shape{1}));
      return Part(part);
    });
  }

  Part read_contrast() {
    const std::size_t word = next_ - 1;
    std::string words(tokens_[word].text);
    while (!at_end_of_part())
      words += " " + std::string(tokens_[next_++].text);
    return at_word(word, [&] { return Part(NormaliseContrast{parse_contrast(words)}); });
  }

  /// Refuses a window that no picture could have, however large.
  void check_window(std::size_t word, const Window& window) const {
    at_word(word, [&] {
      static_cast<void>(places_of(window, Shape{window.rows, window.columns, 1}));
    });
  }

  /// The rows and columns of a window: `5x3`, or `5` for a square.
  Window take_window() {
    constexpr std::string_view expected = "rows and columns, such as 3x3";
    if (at_end_of_part()) refuse("the size of the window is missing", std::string(expected));
    const std::string_view text = tokens_[next_].text;
    std::size_t between = text.find('x');
    std::size_t after = between + 1;
    constexpr std::string_view times = "×";
    if (between == std::string_view::npos) {
      between = text.find(times);
      after = between + times.size();
    }
    const bool is_square = between == std::string_view::npos;
    const auto rows = parse_whole_number(text.substr(0, between));
    const auto columns = is_square ? rows : parse_whole_number(text.substr(after));
    if (!rows || !columns || *rows < 1 || *columns < 1) {
      refuse(fmt::format("'{}' is no window", text), std::string(expected));
    }
    ++next_;
    return {.rows = *rows, .columns = *columns};
  }

  /// Takes what may be told of how a window goes on, when that comes next.
  bool take_more_of(Window& window) {
    if (take("stride")) {
      window.stride = take_whole("the stride", "a stride of {} cannot be");
    } else if (take("padding")) {
      window.padding =
          Padding::of(take_whole("how wide the padding is", "a padding of {} cannot be", 0));
    } else if (take("keeping")) {
      demand("size");
      window.padding = Padding::keeping_size();
    } else {
      return false;
    }
    return true;
  }

  /// `0+1 1+2 0+2`, or `2 at random`, with a seed if wanted.
  Connections take_connections() {
    const std::size_t first = next_;
    std::vector<std::vector<std::int64_t>> sources;
    for (std::optional<std::vector<std::int64_t>> some = channels_here(); some;
         some = channels_here()) {
      sources.push_back(*some);
      ++next_;
    }
    if (sources.empty()) {
      refuse("which channels feed it is missing",
             "for each channel those that feed it, such as 0+1 1+2, or 2 at random");
    }
    if (!take("at")) return Connections::listed(std::move(sources));
    demand("random");
    if (sources.size() > 1 || sources.front().size() > 1) {
      next_ = first;
      refuse("so many channels cannot be drawn", "one number, such as 2 at random");
    }
    std::uint64_t seed = 1;
    if (take("seed"))
      seed = static_cast<std::uint64_t>(take_whole("the seed", "a seed of {} cannot be", 0));
    return at_word(first, [&] { return Connections::at_random(sources.front().front(), seed); });
  }

  /// The channels in the next word, `0+2`; nothing where it is another kind of word.
  [[nodiscard]] std::optional<std::vector<std::int64_t>> channels_here() const {
    if (at_end_of_part()) return std::nullopt;
    std::string_view rest = tokens_[next_].text;
    std::vector<std::int64_t> channels;
    for (;;) {
      const std::size_t plus = rest.find('+');
      const std::optional<std::int64_t> channel = parse_whole_number(rest.substr(0, plus));
      if (!channel) return std::nullopt;
      channels.push_back(*channel);
      if (plus == std::string_view::npos) return channels;
      rest.remove_prefix(plus + 1);
    }
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
    return next_ == tokens_.size() || is_next(0, ",") || is_next(0, ")") || is_without_l2();
  }

  /// What may stand behind any part.
  [[nodiscard]] bool is_without_l2() const { return is_next(0, "without") && is_next(1, "l2"); }

  /// Whether so many words on there is this one.
  [[nodiscard]] bool is_next(std::size_t on, std::string_view text) const {
    return next_ + on < tokens_.size() && tokens_[next_ + on].text == text;
  }

  bool take(std::string_view text) {
    if (!is_next(0, text)) return false;
    ++next_;
    return true;
  }

  bool take_both(std::string_view first, std::string_view second) {
    if (!is_next(0, first) || !is_next(1, second)) return false;
    next_ += 2;
    return true;
  }

  void demand(std::string_view text) {
    if (!take(text)) refuse(fmt::format("'{}' is missing", text), fmt::format("'{}'", text));
  }

  /// @param refusal of another number, which stands in it as {}
  std::int64_t take_whole(std::string_view what, std::string_view refusal, std::int64_t low = 1) {
    constexpr std::int64_t most = 1'000'000;
    const std::string expected = fmt::format("a whole number from {} to {}", low, most);
    const std::size_t word = next_;
    const double number = take_number(what, expected);
    if (number == std::floor(number) && number >= static_cast<double>(low) &&
        number <= static_cast<double>(most))
      return static_cast<std::int64_t>(number);
    next_ = word;
    refuse(fmt::format(fmt::runtime(refusal), tokens_[word].text), expected);
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

  /// So many parts could be taught by nobody, and would only use up the memory.
  static constexpr std::size_t most_parts = 10'000;

  /// How deep groups may stand in one another: what is deeper than anything that is taught would
  /// only use up the stack.
  static constexpr int deepest = 50;

  std::string_view text_;
  std::vector<Token> tokens_;
  std::span<const Part> own_;
  std::size_t next_ = 0;
  int depth_ = 0;
  std::size_t made_ = 0;  ///< parts read up to here, those of groups as often as these are taken
};

}  // namespace

std::vector<Part> parse_blueprint(std::string_view text, std::span<const Part> own) {
  return Reader(text, own).read();
}

}  // namespace lattice
