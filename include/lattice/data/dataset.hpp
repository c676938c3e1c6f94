#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/data_part.hpp"
#include "lattice/data/examples.hpp"
#include "lattice/data/preparation.hpp"
#include "lattice/tensor/axis_names.hpp"
#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// A column of a table and how it becomes features: a column of numbers is one feature; a column of
/// words is one feature for each word, 1 in the rows with that word and 0 elsewhere.
struct Column {
  std::string name;
  std::vector<std::string> words = {};  ///< in order; empty for a column of numbers

  [[nodiscard]] std::size_t feature_count() const { return words.empty() ? 1 : words.size(); }

  friend bool operator==(const Column&, const Column&) = default;
};

/// The names of the features made from columns: `hours`, and for words `clay=red`, `clay=white`.
[[nodiscard]] std::vector<std::string> feature_names_of(std::span<const Column> columns);

/// Data that are neither features nor truth: how rows are connected, row weights. They are on the
/// worksheet under their name, where layers and losses find them.
struct SideInput {
  std::string name;
  Tensor value;         ///< [example × …] if `by_row`, else of any shape
  bool by_row = false;  ///< whether each row has its own entry

  /// Whether it connects rows, [row × row]: then all rows are in one batch, whichever of them
  /// count.
  bool between_rows = false;
};

/// The name of the side input of row weights in losses and figures: [example], 0 or more.
inline constexpr std::string_view row_weights_name = "row_weights";

/// The side input with a name; null if there is none.
[[nodiscard]] const Tensor* find_side(std::span<const SideInput> side, std::string_view name);

/// Rows that belong to one part of the data from the outset, such as those of a test file.
struct FixedPart {
  DataPart part = DataPart::test;       ///< validation or test
  std::string name = {};                ///< of their source, such as a file
  std::vector<std::int64_t> rows = {};  ///< each once and in order
};

/// Examples, row by row: features, and either numbers or classes to predict. `dataset_of_classes`
/// and `dataset_of_numbers` make one from your own arrays and check them.
///
/// An example may have any shape: [feature] in a table, [row × column × channel] for a picture.
/// Names are optional: the defaults are `feature 0`, `class 1`.
struct Dataset {
  std::string name;
  Examples features;    ///< [example × …], raw
  Tensor targets = {};  ///< [example × target], the numbers to predict; empty for classes
  Tensor classes = {};  ///< [example], class numbers from 0; empty for numeric targets
  std::vector<std::string> feature_names = {};  ///< of a table
  std::vector<std::string> target_names = {};   ///< of each number to predict, or of the classes
  std::vector<std::string> feature_units =
      {};  ///< `mm`, empty for a plain number; or no units at all
  std::vector<std::string> target_units = {};  ///< of the numbers to predict
  std::vector<std::string> class_names = {};   ///< the name of class 0, of class 1 …
  std::vector<std::string> class_labels = {};  ///< their labels in files, if these are numbers

  /// How the features came from columns; empty when each feature is a column of its own.
  std::vector<Column> columns = {};

  std::vector<SideInput> side = {};

  std::vector<std::string> row_names = {};  ///< of each row, if they have names

  /// The rows whose truth may be used in training, if it is known for some only, each once and in
  /// order; empty for all.
  std::vector<std::int64_t> known = {};

  /// Unlabelled rows, each once and in order: their stored 0 is not a truth. They are computed like
  /// any other row, but count in no loss and no figure.
  std::vector<std::int64_t> unlabelled = {};

  /// Parts whose rows are fixed, each once: a split leaves them as they are.
  std::vector<FixedPart> fixed_parts = {};

  /// The preparations of features, and of numbers to predict, for a batch.
  Preparation preparation = {};
  Preparation target_preparation = {};

  [[nodiscard]] std::int64_t rows() const { return features.empty() ? 0 : features.shape()[0]; }
  [[nodiscard]] bool has_classes() const { return !classes.empty(); }

  /// The shape of one example. A single axis without a role is features.
  [[nodiscard]] Shape example() const;

  /// Whether a row is labelled.
  [[nodiscard]] bool has_truth(std::int64_t row) const;

  /// Whether the truth of a row may be used in training.
  [[nodiscard]] bool is_known(std::int64_t row) const;

  /// A part with fixed rows; null if there is none.
  [[nodiscard]] const FixedPart* fixed_part(DataPart part) const;

  /// The number of known rows.
  [[nodiscard]] std::int64_t known_count() const {
    return known.empty() ? rows() - std::ssize(unlabelled) : std::ssize(known);
  }

  /// Whether rows are connected, like the nodes of a graph.
  [[nodiscard]] bool is_connected() const;

  /// Whether each row is its own feature (`each_its_own`).
  [[nodiscard]] bool has_own_features() const;

  /// Whether an example is a row of features, which may have names.
  [[nodiscard]] bool is_table() const { return features.shape().rank() == 2; }

  /// The number of features of a table; 0 for examples of another shape.
  [[nodiscard]] std::int64_t feature_count() const { return is_table() ? features.shape()[1] : 0; }

  /// The number of classes: of those with a name, or as the highest class number requires.
  /// @throws NumberError for a class that is not a whole number from 0.
  [[nodiscard]] std::int64_t class_count() const;

  /// The name of a class, a feature or a target, or its default.
  [[nodiscard]] std::string class_name(std::int64_t number) const;
  [[nodiscard]] std::string feature_name(std::int64_t feature) const;
  [[nodiscard]] std::string target_name(std::int64_t target = 0) const;

  /// The names of all classes, of all features of a table, and of all targets: one for classes.
  [[nodiscard]] std::vector<std::string> all_class_names() const;
  [[nodiscard]] std::vector<std::string> all_feature_names() const;
  [[nodiscard]] std::vector<std::string> all_target_names() const;

  /// A feature, or a number to predict, with its unit, for the label of an axis: `thickness (mm)`.
  [[nodiscard]] std::string label_of(std::int64_t feature) const;
  [[nodiscard]] std::string label_of_target(std::int64_t target) const;

  /// The classes, or the raw numbers to predict.
  [[nodiscard]] const Tensor& truth() const { return has_classes() ? classes : targets; }

  [[nodiscard]] AxisNames axis_names() const {
    return {feature_names, target_names, class_names, row_names};
  }

  /// The name of a row; without one `row 5`, or by the role of the axis: `node 5`.
  [[nodiscard]] std::string row_name(std::int64_t row) const;

  /// The columns of the features; one of numbers for each feature if `columns` is empty.
  [[nodiscard]] std::vector<Column> columns_or_features() const;

  /// The weight of a row in losses and figures: 0 without truth, 1 without row weights.
  [[nodiscard]] double row_weight(std::int64_t row) const;

  /// The same with row weights.
  /// @param numbers [example], 0 or more, at least one above 0
  /// @throws ShapeError, NumberError otherwise.
  [[nodiscard]] Dataset with_row_weights(const Tensor& numbers) const;

  /// The same examples in another precision.
  [[nodiscard]] Dataset in(Precision precision) const;

  /// A copy of these rows, in this order, with the connections among them. @throws IndexError
  /// when one does not exist.
  [[nodiscard]] Dataset taking(std::span<const std::int64_t> rows) const;

  /// The same with features, and numbers to predict, prepared in every batch.
  /// @throws SettingError when they are prepared already, ShapeError when it does not fit.
  [[nodiscard]] Dataset prepared_by(const Preparation& features,
                                    const Preparation& targets = {}) const;

  /// The same without preparation.
  [[nodiscard]] Dataset as_measured() const;
};

/// Features for rows that have none: the identity matrix [row × row], sparse.
[[nodiscard]] Examples each_its_own(std::int64_t rows, Precision precision = Precision::double_);

/// The examples of two datasets as one, those of the second after those of the first: the same
/// features or the same shape, and the same targets. Classes are matched by name; those that only
/// the second has follow those of the first.
/// @throws ShapeError for examples of another shape, NameError for other features or targets,
///         SettingError for connected rows, for prepared ones, and for numbers beside classes.
[[nodiscard]] Dataset appended(const Dataset& first, const Dataset& second);

/// A dataset whose validation or test part is another dataset:
///
/// @code
/// const Dataset may = demo_set("glazes", 200, 1);
/// const Dataset with_june = with_part(may, DataPart::test, demo_set("glazes", 50, 2));
/// @endcode
/// @throws as `appended` does; NameError for a class that only the part has; SettingError for the
///         train part, and for a part that is fixed already.
[[nodiscard]] Dataset with_part(const Dataset& data, DataPart part, const Dataset& rows);

/// A hash of all bits of a dataset.
/// Source: FNV-1a (Fowler, Noll and Vo).
[[nodiscard]] std::uint64_t fingerprint(const Dataset& data);

/// A hash of the numbers of one row and of its truth: rows that are the same have the same.
[[nodiscard]] std::uint64_t fingerprint_of_row(const Dataset& data, std::int64_t row);

/// The names for the columns of a dataset.
struct DatasetNames {
  std::string name = "data";
  std::vector<std::string> features = {};  ///< one a feature, or none
  std::vector<std::string> targets = {};   ///< one a number to predict, or one for the classes
  std::vector<std::string> classes = {};   ///< of class 0, of class 1 …; or none
};

/// A dataset from your own arrays, with classes.
///
/// @code
/// const Dataset pots = dataset_of_classes(sizes, kinds, {.features = {"height", "width"}});
/// @endcode
/// @param features [example × …], such as [example × feature]
/// @param classes [example], whole numbers from 0
/// @throws ShapeError when the numbers of rows differ, or those of names and features; NumberError
///         for a class that is not a whole number from 0, or has no name although others do.
[[nodiscard]] Dataset dataset_of_classes(const Examples& features, const Tensor& classes,
                                         const DatasetNames& names = {});

/// The same with numbers to predict.
/// @param targets [example × target], or [example] for one number a row
[[nodiscard]] Dataset dataset_of_numbers(const Examples& features, const Tensor& targets,
                                         const DatasetNames& names = {});

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Dataset> : lattice::detail::NotPrinted<lattice::Dataset> {
  template <class X>
  static constexpr void refuse() {
    static_assert(lattice::detail::never<X>,
                  "print the numbers of a dataset, data.features.numbers() and data.truth()");
  }
};
