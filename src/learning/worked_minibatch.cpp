#include "lattice/learning/worked_minibatch.hpp"
#include "lattice/network/given_lines.hpp"

#include <utility>

#include "lattice/judging/answers.hpp"
#include "lattice/learning/training.hpp"

namespace lattice {
namespace {

Network with_labels(Network network, const Batch& batch) {
  label_outputs(network, batch.targets.empty());
  return network;
}

/// A minibatch as it was measured, with the numbers drawn for its augmentation.
Batch with_drawn(Batch measured, const AugmentedEpoch& augmented) {
  measured.drawn = {};
  if (augmented.how.empty()) return measured;
  measured.augmentation = augmented.how;
  measured.drawn = augmented.drawn(measured.rows, measured.features.precision());
  return measured;
}

/// Writes a minibatch down as far as what is learnt from, and what was answered.
Line write_down(Worksheet& sheet, const Network& network, const Batch& batch,
                const WorkSettings& settings, Random chance) {
  const GivenSteps steps{.features = settings.preparation,
                         .targets = settings.target_preparation,
                         .augmented = !batch.drawn.empty()};
  sheet.section(steps.empty() ? std::string_view("given") : scaling_section);
  const GivenLines given = write_given(sheet, batch, steps);
  const Loss loss = settings.loss.value_or(usual_loss(network, !batch.classes.empty()));
  const Phase phase = Phase::training(chance).written(settings.layer_form);
  const Line scores = write_scores(sheet, network, loss, given.x, phase);
  const Line of_rows =
      write_loss(sheet, loss, scores, given, Detail::at_length, settings.form, settings.epsilon);
  const Line learnt_from = write_over_rows(of_rows, settings.over_rows, given);
  const Line total = add_l2(sheet, network, learnt_from, settings.l2);
  if (!batch.classes.empty()) {
    const Line answers = write_answers(sheet, scores, outputs_of(network, loss));
    write_accuracy(write_right(answers, given), given);
    write_confusion(answers, given, classes_of(scores));
  }
  return total;
}

}  // namespace

WorkedMinibatch::WorkedMinibatch(const Network& network, const Batch& batch, const UpdateRule& rule,
                                 const WorkSettings& settings, const Random& chance)
    : WorkedMinibatch(with_drawn(batch, settings.augmented), with_labels(network, batch), rule,
                      settings, chance) {}

WorkedMinibatch::WorkedMinibatch(const Batch& batch, const Network& network, const UpdateRule& rule,
                                 const WorkSettings& settings, const Random& chance)
    : WorkedSheet(
          [&](Worksheet& sheet) { return write_down(sheet, network, batch, settings, chance); },
          batch) {
  Network updated = network;
  updated.weights() = learn(rule, network.weights(), settings.clip_norm);
  Worksheet again;
  take_result_after(write_down(again, updated, batch, settings, chance), again);
}

}  // namespace lattice
