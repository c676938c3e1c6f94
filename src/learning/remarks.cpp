#include "lattice/learning/remarks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "lattice/data/row_kind.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

constexpr std::array codes = std::to_array<std::string_view>(
    {"decimal-commas",    "sorted-rows",       "class-missing",      "constant-feature",
     "features-differ",   "own-scaling",       "shared-rows",        "zero-start",
     "softmax-twice",     "naive-log",         "epsilon-lost",       "square",
     "number-by-number",  "minibatch-of-one",  "running-statistics", "train-and-use-apart",
     "gradient-vanishes", "gradient-explodes", "dead-units",         "first-loss",
     "rate-too-high",     "running-lags",      "overfitting",        "went-on",
     "no-validation",     "chosen-by-test",    "summed-rate",        "mean-of-means",
     "far-outside",       "scaled-already"});

/// By how much a loss has to grow to be mentioned, as a part of it.
constexpr double worth_mention = 0.01;

/// How much the first loss may differ from that of a uniform guess, as a part of it.
constexpr double far_from_even = 0.5;

/// For how many epochs, as a part of the run, there has to be no new low to be mentioned.
constexpr double long_since = 0.2;
constexpr std::int64_t fewest_since = 5;

bool has_figures(const EpochFigures& epoch) {
  return epoch.train || epoch.validation || epoch.running;
}

/// The loss of the train part, or of what is watched where none of its rows is evaluated.
double loss_of(const EpochFigures& epoch) {
  return epoch.train ? epoch.train->loss : epoch.watched();
}

/// From where to where the loss of a run went.
std::string loss_from_to(const RunRecord& run) {
  const auto first = std::ranges::find_if(run.epochs, has_figures);
  if (first == run.epochs.end()) return "the loss was no longer finite within epoch 1";
  const EpochFigures& last = run.epochs.back();
  const char* const what = last.train        ? "the loss of the train part"
                           : last.validation ? "the loss of the validation part"
                                             : "the running loss";
  return fmt::format("{} went from {} to {}", what, format_number(loss_of(*first)),
                     format_number(loss_of(last)));
}

/// The network has overfitted since the best epoch of its run.
void add_overfitting(const RunRecord& run, std::vector<Remark>& remarks) {
  const EpochFigures& last = run.epochs.back();
  if (!last.validation || run.ends_with_best) return;
  const auto best = std::ranges::min_element(run.epochs, {}, &EpochFigures::watched);
  const std::int64_t since = last.epoch - best->epoch;
  const bool is_long = since >= fewest_since &&
                       static_cast<double>(since) >= long_since * static_cast<double>(last.epoch);
  const bool has_grown = last.validation->loss > (1.0 + 5 * worth_mention) * best->watched();
  const bool is_known = last.train && best->train;
  if (!is_long || !has_grown || !is_known || !(last.train->loss < best->train->loss)) return;
  remarks.push_back(
      {.code = "overfitting",
       .text = fmt::format(
           "the validation loss was lowest after epoch {}, at {}, and has grown to {} "
           "since, while the train loss fell from {} to {}: since then the network has "
           "overfitted",
           best->epoch, format_number(best->watched()), format_number(last.validation->loss),
           format_number(best->train->loss), format_number(last.train->loss)),
       .remedy = "keep the weights of that epoch",
       .advice = {"keep_best", "true"}});
}

/// A number is far outside a range when it is farther from it than so many times the range is wide.
constexpr double far = 1.0;

/// No number that is scaled is larger than that, as a rule.
constexpr double size_of_scaled = 4.0;

/// How far a number lies from a range, in widths of it.
double widths_outside(const Model::Range& range, double number) {
  const double outside = std::max({range.low - number, number - range.high, 0.0});
  if (outside == 0.0) return 0.0;
  return outside / (range.high - range.low);
}

}  // namespace

std::vector<std::string_view> remark_codes() {
  std::vector<std::string_view> all(codes.begin(), codes.end());
  for (const RowKind& kind : row_kinds())
    all.insert(all.end(), kind.remark_codes.begin(), kind.remark_codes.end());
  return all;
}

std::vector<Remark> remarks_on(const RunRecord& run, std::int64_t classes) {
  std::vector<Remark> remarks;
  const EpochFigures& first = run.epochs.front();
  const EpochFigures& last = run.epochs.back();
  if (!run.joins.empty()) {
    remarks.push_back(
        {.code = "went-on",
         .text =
             fmt::format("the run resumes after epoch {} with its weights; it does not start over",
                         run.joins.back()),
         .remedy = "to start over, train a network as it starts"});
  }
  if (classes > 1 && has_figures(first)) {
    const double even = std::log(static_cast<double>(classes));
    if (std::abs(loss_of(first) - even) > far_from_even * even) {
      remarks.push_back({.code = "first-loss",
                         .text = fmt::format(
                             "first loss {}; a uniform guess over {} classes gives ln {} = {}",
                             format_number(loss_of(first)), classes, classes, format_number(even)),
                         .remedy = "smaller initial weights, or scaled features"});
    }
  }
  const auto known = std::ranges::find_if(run.epochs, has_figures);
  const bool grew =
      known != run.epochs.end() && !(loss_of(last) <= (1.0 + worth_mention) * loss_of(*known));
  if (run.ending == Ending::diverged || grew) {
    remarks.push_back(
        {.code = "rate-too-high",
         .text = fmt::format("{}: the steps were too long", loss_from_to(run)),
         .remedy = fmt::format("a smaller rate than {}{}", format_number(last.rate),
                               run.ending == Ending::diverged ? ", or scaled features" : "")});
  }
  if (last.running && last.validation && last.train && !grew &&
      last.running->loss > 1.05 * last.validation->loss &&
      last.train->loss < last.validation->loss) {
    const std::string lags_likewise =
        last.running->accuracy && last.train->accuracy &&
                *last.running->accuracy < *last.train->accuracy
            ? fmt::format(". The running accuracy, {}, lags likewise: it is {} at the end",
                          format_number(*last.running->accuracy, 4),
                          format_number(*last.train->accuracy, 4))
            : "";
    remarks.push_back({.code = "running-lags",
                       .text = fmt::format(
                           "the running loss {} looks worse than the validation loss {}, but the "
                           "train part has {} at the end of the epoch: the running loss is "
                           "averaged while the weights still change{}",
                           format_number(last.running->loss), format_number(last.validation->loss),
                           format_number(last.train->loss), lags_likewise),
                       .remedy = "compare figures of the same moment: train and validation"});
  }
  add_overfitting(run, remarks);
  if (!last.validation && run.updates > 0) {
    remarks.push_back(
        {.code = "no-validation",
         .text = fmt::format("there is no validation part: epochs were compared by the {}",
                             last.train ? "train part" : "running loss"),
         .remedy = "keep a part of the rows for validation",
         .advice = {"validation", "0.2"}});
  }
  return remarks;
}

std::vector<Remark> remarks_on(const TrainSettings& before, const TrainSettings& now) {
  const bool is_running = now.rule.rate() == before.rule.rate() && now.batch > before.batch;
  if (now.over_rows != OverRows::sum || !is_running) return {};
  const double times = static_cast<double>(now.batch) / static_cast<double>(before.batch);
  const std::string rate = format_number(now.rule.rate() / times);
  return {
      {.code = "summed-rate",
       .text = fmt::format("the run trains on the sum of the row losses, and {} rows instead of {} "
                           "make gradients about {} times as large: the rate {} now acts as {} did",
                           now.batch, before.batch, format_number(times, 3),
                           format_number(now.rule.rate()), format_number(now.rule.rate() * times)),
       .remedy =
           fmt::format("a rate of {}, or the mean over rows, whose steps stay as they are", rate),
       .advice = {"rate", rate}}};
}

std::vector<Remark> remarks_on(const Model& model, const Examples& examples) {
  std::vector<Remark> remarks;
  if (model.feature_ranges.empty() || examples.shape().rank() != 2) return remarks;
  const bool is_scaled_from_data =
      !model.preparation.empty() &&
      model.preparation.steps.front().settings.kind != ScalingKind::known;
  const Tensor records = examples.all();
  const std::vector<std::string> names = feature_names_of(model.columns);
  const std::int64_t features = records.shape()[1];
  for (std::int64_t row = 0; row < records.shape()[0]; ++row) {
    std::int64_t farthest = 0;
    double most = -1.0;
    bool looks_scaled = is_scaled_from_data && features > 1;
    for (std::int64_t feature = 0; feature < features; ++feature) {
      const double number = records.at({row, feature});
      const double widths =
          widths_outside(model.feature_ranges[static_cast<std::size_t>(feature)], number);
      if (widths > most) {
        farthest = feature;
        most = widths;
      }
      looks_scaled = looks_scaled && std::abs(number) <= size_of_scaled;
    }
    if (!(most > far)) continue;
    if (looks_scaled) {
      remarks.push_back(
          {.code = "scaled-already",
           .text = fmt::format(
               "record {} looks scaled already: the model takes raw numbers and scales them itself",
               row),
           .remedy = "give it each feature in its own unit"});
      continue;
    }
    const auto at = static_cast<std::size_t>(farthest);
    const Model::Range& range = model.feature_ranges[at];
    const std::string lay = range.low == range.high
                                ? fmt::format("was always {} in training", format_number(range.low))
                                : fmt::format("lay between {} and {} in training",
                                              format_number(range.low), format_number(range.high));
    remarks.push_back(
        {.code = "far-outside",
         .text = fmt::format("record {}: {} is {}, but it {}: the answer is an extrapolation", row,
                             names[at], format_number(records.at({row, farthest})), lay),
         .remedy = "check the number and its unit"});
  }
  return remarks;
}

std::vector<Remark> remarks_on(const MeanOfRows& mean) {
  const double right = mean.mean();
  const double plain = mean.mean_of_means();
  if (!(std::abs(plain - right) > 1e-9 * std::max(std::abs(plain), std::abs(right)))) return {};
  return {
      {.code = "mean-of-means",
       .text = fmt::format("the plain mean over minibatches is {}, and the mean over rows {}: a "
                           "smaller minibatch has as much say in the first as a full one",
                           format_number(plain), format_number(right)),
       .remedy = "the mean over rows: MeanOfRows::mean()"}};
}

std::vector<Remark> without(std::vector<Remark> remarks, std::span<const std::string> quiet) {
  if (std::ranges::find(quiet, "all") != quiet.end()) return {};
  std::erase_if(remarks, [&](const Remark& remark) {
    return std::ranges::find(quiet, remark.code) != quiet.end();
  });
  return remarks;
}

}  // namespace lattice
