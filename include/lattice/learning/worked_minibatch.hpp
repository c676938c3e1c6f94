#pragma once

#include <optional>

#include "lattice/judging/loss.hpp"
#include "lattice/learning/worked_sheet.hpp"
#include "lattice/network/network.hpp"

namespace lattice {

/// What a minibatch is worked with.
struct WorkSettings {
  std::optional<Loss> loss = std::nullopt;  ///< as in `TrainSettings`

  /// How a cross-entropy is written down. In one line it gives the bits of training; in lines of
  /// its steps the same to rounding, and carelessly what the textbook formula gives.
  Form form = Form::one_line;
  double epsilon = usual_log_epsilon;  ///< as in `LossSettings`
  OverRows over_rows = OverRows::mean;
  double l2 = 0.0;
  std::optional<double> clip_norm = std::nullopt;

  /// What is done on the worksheet itself; the minibatch holds numbers as they were measured then.
  Preparation preparation = {};
  Preparation target_preparation = {};
  AugmentedEpoch augmented = {};  ///< how examples are augmented first
};

/// One minibatch worked from the first line to the last update: forward, the whole reverse sweep
/// from the loss, one update, and forward again. It gives the bits that a step of training gives
/// (see `WorkSettings`).
class WorkedMinibatch : public WorkedSheet {
 public:
  /// @param rule with what it remembers from the updates before
  /// @param chance what dropout draws from
  WorkedMinibatch(const Network& network, const Batch& batch, const UpdateRule& rule,
                  const WorkSettings& settings = {}, const Random& chance = Random(1));

  /// The line that is learnt from: the loss, or the total with an L2 term.
  [[nodiscard]] const Line& loss() const { return result(); }
  [[nodiscard]] double loss_before() const { return result_before(); }
  [[nodiscard]] double loss_after() const { return *result_after(); }

 private:
  WorkedMinibatch(const Batch& batch, const Network& network, const UpdateRule& rule,
                  const WorkSettings& settings, const Random& chance);
};

}  // namespace lattice
