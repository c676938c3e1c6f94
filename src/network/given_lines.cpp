#include "lattice/network/given_lines.hpp"

#include <fmt/format.h>

#include <string>
#include <string_view>

#include "lattice/worksheet/operations/arithmetic.hpp"

namespace lattice {
namespace {

/// Writes the factors of a preparation down, with a mark before their names.
std::vector<FactorLines> write_factors(Worksheet& sheet, const Preparation& preparation,
                                       std::string_view mark) {
  std::vector<FactorLines> lines;
  for (const Scaling& step : preparation.steps) {
    if (!step.settings.own.empty()) {
      lines.push_back({.own = step.settings.own});
      continue;
    }
    const std::string count = lines.empty() ? "" : fmt::format("{}", lines.size() + 1);
    const Line centre = sheet.given(fmt::format("{}centre{}", mark, count), step.centre);
    lines.push_back(
        {.centre = centre,
         .divisor = sheet.given(fmt::format("{}divisor{}", mark, count), step.divisor)});
  }
  return lines;
}

/// How raw numbers are prepared, by the name of what comes of it, with the same mark.
Line write_prepared(const Line& raw, const std::vector<FactorLines>& factors, std::string_view name,
                    std::string_view mark = "") {
  Line line = raw;
  std::size_t number = 0;
  for (const FactorLines& step : factors) {
    ++number;
    const std::string ending = number == 1 ? "" : fmt::format("{}", number);
    if (!step.own.empty()) {
      line = step.own->scaled(line, ending);
      continue;
    }
    const Line centred = described(fmt::format("{}centred{}", mark, ending), line - step.centre);
    line = centred / step.divisor;
  }
  return named(name, line);
}

}  // namespace

GivenLines write_given(Worksheet& sheet, const Batch& batch) {
  return write_given(sheet, batch, {});
}

GivenLines write_given(Worksheet& sheet, const Batch& measured, const GivenSteps& steps) {
  const bool stays = steps.features.empty() && !steps.augmented;
  const std::string_view name = stays ? "x" : "raw";
  Line raw = steps.how == Features::asked ? sheet.asked(name, measured.features)
                                          : sheet.given(name, measured.features);
  if (steps.augmented) {
    const Line drawn = sheet.given(measured.augmentation->drawn_name(), measured.drawn);
    raw = named(steps.features.empty() ? "x" : "augmented",
                measured.augmentation->changed(raw, drawn));
  }
  GivenLines given{.x = write_prepared(raw, write_factors(sheet, steps.features, ""), "x")};
  if (!measured.classes.empty()) given.y = sheet.given("y", measured.classes);
  if (!measured.targets.empty())
    given.y_raw = sheet.given(steps.targets.empty() ? "y" : "y_raw", measured.targets);
  given.y_factors = write_factors(sheet, steps.targets, "y_");
  if (given.y_raw) given.y = write_prepared(*given.y_raw, given.y_factors, "y", "y_");
  for (const SideInput& side : measured.side) {
    const Line line = sheet.given(side.name, side.value);
    if (side.name == row_weights_name) given.row_weights = line;
  }
  return given;
}

Line write_raw(const Line& prepared, const std::vector<FactorLines>& factors) {
  Line line = prepared;
  for (std::size_t step = factors.size(); step-- > 0;)
    line = line * factors[step].divisor + factors[step].centre;
  return line;
}

}  // namespace lattice
