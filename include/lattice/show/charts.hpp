#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
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
#include "lattice/learning/worked_sheet.hpp"
#include "lattice/network/network.hpp"
#include "lattice/show/picture_grid.hpp"
#include "lattice/worksheet/curve.hpp"

namespace lattice {

/// The width and height of a picture, in pixels.
struct ChartSize {
  std::int64_t width;
  std::int64_t height;
};

/// A picture for the program gnuplot to draw: one frame, or several that follow one another.
class Chart {
 public:
  /// @param frames the gnuplot commands of each frame
  /// @param size the size where none is asked for
  Chart(std::vector<std::string> frames, const std::optional<ChartSize>& size = std::nullopt)
      : frames_(std::move(frames)), size_(size) {}

  [[nodiscard]] const std::vector<std::string>& frames() const { return frames_; }

  /// Draws it in the format of the path's extension: `.svg`, `.png`, or `.gif`, which is animated.
  /// The others show the last frame.
  /// @param size by default that of the chart, else 1280 × 800, or 800 × 560 if animated
  /// @throws SettingError for another extension; ProgramError when gnuplot (package gnuplot-nox) is
  ///         missing or fails; FileError.
  void write(const std::filesystem::path& path,
             const std::optional<ChartSize>& size = std::nullopt) const;

  /// Refuses a path that a chart cannot be written to. @throws SettingError.
  static void check_ending(const std::filesystem::path& path);

 private:
  std::vector<std::string> frames_;
  std::optional<ChartSize> size_;
};

/// The ranges of the axes of curves; those left out follow from the curves.
struct CurveRanges {
  std::optional<Stretch> across = std::nullopt;  ///< of epochs or steps
  std::optional<Stretch> loss = std::nullopt;
  std::optional<Stretch> accuracy = std::nullopt;
};

/// A run and its name.
using NamedRun = std::pair<std::string, RunRecord>;

/// Loss and accuracy by epoch; of one run: running, train and validation; of several, overlaid, the
/// train and the validation part of each. Changes of the rate are marked. A single run with
/// recorded steps is drawn by step, with its minibatches and the evaluations between epochs.
/// @param references accuracies of others, as horizontal lines
[[nodiscard]] Chart curves_chart(const std::string& title, const std::vector<NamedRun>& runs,
                                 const std::vector<Reference>& references = {},
                                 const CurveRanges& ranges = {});

/// The runs of one setting, and its name.
using NamedRuns = std::pair<std::string, std::vector<RunRecord>>;

/// Several runs of each of several settings by epoch: every run faintly, and their mean, on the
/// validation part, or the train part where there is none.
[[nodiscard]] Chart spread_chart(const std::string& title, const std::vector<NamedRuns>& settings,
                                 const std::vector<Reference>& references = {});

/// The answers of a model over the plane of two features at one moment.
struct MapMoment {
  std::string title;  ///< `before`, `epoch 12`
  DecisionMap map;
  Tensor answers = {};  ///< the answered class of each row [row]; if empty, no ring is drawn
};

/// The rows of a set of two features over the decision regions of a model, wrong answers ringed;
/// one panel for each moment, side by side, or one frame for each.
/// @param data in the units of the map
[[nodiscard]] Chart regions_chart(const std::string& title, const Dataset& data,
                                  const std::vector<MapMoment>& moments, bool as_frames = false);

/// The predictions of a model along its only feature at one moment.
struct LineMoment {
  std::string title;  ///< `before training`, `step 12`
  AnswerCurve curve;
};

/// The rows of a set of one feature as points, and the learnt line or curve: dashed before
/// training, faint during it, solid at the end; or one frame for each moment.
/// @param data in the units of the curves
/// @param up the range of the target axis; by default that of the rows, with a margin
[[nodiscard]] Chart line_chart(const std::string& title, const Dataset& data,
                               const std::vector<LineMoment>& moments, bool as_frames = false,
                               const std::optional<Stretch>& up = std::nullopt);

/// How a weight is drawn.
struct WeightSetting {
  std::vector<std::string> input_names = {};
  std::vector<std::string> unit_names = {};

  /// The shape of the inputs before they were flattened: [row × column × channel].
  std::optional<Shape> inputs = std::nullopt;
};

/// A weight as a table: a row for each input, a column for each unit. Kernels, and weights whose
/// inputs are pixels, as pictures: one for each output unit or channel and each input channel.
/// @throws ShapeError when the weight has one axis, or a number of inputs that does not fit.
[[nodiscard]] Chart weights_chart(const std::string& title, const Tensor& weight,
                                  const WeightSetting& setting = {});

/// Pictures under a heading, or beside it where they have no captions, all on one scale.
struct PictureBand {
  std::string heading = {};
  std::vector<CaptionedPicture> pictures;
  std::optional<Brightness> brightness = Brightness{};  ///< or teal above 0 and plum below
  std::optional<double> darkest = std::nullopt;         ///< drawn darkest; by default the largest
};

/// Bands of pictures, one below the other, as large as the page allows.
[[nodiscard]] Chart pictures_chart(const std::string& title, const std::vector<PictureBand>& bands);

/// Pictures of one's own in a grid, from black for the lowest number of all to white for the
/// highest.
///
/// @code
/// Random random(1);
/// pictures_chart("noise", uniform(Shape{6, 8, 8, 1}, 0, 1, random)).write("noise.png");
/// @endcode
/// @param pictures [picture × row × column], or with channels: 1 for grey, 3 for colours
/// @param captions one a picture, or none
/// @throws ShapeError for another shape or number of captions.
[[nodiscard]] Chart pictures_chart(const std::string& title, const Tensor& pictures,
                                   const std::vector<std::string>& captions = {});

/// A column of numbers of a dataset: a feature of a table, or a number to predict.
struct DataColumn {
  bool is_target = false;
  std::int64_t number = 0;  ///< which feature, or which target
};

/// The column with a name: a feature of a table, or a number to predict.
/// @throws NameError for another name.
[[nodiscard]] DataColumn data_column(const Dataset& data, const std::string& name);

/// Rows as points in the plane of two columns, in a colour and a mark for each class.
[[nodiscard]] Chart points_chart(const std::string& title, const RowSet& rows, DataColumn across,
                                 DataColumn up);

/// A function of the number across, drawn over points; and its name, which may be empty.
struct PlaneFunction {
  std::string name = {};
  std::function<double(double across)> function;
};

/// The straight line where across·x + up·y + constant = 0, such as the border between two classes.
struct PlaneLine {
  std::string name = {};
  double across;
  double up;
  double constant;
};

/// What stands around and over points of one's own.
struct PointsView {
  std::string across = "x";  ///< what the axes are called
  std::string up = "y";
  std::vector<std::string> classes = {};  ///< the names of class 0, of class 1 …
  std::vector<PlaneFunction> functions = {};
  std::vector<PlaneLine> lines = {};
};

/// Points of one's own, in a colour and a mark for each class, and functions and lines over them.
///
/// @code
/// const Tensor pots = tensor({{2.0, 7.5}, {3.1, 8.2}, {6.4, 3.0}});
/// points_chart("pots", pots, tensor({0, 0, 1}),
///              {.across = "width", .up = "height", .classes = {"vase", "plate"},
///               .lines = {{"border", 1.0, -1.0, 0.0}}})
///     .write("pots.svg");
/// @endcode
/// @param points [point × 2]
/// @param classes [point], or empty for points without classes
/// @throws ShapeError for other shapes, NumberError for a class that is not a whole number from 0,
///         SettingError for a line without direction, and for points none of which is finite.
[[nodiscard]] Chart points_chart(const std::string& title, const Tensor& points,
                                 const Tensor& classes, const PointsView& view = {});

/// Numbers that follow one another, such as losses by step, and their name.
struct Series {
  std::string name;
  std::vector<double> numbers;
  double first = 1.0;  ///< where the first stands across
  double apart = 1.0;  ///< how far across from one to the next
};

/// What the axes of series are called, and their ranges.
struct SeriesView {
  std::string across = "step";
  std::string up = {};
  std::optional<Stretch> across_range = std::nullopt;  ///< by default that of the numbers
  std::optional<Stretch> up_range = std::nullopt;
};

/// Series of one's own, overlaid.
///
/// @code
/// std::vector<double> losses = {1.38, 0.91, 0.64};
/// series_chart("glazes", {{"train", losses}}, {.across = "epoch", .up = "loss"})
///     .write("loss.svg");
/// @endcode
/// @throws SettingError when there is no number to draw.
[[nodiscard]] Chart series_chart(const std::string& title, const std::vector<Series>& series,
                                 const SeriesView& view = {});

/// How often each number comes, column by column: for classes a line for each. Of more than 12
/// features the first.
[[nodiscard]] Chart histograms_chart(const std::string& title, const RowSet& rows);

/// The correlation of each feature and each number to predict with each other (Pearson's r); 0
/// where a column is constant.
/// @throws ShapeError for examples that are not a table, or have more than 40 columns.
[[nodiscard]] Chart correlations_chart(const std::string& title, const RowSet& rows);

/// The confusion matrix, with counts and shares.
[[nodiscard]] Chart confusion_chart(const std::string& title, const ClassJudgement& judgement);

/// Functions of one variable and their derivatives.
[[nodiscard]] Chart function_chart(const std::vector<std::pair<std::string, Curve>>& curves,
                                   const std::string& title = "activation and derivative",
                                   const std::optional<Stretch>& up = std::nullopt);

/// Paths of descent over the loss of the whole set, one panel each.
/// @param across_name the name of the weight on the horizontal axis
[[nodiscard]] Chart descent_chart(const std::string& title, const LossSurface& surface,
                                  const std::vector<DescentPath>& paths,
                                  const std::string& across_name, const std::string& up_name);

/// A row of the data and the network's answer.
struct Sample {
  std::int64_t row;              ///< its number in the data
  std::vector<double> features;  ///< scaled, to be drawn as bars
  std::string truth;
  std::string answer;
};

/// A few rows side by side, each with its features as bars, its class and the network's answer.
[[nodiscard]] Chart samples_chart(const std::string& title,
                                  const std::vector<std::string>& feature_names,
                                  const std::vector<Sample>& samples);

/// The answers of a model to records: the probability of each class as a bar, one panel for each of
/// at most 24 records.
/// @throws SettingError where the answers are not probabilities.
[[nodiscard]] Chart answers_chart(const std::string& title, const Model& model,
                                  const Answers& answers);

/// A network for one example of a worked minibatch or answer: a column of cells for each line that
/// the example passes through, with its values or gradients, and lines between them, as wide as
/// their weights are large. Of more than 24 units a cell stands for a few, and has their mean.
/// @param example its position in the minibatch
/// @throws SettingError for a sheet without examples, or when there is no such example.
[[nodiscard]] Chart network_chart(const std::string& title, const WorkedSheet& work,
                                  const AxisNames& names = {}, std::int64_t example = 0,
                                  bool gradients = false);

/// The plan of a network, and its name.
using NamedPlan = std::pair<std::string, Plan>;

/// Networks side by side, layer by layer from the top: the shapes between layers, the number of
/// weights of each, and the skip connections of residual blocks. The picture is as large as it
/// needs to be.
[[nodiscard]] Chart blocks_chart(const std::vector<NamedPlan>& networks);

/// A network's name, and the activations and gradients of its layers at several moments of a run.
using NamedFlow = std::pair<std::string, std::vector<FlowMoment>>;

/// Networks side by side, layer by layer from the input on the left: the norm of the gradient of
/// each layer's output, and below the standard deviation of that output, at several moments, the
/// later the darker. The vertical axes are logarithmic.
[[nodiscard]] Chart layer_flow_chart(const std::vector<NamedFlow>& networks);

}  // namespace lattice
