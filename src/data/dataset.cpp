#include "lattice/data/dataset.hpp"

#include "lattice/tensor/error.hpp"

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

std::string Dataset::label_of(std::int64_t feature) const {
  const auto at = static_cast<std::size_t>(feature);
  const std::string word =
      at < feature_names.size() ? feature_names[at] : "feature " + std::to_string(feature);
  const bool has_unit = at < feature_units.size() && !feature_units[at].empty();
  return has_unit ? word + " (" + feature_units[at] + ")" : word;
}

std::vector<std::int64_t> Dataset::class_sizes() const {
  std::vector<std::int64_t> sizes(class_names.size());
  for (std::int64_t row = 0; row < classes.count(); ++row)
    ++sizes.at(static_cast<std::size_t>(classes.at_offset(row)));
  return sizes;
}

std::vector<Column> Dataset::columns_or_features() const {
  if (!columns.empty()) return columns;
  std::vector<Column> result;
  for (const std::string& feature : feature_names)
    result.push_back({.name = feature});
  return result;
}

Dataset Dataset::in(Precision precision) const {
  Dataset result = *this;
  result.features = features.in(precision);
  if (!targets.empty()) result.targets = targets.in(precision);
  if (!classes.empty()) result.classes = classes.in(precision);
  if (scaling) result.scaling = scaling->in(precision);
  if (target_scaling) result.target_scaling = target_scaling->in(precision);
  return result;
}

Dataset Dataset::taking(std::span<const std::int64_t> rows) const {
  Dataset result = *this;
  result.features = features.rows(rows);
  if (!targets.empty()) result.targets = targets.rows(rows);
  if (!classes.empty()) result.classes = classes.rows(rows);
  return result;
}

Dataset Dataset::scaled_with(const std::optional<Scaling>& of_features,
                             const std::optional<Scaling>& of_targets) const {
  if ((of_features && scaling) || (of_targets && target_scaling)) {
    throw SettingError({.what = name + " has been scaled already",
                        .expected = "a table as it was measured",
                        .found = "a table that carries its scaling factors",
                        .remedy = "scale the raw table once, with the factors of the train part"});
  }
  Dataset result = *this;
  if (of_features) {
    result.features = of_features->scaled(features);
    result.scaling = of_features;
  }
  if (of_targets && !targets.empty()) {
    result.targets = of_targets->scaled(targets);
    result.target_scaling = of_targets;
  }
  return result;
}

}  // namespace lattice
