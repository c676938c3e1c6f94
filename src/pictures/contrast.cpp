#include "lattice/pictures/contrast.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "pictures/contrast_words.hpp"

namespace lattice {

void Contrast::check() const {
  if (size < 3 || size % 2 == 0) {
    throw SettingError({.what = "contrast cannot be normalised in a window of this size",
                        .expected = "an odd number of rows and columns, 3 or more",
                        .found = fmt::format("{}", size)});
  }
  if (!(epsilon > 0.0) || !std::isfinite(epsilon)) {
    throw SettingError({.what = "the epsilon of contrast is not above 0",
                        .expected = "a number above 0, such as 1e-8",
                        .found = format_number(epsilon)});
  }
}

void Contrast::check(const Shape& example) const {
  check();
  if (example.rank() != 3) {
    throw ShapeError({.what = "contrast needs pictures",
                      .expected = "[row × column × channel]",
                      .found = to_string(example)});
  }
  const std::int64_t least = std::min(example[0], example[1]);
  if (size <= least) return;
  throw ShapeError({.what = fmt::format("a window of {0} × {0} is larger than the pictures", size),
                    .expected = fmt::format("at most {} × {}", example[0], example[1]),
                    .found = fmt::format("{0} × {0}", size),
                    .remedy = "a smaller window, or less pooling before it"});
}

std::string text(const Contrast& contrast) {
  std::string text = fmt::format("contrast {}", contrast.size);
  if (contrast.kind != ContrastKind::both)
    text += " " + std::string(contrast_words.of(contrast.kind));
  if (contrast.epsilon != Contrast().epsilon) text += fmt::format(" epsilon {}", contrast.epsilon);
  return text;
}

Contrast parse_contrast(std::string_view text) {
  Scanner words(text, "the contrast");
  Contrast contrast = take_contrast(words);
  if (!words.at_end()) words.refuse("this does not belong to a contrast", "the end");
  return contrast;
}

Contrast take_contrast(Scanner& words) {
  const std::size_t first = words.position();
  words.demand("contrast");
  Contrast contrast{
      .size = words.take_whole("the size of the window", "a window of {} is not possible")};
  while (!words.at_end_of_phrase()) {
    const std::optional<ContrastKind> kind = contrast_words.find(words.next());
    if (kind) {
      words.take();
      contrast.kind = *kind;
    } else if (words.take("epsilon")) {
      contrast.epsilon = words.take_number("the epsilon", "a number, such as 1e-8");
    } else {
      words.refuse("this does not belong to a contrast",
                   "subtractive or divisive, epsilon NUMBER, or the end");
    }
  }
  words.at_word(first, [&] { contrast.check(); });
  return contrast;
}

}  // namespace lattice
