#include "lattice/network/blueprint.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <list>
#include <string>

#include "lattice/network/grouping_parts.hpp"
#include "lattice/network/normalising_parts.hpp"
#include "lattice/network/parts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "network/start_words.hpp"
#include "text/scanner.hpp"

namespace lattice {
namespace {

template <class P>
Part read_rule(Scanner&) {
  return P{};
}

Part read_dense(Scanner& words) {
  Dense dense{.outputs = words.take_whole("how many units", "a dense part cannot have {} units")};
  while (!words.at_end_of_phrase()) {
    if (words.take_both("without", "bias")) {
      dense.bias = Bias::none;
    } else if (words.take("with")) {
      words.demand("bias");
      words.demand("as");
      words.demand("input");
      dense.bias = Bias::as_input;
    } else if (words.take("start")) {
      dense.start = take_start(words);
    } else if (words.take("bias")) {
      words.demand("start");
      dense.bias_start = take_start(words);
    } else {
      words.refuse("this does not belong to a dense part",
                   "without bias, with bias as input, start HOW, bias start HOW, without l2, or a "
                   "comma");
    }
  }
  return dense;
}

Part read_leaky_relu(Scanner& words) {
  LeakyRelu rule;
  if (!words.at_end_of_phrase())
    rule.leak = words.take_number("the leak", "a number, such as 0.01");
  return rule;
}

Part read_elu(Scanner& words) {
  Elu rule;
  if (!words.at_end_of_phrase()) rule.depth = words.take_number("the depth", "a number, such as 1");
  return rule;
}

Part read_dropout(Scanner& words) {
  const std::size_t share = words.position();
  Dropout dropout{.share = words.take_number("the share to leave out", "a number, such as 0.2")};
  dropout.channels = words.take_both("of", "channels");
  return words.at_word(share, [&] {
    static_cast<void>(dropout.shape(dropout.channels ? Shape{1, 1, 1} : Shape{1}));
    return Part(dropout);
  });
}

Part read_normalise(Scanner& words) {
  const std::size_t first = words.position() - 1;
  Normalise part;
  while (!words.at_end_of_phrase()) {
    if (words.take("each")) {
      words.demand("example");
      part.over = NormalisedOver::example;
    } else if (words.take("decay")) {
      part.decay = words.take_number("the decay", "a number, such as 0.9");
    } else if (words.take("epsilon")) {
      part.epsilon = words.take_number("what is added to variances", "a number, such as 1e-5");
    } else {
      words.refuse("this does not belong to a normalisation",
                   "each example, decay SHARE, epsilon NUMBER, or a comma");
    }
  }
  return words.at_word(first, [&] {
    static_cast<void>(part.shape(Shape{1}));
    return Part(part);
  });
}

/// All parts that are not made of parts, by their words: those of the core, and of the subjects in
/// use.
std::list<LayerWord>& kinds() {
  static std::list<LayerWord> all = {
      {"dense", read_dense},
      {"sigmoid", read_rule<Sigmoid>},
      {"tanh", read_rule<Tanh>},
      {"relu", read_rule<Relu>},
      {"leaky-relu", read_leaky_relu},
      {"softplus", read_rule<Softplus>},
      {"elu", read_elu},
      {"softmax", read_rule<Softmax>},
      {"dropout", read_dropout},
      {"flatten", read_rule<Flatten>},
      {"normalise", read_normalise},
  };
  return all;
}

constexpr std::string_view residual_word = "residual";

/// Reads a blueprint from its first word to its last.
class Reader {
 public:
  Reader(std::string_view text, std::span<const Part> own)
      : words_(text, "the blueprint", {"without", "l2"}), own_(own) {}

  std::vector<Part> read() {
    if (words_.at_end()) {
      throw SettingError({.what = "a network without a part",
                          .expected = "a blueprint, such as dense 8, tanh, dense 4",
                          .found = "nothing"});
    }
    std::vector<Part> parts = read_parts();
    if (!words_.at_end()) words_.refuse("this does not belong to a part", "a comma, or the end");
    return parts;
  }

 private:
  std::vector<Part> read_parts() {
    std::vector<Part> parts;
    do {
      for (Part& part : read_parts_alike())
        parts.push_back(std::move(part));
    } while (words_.take(","));
    return parts;
  }

  /// The name in front of a part, where there is one.
  std::string take_name() {
    if (!words_.is_next(1, ":")) return "";
    std::string name(words_.take());
    words_.demand(":");
    return name;
  }

  /// One part, or several that are alike: `dense 8`, `first: dense 8`, `3 times (dense 8, tanh)`.
  std::vector<Part> read_parts_alike() {
    const std::size_t first = words_.position();
    const std::string name = take_name();
    std::int64_t times = 1;
    if (words_.is_next(1, "times")) {
      times = words_.take_whole("how many times", "a part cannot be taken {} times");
      words_.demand("times");
    }
    const std::size_t made_before = made_;
    const Part part = read_part();
    made_ += (made_ - made_before) * static_cast<std::size_t>(times - 1);
    if (made_ > most_parts) {
      words_.go_back_to(first);
      words_.refuse("a network of too many parts",
                    fmt::format("{} at most, groups opened", most_parts));
    }
    std::vector<Part> parts(static_cast<std::size_t>(times), part);
    for (std::size_t at = 0; !name.empty() && at < parts.size(); ++at) {
      parts[at] = words_.at_word(first, [&] { return named(numbered(name, at + 1), parts[at]); });
    }
    return parts;
  }

  Part read_part() {
    ++made_;
    Part part = read_kind_of_part();
    return words_.take_both("without", "l2") ? without_l2(std::move(part)) : part;
  }

  Part read_kind_of_part() {
    const std::size_t first = words_.position();
    if (words_.is_next(0, "(")) return words_.at_word(first, [&] { return Block(read_group()); });
    const auto own = std::ranges::find(own_, words_.next(), &Part::kind);
    if (own != own_.end()) {
      words_.take();
      return *own;
    }
    if (words_.take(residual_word)) return words_.at_word(first, [&] { return read_residual(); });
    const auto kind = std::ranges::find(kinds(), words_.next(), &LayerWord::word);
    if (kind == kinds().end()) refuse_kind();
    words_.take();
    return words_.at_word(first, [&] { return kind->read(words_); });
  }

  [[noreturn]] void refuse_kind() {
    const std::string text(words_.next());
    std::vector<std::string> known;
    for (const LayerWord& kind : kinds())
      known.emplace_back(kind.word);
    known.emplace_back(residual_word);
    for (const Part& part : own_)
      known.emplace_back(part.kind());
    const std::string near = nearest(text, known);
    words_.refuse(text.empty() ? "a part is missing" : fmt::format("'{}' is not a part", text),
                  fmt::format("one of {}", fmt::join(known, ", ")), did_you_mean(near));
  }

  /// `(dense 8, tanh)`.
  std::vector<Part> read_group() {
    const std::size_t first = words_.position();
    words_.demand("(");
    if (++depth_ > deepest) {
      words_.go_back_to(first);
      words_.refuse("groups stand in one another too deep", fmt::format("up to {}", deepest));
    }
    std::vector<Part> inner = read_parts();
    --depth_;
    words_.demand(")");
    return inner;
  }

  Part read_residual() {
    std::vector<Part> inner = read_group();
    if (!words_.take("with")) return Residual(std::move(inner));
    words_.demand("projection");
    const std::size_t first = words_.position();
    const std::string name = take_name();
    const Part projection = read_part();
    return Residual(std::move(inner), name.empty() ? projection : words_.at_word(first, [&] {
      return named(name, projection);
    }));
  }

  /// Nobody could teach more parts, and they would only use up the memory.
  static constexpr std::size_t most_parts = 10'000;

  /// How deep groups may stand in one another: what is deeper than anything that is taught would
  /// only use up the stack.
  static constexpr int deepest = 50;

  Scanner words_;
  std::span<const Part> own_;
  int depth_ = 0;
  std::size_t made_ = 0;  ///< parts read up to here, those of groups as often as these are taken
};

}  // namespace

void know(const LayerWord& word) {
  kinds().push_back(word);
}

std::vector<Part> parse_blueprint(std::string_view text, std::span<const Part> own) {
  return Reader(text, own).read();
}

}  // namespace lattice
