#include "pictures/demo_sets.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <numbers>
#include <span>
#include <string>
#include <vector>

namespace lattice {
namespace {

constexpr double pi = std::numbers::pi;

/// A point of a mark, which fills the square from −1 to 1: x to the right, y down.
struct Point {
  double x = 0.0;
  double y = 0.0;
};

using Stroke = std::vector<Point>;

Point operator+(Point a, Point b) {
  return {a.x + b.x, a.y + b.y};
}
Point operator-(Point a, Point b) {
  return {a.x - b.x, a.y - b.y};
}
Point operator*(double factor, Point p) {
  return {factor * p.x, factor * p.y};
}
double dot(Point a, Point b) {
  return a.x * b.x + a.y * b.y;
}
double length(Point p) {
  return std::hypot(p.x, p.y);
}
Point turned(Point p, double angle) {
  const double c = std::cos(angle);
  const double s = std::sin(angle);
  return {c * p.x - s * p.y, s * p.x + c * p.y};
}

/// A part of an ellipse from one angle to another, 0 to the right and a quarter turn down.
Stroke arc(Point centre, Point radius, double from, double to) {
  constexpr int pieces = 16;
  Stroke stroke;
  for (int piece = 0; piece <= pieces; ++piece) {
    const double angle = from + (to - from) * piece / pieces;
    stroke.push_back(centre + Point{radius.x * std::cos(angle), radius.y * std::sin(angle)});
  }
  return stroke;
}

/// The marks of eight makers, as strokes of the tool that cut the stamps.
struct Mark {
  std::string name;
  std::vector<Stroke> strokes;
};

const std::vector<Mark>& marks() {
  static const std::vector<Mark> all = [] {
    std::vector<Mark> list;
    list.push_back({"anchor",
                    {{{0.0, -0.5}, {0.0, 0.9}},
                     arc({0.0, 0.25}, {0.75, 0.65}, 0.0, pi),
                     arc({0.0, -0.75}, {0.22, 0.22}, 0.0, 2 * pi)}});
    list.push_back({"comb",
                    {{{-0.85, -0.5}, {0.85, -0.5}},
                     {{-0.8, -0.5}, {-0.8, 0.7}},
                     {{-0.27, -0.5}, {-0.27, 0.7}},
                     {{0.27, -0.5}, {0.27, 0.7}},
                     {{0.8, -0.5}, {0.8, 0.7}}}});
    list.push_back({"fish",
                    {arc({-0.25, 0.0}, {0.65, 0.45}, 0.0, 2 * pi),
                     {{0.35, 0.0}, {0.9, -0.5}, {0.9, 0.5}, {0.35, 0.0}}}});
    list.push_back({"leaf",
                    {arc({0.5, 0.0}, {0.95, 0.9}, 0.62 * pi, 1.38 * pi),
                     arc({-0.5, 0.0}, {0.95, 0.9}, -0.38 * pi, 0.38 * pi),
                     {{0.0, -0.9}, {0.0, 0.95}}}});
    list.push_back({"moon",
                    {arc({0.1, 0.0}, {0.85, 0.85}, 0.3 * pi, 1.7 * pi),
                     arc({0.45, 0.0}, {0.6, 0.7}, 0.45 * pi, 1.55 * pi)}});
    list.push_back({"ring", {arc({0.0, 0.0}, {0.75, 0.75}, 0.0, 2 * pi)}});
    Mark star{"star", {}};
    for (int ray = 0; ray < 3; ++ray) {
      const Point end = turned({0.0, 0.9}, ray * pi / 3);
      star.strokes.push_back({end, -1.0 * end});
    }
    list.push_back(star);
    Mark wave{"wave", {}};
    for (const double down : {-0.35, 0.35}) {
      Stroke stroke;
      constexpr int pieces = 16;
      for (int piece = 0; piece <= pieces; ++piece) {
        const double x = -0.9 + 1.8 * piece / pieces;
        stroke.push_back({x, down + 0.25 * std::sin(1.1 * pi * (x + 0.9))});
      }
      wave.strokes.push_back(stroke);
    }
    list.push_back(wave);
    return list;
  }();
  return all;
}

/// How far a point is from the nearest stroke.
double distance_to(const std::vector<Stroke>& strokes, Point p) {
  double nearest = 10.0;
  for (const Stroke& stroke : strokes) {
    for (std::size_t end = 1; end < stroke.size(); ++end) {
      const Point along = stroke[end] - stroke[end - 1];
      const Point from = p - stroke[end - 1];
      const double part = std::clamp(dot(from, along) / dot(along, along), 0.0, 1.0);
      nearest = std::min(nearest, length(from - part * along));
    }
  }
  return nearest;
}

/// A number as a picture keeps it: whole, from 0 to 255.
std::uint8_t as_byte(double number) {
  return static_cast<std::uint8_t>(std::clamp(std::round(number), 0.0, 255.0));
}

/// A dataset of pictures, of which `draw` makes one after another.
Dataset pictures(
    std::string name, std::string target, std::vector<std::string> classes, const Shape& picture,
    std::int64_t rows, Random& random,
    const std::function<void(std::size_t which, std::span<std::uint8_t> numbers)>& draw) {
  std::vector<std::uint8_t> numbers(static_cast<std::size_t>(rows * picture.count()));
  std::vector<double> truth;
  for (std::int64_t row = 0; row < rows; ++row) {
    const std::int64_t which = random.below(std::ssize(classes));
    truth.push_back(static_cast<double>(which));
    draw(static_cast<std::size_t>(which),
         std::span(numbers).subspan(static_cast<std::size_t>(row * picture.count()),
                                    static_cast<std::size_t>(picture.count())));
  }
  return {.name = std::move(name),
          .features =
              Examples::of_bytes(picture.with_first_axis(rows, Role::example), std::move(numbers)),
          .classes = tensor(Shape{rows}.with({Role::example}), truth),
          .target_names = {std::move(target)},
          .class_names = std::move(classes)};
}

Shape picture_shape(std::int64_t size, std::int64_t channels) {
  return Shape{size, size, channels}.with({Role::row, Role::column, Role::channel});
}

}  // namespace

Dataset make_stamps(std::int64_t rows, Random& random) {
  constexpr int size = 12;
  constexpr double noise = 14;
  std::vector<std::string> names;
  for (const Mark& mark : marks())
    names.push_back(mark.name);
  return pictures(
      "stamps", "stamp", names, picture_shape(size, 1), rows, random,
      [&](std::size_t which, std::span<std::uint8_t> numbers) {
        // In pixels: where the stamp was set down, and how it was held.
        const Point centre = {5.5 + random.uniform(-1.8, 1.8), 5.5 + random.uniform(-1.8, 1.8)};
        const double angle = random.normal(0.0, 0.2);
        const double radius = random.uniform(4.0, 4.9);
        const double thick = random.uniform(0.55, 0.8);
        const double clay = random.uniform(20.0, 60.0);
        const double pressure = random.uniform(130.0, 190.0);
        std::size_t place = 0;
        for (int row = 0; row < size; ++row) {
          for (int column = 0; column < size; ++column) {
            const Point from =
                Point{static_cast<double>(column), static_cast<double>(row)} - centre;
            const Point of_mark = (1.0 / radius) * turned(from, -angle);
            const double away = radius * distance_to(marks()[which].strokes, of_mark);
            const double ink = std::clamp(thick + 0.5 - away, 0.0, 1.0);
            numbers[place++] = as_byte(clay + pressure * ink + random.normal(0.0, noise));
          }
        }
      });
}

namespace {

/// A pattern: how much of the second glaze there is at a point, counted in pixels of a tile.
struct Pattern {
  std::string name;
  std::function<double(Point)> at;
};

/// From 0 to 1 around a border, within a pixel.
double soft(double inside) {
  return std::clamp(inside + 0.5, 0.0, 1.0);
}

/// How far a number is from the nearest multiple of a period.
double off_beat(double number, double period) {
  return std::abs(number - period * std::round(number / period));
}

const std::vector<Pattern>& patterns() {
  constexpr double period = 8.0;
  static const std::vector<Pattern> all = {
      {"bands", [](Point p) { return soft(off_beat(p.y, period) - period / 4); }},
      {"checks",
       [](Point p) {
         const bool down = off_beat(p.y, period) < period / 4;
         const bool across = off_beat(p.x, period) < period / 4;
         return down == across ? 1.0 : 0.0;
       }},
      {"dots",
       [](Point p) {
         return soft(2.4 - length({off_beat(p.x, period), off_beat(p.y, period)}));
       }},
      {"net",
       [](Point p) {
         const double one = off_beat(p.x + p.y, period) / std::numbers::sqrt2;
         const double other = off_beat(p.x - p.y, period) / std::numbers::sqrt2;
         return soft(0.9 - std::min(one, other));
       }},
      {"rings",
       [](Point p) {
         const double away = length({off_beat(p.x, period), off_beat(p.y, period)});
         return soft(0.8 - std::abs(away - 2.8));
       }},
      {"zigzag",
       [](Point p) { return soft(off_beat(p.y + off_beat(p.x, period), period) - period / 4); }},
  };
  return all;
}

using Colour = std::array<double, 3>;

/// Glazes as they come out of the kiln.
constexpr std::array<Colour, 8> glaze_colours = {{{226, 221, 205},
                                                  {168, 196, 182},
                                                  {38, 52, 92},
                                                  {64, 44, 34},
                                                  {188, 92, 56},
                                                  {212, 168, 82},
                                                  {92, 122, 76},
                                                  {120, 60, 88}}};

}  // namespace

Dataset make_tiles(std::int64_t rows, Random& random) {
  constexpr int size = 16;
  constexpr double noise = 16.0;
  constexpr double shade = 14.0;
  std::vector<std::string> names;
  for (const Pattern& pattern : patterns())
    names.push_back(pattern.name);
  return pictures(
      "tiles", "pattern", names, picture_shape(size, 3), rows, random,
      [&](std::size_t which, std::span<std::uint8_t> numbers) {
        const auto colours = std::ssize(glaze_colours);
        const std::int64_t ground = random.below(colours);
        const std::int64_t drawn = (ground + 1 + random.below(colours - 1)) % colours;
        std::array<Colour, 2> glazes = {glaze_colours.at(static_cast<std::size_t>(ground)),
                                        glaze_colours.at(static_cast<std::size_t>(drawn))};
        for (Colour& colour : glazes) {
          const double lighter = random.normal(0.0, shade);
          for (double& channel : colour)
            channel += lighter;
        }
        const Point start = {random.uniform(0.0, 8.0), random.uniform(0.0, 8.0)};
        const double angle = random.normal(0.0, 0.06);
        std::size_t place = 0;
        for (int row = 0; row < size; ++row) {
          for (int column = 0; column < size; ++column) {
            const Point p =
                turned({static_cast<double>(column), static_cast<double>(row)}, angle) + start;
            const double share = patterns()[which].at(p);
            for (std::size_t channel = 0; channel < 3; ++channel) {
              const double colour =
                  (1.0 - share) * glazes[0].at(channel) + share * glazes[1].at(channel);
              numbers[place++] = as_byte(colour + random.normal(0.0, noise));
            }
          }
        }
      });
}

}  // namespace lattice
