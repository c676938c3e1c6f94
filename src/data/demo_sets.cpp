#include "lattice/data/demo_sets.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/text.hpp"

namespace lattice {
namespace {

/// A reading as an instrument shows it: to the nearest 1/`steps` of a unit.
double reading(double number, double steps) {
  return std::round(number * steps) / steps + 0.0;
}

/// A table from rows of readings, the target last.
Dataset table(std::string name, std::vector<std::string> feature_names, std::string target_name,
              std::int64_t rows, const std::function<std::vector<double>()>& next_row) {
  const auto width = std::ssize(feature_names);
  std::vector<double> features;
  std::vector<double> targets;
  for (std::int64_t row = 0; row < rows; ++row) {
    const std::vector<double> readings = next_row();
    features.insert(features.end(), readings.begin(), readings.end() - 1);
    targets.push_back(readings.back());
  }
  return {.name = std::move(name),
          .features = tensor(Shape{rows, width}.with({Role::example, Role::feature}), features),
          .targets = tensor(Shape{rows, 1}.with({Role::example, Role::unit}), targets),
          .feature_names = std::move(feature_names),
          .target_name = std::move(target_name)};
}

Dataset make_kiln(std::int64_t rows, Random& random) {
  return table("kiln", {"minutes"}, "temperature", rows, [&]() -> std::vector<double> {
    const double minutes = reading(random.uniform(0.0, 10.0), 10.0);
    const double temperature = 20.0 + 85.0 * minutes + random.normal(0.0, 15.0);
    return {minutes, reading(temperature, 1.0)};
  });
}

Dataset make_shrinkage(std::int64_t rows, Random& random) {
  return table("shrinkage", {"moisture", "thickness", "peak"}, "shrinkage", rows,
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

const DemoSet& find(std::string_view name) {
  const auto found = std::ranges::find(demo_sets(), name, &DemoSet::name);
  if (found != demo_sets().end()) return *found;
  std::vector<std::string> names;
  for (const DemoSet& set : demo_sets())
    names.push_back(set.name);
  const std::string near = nearest(name, names);
  throw NameError({.what = fmt::format("there is no demo set '{}'", name),
                   .expected = fmt::format("one of {}", fmt::join(names, ", ")),
                   .found = fmt::format("'{}'", name),
                   .remedy = near.empty() ? "for a file of your own: --file my.csv --target column"
                                          : fmt::format("did you mean {}?", near)});
}

}  // namespace

const std::vector<DemoSet>& demo_sets() {
  static const std::vector<DemoSet> sets = {
      {.name = "kiln",
       .story = "temperature (°C) in a small kiln after some minutes of firing: a straight line "
                "with noise",
       .usual_rows = 60,
       .usual_seed = 1,
       .make = make_kiln},
      {.name = "shrinkage",
       .story = "shrinkage (%) of a pot from clay moisture (%), wall thickness (mm) and peak "
                "temperature (°C): three features in very different units",
       .usual_rows = 120,
       .usual_seed = 1,
       .make = make_shrinkage},
  };
  return sets;
}

Dataset demo_set(std::string_view name) {
  const DemoSet& set = find(name);
  return demo_set(name, set.usual_rows, set.usual_seed);
}

Dataset demo_set(std::string_view name, std::int64_t rows, std::uint64_t seed) {
  const DemoSet& set = find(name);
  if (rows < 1) {
    throw SettingError({.what = fmt::format("a demo set of {} rows", rows),
                        .expected = "1 row or more",
                        .found = fmt::format("{}", rows)});
  }
  Random random = Random(seed).branch(name);
  return set.make(rows, random);
}

}  // namespace lattice
