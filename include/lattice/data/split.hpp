#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// The purpose of a part of the data.
enum class DataPart : std::uint8_t {
  train,       ///< for weights and scaling factors
  validation,  ///< for choosing settings
  test         ///< for the final assessment only
};

inline constexpr std::array all_data_parts = {DataPart::train, DataPart::validation,
                                              DataPart::test};

inline constexpr Words<DataPart> data_part_words = {
    {DataPart::train, "train"}, {DataPart::validation, "validation"}, {DataPart::test, "test"}};

/// The word for a part: `train`, `validation`, `test`.
[[nodiscard]] constexpr std::string_view word(DataPart part) {
  return data_part_words.of(part);
}

/// How rows are split into parts. If the truth of some rows only may be used in training
/// (`Dataset::known`, or `known` here), these are the train part, shares are shares of the other
/// rows, and by default all of those are for the test. Otherwise shares that are left out follow
/// from the others: with `{.train = 0.8}` validation and test get 0.1 each; with `{.test = 0}`
/// train gets 0.8.
struct SplitSettings {
  std::optional<double> train = std::nullopt;       ///< by default what the others leave
  std::optional<double> validation = std::nullopt;  ///< may be 0; 0.2, or what train leaves
  std::optional<double> test = std::nullopt;        ///< may be 0; 0.2, or what train leaves
  bool stratified = false;  ///< each part has the same proportions of classes
  bool shuffled = true;     ///< at random; otherwise the first rows are for training, and so on

  /// Known rows of each class, whatever the data say: the first ones of each.
  std::optional<std::int64_t> known = std::nullopt;
};

/// The shares of train, validation and test, with those left out filled in.
[[nodiscard]] std::array<double, 3> part_shares(const SplitSettings& settings);

/// Whether the train part is the known rows, instead of a share.
[[nodiscard]] bool learns_from_known(const Dataset& data, const SplitSettings& settings);

/// The shares of a dataset; if some rows are known, of the other rows, without one for train.
/// @throws SettingError for a share for train then.
[[nodiscard]] std::array<double, 3> part_shares(const Dataset& data, const SplitSettings& settings);

/// The row numbers of each part.
struct SplitRows {
  std::vector<std::int64_t> train;
  std::vector<std::int64_t> validation;
  std::vector<std::int64_t> test;

  [[nodiscard]] const std::vector<std::int64_t>& operator[](DataPart part) const;
};

/// Splits row numbers, so that several arrays can be split in the same way:
///
/// @code
/// const SplitRows rows = split_rows(40, {.train = 0.8, .validation = 0, .test = 0.2}, random);
/// const Tensor train_photos = photos.rows(rows.train);
/// const Tensor train_notes = notes.rows(rows.train);
/// @endcode
/// @throws SettingError for a share below 0, shares that add up to more than 1, or a part with a
///         share but without a row.
[[nodiscard]] SplitRows split_rows(std::int64_t rows, const SplitSettings& settings,
                                   Random& random);

/// The same with the class [example] of each row, for stratified parts.
[[nodiscard]] SplitRows split_rows(const Tensor& classes, const SplitSettings& settings,
                                   Random& random);

/// The same for a dataset, in which some rows only may be known. Unlabelled rows are in no part.
/// @throws as the others do; SettingError for a share for train where rows are known, for `known`
///         below 1 or without classes, or for a class with fewer rows.
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
