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

/// Mistakes that are seen again and again, noticed. Each has a code that stays the same, and a page
/// in `docs/remarks/` under it.
namespace lattice {

/// Every code there is, in the order of a lesson; then those of the subjects in use.
[[nodiscard]] std::vector<std::string_view> remark_codes();

/// About a table that was read: `decimal-commas`, columns in which commas were taken for decimal
/// points.
[[nodiscard]] std::vector<Remark> remarks_on(std::span<const Table::DecimalCommas> commas,
                                             std::string_view table);

/// About a split dataset, as it goes into training:
/// - `sorted-rows`: the rows come sorted by class, and were split in that order;
/// - `class-missing`: a class is in a part, but not in the train part; or a part misses one;
/// - `constant-feature`: a feature is the same in every row to learn from;
/// - `features-differ`: features of very different size are not scaled;
/// - `own-scaling`: a part is prepared with factors of its own.
[[nodiscard]] std::vector<Remark> remarks_on(const Split& split);

/// About a network before it learns: `zero-start`, a hidden dense layer whose units cannot be told
/// apart by the weights that go in, nor by those that go out.
[[nodiscard]] std::vector<Remark> remarks_on(const Network& network);

/// About a network and its train rows: what the subject of connected rows has to say where no layer
/// uses the connections.
[[nodiscard]] std::vector<Remark> remarks_on(const Network& network, const RowSet& rows);

/// About what is on a worksheet:
/// - `softmax-twice`: a cross-entropy that takes scores gets what softmax or sigmoid made of them;
/// - `careless-log`: the log of a softmax or a sigmoid, which breaks when that is rounded to 0;
/// - `epsilon-lost`: the small number that is added in front of a log is rounded to 0 itself;
/// - `square`: a column [n × 1] meets a list [n], and both are stretched to [n × n].
[[nodiscard]] std::vector<Remark> remarks_on(const Worksheet& sheet);

/// About a run:
/// - `first-loss`: the loss before the first update is far from that of a uniform guess;
/// - `rate-too-high`: the loss has grown by a hundredth or more, or is no longer a number;
/// - `running-lags`: the running loss looks worse than the validation loss, and only because it
/// lags;
/// - `went-on`: the run was gone on with, and not started over;
/// - `no-validation`: epochs were compared by the train part, as there is no validation part;
/// - `overfitting`: the validation loss has found no new low for long and has grown, while the
///   train loss fell.
/// @param classes how many there are to tell apart; 0 where numbers are learnt
[[nodiscard]] std::vector<Remark> remarks_on(const RunRecord& run, std::int64_t classes);

/// About what passes through a network (`look_through`):
/// - `gradient-vanishes`: less than a hundredth of the gradient at the end arrives at the first
///   layer that learns;
/// - `gradient-explodes`: more than a hundred times as much does;
/// - `dead-units`: more than half of the units of a layer give 0 for every example.
/// @param when a few words: `before training`
[[nodiscard]] std::vector<Remark> remarks_on(const std::vector<LayerFlow>& layers,
                                             std::string_view when);

/// About a network with batch normalisation, the settings it is trained with and the run:
/// - `minibatch-of-one`: it is normalised by minibatches in which there is one number;
/// - `running-statistics`: its running statistics have hardly moved from where they start, so that
///   it is in use another network than the one that learnt;
/// - `train-and-use-apart`: it is much worse in use, on the rows it learnt from.
/// @param rows how many there are to learn from
[[nodiscard]] std::vector<Remark> remarks_on(const Network& network, const TrainSettings& settings,
                                             std::int64_t rows, const RunRecord& run);

/// About a run beside another one, such as what its lesson says: `summed-rate`, the sum over rows
/// is learnt from with the same rate, though minibatches have become larger.
[[nodiscard]] std::vector<Remark> remarks_on(const TrainSettings& before, const TrainSettings& now);

/// About comparing settings by the parts of a split: `no-validation`, or where there is a test part
/// `chosen-by-test`, which it must not come to.
[[nodiscard]] std::vector<Remark> remarks_on_choosing(const Split& split);

/// About records [example × …] that a model is asked about, as they are measured:
/// - `far-outside`: a number is far from all that was learnt from;
/// - `scaled-already`: a record looks as if it had been scaled before.
[[nodiscard]] std::vector<Remark> remarks_on(const Model& model, const Examples& examples);

/// About a mean that was gathered minibatch by minibatch: `mean-of-means`, the plain mean of the
/// minibatches' means is another number, since not all have as many rows.
[[nodiscard]] std::vector<Remark> remarks_on(const MeanOfRows& mean);

/// Those remarks whose code is not in a list; none when `all` is in it.
[[nodiscard]] std::vector<Remark> without(std::vector<Remark> remarks,
                                          std::span<const std::string> quiet);

}  // namespace lattice
