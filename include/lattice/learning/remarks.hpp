#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/split.hpp"
#include "lattice/data/table.hpp"
#include "lattice/judging/figures.hpp"
#include "lattice/judging/loss.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/learning/layer_flow.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/learning/training.hpp"
#include "lattice/network/network.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/remark.hpp"
#include "lattice/worksheet/worksheet.hpp"

/// Remarks on common mistakes. Each has a code that never changes, and a page of that name in
/// `docs/remarks/`.
namespace lattice {

/// All codes, in the order of a lesson; then those of the subjects in use.
[[nodiscard]] std::vector<std::string_view> remark_codes();

/// On a table that was read: `decimal-commas`, columns in which commas were read as decimal
/// points.
[[nodiscard]] std::vector<Remark> remarks_on(std::span<const Table::DecimalCommas> commas,
                                             std::string_view table);

/// On a split dataset before training:
/// - `sorted-rows`: the rows are sorted by class and were split in that order;
/// - `class-missing`: a class is missing from the train part, or from another part;
/// - `constant-feature`: a feature is the same in every row of the train part;
/// - `features-differ`: features of very different magnitude are not scaled;
/// - `own-scaling`: a part is scaled by its own mean and standard deviation.
[[nodiscard]] std::vector<Remark> remarks_on(const Split& split);

/// On a network before training: `zero-start`, a hidden dense layer whose units have identical
/// incoming and outgoing weights.
[[nodiscard]] std::vector<Remark> remarks_on(const Network& network);

/// On a network and its train rows: the remark of the subject of connected rows where no layer uses
/// the connections.
[[nodiscard]] std::vector<Remark> remarks_on(const Network& network, const RowSet& rows);

/// On the lines of a worksheet:
/// - `softmax-twice`: a cross-entropy of scores gets the output of softmax or sigmoid;
/// - `naive-log`: the log of a softmax or a sigmoid, which fails when that is rounded to 0;
/// - `epsilon-lost`: the small number added before a log is lost in rounding;
/// - `square`: a column [n × 1] is combined with a list [n], and both are broadcast to [n × n];
/// - `number-by-number`: two matrices that have a matrix product are multiplied number by number,
///   and broadcast for it.
[[nodiscard]] std::vector<Remark> remarks_on(const Worksheet& sheet);

/// On a run:
/// - `first-loss`: the loss before the first update is far from that of a uniform guess;
/// - `rate-too-high`: the loss has grown by a hundredth or more, or is no longer a number;
/// - `running-lags`: the running loss is above the validation loss, but only because it lags;
/// - `went-on`: the run was resumed, not started over;
/// - `no-validation`: there is no validation part, so epochs were compared by the train part;
/// - `overfitting`: the validation loss has had no new minimum for long and has grown, while the
///   train loss fell.
/// @param classes the number of classes; 0 for numeric targets
[[nodiscard]] std::vector<Remark> remarks_on(const RunRecord& run, std::int64_t classes);

/// On the activations and gradients of a network (`look_through`):
/// - `gradient-vanishes`: the gradient norm at the first layer with weights is less than a
///   hundredth of that at the last;
/// - `gradient-explodes`: it is more than a hundred times that at the last;
/// - `dead-units`: more than half of the units of a layer give 0 for every example.
/// @param when a few words: `before training`
[[nodiscard]] std::vector<Remark> remarks_on(const std::vector<LayerFlow>& layers,
                                             std::string_view when);

/// On a network with batch normalisation, its training settings and the run:
/// - `minibatch-of-one`: minibatches have a single number to normalise;
/// - `running-statistics`: the running statistics are still close to their initial values, so that
///   the network behaves differently in evaluation;
/// - `train-and-use-apart`: it is much worse in evaluation, on the rows it was trained on.
/// @param rows the number of train rows
[[nodiscard]] std::vector<Remark> remarks_on(const Network& network, const TrainSettings& settings,
                                             std::int64_t rows, const RunRecord& run);

/// On a run compared with another, such as that of its lesson: `summed-rate`, the loss is a sum
/// over rows and the rate is the same, although minibatches are larger.
[[nodiscard]] std::vector<Remark> remarks_on(const TrainSettings& before, const TrainSettings& now);

/// On comparing settings by the parts of a split: `no-validation`, or `chosen-by-test` where there
/// is a test part.
[[nodiscard]] std::vector<Remark> remarks_on_choosing(const Split& split);

/// On showing the test figures of several settings: `chosen-by-test`, unless `remarks_on_choosing`
/// says so already.
[[nodiscard]] std::vector<Remark> remarks_on_test_figures(const Split& split);

/// On raw records [example × …] that a model is asked about:
/// - `far-outside`: a number is far outside the range of the train part;
/// - `scaled-already`: a record seems to have been scaled already.
[[nodiscard]] std::vector<Remark> remarks_on(const Model& model, const Examples& examples);

/// On a mean accumulated over minibatches: `mean-of-means`, the plain mean of the minibatches'
/// means differs from it, since they have different numbers of rows.
[[nodiscard]] std::vector<Remark> remarks_on(const MeanOfRows& mean);

/// The remarks whose code is not in a list; none when the list has `all`.
[[nodiscard]] std::vector<Remark> without(std::vector<Remark> remarks,
                                          std::span<const std::string> quiet);

}  // namespace lattice
