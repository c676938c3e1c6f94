#include "lattice/network/blueprint.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <list>
#include <string>

#include "lattice/network/grouping_layers.hpp"
#include "lattice/network/layers.hpp"
#include "lattice/network/normalising_layers.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "network/start_words.hpp"
#include "text/scanner.hpp"

namespace lattice {
namespace {

template <class P>
Layer read_rule(Scanner&) {
  return P{};
}

Layer read_dense(Scanner& words) {
  Dense dense{.outputs =
                  words.take_whole("the number of units", "a dense layer cannot have {} units")};
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
      words.refuse("this does not belong to a dense layer",
                   "without bias, with bias as input, start HOW, bias start HOW, without l2, or a "
                   "comma");
    }
  }
  return dense;
}

Layer read_leaky_relu(Scanner& words) {
  LeakyRelu rule;
  if (!words.at_end_of_phrase())
    rule.leak = words.take_number("the leak", "a number, such as 0.01");
  return rule;
}

Layer read_elu(Scanner& words) {
  Elu rule;
  if (!words.at_end_of_phrase()) rule.alpha = words.take_number("alpha", "a number, such as 1");
  return rule;
}

Layer read_dropout(Scanner& words) {
  const std::size_t share = words.position();
  Dropout dropout{.share = words.take_number("the dropout rate", "a number, such as 0.2")};
  dropout.channels = words.take_both("of", "channels");
  return words.at_word(share, [&] {
    static_cast<void>(dropout.shape(dropout.channels ? Shape{1, 1, 1} : Shape{1}));
    return Layer(dropout);
  });
}

Layer read_normalise(Scanner& words) {
  const std::size_t first = words.position() - 1;
  Normalise layer;
  while (!words.at_end_of_phrase()) {
    if (words.take("each")) {
      words.demand("example");
      layer.over = NormalisedOver::example;
    } else if (words.take("decay")) {
      layer.decay = words.take_number("the decay", "a number, such as 0.9");
    } else if (words.take("epsilon")) {
      layer.epsilon = words.take_number("the epsilon", "a number, such as 1e-5");
    } else {
      words.refuse("this does not belong to a normalisation",
                   "each example, decay SHARE, epsilon NUMBER, or a comma");
    }
  }
  return words.at_word(first, [&] {
    static_cast<void>(layer.shape(Shape{1}));
    return Layer(layer);
  });
}

/// All layers that are not made of layers, by their words: those of the core, and of the subjects
/// in use.
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
  Reader(std::string_view text, std::span<const Layer> own)
      : words_(text, "the blueprint", {"without", "l2"}), own_(own) {}

  std::vector<Layer> read() {
    if (words_.at_end()) {
      throw SettingError({.what = "a network without layers",
                          .expected = "a blueprint, such as dense 8, tanh, dense 4",
                          .found = "nothing"});
    }
    std::vector<Layer> layers = read_layers();
    if (!words_.at_end()) words_.refuse("this does not belong to a layer", "a comma, or the end");
    return layers;
  }

 private:
  std::vector<Layer> read_layers() {
    std::vector<Layer> layers;
    do {
      for (Layer& layer : read_layers_alike())
        layers.push_back(std::move(layer));
    } while (words_.take(","));
    return layers;
  }

  /// The name in front of a layer, where there is one.
  std::string take_name() {
    if (!words_.is_next(1, ":")) return "";
    std::string name(words_.take());
    words_.demand(":");
    return name;
  }

  /// One layer, or several that are alike: `dense 8`, `first: dense 8`, `3 times (dense 8, tanh)`.
  std::vector<Layer> read_layers_alike() {
    const std::size_t first = words_.position();
    const std::string name = take_name();
    std::int64_t times = 1;
    if (words_.is_next(1, "times")) {
      times = words_.take_whole("the number of repetitions", "a layer cannot be taken {} times");
      words_.demand("times");
    }
    const std::size_t made_before = made_;
    const Layer layer = read_layer();
    made_ += (made_ - made_before) * static_cast<std::size_t>(times - 1);
    if (made_ > most_layers) {
      words_.go_back_to(first);
      words_.refuse("a network of too many layers",
                    fmt::format("{} at most, groups opened", most_layers));
    }
    std::vector<Layer> layers(static_cast<std::size_t>(times), layer);
    for (std::size_t at = 0; !name.empty() && at < layers.size(); ++at) {
      layers[at] = words_.at_word(first, [&] { return named(numbered(name, at + 1), layers[at]); });
    }
    return layers;
  }

  Layer read_layer() {
    ++made_;
    Layer layer = read_kind_of_layer();
    return words_.take_both("without", "l2") ? without_l2(std::move(layer)) : layer;
  }

  Layer read_kind_of_layer() {
    const std::size_t first = words_.position();
    if (words_.is_next(0, "(")) return words_.at_word(first, [&] { return Block(read_group()); });
    const auto own = std::ranges::find(own_, words_.next(), &Layer::kind);
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
    for (const Layer& layer : own_)
      known.emplace_back(layer.kind());
    const std::string near = nearest(text, known);
    words_.refuse(text.empty() ? "a layer is missing" : fmt::format("'{}' is not a layer", text),
                  fmt::format("one of {}", fmt::join(known, ", ")), did_you_mean(near));
  }

  /// `(dense 8, tanh)`.
  std::vector<Layer> read_group() {
    const std::size_t first = words_.position();
    words_.demand("(");
    if (++depth_ > deepest) {
      words_.go_back_to(first);
      words_.refuse("groups are nested too deeply", fmt::format("up to {}", deepest));
    }
    std::vector<Layer> inner = read_layers();
    --depth_;
    words_.demand(")");
    return inner;
  }

  Layer read_residual() {
    std::vector<Layer> inner = read_group();
    if (!words_.take("with")) return Residual(std::move(inner));
    words_.demand("projection");
    const std::size_t first = words_.position();
    const std::string name = take_name();
    const Layer projection = read_layer();
    return Residual(std::move(inner), name.empty() ? projection : words_.at_word(first, [&] {
      return named(name, projection);
    }));
  }

  /// Nobody could teach more layers, and they would only use up the memory.
  static constexpr std::size_t most_layers = 10'000;

  /// How deep groups may stand in one another: what is deeper than anything that is taught would
  /// only use up the stack.
  static constexpr int deepest = 50;

  Scanner words_;
  std::span<const Layer> own_;
  int depth_ = 0;
  std::size_t made_ = 0;  ///< layers read up to here, those of groups as often as these are taken
};

}  // namespace

void know(const LayerWord& word) {
  kinds().push_back(word);
}

std::vector<Layer> parse_blueprint(std::string_view text, std::span<const Layer> own) {
  return Reader(text, own).read();
}

}  // namespace lattice
