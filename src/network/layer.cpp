#include "lattice/network/layer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <map>

#include "lattice/text/error.hpp"

namespace lattice {

Tensor WeightNeed::draw(Random& random, Precision precision) const {
  return draw(start, random, precision);
}

Tensor WeightNeed::draw(const Start& other, Random& random, Precision precision) const {
  const int rank = shape.rank();
  const std::int64_t units = rank == 0 ? 1 : shape[rank - 1];
  return other.draw(shape, inputs.value_or(shape.count() / units), outputs.value_or(units), random,
                    precision);
}

Layer named(std::string_view name, Layer layer) {
  const auto is_letter = [](char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; };
  const auto may_follow = [&](char c) {
    return is_letter(c) || std::isdigit(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '-';
  };
  if (name.empty() || !is_letter(name[0]) || !std::ranges::all_of(name, may_follow)) {
    throw NameError({.what = "a layer cannot have this name",
                     .expected = "a letter, followed by letters, digits, _ or -",
                     .found = fmt::format("'{}'", name)});
  }
  layer.name_ = name;
  return layer;
}

Layer without_l2(Layer layer) {
  layer.is_spared_ = true;
  return layer;
}

std::vector<WeightNeed> Layer::weights(const Shape& example) const {
  std::vector<WeightNeed> needs = layer_->weights(example);
  for (WeightNeed& need : needs)
    need.is_spared = need.is_spared || is_spared_;
  return needs;
}

std::vector<std::string> names_of(std::span<const Layer> layers, bool has_output) {
  std::map<std::string, int, std::less<>> used;
  for (const Layer& layer : layers) {
    if (layer.given_name().empty()) continue;
    if (++used[layer.given_name()] > 1) {
      throw NameError({.what = fmt::format("two layers are called '{}'", layer.given_name()),
                       .expected = "a name of its own for each layer",
                       .found = fmt::format("'{}' twice", layer.given_name())});
    }
  }
  const auto has_units = [](const Layer& layer) { return layer.nature().units.has_value(); };
  const auto last = std::find_if(layers.rbegin(), layers.rend(), has_units);
  std::map<std::string, std::size_t> numbers;
  std::vector<std::string> names;
  for (const Layer& layer : layers) {
    std::string name = layer.given_name();
    if (name.empty()) {
      const bool is_output = has_output && last != layers.rend() && &layer == &*last;
      const std::string word = is_output          ? "output"
                               : has_units(layer) ? "hidden"
                                                  : std::string(layer.kind());
      std::size_t& number = numbers[word];
      do {
        ++number;
        name = numbered(word, number);
      } while (used[name] > 0);
      ++used[name];
    }
    names.push_back(std::move(name));
  }
  return names;
}

namespace {

/// How many groups from here on are alike: of no name, or called `block`, `block2`, `block3`.
std::size_t alike_from(std::span<const Layer> layers) {
  const Layer& first = layers.front();
  if (first.inside().empty()) return 1;
  std::size_t count = 1;
  while (count < layers.size() && layers[count].unnamed_text() == first.unnamed_text() &&
         layers[count].given_name() == numbered(first.given_name(), count + 1)) {
    ++count;
  }
  return count;
}

}  // namespace

std::string blueprint_of(std::span<const Layer> layers) {
  std::string text;
  while (!layers.empty()) {
    const Layer& first = layers.front();
    const std::size_t times = alike_from(layers);
    if (!text.empty()) text += ", ";
    if (!first.given_name().empty()) text += first.given_name() + ": ";
    if (times > 1) text += fmt::format("{} times ", times);
    text += first.unnamed_text();
    layers = layers.subspan(times);
  }
  return text;
}

std::string numbered(std::string_view name, std::size_t number) {
  return name.empty() || number == 1 ? std::string(name) : fmt::format("{}{}", name, number);
}

std::string detail::blueprint_text(std::string_view word, double number) {
  return fmt::format("{} {}", word, number);
}

std::string detail::blueprint_word(std::string_view name) {
  std::string word(name);
  std::ranges::transform(word, word.begin(), [](unsigned char c) {
    return c == ' ' ? '-' : static_cast<char>(std::tolower(c));
  });
  return word;
}

}  // namespace lattice
