#include "lattice/learning/remarks.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "lattice/data/graph.hpp"
#include "lattice/data/summary.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/explain.hpp"

namespace lattice {
namespace {

constexpr std::array codes = std::to_array<std::string_view>({"decimal-commas",
                                                              "sorted-rows",
                                                              "class-missing",
                                                              "nodes-alone",
                                                              "piece-without-label",
                                                              "edges-unused",
                                                              "constant-feature",
                                                              "features-differ",
                                                              "own-scaling",
                                                              "zero-start",
                                                              "softmax-twice",
                                                              "careless-log",
                                                              "patch-lost",
                                                              "square",
                                                              "minibatch-of-one",
                                                              "kept-figures",
                                                              "train-and-use-apart",
                                                              "gradient-vanishes",
                                                              "gradient-explodes",
                                                              "silent-units",
                                                              "first-loss",
                                                              "rate-too-high",
                                                              "running-lags",
                                                              "by-heart",
                                                              "went-on",
                                                              "no-validation",
                                                              "chosen-by-test",
                                                              "summed-rate",
                                                              "mean-of-means",
                                                              "far-outside",
                                                              "scaled-already"});

/// Features whose sizes differ by this factor are learnt at very different speeds.
constexpr double very_different = 30.0;

/// By how much a loss has to grow to be mentioned, as a part of it.
constexpr double worth_mention = 0.01;

/// How much the first loss may differ from that of an even guess, as a part of it.
constexpr double far_from_even = 0.5;

/// True when rows of one class stand together: about as many borders as there must be.
bool is_sorted_by_class(const RowSet& rows) {
  const Tensor& classes = rows.data().classes;
  std::int64_t borders = 0;
  for (std::size_t at = 1; at < rows.rows().size(); ++at) {
    const bool differ =
        classes.at_offset(rows.rows()[at]) != classes.at_offset(rows.rows()[at - 1]);
    borders += differ ? 1 : 0;
  }
  const std::int64_t count = rows.data().class_count();
  return rows.count() > 2 * count && borders < count;
}

void add_missing_classes(const Split& split, std::vector<Remark>& remarks) {
  const std::vector<std::int64_t> learnt = split.train.class_sizes();
  for (const DataPart part : {DataPart::validation, DataPart::test}) {
    if (!split.has(part)) continue;
    const std::vector<std::int64_t> sizes = split[part].class_sizes();
    for (std::size_t of = 0; of < sizes.size(); ++of) {
      const std::string name = split.data().class_name(static_cast<std::int64_t>(of));
      if (learnt[of] == 0 && sizes[of] > 0) {
        remarks.push_back(
            {.code = "class-missing",
             .text = fmt::format("the class '{}' is in the {} part ({} rows) but not in the train "
                                 "part: it cannot be learnt",
                                 name, word(part), sizes[of]),
             .remedy = "stratified parts, more rows, or shuffled ones"});
      } else if (learnt[of] > 0 && sizes[of] == 0) {
        remarks.push_back({.code = "class-missing",
                           .text = fmt::format("the {} part has no row of the class '{}': its "
                                               "figures say nothing about it",
                                               word(part), name),
                           .remedy = "stratified parts, or a larger one"});
      }
    }
  }
}

void add_remarks_on_features(const RowSet& train, std::vector<Remark>& remarks) {
  if (!train.data().is_table()) return;
  std::vector<NumberSummary> features = summarise(train).features;
  std::erase_if(features, [&](const NumberSummary& feature) {
    if (feature.low < feature.high) return false;
    remarks.push_back({.code = "constant-feature",
                       .text = fmt::format("the feature '{}' is {} in every row to learn from: it "
                                           "tells nothing apart",
                                           feature.name, format_number(feature.low)),
                       .remedy = "leave it out of the features"});
    return true;
  });
  if (!train.data().preparation.empty() || features.size() < 2) return;
  const auto [small, large] = std::ranges::minmax(features, {}, &NumberSummary::size);
  if (large.size() < very_different * small.size()) return;
  remarks.push_back(
      {.code = "features-differ",
       .text = fmt::format("'{}' is about {}, '{}' about {}: {} times as large. Weights of the one "
                           "learn at a rate that is far too high or too low for the other",
                           large.name, format_number(large.size(), 3), small.name,
                           format_number(small.size(), 3),
                           format_number(large.size() / small.size(), 2)),
       .remedy = "scale the features",
       .advice = {"scale", "standard"}});
}

/// The names of the first few nodes of some.
std::string some_of(const Dataset& graph, const std::vector<std::int64_t>& nodes) {
  constexpr std::size_t most = 5;
  std::vector<std::string> names;
  for (std::size_t at = 0; at < std::min(nodes.size(), most); ++at)
    names.push_back(graph.row_name(nodes[at]));
  return fmt::format("{}{}", fmt::join(names, ", "), nodes.size() > most ? " …" : "");
}

void add_remarks_on_graph(const Split& split, std::vector<Remark>& remarks) {
  // What is known is what is learnt from, however the parts were dealt out.
  Dataset graph = split.data();
  graph.known = split.train.rows();
  std::ranges::sort(graph.known);
  const GraphFacts facts = facts_of(graph);
  if (const auto count = std::ssize(facts.alone); count > 0) {
    remarks.push_back(
        {.code = "nodes-alone",
         .text = fmt::format("{} without an edge ({}): what is said of {} comes from nobody else",
                             counted(count, Role::node, "node", "nodes"),
                             some_of(graph, facts.alone), count == 1 ? "it" : "them"),
         .remedy = "an edge, or features of their own that tell something"});
  }
  if (const auto count = std::ssize(facts.without_known); count > 0) {
    remarks.push_back(
        {.code = "piece-without-label",
         .text = fmt::format("{} of the graph in which nobody's label is known (that of {}): no "
                             "edge leads from a label to them",
                             counted(count, Role::none, "piece", "pieces"),
                             some_of(graph, facts.without_known)),
         .remedy = "a known label in each piece, or an edge from one to another"});
  }
}

/// True when all places along an axis of a matrix hold the same numbers, as far as place `count`.
bool are_alike(const Tensor& matrix, int axis, std::int64_t count) {
  const std::int64_t others = matrix.shape()[1 - axis];
  for (std::int64_t place = 1; place < count; ++place) {
    for (std::int64_t other = 0; other < others; ++other) {
      const auto number = [&](std::int64_t of) {
        return matrix.at(axis == 0 ? Index{of, other} : Index{other, of});
      };
      if (number(place) != number(0)) return false;
    }
  }
  return true;
}

/// How many units a part has; 0 for one without.
std::int64_t units_of(const Network& network, std::size_t part) {
  return network.parts()[part].nature().units.value_or(0);
}

/// True when nothing tells the units of a part apart: neither what goes in nor what goes out,
/// through parts that do the same to each.
bool start_alike(const Network& network, std::size_t part, std::int64_t units) {
  const std::vector<Plan::Row>& rows = network.plan().rows;
  const auto weight = [&](std::size_t at) -> const Tensor& {
    return network[rows[at].needs[0].name];
  };
  if (!are_alike(weight(part), 1, units)) return false;
  if (rows[part].needs.size() > 1) {
    const std::vector<double> biases = network[rows[part].needs[1].name].numbers();
    if (std::ranges::adjacent_find(biases, std::not_equal_to()) != biases.end()) return false;
  }
  for (std::size_t next = part + 1; next < rows.size(); ++next) {
    if (units_of(network, next) > 0) return are_alike(weight(next), 0, units);
    if (!network.parts()[next].nature().treats_all_alike) return false;
  }
  return false;
}

/// What a line adds to each number of another, where its precision rounds that to 0; else 0.
double lost_patch(const Line& line) {
  const bool adds = line.kind() == Line::Kind::calculated && line.inputs().size() == 1;
  if (!adds) return 0.0;
  const Formula formula = explain(line, Index::zeros(line.shape().rank())).formula;
  if (formula.kind() != Formula::Kind::sum) return 0.0;
  for (const Formula& part : formula.parts()) {
    if (part.kind() != Formula::Kind::number) continue;
    const double number = part.evaluate();
    if (number != 0.0 && part.evaluate(line.value().precision()) == 0.0) return number;
  }
  return 0.0;
}

/// True for a line in which a column [n × 1] met a list [n], the wrong way round for both.
bool is_square_of_lists(const Line& line, const std::vector<Line>& inputs) {
  if (inputs.size() != 2 || line.shape().rank() != 2) return false;
  const auto is_column_and_list = [&](const Shape& column, const Shape& list) {
    return column.rank() == 2 && column[1] == 1 && list.rank() == 1 && list[0] == column[0] &&
           list[0] > 1 && line.shape()[0] == list[0] && line.shape()[1] == list[0];
  };
  return is_column_and_list(inputs[0].shape(), inputs[1].shape()) ||
         is_column_and_list(inputs[1].shape(), inputs[0].shape());
}

/// For how many epochs, as a part of the run, there has to be no new low to be mentioned.
constexpr double long_since = 0.2;
constexpr std::int64_t fewest_since = 5;

/// The run has learnt the train part by heart since its best epoch.
void add_by_heart(const RunRecord& run, std::vector<Remark>& remarks) {
  const EpochFigures& last = run.epochs.back();
  if (!last.validation || run.ends_with_best) return;
  const auto best = std::ranges::min_element(run.epochs, {}, &EpochFigures::watched);
  const std::int64_t since = last.epoch - best->epoch;
  const bool is_long = since >= fewest_since &&
                       static_cast<double>(since) >= long_since * static_cast<double>(last.epoch);
  const bool has_grown = last.validation->loss > (1.0 + 5 * worth_mention) * best->watched();
  if (!is_long || !has_grown || !(last.train.loss < best->train.loss)) return;
  remarks.push_back(
      {.code = "by-heart",
       .text = fmt::format(
           "the validation loss was lowest after epoch {}, at {}, and has grown to {} "
           "since, while the train loss fell from {} to {}: from there on the train "
           "part was learnt by heart",
           best->epoch, format_number(best->watched()), format_number(last.validation->loss),
           format_number(best->train.loss), format_number(last.train.loss)),
       .remedy = "keep the weights of that epoch",
       .advice = {"keep_best", "true"}});
}

/// Farther than so many spreads from the mean, or stretches from what it was scaled by, is far.
constexpr double far = 6.0;
constexpr double far_stretches = 2.0;

/// No number that is scaled is larger than that, as a rule.
constexpr double size_of_scaled = 4.0;

bool is_far(const Scaling& scaling, double scaled) {
  return scaling.settings.kind == ScalingKind::min_max
             ? std::abs(scaled - 0.5) > far_stretches + 0.5
             : std::abs(scaled) > far;
}

}  // namespace

std::span<const std::string_view> remark_codes() {
  return codes;
}

std::vector<Remark> remarks_on(std::span<const Table::DecimalCommas> commas,
                               std::string_view table) {
  if (commas.empty()) return {};
  std::vector<std::string> columns;
  columns.reserve(commas.size());
  for (const Table::DecimalCommas& each : commas)
    columns.push_back(each.column);
  const std::string& written = commas.front().as_written;
  std::string number = written;
  std::ranges::replace(number, ',', '.');
  return {{.code = "decimal-commas",
           .text = fmt::format("{}: commas are taken for decimal points in {}: {} is {}", table,
                               fmt::join(columns, ", "), written, number),
           .remedy = "where they stand between thousands instead, take them out"}};
}

std::vector<Remark> remarks_on(const Split& split) {
  std::vector<Remark> remarks;
  if (split.data().has_classes()) {
    const bool in_order = std::ranges::is_sorted(split.train.rows());
    if (in_order && is_sorted_by_class(split.train)) {
      remarks.push_back({.code = "sorted-rows",
                         .text = "the rows come sorted by class and were split in that order, so "
                                 "that the parts hold different classes",
                         .remedy = "shuffle before splitting",
                         .advice = {"shuffled", "true"}});
    }
    add_missing_classes(split, remarks);
  }
  if (split.data().is_graph()) add_remarks_on_graph(split, remarks);
  add_remarks_on_features(split.train, remarks);
  for (const DataPart part : {DataPart::validation, DataPart::test}) {
    if (!split.has(part)) continue;
    if (split[part].data().preparation == split.data().preparation) continue;
    remarks.push_back(
        {.code = "own-scaling",
         .text = fmt::format("the {} part was not scaled with the factors of the train part, so "
                             "that the same number means another thing in it",
                             word(part)),
         .remedy = "fit the factors on the train part, and scale every part with them"});
  }
  return remarks;
}

std::vector<Remark> remarks_on(const Network& network) {
  std::vector<Remark> remarks;
  const std::vector<Plan::Row>& rows = network.plan().rows;
  for (std::size_t at = 0; at < rows.size(); ++at) {
    const std::int64_t units = units_of(network, at);
    if (units < 2 || !start_alike(network, at, units)) continue;
    remarks.push_back(
        {.code = "zero-start",
         .text = fmt::format("the {} units of {} start alike, in the weights that go in and in "
                             "those that go out: all get the same gradients, and stay alike for "
                             "ever",
                             units, rows[at].name),
         .remedy = "leave the start of one of the two to chance, such as xavier or he"});
  }
  return remarks;
}

std::vector<Remark> remarks_on(const Network& network, const RowSet& rows) {
  if (!rows.data().is_graph()) return {};
  Worksheet sheet;
  static_cast<void>(network.forward(sheet, write_given(sheet, rows.from(0, 1)).x));
  const Line adjacency = sheet.find(adjacency_name).value();
  for (const Line& line : sheet.lines()) {
    const std::vector<Line> inputs = line.inputs();
    if (std::ranges::find(inputs, adjacency) != inputs.end()) return {};
  }
  return {{.code = "edges-unused",
           .text = "the data are a graph, and no part looks at its edges: each node is answered "
                   "from its own features alone",
           .remedy = "a part neighbours in front of a dense one",
           .advice = {"net", "neighbours, " + network.blueprint()}}};
}

std::vector<Remark> remarks_on(const Worksheet& sheet) {
  std::vector<Remark> remarks;
  for (const Line& line : sheet.lines()) {
    const std::vector<Line> inputs = line.inputs();
    if (inputs.empty()) continue;
    if (const double patch = line.nature().has_no_value_at_zero ? lost_patch(inputs[0]) : 0.0;
        patch != 0.0) {
      remarks.push_back(
          {.code = "patch-lost",
           .text = fmt::format(
               "line {} adds {} in front of a log, but {} precision has no number so "
               "near to 0: it adds nothing, and the log meets 0 as before",
               inputs[0].number(), format_number(patch), word(inputs[0].value().precision())),
           .remedy = "a larger number, such as 1e-12, or a loss that takes scores",
           .advice = {"patch", "1e-12"}});
    }
    if (is_square_of_lists(line, inputs)) {
      remarks.push_back(
          {.code = "square",
           .text = fmt::format(
               "line {}, {}, meets {} {} with {} {}: both are stretched to {}, every "
               "row of the one against every row of the other",
               line.number(), line.operation(), inputs[0].name(), to_string(inputs[0].shape()),
               inputs[1].name(), to_string(inputs[1].shape()), to_string(line.shape())),
           .remedy = "give both the same shape: reshape(…) the list to a column"});
    }
    if (!inputs[0].nature().makes_probabilities) continue;
    if (line.nature().takes_scores) {
      remarks.push_back(
          {.code = "softmax-twice",
           .text = fmt::format("{} (line {}) takes scores, but gets {}, which {} has been through "
                               "already",
                               line.operation(), line.number(), inputs[0].name(),
                               inputs[0].operation()),
           .remedy = "give it the scores in front of that"});
    } else if (line.nature().has_no_value_at_zero) {
      remarks.push_back(
          {.code = "careless-log",
           .text = fmt::format("line {} takes the log of {}, which is rounded to 0 for "
                               "large scores: the log is then −∞",
                               line.number(), inputs[0].operation()),
           .remedy = "log-softmax, or a loss that takes scores"});
    }
  }
  return remarks;
}

std::vector<Remark> remarks_on(const RunRecord& run, std::int64_t classes) {
  std::vector<Remark> remarks;
  const EpochFigures& first = run.epochs.front();
  const EpochFigures& last = run.epochs.back();
  if (!run.joins.empty()) {
    remarks.push_back({.code = "went-on",
                       .text = fmt::format("the run goes on from epoch {}, with the weights learnt "
                                           "till then; it was not started over",
                                           run.joins.back()),
                       .remedy = "to start over, train a network as it starts"});
  }
  if (classes > 1) {
    const double even = std::log(static_cast<double>(classes));
    if (std::abs(first.train.loss - even) > far_from_even * even) {
      remarks.push_back(
          {.code = "first-loss",
           .text =
               fmt::format("first loss {}; an even guess over {} classes gives ln {} = {}",
                           format_number(first.train.loss), classes, classes, format_number(even)),
           .remedy = "weights that start smaller, or scaled features"});
    }
  }
  const bool grew = !(last.train.loss <= (1.0 + worth_mention) * first.train.loss);
  if (run.ending == Ending::diverged || grew) {
    remarks.push_back(
        {.code = "rate-too-high",
         .text =
             fmt::format("the loss of the train part went from {} to {}: the steps were too long",
                         format_number(first.train.loss), format_number(last.train.loss)),
         .remedy = fmt::format("a smaller rate than {}{}", format_number(last.rate),
                               run.ending == Ending::diverged ? ", or scaled features" : "")});
  }
  if (last.running && last.validation && !grew &&
      last.running->loss > 1.05 * last.validation->loss &&
      last.train.loss < last.validation->loss) {
    const std::string lags_likewise =
        last.running->accuracy && last.train.accuracy &&
                *last.running->accuracy < *last.train.accuracy
            ? fmt::format(". The running accuracy, {}, lags likewise: it is {} at the end",
                          format_number(*last.running->accuracy, 4),
                          format_number(*last.train.accuracy, 4))
            : "";
    remarks.push_back({.code = "running-lags",
                       .text = fmt::format(
                           "the running loss {} looks worse than the validation loss {}, but the "
                           "train part has {} at the end of the epoch: the running loss was "
                           "gathered while the weights were still changing{}",
                           format_number(last.running->loss), format_number(last.validation->loss),
                           format_number(last.train.loss), lags_likewise),
                       .remedy = "compare figures of the same moment: train and validation"});
  }
  add_by_heart(run, remarks);
  if (!last.validation) {
    remarks.push_back({.code = "no-validation",
                       .text = "there is no validation part: epochs were compared by the rows that "
                               "were learnt from",
                       .remedy = "keep a part of the rows for validation",
                       .advice = {"validation", "0.2"}});
  }
  return remarks;
}

std::vector<Remark> remarks_on(const TrainSettings& before, const TrainSettings& now) {
  const bool is_kept = now.rule.rate() == before.rule.rate() && now.batch > before.batch;
  if (now.over_rows != OverRows::sum || !is_kept) return {};
  const double times = static_cast<double>(now.batch) / static_cast<double>(before.batch);
  const std::string rate = format_number(now.rule.rate() / times);
  return {
      {.code = "summed-rate",
       .text = fmt::format("the sum over the rows of a minibatch is learnt from, and {} rows in "
                           "place of {} make gradients about {} times as long: the rate {} now "
                           "means as much as {} did",
                           now.batch, before.batch, format_number(times, 3),
                           format_number(now.rule.rate()), format_number(now.rule.rate() * times)),
       .remedy =
           fmt::format("a rate of {}, or the mean over rows, whose steps stay as they are", rate),
       .advice = {"rate", rate}}};
}

std::vector<Remark> remarks_on_choosing(const Split& split) {
  if (split.has(DataPart::validation)) return {};
  const Remark none = {.code = "no-validation",
                       .text =
                           "there is no validation part: settings are compared by the rows that "
                           "were learnt from",
                       .remedy = "keep a part of the rows for validation",
                       .advice = {"validation", "0.2"}};
  if (!split.has(DataPart::test)) return {none};
  return {
      none,
      {.code = "chosen-by-test",
       .text = "there is a test part and no validation part: whoever chooses by the test part has "
               "learnt from it, and its figures are no last judgement any more",
       .remedy = "choose by a validation part, and look at the test part once",
       .advice = {"validation", "0.2"}}};
}

std::vector<Remark> remarks_on(const Model& model, const Examples& examples) {
  std::vector<Remark> remarks;
  if (model.preparation.empty() || examples.shape().rank() != 2) return remarks;
  const Scaling& scaling = model.preparation.steps.front();
  if (scaling.settings.kind == ScalingKind::known) return remarks;
  const Tensor records = examples.all();
  const Tensor scaled = scaling.scaled(records);
  const std::vector<std::string> names = feature_names_of(model.columns);
  const std::int64_t features = records.shape()[1];
  for (std::int64_t row = 0; row < records.shape()[0]; ++row) {
    std::int64_t farthest = 0;
    bool is_outside = false;
    bool looks_scaled = features > 1;
    for (std::int64_t feature = 0; feature < features; ++feature) {
      const auto distance = [&](std::int64_t of) { return std::abs(scaled.at({row, of})); };
      if (distance(feature) > distance(farthest)) farthest = feature;
      is_outside = is_outside || is_far(scaling, scaled.at({row, feature}));
      looks_scaled = looks_scaled && std::abs(records.at({row, feature})) <= size_of_scaled;
    }
    if (!is_outside) continue;
    if (looks_scaled) {
      remarks.push_back(
          {.code = "scaled-already",
           .text = fmt::format("record {} looks scaled already: the model takes numbers "
                               "as they were measured, and scales them itself",
                               row),
           .remedy = "give it each feature in its own unit"});
      continue;
    }
    const auto at = static_cast<std::size_t>(farthest);
    const auto factor = [&](const Tensor& factors) {
      return factors.at_offset(factors.count() == 1 ? 0 : farthest);
    };
    const bool is_stretch = scaling.settings.kind == ScalingKind::min_max;
    const double centre = factor(scaling.centre);
    const double spread = factor(scaling.spread);
    remarks.push_back({.code = "far-outside",
                       .text = fmt::format(
                           "record {}: {} is {}, and what was learnt from lay {}: what is said of "
                           "it is a guess about a place where nothing was seen",
                           row, names[at], format_number(records.at({row, farthest})),
                           is_stretch ? fmt::format("from {} to {}", format_number(centre),
                                                    format_number(centre + spread))
                                      : fmt::format("around {}, with a spread of {}",
                                                    format_number(centre), format_number(spread))),
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
