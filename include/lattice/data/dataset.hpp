#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/examples.hpp"
#include "lattice/data/preparation.hpp"
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

/// What belongs to the data and is neither features nor truth: how rows are connected, how much
/// each counts. It stands on the worksheet under its name, where parts and losses find it.
struct SideInput {
  std::string name;
  Tensor value;         ///< [example × …] where it goes by row, else of any shape
  bool by_row = false;  ///< whether each row has a part of it, which goes where the row goes

  /// Whether it says how rows are connected, [row × row]: then all come as one batch, whichever of
  /// them count.
  bool between_rows = false;
};

/// The side input that says how much each row counts in losses and figures: [example], 0 or more.
inline constexpr std::string_view row_weights_name = "row_weights";

/// The side input of a name; null where there is none.
[[nodiscard]] const Tensor* find_side(std::span<const SideInput> side, std::string_view name);

/// Examples to learn from, row by row: features, and either numbers or classes to predict. One of
/// your own arrays is made by `dataset_of_classes` or `dataset_of_numbers`, which check them.
///
/// An example may have any shape: [feature] in a table, [row × column × channel] for a picture.
/// Names may be missing: what has none is called `feature 0`, `class 1`.
struct Dataset {
  std::string name;
  Examples features;  ///< [example × …], as they were measured
  Tensor targets =
      {};  ///< [example × target], the numbers to predict; empty where classes are learnt
  Tensor classes = {};  ///< [example], class numbers from 0; empty where numbers are learnt
  std::vector<std::string> feature_names = {};  ///< of a table
  std::vector<std::string> target_names = {};   ///< of each number to predict, or of the classes
  std::vector<std::string> feature_units = {};  ///< `mm`, empty for a plain number; or none at all
  std::vector<std::string> target_units = {};   ///< of the numbers to predict
  std::vector<std::string> class_names = {};    ///< the name of class 0, of class 1 …

  /// How the features came from columns; empty when each feature is a column of its own.
  std::vector<Column> columns = {};

  std::vector<SideInput> side = {};

  std::vector<std::string> row_names = {};  ///< of each row, where they have names

  /// The rows whose truth may be learnt from, where it is known of a few alone, each once and in
  /// order; all where empty.
  std::vector<std::int64_t> known = {};

  /// Unlabelled rows, each once and in order: the 0 that stands there is no truth. They take part
  /// like any other row, and count in no loss and no figure.
  std::vector<std::int64_t> unlabelled = {};

  /// What is done to features, and to numbers to predict, on their way into a batch.
  Preparation preparation = {};
  Preparation target_preparation = {};

  [[nodiscard]] std::int64_t rows() const { return features.empty() ? 0 : features.shape()[0]; }
  [[nodiscard]] bool has_classes() const { return !classes.empty(); }

  /// The shape of one example. A single axis without a role is of features.
  [[nodiscard]] Shape example() const;

  /// True for a row of which somebody knows the truth.
  [[nodiscard]] bool has_truth(std::int64_t row) const;

  /// True for a row whose truth may be learnt from.
  [[nodiscard]] bool is_known(std::int64_t row) const;

  /// How many such rows there are.
  [[nodiscard]] std::int64_t known_count() const {
    return known.empty() ? rows() - std::ssize(unlabelled) : std::ssize(known);
  }

  /// True when rows are connected, as the nodes of a graph are.
  [[nodiscard]] bool is_connected() const;

  /// True when each row is its own feature (`each_its_own`).
  [[nodiscard]] bool has_own_features() const;

  /// True when an example is a row of features, which may have names.
  [[nodiscard]] bool is_table() const { return features.shape().rank() == 2; }

  /// How many features a table has; 0 of examples of another shape.
  [[nodiscard]] std::int64_t feature_count() const { return is_table() ? features.shape()[1] : 0; }

  /// How many classes there are: those with a name, or as many as the highest number asks for.
  /// @throws NumberError for a class that is no whole number from 0.
  [[nodiscard]] std::int64_t class_count() const;

  /// The name of a class, of a feature or of a target, or what it is called without one.
  [[nodiscard]] std::string class_name(std::int64_t number) const;
  [[nodiscard]] std::string feature_name(std::int64_t feature) const;
  [[nodiscard]] std::string target_name(std::int64_t target = 0) const;

  /// The names of all classes, of all features of a table, and of all targets: of classes that is
  /// one.
  [[nodiscard]] std::vector<std::string> all_class_names() const;
  [[nodiscard]] std::vector<std::string> all_feature_names() const;
  [[nodiscard]] std::vector<std::string> all_target_names() const;

  /// A feature, or a number to predict, with its unit, as axes are labelled: `thickness (mm)`.
  [[nodiscard]] std::string label_of(std::int64_t feature) const;
  [[nodiscard]] std::string label_of_target(std::int64_t target) const;

  /// The classes, or the numbers to predict as they were measured.
  [[nodiscard]] const Tensor& truth() const { return has_classes() ? classes : targets; }

  [[nodiscard]] AxisNames axis_names() const {
    return {feature_names, target_names, class_names, row_names};
  }

  /// The name of a row; where it has none, `row 5`, or what the axis of rows stands for: `node 5`.
  [[nodiscard]] std::string row_name(std::int64_t row) const;

  /// The columns the features came from; one of numbers for each feature when none are told.
  [[nodiscard]] std::vector<Column> columns_or_features() const;

  /// How much a row counts in losses and figures: 0 without truth, and 1 where nobody says.
  [[nodiscard]] double row_weight(std::int64_t row) const;

  /// The same where rows count differently.
  /// @param numbers [example], 0 or more, one of them above 0
  /// @throws ShapeError, NumberError otherwise.
  [[nodiscard]] Dataset with_row_weights(const Tensor& numbers) const;

  /// The same examples in another precision.
  [[nodiscard]] Dataset in(Precision precision) const;

  /// These rows, in this order, copied, with the connections among them. @throws IndexError
  /// when one is not there.
  [[nodiscard]] Dataset taking(std::span<const std::int64_t> rows) const;

  /// The same with features, and numbers to predict, prepared on their way into a batch.
  /// @throws SettingError when they are prepared already, ShapeError when it does not fit.
  [[nodiscard]] Dataset prepared_by(const Preparation& features,
                                    const Preparation& targets = {}) const;

  /// The same as it was measured.
  [[nodiscard]] Dataset as_measured() const;
};

/// Features for rows that have none: a 1 for the row itself, [row × row] and sparse.
[[nodiscard]] Examples each_its_own(std::int64_t rows, Precision precision = Precision::double_);

/// A number that tells one dataset from another: of all its bits.
/// Source: FNV-1a (Fowler, Noll and Vo).
[[nodiscard]] std::uint64_t fingerprint(const Dataset& data);

/// What the columns of a dataset are called.
struct DatasetNames {
  std::string name = "data";
  std::vector<std::string> features = {};  ///< one a feature, or none
  std::vector<std::string> targets = {};   ///< one a number to predict, or one for the classes
  std::vector<std::string> classes = {};   ///< of class 0, of class 1 …; or none
};

/// A dataset of one's own arrays, with classes to tell apart.
///
/// @code
/// const Dataset pots = dataset_of_classes(sizes, kinds, {.features = {"height", "width"}});
/// @endcode
/// @param features [example × …], such as [example × feature]
/// @param classes [example], whole numbers from 0
/// @throws ShapeError when the rows are not as many, or names are more or fewer than features;
///         NumberError for a class that is no whole number from 0, or has no name where others do.
[[nodiscard]] Dataset dataset_of_classes(const Examples& features, const Tensor& classes,
                                         const DatasetNames& names = {});

/// The same with numbers to predict.
/// @param targets [example × target], or [example] for one number a row
[[nodiscard]] Dataset dataset_of_numbers(const Examples& features, const Tensor& targets,
                                         const DatasetNames& names = {});

}  // namespace lattice
