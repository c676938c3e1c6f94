#include "lattice/pictures/window_layers.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "lattice/pictures/window_operations.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"

namespace lattice {
namespace {

constexpr std::int64_t most_channels = 1'000'000;

void check_is_picture(const Shape& example, std::string_view layer) {
  if (example.rank() == 3) return;
  throw ShapeError(
      {.what = fmt::format("{} needs pictures", layer),
       .expected = "[row × column × channel]",
       .found = to_string(example),
       .remedy = example.rank() == 1 ? "it stands before flatten and dense layers" : ""});
}

[[noreturn]] void refuse_connections(std::string what, std::string expected, std::string found) {
  throw SettingError(
      {.what = std::move(what), .expected = std::move(expected), .found = std::move(found)});
}

/// Channels that feed another one, `0+2+3`.
std::string joined(const std::vector<std::int64_t>& channels) {
  return fmt::format("{}", fmt::join(channels, "+"));
}

/// The text of a pooling: the window's stride is told where it is another than the usual one.
std::string pooling_text(std::string_view word, const Window& window, bool is_whole) {
  if (is_whole) return fmt::format("{} all", word);
  if (window.rows == window.columns && window.stride == window.rows &&
      window.padding == Padding::none())
    return fmt::format("{} {}", word, window.rows);
  return fmt::format("{} {}", word, to_string(window));
}

Shape pooled_shape(std::string_view word, const Shape& example, const Window& window,
                   bool is_whole) {
  check_is_picture(example, word);
  if (is_whole) return Shape{example[2]}.with({Role::channel});
  return places_shape(places_of(window, example), example, example[2]);
}

}  // namespace

Connections Connections::listed(std::vector<std::vector<std::int64_t>> sources) {
  Connections connections;
  connections.listed_ = std::move(sources);
  if (!connections.listed_.empty()) return connections;
  refuse_connections("a list of connections without a channel",
                     "for each channel that goes out those that feed it", "nothing");
}

Connections Connections::at_random(std::int64_t sources, std::uint64_t seed) {
  if (sources < 1) {
    refuse_connections("a channel has to be fed", "1 channel or more", fmt::format("{}", sources));
  }
  Connections connections;
  connections.drawn_ = sources;
  connections.seed_ = seed;
  return connections;
}

std::vector<Connections::Pair> Connections::pairs(std::int64_t in, std::int64_t out) const {
  if (drawn_ > in) {
    refuse_connections(fmt::format("{} channels cannot be drawn from {}", drawn_, in),
                       fmt::format("1 to {}, the channels that come in", in),
                       fmt::format("{}", drawn_));
  }
  if (!listed_.empty() && std::ssize(listed_) != out) {
    refuse_connections("connections for other channels than go out",
                       fmt::format("{} groups, one for each channel that goes out", out),
                       fmt::format("{}", listed_.size()));
  }
  std::vector<Pair> pairs;
  Random random = Random(seed_).branch("connections");
  for (std::int64_t to = 0; to < out; ++to) {
    std::vector<std::int64_t> sources;
    if (!listed_.empty()) {
      sources = listed_[static_cast<std::size_t>(to)];
    } else if (drawn_ > 0) {
      sources = random.shuffled(in);
      sources.resize(static_cast<std::size_t>(drawn_));
    } else {
      for (std::int64_t from = 0; from < in; ++from)
        sources.push_back(from);
    }
    std::ranges::sort(sources);
    if (sources.empty()) {
      refuse_connections(fmt::format("nothing feeds channel {}", to), "1 channel or more", "none");
    }
    for (const std::int64_t from : sources) {
      if (from < 0 || from >= in) {
        refuse_connections(fmt::format("channel {} cannot be fed by channel {}", to, from),
                           fmt::format("0 to {}, the channels that come in", in - 1),
                           fmt::format("{}", from));
      }
      if (!pairs.empty() && pairs.back() == Pair(from, to)) {
        refuse_connections(fmt::format("channel {} feeds channel {} twice", from, to),
                           "each channel once", joined(sources));
      }
      pairs.emplace_back(from, to);
    }
  }
  return pairs;
}

std::string Connections::text() const {
  if (are_all()) return "";
  if (drawn_ > 0) {
    return fmt::format("from {} at random{}", drawn_,
                       seed_ == 1 ? "" : fmt::format(" seed {}", seed_));
  }
  std::string text = "from";
  for (const std::vector<std::int64_t>& sources : listed_)
    text += " " + joined(sources);
  return text;
}

std::string Convolution::text() const {
  std::string text = fmt::format("conv {} of {}", outputs, to_string(window));
  if (!from.are_all()) text += " " + from.text();
  if (!has_bias) text += " without bias";
  if (start != Start::xavier()) text += " start " + start.text();
  if (bias_start != Start::zeros()) text += " bias start " + bias_start.text();
  return text;
}

Shape Convolution::shape(const Shape& example) const {
  check_is_picture(example, kind());
  if (outputs < 1 || outputs > most_channels) {
    throw SettingError({.what = fmt::format("a convolution cannot give {} channels", outputs),
                        .expected = fmt::format("1 to {}", most_channels),
                        .found = fmt::format("{}", outputs)});
  }
  if (!from.are_all()) static_cast<void>(from.pairs(example[2], outputs));
  return places_shape(places_of(window, example), example, outputs);
}

std::vector<WeightNeed> Convolution::weights(const Shape& example) const {
  const std::int64_t size = window.rows * window.columns;
  WeightNeed kernel{.name = "kernel", .shape = {}, .start = start};
  if (from.are_all()) {
    kernel.shape = Shape{window.rows, window.columns, example[2], outputs}.with(
        {Role::row, Role::column, Role::channel, Role::channel});
    kernel.inputs = size * example[2];
    kernel.outputs = size * outputs;
  } else {
    // As many as there are on average, on either side.
    kernel.connections = from.pairs(example[2], outputs);
    const auto connections = std::ssize(kernel.connections);
    kernel.shape =
        Shape{window.rows, window.columns, connections}.with({Role::row, Role::column, Role::none});
    kernel.inputs = std::max(size * connections / outputs, std::int64_t{1});
    kernel.outputs = std::max(size * connections / example[2], std::int64_t{1});
  }
  std::vector<WeightNeed> needs = {kernel};
  if (has_bias) {
    needs.push_back({.name = "bias",
                     .shape = Shape{outputs}.with({Role::channel}),
                     .inputs = kernel.inputs,
                     .outputs = kernel.outputs,
                     .start = bias_start});
  }
  return needs;
}

std::int64_t Convolution::multiplications(const Shape& example) const {
  const WindowPlaces places = places_of(window, example);
  return places.down.places * places.across.places * weights(example).front().shape.count();
}

Line Convolution::forward(const Line& x, Pass& pass) const {
  ConvolutionSettings<Line> settings{.stride = window.stride, .padding = window.padding};
  const Line kernel = pass.weight("kernel");
  if (has_bias) settings.bias = pass.weight("bias");
  if (!from.are_all()) {
    std::vector<double> numbers;
    const auto pairs = from.pairs(x.shape()[3], outputs);
    for (const auto& [in, out] : pairs) {
      numbers.push_back(static_cast<double>(in));
      numbers.push_back(static_cast<double>(out));
    }
    settings.table =
        pass.given("table", tensor(Shape{std::ssize(pairs), 2}, numbers, x.value().precision()));
  }
  return convolution(x, kernel, settings);
}

std::string MaxPooling::text() const {
  return pooling_text(kind(), window, is_whole);
}

Shape MaxPooling::shape(const Shape& example) const {
  return pooled_shape(kind(), example, window, is_whole);
}

Line MaxPooling::forward(const Line& x, Pass&) const {
  return is_whole ? max(x, {.axes = {1, 2}}) : max_pooling(x, window);
}

std::string MeanPooling::text() const {
  return pooling_text(kind(), window, is_whole);
}

Shape MeanPooling::shape(const Shape& example) const {
  return pooled_shape(kind(), example, window, is_whole);
}

Line MeanPooling::forward(const Line& x, Pass&) const {
  return is_whole ? mean(x, {.axes = {1, 2}}) : mean_pooling(x, window);
}

}  // namespace lattice
