#include "lattice/worksheet/gradient_check.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>
#include <utility>

#include "lattice/tensor/random.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/explain.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

/// A calculation that can be worked again with one weight changed.
class Replay {
 public:
  explicit Replay(const Line& result)
      : record_(WorksheetRecord::of(result)), last_(WorksheetRecord::position(result)) {
    for (std::uint32_t position = 0; position <= last_; ++position) {
      const WorksheetRecord::Entry& entry = record_[position];
      values_.push_back(entry.operation == nullptr ? entry.value.in(Precision::double_)
                                                   : work(position, values_));
    }
  }

  [[nodiscard]] const Tensor& value(std::uint32_t position) const { return values_[position]; }
  [[nodiscard]] double result() const { return values_[last_].number(); }

  /// The result with one number of a weight changed, wherever a line of its name stands: a copy
  /// that was given under the name moves too, though no gradient comes from there. Only lines that
  /// depend on one of them are worked again.
  [[nodiscard]] double with(std::uint32_t weight, const Index& at, double number) const {
    std::vector<Tensor> values = values_;
    std::vector<bool> changed(values.size(), false);
    for (std::uint32_t position = 0; position <= last_; ++position) {
      if (is_named_as(weight, position)) {
        values[position].set(at, number);
        changed[position] = true;
        continue;
      }
      const auto inputs = record_.inputs(record_[position]);
      changed[position] =
          std::ranges::any_of(inputs, [&](std::uint32_t input) { return changed[input]; });
      if (changed[position]) values[position] = work(position, values);
    }
    return values[last_].number();
  }

 private:
  [[nodiscard]] bool is_named_as(std::uint32_t weight, std::uint32_t position) const {
    return position == weight || (record_[position].operation == nullptr &&
                                  record_[position].name.text() == record_[weight].name.text() &&
                                  values_[position].shape() == values_[weight].shape());
  }

  [[nodiscard]] Tensor work(std::uint32_t position, const std::vector<Tensor>& values) const {
    std::vector<const Tensor*> inputs;
    for (const std::uint32_t input : record_.inputs(record_[position]))
      inputs.push_back(&values[input]);
    return calculate(*record_[position].operation, Inputs(inputs));
  }

  const WorksheetRecord& record_;
  std::uint32_t last_;
  std::vector<Tensor> values_;
};

/// Which numbers of a weight are moved: all, or a sample that is the same every time.
std::vector<std::int64_t> chosen_offsets(std::int64_t count, std::int64_t most) {
  if (count > most) {
    std::vector<std::int64_t> offsets = Random(1).shuffled(count);
    offsets.resize(static_cast<std::size_t>(most));
    return offsets;
  }
  std::vector<std::int64_t> offsets(static_cast<std::size_t>(count));
  std::iota(offsets.begin(), offsets.end(), std::int64_t{0});
  return offsets;
}

void check(const CheckSettings& settings) {
  const auto usable = [](double number) { return std::isfinite(number) && number > 0.0; };
  if (usable(settings.step) && usable(settings.tolerance) && settings.most >= 1) return;
  throw SettingError(
      {.what = "gradients cannot be checked like this",
       .expected = "a step and a tolerance above 0, and 1 number of each weight or more",
       .found = fmt::format("step {}, tolerance {}, {} numbers", format_number(settings.step),
                            format_number(settings.tolerance), settings.most)});
}

/// The slopes of a result at one number of a weight, by moving it.
struct Slopes {
  double central = 0.0;
  double left = 0.0;
  double right = 0.0;
  double rounding = 0.0;  ///< what the rounding of two results can make of their difference

  /// How far the slopes on the two sides are from each other.
  [[nodiscard]] double gap() const { return std::abs(right - left); }

  /// True when they are further apart than any ordinary bend makes them.
  [[nodiscard]] bool have_corner() const {
    constexpr double clearly = 1e-3;
    return gap() > clearly * std::max(std::abs(left), std::abs(right)) && gap() > 1e3 * rounding;
  }
};

/// One number of a weight, to be moved.
struct Moved {
  const Replay& replay;
  std::uint32_t weight;
  Index at;
  double here;

  [[nodiscard]] Slopes by(double step) const {
    const double above = here + step;
    const double below = here - step;
    const double result = replay.result();
    const double result_above = replay.with(weight, at, above);
    const double result_below = replay.with(weight, at, below);
    const double size = std::max(std::abs(result_above), std::abs(result_below));
    return {.central = (result_above - result_below) / (above - below),
            .left = (result - result_below) / (here - below),
            .right = (result_above - result) / (above - here),
            .rounding = 8.0 * std::numeric_limits<double>::epsilon() * size / (above - below)};
  }
};

/// The distance of a gradient from a central difference, as a part of the larger. Where a gradient
/// is so small that rounding is more than a millionth of it, the error is taken of a million times
/// that instead.
double error_of(double engine, const Slopes& slopes) {
  const double distance = std::abs(engine - slopes.central);
  const double scale =
      std::max({std::abs(engine), std::abs(slopes.central), 1e6 * slopes.rounding});
  const double error = distance == 0.0 ? 0.0 : distance / scale;
  return std::isnan(error) ? std::numeric_limits<double>::infinity() : error;
}

GradientCheck::Weight checked(const Replay& replay, std::uint32_t position, const Line& weight,
                              const Tensor& gradient, const CheckSettings& settings) {
  GradientCheck::Weight report{.name = weight.name(), .shape = weight.shape()};
  report.error = -1.0;
  const Tensor& value = replay.value(position);
  for (const std::int64_t offset : chosen_offsets(value.count(), settings.most)) {
    const Index at = value.shape().index(offset);
    const Moved moved{replay, position, at, value.at(at)};
    const double engine = gradient.at(at);
    const double step = settings.step * std::max(1.0, std::abs(moved.here));
    Slopes slopes = moved.by(step);
    double error = error_of(engine, slopes);
    ++report.checked;
    if (error > settings.tolerance && slopes.have_corner()) {
      const Slopes closer = moved.by(step / 10.0);
      // Along a bend the slopes of a tenth of the step would be ten times closer to each other.
      if (closer.have_corner() && closer.gap() > 0.5 * slopes.gap()) {
        ++report.on_kinks;
        continue;
      }
      // A kink that is near, and not here, is out of reach of a shorter step.
      slopes = moved.by(step / 100.0);
      error = error_of(engine, slopes);
    }
    if (error <= report.error) continue;
    report.error = error;
    report.worst = at;
    report.engine = engine;
    report.difference = slopes.central;
  }
  report.error = std::max(report.error, 0.0);
  report.agrees = report.error <= settings.tolerance;
  return report;
}

}  // namespace

bool GradientCheck::agrees() const {
  return std::ranges::all_of(weights, &Weight::agrees);
}

GradientCheck check_gradients(const Line& result, const CheckSettings& settings) {
  check(settings);
  ReverseSweep sweep(result);
  while (sweep.next()) {
  }
  constexpr double least_for_single = 1e-3;
  GradientCheck report{.settings = settings, .weights = {}};
  if (result.value().precision() == Precision::single) {
    report.settings.tolerance = std::max(settings.tolerance, least_for_single);
  }
  WorksheetRecord& record = WorksheetRecord::of(result);
  const Replay replay(result);
  for (std::uint32_t position = 0; position < WorksheetRecord::position(result); ++position) {
    const Line line = record.line(position);
    if (line.kind() == Line::Kind::calculated || !sweep.has_reached(line)) continue;
    report.weights.push_back(
        checked(replay, position, line, sweep.gradient(line), report.settings));
  }
  return report;
}

namespace {

/// How large the terms are of which numbers of a sweep are sums, all taken as if above 0: as large
/// as what they were rounded at.
class Terms {
 public:
  explicit Terms(const ReverseSweep& sweep) : sweep_(sweep) {}

  double of_gradient(std::size_t line, const Index& at) {
    const auto known = gradients_.find({line, at});
    if (known != gradients_.end()) return known->second;
    WorksheetRecord& record = WorksheetRecord::of(sweep_.result());
    double size = 1.0;  // where the sweep starts
    if (line != sweep_.result().number())
      size = of(explain_gradient(sweep_, record.line_numbered(line), at).formula);
    gradients_[{line, at}] = size;
    return size;
  }

 private:
  /// So many gradients are looked into; those behind them are as large as they are.
  static constexpr std::size_t most = 100'000;

  double of(const Formula& formula) {
    const std::span<const Formula> parts = formula.parts();
    switch (formula.kind()) {
      case Formula::Kind::cell: {
        const Cell& cell = formula.cell();
        const bool is_gradient = cell.kind == Cell::Kind::gradient && gradients_.size() < most;
        return is_gradient ? of_gradient(cell.line, cell.at) : std::abs(cell.number);
      }
      case Formula::Kind::sum:
      case Formula::Kind::difference: {
        double sum = 0.0;
        for (const Formula& part : parts)
          sum += of(part);
        return sum;
      }
      case Formula::Kind::product: {
        double product = 1.0;
        for (const Formula& part : parts)
          product *= of(part);
        return product;
      }
      case Formula::Kind::quotient:
        return of(parts[0]) / std::abs(parts[1].evaluate());
      case Formula::Kind::negation:
      case Formula::Kind::shorthand:
        return of(parts[0]);
      case Formula::Kind::choice:
        return of(parts[formula.condition().holds() ? 0 : 1]);
      case Formula::Kind::pick:
        return formula.picked() == nullptr ? std::abs(formula.evaluate()) : of(*formula.picked());
      default:
        return std::abs(formula.evaluate());
    }
  }

  const ReverseSweep& sweep_;
  std::map<std::pair<std::size_t, Index>, double> gradients_;
};

}  // namespace

Agreement agreement(const Tensor& hand, const ReverseSweep& sweep, const Line& line,
                    std::optional<double> tolerance) {
  const Tensor& engine = sweep.gradient(line);
  Agreement plain = agreement(hand, engine, tolerance);
  if (plain.agrees) return plain;
  const double terms = Terms(sweep).of_gradient(line.number(), plain.worst);
  return agreement(hand, engine, tolerance, std::isfinite(terms) ? terms : 0.0);
}

}  // namespace lattice
