#include "lattice/learning/look_through.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <string_view>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/tensor/sparse.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"

namespace lattice {
namespace {

/// What is known of the gradient at a line.
struct GradientAt {
  double length = 0.0;
  std::vector<bool> reached = {};  ///< for each place on the last axis: whether any of it is not 0
};
using GradientOf = std::function<GradientAt(const Line& line)>;

double length_of(const Tensor& tensor) {
  return std::sqrt(sum_of_squares(tensor, 0.0));
}

double standard_deviation_of(const Tensor& tensor) {
  const auto count = static_cast<double>(tensor.count());
  const double mean = sum(tensor).number() / count;
  // What is not stored of a sparse matrix is as far from the mean as 0 is.
  if (tensor.is_sparse())
    return std::sqrt(std::max(0.0, sum_of_squares(tensor) / count - mean * mean));
  return std::sqrt(std::max(0.0, sum_of_squares(tensor - mean, 0.0) / count));
}

/// For each place on the last axis whether any number there is not 0.
std::vector<bool> places_with_numbers(const Tensor& tensor) {
  const std::int64_t units = tensor.shape()[tensor.shape().rank() - 1];
  std::vector<bool> speaks(static_cast<std::size_t>(units));
  std::int64_t dead = units;
  const auto hear = [&](std::int64_t unit, double number) {
    const auto at = static_cast<std::size_t>(unit);
    if (number == 0.0 || speaks[at]) return;
    speaks[at] = true;
    --dead;
  };
  if (tensor.is_sparse()) {
    for (const MatrixEntry& entry : entries_of(tensor))
      hear(entry.column, entry.number);
  } else {
    for (std::int64_t at = 0; at < tensor.count() && dead > 0; ++at)
      hear(at % units, tensor.at_offset(at));
  }
  return speaks;
}

GradientAt gradient_at(const Tensor& gradient) {
  if (gradient.shape().rank() == 0) return {.length = length_of(gradient)};
  return {.length = length_of(gradient), .reached = places_with_numbers(gradient)};
}

/// The line at which a unit of a layer shows whether it learns: of an activation, which has no
/// weights, what comes into it.
Line learning_line(const Line& line, const Plan::Row& row) {
  const std::vector<Line> inputs = line.inputs();
  const bool is_activation = row.needs.empty() && row.inside.empty() && !inputs.empty() &&
                             inputs.front().is_swept() && inputs.front().shape() == line.shape();
  return is_activation ? inputs.front() : line;
}

/// The share of the units that give 0 for every example, and let no gradient through to any weight.
double dead_share(const Line& line, const Plan::Row& row, const GradientOf& gradient_of) {
  if (!line.is_swept()) return 0.0;
  const std::vector<bool> speaks = places_with_numbers(line.value());
  const std::vector<bool> reached = gradient_of(learning_line(line, row)).reached;
  std::int64_t dead = 0;
  for (std::size_t unit = 0; unit < speaks.size(); ++unit)
    dead += !speaks[unit] && (reached.empty() || !reached[unit]) ? 1 : 0;
  return static_cast<double>(dead) / static_cast<double>(speaks.size());
}

/// Goes through the rows of a plan, the layers inside others with them.
class Looking {
 public:
  Looking(const Worksheet& sheet, GradientOf gradient_of) : gradient_of_(std::move(gradient_of)) {
    for (const Line& line : sheet.lines())
      lines_.emplace(line.name(), line);
  }

  void look(const std::vector<Plan::Row>& rows) {
    for (const Plan::Row& row : rows) {
      look(row.inside);
      look(row.projection);
      look(row);
    }
  }

  [[nodiscard]] std::vector<LayerFlow> layers() && { return std::move(layers_); }

 private:
  void look(const Plan::Row& row) {
    const auto found = lines_.find(row.name);
    if (found == lines_.end()) return;
    const Tensor& value = found->second.value();
    LayerFlow flow{.layer = row.name,
                   .standard_deviation = standard_deviation_of(value),
                   .dead = dead_share(found->second, row, gradient_of_)};
    flow.gradient_norm = gradient_of_(found->second).length;
    double squares = 0.0;
    for (const WeightNeed& need : row.needs) {
      if (!row.inside.empty()) break;
      flow.learns = flow.learns || need.is_slope();
      const auto weight = lines_.find(need.name);
      if (weight == lines_.end()) continue;
      const double length = gradient_of_(weight->second).length;
      squares += length * length;
    }
    flow.weight_gradient_norm = std::sqrt(squares);
    layers_.push_back(std::move(flow));
  }

  GradientOf gradient_of_;
  std::map<std::string, Line, std::less<>> lines_;
  std::vector<LayerFlow> layers_;
};

}  // namespace

std::vector<LayerFlow> look_through(const Network& network, const Loss& loss, const RowSet& rows,
                                    const Random& chance) {
  check_fits(network, loss, rows);
  Random draws = chance;
  Worksheet sheet;
  const GivenLines given = write_given(sheet, rows.from(0, std::min(rows.count(), usual_probe)));
  const Line scores = write_scores(sheet, network, loss, given.x, Phase::training(draws));
  ReverseSweep sweep(write_loss(sheet, loss, scores, given));
  std::map<std::size_t, GradientAt> gradients;
  while (sweep.next())
    gradients.emplace(sweep.step().line.number(), gradient_at(sweep.step().gradient));
  Looking looking(sheet, [&](const Line& line) {
    const auto found = gradients.find(line.number());
    return found == gradients.end() ? GradientAt() : found->second;
  });
  looking.look(network.plan().rows);
  return std::move(looking).layers();
}

std::vector<LayerFlow> look_through(const WorkedSheet& work, const Plan& plan) {
  Looking looking(work.sheet(), [&](const Line& line) {
    const ReverseStep* const step = work.reverse_step_of(line);
    return step == nullptr ? GradientAt() : gradient_at(step->gradient);
  });
  looking.look(plan.rows);
  return std::move(looking).layers();
}

}  // namespace lattice
