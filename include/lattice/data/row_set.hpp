#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/augmentation.hpp"
#include "lattice/data/dataset.hpp"

namespace lattice {

/// How many rows are looked at a time where all are, so that memory does not grow with the rows.
inline constexpr std::int64_t usual_chunk = 1024;

/// A few examples, prepared. Where rows are connected all of them are there, whichever the batch is
/// about: the side input `row_weights` is 0 for the others.
struct Batch {
  std::vector<std::int64_t> rows;    ///< their numbers in the dataset, from 0
  Tensor features;                   ///< [example × …]
  Tensor targets = {};               ///< [example × target]; empty where classes are learnt
  Tensor classes = {};               ///< [example], class numbers; empty where numbers are learnt
  std::vector<SideInput> side = {};  ///< what goes by row: of these rows

  /// How examples are augmented before they are prepared, and the numbers drawn for it
  /// [example × number]; empty where they are not.
  Augmentation augmentation = {};
  Tensor drawn = {};

  bool is_whole =
      false;  ///< whether the tensors hold all rows of the dataset, as connected ones do
  std::vector<std::int64_t> unlabelled = {};  ///< those of the dataset, where it is whole

  /// The position in the tensors of the row at a position of `rows`.
  [[nodiscard]] std::int64_t place_of(std::size_t at) const {
    return is_whole ? rows[at] : static_cast<std::int64_t>(at);
  }

  /// Selects the rows of the batch in a tensor [example × …] of it.
  [[nodiscard]] Tensor of_rows(const Tensor& all) const { return is_whole ? all.rows(rows) : all; }

  /// The classes, or the numbers to predict.
  [[nodiscard]] const Tensor& truth() const { return classes.empty() ? targets : classes; }

  /// How each example is augmented, in words; none where they are not.
  [[nodiscard]] std::vector<std::string> augmented_in_words() const;

  /// How much the rows count together: their number, where nobody says how much each does.
  [[nodiscard]] double total_weight() const;
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

  /// The rows at some places of this set, prepared; all of them where they are connected. @throws
  /// IndexError when one is not there.
  [[nodiscard]] Batch at(std::span<const std::int64_t> places) const;

  /// The same with the examples augmented first.
  /// @throws ShapeError, SettingError where they cannot be.
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
