#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/tensor/agreement.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// How gradients are checked.
struct CheckSettings {
  double step = 1e-5;  ///< how far a weight is moved each way; times its size where that is above 1
  double tolerance = 1e-6;  ///< the largest error that passes
  std::int64_t most = 200;  ///< so many numbers of a weight are checked; of more, a sample
};

/// Gradients beside central differences: every weight moved a little each way, and the calculation
/// worked again.
struct GradientCheck {
  /// The numbers of one weight.
  struct Weight {
    std::string name;
    Shape shape;
    std::int64_t checked = 0;   ///< how many of its numbers were moved
    std::int64_t on_kinks = 0;  ///< how many of those stand on a kink, and are not judged
    Index worst = {};           ///< where the error is largest
    double engine = 0.0;        ///< the swept gradient there
    double difference = 0.0;    ///< the central difference there
    double error = 0.0;  ///< their distance, as a part of the larger; for gradients so small that
                         ///< they drown in rounding, as a part of what would not
    bool agrees = false;
  };

  CheckSettings settings;
  std::vector<Weight> weights;

  /// True when every weight agrees.
  [[nodiscard]] bool agrees() const;
};

/// Checks the gradients of a line of one number by every weight it depends on. The calculation is
/// worked again from its record, in double precision whatever its own; a worksheet in single
/// precision is checked with a tolerance of 1e−3 at least. What is moved is the weight of a name:
/// where a copy of it was given under the same name, that moves too.
///
/// A number that stands on a kink, such as one that a ReLU at 0 hangs on, has a slope to the left
/// and another to the right, and its central difference is neither. That is noticed by the two
/// slopes, which do not come closer to each other in a smaller step; such numbers are counted
/// apart. Where a kink is only near, a smaller step that does not reach it decides.
/// @throws SettingError for a step or a tolerance that is not above 0, or fewer than 1 number;
///         otherwise as `reverse_sweep` does.
[[nodiscard]] GradientCheck check_gradients(const Line& result, const CheckSettings& settings = {});

/// Puts a gradient derived by hand beside that of a sweep. It knows of which terms the numbers are
/// sums: where these cancel each other, as near the lowest loss, what is left is rounding, and two
/// ways to it agree as far as rounding of the terms allows.
///
/// @code
/// fmt::print("{}\n", agreement(dW_by_hand, sweep, W));
/// @endcode
/// @param hand of the shape of the line
/// @param tolerance as of `agreement` of two tensors
/// @throws as `ReverseSweep::gradient` and `agreement` of two tensors do.
[[nodiscard]] Agreement agreement(const Tensor& hand, const ReverseSweep& sweep, const Line& line,
                                  std::optional<double> tolerance = std::nullopt);

}  // namespace lattice
