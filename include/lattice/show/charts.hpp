#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "lattice/judging/answer_curve.hpp"
#include "lattice/judging/assess.hpp"
#include "lattice/judging/decision_map.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/learning/descent_path.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/network/network.hpp"
#include "lattice/show/picture_grid.hpp"
#include "lattice/worksheet/curve.hpp"

namespace lattice {

/// How wide and how high a picture is, in pixels.
struct ChartSize {
  std::int64_t width;
  std::int64_t height;
};

/// A picture for the program gnuplot to draw: one frame, or several that follow one another.
class Chart {
 public:
  /// @param frames what each frame plots, in gnuplot's language
  /// @param size what it is drawn in where no other is asked for
  Chart(std::vector<std::string> frames, const std::optional<ChartSize>& size = std::nullopt)
      : frames_(std::move(frames)), size_(size) {}

  [[nodiscard]] const std::vector<std::string>& frames() const { return frames_; }

  /// Draws it; the ending of the path says how: `.svg`, `.png`, or `.gif`, which shows every frame
  /// in turn. The others show the last.
  /// @param size that of the chart when left out, else 1280 × 800, or 800 × 560 where it moves
  /// @throws SettingError for another ending; ProgramError when gnuplot (package gnuplot-nox) is
  ///         missing or fails; FileError.
  void write(const std::filesystem::path& path,
             const std::optional<ChartSize>& size = std::nullopt) const;

  /// Refuses a path that a chart cannot be written to. @throws SettingError.
  static void check_ending(const std::filesystem::path& path);

 private:
  std::vector<std::string> frames_;
  std::optional<ChartSize> size_;
};

/// What curves show of their axes; what is left out follows from the curves.
struct CurveRanges {
  std::optional<Stretch> across = std::nullopt;  ///< of epochs or steps
  std::optional<Stretch> loss = std::nullopt;
  std::optional<Stretch> accuracy = std::nullopt;
};

/// A run and what it is called.
using NamedRun = std::pair<std::string, RunRecord>;

/// Loss and accuracy by epoch; of one run: running, train and validation; of several, overlaid, the
/// train and the validation part of each. Changes of the rate are marked. One run whose steps were
/// recorded is drawn by step, with its minibatches and what was looked at between epochs.
/// @param references accuracies that others reached, as lines across
[[nodiscard]] Chart curves_chart(const std::string& title, const std::vector<NamedRun>& runs,
                                 const std::vector<Reference>& references = {},
                                 const CurveRanges& ranges = {});

/// Runs of one setting and what it is called.
using NamedRuns = std::pair<std::string, std::vector<RunRecord>>;

/// Several runs of each of several settings by epoch: every run faintly, and their mean; of the
/// part that was watched.
[[nodiscard]] Chart spread_chart(const std::string& title, const std::vector<NamedRuns>& settings,
                                 const std::vector<Reference>& references = {});

/// What a model knew about the plane of two features at some moment.
struct MapMoment {
  std::string title;  ///< `before`, `epoch 12`
  DecisionMap map;
  Tensor answers = {};  ///< the class answered for each row [row]; without them nothing is ringed
};

/// The rows of a set of two features over the regions that a model sees, wrong answers ringed; a
/// panel for each moment, side by side, or each in a frame of its own.
/// @param data in the units of the map
[[nodiscard]] Chart regions_chart(const std::string& title, const Dataset& data,
                                  const std::vector<MapMoment>& moments, bool as_frames = false);

/// What a model predicted along its only feature at some moment.
struct LineMoment {
  std::string title;  ///< `before training`, `step 12`
  AnswerCurve curve;
};

/// The rows of a set of one feature as points, and the line or curve learnt: dashed before
/// training, faint on the way, full at the end; or each moment in a frame of its own.
/// @param data in the units of the curves
/// @param up the stretch of the targets that is shown; that of the rows, with some to spare
[[nodiscard]] Chart line_chart(const std::string& title, const Dataset& data,
                               const std::vector<LineMoment>& moments, bool as_frames = false,
                               const std::optional<Stretch>& up = std::nullopt);

/// What is known of a weight that is drawn.
struct WeightSetting {
  std::vector<std::string> input_names = {};
  std::vector<std::string> unit_names = {};

  /// How the inputs lie: [row × column × channel], for pixels that were flattened.
  std::optional<Shape> inputs = std::nullopt;
};

/// A weight as a table: a row for each input, a column for each unit. Kernels, and weights whose
/// inputs lie as a picture, as pictures: one for each unit or channel that goes out, and for each
/// channel that comes in.
/// @throws ShapeError when the weight has one axis, or another number of inputs than was told.
[[nodiscard]] Chart weights_chart(const std::string& title, const Tensor& weight,
                                  const WeightSetting& setting = {});

/// Pictures under a heading, or beside it where they have no captions, all on one scale.
struct PictureBand {
  std::string heading = {};
  std::vector<CaptionedPicture> pictures;
  std::optional<Brightness> brightness = Brightness{};  ///< or teal above 0 and plum below
  std::optional<double> darkest = std::nullopt;  ///< what is darkest then; else the largest number
};

/// Pictures beside each other, band below band, as large as the page allows.
[[nodiscard]] Chart pictures_chart(const std::string& title, const std::vector<PictureBand>& bands);

/// True classes by answers, with counts and shares.
[[nodiscard]] Chart confusion_chart(const std::string& title, const ClassJudgement& judgement);

/// Functions of one number and their derivatives.
[[nodiscard]] Chart function_chart(const std::vector<std::pair<std::string, Curve>>& curves,
                                   const std::string& title = "activation and derivative",
                                   const std::optional<Stretch>& up = std::nullopt);

/// Paths of descent over the loss of the whole set, a panel each.
/// @param across_name what the two weights are called
[[nodiscard]] Chart descent_chart(const std::string& title, const LossSurface& surface,
                                  const std::vector<DescentPath>& paths,
                                  const std::string& across_name, const std::string& up_name);

/// A row of the data and what a network says about it.
struct Sample {
  std::int64_t row;              ///< its number in the data
  std::vector<double> features;  ///< scaled, to be drawn as bars
  std::string truth;
  std::string answer;
};

/// A few rows side by side, each with its features as bars, what it is, and what a network says.
[[nodiscard]] Chart samples_chart(const std::string& title,
                                  const std::vector<std::string>& feature_names,
                                  const std::vector<Sample>& samples);

/// What a model says about records: the probability of each class as a bar, a panel a record; of
/// the first 24 records, where there are more.
/// @throws SettingError where the answers are no probabilities.
[[nodiscard]] Chart answers_chart(const std::string& title, const Model& model,
                                  const Answers& answers);

/// A network as it is planned, and what it is called.
using NamedPlan = std::pair<std::string, Plan>;

/// Networks side by side, layer by layer from the top: what passes from one to the next, how many
/// numbers each learns, and the skip connections of residual blocks. The picture is as large as it
/// has to be.
[[nodiscard]] Chart blocks_chart(const std::vector<NamedPlan>& networks);

/// A network by its name, and what passed through its layers at several moments of a run.
using NamedDepth = std::pair<std::string, std::vector<Depth>>;

/// What passes through networks beside each other, layer by layer from what comes in on the left:
/// how long the gradient is that arrives there, and below how widely the numbers are spread; at
/// several moments, the later the darker. Both upwards by powers of ten.
[[nodiscard]] Chart depth_chart(const std::vector<NamedDepth>& networks);

}  // namespace lattice
