#pragma once

#include <algorithm>
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/augmentation.hpp"
#include "lattice/data/dataset.hpp"

namespace lattice {

/// How many rows are evaluated at a time, so that memory does not grow with the rows.
inline constexpr std::int64_t usual_chunk = 1024;

/// The same for rows of so many numbers each: fewer of large ones, in eights.
[[nodiscard]] constexpr std::int64_t chunk_of(std::int64_t numbers,
                                              std::int64_t most = usual_chunk) {
  constexpr std::int64_t most_numbers = std::int64_t{1} << 22;
  const std::int64_t fitting = most_numbers / std::max(numbers, std::int64_t{1});
  return std::min(most, std::max(fitting / 8 * 8, std::int64_t{8}));
}

/// A few examples, prepared. A batch of connected rows contains all of them: the side input
/// `row_weights` is 0 for those that it is not about.
struct Batch {
  std::vector<std::int64_t> rows;    ///< their numbers in the dataset, from 0
  Tensor features;                   ///< [example × …]
  Tensor targets = {};               ///< [example × target]; empty for classes
  Tensor classes = {};               ///< [example], class numbers; empty for numeric targets
  std::vector<SideInput> side = {};  ///< those by row: of these rows

  /// The augmentation of the examples before they are prepared, and the numbers drawn for it
  /// [example × number]; empty without one.
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

  /// How each example is augmented, in words; empty without augmentation.
  [[nodiscard]] std::vector<std::string> augmented_in_words() const;

  /// The sum of the row weights: without them, the number of rows.
  [[nodiscard]] double total_weight() const;
};

/// Some rows of a dataset, in an order. The dataset is shared, never copied: the parts of a split
/// are row sets over one dataset. A whole dataset is one, too.
///
/// @code
/// const RowSet some(pots, {0, 2, 4});
/// some.features();         // prepared, [example 3 × feature …]
/// assess(net, pots);       // any function of a row set accepts a dataset
/// @endcode
class RowSet {
 public:
  /// No rows.
  RowSet() : RowSet(Dataset()) {}

  /// All rows of a dataset, in their order.
  RowSet(Dataset data);

  /// These rows, in this order. @throws IndexError when one does not exist.
  RowSet(Dataset data, std::vector<std::int64_t> rows);

  /// The dataset with all its rows, for names and the like.
  [[nodiscard]] const Dataset& data() const { return held_->data; }

  /// The number of rows, and their numbers in the dataset.
  [[nodiscard]] std::int64_t count() const { return std::ssize(rows_); }
  [[nodiscard]] bool empty() const { return rows_.empty(); }
  [[nodiscard]] const std::vector<std::int64_t>& rows() const { return rows_; }

  /// Their numbers from the lowest to the highest: for work on each row whose order does not
  /// matter, since rows that stand one after another in memory are read several times as fast.
  [[nodiscard]] std::vector<std::int64_t> sorted_rows() const;

  /// A batch of the rows at some positions of this set, prepared; of all if they are connected.
  /// @throws IndexError when one does not exist.
  [[nodiscard]] Batch at(std::span<const std::int64_t> places) const;

  /// The same with the examples augmented first.
  /// @throws ShapeError, SettingError when they cannot be.
  [[nodiscard]] Batch at(std::span<const std::int64_t> places,
                         const AugmentedEpoch& augmented) const;

  /// A batch of `count` rows from a position on, and one of all rows, prepared.
  [[nodiscard]] Batch from(std::int64_t place, std::int64_t count) const;
  [[nodiscard]] Batch all() const { return from(0, count()); }

  /// The members of `all`.
  [[nodiscard]] Tensor features() const { return all().features; }
  [[nodiscard]] Tensor targets() const { return all().targets; }
  [[nodiscard]] Tensor classes() const { return all().classes; }

  /// The rows at some positions of this set, as a set. @throws IndexError when one does not exist.
  [[nodiscard]] RowSet taking(std::span<const std::int64_t> places) const;

  /// The same rows without preparation, and with another one; in a dataset of their own.
  [[nodiscard]] RowSet as_measured() const;
  [[nodiscard]] RowSet prepared_by(const Preparation& features,
                                   const Preparation& targets = {}) const;

  /// The number of labelled rows of each class, by class number.
  [[nodiscard]] std::vector<std::int64_t> class_sizes() const;

 private:
  /// A dataset, and all its rows prepared, if that is so little that storing it is better than
  /// preparing each batch.
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

template <>
struct fmt::formatter<lattice::RowSet> : lattice::detail::NotPrinted<lattice::RowSet> {
  template <class X>
  static constexpr void refuse() {
    static_assert(lattice::detail::never<X>,
                  "print the numbers of rows: rows.features(), rows.classes()");
  }
};

template <>
struct fmt::formatter<lattice::Batch> : lattice::detail::NotPrinted<lattice::Batch> {
  template <class X>
  static constexpr void refuse() {
    static_assert(lattice::detail::never<X>,
                  "print the numbers of a batch: batch.features, batch.truth()");
  }
};
