#include <fmt/format.h>

#include <filesystem>

#include "files/file.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "show/passing_file.hpp"
#include "show/plot.hpp"
#include "show/program.hpp"

namespace lattice {
namespace {

/// What holds for every chart: lines for axes left and below, a light grid, the legend outside.
constexpr std::string_view look_of_charts =
    "set encoding utf8\n"
    "set border 3 lc rgb '#666a70'\n"
    "set tics nomirror textcolor rgb '#23262b'\n"
    "set grid lt 1 lc rgb '#ccd4d1' lw 1\n"
    "set key outside right top Left reverse samplen 2\n";

std::string terminal_for(const std::string& ending, const std::optional<ChartSize>& asked) {
  const ChartSize usual = ending == ".gif" ? ChartSize{800, 560} : ChartSize{1280, 800};
  const auto [width, height] = asked.value_or(usual);
  constexpr std::string_view face = "DejaVu Sans";
  if (ending == ".svg") {
    return fmt::format(
        "set terminal svg size {},{} dynamic noenhanced font '{},15' background '{}'\n", width,
        height, face, plot::paper);
  }
  if (ending == ".png") {
    return fmt::format(
        "set terminal pngcairo size {},{} noenhanced font '{},12.5' background '{}'\n", width,
        height, face, plot::paper);
  }
  return fmt::format(
      "set terminal gif animate delay 12 loop 0 truecolor size {},{} noenhanced font '{},11' "
      "background '{}'\n",
      width, height, face, plot::paper);
}

}  // namespace

void Chart::check_ending(const std::filesystem::path& path) {
  const std::string ending = path.extension().string();
  if (ending == ".svg" || ending == ".png" || ending == ".gif") return;
  throw SettingError({.what = fmt::format("a chart cannot be drawn as {}", path.string()),
                      .expected = "a file that ends in .svg, .png or .gif",
                      .found = ending.empty() ? "no ending" : ending});
}

void Chart::write(const std::filesystem::path& path, const std::optional<ChartSize>& size) const {
  check_ending(path);
  const std::string ending = path.extension().string();
  std::string script = terminal_for(ending, size ? size : size_) + "set output\n";
  const std::size_t first = ending == ".gif" ? 0 : frames_.size() - 1;
  for (std::size_t at = first; at < frames_.size(); ++at)
    script += fmt::format("reset\n{}{}", look_of_charts, frames_[at]);
  // From a file, since gnuplot reads its standard input one letter at a time; and as gnuplot comes,
  // whatever it does at its start for the one whose machine this is.
  const PassingFile passing("chart.gp");
  write_file(passing.path(), script);
  write_file(path, drawn_by({"gnuplot", "-d", passing.path()}, "", "gnuplot-nox", ending));
}

}  // namespace lattice
