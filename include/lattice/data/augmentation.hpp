#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/tensor/random.hpp"
#include "lattice/tensor/tensor.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// One way to change examples at random before they are prepared. A subject derives from it; see
/// `PictureAugmentation`.
class Augmenter {
 public:
  Augmenter() = default;
  Augmenter(const Augmenter&) = default;
  Augmenter& operator=(const Augmenter&) = default;
  virtual ~Augmenter() = default;

  /// As it is written in a lesson: `shift 2, flip across`.
  [[nodiscard]] virtual std::string text() const = 0;

  /// The name of the drawn numbers on a worksheet: `moves`.
  [[nodiscard]] virtual std::string_view drawn_name() const = 0;

  /// @throws ShapeError for an example that cannot be changed so.
  virtual void check(const Shape& example) const = 0;

  /// Draws the numbers of one example, always equally many.
  /// @throws SettingError for settings that are out of range.
  [[nodiscard]] virtual std::vector<double> drawn(Random random) const = 0;

  /// Changes examples [example × …] by their numbers [example × number].
  [[nodiscard]] virtual Tensor changed(const Tensor& examples, const Tensor& drawn) const = 0;
  [[nodiscard]] virtual Line changed(const Line& examples, const Line& drawn) const = 0;

  /// The numbers of one example in words: `1 row up, 2 columns right`.
  [[nodiscard]] virtual std::string in_words(const Tensor& drawn, std::int64_t example) const = 0;
};

/// How examples are augmented while a network trains on them, each anew in every epoch, so that the
/// network does not overfit. The default leaves them as they are.
class Augmentation {
 public:
  Augmentation() = default;
  explicit Augmentation(std::shared_ptr<const Augmenter> how) : how_(std::move(how)) {}

  [[nodiscard]] bool empty() const { return how_ == nullptr; }
  [[nodiscard]] const Augmenter* operator->() const { return how_.get(); }

  friend bool operator==(const Augmentation& a, const Augmentation& b);

 private:
  std::shared_ptr<const Augmenter> how_ = nullptr;
};

/// Returns the words of an augmentation; `none` for the default.
[[nodiscard]] std::string text(const Augmentation& augmentation);

/// An augmentation in one epoch of a run.
struct AugmentedEpoch {
  Augmentation how = {};
  Random random = Random(1);  ///< the source of all numbers; never advanced
  std::int64_t epoch = 1;

  /// Draws the numbers of some examples [example × number]. Each is drawn for its epoch and row
  /// alone, so the order of drawing and the thread make no difference.
  /// @param rows their numbers in the dataset
  /// @throws SettingError for settings that are out of range.
  [[nodiscard]] Tensor drawn(std::span<const std::int64_t> rows,
                             Precision precision = Precision::double_) const;
};

}  // namespace lattice
