#include "lattice/graphs/around/charts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <span>
#include <sstream>

#include "lattice/graphs/graph.hpp"
#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "show/plot.hpp"
#include "show/program.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

/// Of larger graphs the names would lie over one another.
constexpr std::int64_t most_names = 80;

/// The mark of a class, beside its colour.
int mark_of(std::size_t number) {
  constexpr std::array<int, 5> marks = {7, 5, 9, 11, 13};
  return marks.at(number % marks.size());
}

/// A triangle looks smaller than a circle of its size.
double scale_of(std::size_t number) {
  return mark_of(number) > 8 ? 1.3 : 1.0;
}

/// What is true of a node, as a class, all of one where numbers are; none where nobody knows.
std::optional<std::size_t> class_of(const Dataset& graph, std::int64_t node) {
  if (!graph.has_truth(node)) return std::nullopt;
  return graph.has_classes() ? static_cast<std::size_t>(graph.classes.at_offset(node)) : 0;
}

/// The stretches of the places of some moments, with room for names.
class NodesFrame {
 public:
  explicit NodesFrame(std::span<const NodesMoment> moments) {
    for (const NodesMoment& moment : moments) {
      for (std::int64_t at = 0; at < moment.places.count(); ++at) {
        const double number = moment.places.at_offset(at);
        if (!std::isfinite(number)) continue;
        const auto axis = static_cast<std::size_t>(at % 2);
        low_.at(axis) = std::min(low_.at(axis), number);
        high_.at(axis) = std::max(high_.at(axis), number);
      }
    }
    for (std::size_t axis = 0; axis < 2; ++axis) {
      const double room = std::max(0.07 * (high_.at(axis) - low_.at(axis)), 1e-9);
      low_.at(axis) -= room;
      high_.at(axis) += room;
    }
  }

  [[nodiscard]] double width(std::int64_t axis) const {
    const auto of = static_cast<std::size_t>(axis);
    return high_.at(of) - low_.at(of);
  }

  [[nodiscard]] std::string text() const {
    return plot::range("x", low_[0], high_[0]) + plot::range("y", low_[1], high_[1]);
  }

 private:
  std::array<double, 2> low_ = {1e300, 1e300};
  std::array<double, 2> high_ = {-1e300, -1e300};
};

std::string place_of(const NodesMoment& moment, std::int64_t node) {
  return fmt::format("{} {}", plot::number(moment.places.at({node, 0})),
                     plot::number(moment.places.at({node, 1})));
}

std::string edge_lines(const Dataset& graph, const NodesMoment& moment) {
  std::string lines;
  for (const Edge& edge : edges_of(graph))
    lines += fmt::format("{}\n{}\n\n", place_of(moment, edge.from), place_of(moment, edge.to));
  return lines;
}

/// So many classes are named in the legend.
constexpr std::int64_t most_in_legend = 18;

/// The nodes at one moment, layer by layer.
class NodesPlot {
 public:
  /// @param beside how many stand side by side
  NodesPlot(const Dataset& graph, const NodesMoment& moment, const NodesFrame& frame,
            std::size_t beside)
      : graph_(graph), moment_(moment), frame_(frame), beside_(beside) {
    const bool are_long = std::ranges::any_of(
        graph.row_names, [](const std::string& name) { return columns(name) > longest_name; });
    if (are_long) names_ = what_differs(graph.row_names);
  }

  [[nodiscard]] plot::Plot under(const std::string& title) {
    add("edges", edge_lines(graph_, moment_), "with lines lc rgb '#c3cbc8' lw 1 notitle");
    add_known();
    add_classes();
    add_unlabelled();
    add_otherwise();
    add_names();
    if (!moment_.answers.empty())
      plot_.add("keyentry with points pt 7 ps 0.8 lc rgb '#23262b' title 'inside: another answer'");
    const std::string words = moment_.answers.empty() ? "" : wrong_in_words();
    plot_.set(frame_.text() + fmt::format("set title {}\n", plot::quoted(title + words)));
    return plot_;
  }

 private:
  void add(const std::string& name, const std::string& rows, const std::string& how) {
    plot_.add(name, rows, "using 1:2 " + how);
  }

  static constexpr std::size_t longest_name = 18;

  [[nodiscard]] double size() const { return graph_.rows() > most_names ? 0.9 : 1.9; }

  void add_known() {
    std::string rows;
    for (const std::int64_t node : graph_.known)
      rows += place_of(moment_, node) + "\n";
    add("known", rows,
        fmt::format("with points pt 6 ps {} lw 2.2 lc rgb '#23262b' title 'label known'",
                    1.9 * size()));
  }

  void add_classes() {
    const std::int64_t classes = graph_.has_classes() ? graph_.class_count() : 1;
    for (std::int64_t of = 0; of < classes; ++of) {
      const auto number = static_cast<std::size_t>(of);
      std::string rows;
      for (std::int64_t node = 0; node < graph_.rows(); ++node) {
        if (class_of(graph_, node) == number) rows += place_of(moment_, node) + "\n";
      }
      add(fmt::format("of{}", of), rows,
          fmt::format("with points pt {} ps {} lc rgb '{}' title {}", mark_of(number),
                      scale_of(number) * size(), plot::text(plot::series_colour(number)),
                      of < most_in_legend ? plot::quoted(legend_name(of)) : "''"));
    }
    if (classes > most_in_legend) {
      plot_.add(fmt::format("keyentry with points ps 0 title {}",
                            plot::quoted(fmt::format("and {} more", classes - most_in_legend))));
    }
  }

  [[nodiscard]] std::string legend_name(std::int64_t of) const {
    return shortened(graph_.has_classes() ? graph_.class_name(of) : graph_.target_name(), 36);
  }

  void add_unlabelled() {
    std::string rows;
    for (const std::int64_t node : graph_.unlabelled)
      rows += place_of(moment_, node) + "\n";
    add("over_edges", rows,
        fmt::format("with points pt 7 ps {} lc rgb '{}' notitle", size(), plot::paper));
    add("hollow", rows,
        fmt::format("with points pt 6 ps {} lw 1.6 lc rgb '{}' title 'unlabelled'", size(),
                    plot::pencil));
  }

  /// On a node that is answered otherwise, the mark of that answer.
  void add_otherwise() {
    if (moment_.answers.empty()) return;
    for (std::int64_t of = 0; of < graph_.class_count(); ++of) {
      const auto number = static_cast<std::size_t>(of);
      std::string rows;
      for (std::int64_t node = 0; node < graph_.rows(); ++node) {
        if (is_otherwise(node) && moment_.answers.at_offset(node) == static_cast<double>(of))
          rows += place_of(moment_, node) + "\n";
      }
      add(fmt::format("under{}", of), rows,
          fmt::format("with points pt 7 ps {} lc rgb '#fbfaf4' notitle", 0.62 * size()));
      add(fmt::format("answer{}", of), rows,
          fmt::format("with points pt {} ps {} lc rgb '{}' notitle", mark_of(number),
                      0.42 * scale_of(number) * size(), plot::text(plot::series_colour(number))));
    }
  }

  void add_names() {
    if (graph_.rows() > most_names || graph_.row_names.empty()) return;
    std::string rows;
    std::vector<std::int64_t> named;
    for (std::int64_t node = 0; node < graph_.rows(); ++node) {
      const auto lies_over = [&](std::int64_t other) { return are_near(node, other); };
      if (std::ranges::any_of(named, lies_over)) continue;
      named.push_back(node);
      rows += fmt::format("{} {}\n", place_of(moment_, node), plot::quoted(name_of(node)));
    }
    plot_.add("names", rows,
              "using 1:2:3 with labels offset 0,-1.05 font ',10' tc rgb '#4a4e55' notitle");
  }

  /// A name that fits beside others.
  [[nodiscard]] std::string name_of(std::int64_t node) const {
    return shortened(
        names_.empty() ? graph_.row_name(node) : names_[static_cast<std::size_t>(node)],
        longest_name);
  }

  /// Whether the names of two nodes would lie over one another.
  [[nodiscard]] bool are_near(std::int64_t a, std::int64_t b) const {
    constexpr double width_of_letter = 0.0068;
    constexpr double height = 0.03;
    const auto letters = static_cast<double>(columns(name_of(a)) + columns(name_of(b))) / 2.0 + 1.0;
    const auto apart = [&](std::int64_t axis) {
      return std::abs(moment_.places.at({a, axis}) - moment_.places.at({b, axis})) /
             frame_.width(axis);
    };
    return apart(0) < width_of_letter * letters * static_cast<double>(beside_) && apart(1) < height;
  }

  /// True where the answer is not what is true, or may be anything.
  [[nodiscard]] bool is_otherwise(std::int64_t node) const {
    return static_cast<std::size_t>(moment_.answers.at_offset(node)) != class_of(graph_, node);
  }

  [[nodiscard]] std::string wrong_in_words() const {
    std::int64_t wrong = 0;
    std::int64_t asked = 0;
    for (std::int64_t node = 0; node < graph_.rows(); ++node) {
      const bool is_learnt_from = !graph_.known.empty() && graph_.is_known(node);
      if (is_learnt_from || !graph_.has_truth(node)) continue;
      ++asked;
      wrong += is_otherwise(node) ? 1 : 0;
    }
    return fmt::format("   {} of {} others right", asked - wrong, asked);
  }

  const Dataset& graph_;
  const NodesMoment& moment_;
  NodesFrame frame_;
  std::size_t beside_;
  std::vector<std::string> names_ = {};  ///< what differs in them, if they are long
  plot::Plot plot_ = {};
};

void check(const Dataset& graph, const std::vector<NodesMoment>& moments) {
  static_cast<void>(edges_of(graph));
  for (const NodesMoment& moment : moments) {
    if (moment.places.shape() == Shape{graph.rows(), 2}) continue;
    throw ShapeError({.what = "the positions of the nodes have the wrong shape",
                      .expected = fmt::format("[{} × 2]", graph.rows()),
                      .found = to_string(moment.places.shape())});
  }
}

}  // namespace

Chart nodes_chart(const std::string& title, const Dataset& graph,
                  const std::vector<NodesMoment>& moments, const NodesSetting& setting) {
  check(graph, moments);
  const std::string axes =
      setting.across_name.empty()
          ? std::string("unset border\nunset tics\nunset grid\n")
          : fmt::format("set xlabel {}\nset ylabel {}\nunset grid\n",
                        plot::quoted(setting.across_name), plot::quoted(setting.up_name));
  // One legend for all moments, below them.
  const std::int64_t classes = graph.has_classes() ? graph.class_count() : 1;
  const std::int64_t in_legend = std::min(classes, most_in_legend + 1) + 3;
  constexpr std::int64_t in_row = 3;
  const std::int64_t rows = (in_legend + in_row - 1) / in_row;
  const std::string look =
      axes + fmt::format(
                 "set key at screen 0.5, screen 0.01 center bottom vertical maxrows {} "
                 "samplen 1\nset bmargin {:.1f}\n",
                 rows,
                 (setting.across_name.empty() ? 2.0 : 4.0) + 1.25 * static_cast<double>(rows));
  const std::size_t beside = setting.as_frames ? 1 : moments.size();
  const auto draw = [&](const NodesMoment& moment, const std::string& titled) {
    // An animation stays in one frame, so that what moves in it are nodes.
    const NodesFrame frame(setting.as_frames ? std::span(moments) : std::span(&moment, 1));
    const bool has_legend = setting.as_frames || &moment == &moments.front();
    return NodesPlot(graph, moment, frame, beside)
        .under(titled)
        .set(look + (has_legend ? "" : "unset key\n"));
  };
  return plot::over_moments(title, moments, setting.as_frames, draw);
}

Tensor laid_out(const Tensor& adjacency) {
  constexpr std::int64_t most_for_neato = 400;
  const std::vector<MatrixEntry> entries = entries_of(adjacency);
  const std::int64_t nodes = adjacency.shape()[0];
  std::string text = "graph {\nnode [shape=point]\n";
  for (std::int64_t node = 0; node < nodes; ++node)
    text += fmt::format("{};\n", node);
  for (const MatrixEntry& entry : entries) {
    // Of two directions one is enough to lie near each other.
    if (entry.column < entry.row || adjacency.at({entry.column, entry.row}) == 0.0)
      text += fmt::format("{} -- {};\n", entry.column, entry.row);
  }
  const std::string program = nodes > most_for_neato ? "sfdp" : "neato";
  const std::string answer = run_program({program, "-Tplain"}, text + "}\n", "graphviz");
  Tensor places = zeros({nodes, 2});
  std::int64_t laid_out = 0;
  std::istringstream lines(answer);
  std::string line;
  while (std::getline(lines, line)) {
    std::istringstream words(line);
    std::string kind;
    std::int64_t node = 0;
    double x = 0.0;
    double y = 0.0;
    words >> kind;
    if (kind != "node" || !(words >> node >> x >> y)) continue;
    places.set({node, 0}, x);
    places.set({node, 1}, y);
    ++laid_out;
  }
  if (laid_out != nodes) {
    throw ProgramError({.what = fmt::format("the program {} laid out no graph", program),
                        .expected = fmt::format("a place for each of {} nodes", nodes),
                        .found = fmt::format("{}", laid_out)});
  }
  return places;
}

}  // namespace lattice
