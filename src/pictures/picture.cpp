#include "lattice/pictures/picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <memory>
#include <optional>
#include <span>
#include <utility>

#include "data/hash.hpp"
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

/// The parts of all new positions, one position after another.
class Blend {
 public:
  explicit Blend(std::int64_t positions) { ends_.reserve(static_cast<std::size_t>(positions)); }

  void add(OldPoint point) { points_.push_back(point); }
  void end_position() { ends_.push_back(points_.size()); }

  [[nodiscard]] std::size_t positions() const { return ends_.size(); }
  [[nodiscard]] std::span<const OldPoint> at(std::size_t position) const {
    const std::size_t from = position == 0 ? 0 : ends_[position - 1];
    return std::span(points_).subspan(from, ends_[position] - from);
  }

 private:
  std::vector<OldPoint> points_ = {};
  std::vector<std::size_t> ends_ = {};
};

Blend by_area(std::int64_t from, std::int64_t to) {
  Blend blend(to);
  const double width = static_cast<double>(from) / static_cast<double>(to);
  for (std::int64_t at = 0; at < to; ++at) {
    const double start = static_cast<double>(at) * width;
    const double end = start + width;
    for (auto old = static_cast<std::int64_t>(start); old < from; ++old) {
      const double covered =
          std::min(end, static_cast<double>(old + 1)) - std::max(start, static_cast<double>(old));
      constexpr double nothing = 1e-9;
      if (covered <= nothing) break;
      blend.add({old, covered / width});
    }
    blend.end_position();
  }
  return blend;
}

Blend linearly(std::int64_t from, std::int64_t to) {
  Blend blend(to);
  for (std::int64_t at = 0; at < to; ++at) {
    const double middle =
        (static_cast<double>(at) + 0.5) * static_cast<double>(from) / static_cast<double>(to) - 0.5;
    const double inside = std::clamp(middle, 0.0, static_cast<double>(from - 1));
    const auto before = static_cast<std::int64_t>(inside);
    const double part = inside - static_cast<double>(before);
    blend.add({before, 1.0 - part});
    if (part > 0.0) blend.add({before + 1, part});
    blend.end_position();
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
  if constexpr (std::is_integral_v<T>) {
    // Bytes are not negative: the nearest whole number without a call.
    const auto whole = static_cast<int>(number);
    return static_cast<T>(number - whole >= 0.5 ? whole + 1 : whole);
  }
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
  std::vector<T> result(down.positions() * across.positions() *
                        static_cast<std::size_t>(picture.channels));
  T* to = result.data();
  for (std::size_t row = 0; row < down.positions(); ++row) {
    const std::span<const OldPoint> rows = down.at(row);
    for (std::size_t column = 0; column < across.positions(); ++column) {
      const std::span<const OldPoint> columns = across.at(column);
      for (std::int64_t channel = 0; channel < picture.channels; ++channel) {
        double sum = 0.0;
        for (const OldPoint& old_row : rows) {
          for (const OldPoint& old_column : columns) {
            sum += old_row.part * old_column.part *
                   static_cast<double>(picture.at(old_row.from, old_column.from)[channel]);
          }
        }
        *to++ = rounded<T>(sum);
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
    if (down_) becomes(in_size(points, *down_, *across_), shape_[0], shape_[1], shape_[2]);
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
  std::optional<Blend> down_ = std::nullopt;
  std::optional<Blend> across_ = std::nullopt;
  Shape shape_ = {};
};

/// Pictures that are changed whenever they are asked for.
class ChangedPictures final : public ExampleSource {
 public:
  ChangedPictures(Examples raw, Changing changing)
      : raw_(std::move(raw)), changing_(std::move(changing)) {}

  void write(std::int64_t example, std::span<std::uint8_t> to) const override {
    const std::vector<std::uint8_t> one = changing_.of(std::span<const std::uint8_t>(raw(example)));
    std::ranges::copy(one, to.begin());
  }

  [[nodiscard]] std::uint64_t fingerprint(std::int64_t example) const override {
    Hash hash;
    hash.take(hash_of(raw(example)));
    for (int axis = 0; axis < changing_.shape().rank(); ++axis)
      hash.take(static_cast<std::uint64_t>(changing_.shape()[axis]));
    return hash.value();
  }

 private:
  [[nodiscard]] std::vector<std::uint8_t> raw(std::int64_t example) const {
    std::vector<std::uint8_t> one(static_cast<std::size_t>(raw_.count() / raw_.shape()[0]));
    raw_.copy_bytes(example, one);
    return one;
  }

  Examples raw_;
  Changing changing_;
};

/// Grey pictures with their bytes three times.
class InColour final : public ExampleSource {
 public:
  explicit InColour(Examples grey) : grey_(std::move(grey)) {}

  void write(std::int64_t example, std::span<std::uint8_t> to) const override {
    std::vector<std::uint8_t> one(to.size() / 3);
    grey_.copy_bytes(example, one);
    for (std::size_t at = 0; at < to.size(); ++at)
      to[at] = one[at / 3];
  }

  [[nodiscard]] std::uint64_t fingerprint(std::int64_t example) const override {
    return grey_.source()->fingerprint(grey_.number_in_source(example));
  }

 private:
  Examples grey_;
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

Examples changed(const Examples& pictures, const PictureChanges& changes,
                 std::int64_t most_in_memory) {
  if (changes.empty()) return pictures;
  const Changing changing(pictures.shape().without_first_axis(), changes);
  const std::int64_t count = pictures.shape()[0];
  const auto width = static_cast<std::size_t>(pictures.count() / count);
  const Shape shape = changing.shape().with_first_axis(count, pictures.shape().role(0));
  if (pictures.source() != nullptr || (pictures.are_bytes() && shape.count() > most_in_memory)) {
    return Examples::made_by(std::make_shared<const ChangedPictures>(pictures, changing), shape,
                             pictures.precision());
  }
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
  if (pictures.source() != nullptr) {
    return Examples::made_by(std::make_shared<const InColour>(pictures), colour,
                             pictures.precision());
  }
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
