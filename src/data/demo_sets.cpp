#include "lattice/data/demo_sets.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "tensor/memory.hpp"

namespace lattice {
namespace {

/// A reading as an instrument shows it: to the nearest 1/`steps` of a unit.
double reading(double number, double steps) {
  return std::round(number * steps) / steps + 0.0;
}

/// A table from rows of readings, the number to predict or the class last.
Dataset table(std::string name, std::vector<std::string> feature_names, std::string target_name,
              std::vector<std::string> class_names, std::int64_t rows,
              const std::function<std::vector<double>()>& next_row) {
  const auto width = std::ssize(feature_names);
  std::vector<double> features;
  std::vector<double> truth;
  for (std::int64_t row = 0; row < rows; ++row) {
    const std::vector<double> readings = next_row();
    features.insert(features.end(), readings.begin(), readings.end() - 1);
    truth.push_back(readings.back());
  }
  Dataset data{
      .name = std::move(name),
      .features = tensor(Shape{rows, width}.with({Role::example, Role::feature}), features),
      .feature_names = std::move(feature_names),
      .target_names = {std::move(target_name)},
      .class_names = std::move(class_names)};
  if (data.class_names.empty()) {
    data.targets = tensor(Shape{rows, 1}.with({Role::example, Role::target}), truth);
  } else {
    data.classes = tensor(Shape{rows}.with({Role::example}), truth);
  }
  return data;
}

Dataset make_kiln(std::int64_t rows, Random& random) {
  return table("kiln", {"minutes"}, "temperature", {}, rows, [&]() -> std::vector<double> {
    const double minutes = reading(random.uniform(0.0, 10.0), 10.0);
    const double temperature = 20.0 + 85.0 * minutes + random.normal(0.0, 15.0);
    return {minutes, reading(temperature, 1.0)};
  });
}

Dataset make_shrinkage(std::int64_t rows, Random& random) {
  return table("shrinkage", {"moisture", "thickness", "peak"}, "shrinkage", {}, rows,
               [&]() -> std::vector<double> {
                 const double moisture = reading(random.uniform(18.0, 26.0), 10.0);
                 const double thickness = reading(random.uniform(3.0, 15.0), 10.0);
                 const double peak = reading(random.uniform(1000.0, 1280.0), 0.2);
                 const double shrinkage = 12.0 + 0.4 * (moisture - 22.0) -
                                          0.15 * (thickness - 9.0) + 0.018 * (peak - 1140.0) +
                                          random.normal(0.0, 0.25);
                 return {moisture, thickness, peak, reading(shrinkage, 100.0)};
               });
}

/// A pot stays sound in a band of drying hours that bends with its wall: dried faster it cracks,
/// and left longer, too. One label in twenty is wrong, whatever the pot, so that the best possible
/// rule, the band itself, is right about 95 of 100 labels.
Dataset make_cracks(std::int64_t rows, Random& random) {
  constexpr double wrong_labels = 0.05;
  constexpr double band = 30.0;
  return table("cracks", {"thickness", "hours"}, "state", {"cracked", "sound"}, rows,
               [&]() -> std::vector<double> {
                 const double thickness = reading(random.uniform(3.0, 15.0), 10.0);
                 const double hours = reading(random.uniform(4.0, 72.0), 1.0);
                 const double shortest = 8.0 + 0.17 * (thickness - 3.0) * (thickness - 3.0);
                 const bool cracks = hours < shortest || hours > shortest + band;
                 const bool is_wrong = random.uniform() < wrong_labels;
                 return {thickness, hours, cracks != is_wrong ? 0.0 : 1.0};
               });
}

/// What a glaze measures: a mean and a spread for each of the five.
struct Glaze {
  std::array<double, 5> mean;
  std::array<double, 5> spread;
};

/// Four glazes whose measurements are bell-shaped, one apart from the other. Celadon and ash
/// overlap; whoever knew these tables could still tell only about 96 of 100 pots apart.
Dataset make_glazes(std::int64_t rows, Random& random) {
  static constexpr std::array<Glaze, 4> glazes = {{
      {{3.0, 53.0, 0.48, 52.0, 1243.0}, {0.8, 8.0, 0.15, 11.0, 17.0}},  // ash
      {{2.2, 62.0, 0.62, 71.0, 1262.0}, {0.6, 7.0, 0.14, 9.0, 14.0}},   // celadon
      {{0.9, 82.0, 1.35, 34.0, 1226.0}, {0.4, 6.0, 0.30, 10.0, 16.0}},  // shino
      {{8.6, 21.0, 0.81, 78.0, 1274.0}, {1.4, 6.0, 0.18, 8.0, 12.0}},   // tenmoku
  }};
  // To the nearest 1/steps of %, of lightness, of mm, of gloss, of °C, and as far as scales go.
  static constexpr std::array<double, 5> steps = {100.0, 1.0, 100.0, 1.0, 1.0};
  static constexpr std::array<double, 5> highest = {100.0, 100.0, 10.0, 100.0, 1400.0};
  return table(
      "glazes", {"iron", "lightness", "thickness", "gloss", "peak"}, "glaze",
      {"ash", "celadon", "shino", "tenmoku"}, rows, [&]() -> std::vector<double> {
        const auto which = static_cast<std::size_t>(random.below(std::ssize(glazes)));
        std::vector<double> readings;
        for (std::size_t of = 0; of < steps.size(); ++of) {
          const double number =
              random.normal(glazes.at(which).mean.at(of), glazes.at(which).spread.at(of));
          readings.push_back(reading(std::clamp(number, 0.0, highest.at(of)), steps.at(of)));
        }
        readings.push_back(static_cast<double>(which));
        return readings;
      });
}

}  // namespace

namespace {

std::deque<DemoSet>& all_sets() {
  static std::deque<DemoSet> sets = {
      {.name = "kiln",
       .story = "temperature (°C) in a small kiln after some minutes of firing: a straight line "
                "with noise",
       .usual_rows = 60,
       .copied_rows = 60,
       .usual_seed = 1,
       .units = {"min"},
       .target_unit = "°C",
       .law = LinearForm{"temperature", {"minutes"}, {85.0}, 20.0},
       .make = make_kiln},
      {.name = "shrinkage",
       .story = "shrinkage (%) of a pot from clay moisture (%), wall thickness (mm) and peak "
                "temperature (°C): three features in very different units",
       .usual_rows = 120,
       .copied_rows = 120,
       .usual_seed = 1,
       .units = {"%", "mm", "°C"},
       .target_unit = "%",
       .law = LinearForm{"shrinkage",
                         {"moisture", "thickness", "peak"},
                         {0.4, -0.15, 0.018},
                         12.0 - 0.4 * 22.0 + 0.15 * 9.0 - 0.018 * 1140.0},
       .make = make_shrinkage},
      {.name = "cracks",
       .story =
           "whether a pot cracked, from wall thickness (mm) and drying time (h): the border is "
           "curved, and 5 % of the labels are wrong",
       .usual_rows = 3000,
       .copied_rows = 3000,
       .usual_seed = 1,
       .units = {"mm", "h"},
       .make = make_cracks},
      {.name = "glazes",
       .story = "which of four glazes a shard has, from iron (%), lightness (0 to 100), thickness "
                "(mm), gloss (0 to 100) and peak temperature (°C): two of them overlap",
       .usual_rows = 2000,
       .copied_rows = 2000,
       .usual_seed = 1,
       .units = {"%", "", "mm", "", "°C"},
       .make = make_glazes},
  };
  return sets;
}

}  // namespace

const std::deque<DemoSet>& demo_sets() {
  return all_sets();
}

void know(const DemoSet& set) {
  all_sets().push_back(set);
}

const DemoSet& demo_set_called(std::string_view name) {
  const auto found = std::ranges::find(demo_sets(), name, &DemoSet::name);
  if (found != demo_sets().end()) return *found;
  std::vector<std::string> names;
  for (const DemoSet& set : demo_sets())
    names.push_back(set.name);
  const std::string near = nearest(name, names);
  throw NameError(
      {.what = fmt::format("there is no demo set '{}'", name),
       .expected = fmt::format("one of {}", fmt::join(names, ", ")),
       .found = fmt::format("'{}'", name),
       .remedy = near.empty() ? "a table of your own is read from a file" : did_you_mean(near),
       .advice = near.empty() ? Advice{"file", "my.csv"} : Advice{}});
}

Dataset demo_set(std::string_view name) {
  const DemoSet& set = demo_set_called(name);
  return demo_set(name, set.usual_rows, set.usual_seed);
}

Dataset demo_set(std::string_view name, std::int64_t rows, std::uint64_t seed) {
  const DemoSet& set = demo_set_called(name);
  if (rows < 1) {
    throw SettingError({.what = fmt::format("a demo set of {} rows", rows),
                        .expected = "1 row or more",
                        .found = fmt::format("{}", rows)});
  }
  // Counted before they are made: numbers of each row, as they are drawn, dealt out and scaled.
  constexpr std::int64_t copies = 8;
  Random trial(seed);
  const auto most = static_cast<std::int64_t>(machine_bytes() / sizeof(double)) /
                    (copies * (set.make(1, trial).features.count() + 1));
  if (rows > most) {
    throw MemoryError({.what = fmt::format("{} rows of {} do not fit into memory", rows, name),
                       .expected = fmt::format("at most {} on this machine", most),
                       .found = fmt::format("{}", rows),
                       .remedy = "fewer rows",
                       .advice = {"rows", fmt::format("{}", set.usual_rows)}});
  }
  Random random = Random(seed).branch(name);
  Dataset data = set.make(rows, random);
  data.feature_units = set.units;
  if (!data.has_classes()) data.target_units = {set.target_unit};
  return data;
}

}  // namespace lattice
