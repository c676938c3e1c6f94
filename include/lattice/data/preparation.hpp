#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/own_scaling.hpp"
#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// How features, or numbers to predict, are scaled.
enum class ScalingKind : std::uint8_t {
  none,       ///< as they are
  standard,   ///< mean 0 and standard deviation 1
  min_max,    ///< from 0 to 1
  less_mean,  ///< minus the mean
  known,      ///< with known numbers: nothing is fitted
  own         ///< by a step that a subject supplies, such as local contrast: nothing is fitted
};

/// What has a factor of its own.
enum class ScaledBy : std::uint8_t {
  number,   ///< every number of an example: each feature of a table, each pixel
  channel,  ///< every channel of a picture
  whole     ///< all of an example together
};

/// One step of a preparation, before it has seen data.
struct ScalingSettings {
  ScalingKind kind = ScalingKind::standard;
  ScaledBy by = ScaledBy::number;
  double less = 0.0;    ///< subtracted, for `ScalingKind::known`
  double over = 1.0;    ///< the divisor then; not 0
  OwnScaling own = {};  ///< for `ScalingKind::own`

  friend bool operator==(const ScalingSettings&, const ScalingSettings&) = default;
};

/// The words for one: `none`, `standard`, `min-max by channel`, `standard as a whole`,
/// `less 127.5 over 127.5`, `less mean`; or those of a step of a subject, `contrast 9`.
[[nodiscard]] std::string text(const ScalingSettings& settings);

/// Reads those words, and `0 to 1`, which for bytes means `less 0 over 255`.
/// @throws SettingError that lists the words.
[[nodiscard]] ScalingSettings parse_scaling(std::string_view text);

/// The shape of the factors of a scaling for examples of a shape.
/// @throws ShapeError when there are no channels to scale by.
[[nodiscard]] Shape factors_for(const Shape& example, ScaledBy by);

/// x = (raw − centre) / divisor, for tensors and for other number types.
template <class X>
[[nodiscard]] X scaled_by(const X& raw, const X& centre, const X& divisor) {
  return (raw - centre) / divisor;
}

/// The factors of a scaling. They are fitted once, on the train part, and used for every later
/// record; a single record is never scaled by its own numbers.
struct Scaling {
  ScalingSettings settings = {};
  Tensor centre;   ///< broadcast to the shape of an example; in the unit of the raw numbers
  Tensor divisor;  ///< of the same shape; never 0

  /// @param raw [example × …]
  /// @throws ShapeError when an example has another shape than the factors, or the step, are for.
  [[nodiscard]] Tensor scaled(const Tensor& raw) const;

  /// The inverse: scaled · divisor + centre. @throws as `scaled` does; SettingError if there is
  /// none, as for a step of a subject.
  [[nodiscard]] Tensor raw(const Tensor& scaled) const;

  /// The same factors in another precision.
  [[nodiscard]] Scaling in(Precision precision) const;

  friend bool operator==(const Scaling&, const Scaling&) = default;
};

/// The preparation of features, or of numbers to predict, for a network: steps, one after another,
/// each fitted on the train part as prepared by the steps before it.
struct Preparation {
  std::vector<Scaling> steps = {};

  [[nodiscard]] bool empty() const { return steps.empty(); }

  /// @param raw [example × …]
  /// @throws ShapeError when an example has another shape than it was fitted on.
  [[nodiscard]] Tensor prepared(const Tensor& raw) const;

  /// The inverse. @throws as `prepared` does.
  [[nodiscard]] Tensor raw(const Tensor& prepared) const;

  [[nodiscard]] Preparation in(Precision precision) const;

  friend bool operator==(const Preparation&, const Preparation&) = default;
};

/// A source of examples: calls its argument with tensors [example × …] that together hold all
/// rows.
using EachRows = std::function<void(const std::function<void(const Tensor& rows)>&)>;

/// Fits steps on examples.
/// - standard: centre = mean and divisor = standard deviation (over n);
/// - min-max: centre = the smallest number and divisor = the largest less the smallest;
/// - less mean: centre = mean and divisor = 1;
/// - known: centre and divisor are the given numbers;
/// - own: 0 and 1, which are not used.
/// Where the numbers are constant the divisor is 1. Steps of the kind `none` are left out.
/// @param examples called twice for each step
/// @throws ShapeError when there are no channels to scale by.
[[nodiscard]] Preparation fit(const std::vector<ScalingSettings>& steps, const EachRows& examples);

/// The same on all rows of a tensor [example × …].
[[nodiscard]] Preparation fit(const std::vector<ScalingSettings>& steps, const Tensor& examples);

}  // namespace lattice
