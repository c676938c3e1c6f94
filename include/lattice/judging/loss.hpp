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
#include "lattice/network/network.hpp"
#include "lattice/text/words.hpp"
#include "lattice/worksheet/operations/form.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// What the outputs are where a network tells classes apart.
enum class Outputs : std::uint8_t {
  scores,         ///< any numbers; a softmax, or a sigmoid of a single one, makes probabilities
  probabilities,  ///< what a softmax or a sigmoid made, for a loss that compares with 0 and 1
  levels          ///< without either, for such a loss: aimed at 0 and 1, and not held to them
};

/// A loss of one's own: a function of outputs and truth. Written with operations, the sweep goes
/// through it; with `own_comparison` the derivative is given by hand as well.
///
/// @code
/// // Like the square of an error where it is small, and like its size where it is large.
/// const OwnLoss smooth{.word = "smooth error",
///                      .lost = [](const Line& outputs, const Line& truth) {
///                        return sqrt(1 + square(outputs - truth)) - 1;
///                      }};
/// const RunRecord run = train(net, glazes, {.loss = smooth});
/// const Assessment judged = assess(net, glazes.test, {.loss = smooth});
/// @endcode
struct OwnLoss {
  std::string word;

  /// What each output loses [example × output], or each example [example]; the loss is the mean.
  /// The truth has the shape of the outputs: targets, or for classes 1 for the output of the true
  /// class and 0 for the others; for a single output the class itself, 0 or 1.
  std::function<Line(const Line& outputs, const Line& truth)> lost;

  /// What it takes outputs for that tell classes apart, where no softmax or sigmoid makes
  /// probabilities of them: `levels` or `scores`.
  Outputs outputs = Outputs::levels;
};

/// What a network is judged by while it learns; each is the mean over examples. The squared ones
/// are means over outputs, too; for classes they take 1 for the output of the true class and 0 for
/// the others, or the number of the class, 0 or 1, for a single output.
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

  /// @throws SettingError for one without a function, or with no word of its own.
  Loss(OwnLoss own);

  [[nodiscard]] Kind kind() const { return kind_; }

  /// What it is when it is one's own; null else.
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
/// `cross-entropy`, or that of one's own.
[[nodiscard]] std::string word(const Loss& loss);

/// The loss that a word stands for.
/// @param own losses of one's own that may be meant
/// @throws SettingError, saying which there are.
[[nodiscard]] Loss parse_loss(std::string_view text, std::span<const Loss> own = {});

/// True for a loss that compares outputs with targets, or with 1 for the true class and 0 for the
/// others: a squared one, or one of one's own.
[[nodiscard]] bool takes_levels(const Loss& loss);

/// What is learnt from: the mean of what the rows lost, or their sum, whose gradients are as many
/// times as long as there are rows. Figures are means, whatever is learnt from.
enum class OverRows : std::uint8_t { mean, sum };

inline constexpr Words<OverRows> over_rows_words = {{OverRows::mean, "mean"},
                                                    {OverRows::sum, "sum"}};

/// What the outputs of a network are to a loss.
[[nodiscard]] Outputs outputs_of(const Network& network, const Loss& loss);

/// What a network is usually judged by: half the mean square for numbers, cross-entropy for
/// classes, and binary cross-entropy for two classes and a single output.
[[nodiscard]] Loss usual_loss(const Network& network, bool has_classes);
[[nodiscard]] Loss usual_loss(const Network& network, const Dataset& data);

/// Throws unless a network, a loss and rows go together.
/// @throws ShapeError when examples or outputs are others than the network has, SettingError when
///         there is no row, or the loss is for the other kind of target.
void check_fits(const Network& network, const Loss& loss, const RowSet& rows);

/// Labels the outputs of a network with what they are: numbers to predict, or the scores of
/// classes. A single score for two classes is that of a unit.
void label_outputs(Network& network, bool has_classes);

/// How a loss is written down.
enum class Detail : std::uint8_t {
  brief,      ///< in one line
  at_length,  ///< squared losses step by step; for cross-entropy the probabilities, too
};

/// The factors of one step of a preparation on a worksheet.
struct FactorLines {
  Line centre = {};
  Line divisor = {};
  OwnScaling own = {};  ///< instead of them
};

/// A batch on a worksheet.
struct GivenLines {
  Line x;                                ///< features
  std::optional<Line> y = std::nullopt;  ///< classes [example], or targets [example × target]
  std::optional<Line> row_weights = std::nullopt;  ///< how much each row counts, where it is told
  std::optional<Line> y_raw = std::nullopt;        ///< targets as they were measured
  std::vector<FactorLines> y_factors = {};         ///< by which they are prepared, step by step
};

/// Whether it is asked how a result changes with the features.
enum class Features : std::uint8_t { given, asked };

/// Writes a batch down: its features, its truth where it is known, and its side inputs by their
/// names.
[[nodiscard]] GivenLines write_given(Worksheet& sheet, const Batch& batch);

/// What is done to a batch on the worksheet itself.
struct GivenSteps {
  Preparation features = {};
  Preparation targets = {};
  bool augmented = false;  ///< examples are augmented first, as the batch says
  Features how = Features::given;

  [[nodiscard]] bool empty() const { return features.empty() && targets.empty() && !augmented; }
};

/// The same of a batch as it was measured, with the steps that prepare it: `raw`, what is drawn for
/// its augmentation and what is `augmented` by it, `centre`, `divisor`, and `x` made of them.
[[nodiscard]] GivenLines write_given(Worksheet& sheet, const Batch& measured,
                                     const GivenSteps& steps);

/// Writes down the way back from prepared numbers to those that people measure.
[[nodiscard]] Line write_raw(const Line& prepared, const std::vector<FactorLines>& factors);

/// The section of a worksheet in which the loss stands.
inline constexpr std::string_view loss_section = "loss";

/// Writes down how far the scores of a network are from the truth, in a section of its own, as far
/// as the line `loss`.
/// @param scores as `Network::scores` gives them; for squared losses as `Network::forward` does
/// @param form whether a cross-entropy is one line, or its steps are lines of their own
/// @param epsilon what is added in front of a log where that is patched
[[nodiscard]] Line write_loss(Worksheet& sheet, const Loss& loss, const Line& scores,
                              const GivenLines& given, Detail detail = Detail::brief,
                              Form form = Form::one_line, double epsilon = usual_log_epsilon);

/// The line that is learnt from: the loss itself, or `summed`, the loss times how much the rows
/// count together.
[[nodiscard]] Line write_over_rows(const Line& loss, OverRows over_rows, const GivenLines& given);

/// Writes down a pass through a network as far as what the loss takes: a softmax or a sigmoid at
/// its end is left to the cross-entropies, which take scores.
[[nodiscard]] Line write_scores(Worksheet& sheet, const Network& network, const Loss& loss,
                                const Line& x, const Phase& phase = Phase::in_use());

/// The loss of each row [example], whose mean the loss is.
/// @param scores as `write_scores` gives them
[[nodiscard]] Tensor loss_of_rows(const Loss& loss, const Tensor& scores, const Tensor& truth);

}  // namespace lattice
