#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "show/plot.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice {

using plot::Colour;
using plot::pixel;

namespace {

/// The page, in units of some 8 pixels: what it has room for, and what a line of text takes.
constexpr double page_across = 160.0;
constexpr double page_down = 92.0;
constexpr double of_caption = 3.4;
constexpr double of_heading = 5.0;
constexpr double beside_heading = 30.0;
constexpr double gap = 1.6;
constexpr std::size_t most_of_title = 96;

/// How a band is laid out.
struct BandLayout {
  explicit BandLayout(const PictureBand& band)
      : count(std::ssize(band.pictures)),
        has_captions(std::ranges::any_of(band.pictures,
                                         [](const auto& each) { return !each.caption.empty(); })),
        has_answers(std::ranges::any_of(band.pictures,
                                        [](const auto& each) { return !each.answer.empty(); })),
        left(has_captions || band.heading.empty() ? 0.0 : beside_heading),
        heading(has_captions && !band.heading.empty() ? of_heading : 0.0),
        above((has_captions ? of_caption : 0.0) + (has_answers ? of_caption : 0.0)) {
    const Shape& shape = band.pictures.front().picture.shape();
    aspect = static_cast<double>(shape[1]) / static_cast<double>(shape[0]);
  }

  /// How many pictures of a height stand beside each other.
  [[nodiscard]] std::int64_t in_line(double height) const {
    const double room = page_across - left + gap;
    return std::max<std::int64_t>(1, static_cast<std::int64_t>(room / (height * aspect + gap)));
  }

  /// How far down it goes with them.
  [[nodiscard]] double down(double height) const {
    const std::int64_t lines = (count + in_line(height) - 1) / in_line(height);
    return heading + static_cast<double>(lines) * (above + height + gap);
  }

  std::int64_t count;
  bool has_captions;  ///< else its heading stands on the left
  bool has_answers;
  double left;
  double heading;
  double above;  ///< each picture, for what is written there
  double aspect = 1.0;
};

/// The greatest height with which all of them fit on the page.
double fitting_height(const std::vector<PictureBand>& bands) {
  constexpr double least = 1.0;
  constexpr double most = 40.0;
  const auto needed = [&](double height) {
    double down = 0.0;
    for (const PictureBand& band : bands)
      down += BandLayout(band).down(height);
    return down;
  };
  double height = most;
  while (height > least && needed(height) > page_down)
    height *= 0.98;
  return height;
}

double largest_of(const PictureBand& band) {
  double largest = 1e-300;
  for (const CaptionedPicture& each : band.pictures) {
    for (const double number : each.picture.numbers())
      largest = std::max(largest, std::abs(number));
  }
  return largest;
}

/// Pictures as blocks of points, and the texts around them.
class Sheet {
 public:
  explicit Sheet(double height) : height_(height) {}

  void add(const PictureBand& band) {
    const BandLayout layout(band);
    constexpr std::size_t most_beside = 25;
    label(layout.has_captions ? band.heading : shortened(band.heading, most_beside), 0.0,
          down_ + (layout.has_captions ? 2.6 : height_ / 2.0), "13", plot::ink);
    const double darkest = band.darkest.value_or(largest_of(band));
    const double width = height_ * layout.aspect;
    const std::int64_t in_line = layout.in_line(height_);
    for (std::int64_t at = 0; at < layout.count; ++at) {
      const CaptionedPicture& each = band.pictures[static_cast<std::size_t>(at)];
      const std::int64_t line = at / in_line;
      const double left = layout.left + static_cast<double>(at % in_line) * (width + gap);
      const double top =
          down_ + layout.heading + static_cast<double>(line) * (layout.above + height_ + gap);
      const auto ink_of = [&](bool is_last) {
        return each.is_noticed && is_last ? plot::plum : plot::ink;
      };
      label(each.caption, left, top + 2.0, "10.5", ink_of(!layout.has_answers));
      if (layout.has_answers)
        label("said " + each.answer, left, top + of_caption + 1.8, "10.5", ink_of(true));
      add(each.picture, band.brightness, darkest, left, top + layout.above);
    }
    down_ += layout.down(height_);
  }

  [[nodiscard]] Chart chart(const std::string& title) {
    plot_.set(
        "unset key\nunset grid\nunset tics\nunset border\nset size ratio -1\nset lmargin 2\n"
        "set rmargin 2\nset bmargin 1\n" +
        plot::range("x", -0.5, page_across + 0.5) +
        plot::range("y", std::max(page_down, down_), -0.5));
    return plot_.chart(cut_to(title, most_of_title));
  }

 private:
  void label(const std::string& text, double x, double y, std::string_view size,
             std::string_view colour) {
    if (text.empty()) return;
    plot_.set(fmt::format("set label {} at {},{} font ',{}' textcolor rgb '{}' front\n",
                          plot::quoted(text), plot::number(x), plot::number(y), size, colour));
  }

  void add(const Tensor& picture, const std::optional<Brightness>& brightness, double darkest,
           double left, double top) {
    const Shape& shape = picture.shape();
    // A picture of a single row or column has no distance between its points: they are split.
    const std::int64_t split = shape[0] == 1 || shape[1] == 1 ? 2 : 1;
    const double side = height_ / static_cast<double>(shape[0] * split);
    std::string points;
    for (std::int64_t row = 0; row < shape[0] * split; ++row) {
      for (std::int64_t column = 0; column < shape[1] * split; ++column) {
        points += pixel(left + (static_cast<double>(column) + 0.5) * side,
                        top + (static_cast<double>(row) + 0.5) * side,
                        colour(picture, brightness, darkest, row / split, column / split));
      }
    }
    plot_.add(fmt::format("picture{}", count_++), points, "using 1:2:3:4:5 with rgbimage");
  }

  static Colour colour(const Tensor& picture, const std::optional<Brightness>& brightness,
                       double darkest, std::int64_t row, std::int64_t column) {
    const std::int64_t channels = picture.shape()[2];
    if (!brightness) return plot::signed_colour(picture.at({row, column, 0}) / darkest);
    const auto level = [&](std::int64_t channel) {
      const double spread = brightness->white - brightness->black;
      const double number = picture.at({row, column, std::min(channel, channels - 1)});
      return static_cast<int>(
          std::lround(255.0 * std::clamp((number - brightness->black) / spread, 0.0, 1.0)));
    };
    return channels == 3 ? Colour{level(0), level(1), level(2)}
                         : Colour{level(0), level(0), level(0)};
  }

  double height_;
  double down_ = 0.0;
  plot::Plot plot_;
  int count_ = 0;
};

}  // namespace

Chart pictures_chart(const std::string& title, const std::vector<PictureBand>& bands) {
  Sheet sheet(fitting_height(bands));
  for (const PictureBand& band : bands)
    sheet.add(band);
  return sheet.chart(title);
}

Chart pictures_chart(const std::string& title, const Tensor& pictures,
                     const std::vector<std::string>& captions) {
  const Shape& shape = pictures.shape();
  const bool fits = shape.rank() == 3 || (shape.rank() == 4 && (shape[3] == 1 || shape[3] == 3));
  if (!fits || (!captions.empty() && std::ssize(captions) != shape[0])) {
    throw ShapeError(
        {.what = "these are no pictures for a grid",
         .expected = "[picture × row × column], or with 1 or 3 channels; a caption for "
                     "each picture, or none",
         .found =
             fmt::format("{} and {}", to_string(shape), counted(std::ssize(captions), "caption"))});
  }
  const std::vector<double> numbers = pictures.numbers();
  PictureBand band;
  const auto [lowest, highest] = std::ranges::minmax_element(numbers);
  band.brightness = Brightness{.black = *lowest, .white = *highest};
  for (std::int64_t at = 0; at < shape[0]; ++at) {
    band.pictures.push_back(
        {.picture = pictures.rows(std::vector{at})
                        .reshaped({shape[1], shape[2], shape.rank() == 4 ? shape[3] : 1}),
         .caption = captions.empty() ? "" : captions[static_cast<std::size_t>(at)]});
  }
  return pictures_chart(title, {std::move(band)});
}

}  // namespace lattice
