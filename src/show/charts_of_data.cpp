#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <set>

#include "lattice/data/row_set.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "show/plot.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

double number_of(const Dataset& data, DataColumn column, std::int64_t row) {
  return column.is_target ? data.targets.at({row, column.number})
                          : data.features.at({row, column.number});
}

std::string label_of(const Dataset& data, DataColumn column) {
  return column.is_target ? data.label_of_target(column.number) : data.label_of(column.number);
}

/// All features of a table, and all numbers to predict.
std::vector<DataColumn> columns_of(const Dataset& data) {
  std::vector<DataColumn> columns;
  for (std::int64_t feature = 0; feature < data.feature_count(); ++feature)
    columns.push_back({.number = feature});
  const std::int64_t targets = data.has_classes() ? 0 : data.targets.shape()[1];
  for (std::int64_t target = 0; target < targets; ++target)
    columns.push_back({.is_target = true, .number = target});
  return columns;
}

void check_is_table(const Dataset& data, std::string_view chart) {
  if (data.is_table() && !data.has_own_features()) return;
  throw ShapeError({.what = fmt::format("a chart of {} needs a table", chart),
                    .expected = "rows of features",
                    .found = to_string(data.example())});
}

/// The rows of each class, all in one where there are none. Rows without a truth are left out.
std::vector<std::vector<std::int64_t>> by_class(const RowSet& rows) {
  const Dataset& data = rows.data();
  const std::int64_t classes = data.has_classes() ? data.class_count() : 1;
  std::vector<std::vector<std::int64_t>> groups(static_cast<std::size_t>(classes));
  for (const std::int64_t row : rows.rows()) {
    if (!data.has_truth(row)) continue;
    const double number = data.has_classes() ? data.classes.at_offset(row) : 0.0;
    groups[static_cast<std::size_t>(number)].push_back(row);
  }
  return groups;
}

/// How many classes the legend names; of more it says how many there are.
constexpr std::size_t most_named = 10;

std::string name_of_group(const Dataset& data, std::size_t of, std::size_t groups) {
  if (!data.has_classes() || of >= most_named) return "";
  const bool is_last_named = of + 1 == most_named && groups > most_named;
  const std::string name = shortened(data.class_name(static_cast<std::int64_t>(of)), 18);
  return is_last_named ? fmt::format("{}, and {} more", name, groups - most_named) : name;
}

/// The colours of the classes by themselves, in the place of a plot.
plot::Plot legend_of(const Dataset& data, std::size_t groups) {
  plot::Plot legend;
  legend.set(
      "set key center center vertical font ',10' samplen 2\nunset border\nunset tics\nunset "
      "grid\nunset xlabel\n"
      "unset ylabel\nset xrange [0:1]\nset yrange [0:1]\n");
  for (std::size_t of = 0; of < std::min(groups, most_named); ++of) {
    legend.add(fmt::format("NaN with lines lw 6 lc rgb '{}' {}",
                           plot::text(plot::series_colour(of)),
                           plot::in_legend(name_of_group(data, of, groups))));
  }
  return legend;
}

/// Points of each class over one another.
plot::Plot plot_of_points(const RowSet& rows, DataColumn across, DataColumn up) {
  const Dataset& data = rows.data();
  plot::Plot plot;
  plot.set(fmt::format("set xlabel {}\nset ylabel {}\nset offsets graph 0.04, graph 0.04, graph "
                       "0.04, graph 0.04\n",
                       plot::quoted(label_of(data, across)), plot::quoted(label_of(data, up))) +
           (data.has_classes() && data.class_count() > 5
                ? "set key outside right center vertical\n"
                : "set key at graph 0.5, character 3.7 center top horizontal\nset bmargin 7\n"));
  const auto groups = by_class(rows);
  constexpr std::int64_t few = 100;
  const double size = rows.count() <= few ? 1.5 : 0.8;
  for (std::size_t of = 0; of < groups.size(); ++of) {
    constexpr std::array<int, 5> marks = {7, 5, 9, 11, 13};
    std::string points;
    for (const std::int64_t row : groups[of]) {
      points += fmt::format("{} {}\n", plot::number(number_of(data, across, row)),
                            plot::number(number_of(data, up, row)));
    }
    plot.add(fmt::format("points{}", of), points,
             fmt::format("using 1:2 with points pt {} ps {} lc rgb '{}' {}",
                         marks[of % marks.size()], size, plot::text(plot::series_colour(of)),
                         plot::in_legend(name_of_group(data, of, groups.size()))));
  }
  return plot;
}

/// The points of which both numbers are finite. @throws SettingError where there are none.
Tensor finite_points(const Tensor& points) {
  std::vector<std::int64_t> finite;
  for (std::int64_t point = 0; point < points.shape()[0]; ++point) {
    if (std::isfinite(points(point, 0)) && std::isfinite(points(point, 1))) finite.push_back(point);
  }
  if (finite.empty()) {
    throw SettingError({.what = "there is no point to draw",
                        .expected = "one point or more with finite numbers",
                        .found = counted(points.shape()[0], "point")});
  }
  return points.rows(finite);
}

/// The two ends of a straight line in a plane, as rows.
/// @throws SettingError for a line without direction.
std::string ends_of(const PlaneLine& line, const Stretch& across, const Stretch& up) {
  if (!std::isfinite(line.constant) || !std::isfinite(line.across) || !std::isfinite(line.up) ||
      (line.across == 0.0 && line.up == 0.0)) {
    throw SettingError(
        {.what = fmt::format("there is no line {}·x + {}·y + {} = 0", format_number(line.across),
                             format_number(line.up), format_number(line.constant)),
         .expected = "finite numbers, those of x and y not both 0"});
  }
  const auto point = [](double x, double y) {
    return fmt::format("{} {}\n", plot::number(x), plot::number(y));
  };
  // Steep lines are followed upwards, so that their ends stay near the plane.
  const bool is_steep =
      std::abs(line.across) * (across.high - across.low) > std::abs(line.up) * (up.high - up.low);
  if (is_steep) {
    const auto x = [&](double y) { return -(line.up * y + line.constant) / line.across; };
    return point(x(up.low), up.low) + point(x(up.high), up.high);
  }
  const auto y = [&](double x) { return -(line.across * x + line.constant) / line.up; };
  return point(across.low, y(across.low)) + point(across.high, y(across.high));
}

std::string rows_of(const PlaneFunction& function, const Stretch& across) {
  constexpr int steps = 400;
  std::string rows;
  for (int step = 0; step <= steps; ++step) {
    const double x = across.low + (across.high - across.low) * step / steps;
    rows += fmt::format("{} {}\n", plot::number(x), plot::number(function.function(x)));
  }
  return rows;
}

}  // namespace

DataColumn data_column(const Dataset& data, const std::string& name) {
  std::vector<std::string> names;
  for (const DataColumn column : columns_of(data)) {
    names.push_back(column.is_target ? data.target_name(column.number)
                                     : data.feature_name(column.number));
    if (names.back() == name) return column;
  }
  throw NameError(not_among(fmt::format("there is no column of numbers '{}'", name), name, names));
}

Chart points_chart(const std::string& title, const RowSet& rows, DataColumn across, DataColumn up) {
  check_is_table(rows.data(), "points");
  return plot_of_points(rows, across, up).chart(title);
}

Chart points_chart(const std::string& title, const Tensor& points, const Tensor& classes,
                   const PointsView& view) {
  if (points.shape().rank() != 2 || points.shape()[1] != 2) {
    throw ShapeError({.what = "points are drawn by two numbers each",
                      .expected = "[point × 2]",
                      .found = to_string(points.shape())});
  }
  const DatasetNames names{.features = {view.across, view.up}, .classes = view.classes};
  const RowSet rows(classes.empty()
                        ? dataset_of_numbers(points, points, {.features = names.features})
                        : dataset_of_classes(points, classes, names));
  const Tensor drawn_points = finite_points(points);
  const Stretch across = stretch_of(drawn_points, 0);
  const Stretch up = stretch_of(drawn_points, 1);
  plot::Plot plot = plot_of_points(rows, {.number = 0}, {.number = 1});
  plot.set("set offsets 0, 0, 0, 0\n" + plot::range("x", across) + plot::range("y", up));
  std::size_t drawn = 0;
  const auto add = [&](const std::string& name, const std::string& over) {
    constexpr std::array<int, 3> dashes = {1, 2, 4};
    plot.add(fmt::format("over{}", drawn), over,
             fmt::format("using 1:2 with lines lw 2.5 dt {} lc rgb '{}' {}",
                         dashes[drawn % dashes.size()], plot::ink,
                         plot::in_legend(shortened(name, 24))));
    ++drawn;
  };
  for (const PlaneFunction& function : view.functions)
    add(function.name, rows_of(function, across));
  for (const PlaneLine& line : view.lines)
    add(line.name, ends_of(line, across, up));
  return plot.chart(title);
}

Chart histograms_chart(const std::string& title, const RowSet& rows) {
  const Dataset& data = rows.data();
  check_is_table(data, "histograms");
  constexpr std::size_t most_columns = 12;
  constexpr std::int64_t most_bars = 24;
  std::vector<DataColumn> columns = columns_of(data);
  const bool are_all = columns.size() <= most_columns;
  if (!are_all) columns.resize(most_columns);
  const auto groups = by_class(rows);
  const std::size_t most_letters = columns.size() <= 6 ? 30 : 16;
  std::vector<plot::Plot> plots;
  for (const DataColumn column : columns) {
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    std::set<double> different;
    for (const std::int64_t row : rows.rows()) {
      const double number = number_of(data, column, row);
      low = std::min(low, number);
      high = std::max(high, number);
      if (std::ssize(different) <= most_bars) different.insert(number);
    }
    const auto bars = std::clamp<std::int64_t>(std::ssize(different), 1, most_bars);
    const double width = high > low ? (high - low) / static_cast<double>(bars) : 1.0;
    plot::Plot& plot = plots.emplace_back();
    plot.set(fmt::format("set xlabel {}\nset ylabel 'rows'\nunset key\nset xtics {}\n",
                         plot::quoted(shortened(label_of(data, column), most_letters)),
                         plot::apart(std::max(high - low, width))) +
             plot::range("x", low - width / 2.0, std::max(high, low + width) + width / 2.0) +
             "set yrange [0:*]\nset style fill transparent solid 0.12 noborder\n");
    for (std::size_t of = 0; of < groups.size(); ++of) {
      std::vector<std::int64_t> counts(static_cast<std::size_t>(bars) + 1);
      for (const std::int64_t row : groups[of]) {
        const auto bar = static_cast<std::int64_t>((number_of(data, column, row) - low) / width);
        ++counts[static_cast<std::size_t>(std::clamp<std::int64_t>(bar, 0, bars - 1))];
      }
      std::string steps = fmt::format("{} 0\n", plot::number(low));
      for (std::size_t bar = 0; bar < counts.size(); ++bar)
        steps += fmt::format("{} {}\n", plot::number(low + static_cast<double>(bar) * width),
                             counts[bar]);
      const std::string colour = plot::text(plot::series_colour(of));
      const std::string name = fmt::format("bars{}_{}", plots.size(), of);
      plot.add(name, groups[of].empty() ? "" : steps,
               fmt::format("using 1:2 with fillsteps lc rgb '{}', ${} using 1:2 with steps lw 1.6 "
                           "lc rgb '{}'",
                           colour, name, colour));
    }
  }
  if (data.has_classes()) plots.push_back(legend_of(data, groups.size()));
  const std::string told =
      are_all ? title : fmt::format("{}   (the first {} columns)", title, most_columns);
  const std::size_t lines = plots.size() <= 3 ? 1 : plots.size() <= 8 ? 2 : 3;
  return Chart({plot::laid_out(told, plots, lines)});
}

Chart correlations_chart(const std::string& title, const RowSet& rows) {
  const Dataset& data = rows.data();
  check_is_table(data, "correlations");
  const std::vector<DataColumn> columns = columns_of(data);
  constexpr std::size_t most_columns = 40;
  if (columns.size() > most_columns) {
    throw ShapeError({.what = "a chart of correlations has room for fewer columns",
                      .expected = fmt::format("at most {}", most_columns),
                      .found = fmt::format("{}", columns.size()),
                      .remedy = "--features a,b,c chooses some"});
  }
  // Each column less its mean, divided by its length: the correlation is a product of two.
  std::vector<std::vector<double>> centred;
  std::vector<std::string> names;
  for (const DataColumn column : columns) {
    std::vector<double>& numbers = centred.emplace_back();
    double mean = 0.0;
    for (const std::int64_t row : rows.rows()) {
      numbers.push_back(number_of(data, column, row));
      mean += numbers.back() / static_cast<double>(rows.count());
    }
    double square = 0.0;
    for (double& number : numbers) {
      number -= mean;
      square += number * number;
    }
    for (double& number : numbers)
      number = square > 0.0 ? number / std::sqrt(square) : 0.0;
    names.push_back(shortened(
        column.is_target ? data.target_name(column.number) : data.feature_name(column.number), 20));
  }
  std::string pixels;
  std::string labels;
  for (std::size_t down = 0; down < columns.size(); ++down) {
    for (std::size_t across = 0; across < columns.size(); ++across) {
      double r = 0.0;
      for (std::size_t row = 0; row < centred[down].size(); ++row)
        r += centred[down][row] * centred[across][row];
      pixels += plot::pixel(static_cast<double>(across), static_cast<double>(down),
                            plot::signed_colour(r));
      labels += fmt::format("{} {} \"{:.2f}\"\n", across, down, r == 0.0 ? 0.0 : r);
    }
  }
  plot::Plot plot;
  const auto count = static_cast<double>(columns.size());
  const char* const rotation = columns.size() > 8 ? " rotate by -45" : "";
  plot.set(fmt::format("unset key\nunset grid\nset xtics ({}){}\nset ytics ({})\n",
                       plot::ticks(names), rotation, plot::ticks(names)) +
           plot::range("x", -0.5, count - 0.5) + plot::range("y", count - 0.5, -0.5));
  plot.add("correlations", pixels, "using 1:2:3:4:5 with rgbimage");
  constexpr std::size_t most_written = 16;
  if (columns.size() <= most_written)
    plot.add("labels", labels, "using 1:2:3 with labels font ',14'");
  return plot.chart(title + "   (teal above 0, plum below)");
}

}  // namespace lattice
