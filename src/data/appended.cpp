#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <numeric>
#include <optional>

#include "lattice/data/dataset.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice {
namespace {

/// Refuses datasets that cannot be one: the words of both for what has to be the same.
void check_same(std::string_view what, const Dataset& first, const Dataset& second,
                const std::vector<std::string>& of_first,
                const std::vector<std::string>& of_second) {
  if (of_first == of_second) return;
  throw NameError({.what = fmt::format("{} has other {} than {}", second.name, what, first.name),
                   .expected = fmt::format("{}", fmt::join(of_first, ", ")),
                   .found = fmt::format("{}", fmt::join(of_second, ", "))});
}

void check_can_be_one(const Dataset& first, const Dataset& second) {
  const std::string both = fmt::format("{} and {}", first.name, second.name);
  if (first.example() != second.example()) {
    throw ShapeError({.what = fmt::format("the examples of {} differ in shape", both),
                      .expected = to_string(first.example()),
                      .found = to_string(second.example())});
  }
  if (first.is_table())
    check_same("features", first, second, feature_names_of(first.columns_or_features()),
               feature_names_of(second.columns_or_features()));
  check_same("targets", first, second, first.all_target_names(), second.all_target_names());
  if (first.has_classes() != second.has_classes()) {
    throw SettingError(
        {.what = fmt::format("{} have different kinds of targets", both),
         .expected = "classes in both, or numbers in both",
         .found = first.has_classes() ? "classes, then numbers" : "numbers, then classes"});
  }
  for (const Dataset* const each : {&first, &second}) {
    if (each->is_connected()) {
      throw SettingError({.what = fmt::format("rows cannot be added to {}", each->name),
                          .expected = "rows that are not connected",
                          .found = "connected rows",
                          .remedy = "put all rows into one dataset, with their connections"});
    }
    if (!each->preparation.empty() || !each->target_preparation.empty()) {
      throw SettingError({.what = each->name + " has been scaled already",
                          .expected = "datasets as they were measured",
                          .found = "scaled ones",
                          .remedy = "scale after rows are put together"});
    }
  }
}

/// The rows that some numbers name; all `rows` where a list of none means all.
std::vector<std::int64_t> some_or_all(const std::vector<std::int64_t>& some, std::int64_t rows) {
  if (!some.empty()) return some;
  std::vector<std::int64_t> all(static_cast<std::size_t>(rows));
  std::iota(all.begin(), all.end(), 0);
  return all;
}

void add_after(std::vector<std::int64_t>& rows, const std::vector<std::int64_t>& more,
               std::int64_t first) {
  rows.reserve(rows.size() + more.size());
  for (const std::int64_t row : more)
    rows.push_back(row + first);
}

/// The classes of the second among those of the first, which get the names that only it has.
Tensor classes_of_both(const Dataset& first, const Dataset& second,
                       std::vector<std::string>& names) {
  std::vector<double> numbers = first.classes.numbers();
  std::vector<double> number_of;
  for (const std::string& name : second.all_class_names()) {
    auto found = std::ranges::find(names, name);
    if (found == names.end()) found = names.insert(names.end(), name);
    number_of.push_back(static_cast<double>(found - names.begin()));
  }
  for (const double number : second.classes.numbers())
    numbers.push_back(number_of[static_cast<std::size_t>(number)]);
  return tensor(first.classes.shape().with_extent(0, std::ssize(numbers)), numbers)
      .in(first.classes.precision());
}

}  // namespace

Dataset appended(const Dataset& first, const Dataset& second) {
  check_can_be_one(first, second);
  const std::int64_t rows = first.rows();
  Dataset both = first;
  both.features = first.features.followed_by(second.features);
  if (first.has_classes()) {
    both.class_names = first.all_class_names();
    both.classes = classes_of_both(first, second, both.class_names);
  } else {
    both.targets = Examples(first.targets).followed_by(second.targets).all();
  }
  const bool some_are_known = !first.known.empty() || !second.known.empty();
  if (some_are_known) {
    both.known = some_or_all(first.known, rows);
    add_after(both.known, some_or_all(second.known, second.rows()), rows);
  }
  add_after(both.unlabelled, second.unlabelled, rows);
  for (const FixedPart& fixed : second.fixed_parts) {
    if (both.fixed_part(fixed.part) == nullptr)
      both.fixed_parts.push_back({.part = fixed.part, .name = fixed.name});
    add_after(std::ranges::find(both.fixed_parts, fixed.part, &FixedPart::part)->rows, fixed.rows,
              rows);
  }
  if (!first.row_names.empty() || !second.row_names.empty()) {
    both.row_names.clear();
    for (const Dataset* const each : {&first, &second}) {
      for (std::int64_t row = 0; row < each->rows(); ++row)
        both.row_names.push_back(each->row_name(row));
    }
  }
  const auto has_weights = [](const Dataset& data) {
    return find_side(data.side, row_weights_name) != nullptr;
  };
  if (!has_weights(first) && !has_weights(second)) return both;
  std::vector<double> weights;
  for (const Dataset* const each : {&first, &second}) {
    const Tensor* const numbers = find_side(each->side, row_weights_name);
    for (std::int64_t row = 0; row < each->rows(); ++row)
      weights.push_back(numbers == nullptr ? 1.0 : numbers->at_offset(row));
  }
  return both.with_row_weights(tensor({both.rows()}, weights));
}

Dataset with_part(const Dataset& data, DataPart part, const Dataset& rows) {
  if (part == DataPart::train || data.fixed_part(part) != nullptr) {
    throw SettingError({.what = fmt::format("the {} part cannot be added", word(part)),
                        .expected = "a validation or a test part, once",
                        .found = part == DataPart::train ? "the train part" : "a second one"});
  }
  check_can_be_one(data, rows);
  const std::vector<std::string> known = data.all_class_names();
  for (std::int64_t row = 0; rows.has_classes() && row < rows.rows(); ++row) {
    if (!rows.has_truth(row)) continue;
    const std::string name =
        rows.class_name(static_cast<std::int64_t>(rows.classes.at_offset(row)));
    if (std::ranges::find(known, name) != known.end()) continue;
    Trouble trouble = not_among(
        fmt::format("the class '{}' is in the {} part only", name, word(part)), name, known);
    trouble.where = fmt::format("{}, {}", rows.name, rows.row_name(row));
    throw NameError(trouble);
  }
  Dataset all = appended(data, rows);
  all.known = data.known;
  if (data.has_classes()) all.class_names = known;
  FixedPart fixed{.part = part, .name = rows.name};
  add_after(fixed.rows, some_or_all({}, rows.rows()), data.rows());
  all.fixed_parts.push_back(std::move(fixed));
  return all;
}

}  // namespace lattice
