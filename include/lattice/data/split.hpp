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

/// What a part of the data is for.
enum class DataPart : std::uint8_t {
  train,       ///< weights and scaling factors are learnt from it
  validation,  ///< settings are chosen by it
  test         ///< the last judgement; nothing is learnt from it
};

inline constexpr std::array all_data_parts = {DataPart::train, DataPart::validation,
                                              DataPart::test};

inline constexpr Words<DataPart> data_part_words = {
    {DataPart::train, "train"}, {DataPart::validation, "validation"}, {DataPart::test, "test"}};

/// The word for a part: `train`, `validation`, `test`.
[[nodiscard]] constexpr std::string_view word(DataPart part) {
  return data_part_words.of(part);
}

/// How rows are dealt out to the parts. Where the truth of a few rows alone is known to who learns
/// (`Dataset::known`, or `known` here), these are for training, shares are shares of the others,
/// and all of them are for the test unless it is told otherwise. Else shares that are left out
/// follow from the others: of `{.train = 0.8}` validation and test get 0.1 each; of `{.test = 0}`
/// train gets 0.8.
struct SplitSettings {
  std::optional<double> train = std::nullopt;       ///< the share that the others leave
  std::optional<double> validation = std::nullopt;  ///< may be 0; 0.2, or what train leaves
  std::optional<double> test = std::nullopt;        ///< may be 0; 0.2, or what train leaves
  bool stratified = false;                          ///< the same shares of every class in each part
  bool shuffled = true;  ///< drawn at random; else the first rows are for training, and so on

  /// So many rows of each class are known, whatever the data say: the first of each that come.
  std::optional<std::int64_t> known = std::nullopt;
};

/// The shares of train, validation and test, those left out filled in.
[[nodiscard]] std::array<double, 3> shares_of(const SplitSettings& settings);

/// True where what is learnt from is what is known, and no share.
[[nodiscard]] bool learns_from_known(const Dataset& data, const SplitSettings& settings);

/// The shares in which a dataset is dealt out; where a few rows are known, of the other rows, and
/// nothing for train. @throws SettingError for a share for train there.
[[nodiscard]] std::array<double, 3> shares_of(const Dataset& data, const SplitSettings& settings);

/// The row numbers of each part.
struct SplitRows {
  std::vector<std::int64_t> train;
  std::vector<std::int64_t> validation;
  std::vector<std::int64_t> test;

  [[nodiscard]] const std::vector<std::int64_t>& operator[](DataPart part) const;
};

/// Deals out row numbers. The same numbers split any arrays alike, rows kept together:
///
/// @code
/// const SplitRows rows = split_rows(40, {.train = 0.8, .validation = 0, .test = 0.2}, random);
/// const Tensor train_photos = photos.rows(rows.train);
/// const Tensor train_notes = notes.rows(rows.train);
/// @endcode
/// @throws SettingError for a share below 0, shares that add up to more than 1, or a part that is
///         asked for and would get no row.
[[nodiscard]] SplitRows split_rows(std::int64_t rows, const SplitSettings& settings,
                                   Random& random);

/// The same with the class [example] of each row, for stratified parts.
[[nodiscard]] SplitRows split_rows(const Tensor& classes, const SplitSettings& settings,
                                   Random& random);

/// The same of a dataset, in which a few rows alone may be known. Rows without truth are in no
/// part.
/// @throws as the others do; SettingError for a share to learn from where rows are known, for
///         `known` below 1 or without classes, or for a class that has fewer rows.
[[nodiscard]] SplitRows split_rows(const Dataset& data, const SplitSettings& settings,
                                   Random& random);

/// A dataset split into parts: row sets over one dataset.
struct Split {
  RowSet train = {};
  RowSet validation = {};  ///< without a row when none was asked for
  RowSet test = {};

  /// The dataset with all its rows.
  [[nodiscard]] const Dataset& data() const { return train.data(); }

  [[nodiscard]] const RowSet& operator[](DataPart part) const;

  /// True when a part has rows.
  [[nodiscard]] bool has(DataPart part) const { return !(*this)[part].empty(); }

  /// The same parts as they were measured.
  [[nodiscard]] Split as_measured() const;
};

/// The last part of a split that has rows.
[[nodiscard]] DataPart last_part(const Split& split);

/// The dataset of a split, in which what is known is what is learnt from, however its parts were
/// dealt out.
[[nodiscard]] Dataset known_by_split(const Split& split);

/// Splits a dataset into parts.
///
/// @code
/// const Split glazes = split(demo_set("glazes"), {.stratified = true}, random);
/// @endcode
[[nodiscard]] Split split(const Dataset& data, const SplitSettings& settings, Random& random);

/// One of several folds: all that is not for testing is dealt into so many, and each of them is for
/// validation once, while the others are learnt from.
struct Fold {
  std::int64_t number = 0;  ///< which of them, from 0
  std::int64_t count = 5;   ///< how many there are, 2 or more
};

/// The same rows dealt anew: the fold for validation, the others to learn from, the test part as it
/// is. Classes that were dealt evenly stay so.
/// @throws SettingError for fewer than two folds, more than there are rows, or one that is not
///         there.
[[nodiscard]] Split folded(const Split& split, Fold fold);

/// All parts prepared by steps that were fitted on the train part alone. Targets are prepared where
/// there are numbers to predict. The numbers themselves stay as they are: what is prepared is each
/// batch.
[[nodiscard]] Split prepared(const Split& split, const std::vector<ScalingSettings>& features,
                             const std::vector<ScalingSettings>& targets = {});

/// The same with one step, number by number.
[[nodiscard]] Split scaled(const Split& split, ScalingKind features,
                           ScalingKind targets = ScalingKind::none);

}  // namespace lattice
