#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "show/plot.hpp"

namespace lattice {

using plot::Colour;
using plot::pixel;

namespace {

void check_picture(const Shape& shape, const std::optional<PictureShape>& picture) {
  if (shape.rank() != 2) {
    throw ShapeError(
        {.what = "weights are drawn with a row for each input and a column for each unit",
         .expected = "a weight of two axes",
         .found = to_string(shape)});
  }
  if (!picture || picture->rows * picture->columns == shape[0]) return;
  throw ShapeError({.what = "a picture has a place for each input",
                    .expected = fmt::format("rows × columns = {}", shape[0]),
                    .found = fmt::format("{} × {} = {}", picture->rows, picture->columns,
                                         picture->rows * picture->columns)});
}

/// A picture for each unit, its inputs in their positions.
std::string pictures_of(const std::string& title, const Tensor& weight, double largest,
                        const PictureShape& picture) {
  const std::int64_t units = weight.shape()[1];
  const auto across =
      static_cast<std::int64_t>(std::ceil(std::sqrt(static_cast<double>(units) * 1.6)));
  std::string script =
      fmt::format(
          "set multiplot layout {},{} title {} font ',17'\nunset key\nunset grid\nunset tics\n"
          "unset border\nset size ratio -1\n",
          (units + across - 1) / across, across, plot::quoted(title)) +
      plot::range("x", -0.5, static_cast<double>(picture.columns) - 0.5) +
      plot::range("y", static_cast<double>(picture.rows) - 0.5, -0.5);
  for (std::int64_t unit = 0; unit < units; ++unit) {
    std::string rows;
    for (std::int64_t row = 0; row < picture.rows; ++row) {
      for (std::int64_t column = 0; column < picture.columns; ++column) {
        const double number = weight.at({row * picture.columns + column, unit});
        rows += pixel(static_cast<double>(column), static_cast<double>(row),
                      plot::signed_colour(number / largest));
      }
    }
    script +=
        plot::block("picture", rows) +
        fmt::format("set title 'unit {}'\nplot $picture using 1:2:3:4:5 with rgbimage\n", unit);
  }
  return script + "unset multiplot\n";
}

/// A row for each input, a column for each unit, with the numbers where there is room for them.
std::string table_of(const std::string& title, const Tensor& weight, double largest,
                     const std::vector<std::string>& input_names) {
  constexpr std::int64_t most_labels = 200;
  constexpr std::int64_t most_ticks = 20;
  const Shape& shape = weight.shape();
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
  const bool has_names = std::ssize(input_names) == shape[0];
  return plot::block("table", rows) + plot::block("labels", labels) +
         fmt::format(
             "set title {} font ',17'\nunset key\nunset grid\nset xlabel 'unit'\n"
             "set ylabel '{}'\n",
             plot::quoted(title), has_names ? "feature" : "input") +
         (has_names ? fmt::format("set ytics ({})\n", plot::ticks(input_names)) : "") +
         (shape[1] <= most_ticks ? "set xtics 1\n" : "") +
         plot::range("x", -0.5, static_cast<double>(shape[1]) - 0.5) +
         plot::range("y", static_cast<double>(shape[0]) - 0.5, -0.5) +
         "plot $table using 1:2:3:4:5 with rgbimage" +
         (weight.count() <= most_labels ? ", $labels using 1:2:3 with labels" : "") + "\n";
}

}  // namespace

Chart weights_chart(const std::string& title, const Tensor& weight,
                    const std::vector<std::string>& input_names,
                    const std::optional<PictureShape>& picture) {
  check_picture(weight.shape(), picture);
  double largest = 1e-300;
  for (const double number : weight.numbers())
    largest = std::max(largest, std::abs(number));
  const std::string told =
      fmt::format("{}   (teal above 0, plum below; darkest {})", title, format_number(largest, 3));
  return Chart({picture ? pictures_of(told, weight, largest, *picture)
                        : table_of(told, weight, largest, input_names)});
}

Chart confusion_chart(const std::string& title, const ClassJudgement& judgement) {
  const auto count = static_cast<std::int64_t>(judgement.classes.size());
  std::string rows;
  std::string labels;
  std::vector<std::string> names;
  for (std::int64_t truth = 0; truth < count; ++truth) {
    const ClassFigures& figures = judgement.classes[static_cast<std::size_t>(truth)];
    names.push_back(figures.name);
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
                            plot::ticks(names), plot::ticks(names)) +
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
  std::string script = fmt::format(
                           "set multiplot layout {},{} title {} font ',17'\nunset key\n"
                           "set style fill solid 0.8 noborder\nset boxwidth 0.75\n"
                           "set ytics ({}) font ',11'\nset xtics font ',10'\nunset grid\n"
                           "set arrow from 0, graph 0 to 0, graph 1 nohead lc rgb '#666a70'\n",
                           down, across, plot::quoted(title), plot::ticks(feature_names)) +
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
