#pragma once

#include <optional>

#include "lattice/judging/loss.hpp"
#include "lattice/learning/worked_sheet.hpp"
#include "lattice/network/network.hpp"

namespace lattice {

/// The settings of a worked minibatch.
struct WorkSettings {
  std::optional<Loss> loss = std::nullopt;  ///< as in `TrainSettings`

  /// How a cross-entropy is written. One line has the bits of training; written out it is the same
  /// up to rounding; naive is the plain textbook formula.
  Form form = Form::one_line;
  double epsilon = usual_log_epsilon;  ///< as in `LossSettings`

  /// How layers are written: dense, softmax and normalisation in one line, or in primitive lines.
  Form layer_form = Form::one_line;
  OverRows over_rows = OverRows::mean;
  double l2 = 0.0;
  std::optional<double> clip_norm = std::nullopt;

  /// The preparation on the worksheet itself; the minibatch is then raw.
  Preparation preparation = {};
  Preparation target_preparation = {};
  AugmentedEpoch augmented = {};  ///< the augmentation before it
};

/// One minibatch worked from the first line to the last update: forward, the whole reverse sweep
/// from the loss, one update, and forward again. It has the same bits as a step of training (see
/// `WorkSettings`).
class WorkedMinibatch : public WorkedSheet {
 public:
  /// @param rule with its memory of earlier updates
  /// @param chance the generator for dropout
  WorkedMinibatch(const Network& network, const Batch& batch, const UpdateRule& rule,
                  const WorkSettings& settings = {}, const Random& chance = Random(1));

  /// The line of the training objective: the loss, or the total with an L2 term.
  [[nodiscard]] const Line& loss() const { return result(); }
  [[nodiscard]] double loss_before() const { return result_before(); }
  [[nodiscard]] double loss_after() const { return *result_after(); }

 private:
  WorkedMinibatch(const Batch& batch, const Network& network, const UpdateRule& rule,
                  const WorkSettings& settings, const Random& chance);
};

}  // namespace lattice
