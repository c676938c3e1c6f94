#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/tensor/agreement.hpp"
#include "lattice/worksheet/reverse_sweep.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The settings of a gradient check.
struct CheckSettings {
  double step = 1e-5;       ///< the change of a weight each way; times its magnitude where above 1
  double tolerance = 1e-6;  ///< the largest error that passes
  std::int64_t most = 200;  ///< numbers of a weight to check; of more, a sample
};

/// Gradients compared with central differences: every weight is changed a little each way, and the
/// calculation repeated.
struct GradientCheck {
  /// The numbers of one weight.
  struct Weight {
    std::string name;
    Shape shape;
    std::int64_t checked = 0;   ///< how many of its numbers were changed
    std::int64_t on_kinks = 0;  ///< how many of those are on a kink, and not checked
    Index worst = {};           ///< where the error is largest
    double engine = 0.0;        ///< the swept gradient there
    double difference = 0.0;    ///< the central difference there
    double error = 0.0;  ///< their relative difference; for gradients below the rounding error,
                         ///< relative to that
    bool agrees = false;
  };

  CheckSettings settings;
  std::vector<Weight> weights;

  /// Whether every weight agrees.
  [[nodiscard]] bool agrees() const;
};

/// Checks the gradients of a line of one number with respect to every weight that it depends on.
/// The calculation is repeated from its record, always in double precision; a worksheet in single
/// precision is checked with a tolerance of at least 1e−3. A copy of a weight that was given under
/// the same name is changed with it.
///
/// At a kink, such as that of a ReLU at 0, the slopes on the left and on the right differ, and the
/// central difference is neither. A kink is recognised by one-sided slopes that do not approach
/// each other in a smaller step; such numbers are counted separately. Where a kink is only near, a
/// smaller step that does not reach it decides.
/// @throws SettingError for a step or a tolerance that is not above 0, or fewer than 1 number;
///         otherwise as `reverse_sweep` does.
[[nodiscard]] GradientCheck check_gradients(const Line& result, const CheckSettings& settings = {});

/// Compares a gradient derived by hand with that of a sweep. Where the terms of a sum cancel, as
/// near the minimum of the loss, only rounding is left: the tolerance allows for the rounding of
/// the terms.
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
