#include "lattice/learning/remarks.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <vector>

#include "lattice/data/row_kind.hpp"
#include "lattice/data/summary.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// Features whose sizes differ by this factor are learnt at very different speeds.
constexpr double very_different = 30.0;

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
        remarks.push_back({.code = "class-missing",
                           .text = fmt::format("the class '{}' is in the {} part ({} rows) but not "
                                               "in the train part: the network cannot learn it",
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

/// The fingerprints of rows, in the order of the table.
std::vector<std::uint64_t> fingerprints_of(const RowSet& part) {
  std::vector<std::uint64_t> fingerprints;
  fingerprints.reserve(part.rows().size());
  for (const std::int64_t row : part.sorted_rows())
    fingerprints.push_back(fingerprint_of_row(part.data(), row));
  return fingerprints;
}

/// Rows of the other parts that are rows of the train part, too: the same numbers, the same truth.
void add_shared_rows(const Split& split, std::vector<Remark>& remarks) {
  if (split.data().is_connected()) return;
  if (!split.has(DataPart::validation) && !split.has(DataPart::test)) return;
  std::vector<std::uint64_t> learnt = fingerprints_of(split.train);
  std::ranges::sort(learnt);
  std::ptrdiff_t twins = 0;
  for (auto each = learnt.begin(); each != learnt.end();) {
    const auto other = std::find_if(each, learnt.end(), [&](auto one) { return one != *each; });
    if (other - each > 1) twins += other - each;
    each = other;
  }
  for (const DataPart part : {DataPart::validation, DataPart::test}) {
    const auto shared = std::ranges::count_if(
        fingerprints_of(split[part]),
        [&](std::uint64_t fingerprint) { return std::ranges::binary_search(learnt, fingerprint); });
    // Some may be the same by chance: about as many as have a twin within the train part.
    constexpr double worth_telling = 0.1;
    const double share = static_cast<double>(shared) / static_cast<double>(split[part].count());
    const double by_chance = static_cast<double>(twins) / static_cast<double>(split.train.count());
    if (shared == 0 || share < std::max(worth_telling, 2.0 * by_chance)) continue;
    remarks.push_back({.code = "shared-rows",
                       .text = fmt::format(
                           "{} of {} of the {} part are in the train part, too, number by number: "
                           "its figures say little about new rows",
                           shared, counted(split[part].count(), "row"), word(part)),
                       .remedy = "take them out of one of the parts"});
  }
}

void add_remarks_on_features(const RowSet& train, std::vector<Remark>& remarks) {
  if (!train.data().is_table()) return;
  std::vector<NumberSummary> features = summarise(train).features;
  std::erase_if(features, [&](const NumberSummary& feature) {
    if (feature.low < feature.high) return false;
    remarks.push_back(
        {.code = "constant-feature",
         .text = fmt::format(
             "the feature '{}' is {} in every row of the train part: it carries no information",
             feature.name, format_number(feature.low)),
         .remedy = "leave it out of the features"});
    return true;
  });
  if (!train.data().preparation.empty() || features.size() < 2) return;
  const auto [small, large] = std::ranges::minmax(features, {}, &NumberSummary::size);
  if (large.size() < very_different * small.size()) return;
  remarks.push_back({.code = "features-differ",
                     .text = fmt::format("'{}' is about {}, '{}' about {}: {} times as large. No "
                                         "single rate suits the weights of both",
                                         large.name, format_number(large.size(), 3), small.name,
                                         format_number(small.size(), 3),
                                         format_number(large.size() / small.size(), 2)),
                     .remedy = "scale the features",
                     .advice = {"scale", "standard"}});
}

}  // namespace

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
           .remedy = "if they separate thousands, remove them"}};
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
  if (const RowKind& kind = kind_of(split.data()); kind.remarks_on != nullptr) {
    for (Remark& remark : kind.remarks_on(split))
      remarks.push_back(std::move(remark));
  }
  add_remarks_on_features(split.train, remarks);
  add_shared_rows(split, remarks);
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

std::vector<Remark> remarks_on_choosing(const Split& split) {
  if (split.has(DataPart::validation)) return {};
  const Remark none = {
      .code = "no-validation",
      .text = "there is no validation part: settings are compared by the train part",
      .remedy = "keep a part of the rows for validation",
      .advice = {"validation", "0.2"}};
  if (!split.has(DataPart::test)) return {none};
  return {none,
          {.code = "chosen-by-test",
           .text = "there is a test part and no validation part: choosing by the test part makes "
                   "its figures too optimistic",
           .remedy = "choose by a validation part, and use the test part once",
           .advice = {"validation", "0.2"}}};
}

std::vector<Remark> remarks_on_test_figures(const Split& split) {
  if (!split.has(DataPart::test) || !split.has(DataPart::validation)) return {};
  return {{.code = "chosen-by-test",
           .text = "the test figures of all settings are shown: those of a setting that is chosen "
                   "by them are too optimistic",
           .remedy = "choose by the validation part, and use the test part once"}};
}

}  // namespace lattice
