#pragma once

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/judging/decision_map.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "show/text_table.hpp"

/// What charts are put together from: pieces of gnuplot's language, and our colours.
namespace lattice::plot {

inline constexpr std::string_view teal = "#0b7a75";
inline constexpr std::string_view plum = "#8a2f6b";
inline constexpr std::string_view amber = "#b45f06";
inline constexpr std::string_view ink = "#23262b";
inline constexpr std::string_view pencil = "#666a70";
inline constexpr std::string_view hairline = "#a9b3b0";
inline constexpr std::string_view paper = "#fbfaf4";

/// A colour by its parts, 0 to 255.
struct Colour {
  int red;
  int green;
  int blue;
};

/// Colours that stay apart for colour-blind eyes, beside different marks and dashes.
inline constexpr std::array<Colour, 8> series = {{{11, 122, 117},
                                                  {138, 47, 107},
                                                  {208, 138, 29},
                                                  {47, 75, 138},
                                                  {122, 140, 45},
                                                  {164, 67, 42},
                                                  {111, 177, 214},
                                                  {90, 90, 96}}};

[[nodiscard]] inline Colour series_colour(std::size_t at) {
  return series[at % series.size()];
}

[[nodiscard]] inline std::string text(Colour colour) {
  return fmt::format("#{:02x}{:02x}{:02x}", colour.red, colour.green, colour.blue);
}

/// All of them as a page writes them.
[[nodiscard]] inline std::vector<std::string> series_texts() {
  std::vector<std::string> texts;
  texts.reserve(series.size());
  for (const Colour& colour : series)
    texts.push_back(text(colour));
  return texts;
}

/// Between two colours: `share` of the second.
[[nodiscard]] inline Colour between(Colour a, Colour b, double share) {
  const auto mix = [share](int from, int to) {
    return static_cast<int>(std::lround(from + share * (to - from)));
  };
  return {mix(a.red, b.red), mix(a.green, b.green), mix(a.blue, b.blue)};
}

inline constexpr Colour paper_colour = {251, 250, 244};
inline constexpr Colour pencil_colour = {102, 106, 112};

/// A colour as one number, for `lc rgb variable`.
[[nodiscard]] inline int value(Colour colour) {
  return (colour.red << 16) + (colour.green << 8) + colour.blue;
}

/// The colour of a number on a scale from −1 (plum) through 0 (paper) to 1 (teal).
[[nodiscard]] inline Colour signed_colour(double share) {
  return between(paper_colour, share < 0.0 ? series[1] : series[0],
                 std::min(1.0, std::abs(share)) * 0.75);
}

/// A number of a plane in colour, a row of the data for `with rgbimage`.
[[nodiscard]] inline std::string pixel(double x, double y, Colour colour) {
  return fmt::format("{} {} {} {} {}\n", x, y, colour.red, colour.green, colour.blue);
}

/// A text as gnuplot reads it: letters and blanks as they are, every other sign by its number;
/// digits too, since one behind a number would be taken for a part of it. So nothing in it can end
/// the quotes, run a command or continue a line.
[[nodiscard]] inline std::string quoted(std::string_view text) {
  std::string safe = "\"";
  for (const char letter : harmless(text)) {
    const auto byte = static_cast<unsigned char>(letter);
    const bool is_plain = byte >= 0x80 || std::isalpha(byte) != 0 || letter == ' ';
    safe += is_plain ? std::string(1, letter) : fmt::format("\\{:03o}", byte);
  }
  return safe + "\"";
}

/// A title, as long as a picture is wide.
[[nodiscard]] inline std::string quoted_title(const std::string& title) {
  constexpr std::size_t most_letters = 95;
  return plot::quoted(shortened(title, most_letters));
}

/// Names at the places 0, 1, 2 … of an axis, or at every n-th of them. A percent sign is
/// doubled, since gnuplot looks there for how the number is to be written.
[[nodiscard]] inline std::string ticks(const std::vector<std::string>& names,
                                       std::size_t every = 1) {
  std::string text;
  for (std::size_t at = 0; at < names.size(); at += every) {
    std::string doubled;
    for (const char letter : shortened(names[at], 32))
      doubled += letter == '%' ? "%%" : std::string(1, letter);
    text += fmt::format("{}{} {}", at == 0 ? "" : ", ", plot::quoted(doubled), at);
  }
  return text;
}

/// A number as gnuplot reads it.
[[nodiscard]] inline std::string number(double value) {
  return std::isfinite(value) ? fmt::format("{}", value) : "NaN";
}

/// How far numbers at a short axis stand apart: 1, 2 or 5, or ten times as much, or a tenth.
[[nodiscard]] inline double apart(double stretch) {
  const double least = stretch / 4.0;
  const double power = std::pow(10.0, std::floor(std::log10(least)));
  for (const double times : {1.0, 2.0, 5.0}) {
    if (times * power >= least) return times * power;
  }
  return 10.0 * power;
}

/// Rows of text as a block of data: `$name`.
[[nodiscard]] inline std::string block(std::string_view name, const std::string& rows) {
  return fmt::format("${} << END_OF_DATA\n{}END_OF_DATA\n", name, rows);
}

/// The stretch from the lowest number to the highest, for an axis.
[[nodiscard]] inline std::string range(std::string_view axis, double low, double high) {
  return fmt::format("set {}range [{}:{}]\n", axis, low, high);
}

/// The same of a stretch; an axis without one is left to the numbers.
[[nodiscard]] inline std::string range(std::string_view axis, const std::optional<Stretch>& shown) {
  return shown ? range(axis, shown->low, shown->high) : "";
}

/// How a layer is called in the legend; one without a name is not there.
[[nodiscard]] inline std::string in_legend(std::string_view name) {
  return name.empty() ? "notitle" : "title " + plot::quoted(name);
}

/// What is drawn between a pair of axes: layers of points, each upon the one before.
class Plot {
 public:
  /// Commands that come before: ranges, titles, marks. In a chart of several plots they hold for
  /// those that follow, too.
  Plot& set(std::string_view commands) {
    before_ += commands;
    return *this;
  }

  /// Adds a layer; nothing where it has no rows.
  /// @param name of its block of data
  /// @param how what is read from the rows, and drawn: `using 1:2 with lines lw 2 notitle`
  void add(std::string_view name, const std::string& rows, std::string_view how) {
    if (rows.empty()) return;
    before_ += block(name, rows);
    add(fmt::format("${} {}", name, how));
  }

  /// A layer without rows of its own: a number, an entry of the legend, rows drawn once more.
  void add(std::string_view layer) {
    layers_ += layers_.empty() ? "plot " : ", ";
    layers_ += layer;
  }

  [[nodiscard]] std::string text() const { return before_ + layers_ + "\n"; }

  /// The plot by itself, under a title.
  [[nodiscard]] Chart chart(const std::string& title) const {
    return Chart({fmt::format("set title {} font ',17'\n", quoted_title(title)) + text()});
  }

 private:
  std::string before_ = {};
  std::string layers_ = {};
};

/// Plots in rows below one another, under a title; all in one row if no number is given.
[[nodiscard]] inline std::string laid_out(const std::string& title, const std::vector<Plot>& plots,
                                          std::size_t rows = 1) {
  rows = std::max<std::size_t>(1, rows);
  const std::size_t columns = std::max<std::size_t>(1, (plots.size() + rows - 1) / rows);
  std::string script = fmt::format("set multiplot layout {},{}", rows, columns);
  if (!title.empty()) script += fmt::format(" title {} font ',17'", quoted_title(title));
  script += "\n";
  for (const Plot& plot : plots)
    script += plot.text();
  return script + "unset multiplot\n";
}

/// Moments of a run: side by side, or each as a frame of an animation.
/// @param draw gives the plot of one of them under a title
template <class Moment, class Draw>
[[nodiscard]] Chart over_moments(const std::string& title, const std::vector<Moment>& moments,
                                 bool as_frames, Draw draw) {
  std::vector<Plot> plots;
  plots.reserve(moments.size());
  for (const Moment& moment : moments)
    plots.push_back(draw(moment, as_frames ? title + ": " + moment.title : moment.title));
  if (!as_frames) return Chart({laid_out(title, plots)});
  std::vector<std::string> frames;
  frames.reserve(plots.size());
  for (const Plot& plot : plots)
    frames.push_back(plot.text());
  return Chart(std::move(frames));
}

}  // namespace lattice::plot
