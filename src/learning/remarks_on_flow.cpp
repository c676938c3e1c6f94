#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/learning/remarks.hpp"
#include "lattice/network/normalising_layers.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// How much of the gradient at the end has to be lost, or won, on the way back to be mentioned.
constexpr double far_apart = 100.0;

/// And where that is said to begin.
constexpr double apart = 10.0;

/// The last layer, seen from the end, up to which the gradient changed by less than a factor.
/// @param ratio of what arrives there and at the end
template <class Ratio>
const LayerFlow& begins_at(const std::vector<const LayerFlow*>& layers, Ratio ratio) {
  const auto found = std::find_if(layers.rbegin(), layers.rend(),
                                  [&](const LayerFlow* layer) { return ratio(*layer) > apart; });
  return found == layers.rend() ? *layers.front() : **found;
}

void add_remarks_on_gradients(const std::vector<LayerFlow>& layers, std::string_view when,
                              std::vector<Remark>& remarks) {
  std::vector<const LayerFlow*> learning;
  for (const LayerFlow& layer : layers) {
    if (layer.learns) learning.push_back(&layer);
  }
  if (learning.size() < 2) return;
  const LayerFlow& first = *learning.front();
  const double end = learning.back()->gradient_norm;
  if (!(end > 0.0) || !std::isfinite(end) || !std::isfinite(first.gradient_norm)) return;
  const auto lost = [&](const LayerFlow& layer) { return end / layer.gradient_norm; };
  const auto won = [&](const LayerFlow& layer) { return layer.gradient_norm / end; };
  const auto say = [&](std::string_view code, std::string_view what, const LayerFlow& begins,
                       std::string remedy) {
    remarks.push_back(
        {.code = std::string(code),
         .text = fmt::format("{}, the gradient {} on the backward pass: its norm is {} at {}, {} "
                             "at {}, where that begins, and {} at {}",
                             when, what, format_number(end, 3), learning.back()->layer,
                             format_number(begins.gradient_norm, 3), begins.layer,
                             format_number(first.gradient_norm, 3), first.layer),
         .remedy = std::move(remedy)});
  };
  if (lost(first) > far_apart) {
    say("gradient-vanishes", "vanishes", begins_at(learning, lost),
        "start he before relu, normalise, or residual blocks, whose skip connections pass it "
        "unchanged");
  } else if (won(first) > far_apart) {
    say("gradient-explodes", "explodes", begins_at(learning, won),
        "weights that start smaller, normalise, or clipped gradients");
  }
}

void add_remark_on_silence(const std::vector<LayerFlow>& layers, std::string_view when,
                           std::vector<Remark>& remarks) {
  const auto worst = std::ranges::max_element(layers, {}, &LayerFlow::dead);
  if (worst == layers.end() || worst->dead <= 0.5) return;
  remarks.push_back(
      {.code = "dead-units",
       .text = fmt::format("{}, {:.0f} % of the units of {} give 0 for every example: they get "
                           "no gradient and cannot recover",
                           when, 100.0 * worst->dead, worst->layer),
       .remedy = "a smaller rate, start he, or leaky-relu"});
}

/// A normalisation by the minibatch, and what comes into it.
struct Normalising {
  std::string name;
  const Normalise* layer;
  std::int64_t places;  ///< numbers of an example that share their figures
};

void find(const Layer& layer, const Plan::Row& row, std::vector<Normalising>& found) {
  const auto* const normalise = layer.as<Normalise>();
  if (normalise != nullptr && normalise->over == NormalisedOver::minibatch) {
    const Shape& shape = row.outputs;
    found.push_back({row.name, normalise, shape.count() / shape[shape.rank() - 1]});
  }
  for (std::size_t at = 0; at < row.inside.size(); ++at)
    find(layer.inside()[at], row.inside[at], found);
  if (layer.projection() != nullptr) find(*layer.projection(), row.projection.front(), found);
}

std::vector<Normalising> normalisations_of(const Network& network) {
  std::vector<Normalising> found;
  for (std::size_t at = 0; at < network.layers().size(); ++at)
    find(network.layers()[at], network.plan().rows[at], found);
  return found;
}

}  // namespace

std::vector<Remark> remarks_on(const std::vector<LayerFlow>& layers, std::string_view when) {
  std::vector<Remark> remarks;
  add_remarks_on_gradients(layers, when, remarks);
  add_remark_on_silence(layers, when, remarks);
  return remarks;
}

std::vector<Remark> remarks_on(const Network& network, const TrainSettings& settings,
                               std::int64_t rows, const RunRecord& run) {
  std::vector<Remark> remarks;
  const std::vector<Normalising> all = normalisations_of(network);
  if (all.empty()) return remarks;
  const auto& alone = std::ranges::find(all, 1, &Normalising::places);
  const std::int64_t smallest = rows % settings.batch == 0 ? settings.batch : rows % settings.batch;
  if (alone != all.end() && smallest == 1) {
    remarks.push_back(
        {.code = "minibatch-of-one",
         .text = fmt::format(
             "{}: {} normalises a minibatch of one row, which is its own mean: the output is "
             "always the shift, and nothing is trained",
             settings.batch == 1
                 ? "a minibatch has one row"
                 : fmt::format("{} rows in minibatches of {} leave one over", rows, settings.batch),
             alone->name),
         .remedy = "a batch that leaves more rows over, or normalise each example"});
  }
  const auto slowest =
      std::ranges::max_element(all, {}, [](const Normalising& each) { return each.layer->decay; });
  const double left = std::pow(slowest->layer->decay, static_cast<double>(run.updates));
  constexpr double worth_mention = 0.05;
  if (left > worth_mention) {
    remarks.push_back(
        {.code = "running-statistics",
         .text = fmt::format("after {}, {:.0f} % of the running mean and variance of {} are "
                             "still what they started as, {} to the power of {}: in use it "
                             "normalises by figures that are not those of the data",
                             counted(run.updates, "update"), 100.0 * left, slowest->name,
                             format_number(slowest->layer->decay), run.updates),
         .remedy = "more updates, or a smaller decay",
         .advice = {}});
  }
  const EpochFigures& last = run.epochs.back();
  const bool is_apart = last.running && last.train && last.train->loss > 2.0 * last.running->loss &&
                        last.train->loss - last.running->loss > 0.1;
  if (is_apart) {
    remarks.push_back(
        {.code = "train-and-use-apart",
         .text = fmt::format(
             "the running loss is {}, and in use the same rows have {}: training normalises by the "
             "statistics of each minibatch, use by the running ones, and they differ",
             format_number(last.running->loss), format_number(last.train->loss)),
         .remedy = "larger minibatches, more updates, a smaller rate, or normalise each example"});
  }
  return remarks;
}

}  // namespace lattice
