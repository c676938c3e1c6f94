#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "lattice/data/augmentation.hpp"
#include "lattice/data/dataset.hpp"

namespace lattice {

/// How many rows are looked at a time where all are, so that memory does not grow with the rows.
inline constexpr std::int64_t usual_chunk = 1024;

/// A few examples, prepared. Of a graph all nodes are there, whichever of them the batch is about:
/// the side input `counted` is 0 for the others.
struct Batch {
  std::vector<std::int64_t> rows;    ///< their numbers in the dataset, from 0
  Tensor features;                   ///< [example × …]
  Tensor targets = {};               ///< [example × target]; empty where classes are learnt
  Tensor classes = {};               ///< [example], class numbers; empty where numbers are learnt
  std::vector<SideInput> side = {};  ///< what goes by row: of these rows

  /// How pictures are moved about before they are prepared, [example × 6], and what lies around
  /// them then; empty where they are not.
  Tensor moves = {};
  Around around = Around::edge();

  bool is_graph = false;  ///< whether the tensors hold all rows of the dataset
  std::vector<std::int64_t> without_truth = {};  ///< of these: the nodes of which nobody knows it

  /// Where the row that stands at a place of `rows` is in the tensors.
  [[nodiscard]] std::int64_t place_of(std::size_t at) const {
    return is_graph ? rows[at] : static_cast<std::int64_t>(at);
  }

  /// What some tensor [example × …] of the batch holds for its rows alone: all of it but of a
  /// graph.
  [[nodiscard]] Tensor of_rows(const Tensor& all) const { return is_graph ? all.rows(rows) : all; }

  /// The classes, or the numbers to predict.
  [[nodiscard]] const Tensor& truth() const { return classes.empty() ? targets : classes; }

  /// What is done to each picture, in words; none where they are not moved about.
  [[nodiscard]] std::vector<std::string> moves_in_words() const;

  /// How much the rows count together: their number, where nobody says how much each does.
  [[nodiscard]] double counted() const;
};

/// Some rows of a dataset, in an order. The dataset is shared, never copied: the parts that it is
/// split into are row sets over one dataset. A whole dataset is one, too.
///
/// @code
/// const RowSet some(pots, {0, 2, 4});
/// some.features();         // prepared, [example 3 × feature …]
/// assess(net, pots);       // whatever takes a row set takes a dataset
/// @endcode
class RowSet {
 public:
  /// No rows.
  RowSet() : RowSet(Dataset()) {}

  /// All rows of a dataset, in their order.
  RowSet(Dataset data);

  /// These rows, in this order. @throws IndexError when one is not there.
  RowSet(Dataset data, std::vector<std::int64_t> rows);

  /// The dataset with all its rows: what is called what is asked of it.
  [[nodiscard]] const Dataset& data() const { return held_->data; }

  /// How many rows there are, and their numbers in the dataset.
  [[nodiscard]] std::int64_t count() const { return std::ssize(rows_); }
  [[nodiscard]] bool empty() const { return rows_.empty(); }
  [[nodiscard]] const std::vector<std::int64_t>& rows() const { return rows_; }

  /// The rows at some places of this set, prepared; of a graph the whole of it. @throws IndexError
  /// when one is not there.
  [[nodiscard]] Batch at(std::span<const std::int64_t> places) const;

  /// The same of pictures that are moved about first.
  /// @throws ShapeError for other examples; SettingError for an augmentation that cannot be.
  [[nodiscard]] Batch at(std::span<const std::int64_t> places,
                         const AugmentedEpoch& augmented) const;

  /// `count` rows from a place on, and all of them, prepared.
  [[nodiscard]] Batch from(std::int64_t place, std::int64_t count) const;
  [[nodiscard]] Batch all() const { return from(0, count()); }

  /// What `all` holds.
  [[nodiscard]] Tensor features() const { return all().features; }
  [[nodiscard]] Tensor targets() const { return all().targets; }
  [[nodiscard]] Tensor classes() const { return all().classes; }

  /// The rows at some places of this set, as a set. @throws IndexError when one is not there.
  [[nodiscard]] RowSet taking(std::span<const std::int64_t> places) const;

  /// The same rows as they were measured, and prepared in another way; of a dataset of their own.
  [[nodiscard]] RowSet as_measured() const;
  [[nodiscard]] RowSet prepared_by(const Preparation& features,
                                   const Preparation& targets = {}) const;

  /// How many rows each class has whose truth is known, in the order of their numbers.
  [[nodiscard]] std::vector<std::int64_t> class_sizes() const;

 private:
  /// A dataset, and what its preparation makes of all rows where that is so little that it is
  /// better kept than made again for each batch.
  struct Held {
    Dataset data;
    Tensor features = {};
    Tensor targets = {};
  };
  [[nodiscard]] static std::shared_ptr<const Held> held(Dataset data);
  [[nodiscard]] std::vector<std::int64_t> rows_at(std::span<const std::int64_t> places) const;
  [[nodiscard]] Batch batch_of(std::vector<std::int64_t> rows,
                               const AugmentedEpoch* augmented = nullptr) const;

  std::shared_ptr<const Held> held_;
  std::vector<std::int64_t> rows_;
  bool is_whole_ = false;  ///< all rows, in their order
};

}  // namespace lattice
