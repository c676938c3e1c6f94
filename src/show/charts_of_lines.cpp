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

/// Points and lines of all targets in one panel.
std::string panel(const Dataset& data, const std::vector<LineMoment>& moments) {
  const std::int64_t targets = data.targets.shape()[1];
  std::string blocks;
  std::string plots;
  for (std::int64_t target = 0; target < targets; ++target) {
    const plot::Colour colour = plot::series_colour(static_cast<std::size_t>(target));
    const std::string of = targets == 1 ? "" : data.target_name(target) + " ";
    blocks += plot::block(fmt::format("points{}", target), points_of(data, target));
    plots += fmt::format("{}$points{} using 1:2 with points pt 7 ps 0.9 lc rgb '{}' title {}",
                         plots.empty() ? "" : ", ", target,
                         plot::text(plot::between(plot::paper_colour, colour, 0.6)),
                         plot::quoted(data.target_name(target)));
    for (std::size_t at = 0; at < moments.size(); ++at) {
      blocks +=
          plot::block(fmt::format("line{}_{}", target, at), line_of(moments[at].curve, target));
      // What lies between is drawn often, and named once.
      const bool is_between = at > 0 && at + 1 < moments.size();
      const std::string named =
          is_between && at > 1
              ? "notitle"
              : "title " + plot::quoted(of + (is_between ? "on the way" : moments[at].title));
      plots += fmt::format(", $line{}_{} using 1:2 with lines {} {}", target, at,
                           look_of(at, moments.size(), colour), named);
    }
  }
  return blocks + "plot " + plots + "\n";
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
  if (!as_frames) {
    return Chart({axes + fmt::format("set title {} font ',17'\n", plot::quoted(title)) +
                  panel(data, moments)});
  }
  std::vector<std::string> frames;
  frames.reserve(moments.size());
  for (const LineMoment& moment : moments) {
    frames.push_back(axes +
                     fmt::format("set title {} font ',13'\n",
                                 plot::quoted(fmt::format("{}: {}", title, moment.title))) +
                     panel(data, {moment}));
  }
  return Chart(std::move(frames));
}

}  // namespace lattice
