#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "lattice/data/linear_form.hpp"
#include "lattice/data/table.hpp"
#include "lattice/judging/loss.hpp"
#include "lattice/network/network.hpp"

namespace lattice {

/// A network and what it takes to ask it about records as people write them: columns, scaling
/// factors, names.
struct Model {
  Network network;
  Loss loss;
  std::vector<Column> columns;
  std::vector<std::string> target_names;      ///< of each number predicted, or of the classes
  std::vector<std::string> class_names = {};  ///< empty where numbers are predicted
  Preparation preparation = {};               ///< of features
  Preparation target_preparation = {};        ///< of numbers to predict

  /// From where to where a feature lay in the rows that were learnt from, as it was measured.
  struct Range {
    double low = 0.0;
    double high = 0.0;
  };
  std::vector<Range> feature_ranges = {};  ///< of each feature of a table; empty for others

  /// Connected rows, such as the nodes of a graph, as they were measured and without labels: then
  /// it is asked about these.
  std::optional<Dataset> rows = std::nullopt;
};

/// A model of a network that learnt from a dataset, with the preparation of that.
[[nodiscard]] Model model_of(const Network& network, const Loss& loss, const RowSet& learnt_from);

/// What a model of one dense layer has learnt, in the units that were measured: the number of each
/// target, or the score of each class, as a weighted sum of features. Empty for another network, or
/// where examples are no rows of a table. A softmax or a sigmoid after that layer may be there, and
/// is not in it.
[[nodiscard]] std::vector<LinearForm> raw_forms(const Model& model);

/// What a model says about some records.
struct Answers {
  Tensor scores;                   ///< [example × unit], as the network gives them
  Outputs kind = Outputs::scores;  ///< what the scores are, where there are classes
  Tensor probabilities = {};  ///< [example × class], or levels where `kind` says so; else empty
  Tensor classes = {};        ///< [example], the likeliest class of each
  Tensor numbers = {};        ///< [example × target], in the unit of the target; empty for classes
  std::vector<std::string> names = {};  ///< of the records, where they have any

  /// What a record is called: by its number where it has no name.
  [[nodiscard]] std::string name_of(std::int64_t record) const;

  /// True where a record has an answer: where what the network gives for it are finite numbers.
  [[nodiscard]] bool has_answer(std::int64_t record) const;
};

/// Asks a model about raw features [example × …], which it prepares, a chunk of them at a time.
/// @throws ShapeError when examples have another shape than the model learnt from, SettingError for
///         a model of connected rows, which is asked about these.
[[nodiscard]] Answers ask(const Model& model, const Examples& raw);

/// Asks a model of connected rows about some of them; the answers have their names.
/// @throws SettingError for another model, IndexError for a row that is not there.
[[nodiscard]] Answers ask_rows(const Model& model, const std::vector<std::int64_t>& rows);

/// The features of records in the shape that the network takes, raw: rows of pixels as pictures.
/// @throws as `ask` does.
[[nodiscard]] Tensor examples_from(const Model& model, const Table& records);

/// Asks a model about records; those of a model of pictures are rows of pixels. Columns that it did
/// not learn from are not looked at.
/// @throws NameError when a column is missing, FileError for a field that cannot be used.
[[nodiscard]] Answers ask(const Model& model, const Table& records);

/// The table as a dataset that the model can be assessed by: its columns, its classes, its
/// preparation.
/// @param weights the column that says how much each row counts, where there is one
/// @throws as `ask` does; FileError for a class that the model does not know.
[[nodiscard]] Dataset dataset_for(const Model& model, const Table& table,
                                  const std::string& weights = {});

}  // namespace lattice
