#include "lattice/worksheet/gradient_check.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/numbers.hpp"
#include "lattice/tensor/random.hpp"
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
                                  record_[position].name == record_[weight].name &&
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

GradientCheck::Weight checked(const Replay& replay, std::uint32_t position, const Line& weight,
                              const Tensor& gradient, const CheckSettings& settings) {
  GradientCheck::Weight report{.name = weight.name(), .shape = weight.shape()};
  report.error = -1.0;
  const Tensor& value = replay.value(position);
  for (const std::int64_t offset : chosen_offsets(value.count(), settings.most)) {
    const Index at = value.shape().index(offset);
    const double here = value.at(at);
    const double step = settings.step * std::max(1.0, std::abs(here));
    const double above = here + step;
    const double below = here - step;
    const double result_above = replay.with(position, at, above);
    const double result_below = replay.with(position, at, below);
    const double difference = (result_above - result_below) / (above - below);
    const double engine = gradient.at(at);

    // What the rounding of two results can make of their difference. Where a gradient is so small
    // that this is more than a millionth of it, the error is taken of a million times that instead.
    const double rounding = 8.0 * std::numeric_limits<double>::epsilon() *
                            std::max(std::abs(result_above), std::abs(result_below)) /
                            (above - below);
    const double distance = std::abs(engine - difference);
    const double scale = std::max({std::abs(engine), std::abs(difference), 1e6 * rounding});
    double error = distance == 0.0 ? 0.0 : distance / scale;
    if (std::isnan(error)) error = std::numeric_limits<double>::infinity();
    ++report.checked;
    if (error <= report.error) continue;
    report.error = error;
    report.worst = at;
    report.engine = engine;
    report.difference = difference;
  }
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
    if (line.kind() != Line::Kind::weight || !sweep.has_reached(line)) continue;
    report.weights.push_back(
        checked(replay, position, line, sweep.gradient(line), report.settings));
  }
  return report;
}

}  // namespace lattice
