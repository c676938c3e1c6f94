#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "show/plot.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// Which of the two figures of some rows is read.
using Figure = std::function<std::optional<double>(const std::optional<Figures>&)>;

const Figure loss_of = [](const std::optional<Figures>& figures) {
  return figures ? std::optional(figures->loss) : std::nullopt;
};
const Figure accuracy_of = [](const std::optional<Figures>& figures) {
  return figures ? figures->accuracy : std::nullopt;
};

/// Where the figures of a run stand across: by epoch, or by step where steps were recorded.
struct Across {
  bool by_step;

  [[nodiscard]] std::int64_t at(const EpochFigures& figures) const {
    return by_step ? figures.updates : figures.epoch;
  }

  /// Where an epoch begins, the first with another rate.
  [[nodiscard]] std::int64_t beginning(const RunRecord& run, std::int64_t epoch) const {
    if (!by_step) return epoch;
    std::int64_t updates = 0;
    for (const EpochFigures& figures : run.epochs)
      updates = figures.epoch < epoch ? figures.updates : updates;
    return updates;
  }
};

/// One curve of a chart.
struct CurveOfRun {
  std::string name;
  double width;
  std::string look;
  std::string rows;
};

/// The width of a curve under so many others that run along with it: it shows on both sides.
double width_under(double width, std::size_t others) {
  return width + 3.0 * static_cast<double>(others);
}

/// How many later curves have the same points as one.
std::size_t later_like(const std::vector<CurveOfRun>& all, std::size_t at) {
  return static_cast<std::size_t>(
      std::count_if(all.begin() + static_cast<std::ptrdiff_t>(at) + 1, all.end(),
                    [&](const CurveOfRun& later) { return later.rows == all[at].rows; }));
}

/// Points of a curve, one a row of text.
class CurveRows {
 public:
  void add(std::int64_t across, const std::optional<double>& up) {
    if (up) rows_ += fmt::format("{} {}\n", across, plot::number(*up));
  }
  [[nodiscard]] const std::string& rows() const { return rows_; }

 private:
  std::string rows_;
};

std::string minibatch_rows(const RunRecord& run, const Figure& figure) {
  CurveRows points;
  for (const StepFigures& step : run.steps)
    points.add(step.step, figure(step.minibatch));
  return points.rows();
}

std::string running_rows(const RunRecord& run, const Figure& figure, Across across) {
  CurveRows points;
  auto step = run.steps.begin();
  for (const EpochFigures& epoch : run.epochs) {
    for (; across.by_step && step != run.steps.end() && step->step < epoch.updates; ++step)
      points.add(step->step, figure(step->running));
    points.add(across.at(epoch), figure(epoch.running));
  }
  return points.rows();
}

/// The figures of a whole part at the end of each epoch and, where they were looked at, between.
std::string part_rows(const RunRecord& run, const Figure& figure, Across across, DataPart part) {
  const bool has_validation = !run.epochs.empty() && run.epochs.front().validation;
  const bool is_watched = (part == DataPart::validation) == has_validation;
  CurveRows points;
  auto step = run.steps.begin();
  for (const EpochFigures& epoch : run.epochs) {
    for (; across.by_step && step != run.steps.end() && step->step <= epoch.updates; ++step) {
      if (is_watched && step->step < epoch.updates) points.add(step->step, figure(step->watched));
    }
    points.add(across.at(epoch), figure(part == DataPart::train ? epoch.train : epoch.validation));
  }
  for (; across.by_step && step != run.steps.end(); ++step) {
    if (is_watched) points.add(step->step, figure(step->watched));
  }
  return points.rows();
}

/// More changes than this are no marks but a slope, and are told in the title.
constexpr std::size_t most_marks = 12;

std::string rate_marks(const std::vector<NamedRun>& runs, Across across) {
  std::string script;
  for (const NamedRun& run : runs) {
    if (run.second.rate_changes.size() > most_marks) continue;
    for (const RateChange& change : run.second.rate_changes) {
      script += fmt::format(
          "set arrow from {0}, graph 0 to {0}, graph 1 nohead dt 2 lw 1.5 lc rgb '{1}'\n",
          across.beginning(run.second, change.epoch), plot::amber);
    }
  }
  return script;
}

/// What is said of changes of the rate beside the title.
std::string rate_words(const std::vector<NamedRun>& runs) {
  std::size_t marked = 0;
  for (const NamedRun& run : runs)
    marked += run.second.rate_changes.size() <= most_marks ? run.second.rate_changes.size() : 0;
  if (marked > 0) return "   (dashed upright: the rate was changed)";
  if (runs.size() == 1 && !runs.front().second.rate_changes.empty()) {
    const std::vector<RateChange>& changes = runs.front().second.rate_changes;
    return fmt::format("   (rate from {} to {})", format_number(changes.front().before, 3),
                       format_number(changes.back().after, 3));
  }
  return "";
}

/// The name of somebody else's figure, as long as the legend has room for.
std::string name_of(const Reference& reference) {
  return shortened(reference.name, 40);
}

/// How the figure of somebody else is drawn, and called in the legend.
std::string reference_look(const std::vector<Reference>& references, std::size_t at) {
  constexpr std::array<std::string_view, 3> dashes = {"(8,4)", "(2,3)", "(14,3,3,3)"};
  return fmt::format("with lines lc rgb '{}' lw 1.8 dt {} {}", plot::amber,
                     dashes.at(at % dashes.size()), plot::in_legend(name_of(references[at])));
}

plot::Plot plot_of(const std::string& title, const std::vector<CurveOfRun>& all,
                   const std::vector<Reference>& references = {}) {
  plot::Plot plot;
  if (!title.empty()) plot.set(fmt::format("set title {}\n", plot::quoted(title)));
  for (std::size_t at = 0; at < all.size(); ++at) {
    plot.add(fmt::format("curve{}", at), all[at].rows,
             fmt::format("using 1:2 {} lw {} {}", all[at].look,
                         width_under(all[at].width, later_like(all, at)),
                         plot::in_legend(all[at].name)));
  }
  for (std::size_t at = 0; at < references.size(); ++at) {
    plot.add(
        fmt::format("{} {}", plot::number(references[at].figure), reference_look(references, at)));
  }
  return plot;
}

constexpr std::string_view dashed = "(5,3)";
constexpr std::string_view dotted = "(2,2)";

/// The part of a run that was watched.
DataPart watched_part(const RunRecord& run) {
  const bool has_validation = !run.epochs.empty() && run.epochs.front().validation;
  return has_validation ? DataPart::validation : DataPart::train;
}

/// Lines; where there are more runs than colours, points on them tell those of a colour apart.
std::string lines_or_marks(std::size_t at, const RunRecord& run) {
  constexpr std::array<int, 5> shapes = {6, 4, 8, 10, 12};
  const std::size_t round = at / plot::series.size();
  if (round == 0) return "lines";
  const std::size_t apart = std::max<std::size_t>(1, run.epochs.size() / 10);
  return fmt::format("linespoints pt {} ps 0.9 pi {}", shapes.at((round - 1) % shapes.size()),
                     apart);
}

std::vector<CurveOfRun> series_of(const std::vector<NamedRun>& runs, const Figure& figure,
                                  Across across) {
  const auto look = [](std::string_view colour, std::string_view dash = "solid") {
    return fmt::format("with lines lc rgb '{}' dt {}", colour, dash);
  };
  const auto train = [&](const RunRecord& run) {
    return part_rows(run, figure, across, DataPart::train);
  };
  const auto validation = [&](const RunRecord& run) {
    return part_rows(run, figure, across, DataPart::validation);
  };
  if (runs.size() == 1) {
    const RunRecord& run = runs.front().second;
    std::vector<CurveOfRun> all;
    if (across.by_step)
      all.push_back({"minibatch", 0.8, look(plot::hairline), minibatch_rows(run, figure)});
    all.push_back({"running", 1.2, look(plot::pencil), running_rows(run, figure, across)});
    all.push_back({"train", 2.5, look(plot::teal), train(run)});
    all.push_back({"validation", 2.5, look(plot::plum, dashed), validation(run)});
    return all;
  }
  std::vector<CurveOfRun> all;
  for (std::size_t at = 0; at < runs.size(); ++at) {
    const RunRecord& run = runs[at].second;
    const std::string colour = plot::text(plot::series_colour(at));
    const bool has_validation = watched_part(run) == DataPart::validation;
    if (has_validation) all.push_back({"", 1.4, look(colour, dotted), train(run)});
    const std::string& name = runs[at].first;
    const std::string thick = fmt::format("with {} lc rgb '{}'", lines_or_marks(at, run), colour);
    all.push_back({name, 2.5, thick, has_validation ? validation(run) : train(run)});
  }
  return all;
}

/// The mean of a figure over runs, at each epoch that all have looked at.
std::string mean_rows(const std::vector<RunRecord>& runs, const Figure& figure) {
  CurveRows points;
  for (const EpochFigures& epoch : runs.front().epochs) {
    double sum = 0.0;
    std::size_t count = 0;
    for (const RunRecord& run : runs) {
      const auto found = std::ranges::find(run.epochs, epoch.epoch, &EpochFigures::epoch);
      if (found == run.epochs.end()) continue;
      const std::optional<double> number =
          figure(watched_part(run) == DataPart::validation ? found->validation : found->train);
      if (!number) continue;
      sum += *number;
      ++count;
    }
    if (count == runs.size()) points.add(epoch.epoch, sum / static_cast<double>(count));
  }
  return points.rows();
}

/// Every run of every setting, faintly, and the means over them.
std::vector<CurveOfRun> spread_of_runs(const std::vector<NamedRuns>& settings,
                                       const Figure& figure) {
  std::vector<CurveOfRun> all;
  for (std::size_t at = 0; at < settings.size(); ++at) {
    const plot::Colour colour = plot::series_colour(at);
    const std::string faint = plot::text(plot::between(plot::paper_colour, colour, 0.35));
    for (const RunRecord& run : settings[at].second) {
      all.push_back({"", 0.8, fmt::format("with lines lc rgb '{}'", faint),
                     part_rows(run, figure, {.by_step = false}, watched_part(run))});
    }
  }
  for (std::size_t at = 0; at < settings.size(); ++at) {
    all.push_back(
        {settings[at].first, 3.0,
         fmt::format("with {} lc rgb '{}'", lines_or_marks(at, settings[at].second.front()),
                     plot::text(plot::series_colour(at))),
         mean_rows(settings[at].second, figure)});
  }
  return all;
}

/// The letters of a name in the legend.
constexpr std::size_t most_in_legend = 62;

/// The same under names that fit into the legend; with a number before each where shortening
/// leaves two alike.
template <class Named>
std::vector<Named> with_short_names(std::vector<Named> all) {
  std::set<std::string> different;
  for (Named& each : all) {
    each.first = shortened(each.first, most_in_legend);
    different.insert(each.first);
  }
  if (different.size() == all.size()) return all;
  for (std::size_t at = 0; at < all.size(); ++at)
    all[at].first = fmt::format("{}: {}", at + 1, all[at].first);
  return all;
}

/// What is around curves.
struct Frame {
  std::string title;
  std::string part;  ///< whose figures they are, and a blank; empty where curves tell it
  std::string by;    ///< `epoch` or `step`
  std::string marks;
  CurveRanges ranges = {};
};

/// A legend over the whole width below the plots, with room for it.
std::string legend_below(const std::vector<CurveOfRun>& curves,
                         const std::vector<Reference>& references) {
  std::size_t longest = 0;
  std::size_t entries = references.size();
  for (const CurveOfRun& curve : curves) {
    if (curve.rows.empty() || curve.name.empty()) continue;
    longest = std::max(longest, columns(curve.name));
    ++entries;
  }
  for (const Reference& reference : references)
    longest = std::max(longest, columns(name_of(reference)));
  const std::size_t in_row = longest <= 24 ? 4 : longest <= 40 ? 3 : 2;
  const std::size_t rows = (entries + in_row - 1) / in_row;
  return fmt::format(
      "set key at screen 0.5, screen 0.01 center bottom vertical maxrows {} samplen 3 width {}\n"
      "set bmargin {:.1f}\n",
      rows, in_row == 2 ? -8 : 0, 4.0 + 1.2 * static_cast<double>(rows));
}

/// Losses, and beside them accuracies, where there are any.
Chart side_by_side(const Frame& frame, const std::vector<CurveOfRun>& losses,
                   const std::vector<CurveOfRun>& accuracies,
                   const std::vector<Reference>& references) {
  const bool has_accuracy =
      std::ranges::any_of(accuracies, [](const CurveOfRun& each) { return !each.rows.empty(); });
  const auto titled = [&](std::string_view figure) {
    return fmt::format("{}{} by {}", frame.part, figure, frame.by);
  };
  std::vector<plot::Plot> plots = {plot_of(titled("loss"), losses)};
  plots.front().set(fmt::format(
      "set xlabel '{}'\n{}set yrange [0:*]\n{}{}{}set ylabel 'loss'\n", frame.by,
      legend_below(losses, has_accuracy ? references : std::vector<Reference>()), frame.marks,
      plot::range("x", frame.ranges.across), plot::range("y", frame.ranges.loss)));
  if (has_accuracy) {
    for (std::size_t at = 0; at < references.size(); ++at)
      plots.front().add(fmt::format("NaN {}", reference_look(references, at)));
  }
  if (has_accuracy) {
    plots.push_back(plot_of(titled("accuracy"), accuracies, references));
    plots.back().set(
        fmt::format("unset key\nset yrange [*:1]\n{}set ylabel 'accuracy (share of rows)'\n",
                    plot::range("y", frame.ranges.accuracy)));
  }
  return Chart({plot::laid_out(frame.title, plots)});
}

}  // namespace

Chart series_chart(const std::string& title, const std::vector<Series>& series,
                   const SeriesView& view) {
  std::vector<CurveOfRun> curves;
  for (std::size_t at = 0; at < series.size(); ++at) {
    const Series& each = series[at];
    std::string rows;
    double across = each.first;
    for (const double number : each.numbers) {
      rows += fmt::format("{} {}\n", plot::number(across), plot::number(number));
      across += each.apart;
    }
    // A single number is a point; where colours come again, dashes tell the curves apart.
    constexpr std::array<std::string_view, 3> dashes = {"solid", dashed, dotted};
    curves.push_back({shortened(each.name, most_in_legend), 2.2,
                      fmt::format("with {} pt 7 ps 0.7 lc rgb '{}' dt {}",
                                  each.numbers.size() == 1 ? "points" : "lines",
                                  plot::text(plot::series_colour(at)),
                                  dashes.at(at / plot::series.size() % dashes.size())),
                      rows});
  }
  const bool has_number = std::ranges::any_of(series, [](const Series& each) {
    return std::ranges::any_of(each.numbers, [](double number) { return std::isfinite(number); });
  });
  if (!has_number) {
    throw SettingError({.what = "there is no number to draw",
                        .expected = "one finite number or more in one of the series",
                        .found = counted(std::ssize(series), "series", "series")});
  }
  plot::Plot plot = plot_of("", curves);
  plot.set(fmt::format("set xlabel {}\nset ylabel {}\n{}{}{}", plot::quoted(view.across),
                       plot::quoted(view.up), legend_below(curves, {}),
                       plot::range("x", view.across_range), plot::range("y", view.up_range)));
  return plot.chart(title);
}

Chart curves_chart(const std::string& title, const std::vector<NamedRun>& runs,
                   const std::vector<Reference>& references, const CurveRanges& ranges) {
  const Across across{.by_step = runs.size() == 1 && !runs.front().second.steps.empty()};
  const std::vector<NamedRun> shown = with_short_names(runs);
  const bool has_validation = std::ranges::any_of(
      runs, [](const NamedRun& run) { return watched_part(run.second) == DataPart::validation; });
  return side_by_side({.title = title + rate_words(runs),
                       .part = runs.size() == 1 ? ""
                               : has_validation ? "validation (train dotted): "
                                                : "train ",
                       .by = across.by_step ? "step" : "epoch",
                       .marks = rate_marks(runs, across),
                       .ranges = ranges},
                      series_of(shown, loss_of, across), series_of(shown, accuracy_of, across),
                      references);
}

Chart spread_chart(const std::string& title, const std::vector<NamedRuns>& settings,
                   const std::vector<Reference>& references) {
  const DataPart part = watched_part(settings.front().second.front());
  const std::vector<NamedRuns> shown = with_short_names(settings);
  return side_by_side(
      {.title = title, .part = fmt::format("{} ", word(part)), .by = "epoch", .marks = ""},
      spread_of_runs(shown, loss_of), spread_of_runs(shown, accuracy_of), references);
}

Chart descent_chart(const std::string& title, const LossSurface& surface,
                    const std::vector<DescentPath>& paths, const std::string& across_name,
                    const std::string& up_name) {
  std::string grid;
  for (std::int64_t row = 0; row < surface.up.count(); ++row) {
    for (std::int64_t column = 0; column < surface.across.count(); ++column) {
      grid += fmt::format("{} {} {}\n", surface.across.at_offset(column), surface.up.at_offset(row),
                          plot::number(surface.losses.at({row, column})));
    }
    grid += "\n";
  }
  // Lines of equal loss lie closer where it is low: squares between the lowest and the highest.
  const std::vector<double> losses = surface.losses.numbers();
  const auto [low, high] = std::ranges::minmax(losses);
  std::string levels;
  constexpr int lines = 14;
  for (int at = 1; at <= lines; ++at) {
    const double share = static_cast<double>(at) / (lines + 1);
    levels += fmt::format("{}{}", at == 1 ? "" : ",", low + (high - low) * share * share);
  }
  std::string script =
      plot::block("loss", grid) +
      fmt::format(
          "set contour base\nunset surface\nset cntrparam levels discrete {}\n"
          "set table $levels\nsplot $loss using 1:2:3\nunset table\n"
          "unset contour\nset surface\nunset key\nset xlabel {}\nset ylabel {}\n",
          levels, plot::quoted(across_name), plot::quoted(up_name)) +
      plot::range("x", surface.across.at_offset(0),
                  surface.across.at_offset(surface.across.count() - 1)) +
      plot::range("y", surface.up.at_offset(0), surface.up.at_offset(surface.up.count() - 1));
  std::vector<plot::Plot> plots;
  for (const DescentPath& path : paths) {
    std::string rows;
    for (std::size_t step = 0; step < path.across.size(); ++step)
      rows += fmt::format("{} {}\n", plot::number(path.across[step]), plot::number(path.up[step]));
    plot::Plot& plot = plots.emplace_back();
    plot.set(fmt::format("set title {}\n",
                         plot::quoted(fmt::format("{}, {}", path.name,
                                                  counted(std::ssize(path.across) - 1, "step")))));
    plot.add(fmt::format("$levels using 1:2 with lines lc rgb '{}' lw 1", plot::hairline));
    plot.add("path", rows,
             fmt::format("using 1:2 with linespoints lc rgb '{}' lw 1.6 pt 7 ps 0.35", plot::teal));
    plot.add(fmt::format("$path every ::0::0 using 1:2 with points pt 6 ps 1.6 lw 2 lc rgb '{}'",
                         plot::amber));
    plot.add(fmt::format("$path every ::{} using 1:2 with points pt 7 ps 1.4 lc rgb '{}'",
                         path.across.size() - 1, plot::plum));
  }
  return Chart({script + plot::laid_out(title, plots)});
}

namespace {

/// Whether two curves run along together for half of their length or more.
bool run_together(const Tensor& first, const Tensor& second) {
  std::int64_t same = 0;
  for (std::int64_t at = 0; at < first.count(); ++at)
    same += std::abs(first.at_offset(at) - second.at_offset(at)) < 1e-9 ? 1 : 0;
  return 2 * same >= first.count();
}

/// How many later curves run along with one.
template <class Numbers>
std::size_t later_along_with(const std::vector<std::pair<std::string, Curve>>& curves,
                             std::size_t at, const Numbers& numbers) {
  return static_cast<std::size_t>(std::count_if(
      curves.begin() + static_cast<std::ptrdiff_t>(at) + 1, curves.end(), [&](const auto& later) {
        return run_together(numbers(curves[at].second), numbers(later.second));
      }));
}

/// The stretch of all values and derivatives, with some room.
std::optional<Stretch> stretch_of(const std::vector<std::pair<std::string, Curve>>& curves) {
  double low = std::numeric_limits<double>::infinity();
  double high = -low;
  for (const auto& [name, curve] : curves) {
    for (const Tensor* const numbers : {&curve.value, &curve.slope}) {
      for (const double number : numbers->numbers()) {
        if (!std::isfinite(number)) continue;
        low = std::min(low, number);
        high = std::max(high, number);
      }
    }
  }
  if (!(low <= high)) return std::nullopt;
  const double room = high > low ? 0.05 * (high - low) : 1.0;
  return Stretch{.low = low - room, .high = high + room};
}

}  // namespace

Chart function_chart(const std::vector<std::pair<std::string, Curve>>& curves,
                     const std::string& title, const std::optional<Stretch>& up) {
  plot::Plot plot;
  const auto value_of = [](const Curve& curve) -> const Tensor& { return curve.value; };
  const auto slope_of = [](const Curve& curve) -> const Tensor& { return curve.slope; };
  for (std::size_t at = 0; at < curves.size(); ++at) {
    const Curve& curve = curves[at].second;
    std::string rows;
    for (std::int64_t point = 0; point < curve.x.count(); ++point) {
      rows += fmt::format("{} {} {}\n", curve.x.at_offset(point),
                          plot::number(curve.value.at_offset(point)),
                          plot::number(curve.slope.at_offset(point)));
    }
    const std::string colour = plot::text(plot::series_colour(at));
    const std::string name = fmt::format("function{}", at);
    plot.add(name, rows,
             fmt::format("using 1:2 with lines lw {} lc rgb '{}' {}",
                         width_under(2.8, later_along_with(curves, at, value_of)), colour,
                         plot::in_legend(curves[at].first)));
    plot.add(fmt::format("${} using 1:3 with lines lw {} dt (5,3) lc rgb '{}' {}", name,
                         width_under(2.0, later_along_with(curves, at, slope_of)), colour,
                         plot::in_legend("its derivative")));
  }
  const Tensor& x = curves.front().second.x;
  plot.set(plot::range("x", x.at_offset(0), x.at_offset(x.count() - 1)) +
           plot::range("y", up ? up : stretch_of(curves)) +
           "set xlabel 'x'\nset ylabel 'value (solid), derivative (dashed)'\n"
           "set xzeroaxis lt 1 lc rgb '#666a70'\nset yzeroaxis lt 1 lc rgb '#666a70'\n");
  return plot.chart(title);
}

}  // namespace lattice
