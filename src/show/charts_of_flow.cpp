#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <iterator>
#include <limits>
#include <string>
#include <utility>
#include <vector>

#include "lattice/show/charts.hpp"
#include "show/plot.hpp"

namespace lattice {
namespace {

/// So many moments are told apart by their colour.
constexpr std::size_t most_moments = 6;

/// Those of so many that are shown: spread evenly, the first and the last among them.
std::vector<std::size_t> shown_of(std::size_t count) {
  std::vector<std::size_t> shown;
  const std::size_t moments = std::min(count, most_moments);
  for (std::size_t at = 0; at < moments; ++at)
    shown.push_back(moments == 1 ? 0 : at * (count - 1) / (moments - 1));
  return shown;
}

/// Layers that learn, and groups of layers: the others are between.
bool is_drawn(const LayerFlow& layer, const std::vector<LayerFlow>& all) {
  const std::string inside = layer.layer + ".";
  const bool is_group = std::ranges::any_of(
      all, [&](const LayerFlow& other) { return other.layer.starts_with(inside); });
  return layer.learns || is_group;
}

std::vector<LayerFlow> drawn_of(const std::vector<LayerFlow>& layers) {
  std::vector<LayerFlow> drawn;
  std::ranges::copy_if(layers, std::back_inserter(drawn),
                       [&](const LayerFlow& layer) { return is_drawn(layer, layers); });
  return drawn.size() < 2 ? layers : drawn;
}

using FlowFigure = double LayerFlow::*;

/// From the lowest to the highest power of ten of a figure in all that is shown.
std::pair<double, double> powers_of_ten(const std::vector<NamedFlow>& networks, FlowFigure figure) {
  double low = std::numeric_limits<double>::infinity();
  double high = 0.0;
  for (const auto& [name, moments] : networks) {
    for (const FlowMoment& moment : moments) {
      for (const LayerFlow& layer : drawn_of(moment.layers)) {
        const double number = layer.*figure;
        if (!std::isfinite(number) || number <= 0.0) continue;
        low = std::min(low, number);
        high = std::max(high, number);
      }
    }
  }
  if (high == 0.0) return {0.1, 10.0};
  return {std::pow(10.0, std::floor(std::log10(low) - 0.1)),
          std::pow(10.0, std::ceil(std::log10(high) + 0.1))};
}

/// The names of layers at their places, as many as can be read beside each other.
std::string ticks_of(const std::vector<LayerFlow>& layers) {
  constexpr std::size_t most_names = 14;
  std::vector<std::string> names(layers.size());
  std::ranges::transform(layers, names.begin(), &LayerFlow::layer);
  return plot::ticks(names, (layers.size() + most_names - 1) / most_names);
}

plot::Plot flow_plot(const std::string& title, const std::vector<FlowMoment>& moments,
                     FlowFigure figure, bool has_names) {
  plot::Plot plot;
  const std::vector<std::size_t> shown = shown_of(moments.size());
  for (std::size_t at = 0; at < shown.size(); ++at) {
    const FlowMoment& moment = moments[shown[at]];
    std::string rows;
    std::size_t place = 0;
    for (const LayerFlow& layer : drawn_of(moment.layers)) {
      const double value = layer.*figure;
      rows += fmt::format("{} {}\n", place++, value > 0.0 ? plot::number(value) : "NaN");
    }
    const double share =
        shown.size() == 1 ? 1.0 : static_cast<double>(at) / static_cast<double>(shown.size() - 1);
    const std::string colour = plot::text(plot::between(plot::series[2], plot::series[0], share));
    plot.add(
        fmt::format("moment{}", at), rows,
        fmt::format("using 1:2 with linespoints lc rgb '{}' lw {} pt 7 ps 0.5 {}", colour,
                    at + 1 == shown.size() ? 2.6 : 1.6,
                    plot::in_legend(moment.epoch == 0 ? "before training"
                                                      : fmt::format("epoch {}", moment.epoch))));
  }
  const std::vector<LayerFlow> layers = drawn_of(moments.front().layers);
  const std::string marks =
      has_names ? fmt::format("set xtics ({}) rotate by -50 left font ',9'\n", ticks_of(layers))
                : std::string("set xtics format ''\n");
  plot.set(marks + plot::range("x", -0.5, static_cast<double>(layers.size()) - 0.5) +
           fmt::format("set title {}\n", plot::quoted(title)));
  return plot;
}

}  // namespace

Chart layer_flow_chart(const std::vector<NamedFlow>& networks) {
  const auto gradients = powers_of_ten(networks, &LayerFlow::gradient_norm);
  const auto spreads = powers_of_ten(networks, &LayerFlow::standard_deviation);
  std::vector<plot::Plot> plots;
  const auto add_row = [&](FlowFigure figure, const std::pair<double, double>& stretch,
                           std::string_view what, bool is_last) {
    for (std::size_t at = 0; at < networks.size(); ++at) {
      const auto& [name, moments] = networks[at];
      plot::Plot& plot =
          plots.emplace_back(flow_plot(is_last ? "" : name, moments, figure, is_last));
      plot.set(plot::range("y", stretch.first, stretch.second));
      plot.set(is_last ? "set bmargin 9\nset tmargin 2\n" : "set bmargin 2\nset tmargin 4\n");
      plot.set(plots.size() == 1 ? "set key top left horizontal font ',10'\n" : "set key off\n");
      plot.set(fmt::format("set ylabel {}\n", plot::quoted(at == 0 ? what : "")));
    }
  };
  add_row(&LayerFlow::gradient_norm, gradients, "gradient norm at the output", false);
  add_row(&LayerFlow::standard_deviation, spreads, "standard deviation of the output", true);
  const std::string look =
      "set logscale y\nset format y '%g'\nunset grid\nset grid ytics\nset lmargin 10\n"
      "set rmargin 6\n";
  const auto columns = static_cast<std::int64_t>(networks.size());
  return {{look + plot::laid_out("", plots, 2)},
          ChartSize{.width = std::max<std::int64_t>(900, 640 * columns), .height = 800}};
}

}  // namespace lattice
