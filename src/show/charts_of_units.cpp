#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <string>
#include <utility>
#include <vector>

#include "lattice/show/charts.hpp"
#include "lattice/text/numbers.hpp"
#include "show/network_picture.hpp"
#include "show/plot.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

using Cell = NetworkPicture::Cell;
using Column = NetworkPicture::Column;

/// Sizes in pixels: of cells, of what stands above them, beside them and between them.
constexpr double cell_width = 92.0;
constexpr double channel_side = 58.0;
constexpr double least_gap = 70.0;
constexpr double names_width = 120.0;
constexpr double head = 100.0;
constexpr double least_width = 1000.0;

double height_of(const Column& column) {
  if (!column.cells.front().points.empty()) return channel_side + 6.0;
  return column.cells.size() > 10 ? 19.0 : 28.0;
}

double tallest(const std::vector<Column>& columns) {
  double height = 0.0;
  for (const Column& column : columns)
    height = std::max(height, height_of(column) * static_cast<double>(column.cells.size()));
  return height;
}

/// The largest number by size, of those that are finite; 1 where all are 0.
double largest_of(const std::vector<double>& numbers) {
  double largest = 0.0;
  for (const double number : numbers) {
    if (std::isfinite(number)) largest = std::max(largest, std::abs(number));
  }
  return largest == 0.0 ? 1.0 : largest;
}

class NetworkDrawing {
 public:
  explicit NetworkDrawing(const NetworkPicture& picture)
      : picture_(picture),
        width_(std::max(least_width, 2.0 * names_width + cell_width +
                                         (cell_width + least_gap) *
                                             static_cast<double>(picture.columns.size() - 1))),
        tall_(tallest(picture.columns)) {}

  [[nodiscard]] Chart chart(const std::string& title, const std::string& words) {
    label(title, width_ / 2.0, 20.0, "center", plot::ink, 16);
    label(words, width_ / 2.0, 44.0, "center", plot::pencil, 11);
    for (const NetworkPicture::Link& each : picture_.links)
      link(each);
    for (std::size_t at = 0; at < picture_.columns.size(); ++at)
      column(at);
    if (picture_.is_grouped) {
      label("a cell that stands for several units has their mean", width_ / 2.0,
            head + tall_ + 22.0, "center", plot::pencil, 11);
    }
    const double height = head + tall_ + (picture_.is_grouped ? 40.0 : 24.0);
    plot::Plot plot;
    plot.set(script_ +
             "unset border\nunset tics\nunset grid\nunset key\n"
             "set lmargin 0\nset rmargin 0\nset tmargin 0\nset bmargin 0\n" +
             plot::range("x", 0.0, width_) + plot::range("y", height, 0.0));
    plot.add("nothing", "NaN NaN\n", "using 1:2 with points");
    return {{plot.text()}, ChartSize{.width = std::lround(width_), .height = std::lround(height)}};
  }

 private:
  [[nodiscard]] double x(std::size_t column) const {
    const auto gaps = static_cast<double>(picture_.columns.size() - 1);
    const double apart = gaps == 0.0 ? 0.0 : (width_ - 2.0 * names_width - cell_width) / gaps;
    return names_width + apart * static_cast<double>(column);
  }

  [[nodiscard]] double y(std::size_t column, std::size_t cell) const {
    const Column& of = picture_.columns[column];
    const double high = height_of(of);
    const double top = head + (tall_ - high * static_cast<double>(of.cells.size())) / 2.0;
    return top + high * static_cast<double>(cell);
  }

  [[nodiscard]] double middle(std::size_t column, std::size_t cell) const {
    return y(column, cell) + (height_of(picture_.columns[column]) - 4.0) / 2.0;
  }

  void link(const NetworkPicture::Link& link) {
    std::vector<double> numbers;
    for (const NetworkPicture::Strand& strand : link.strands)
      numbers.push_back(strand.number.value_or(0.0));
    const double largest = largest_of(numbers);
    // Strong ones lie upon weak ones.
    std::vector<NetworkPicture::Strand> strands = link.strands;
    std::ranges::stable_sort(strands, {}, [](const NetworkPicture::Strand& strand) {
      return std::abs(strand.number.value_or(0.0));
    });
    for (const NetworkPicture::Strand& strand : strands)
      draw(link, strand, largest);
  }

  void draw(const NetworkPicture::Link& link, const NetworkPicture::Strand& strand,
            double largest) {
    const double number = strand.number.value_or(0.0);
    const double share = std::isfinite(number) ? std::min(1.0, std::abs(number) / largest) : 1.0;
    const plot::Colour colour =
        !strand.number ? plot::between(plot::paper_colour, plot::pencil_colour, 0.4)
                       : plot::between(plot::paper_colour, plot::series[number < 0.0 ? 1 : 0],
                                       0.25 + 0.65 * share);
    const std::string look =
        fmt::format("nohead lw {:.2f} dt {} lc rgb '{}'", strand.number ? 0.6 + 3.6 * share : 0.8,
                    number < 0.0 ? "(8,3)" : "1", plot::text(colour));
    const double left = x(link.from) + cell_width;
    const double from = middle(link.from, strand.from);
    const double right = x(link.to);
    const double to = middle(link.to, strand.to);
    if (link.to - link.from == 1) {
      arrow(left, from, right, to, look);
      return;
    }
    // A skip passes above what lies between.
    const double above = head - 14.0;
    arrow(left, from, left + 16.0, above, look);
    arrow(left + 16.0, above, right - 16.0, above, look);
    arrow(right - 16.0, above, right, to, look);
  }

  void column(std::size_t at) {
    const Column& column = picture_.columns[at];
    label(shortened(column.name, 17), x(at) + cell_width / 2.0, head - 26.0, "center", plot::ink,
          12);
    arrow(x(at) - 4.0, head - 8.0, x(at) - 4.0, head + tall_ + 6.0, "nohead lw 2 lc rgb '#d8b9c6'");
    std::vector<double> numbers;
    for (const Cell& cell : column.cells)
      numbers.push_back(cell.number.value_or(0.0));
    const double largest = largest_of(numbers);
    for (std::size_t of = 0; of < column.cells.size(); ++of) {
      const Cell& cell = column.cells[of];
      if (cell.points.empty()) {
        plain_cell(at, of, largest);
      } else {
        channel(at, of);
      }
      const bool is_last = at + 1 == picture_.columns.size();
      if (cell.name.empty() || (at > 0 && !is_last && !column.is_named)) continue;
      const std::string name = shortened(cell.name, at > 0 && !is_last ? 10 : 16);
      if (at == 0) {
        label(name, x(at) - 12.0, middle(at, of), "right", plot::pencil, 10);
      } else {
        label(name, x(at) + cell_width + 6.0, middle(at, of), "left", plot::pencil, 10);
      }
    }
  }

  void plain_cell(std::size_t at, std::size_t of, double largest) {
    const Cell& cell = picture_.columns[at].cells[of];
    const double high = height_of(picture_.columns[at]);
    const double number = cell.number.value_or(0.0);
    const double share = std::isfinite(number) ? number / largest : 0.0;
    box(x(at), y(at, of), cell_width, high - 4.0, plot::text(plot::signed_colour(0.75 * share)),
        true);
    if (!cell.number) return;
    constexpr int digits = 4;
    label(format_number(number, digits), x(at) + cell_width - 8.0, middle(at, of), "right",
          plot::ink, high < 20.0 ? 9 : 11);
  }

  void channel(std::size_t at, std::size_t of) {
    const Tensor& points = picture_.columns[at].cells[of].points;
    const std::int64_t rows = points.shape()[0];
    const std::int64_t across = points.shape()[1];
    const double side = channel_side / static_cast<double>(std::max(rows, across));
    const double left = x(at) + (cell_width - side * static_cast<double>(across)) / 2.0;
    const double largest = largest_of(points.numbers());
    box(left, y(at, of), side * static_cast<double>(across), side * static_cast<double>(rows),
        std::string(plot::paper), true);
    for (std::int64_t row = 0; row < rows; ++row) {
      for (std::int64_t column = 0; column < across; ++column) {
        const double number = points.at({row, column});
        if (number == 0.0 || !std::isfinite(number)) continue;
        box(left + side * static_cast<double>(column), y(at, of) + side * static_cast<double>(row),
            side, side, plot::text(plot::signed_colour(number / largest)), false);
      }
    }
  }

  void box(double left, double top, double width, double height, const std::string& fill,
           bool has_border) {
    script_ += fmt::format(
        "set object rectangle from {},{} to {},{} front fc rgb '{}' fs solid 1.0 {}\n", left, top,
        left + width, top + height, fill,
        has_border ? fmt::format("border lc rgb '{}' lw 1", plot::hairline) : "noborder");
  }

  void arrow(double x1, double y1, double x2, double y2, const std::string& look) {
    script_ += fmt::format("set arrow from {},{} to {},{} back {}\n", x1, y1, x2, y2, look);
  }

  void label(const std::string& text, double x, double y, std::string_view side,
             std::string_view colour, int size) {
    script_ += fmt::format("set label {} at {},{} {} front font ',{}' textcolor rgb '{}'\n",
                           plot::quoted(text), x, y, side, size, colour);
  }

  const NetworkPicture& picture_;
  double width_;
  double tall_;
  std::string script_;
};

}  // namespace

Chart network_chart(const std::string& title, const WorkedSheet& work, const AxisNames& names,
                    std::int64_t example, bool gradients) {
  const NetworkPicture picture =
      network_picture(work, names, {.example = example, .gradients = gradients});
  const std::vector<std::int64_t>& rows = work.batch().rows;
  const bool is_known = !work.batch().is_whole && example < std::ssize(rows);
  const std::string of =
      is_known ? fmt::format(", row {} of the data", rows[static_cast<std::size_t>(example)]) : "";
  return NetworkDrawing(picture).chart(
      shortened(title, 95),
      fmt::format("{0} of example {1}{2}; lines: {3}, the stronger the wider, negative ones dashed",
                  gradients ? "gradients" : "values", example, of,
                  gradients ? "gradients of weights" : "weights"));
}

}  // namespace lattice
