#include "lattice/show/run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <limits>
#include <optional>
#include <vector>

#include "lattice/text/wrapping.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

std::string number_or_dash(const std::optional<double>& number, const TerminalStyle& style) {
  return number ? format_number(*number, style.digits) : "–";
}

/// A loss and, where there are accuracies, an accuracy; dashes for what was not looked at.
void add_figures(std::vector<TextTable::Entry>& row, const std::optional<Figures>& figures,
                 bool has_accuracy, const TerminalStyle& style) {
  row.emplace_back(number_or_dash(figures ? std::optional(figures->loss) : std::nullopt, style));
  if (has_accuracy)
    row.emplace_back(number_or_dash(figures ? figures->accuracy : std::nullopt, style));
}

/// The rows of a table that are shown of so many: evenly spread, the last one among them.
bool is_shown(std::size_t at, std::size_t count, const TerminalStyle& style) {
  const auto rows = static_cast<std::size_t>(std::max<std::int64_t>(style.most_rows, 2));
  const std::size_t step = std::max<std::size_t>(1, (count - 1 + rows - 1) / rows);
  return at % step == 0 || at + 1 == count;
}

/// The heading of the loss of the train part, with the number of rows that it is of.
std::string train_loss(const RunRecord& run) {
  if (!run.judged_train_rows) return "train loss";
  return fmt::format("train loss, {}", counted(*run.judged_train_rows, "row"));
}

/// An epoch that takes less than so many seconds is not timed in the table.
constexpr double worth_timing = 0.05;

/// The steps that were recorded, as a table; those with a look at a whole part, where there are
/// any.
std::string steps_told(const RunRecord& run, const TerminalStyle& style) {
  std::vector<StepFigures> steps;
  std::ranges::copy_if(run.steps, std::back_inserter(steps),
                       [](const StepFigures& step) { return step.watched.has_value(); });
  const bool is_watched = !steps.empty();
  if (!is_watched) steps = run.steps;
  const bool has_accuracy = steps.front().minibatch.accuracy.has_value();
  const bool has_validation = run.epochs.front().validation.has_value();
  std::vector<TextTable::Heading> headings = {{"step"}, {"epoch"}};
  const auto head = [&](const std::string& loss) {
    headings.push_back({loss});
    if (has_accuracy) headings.push_back({"accuracy"});
  };
  head("minibatch loss");
  const bool has_running = steps.front().running.has_value();
  if (has_running) head("running loss");
  if (is_watched) head(has_validation ? "validation loss" : train_loss(run));
  TextTable table(headings);
  for (std::size_t at = 0; at < steps.size(); ++at) {
    if (!is_shown(at, steps.size(), style)) continue;
    const StepFigures& step = steps[at];
    std::vector<TextTable::Entry> row = {fmt::format("{}", step.step),
                                         fmt::format("{}", step.epoch)};
    add_figures(row, step.minibatch, has_accuracy, style);
    if (has_running) add_figures(row, step.running, has_accuracy, style);
    if (is_watched) add_figures(row, step.watched, has_accuracy, style);
    table.add(std::move(row));
  }
  return table.text(style) + "\n" +
         paragraph(
             fmt::format("The minibatch was assessed before its step{}{}.",
                         is_watched ? ", the whole part after it" : "",
                         has_running
                             ? "; the running loss is the mean over the epoch's examples so far"
                             : ""),
             style.width);
}

/// Every change of the rate: one or two in a sentence, more in a list.
std::string rates_told(const RunRecord& run, const TerminalStyle& style) {
  const auto number = [&](double rate) { return format_number(rate, style.digits); };
  if (run.rate_changes.empty()) return "";
  if (run.rate_changes.size() <= 2) {
    std::string text;
    for (const RateChange& change : run.rate_changes) {
      text += fmt::format("From epoch {} on the rate is {}, before {}.\n", change.epoch,
                          number(change.after), number(change.before));
    }
    return text;
  }
  std::string text =
      fmt::format("The rate was {}, and from an epoch on:", number(run.rate_changes[0].before));
  for (const RateChange& change : run.rate_changes)
    text += fmt::format(" {}: {},", change.epoch, number(change.after));
  text.back() = '.';
  return paragraph(text, style.width);
}

/// A number beside a bar that is as long as its logarithm says, from the lowest to the highest.
class LogBars {
 public:
  explicit LogBars(const std::vector<double>& numbers) {
    for (const double number : numbers) {
      if (!(number > 0.0) || !std::isfinite(number)) continue;
      low_ = std::min(low_, std::log10(number));
      high_ = std::max(high_, std::log10(number));
    }
  }

  [[nodiscard]] std::string text(double number) const {
    if (!(number > 0.0) || !std::isfinite(number)) return "";
    // Two letters for a power of ten, as far as there is room.
    const double letters = std::min(longest, std::max(1.0, 2.0 * (high_ - low_)));
    const double share = high_ > low_ ? (std::log10(number) - low_) / (high_ - low_) : 1.0;
    std::string bar;
    for (long at = 0; at <= std::lround(share * letters); ++at)
      bar += "▪";
    return bar;
  }

 private:
  static constexpr double longest = 12.0;
  double low_ = std::numeric_limits<double>::infinity();
  double high_ = -std::numeric_limits<double>::infinity();
};

}  // namespace

std::string show_layer_flow(const FlowMoment& before, const FlowMoment& now,
                            const TerminalStyle& style) {
  const bool are_two = before.epoch != now.epoch;
  const auto number = [&](double value) { return format_number(value, 3); };
  const auto when = [](const FlowMoment& moment) {
    return moment.epoch == 0 ? std::string("before training")
                             : fmt::format("after epoch {}", moment.epoch);
  };
  std::vector<TextTable::Heading> headings = {{"layer", TextTable::Set::left}};
  const auto head = [&](const FlowMoment& moment) {
    headings.push_back({moment.epoch == before.epoch ? "std dev" : "std dev now"});
    headings.push_back({moment.epoch == before.epoch ? "∂ norm" : "∂ now"});
  };
  head(before);
  if (are_two) head(now);
  headings.push_back({"∂ weights"});
  headings.push_back({"dead"});
  headings.push_back({"", TextTable::Set::left});
  std::vector<double> lengths;
  for (const LayerFlow& layer : now.layers)
    lengths.push_back(layer.gradient_norm);
  const LogBars bars(lengths);
  TextTable table(headings);
  for (const LayerFlow& layer : now.layers) {
    std::vector<TextTable::Entry> row = {layer.layer};
    const auto add = [&](const LayerFlow& flow) {
      row.emplace_back(number(flow.standard_deviation));
      row.emplace_back(number(flow.gradient_norm));
    };
    if (are_two) {
      const auto found = std::ranges::find(before.layers, layer.layer, &LayerFlow::layer);
      add(found == before.layers.end() ? layer : *found);
    }
    add(layer);
    row.emplace_back(layer.weight_gradient_norm > 0.0 ? number(layer.weight_gradient_norm) : "");
    row.emplace_back(layer.dead > 0.0 ? fmt::format("{:.0f} %", 100.0 * layer.dead) : "");
    row.emplace_back(bars.text(layer.gradient_norm));
    table.add(std::move(row));
  }
  const std::string moments =
      are_two ? fmt::format("{}, and now, {}", when(before), when(now)) : when(now);
  return table.text(style) + "\n" +
         paragraph(fmt::format("State: {}. std dev is the standard deviation of a layer's output; "
                               "∂ norm is the norm of the gradient of that output, and the bar its "
                               "logarithm{}; dead units give 0 for every example.",
                               moments, are_two ? " now" : ""),
                   style.width);
}

namespace {

/// When the figures beside the running ones are taken, and over which rows.
std::string others_told(const RunRecord& run) {
  const std::int64_t rows = run.judged_train_rows.value_or(1);
  if (rows == 0 && !run.epochs.front().validation) return "";
  std::string others = "; other columns are of the end of the epoch, over all rows";
  if (!run.judged_train_rows || rows == 0) return others;
  const std::string of_train =
      fmt::format("of the train part over {}, drawn once", counted(rows, "row"));
  return run.epochs.front().validation ? others + " of the validation part, and " + of_train
                                       : "; other columns are of the end of the epoch, " + of_train;
}

}  // namespace

std::string show_run(const RunRecord& run, const TerminalStyle& style) {
  const auto number = [&](double value) { return format_number(value, style.digits); };
  const EpochFigures& sample = run.epochs.front();
  // Each accuracy stands behind the loss of the same rows.
  const std::optional<Figures>& watched = sample.train ? sample.train : run.epochs.back().running;
  const bool has_accuracy = watched && watched->accuracy.has_value();
  const bool is_timed = std::ranges::any_of(
      run.epochs, [](const EpochFigures& epoch) { return epoch.learning_seconds >= worth_timing; });
  std::vector<TextTable::Heading> headings = {{"epoch"}};
  const auto head = [&](const std::string& loss) {
    headings.push_back({loss});
    if (has_accuracy) headings.push_back({"accuracy"});
  };
  head("running loss");
  if (sample.train) head(train_loss(run));
  if (sample.l2_term) headings.push_back({"+ L2 term"});
  if (sample.validation) head("validation loss");
  if (!run.rate_changes.empty()) headings.push_back({"rate"});
  if (is_timed) headings.push_back({"seconds"});
  TextTable table(headings);
  const std::size_t count = run.epochs.size();
  for (std::size_t at = 0; at < count; ++at) {
    const EpochFigures& figures = run.epochs[at];
    const bool is_best = run.best && figures.epoch == run.best->epoch;
    if (!is_shown(at, count, style) && !is_best) continue;
    std::vector<TextTable::Entry> row = {
        fmt::format("{}{}", is_best ? "best " : "", figures.epoch)};
    add_figures(row, figures.running, has_accuracy, style);
    if (sample.train) add_figures(row, figures.train, has_accuracy, style);
    if (figures.l2_term) row.emplace_back(number(*figures.l2_term));
    if (sample.validation) add_figures(row, figures.validation, has_accuracy, style);
    if (!run.rate_changes.empty()) row.emplace_back(number(figures.rate));
    if (is_timed)
      row.emplace_back(figures.epoch == 0 ? "–" : fmt::format("{:.2f}", figures.learning_seconds));
    table.add(std::move(row));
  }
  std::string text = table.text(style) + "\n";
  if (count > 1) {
    text += paragraph(
        fmt::format("{} averaged while the weights change{}.{}",
                    has_accuracy ? "Running loss and accuracy are" : "The running loss is",
                    others_told(run),
                    is_timed ? " Seconds are of learning, without evaluations." : ""),
        style.width);
  }
  if (!run.steps.empty()) text += "\n" + steps_told(run, style);
  for (const std::int64_t join : run.joins)
    text += fmt::format("Resumed after epoch {}.\n", join);
  text += rates_told(run, style);
  if (run.ending == Ending::stopped_early && run.best) {
    text += fmt::format(
        "Stopped early: no loss was lower than that of epoch {}. The weights are those of epoch "
        "{}.\n",
        run.best->epoch, run.epoch_of_weights());
  } else if (run.ends_with_best && run.best) {
    text += fmt::format("The weights are those of epoch {}, the best.\n", run.best->epoch);
  }
  if (run.ending == Ending::asked) text += "Stopped when asked to.\n";
  if (run.ending == Ending::diverged && run.best) {
    text += fmt::format("The loss was no longer a number; the weights are those of epoch {}.\n",
                        run.best->epoch);
  }
  return text;
}

std::string to_string(const RunRecord& run) {
  return show_run(run, {});
}

}  // namespace lattice
