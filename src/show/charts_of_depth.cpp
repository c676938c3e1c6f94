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
std::pair<double, double> powers_of_ten(const std::vector<NamedDepth>& networks,
                                        FlowFigure figure) {
  double low = std::numeric_limits<double>::infinity();
  double high = 0.0;
  for (const auto& [name, moments] : networks) {
    for (const Depth& moment : moments) {
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

/// @param number of the panel, for its blocks
std::string depth_panel(const std::string& title, const std::vector<Depth>& moments,
                        FlowFigure figure, std::size_t number, bool has_names) {
  std::string blocks;
  std::string curves;
  const std::vector<std::size_t> shown = shown_of(moments.size());
  for (std::size_t at = 0; at < shown.size(); ++at) {
    const Depth& moment = moments[shown[at]];
    std::string rows;
    std::size_t place = 0;
    for (const LayerFlow& layer : drawn_of(moment.layers)) {
      const double value = layer.*figure;
      rows += fmt::format("{} {}\n", place++, value > 0.0 ? plot::number(value) : "NaN");
    }
    const double share =
        shown.size() == 1 ? 1.0 : static_cast<double>(at) / static_cast<double>(shown.size() - 1);
    const std::string colour = plot::text(plot::between(plot::series[2], plot::series[0], share));
    const std::string name = fmt::format("panel{}_{}", number, at);
    blocks += plot::block(name, rows);
    curves +=
        fmt::format("{}${} using 1:2 with linespoints lc rgb '{}' lw {} pt 7 ps 0.5 title {}",
                    curves.empty() ? "" : ", ", name, colour, at + 1 == shown.size() ? 2.6 : 1.6,
                    plot::quoted(moment.epoch == 0 ? "before training"
                                                   : fmt::format("epoch {}", moment.epoch)));
  }
  const std::vector<LayerFlow> layers = drawn_of(moments.front().layers);
  const std::string marks =
      has_names ? fmt::format("set xtics ({}) rotate by -50 left font ',9'\n", ticks_of(layers))
                : std::string("set xtics format ''\n");
  return blocks + marks + plot::range("x", -0.5, static_cast<double>(layers.size()) - 0.5) +
         fmt::format("set title {}\nplot {}\n", plot::quoted(title), curves);
}

}  // namespace

Chart depth_chart(const std::vector<NamedDepth>& networks) {
  const auto gradients = powers_of_ten(networks, &LayerFlow::gradient_norm);
  const auto spreads = powers_of_ten(networks, &LayerFlow::standard_deviation);
  const std::size_t count = networks.size();
  std::string script = fmt::format(
      "set multiplot layout 2,{}\nset logscale y\nset format y '%g'\nunset grid\nset grid "
      "ytics\nset lmargin 10\nset rmargin 6\n",
      count);
  std::size_t number = 0;
  const auto row = [&](FlowFigure figure, const std::pair<double, double>& stretch,
                       const char* what, bool is_last) {
    script += plot::range("y", stretch.first, stretch.second);
    script += is_last ? "set bmargin 9\nset tmargin 2\nset key off\n"
                      : "set bmargin 2\nset tmargin 4\nset key top left horizontal font ',10'\n";
    for (const auto& [name, moments] : networks) {
      script += fmt::format("set ylabel {}\n", plot::quoted(number % count == 0 ? what : ""));
      script += depth_panel(is_last ? "" : name, moments, figure, number, is_last);
      if (!is_last) script += "set key off\n";
      ++number;
    }
  };
  row(&LayerFlow::gradient_norm, gradients, "gradient norm at the output", false);
  row(&LayerFlow::standard_deviation, spreads, "standard deviation of the output", true);
  return {{script + "unset multiplot\n"},
          ChartSize{.width = std::max<long>(900, 640 * static_cast<long>(count)), .height = 800}};
}

}  // namespace lattice
