#include "pictures/window_words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "lattice/pictures/window_layers.hpp"
#include "lattice/text/numbers.hpp"
#include "network/start_words.hpp"

namespace lattice {
namespace {

/// Refuses a window that no picture could have, however large.
void check_window(const Scanner& words, std::size_t layer, const Window& window) {
  words.at_word(layer, [&] {
    static_cast<void>(places_of(window, Shape{window.rows, window.columns, 1}));
  });
}

/// The rows and columns of a window: `5x3`, or `5` for a square.
Window take_window(Scanner& words) {
  constexpr const char* expected = "rows and columns, such as 3x3";
  if (words.at_end_of_phrase()) words.refuse("the size of the window is missing", expected);
  const std::size_t first = words.position();
  const auto size = words.take_crossed();
  if (size && size->first >= 1 && size->second >= 1)
    return {.rows = size->first, .columns = size->second};
  words.go_back_to(first);
  words.refuse(fmt::format("'{}' is no window", words.next()), expected);
}

/// Takes what may be said of how a window goes on, when that comes next.
bool take_more_of(Scanner& words, Window& window) {
  if (words.take("stride")) {
    window.stride = words.take_whole("the stride", "a stride of {} is not possible");
  } else if (words.take("padding")) {
    window.padding = Padding::of(
        words.take_whole("the width of the padding", "a padding of {} is not possible", 0));
  } else if (words.take("keeping")) {
    words.demand("size");
    window.padding = Padding::keeping_size();
  } else {
    return false;
  }
  return true;
}

/// The channels in the next word, `0+2`; nothing where it is another kind of word.
std::optional<std::vector<std::int64_t>> channels_in(const Scanner& words) {
  if (words.at_end_of_phrase()) return std::nullopt;
  std::string_view rest = words.next();
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

/// `0+1 1+2 0+2`, or `2 at random`, with an optional seed.
Connections take_connections(Scanner& words) {
  const std::size_t first = words.position();
  std::vector<std::vector<std::int64_t>> sources;
  for (auto some = channels_in(words); some; some = channels_in(words)) {
    sources.push_back(*some);
    words.take();
  }
  if (sources.empty()) {
    words.refuse("which channels feed it is missing",
                 "for each channel those that feed it, such as 0+1 1+2, or 2 at random");
  }
  if (!words.take("at")) return Connections::listed(std::move(sources));
  words.demand("random");
  if (sources.size() > 1 || sources.front().size() > 1) {
    words.go_back_to(first);
    words.refuse("this many channels cannot be drawn", "one number, such as 2 at random");
  }
  std::uint64_t seed = 1;
  if (words.take("seed"))
    seed =
        static_cast<std::uint64_t>(words.take_whole("the seed", "a seed of {} is not possible", 0));
  return words.at_word(first,
                       [&] { return Connections::at_random(sources.front().front(), seed); });
}

template <class Pooling>
Layer read_pooling(Scanner& words) {
  const std::size_t first = words.position() - 1;
  if (words.take("all")) return Pooling{.is_whole = true};
  Pooling layer;
  layer.window = take_window(words);
  layer.window.stride = std::min(layer.window.rows, layer.window.columns);
  while (!words.at_end_of_phrase()) {
    if (take_more_of(words, layer.window)) continue;
    words.refuse("this does not belong to a pooling",
                 "stride N, padding N, keeping size, or a comma");
  }
  check_window(words, first, layer.window);
  return layer;
}

}  // namespace

Layer read_convolution(Scanner& words) {
  const std::size_t first = words.position() - 1;
  Convolution layer{.outputs = words.take_whole("the number of channels",
                                                "a convolution cannot give {} channels")};
  words.demand("of");
  layer.window = take_window(words);
  while (!words.at_end_of_phrase()) {
    if (take_more_of(words, layer.window)) continue;
    if (words.take("from")) {
      layer.from = take_connections(words);
    } else if (words.take_both("without", "bias")) {
      layer.has_bias = false;
    } else if (words.take("start")) {
      layer.start = take_start(words);
    } else if (words.take("bias")) {
      words.demand("start");
      layer.bias_start = take_start(words);
    } else {
      words.refuse(
          "this does not belong to a convolution",
          "stride N, padding N, keeping size, from CHANNELS, without bias, start HOW, bias "
          "start HOW, or a comma");
    }
  }
  check_window(words, first, layer.window);
  return layer;
}

Layer read_max_pooling(Scanner& words) {
  return read_pooling<MaxPooling>(words);
}

Layer read_mean_pooling(Scanner& words) {
  return read_pooling<MeanPooling>(words);
}

}  // namespace lattice
