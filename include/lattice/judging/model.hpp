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

/// A network with all that is needed to ask it about raw records: columns, scaling factors, names.
struct Model {
  Network network;
  Loss loss;
  std::vector<Column> columns;
  std::vector<std::string> target_names;       ///< of each number predicted, or of the classes
  std::vector<std::string> class_names = {};   ///< empty for numeric targets
  std::vector<std::string> class_labels = {};  ///< as in `Dataset`
  Preparation preparation = {};                ///< of features
  Preparation target_preparation = {};         ///< of numbers to predict

  /// The range of a raw feature in the train part.
  struct Range {
    double low = 0.0;
    double high = 0.0;
  };
  std::vector<Range> feature_ranges = {};  ///< of each feature of a table; empty for others

  /// Connected rows, such as the nodes of a graph, raw and without labels: the model is then asked
  /// about these.
  std::optional<Dataset> rows = std::nullopt;
};

/// A model of a network that was trained on a dataset, with its preparation.
[[nodiscard]] Model model_of(const Network& network, const Loss& loss, const RowSet& learnt_from);

/// The weights of a model of one dense layer in the units of the data: the number of each target,
/// or the score of each class, as a weighted sum of raw features. Empty for another network, or if
/// examples are not rows of a table. A softmax or a sigmoid after that layer is not included.
[[nodiscard]] std::vector<LinearForm> raw_forms(const Model& model);

/// The answers of a model to some records.
struct Answers {
  Tensor scores;                   ///< [example × unit], of the network
  Outputs kind = Outputs::scores;  ///< the kind of the scores, for classes
  Tensor probabilities = {};  ///< [example × class], or levels where `kind` says so; else empty
  Tensor classes = {};        ///< [example], the likeliest class of each
  Tensor numbers = {};        ///< [example × target], in the unit of the target; empty for classes
  std::vector<std::string> names = {};  ///< of the records, if they have any

  /// The name of a record, or its number.
  [[nodiscard]] std::string name_of(std::int64_t record) const;

  /// Whether a record has an answer: whether the network's outputs for it are finite.
  [[nodiscard]] bool has_answer(std::int64_t record) const;
};

/// Asks a model about raw features [example × …], which it prepares, a chunk at a time.
/// @throws ShapeError when examples have another shape than in training, SettingError for a model
/// of
///         connected rows, which is asked about these.
[[nodiscard]] Answers ask(const Model& model, const Examples& raw);

/// Asks a model of connected rows about some of them; the answers have their names.
/// @throws SettingError for another model, IndexError for a row that does not exist.
[[nodiscard]] Answers ask_rows(const Model& model, const std::vector<std::int64_t>& rows);

/// The raw features of records in the shape of the network's input: rows of pixels as pictures.
/// @throws as `ask` does.
[[nodiscard]] Tensor examples_from(const Model& model, const Table& records);

/// Asks a model about records; those of a model of pictures are rows of pixels. Columns that it was
/// not trained on are ignored.
/// @throws NameError when a column is missing, FileError for a field that cannot be used.
[[nodiscard]] Answers ask(const Model& model, const Table& records);

/// The class that a field of a table means, by its name in the model: the field may be that name,
/// the same number, or the class's label. A field that is none of them is returned as it is.
[[nodiscard]] std::string class_called(const Model& model, const std::string& field);

/// A table as a dataset for assessing the model: with its columns, classes and preparation.
/// @param weights the column of row weights, if there is one
/// @throws as `ask` does; FileError for a class that the model does not know.
[[nodiscard]] Dataset dataset_for(const Model& model, const Table& table,
                                  const std::string& weights = {});

}  // namespace lattice
