#include "lattice/data/dataset.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <boost/container_hash/hash.hpp>
#include <cmath>
#include <map>

#include "data/hash.hpp"
#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {

std::vector<std::string> feature_names_of(std::span<const Column> columns) {
  std::vector<std::string> names;
  for (const Column& column : columns) {
    if (column.words.empty()) names.push_back(column.name);
    for (const std::string& word : column.words)
      names.push_back(column.name + "=" + word);
  }
  return names;
}

namespace {

std::string name_at(const std::vector<std::string>& names, Role role, std::int64_t place) {
  const auto at = static_cast<std::size_t>(place);
  return at < names.size() ? names[at] : fmt::format("{} {}", word(role), place);
}

/// The number of a class. @throws NumberError when it cannot be one.
std::int64_t class_at(const Tensor& classes, std::int64_t row) {
  constexpr double most = 1e9;
  const double number = classes.at_offset(row);
  if (number >= 0.0 && number <= most && number == std::floor(number))
    return static_cast<std::int64_t>(number);
  throw NumberError({.what = "a class number is not valid",
                     .where = fmt::format("row {}", row),
                     .expected = "a whole number from 0: 0 for the first class, 1 for the next",
                     .found = format_number(number)});
}

void check_same_rows(const Examples& features, const Tensor& truth) {
  const bool has_examples = !features.empty() && features.shape().rank() >= 2;
  if (!has_examples || truth.empty() || truth.shape().rank() == 0) {
    throw ShapeError({.what = "a dataset is made of the features of examples and of what is to be "
                              "said of each",
                      .expected = "features [example × …], and a class or a number a row",
                      .found = fmt::format(
                          "{} and {}", features.empty() ? "nothing" : to_string(features.shape()),
                          truth.empty() ? "nothing" : to_string(truth.shape()))});
  }
  if (features.shape()[0] == truth.shape()[0]) return;
  throw ShapeError({.what = "features and targets differ in the number of rows",
                    .expected = fmt::format("{} rows, as the features have", features.shape()[0]),
                    .found = fmt::format("{}", truth.shape()[0])});
}

void check_names(const std::vector<std::string>& names, std::int64_t count, std::string_view of) {
  if (names.empty() || std::ssize(names) == count) return;
  throw ShapeError({.what = fmt::format("the number of names does not match the {}", of),
                    .expected = fmt::format("{} names, or none", count),
                    .found = fmt::format("{}", names.size())});
}

Dataset dataset_of(const Examples& features, const DatasetNames& names, std::int64_t targets) {
  const bool is_table = features.shape().rank() == 2;
  check_names(names.features, is_table ? features.shape()[1] : 0, "features");
  check_names(names.targets, targets, "targets");
  Examples examples = features;
  examples.label(0, Role::example);
  if (is_table) examples.label(1, Role::feature);
  Dataset data{.name = names.name,
               .features = examples,
               .feature_names = names.features,
               .target_names = names.targets};
  data.feature_names = data.all_feature_names();
  return data;
}

std::string with_unit(const std::string& name, const std::vector<std::string>& units,
                      std::int64_t of) {
  const auto at = static_cast<std::size_t>(of);
  const bool has_unit = at < units.size() && !units[at].empty();
  return has_unit ? fmt::format("{} ({})", name, units[at]) : name;
}

/// A matrix between rows, of some of them alone.
Tensor among(const Tensor& all, std::span<const std::int64_t> rows) {
  std::multimap<std::int64_t, std::int64_t> places;
  for (std::size_t at = 0; at < rows.size(); ++at)
    places.emplace(rows[at], static_cast<std::int64_t>(at));
  std::vector<MatrixEntry> entries;
  for (const auto& [row, to] : places) {
    for (const std::int64_t column : stored_along(all, 1, row)) {
      const auto [first, end] = places.equal_range(column);
      for (auto from = first; from != end; ++from)
        entries.push_back({to, from->second, all.at({row, column})});
    }
  }
  const std::int64_t count = std::ssize(rows);
  return sparse_matrix(all.shape().with_extent(0, count).with_extent(1, count), entries,
                       all.precision());
}

}  // namespace

const Tensor* find_side(std::span<const SideInput> side, std::string_view name) {
  const auto found = std::ranges::find(side, name, &SideInput::name);
  return found == side.end() ? nullptr : &found->value;
}

bool Dataset::has_truth(std::int64_t row) const {
  return !std::ranges::binary_search(unlabelled, row);
}

bool Dataset::is_known(std::int64_t row) const {
  return known.empty() ? has_truth(row) : std::ranges::binary_search(known, row);
}

const FixedPart* Dataset::fixed_part(DataPart part) const {
  const auto found = std::ranges::find(fixed_parts, part, &FixedPart::part);
  return found == fixed_parts.end() ? nullptr : &*found;
}

bool Dataset::is_connected() const {
  return std::ranges::any_of(side, &SideInput::between_rows);
}

bool Dataset::has_own_features() const {
  return is_table() && !features.are_bytes() && features.all().is_sparse() &&
         feature_count() == rows();
}

std::string Dataset::row_name(std::int64_t row) const {
  const auto at = static_cast<std::size_t>(row);
  if (at < row_names.size()) return row_names[at];
  const Role role = features.empty() ? Role::example : features.shape().role(0);
  const bool is_told = role != Role::example && role != Role::none;
  return fmt::format("{} {}", is_told ? word(role) : "row", row);
}

Shape Dataset::example() const {
  Shape one = features.shape().without_first_axis();
  if (one.rank() == 1 && one.role(0) == Role::none) one.set_role(0, Role::feature);
  return one;
}

std::int64_t Dataset::class_count() const {
  std::int64_t count = std::ssize(class_names);
  for (std::int64_t row = 0; has_classes() && row < classes.count(); ++row)
    count = std::max(count, class_at(classes, row) + 1);
  return count;
}

std::string Dataset::class_name(std::int64_t number) const {
  return name_at(class_names, Role::class_, number);
}

std::string Dataset::feature_name(std::int64_t feature) const {
  return name_at(feature_names, Role::feature, feature);
}

std::string Dataset::target_name(std::int64_t target) const {
  const bool is_alone = has_classes() || targets.empty() || targets.shape()[1] == 1;
  if (is_alone && target_names.empty()) return "target";
  return name_at(target_names, Role::target, target);
}

std::vector<std::string> Dataset::all_class_names() const {
  std::vector<std::string> names;
  const std::int64_t count = class_count();
  for (std::int64_t number = 0; number < count; ++number)
    names.push_back(class_name(number));
  return names;
}

std::vector<std::string> Dataset::all_feature_names() const {
  std::vector<std::string> names;
  for (std::int64_t feature = 0; feature < feature_count(); ++feature)
    names.push_back(feature_name(feature));
  return names;
}

std::vector<std::string> Dataset::all_target_names() const {
  std::vector<std::string> names;
  const std::int64_t count = has_classes() || targets.empty() ? 1 : targets.shape()[1];
  for (std::int64_t target = 0; target < count; ++target)
    names.push_back(target_name(target));
  return names;
}

std::string Dataset::label_of(std::int64_t feature) const {
  return with_unit(feature_name(feature), feature_units, feature);
}

std::string Dataset::label_of_target(std::int64_t target) const {
  return with_unit(target_name(target), target_units, target);
}

std::vector<Column> Dataset::columns_or_features() const {
  if (!columns.empty()) return columns;
  std::vector<Column> result;
  for (const std::string& feature : all_feature_names())
    result.push_back({.name = feature});
  return result;
}

Dataset Dataset::in(Precision precision) const {
  Dataset result = *this;
  result.features = features.in(precision);
  if (!targets.empty()) result.targets = targets.in(precision);
  if (!classes.empty()) result.classes = classes.in(precision);
  for (SideInput& each : result.side)
    each.value = each.value.in(precision);
  result.preparation = preparation.in(precision);
  result.target_preparation = target_preparation.in(precision);
  return result;
}

Dataset Dataset::taking(std::span<const std::int64_t> rows) const {
  Dataset result = *this;
  result.features = features.taking(rows);
  if (!targets.empty()) result.targets = targets.rows(rows);
  if (!classes.empty()) result.classes = classes.rows(rows);
  for (SideInput& each : result.side) {
    if (each.by_row) each.value = each.value.rows(rows);
    if (each.between_rows) each.value = among(each.value, rows);
  }
  std::map<std::int64_t, std::int64_t> places;
  for (std::size_t at = 0; at < rows.size(); ++at)
    places.emplace(rows[at], static_cast<std::int64_t>(at));
  std::vector<std::vector<std::int64_t>*> of_some = {&result.known, &result.unlabelled};
  for (FixedPart& fixed : result.fixed_parts)
    of_some.push_back(&fixed.rows);
  for (std::vector<std::int64_t>* const some : of_some) {
    std::erase_if(*some, [&](std::int64_t row) { return !places.contains(row); });
    for (std::int64_t& row : *some)
      row = places.at(row);
    std::ranges::sort(*some);
  }
  std::erase_if(result.fixed_parts, [](const FixedPart& fixed) { return fixed.rows.empty(); });
  result.row_names.clear();
  for (const std::int64_t row : rows) {
    if (!row_names.empty()) result.row_names.push_back(row_names[static_cast<std::size_t>(row)]);
  }
  return result;
}

Dataset Dataset::prepared_by(const Preparation& of_features, const Preparation& of_targets) const {
  const bool twice = (!of_features.empty() && !preparation.empty()) ||
                     (!of_targets.empty() && !target_preparation.empty());
  if (twice) {
    throw SettingError({.what = name + " has been scaled already",
                        .expected = "a table as it was measured",
                        .found = "a table that carries its scaling factors",
                        .remedy = "scale the raw table once, with the factors of the train part"});
  }
  Dataset result = *this;
  const std::vector<std::int64_t> first = {0};
  if (!of_features.empty()) {
    static_cast<void>(of_features.prepared(features.rows(first)));
    result.preparation = of_features;
  }
  if (!of_targets.empty() && !targets.empty()) {
    static_cast<void>(of_targets.prepared(targets.rows(first)));
    result.target_preparation = of_targets;
  }
  return result;
}

Dataset Dataset::as_measured() const {
  Dataset result = *this;
  result.preparation = {};
  result.target_preparation = {};
  return result;
}

double Dataset::row_weight(std::int64_t row) const {
  if (!has_truth(row)) return 0.0;
  const Tensor* const numbers = find_side(side, row_weights_name);
  return numbers == nullptr ? 1.0 : numbers->at_offset(row);
}

Dataset Dataset::with_row_weights(const Tensor& numbers) const {
  if (numbers.shape() != Shape{rows()}) {
    throw ShapeError({.what = "row weights need one number per row",
                      .expected = fmt::format("[{}]", rows()),
                      .found = to_string(numbers.shape())});
  }
  bool any = false;
  for (std::int64_t row = 0; row < rows(); ++row) {
    const double number = numbers.at_offset(row);
    any = any || number > 0.0;
    if (std::isfinite(number) && number >= 0.0) continue;
    throw NumberError({.what = "a row weight is too large",
                       .where = fmt::format("row {}", row),
                       .expected = "0 or more",
                       .found = format_number(number)});
  }
  if (!any) {
    throw NumberError({.what = "no row counts",
                       .expected = "a number above 0 for one row or more",
                       .found = "0 for every row"});
  }
  Dataset result = *this;
  std::erase_if(result.side, [](const SideInput& each) { return each.name == row_weights_name; });
  result.side.push_back({.name = std::string(row_weights_name),
                         .value = numbers.in(features.precision()).with({Role::example}),
                         .by_row = true});
  return result;
}

Examples each_its_own(std::int64_t rows, Precision precision) {
  std::vector<MatrixEntry> own;
  own.reserve(static_cast<std::size_t>(rows));
  for (std::int64_t row = 0; row < rows; ++row)
    own.push_back({row, row});
  return sparse_matrix(Shape{rows, rows}.with({Role::example, Role::feature}), own, precision);
}

std::uint64_t fingerprint(const Dataset& data) {
  Hash hash;
  const auto take = [&](double number) { hash.take(std::bit_cast<std::uint64_t>(number)); };
  const auto take_all = [&](const auto& numbers) {
    for (std::int64_t at = 0; at < numbers.count(); ++at)
      take(numbers.at_offset(at));
  };
  const auto take_kept = [&](const Tensor& matrix) {
    if (!matrix.is_sparse()) return take_all(matrix);
    for (const MatrixEntry& entry : entries_of(matrix)) {
      take(static_cast<double>(entry.row));
      take(static_cast<double>(entry.column));
      take(entry.number);
    }
  };
  if (data.features.source() != nullptr) {
    for (std::int64_t row = 0; row < data.rows(); ++row)
      hash.take(data.features.source()->fingerprint(data.features.number_in_source(row)));
  } else if (data.features.are_bytes()) {
    take_all(data.features);
  } else {
    take_kept(data.features.all());
  }
  take_all(data.truth());
  for (const std::int64_t row : data.unlabelled)
    take(static_cast<double>(row));
  for (const SideInput& each : data.side)
    take_kept(each.value);
  for (const FixedPart& fixed : data.fixed_parts) {
    take(static_cast<double>(fixed.part));
    for (const std::int64_t row : fixed.rows)
      take(static_cast<double>(row));
  }
  return hash.value();
}

std::uint64_t fingerprint_of_row(const Dataset& data, std::int64_t row) {
  std::size_t hash = 0;
  std::vector<double> numbers;
  const auto take = [&](const Examples& examples) {
    numbers.resize(static_cast<std::size_t>(examples.count() / data.rows()));
    examples.copy_numbers(row, numbers);
    for (const double number : numbers)
      boost::hash_combine(hash, std::bit_cast<std::uint64_t>(number));
  };
  if (const ExampleSource* const source = data.features.source(); source != nullptr) {
    boost::hash_combine(hash, source->fingerprint(data.features.number_in_source(row)));
  } else if (data.features.are_bytes()) {
    std::vector<std::uint8_t> bytes(static_cast<std::size_t>(data.features.count() / data.rows()));
    data.features.copy_bytes(row, bytes);
    boost::hash_combine(hash, hash_of(bytes));
  } else {
    take(data.features);
  }
  take(data.truth());
  return hash;
}

Dataset dataset_of_classes(const Examples& features, const Tensor& classes,
                           const DatasetNames& names) {
  check_same_rows(features, classes);
  if (classes.shape().rank() != 1) {
    throw ShapeError({.what = "each row needs one class number",
                      .expected = fmt::format("[{}]", features.shape()[0]),
                      .found = to_string(classes.shape()),
                      .remedy = "of one-hot rows, argmax gives the numbers"});
  }
  Dataset data = dataset_of(features, names, 1);
  data.classes = classes.with({Role::example});
  data.class_names = names.classes;
  const std::int64_t count = data.class_count();
  if (!names.classes.empty() && count > std::ssize(names.classes)) {
    throw NumberError({.what = "a class has no name",
                       .expected = fmt::format("classes from 0 to {}", names.classes.size() - 1),
                       .found = fmt::format("class {}", count - 1)});
  }
  data.class_names = data.all_class_names();
  return data;
}

Dataset dataset_of_numbers(const Examples& features, const Tensor& targets,
                           const DatasetNames& names) {
  check_same_rows(features, targets);
  if (targets.shape().rank() > 2) {
    throw ShapeError({.what = "numeric targets need a row of numbers for each example",
                      .expected = "[example × target]",
                      .found = to_string(targets.shape())});
  }
  const std::int64_t rows = targets.shape()[0];
  const std::int64_t width = targets.count() / rows;
  Dataset data = dataset_of(features, names, width);
  data.targets = targets.reshaped({rows, width}).with({Role::example, Role::target});
  return data;
}

}  // namespace lattice
