#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <numbers>
#include <span>
#include <string>
#include <vector>

#include "lattice/show/charts.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "show/plan_words.hpp"
#include "show/plot.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// A column for each network is so wide; a card is a unit high.
constexpr double column_width = 10.0;
constexpr double flow_height = 0.72;  ///< from one card to the next
constexpr double frame_head = 0.42;   ///< above the first card of a frame
constexpr double sum_height = 0.36;   ///< of the sign for a sum
constexpr double frame_inset = 0.35;  ///< of a frame inside a frame
constexpr double half_card = 3.1;
constexpr double lane_apart = 0.55;  ///< from a frame to its skip connection

/// The pixels of a unit.
constexpr double pixels_across = 60.0;
constexpr double pixels_down = 58.0;

/// The pixels that a letter takes on average.
double width_of_letter(int size) {
  return 0.69 * static_cast<double>(size);
}

/// How many letters there is room for.
std::size_t letters_in(double pixels, int size) {
  return static_cast<std::size_t>(std::max(4.0, pixels / width_of_letter(size)));
}

/// `5·16 + 16 = 96`, or its result alone where that is too long.
std::string count_that_fits(const std::string& count, std::size_t letters) {
  const std::size_t equals = count.find("= ");
  if (columns(count) <= letters || equals == std::string::npos) return shortened(count, letters);
  return shortened(count.substr(equals + 2), letters);
}

/// Where a label stands at its place.
enum class Set : std::uint8_t { left, centre, right };

/// How many numbers are learnt in a layer, and how that comes about: `5·16 + 16 = 96`.
std::string count_of(const Plan::Row& row) {
  std::vector<std::string> learnt;
  std::int64_t kept = 0;
  for (const WeightNeed& need : row.needs) {
    if (need.is_running) {
      kept += need.shape.count();
      continue;
    }
    std::vector<std::int64_t> sizes(static_cast<std::size_t>(need.shape.rank()));
    for (std::size_t axis = 0; axis < sizes.size(); ++axis)
      sizes[axis] = need.shape[static_cast<int>(axis)];
    learnt.push_back(sizes.empty() ? "1" : fmt::format("{}", fmt::join(sizes, "·")));
  }
  const std::string sum = fmt::format("{}", fmt::join(learnt, " + "));
  const std::string total = fmt::format("{}", row.weights);
  std::string text = sum == total || learnt.empty() ? sum : fmt::format("{} = {}", sum, total);
  if (kept > 0) text += fmt::format("{}{} running", text.empty() ? "" : ", ", kept);
  return text;
}

/// One network, from what comes in at the top to what goes out at the bottom.
class Blocks {
 public:
  /// @param middle where its column has its middle
  /// @param most how many numbers the layer with the most of them learns, in any network shown
  Blocks(double middle, std::int64_t most) : middle_(middle), most_(most) {}

  void draw(const std::string& title, const Plan& plan) {
    label(cut_to(title, 44), middle_, 0.3, Set::centre, plot::ink, 15);
    label(fmt::format("{} trained: the more, the darker the layer",
                      counted(plan.weights(), "number is", "numbers are")),
          middle_, 0.72, Set::centre, plot::pencil, 11);
    label("x", middle_, 1.35, Set::centre, plot::ink, 13);
    y_ = 1.58;
    const Shape outputs = rows(plan.rows, plan.example, 0);
    flow(outputs);
    y_ += 0.2;
  }

  [[nodiscard]] const std::string& script() const { return script_; }
  [[nodiscard]] double height() const { return y_; }

  /// The skip connections, each a row of points.
  [[nodiscard]] const std::vector<std::string>& lanes() const { return lanes_; }

 private:
  /// @return what the last of them gives
  Shape rows(const std::vector<Plan::Row>& all, Shape shape, int depth) {
    for (std::size_t at = 0; at < all.size();) {
      const Plan::Row& row = all[at];
      flow(shape);
      if (row.inside.empty()) {
        card({.name = row.own_name(),
              .layer = row.layer,
              .learns = row.weights > 0,
              .share =
                  most_ == 0 ? 0.0 : static_cast<double>(row.weights) / static_cast<double>(most_),
              .count = count_of(row)},
             depth);
      } else {
        frame(row, shape, depth);
      }
      shape = row.outputs;
      const std::span<const Plan::Row> from_here = std::span(all).subspan(at);
      const std::size_t alike = Plan::alike(from_here);
      if (alike > 1) again(from_here.subspan(1, alike - 1), row, depth);
      at += alike;
    }
    return shape;
  }

  /// Groups that are like the one above them: a card on other cards for them all.
  void again(std::span<const Plan::Row> alike, const Plan::Row& first, int depth) {
    flow(first.outputs);
    const double half = half_at(depth);
    const std::int64_t times = std::ssize(alike);
    const int behind = times == 1 ? 0 : 2;
    constexpr double shifted = 0.09;
    for (int at = behind; at > 0; --at)
      rectangle(half, y_ + shifted * at, y_ + 1.0 + shifted * at, "#ffffff", "solid", 1.0,
                shifted * at);
    const std::int64_t weights = times * first.weights;
    const bool says_how = times > 1 && weights > 0;
    card({.name = name_of_alike(alike),
          .layer = like(alike, first),
          .learns = first.weights > 0,
          .share = 0.0,
          .count = says_how ? fmt::format("{}·{} = {}", times, first.weights, weights)
                            : count_words(weights)},
         depth);
    y_ += shifted * behind;
  }

  /// The way from one card to the next, and what passes along it.
  void flow(const Shape& shape) {
    script_ += fmt::format(
        "set arrow from {0},{1} to {0},{2} size 0.12,20,60 filled lw 1.6 lc rgb '{3}'\n", middle_,
        y_, y_ + flow_height, plot::pencil);
    label(shape_words(shape), middle_ + 0.2, y_ + flow_height / 2.0 - 0.04, Set::left, plot::pencil,
          10);
    y_ += flow_height;
  }

  /// What stands on a card.
  struct Card {
    std::string name;
    std::string layer;
    bool learns = false;
    double share = 0.0;  ///< of the numbers that the layer with the most of them learns
    std::string count;
  };

  /// Darker, the more of the numbers are learnt in it; pale where none are.
  void card(const Card& told, int depth) {
    const double half = half_at(depth);
    const plot::Colour fill = told.learns ? plot::between(plot::paper_colour, plot::series[0],
                                                          0.14 + 0.3 * std::sqrt(told.share))
                                          : plot::Colour{255, 255, 255};
    rectangle(half, y_, y_ + 1.0, plot::text(fill), "solid", 1.2);
    script_ += fmt::format("set arrow from {0},{1} to {0},{2} nohead lw 3 lc rgb '{3}'\n",
                           middle_ - half + 0.14, y_ + 0.14, y_ + 0.86,
                           told.learns ? plot::teal : plot::hairline);
    const double left = middle_ - half + 0.32;
    // What says the same as the name need not be said again.
    const bool has_more = told.layer != told.name;
    const double room = (2.0 * half - 0.52) * pixels_across;
    const std::string name = shortened(told.name, letters_in(0.6 * room, 13));
    label(name, left, y_ + (has_more ? 0.33 : 0.5), Set::left, plot::ink, 13);
    if (has_more) {
      label(shortened(told.layer, letters_in(room, 11)), left, y_ + 0.71, Set::left, plot::pencil,
            11);
    }
    const double beside_name = room - static_cast<double>(columns(name) + 1) * width_of_letter(13);
    label(count_that_fits(told.count, letters_in(beside_name, 11)), middle_ + half - 0.2, y_ + 0.33,
          Set::right, plot::ink, 11);
    y_ += 1.0;
  }

  /// Layers that belong together; where they add what comes in, with a skip connection.
  void frame(const Plan::Row& row, const Shape& shape, int depth) {
    const double half = half_at(depth) + 0.3;
    const double top = y_;
    label(row.own_name(), middle_ - half + 0.2, y_ + 0.24, Set::left, plot::ink, 11);
    label(count_words(row.weights), middle_ + half - 0.2, y_ + 0.24, Set::right, plot::pencil, 10);
    line(middle_, top, y_ + frame_head);
    y_ += frame_head;
    const double leaves = y_ + 0.12;
    rows(row.inside, shape, depth + 1);
    if (row.adds_its_input) {
      const double ends = y_ + flow_height;
      flow(row.outputs);
      way_past(leaves, ends + sum_height / 2.0, half + lane_apart);
      for (const Plan::Row& projection : row.projection)
        along_way(projection, leaves, ends, half + lane_apart);
      sum(ends + sum_height / 2.0);
      y_ = ends + sum_height;
    }
    line(middle_, y_, y_ + 0.2);
    y_ += 0.2;
    rectangle(half, top, y_, "", "empty", 1.0);
  }

  /// Half of how wide a card is inside so many frames.
  static double half_at(int depth) { return std::max(1.5, half_card - frame_inset * depth); }

  static std::string count_words(std::int64_t weights) {
    return weights == 0 ? "" : fmt::format("{} trained", weights);
  }

  void way_past(double from, double to, double out) {
    const double right = middle_ + out;
    constexpr double bend_across = 0.3;
    constexpr double bend_down = 0.18;
    std::string points = fmt::format("{} {}\n", middle_, from);
    const auto bend = [&](double x, double y, double sign) {
      constexpr int pieces = 8;
      for (int at = 0; at <= pieces; ++at) {
        const double angle = std::numbers::pi / 2.0 * at / pieces;
        const double along = sign > 0 ? std::sin(angle) : std::cos(angle);
        const double down = sign > 0 ? 1.0 - std::cos(angle) : std::sin(angle);
        points += fmt::format("{} {}\n", x + bend_across * along, y + bend_down * down);
      }
    };
    bend(right - bend_across, from, 1.0);
    bend(right - bend_across, to - bend_down, -1.0);
    lanes_.push_back(std::move(points));
    script_ +=
        fmt::format("set arrow from {0},{1} to {2},{1} size 0.12,20,60 filled lw 2 lc rgb '{3}'\n",
                    right - bend_across, to, middle_ + 0.24, plot::amber);
  }

  /// The projection of a skip connection, written along it.
  void along_way(const Plan::Row& projection, double from, double to, double out) {
    const std::string count = count_of(projection);
    const std::string text = count.empty() ? projection.layer : projection.layer + ", " + count;
    script_ += fmt::format(
        "set label {} at {},{} center rotate by -90 front font ',11' textcolor rgb '{}'\n",
        plot::quoted(
            shortened(text, letters_in((to - from + 2.0 * flow_height) * pixels_down, 11))),
        middle_ + out + 0.3, (from + to) / 2.0, plot::ink);
  }

  void sum(double y) { label("+", middle_, y, Set::centre, plot::amber, 15); }

  void line(double x, double from, double to) {
    script_ += fmt::format("set arrow from {0},{1} to {0},{2} nohead lw 1.6 lc rgb '{3}'\n", x,
                           from, to, plot::pencil);
  }

  void rectangle(double half, double top, double bottom, const std::string& fill,
                 std::string_view style, double width, double aside = 0.0) {
    script_ += fmt::format(
        "set object rectangle from {},{} to {},{} {} fs {} {} border lc rgb '{}' lw {}\n",
        middle_ - half + aside, top, middle_ + half + aside, bottom,
        fill.empty() ? "" : fmt::format("fc rgb '{}'", fill), style, fill.empty() ? "" : "1.0",
        plot::hairline, width);
  }

  void label(const std::string& text, double x, double y, Set set, std::string_view colour,
             int size) {
    constexpr std::array<std::string_view, 3> words = {"left", "center", "right"};
    if (text.empty()) return;
    script_ += fmt::format("set label {} at {},{} {} front font ',{}' textcolor rgb '{}'\n",
                           plot::quoted(text), x, y, words.at(static_cast<std::size_t>(set)), size,
                           colour);
  }

  double middle_;
  std::int64_t most_;
  double y_ = 0.0;  ///< how far down it is drawn
  std::string script_;
  std::vector<std::string> lanes_;
};

std::int64_t most_in(const std::vector<Plan::Row>& rows) {
  std::int64_t most = 0;
  for (const Plan::Row& row : rows)
    most = std::max(most, row.inside.empty() ? row.weights : most_in(row.inside));
  return most;
}

}  // namespace

Chart blocks_chart(const std::vector<NamedPlan>& networks) {
  std::int64_t most = 0;
  for (const auto& [name, plan] : networks)
    most = std::max(most, most_in(plan.rows));
  std::string script;
  std::string lanes;
  double height = 0.0;
  for (std::size_t at = 0; at < networks.size(); ++at) {
    Blocks blocks((static_cast<double>(at) + 0.5) * column_width, most);
    blocks.draw(networks[at].first, networks[at].second);
    script += blocks.script();
    for (const std::string& lane : blocks.lanes())
      lanes += lane + "\n";
    height = std::max(height, blocks.height());
  }
  const double width = column_width * static_cast<double>(networks.size());
  if (lanes.empty()) lanes = "NaN NaN\n";
  plot::Plot plot;
  plot.set(script +
           "unset border\nunset tics\nunset grid\nunset key\n"
           "set lmargin 0\nset rmargin 0\nset tmargin 0\nset bmargin 0\n" +
           plot::range("x", 0.0, width) + plot::range("y", height, 0.0));
  plot.add("lanes", lanes, fmt::format("using 1:2 with lines lw 2 lc rgb '{}'", plot::amber));
  return {{plot.text()},
          ChartSize{.width = std::lround(pixels_across * std::max(width, 12.0)),
                    .height = std::lround(pixels_down * height)}};
}

}  // namespace lattice
