#include "lattice/pictures/picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <span>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "text/scanner.hpp"

namespace lattice {
namespace {

/// How a new position along an axis is made of old ones: their parts, which add up to 1.
struct OldPoint {
  std::int64_t from;
  double part;
};
using Blend = std::vector<std::vector<OldPoint>>;

Blend by_area(std::int64_t from, std::int64_t to) {
  Blend blend(static_cast<std::size_t>(to));
  const double width = static_cast<double>(from) / static_cast<double>(to);
  for (std::int64_t at = 0; at < to; ++at) {
    const double start = static_cast<double>(at) * width;
    const double end = start + width;
    for (auto old = static_cast<std::int64_t>(start); old < from; ++old) {
      const double covered =
          std::min(end, static_cast<double>(old + 1)) - std::max(start, static_cast<double>(old));
      constexpr double nothing = 1e-9;
      if (covered <= nothing) break;
      blend[static_cast<std::size_t>(at)].push_back({old, covered / width});
    }
  }
  return blend;
}

Blend linearly(std::int64_t from, std::int64_t to) {
  Blend blend(static_cast<std::size_t>(to));
  for (std::int64_t at = 0; at < to; ++at) {
    const double middle =
        (static_cast<double>(at) + 0.5) * static_cast<double>(from) / static_cast<double>(to) - 0.5;
    const double inside = std::clamp(middle, 0.0, static_cast<double>(from - 1));
    const auto before = static_cast<std::int64_t>(inside);
    const double part = inside - static_cast<double>(before);
    auto& of = blend[static_cast<std::size_t>(at)];
    of.push_back({before, 1.0 - part});
    if (part > 0.0) of.push_back({before + 1, part});
  }
  return blend;
}

/// A picture of numbers of any kind.
template <class T>
struct Points {
  std::int64_t rows;
  std::int64_t columns;
  std::int64_t channels;
  std::span<const T> numbers;

  [[nodiscard]] const T* at(std::int64_t row, std::int64_t column) const {
    return numbers.data() + (row * columns + column) * channels;
  }
};

template <class T>
T rounded(double number) {
  if constexpr (std::is_integral_v<T>) return static_cast<T>(std::lround(number));
  return static_cast<T>(number);
}

template <class T>
std::vector<T> in_grey(const Points<T>& picture) {
  std::vector<T> grey;
  grey.reserve(picture.numbers.size() / 3);
  for (std::size_t at = 0; at < picture.numbers.size(); at += 3) {
    grey.push_back(rounded<T>(0.299 * picture.numbers[at] + 0.587 * picture.numbers[at + 1] +
                              0.114 * picture.numbers[at + 2]));
  }
  return grey;
}

template <class T>
std::vector<T> middle_of(const Points<T>& picture, const PictureSize& size) {
  const std::int64_t top = (picture.rows - size.rows) / 2;
  const std::int64_t left = (picture.columns - size.columns) / 2;
  std::vector<T> kept;
  for (std::int64_t row = 0; row < size.rows; ++row) {
    const T* const from = picture.at(top + row, left);
    kept.insert(kept.end(), from, from + size.columns * picture.channels);
  }
  return kept;
}

template <class T>
std::vector<T> in_size(const Points<T>& picture, const Blend& down, const Blend& across) {
  std::vector<T> result;
  result.reserve(down.size() * across.size() * static_cast<std::size_t>(picture.channels));
  for (const std::vector<OldPoint>& rows : down) {
    for (const std::vector<OldPoint>& columns : across) {
      for (std::int64_t channel = 0; channel < picture.channels; ++channel) {
        double sum = 0.0;
        for (const OldPoint& row : rows) {
          for (const OldPoint& column : columns) {
            sum += row.part * column.part *
                   static_cast<double>(picture.at(row.from, column.from)[channel]);
          }
        }
        result.push_back(rounded<T>(sum));
      }
    }
  }
  return result;
}

/// The changes for pictures of one shape, worked out once for all of them.
class Changing {
 public:
  Changing(const Shape& picture, const PictureChanges& changes) : changes_(changes) {
    const bool is_picture = picture.rank() == 3;
    rows_ = is_picture ? picture[0] : 0;
    columns_ = is_picture ? picture[1] : 0;
    channels_ = is_picture ? picture[2] : 0;
    if (!is_picture) refuse("only pictures can be changed", "[row × column × channel]", picture);
    turns_grey_ = changes.grey && channels_ != 1;
    if (turns_grey_ && channels_ != 3)
      refuse("grey is made of red, green and blue", "3 channels, or 1", picture);
    const PictureSize before = changes.crop.value_or(PictureSize{rows_, columns_});
    if (before.rows > rows_ || before.columns > columns_) {
      refuse(fmt::format("a crop of {} is larger than the picture", to_string(before)),
             fmt::format("at most {}", to_string(PictureSize{rows_, columns_})), picture);
    }
    const PictureSize after = changes.size.value_or(before);
    if (after != before) {
      down_ = by(before.rows, after.rows);
      across_ = by(before.columns, after.columns);
    }
    shape_ = Shape{after.rows, after.columns, turns_grey_ ? 1 : channels_}.with(
        {Role::row, Role::column, Role::channel});
  }

  [[nodiscard]] const Shape& shape() const { return shape_; }

  template <class T>
  [[nodiscard]] std::vector<T> of(std::span<const T> numbers) const {
    std::vector<T> kept;
    Points<T> points{rows_, columns_, channels_, numbers};
    const auto becomes = [&](std::vector<T> numbers_now, std::int64_t rows, std::int64_t columns,
                             std::int64_t channels) {
      kept = std::move(numbers_now);
      points = {rows, columns, channels, kept};
    };
    if (turns_grey_) becomes(in_grey(points), rows_, columns_, 1);
    if (changes_.crop) {
      becomes(middle_of(points, *changes_.crop), changes_.crop->rows, changes_.crop->columns,
              points.channels);
    }
    if (!down_.empty()) becomes(in_size(points, down_, across_), shape_[0], shape_[1], shape_[2]);
    return {points.numbers.begin(), points.numbers.end()};
  }

 private:
  [[noreturn]] static void refuse(std::string what, std::string expected, const Shape& picture) {
    throw ShapeError(
        {.what = std::move(what), .expected = std::move(expected), .found = to_string(picture)});
  }

  [[nodiscard]] Blend by(std::int64_t from, std::int64_t to) const {
    return changes_.by == Resizing::area ? by_area(from, to) : linearly(from, to);
  }

  PictureChanges changes_;
  std::int64_t rows_;
  std::int64_t columns_;
  std::int64_t channels_;
  bool turns_grey_ = false;
  Blend down_ = {};
  Blend across_ = {};
  Shape shape_ = {};
};

}  // namespace

PictureSize parse_picture_size(std::string_view text) {
  constexpr std::int64_t most = 100'000;
  Scanner words(text, "the size");
  const bool is_crossed = text.find('x') != std::string_view::npos;
  const auto size = is_crossed ? words.take_crossed() : std::nullopt;
  if (size && words.at_end() && size->first >= 1 && size->second >= 1 && size->first <= most &&
      size->second <= most)
    return {size->first, size->second};
  throw SettingError({.what = "this is not the size of a picture",
                      .expected = "rows and columns, such as 28x28",
                      .found = fmt::format("'{}'", text)});
}

std::string to_string(const PictureSize& size) {
  return fmt::format("{}x{}", size.rows, size.columns);
}

Examples changed(const Examples& pictures, const PictureChanges& changes) {
  if (changes.empty()) return pictures;
  const Changing changing(pictures.shape().without_first_axis(), changes);
  const std::int64_t count = pictures.shape()[0];
  const auto width = static_cast<std::size_t>(pictures.count() / count);
  const Shape shape = changing.shape().with_first_axis(count, pictures.shape().role(0));
  const auto all = [&]<class T>(std::span<const T> numbers) {
    std::vector<T> result;
    result.reserve(static_cast<std::size_t>(shape.count()));
    for (std::size_t at = 0; at < numbers.size(); at += width) {
      const std::vector<T> one = changing.of(numbers.subspan(at, width));
      result.insert(result.end(), one.begin(), one.end());
    }
    return result;
  };
  if (pictures.are_bytes())
    return Examples::of_bytes(shape, all(pictures.bytes()), pictures.precision());
  const std::vector<double> numbers = pictures.numbers();
  return tensor(shape, all(std::span<const double>(numbers)), pictures.precision());
}

Examples in_colour(const Examples& pictures) {
  const Shape& shape = pictures.shape();
  if (shape.rank() != 4 || shape[3] != 1) return pictures;
  const Shape colour = shape.with_extent(3, 3);
  const auto thrice = [&](const auto& numbers, auto result) {
    result.reserve(numbers.size() * 3);
    for (const auto number : numbers)
      result.insert(result.end(), 3, number);
    return result;
  };
  if (pictures.are_bytes()) {
    return Examples::of_bytes(colour, thrice(pictures.bytes(), std::vector<std::uint8_t>()),
                              pictures.precision());
  }
  return tensor(colour, thrice(pictures.numbers(), std::vector<double>()), pictures.precision());
}

Raster changed(const Raster& picture, const PictureChanges& changes) {
  if (changes.empty()) return picture;
  const Changing changing(picture.shape(), changes);
  const Shape& shape = changing.shape();
  return {.rows = shape[0],
          .columns = shape[1],
          .channels = shape[2],
          .bytes = changing.of(std::span<const std::uint8_t>(picture.bytes))};
}

}  // namespace lattice
