#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "show/plot.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

using plot::Colour;
using plot::pixel;

/// The regions as colours: the paler, the less sure.
std::string region_pixels(const DecisionMap& map, double low, double high) {
  std::string rows;
  for (std::int64_t row = 0; row < map.up.count(); ++row) {
    for (std::int64_t column = 0; column < map.across.count(); ++column) {
      Colour colour = plot::paper_colour;
      if (map.classes.empty()) {
        const double share = (map.numbers.at({row, column}) - low) / (high - low);
        colour = plot::signed_colour(2.0 * share - 1.0);
      } else {
        const double winner = map.classes.at({row, column});
        const double sure = map.probabilities.at({row, column, static_cast<std::int64_t>(winner)});
        colour =
            plot::between(plot::paper_colour, plot::series_colour(static_cast<std::size_t>(winner)),
                          0.12 + 0.4 * std::max(0.0, 2.0 * sure - 1.0));
      }
      rows += pixel(map.across.at_offset(column), map.up.at_offset(row), colour);
    }
  }
  return rows;
}

/// A place on the plane.
struct Point {
  double x = 0.0;
  double y = 0.0;
};

/// A point of the map, by column and row.
struct Knot {
  std::int64_t column;
  std::int64_t row;
};

std::int64_t winner_at(const DecisionMap& map, const Knot& at) {
  return static_cast<std::int64_t>(map.classes.at({at.row, at.column}));
}

/// Where the answer changes between two neighbours: where the classes that win at them are equally
/// likely, on a straight line from one to the other. Nothing where the same class wins.
std::optional<Point> crossing(const DecisionMap& map, const Knot& a, const Knot& b) {
  const std::int64_t here = winner_at(map, a);
  const std::int64_t there = winner_at(map, b);
  if (here == there) return std::nullopt;
  const auto lead = [&](const Knot& at) {
    return map.probabilities.at({at.row, at.column, here}) -
           map.probabilities.at({at.row, at.column, there});
  };
  const double fall = lead(a) - lead(b);
  const double share = fall > 0.0 ? lead(a) / fall : 0.5;
  const auto between = [share](const Tensor& values, std::int64_t from, std::int64_t to) {
    return values.at_offset(from) + share * (values.at_offset(to) - values.at_offset(from));
  };
  return Point{between(map.across, a.column, b.column), between(map.up, a.row, b.row)};
}

/// The borders between the regions, as pieces of lines: through every square of the map in which
/// not one class wins. The work grows with the map, not with the classes.
std::string borders_of(const DecisionMap& map) {
  if (map.classes.empty()) return "";
  std::string pieces;
  const auto draw = [&](const Point& from, const Point& to) {
    pieces += fmt::format("{} {}\n{} {}\n\n", from.x, from.y, to.x, to.y);
  };
  for (std::int64_t row = 0; row + 1 < map.up.count(); ++row) {
    for (std::int64_t column = 0; column + 1 < map.across.count(); ++column) {
      const std::array<Knot, 4> corners = {
          {{column, row}, {column + 1, row}, {column + 1, row + 1}, {column, row + 1}}};
      std::vector<Point> points;
      Point middle;
      for (std::size_t at = 0; at < corners.size(); ++at) {
        if (const auto point = crossing(map, corners.at(at), corners.at((at + 1) % 4))) {
          points.push_back(*point);
          middle.x += point->x;
          middle.y += point->y;
        }
      }
      if (points.size() == 2) draw(points[0], points[1]);
      if (points.size() <= 2) continue;
      // Three regions meet, or two cross.
      const auto count = static_cast<double>(points.size());
      for (const Point& point : points)
        draw(point, {middle.x / count, middle.y / count});
    }
  }
  return pieces;
}

/// The rows of a dataset that lie on a map as points, a block for each class, and those answered
/// wrongly.
struct Points {
  std::vector<std::string> by_class;
  std::string wrong;
  std::int64_t wrong_count = 0;
  std::int64_t count = 0;
};

/// Whether a number lies between the first and the last of some in order.
bool is_within(const Tensor& values, double number) {
  return values.at_offset(0) <= number && number <= values.at_offset(values.count() - 1);
}

Points points_of(const Dataset& data, const DecisionMap& map, const Tensor& answers) {
  Points points{.by_class = std::vector<std::string>(
                    static_cast<std::size_t>(std::max<std::int64_t>(1, data.class_count()))),
                .wrong = {}};
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    const double x = data.features.at({row, 0});
    const double y = data.features.at({row, 1});
    if (!is_within(map.across, x) || !is_within(map.up, y)) continue;
    ++points.count;
    if (!data.has_classes()) {
      points.by_class[0] += fmt::format("{} {} {}\n", x, y, data.targets.at({row, 0}));
      continue;
    }
    const auto truth = static_cast<std::size_t>(data.classes.at_offset(row));
    const std::string point = fmt::format("{} {}\n", x, y);
    points.by_class[truth] += point;
    if (!answers.empty() && answers.at_offset(row) != data.classes.at_offset(row)) {
      points.wrong += point;
      ++points.wrong_count;
    }
  }
  return points;
}

/// Regions, borders, points.
plot::Plot regions_plot(const Dataset& data, const MapMoment& moment, const std::string& title) {
  const DecisionMap& map = moment.map;
  double low = 0.0;
  double high = 1.0;
  if (!data.has_classes()) {
    const std::vector<double> targets = data.targets.numbers();
    const auto ends = std::ranges::minmax(targets);
    low = ends.min;
    high = std::max(ends.max, ends.min + 1e-12);
  }
  plot::Plot plot;
  plot.add("region", region_pixels(map, low, high), "using 1:2:3:4:5 with rgbimage notitle");
  plot.add("border", borders_of(map), "using 1:2 with lines lc rgb '#23262b' lw 1.8 notitle");
  const Points points = points_of(data, map, moment.answers);
  std::string wrong_words;
  if (data.has_classes() && !moment.answers.empty())
    wrong_words = fmt::format("   {} of {} wrong", points.wrong_count, points.count);
  plot.set(fmt::format("set title {}\n", plot::quoted(title + wrong_words)));
  // The legend has room for eight entries. Of more classes than that it names the first, and says
  // how many more there are.
  const std::size_t most_named = points.by_class.size() > 7 ? 6 : 7;
  for (std::size_t of = 0; of < points.by_class.size(); ++of) {
    constexpr std::array<int, 5> shapes = {7, 5, 9, 11, 13};
    const std::string name = of >= most_named     ? ""
                             : data.has_classes() ? data.class_name(static_cast<std::int64_t>(of))
                                                  : data.target_name();
    plot.add(
        fmt::format("points{}", of), points.by_class[of],
        fmt::format("using 1:2 with points pt {} ps 0.7 lc rgb '{}' {}", shapes[of % shapes.size()],
                    plot::text(plot::series_colour(of)), plot::in_legend(name)));
  }
  if (points.by_class.size() > most_named) {
    plot.add(fmt::format("keyentry with points pt 0 title 'and {} more'",
                         points.by_class.size() - most_named));
  }
  plot.add("wrong", points.wrong,
           "using 1:2 with points pt 6 ps 1.25 lw 1.4 lc rgb '#23262b' title 'answered wrongly'");
  return plot;
}

}  // namespace

Chart regions_chart(const std::string& title, const Dataset& data,
                    const std::vector<MapMoment>& moments, bool as_frames) {
  if (data.feature_count() != 2) {
    throw ShapeError({.what = "a chart of regions needs two features",
                      .expected = "a set of 2 features",
                      .found = data.is_table() ? counted(data.feature_count(), "feature")
                                               : to_string(data.example()),
                      .remedy = "take two columns of a file",
                      .advice = {"features", "a,b"}});
  }
  const DecisionMap& first = moments.front().map;
  const std::string axes =
      fmt::format("set xlabel {}\nset ylabel {}\nunset grid\n", plot::quoted(data.label_of(0)),
                  plot::quoted(data.label_of(1))) +
      plot::range("x", first.across.at_offset(0),
                  first.across.at_offset(first.across.count() - 1)) +
      plot::range("y", first.up.at_offset(0), first.up.at_offset(first.up.count() - 1)) +
      "set key at graph 0.5, character 3.7 center top horizontal\nset bmargin 7\n";
  return plot::over_moments(title, moments, as_frames,
                            [&](const MapMoment& moment, const std::string& titled) {
                              return regions_plot(data, moment, titled).set(axes);
                            });
}

}  // namespace lattice
