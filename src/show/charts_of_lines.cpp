#include <fmt/format.h>

#include <algorithm>

#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "show/plot.hpp"

namespace lattice {
namespace {

/// How a moment's line looks: dashed before training, faint on the way, full at the end.
std::string look_of(std::size_t moment, std::size_t moments, plot::Colour colour) {
  if (moment + 1 == moments) return fmt::format("lw 3 lc rgb '{}'", plot::text(colour));
  if (moment == 0) return fmt::format("lw 1.6 dt (6,4) lc rgb '{}'", plot::pencil);
  return fmt::format("lw 1 lc rgb '{}'", plot::hairline);
}

std::string points_of(const Dataset& data, std::int64_t target) {
  std::string rows;
  for (std::int64_t row = 0; row < data.rows(); ++row)
    rows += fmt::format("{} {}\n", plot::number(data.features.at({row, 0})),
                        plot::number(data.targets.at({row, target})));
  return rows;
}

std::string line_of(const AnswerCurve& curve, std::int64_t target) {
  std::string rows;
  for (std::int64_t point = 0; point < curve.across.count(); ++point)
    rows += fmt::format("{} {}\n", plot::number(curve.across.at_offset(point)),
                        plot::number(curve.numbers.at({point, target})));
  return rows;
}

/// Points and lines of all targets.
plot::Plot plot_of(const Dataset& data, const std::vector<LineMoment>& moments,
                   const std::string& axes) {
  plot::Plot plot;
  plot.set(axes);
  const std::int64_t targets = data.targets.shape()[1];
  for (std::int64_t target = 0; target < targets; ++target) {
    const plot::Colour colour = plot::series_colour(static_cast<std::size_t>(target));
    const std::string of = targets == 1 ? "" : data.target_name(target) + " ";
    plot.add(fmt::format("points{}", target), points_of(data, target),
             fmt::format("using 1:2 with points pt 7 ps 0.9 lc rgb '{}' {}",
                         plot::text(plot::between(plot::paper_colour, colour, 0.6)),
                         plot::in_legend(data.target_name(target))));
    for (std::size_t at = 0; at < moments.size(); ++at) {
      // What lies between is drawn often, and named once.
      const bool is_between = at > 0 && at + 1 < moments.size();
      const std::string name = !is_between ? of + moments[at].title
                               : at == 1   ? of + "on the way"
                                           : "";
      plot.add(fmt::format("line{}_{}", target, at), line_of(moments[at].curve, target),
               fmt::format("using 1:2 with lines {} {}", look_of(at, moments.size(), colour),
                           plot::in_legend(name)));
    }
  }
  return plot;
}

/// The stretch of the targets, with a tenth to spare: the same in every frame.
std::string up_range(const Dataset& data) {
  const std::vector<double> numbers = data.targets.numbers();
  const auto [low, high] = std::ranges::minmax(numbers);
  const double spare = high > low ? (high - low) / 10.0 : 1.0;
  return plot::range("y", low - spare, high + spare);
}

}  // namespace

Chart line_chart(const std::string& title, const Dataset& data,
                 const std::vector<LineMoment>& moments, bool as_frames,
                 const std::optional<Stretch>& up) {
  const std::string axes =
      fmt::format("set xlabel {}\nset ylabel {}\n", plot::quoted(data.label_of(0)),
                  plot::quoted(data.label_of_target(0))) +
      plot::range(
          "x", moments.front().curve.across.at_offset(0),
          moments.front().curve.across.at_offset(moments.front().curve.across.count() - 1)) +
      (up ? plot::range("y", up) : up_range(data)) +
      "set key at graph 0.5, character 3.7 center top horizontal\nset bmargin 7\n";
  if (!as_frames) return plot_of(data, moments, axes).chart(title);
  return plot::over_moments(
      title, moments, true, [&](const LineMoment& moment, const std::string& titled) {
        return plot_of(data, {moment},
                       axes + fmt::format("set title {} font ',13'\n", plot::quoted(titled)));
      });
}

}  // namespace lattice
