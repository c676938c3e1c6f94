#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/scaling.hpp"
#include "lattice/tensor/axis_names.hpp"
#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// A column of a table as people wrote it, and how it becomes features: a column of numbers is one
/// feature; a column of words is a feature for each word, 1 in the rows that say it and 0
/// elsewhere.
struct Column {
  std::string name;
  std::vector<std::string> words = {};  ///< in order; empty for a column of numbers

  [[nodiscard]] std::size_t feature_count() const { return words.empty() ? 1 : words.size(); }

  friend bool operator==(const Column&, const Column&) = default;
};

/// What the features made from columns are called: `hours`, and for words `clay=red`, `clay=white`.
[[nodiscard]] std::vector<std::string> feature_names_of(std::span<const Column> columns);

/// A table to learn from, row by row: features, and either numbers or classes to predict.
struct Dataset {
  std::string name;
  Tensor features;  ///< [example × feature]
  Tensor targets =
      {};  ///< [example × target], the numbers to predict; empty where classes are learnt
  Tensor classes = {};  ///< [example], class numbers from 0; empty where numbers are learnt
  std::vector<std::string> feature_names = {};
  std::string target_name = {};
  std::vector<std::string> feature_units = {};  ///< `mm`, empty for a plain number; or none at all
  std::string target_unit = {};
  std::vector<std::string> class_names = {};  ///< the name of class 0, of class 1 …

  /// How the features came from columns; empty when each feature is a column of its own.
  std::vector<Column> columns = {};

  /// The factors that the features, and the numbers to predict, have been scaled with.
  std::optional<Scaling> scaling = std::nullopt;
  std::optional<Scaling> target_scaling = std::nullopt;

  [[nodiscard]] std::int64_t rows() const { return features.shape()[0]; }
  [[nodiscard]] bool has_classes() const { return !classes.empty(); }
  [[nodiscard]] std::int64_t class_count() const { return std::ssize(class_names); }

  /// A feature with its unit, as axes are labelled: `thickness (mm)`.
  [[nodiscard]] std::string label_of(std::int64_t feature) const;

  /// The classes, or the numbers to predict.
  [[nodiscard]] const Tensor& truth() const { return has_classes() ? classes : targets; }

  [[nodiscard]] AxisNames axis_names() const { return {feature_names, {target_name}, class_names}; }

  /// How many rows each class has, in the order of `class_names`.
  [[nodiscard]] std::vector<std::int64_t> class_sizes() const;

  /// The columns the features came from; one of numbers for each feature when none are told.
  [[nodiscard]] std::vector<Column> columns_or_features() const;

  /// The same table in another precision.
  [[nodiscard]] Dataset in(Precision precision) const;

  /// These rows, in this order. @throws IndexError when one is not there.
  [[nodiscard]] Dataset taking(std::span<const std::int64_t> rows) const;

  /// The same rows with scaled features, and with scaled numbers to predict; the factors travel
  /// along. @throws SettingError when the table has been scaled before, ShapeError when the factors
  /// do not fit.
  [[nodiscard]] Dataset scaled_with(const std::optional<Scaling>& features,
                                    const std::optional<Scaling>& targets = std::nullopt) const;
};

}  // namespace lattice
