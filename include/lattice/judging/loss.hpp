#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/network/given_lines.hpp"
#include "lattice/network/network.hpp"
#include "lattice/text/words.hpp"
#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The kind of the outputs of a network for classes.
enum class Outputs : std::uint8_t {
  scores,  ///< any numbers, which softmax, or sigmoid for a single one, turns into probabilities
  probabilities,  ///< from a softmax or a sigmoid, for a loss that compares with 0 and 1
  levels          ///< without either, for such a loss: near 0 and 1, but not limited to that range
};

/// Your own loss: a function of outputs and truth. If it is written with operations, the sweep
/// differentiates it; with `own_comparison` you give the derivative as well.
///
/// @code
/// // Like the square of a small error, and like the magnitude of a large one.
/// const OwnLoss smooth{.word = "smooth error",
///                      .lost = [](const Line& outputs, const Line& truth) {
///                        return sqrt(1 + square(outputs - truth)) - 1;
///                      }};
/// const RunRecord run = train(net, glazes, {.loss = smooth});
/// const Assessment judged = assess(net, glazes.test, {.loss = smooth});
/// @endcode
struct OwnLoss {
  std::string word;

  /// The loss of each output [example × output], or of each example [example]; its mean is taken.
  /// The truth has the shape of the outputs: targets, or for classes 1 for the output of the true
  /// class and 0 for the others; for a single output the class itself, 0 or 1.
  std::function<Line(const Line& outputs, const Line& truth)> lost;

  /// The kind of outputs for classes without a softmax or a sigmoid: `levels` or `scores`.
  Outputs outputs = Outputs::levels;
};

/// The training loss; each is a mean over examples. The squared ones are means over outputs, too;
/// for classes they compare with 1 for the output of the true class and 0 for the others, or with
/// the class number, 0 or 1, for a single output.
class Loss {
 public:
  enum class Kind : std::uint8_t {
    mean_squared,
    half_mean_squared,
    binary_cross_entropy,
    cross_entropy,
    own
  };

  static const Loss mean_squared;          ///< (output − target)²
  static const Loss half_mean_squared;     ///< half of it
  static const Loss binary_cross_entropy;  ///< of one score, for two classes
  static const Loss cross_entropy;         ///< of a score for each class

  /// @throws SettingError for a loss without a function, or without a unique word.
  Loss(OwnLoss own);

  [[nodiscard]] Kind kind() const { return kind_; }

  /// Your own loss; null for the others.
  [[nodiscard]] const OwnLoss* own() const { return own_.get(); }

  friend bool operator==(const Loss& a, const Loss& b) = default;

 private:
  constexpr explicit Loss(Kind kind) : kind_(kind) {}

  Kind kind_;
  std::shared_ptr<const OwnLoss> own_ = nullptr;
};

inline const Loss Loss::mean_squared(Kind::mean_squared);
inline const Loss Loss::half_mean_squared(Kind::half_mean_squared);
inline const Loss Loss::binary_cross_entropy(Kind::binary_cross_entropy);
inline const Loss Loss::cross_entropy(Kind::cross_entropy);

/// The word for a loss: `mean squared`, `half mean squared`, `binary cross-entropy`,
/// `cross-entropy`, or that of your own.
[[nodiscard]] std::string word(const Loss& loss);

/// The loss with a word.
/// @param own your own losses
/// @throws SettingError that lists the losses.
[[nodiscard]] Loss parse_loss(std::string_view text, std::span<const Loss> own = {});

/// Whether a loss compares outputs with targets, or with 1 for the true class and 0 for the others:
/// a squared one, or your own.
[[nodiscard]] bool takes_levels(const Loss& loss);

/// The training objective: the mean of the row losses, or their sum, whose gradients are larger by
/// the number of rows. Figures are always means.
enum class OverRows : std::uint8_t { mean, sum };

inline constexpr Words<OverRows> over_rows_words = {{OverRows::mean, "mean"},
                                                    {OverRows::sum, "sum"}};

/// The kind of the outputs of a network for a loss.
[[nodiscard]] Outputs outputs_of(const Network& network, const Loss& loss);

/// The default loss: half the mean square for numbers, cross-entropy for classes, and binary
/// cross-entropy for two classes and a single output.
[[nodiscard]] Loss usual_loss(const Network& network, bool has_classes);
[[nodiscard]] Loss usual_loss(const Network& network, const Dataset& data);

/// Checks that a network, a loss and rows fit.
/// @throws ShapeError when examples or targets do not fit the network, NumberError when their
///         precisions differ, SettingError when there is no row, or the loss is for the other kind
///         of target.
void check_fits(const Network& network, const Loss& loss, const RowSet& rows);

/// How a loss is written on a worksheet.
enum class Detail : std::uint8_t {
  brief,      ///< in one line
  at_length,  ///< squared losses in steps; for cross-entropies the probabilities, too
};

/// The section of a worksheet for the loss.
inline constexpr std::string_view loss_section = "loss";

/// Adds the loss of scores in a section of its own, up to the line `loss`.
/// @param scores as `Network::scores` returns them; for squared losses as `Network::forward` does
/// @param form whether a cross-entropy is one line, or its steps are lines
/// @param epsilon added before a log in the patched form
[[nodiscard]] Line write_loss(Worksheet& sheet, const Loss& loss, const Line& scores,
                              const GivenLines& given, Detail detail = Detail::brief,
                              Form form = Form::one_line, double epsilon = usual_log_epsilon);

/// The line of the training objective: the loss itself, or `summed`, the loss times the sum of row
/// weights.
[[nodiscard]] Line write_over_rows(const Line& loss, OverRows over_rows, const GivenLines& given);

/// Adds a forward pass up to the input of the loss: for cross-entropies, which take scores, without
/// a softmax or a sigmoid at the end.
[[nodiscard]] Line write_scores(Worksheet& sheet, const Network& network, const Loss& loss,
                                const Line& x, const Phase& phase = Phase::in_use());

/// The loss of each row [example], whose mean the loss is.
/// @param scores as `write_scores` returns them
[[nodiscard]] Tensor loss_of_rows(const Loss& loss, const Tensor& scores, const Tensor& truth);

}  // namespace lattice
