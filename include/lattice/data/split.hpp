#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "lattice/data/data_part.hpp"
#include "lattice/data/row_set.hpp"
#include "lattice/tensor/random.hpp"

namespace lattice {

/// How rows are split into parts: as shares of the rows, from 0 to 1, or as numbers of rows, from
/// 2. What is left out follows from the others: with `{.train = 0.8}` validation and test get 0.1
/// each; with `{.test = 0}` train gets 0.8; with `{.train = 55000}` of 60 000 rows the others get
/// 2500 each.
///
/// Rows of a fixed part (`Dataset::fixed_parts`) are in that part. The other rows are split as if
/// its share were 0, and its setting is how many of its own rows are drawn: by default all. If the
/// truth of some rows only may be used in training (`Dataset::known`, or `known` here), these are
/// the train part, shares are shares of the other rows, and by default all of those are for the
/// test.
struct SplitSettings {
  std::optional<double> train = std::nullopt;       ///< by default what the others leave
  std::optional<double> validation = std::nullopt;  ///< may be 0; 0.2, or what train leaves
  std::optional<double> test = std::nullopt;        ///< may be 0; 0.2, or what train leaves
  bool stratified = false;  ///< each part has the same proportions of classes
  bool shuffled = true;     ///< at random; otherwise the first rows are for training, and so on

  /// Known rows of each class, whatever the data say: the first ones of each.
  std::optional<std::int64_t> known = std::nullopt;

  /// The share of rows, or their number, for a part.
  [[nodiscard]] std::optional<double>& operator[](DataPart part);
  [[nodiscard]] const std::optional<double>& operator[](DataPart part) const;
};

/// The settings with those left out filled in. The shares of a fixed part, and of the train part if
/// it is the known rows, stay as they are.
/// @throws SettingError for a number that is neither a share nor a number of rows, or larger than
///         the number of rows; for shares that add up to more than 1; for a train part of 0; for a
///         share for training where labels are known.
[[nodiscard]] SplitSettings in_full(const Dataset& data, const SplitSettings& settings);

/// The row numbers of each part.
struct SplitRows {
  std::vector<std::int64_t> train;
  std::vector<std::int64_t> validation;
  std::vector<std::int64_t> test;

  [[nodiscard]] std::vector<std::int64_t>& operator[](DataPart part);
  [[nodiscard]] const std::vector<std::int64_t>& operator[](DataPart part) const;
};

/// Splits row numbers, so that several arrays can be split in the same way:
///
/// @code
/// const SplitRows rows = split_rows(40, {.train = 0.8, .validation = 0, .test = 0.2}, random);
/// const Tensor train_photos = photos.rows(rows.train);
/// const Tensor train_notes = notes.rows(rows.train);
/// @endcode
/// @throws SettingError as `in_full` does, or for a part with a share but without a row.
[[nodiscard]] SplitRows split_rows(std::int64_t rows, const SplitSettings& settings,
                                   Random& random);

/// The same with the class [example] of each row, for stratified parts.
[[nodiscard]] SplitRows split_rows(const Tensor& classes, const SplitSettings& settings,
                                   Random& random);

/// The same for a dataset, in which some rows only may be known, and some be fixed to a part.
/// Unlabelled rows are in no part.
/// @throws as the others do; SettingError for `known` below 1 or without classes, or for a class
///         with fewer rows; IndexError for a fixed row that does not exist or is in two parts.
[[nodiscard]] SplitRows split_rows(const Dataset& data, const SplitSettings& settings,
                                   Random& random);

/// A dataset split into parts, which are row sets over it.
struct Split {
  RowSet train = {};
  RowSet validation = {};  ///< empty if its share is 0
  RowSet test = {};

  /// The dataset with all its rows.
  [[nodiscard]] const Dataset& data() const { return train.data(); }

  [[nodiscard]] const RowSet& operator[](DataPart part) const;

  /// Whether a part has rows.
  [[nodiscard]] bool has(DataPart part) const { return !(*this)[part].empty(); }

  /// The same parts without preparation.
  [[nodiscard]] Split as_measured() const;
};

/// The last part of a split that has rows.
[[nodiscard]] DataPart last_part(const Split& split);

/// The dataset of a split, with the train rows as its known rows.
[[nodiscard]] Dataset known_by_split(const Split& split);

/// Splits a dataset into parts.
///
/// @code
/// const Split glazes = split(demo_set("glazes"), {.stratified = true}, random);
/// @endcode
[[nodiscard]] Split split(const Dataset& data, const SplitSettings& settings, Random& random);

/// One of several folds: the rows that are not for the test are split into `count` folds, each of
/// which is the validation part once, while the others are the train part.
struct Fold {
  std::int64_t number = 0;  ///< its number, from 0
  std::int64_t count = 5;   ///< how many there are, 2 or more
};

/// The same rows split by folds: one for validation, the others for training, the test part as it
/// is. A stratified split stays stratified.
/// @throws SettingError for fewer than two folds, more than there are rows, or a fold number
/// outside
///         them.
[[nodiscard]] Split folded(const Split& split, Fold fold);

/// All parts prepared by steps that are fitted on the train part only. Numbers to predict are
/// prepared, too. The dataset itself does not change: each batch is prepared.
[[nodiscard]] Split prepared(const Split& split, const std::vector<ScalingSettings>& features,
                             const std::vector<ScalingSettings>& targets = {});

/// The same with one step, number by number.
[[nodiscard]] Split scaled(const Split& split, ScalingKind features,
                           ScalingKind targets = ScalingKind::none);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Split> : lattice::detail::NotPrinted<lattice::Split> {
  template <class X>
  static constexpr void refuse() {
    static_assert(lattice::detail::never<X>,
                  "print the rows of a part, such as split.train.rows()");
  }
};
