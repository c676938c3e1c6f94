#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/show/charts.hpp"
#include "lattice/tensor/error.hpp"
#include "show/plot.hpp"

namespace lattice {
namespace {

using plot::Colour;

/// A number of a plane in colour, a row of the data for `with rgbimage`.
std::string pixel(double x, double y, Colour colour) {
  return fmt::format("{} {} {} {} {}\n", x, y, colour.red, colour.green, colour.blue);
}

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

/// For each class how far it is ahead of the likeliest other: the borders are where that is 0.
std::vector<std::string> leads(const DecisionMap& map) {
  if (map.classes.empty()) return {};
  const std::int64_t classes = map.probabilities.shape()[2];
  // Between two classes there is one border.
  const std::int64_t borders = classes == 2 ? 1 : classes;
  std::vector<std::string> grids(static_cast<std::size_t>(borders));
  for (std::int64_t row = 0; row < map.up.count(); ++row) {
    for (std::int64_t column = 0; column < map.across.count(); ++column) {
      for (std::int64_t of = 0; of < borders; ++of) {
        double other = 0.0;
        for (std::int64_t each = 0; each < classes; ++each) {
          if (each != of) other = std::max(other, map.probabilities.at({row, column, each}));
        }
        grids[static_cast<std::size_t>(of)] +=
            fmt::format("{} {} {}\n", map.across.at_offset(column), map.up.at_offset(row),
                        map.probabilities.at({row, column, of}) - other);
      }
    }
    for (std::string& grid : grids)
      grid += "\n";
  }
  return grids;
}

/// The class that the map answers at the point nearest to a row.
std::int64_t answer_at(const DecisionMap& map, double x, double y) {
  const auto nearest = [](const Tensor& values, double value) {
    const double low = values.at_offset(0);
    const double high = values.at_offset(values.count() - 1);
    const double share = (value - low) / (high - low);
    const auto last = static_cast<double>(values.count() - 1);
    return static_cast<std::int64_t>(std::lround(std::clamp(share, 0.0, 1.0) * last));
  };
  return static_cast<std::int64_t>(map.classes.at({nearest(map.up, y), nearest(map.across, x)}));
}

/// The rows of a dataset as points, a block for each class, and those answered wrongly.
struct Points {
  std::vector<std::string> by_class;
  std::string wrong;
  std::int64_t wrong_count = 0;
};

Points points_of(const Dataset& data, const DecisionMap& map) {
  Points points{
      .by_class = std::vector<std::string>(std::max<std::size_t>(1, data.class_names.size())),
      .wrong = {}};
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    const double x = data.features.at({row, 0});
    const double y = data.features.at({row, 1});
    if (!data.has_classes()) {
      points.by_class[0] += fmt::format("{} {} {}\n", x, y, data.targets.at({row, 0}));
      continue;
    }
    const auto truth = static_cast<std::size_t>(data.classes.at_offset(row));
    const std::string point = fmt::format("{} {}\n", x, y);
    points.by_class[truth] += point;
    if (answer_at(map, x, y) != static_cast<std::int64_t>(truth)) {
      points.wrong += point;
      ++points.wrong_count;
    }
  }
  return points;
}

/// One panel: regions, borders, points.
std::string regions_panel(const Dataset& data, const MapMoment& moment, std::size_t at,
                          bool has_legend) {
  const DecisionMap& map = moment.map;
  double low = 0.0;
  double high = 1.0;
  if (!data.has_classes()) {
    const std::vector<double> targets = data.targets.numbers();
    const auto ends = std::ranges::minmax(targets);
    low = ends.min;
    high = std::max(ends.max, ends.min + 1e-12);
  }
  std::string script = plot::block(fmt::format("region{}", at), region_pixels(map, low, high));
  const std::vector<std::string> grids = leads(map);
  for (std::size_t of = 0; of < grids.size(); ++of) {
    script += plot::block("lead", grids[of]);
    script += fmt::format(
        "set contour base\nunset surface\nset cntrparam levels discrete 0\n"
        "set table $border{}_{}\nsplot $lead using 1:2:3\nunset table\nunset contour\nset "
        "surface\n",
        at, of);
  }
  const Points points = points_of(data, map);
  std::string wrong_words;
  if (data.has_classes())
    wrong_words = fmt::format("   {} of {} wrong", points.wrong_count, data.rows());
  script += fmt::format("set title {}\nplot $region{} using 1:2:3:4:5 with rgbimage notitle",
                        plot::quoted(moment.title + wrong_words), at);
  for (std::size_t of = 0; of < grids.size(); ++of)
    script +=
        fmt::format(", $border{}_{} using 1:2 with lines lc rgb '#23262b' lw 1.8 notitle", at, of);
  std::string blocks;
  for (std::size_t of = 0; of < points.by_class.size(); ++of) {
    if (points.by_class[of].empty()) continue;
    constexpr std::array<int, 5> shapes = {7, 5, 9, 11, 13};
    blocks += plot::block(fmt::format("points{}_{}", at, of), points.by_class[of]);
    const std::string title =
        !has_legend
            ? "notitle"
            : "title " + plot::quoted(data.has_classes() ? data.class_names[of] : data.target_name);
    script +=
        fmt::format(", $points{}_{} using 1:2 with points pt {} ps 0.7 lc rgb '{}' {}", at, of,
                    shapes[of % shapes.size()], plot::text(plot::series_colour(of)), title);
  }
  if (!points.wrong.empty()) {
    blocks += plot::block(fmt::format("wrong{}", at), points.wrong);
    script +=
        fmt::format(", $wrong{} using 1:2 with points pt 6 ps 1.25 lw 1.4 lc rgb '#23262b' {}", at,
                    has_legend ? "title 'answered wrongly'" : "notitle");
  }
  return blocks + script + "\n";
}

}  // namespace

Chart regions_chart(const std::string& title, const Dataset& data,
                    const std::vector<MapMoment>& moments, bool as_frames) {
  if (data.features.shape()[1] != 2) {
    throw ShapeError({.what = "regions are drawn on a plane of two features",
                      .expected = "a set of 2 features",
                      .found = fmt::format("{} features", data.features.shape()[1]),
                      .remedy = "--features a,b chooses two columns of a file"});
  }
  const DecisionMap& first = moments.front().map;
  const std::string axes =
      fmt::format("set xlabel {}\nset ylabel {}\nunset grid\n", plot::quoted(data.label_of(0)),
                  plot::quoted(data.label_of(1))) +
      plot::range("x", first.across.at_offset(0),
                  first.across.at_offset(first.across.count() - 1)) +
      plot::range("y", first.up.at_offset(0), first.up.at_offset(first.up.count() - 1)) +
      "set key at graph 0.5, graph -0.12 center top horizontal\nset bmargin 7\n";
  if (as_frames) {
    std::vector<std::string> frames;
    frames.reserve(moments.size());
    for (const MapMoment& moment : moments) {
      MapMoment titled = moment;
      titled.title = title + ": " + moment.title;
      frames.push_back(axes + regions_panel(data, titled, 0, true));
    }
    return Chart(std::move(frames));
  }
  std::string script = axes + fmt::format("set multiplot layout 1,{} title {} font ',17'\n",
                                          moments.size(), plot::quoted(title));
  for (std::size_t at = 0; at < moments.size(); ++at)
    script += regions_panel(data, moments[at], at, true);
  return Chart({script + "unset multiplot\n"});
}

Chart weights_chart(const std::string& title, const Tensor& weight,
                    const std::vector<std::string>& input_names,
                    const std::optional<PictureShape>& picture) {
  const Shape& shape = weight.shape();
  if (shape.rank() != 2) {
    throw ShapeError(
        {.what = "weights are drawn with a row for each input and a column for each unit",
         .expected = "a weight of two axes",
         .found = to_string(shape)});
  }
  if (picture && picture->rows * picture->columns != shape[0]) {
    throw ShapeError({.what = "a picture has a place for each input",
                      .expected = fmt::format("rows × columns = {}", shape[0]),
                      .found = fmt::format("{} × {} = {}", picture->rows, picture->columns,
                                           picture->rows * picture->columns)});
  }
  double largest = 1e-300;
  for (const double number : weight.numbers())
    largest = std::max(largest, std::abs(number));
  const std::string scale =
      fmt::format("{}   (teal above 0, plum below; darkest {})", title, format_number(largest, 3));
  if (picture) {
    const auto units = static_cast<double>(shape[1]);
    const auto across = static_cast<std::int64_t>(std::ceil(std::sqrt(units * 1.6)));
    const std::int64_t down = (shape[1] + across - 1) / across;
    std::string script =
        fmt::format(
            "set multiplot layout {},{} title {} font ',17'\nunset key\nunset grid\nunset tics\n"
            "unset border\nset size ratio -1\n",
            down, across, plot::quoted(scale)) +
        plot::range("x", -0.5, static_cast<double>(picture->columns) - 0.5) +
        plot::range("y", static_cast<double>(picture->rows) - 0.5, -0.5);
    for (std::int64_t unit = 0; unit < shape[1]; ++unit) {
      std::string rows;
      for (std::int64_t at = 0; at < shape[0]; ++at) {
        rows += pixel(static_cast<double>(at % picture->columns),
                      static_cast<double>(at / picture->columns),
                      plot::signed_colour(weight.at({at, unit}) / largest));
      }
      script +=
          plot::block("picture", rows) +
          fmt::format("set title 'unit {}'\nplot $picture using 1:2:3:4:5 with rgbimage\n", unit);
    }
    return Chart({script + "unset multiplot\n"});
  }
  std::string rows;
  std::string labels;
  for (std::int64_t input = 0; input < shape[0]; ++input) {
    for (std::int64_t unit = 0; unit < shape[1]; ++unit) {
      const double number = weight.at({input, unit});
      rows += pixel(static_cast<double>(unit), static_cast<double>(input),
                    plot::signed_colour(number / largest));
      labels += fmt::format("{} {} \"{}\"\n", unit, input, format_number(number, 3));
    }
  }
  std::string ticks;
  for (std::int64_t input = 0; input < shape[0] && std::ssize(input_names) == shape[0]; ++input) {
    ticks += fmt::format("{}{} {}", input == 0 ? "" : ", ",
                         plot::quoted(input_names[static_cast<std::size_t>(input)]), input);
  }
  constexpr std::int64_t most_labels = 200;
  return Chart({plot::block("table", rows) + plot::block("labels", labels) +
                fmt::format("set title {} font ',17'\nunset key\nunset grid\nset xlabel 'unit'\n"
                            "set ylabel '{}'\n{}",
                            plot::quoted(scale), ticks.empty() ? "input" : "feature",
                            ticks.empty() ? "" : "set ytics (" + ticks + ")\n") +
                (shape[1] <= 20 ? "set xtics 1\n" : "") +
                plot::range("x", -0.5, static_cast<double>(shape[1]) - 0.5) +
                plot::range("y", static_cast<double>(shape[0]) - 0.5, -0.5) +
                "plot $table using 1:2:3:4:5 with rgbimage" +
                (weight.count() <= most_labels ? ", $labels using 1:2:3 with labels" : "") + "\n"});
}

Chart confusion_chart(const std::string& title, const ClassJudgement& judgement) {
  const auto count = static_cast<std::int64_t>(judgement.classes.size());
  std::string rows;
  std::string labels;
  std::string ticks;
  for (std::int64_t truth = 0; truth < count; ++truth) {
    const ClassFigures& figures = judgement.classes[static_cast<std::size_t>(truth)];
    ticks += fmt::format("{}{} {}", truth == 0 ? "" : ", ", plot::quoted(figures.name), truth);
    for (std::int64_t answer = 0; answer < count; ++answer) {
      const double here = judgement.confusion.at({truth, answer});
      const double share = figures.rows > 0 ? here / static_cast<double>(figures.rows) : 0.0;
      const Colour colour =
          plot::between(plot::paper_colour, truth == answer ? plot::series[0] : plot::series[1],
                        std::min(0.7, truth == answer ? 0.7 * share : std::sqrt(share)));
      rows += pixel(static_cast<double>(answer), static_cast<double>(truth), colour);
      labels += fmt::format("{} {} \"{}\" \"{:.1f} %\"\n", answer, truth, here, 100.0 * share);
    }
  }
  return Chart({plot::block("shares", rows) + plot::block("labels", labels) +
                fmt::format("set title {} font ',17'\nunset key\nunset grid\n"
                            "set xlabel 'answer'\nset ylabel 'truth'\nset xtics ({})\n"
                            "set ytics ({})\n",
                            plot::quoted(fmt::format("{}   (accuracy {})", title,
                                                     format_number(judgement.accuracy, 4))),
                            ticks, ticks) +
                plot::range("x", -0.5, static_cast<double>(count) - 0.5) +
                plot::range("y", static_cast<double>(count) - 0.5, -0.5) +
                "plot $shares using 1:2:3:4:5 with rgbimage, "
                "$labels using 1:2:3 with labels font ',16' offset 0,0.5, "
                "$labels using 1:2:4 with labels offset 0,-0.8\n"});
}

Chart samples_chart(const std::string& title, const std::vector<std::string>& feature_names,
                    const std::vector<Sample>& samples) {
  const auto count = static_cast<double>(std::max<std::size_t>(1, samples.size()));
  const auto across = static_cast<std::size_t>(std::ceil(std::sqrt(count * 1.5)));
  const std::size_t down = (samples.size() + across - 1) / across;
  double largest = 1e-300;
  for (const Sample& sample : samples) {
    for (const double number : sample.features)
      largest = std::max(largest, std::abs(number));
  }
  std::string ticks;
  for (std::size_t at = 0; at < feature_names.size(); ++at)
    ticks += fmt::format("{}{} {}", at == 0 ? "" : ", ", plot::quoted(feature_names[at]), at);
  std::string script = fmt::format(
                           "set multiplot layout {},{} title {} font ',17'\nunset key\n"
                           "set style fill solid 0.8 noborder\nset boxwidth 0.75\n"
                           "set ytics ({}) font ',11'\nset xtics font ',10'\nunset grid\n"
                           "set arrow from 0, graph 0 to 0, graph 1 nohead lc rgb '#666a70'\n",
                           down, across, plot::quoted(title), ticks) +
                       plot::range("x", -largest, largest) +
                       plot::range("y", static_cast<double>(feature_names.size()) - 0.5, -0.5);
  for (const Sample& sample : samples) {
    std::string rows;
    for (std::size_t at = 0; at < sample.features.size(); ++at) {
      rows += fmt::format("{} {} {} {}\n", std::min(0.0, sample.features[at]), at,
                          std::max(0.0, sample.features[at]), sample.features[at] < 0.0 ? 1 : 0);
    }
    const bool is_right = sample.truth == sample.answer;
    script += plot::block("bars", rows) +
              fmt::format(
                  "set title {} textcolor rgb '{}'\n"
                  "plot $bars using (0):2:1:3:($2-0.36):($2+0.36):($4==0?{}:{}) "
                  "with boxxyerror lc rgb variable\n",
                  plot::quoted(fmt::format("row {}: {}{}", sample.row, sample.truth,
                                           is_right ? "" : ", said " + sample.answer)),
                  is_right ? "#23262b" : plot::plum, 0x0b7a75, 0x8a2f6b);
  }
  return Chart({script + "unset multiplot\n"});
}

}  // namespace lattice
