#include "lattice/show/picture_grid.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/ink.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

/// How bright a point is, channel by channel, from 0 to 1.
using Point = std::array<double, 3>;

/// A picture as it is drawn: channels that are no colours stand side by side.
class Canvas {
 public:
  Canvas(const Tensor& picture, const Brightness& brightness)
      : picture_(picture), brightness_(brightness) {}

  [[nodiscard]] std::int64_t rows() const { return picture_.shape()[0]; }
  [[nodiscard]] std::int64_t columns() const {
    const Shape& shape = picture_.shape();
    return is_colour() || shape[2] == 1 ? shape[1] : shape[2] * (shape[1] + 1) - 1;
  }
  [[nodiscard]] bool is_colour() const { return picture_.shape()[2] == 3; }

  [[nodiscard]] Point at(std::int64_t row, std::int64_t column) const {
    const std::int64_t width = picture_.shape()[1];
    if (row >= rows()) return {};
    if (is_colour()) return {level(row, column, 0), level(row, column, 1), level(row, column, 2)};
    const std::int64_t channel = column / (width + 1);
    if (column % (width + 1) == width) return {};
    const double grey = level(row, column % (width + 1), channel);
    return {grey, grey, grey};
  }

 private:
  [[nodiscard]] double level(std::int64_t row, std::int64_t column, std::int64_t channel) const {
    const double number = picture_.at({row, column, channel});
    const double spread = brightness_.white - brightness_.black;
    return spread > 0.0 ? std::clamp((number - brightness_.black) / spread, 0.0, 1.0) : 0.0;
  }

  const Tensor& picture_;
  Brightness brightness_;
};

/// The nearest colour of the palette of 256: a grey step, or one of 6 × 6 × 6.
int palette(const Point& point, bool is_colour) {
  constexpr int first_grey = 232;
  constexpr double grey_steps = 23.0;
  if (!is_colour) return first_grey + static_cast<int>(std::lround(point[0] * grey_steps));
  constexpr int first_colour = 16;
  constexpr double steps = 5.0;
  int index = 0;
  for (const double channel : point)
    index = 6 * index + static_cast<int>(std::lround(channel * steps));
  return first_colour + index;
}

/// A letter for a point, the brighter the more of it is covered.
std::string_view letter(const Point& point) {
  static constexpr std::array<std::string_view, 8> ramp = {"  ", "··", "::", "++",
                                                           "xx", "%%", "##", "@@"};
  const double grey = 0.299 * point[0] + 0.587 * point[1] + 0.114 * point[2];
  const auto step = static_cast<std::size_t>(grey * static_cast<double>(ramp.size()));
  return ramp.at(std::min(step, ramp.size() - 1));
}

/// A line of letters of a picture: two of its rows in colour, else one.
std::string line_of(const Canvas& canvas, std::int64_t line, const TerminalStyle& style) {
  std::string text;
  for (std::int64_t column = 0; column < canvas.columns(); ++column) {
    if (!style.colour) {
      text += letter(canvas.at(line, column));
      continue;
    }
    text += fmt::format("\x1b[38;5;{};48;5;{}m▀",
                        palette(canvas.at(2 * line, column), canvas.is_colour()),
                        palette(canvas.at(2 * line + 1, column), canvas.is_colour()));
  }
  return style.colour ? text + "\x1b[0m" : text;
}

std::string with_room(const std::string& text, std::size_t width) {
  return text + std::string(width - std::min(width, columns(text)), ' ');
}

}  // namespace

std::string show_pictures(const std::vector<CaptionedPicture>& pictures, const TerminalStyle& style,
                          const Brightness& brightness, std::size_t page) {
  constexpr std::size_t gap = 2;
  std::string text;
  for (std::size_t first = 0; first < pictures.size();) {
    std::vector<Canvas> canvases;
    std::vector<std::size_t> widths;
    std::size_t used = 0;
    std::int64_t lines = 0;
    for (std::size_t at = first; at < pictures.size(); ++at) {
      const Canvas canvas(pictures[at].picture, brightness);
      const std::size_t width = static_cast<std::size_t>(canvas.columns()) * (style.colour ? 1 : 2);
      if (!canvases.empty() && used + width > page) break;
      used += width + gap;
      lines = std::max(lines, style.colour ? (canvas.rows() + 1) / 2 : canvas.rows());
      canvases.push_back(canvas);
      widths.push_back(width);
    }
    const auto line_above = [&](std::string CaptionedPicture::*of, bool is_last) {
      std::string line;
      for (std::size_t at = 0; at < canvases.size(); ++at) {
        const CaptionedPicture& picture = pictures[first + at];
        const std::string words = with_room(cut_to(harmless(picture.*of), widths[at]), widths[at]);
        const bool is_noticed = picture.is_noticed && is_last;
        line +=
            in_ink(is_noticed ? ink::noticed : ink::faint, words, style) + std::string(gap, ' ');
      }
      return line.substr(0, line.find_last_not_of(' ') + 1) + "\n";
    };
    const bool has_answers =
        std::ranges::any_of(pictures, [](const auto& each) { return !each.answer.empty(); });
    text += first == 0 ? "" : "\n";
    text += line_above(&CaptionedPicture::caption, !has_answers);
    if (has_answers) text += line_above(&CaptionedPicture::answer, true);
    for (std::int64_t line = 0; line < lines; ++line) {
      std::string row;
      for (std::size_t at = 0; at < canvases.size(); ++at) {
        const std::int64_t of_it =
            style.colour ? (canvases[at].rows() + 1) / 2 : canvases[at].rows();
        row += line < of_it ? line_of(canvases[at], line, style) : std::string(widths[at], ' ');
        row += std::string(gap, ' ');
      }
      text += row.substr(0, row.find_last_not_of(' ') + 1) + "\n";
    }
    first += canvases.size();
  }
  return text;
}

Raster as_drawn(const Tensor& picture, const Brightness& brightness) {
  const Canvas canvas(picture, brightness);
  Raster drawn{
      .rows = canvas.rows(), .columns = canvas.columns(), .channels = canvas.is_colour() ? 3 : 1};
  for (std::int64_t row = 0; row < drawn.rows; ++row) {
    for (std::int64_t column = 0; column < drawn.columns; ++column) {
      const Point point = canvas.at(row, column);
      for (std::int64_t channel = 0; channel < drawn.channels; ++channel) {
        constexpr double white = 255.0;
        const double level = point.at(static_cast<std::size_t>(channel));
        drawn.bytes.push_back(static_cast<std::uint8_t>(std::lround(level * white)));
      }
    }
  }
  return drawn;
}

Brightness brightness_of(const Examples& pictures) {
  if (pictures.are_bytes()) return {};
  Brightness found{.black = std::numeric_limits<double>::infinity(),
                   .white = -std::numeric_limits<double>::infinity()};
  for (std::int64_t at = 0; at < pictures.count(); ++at) {
    found.black = std::min(found.black, pictures.at_offset(at));
    found.white = std::max(found.white, pictures.at_offset(at));
  }
  return found;
}

std::vector<CaptionedPicture> samples_of(const RowSet& rows, std::int64_t most) {
  const Dataset& data = rows.data();
  std::vector<CaptionedPicture> samples;
  for (std::int64_t at = 0; at < std::min(most, rows.count()); ++at) {
    const std::vector<std::int64_t> row = {rows.rows()[static_cast<std::size_t>(at)]};
    std::string caption = fmt::format("{}", row.front());
    if (data.has_classes()) {
      const auto number = static_cast<std::int64_t>(data.classes.at_offset(row.front()));
      caption += " " + data.class_name(number);
    }
    samples.push_back(
        {.picture = data.features.rows(row).reshaped(data.example()), .caption = caption});
  }
  return samples;
}

Tensor mean_picture(const RowSet& rows) {
  const Dataset& data = rows.data();
  Tensor sum = zeros(data.example());
  const RowSet measured = rows.as_measured();
  const std::int64_t chunk = chunk_of(sum.count());
  for (std::int64_t from = 0; from < measured.count(); from += chunk) {
    const Tensor some = measured.from(from, std::min(chunk, measured.count() - from))
                            .features.in(Precision::double_);
    const std::int64_t width = sum.count();
    double* const to = sum.writable<double>();
    const double* from_row = some.data<double>();
    for (std::int64_t row = 0; row < some.shape()[0]; ++row, from_row += width) {
      for (std::int64_t at = 0; at < width; ++at)
        to[at] += from_row[at];
    }
  }
  return sum / static_cast<double>(measured.count());
}

}  // namespace lattice
