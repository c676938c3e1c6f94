#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <nlohmann/json.hpp>
#include <utility>

#include "files/file.hpp"
#include "lattice/pictures/around/reading.hpp"
#include "lattice/pictures/around/subject.hpp"
#include "lattice/pictures/picture.hpp"
#include "lattice/pictures/subject.hpp"
#include "lattice/show/picture_grid.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "pictures/around/page_files.hpp"
#include "pictures/around/picture_settings.hpp"
#include "pictures/around/watched_picture.hpp"
#include "show/ink.hpp"

/// What is shown of pictures.
namespace lattice {
namespace {

DataView view_of_pictures(const Dataset& data, const TerminalStyle& style) {
  std::vector<CaptionedPicture> pictures = samples_of(data, style.most_rows);
  pictures.insert(pictures.begin(), {.picture = mean_picture(data), .caption = "the mean"});
  const std::int64_t rows = data.rows();
  return {.about = fmt::format("{} {}, each {}\n", rows, rows == 1 ? "picture" : "pictures",
                               to_string(data.example())),
          .feature_role = "pixels",
          .heading = "the mean picture, and the first",
          .rows = show_pictures(pictures, style, brightness_of(data.features))};
}

// Channels

std::optional<std::int64_t> row_in(const SubjectChart::Request& asked) {
  const auto found = asked.options.find("--row");
  if (found == asked.options.end()) return std::nullopt;
  const std::optional<std::int64_t> row = parse_whole_number(found->second);
  if (row && *row >= 0) return row;
  throw SettingError({.what = fmt::format("--row cannot be '{}'", found->second),
                      .expected = "a whole number, 0 or more",
                      .found = fmt::format("'{}'", found->second)});
}

Chart draw_channels(const SubjectChart::Request& asked) {
  const std::optional<std::int64_t> told = row_in(asked);
  const TrainedLesson trained = asked.trained();
  const Dataset& data = trained.prepared.data();
  if (!is_raster(data.example())) {
    throw SettingError({.what = "a chart of channels needs a network for pictures",
                        .expected = "examples [row × column × channel]",
                        .found = to_string(data.example())});
  }
  const std::int64_t row =
      told.value_or(trained.prepared.split[last_part(trained.prepared.split)].rows().front());
  const RowSet one(data, {row});
  const Preparation& preparation = trained.prepared.split.data().preparation;
  Worksheet sheet;
  static_cast<void>(trained.network.forward(
      sheet, sheet.given("x", preparation.prepared(one.as_measured().features()))));
  std::vector<CaptionedPicture> sample = samples_of(one, 1);
  const std::string caption = std::exchange(sample.front().caption, {});
  std::vector<PictureBand> bands = {{.heading = "row " + caption,
                                     .pictures = std::move(sample),
                                     .brightness = brightness_of(data.features)}};
  for (const Plan::Row& layer : trained.network.plan().rows) {
    if (!is_raster(layer.outputs)) continue;
    const Tensor& numbers = sheet.line(layer.name).value();
    PictureBand band{.heading = layer.name == layer.layer
                                    ? layer.name
                                    : fmt::format("{}: {}", layer.name, layer.layer),
                     .pictures = {},
                     .brightness = std::nullopt};
    for (std::int64_t channel = 0; channel < layer.outputs[2]; ++channel) {
      const Tensor one_channel = slice(numbers, 3, {.from = channel, .end = channel + 1});
      band.pictures.push_back({.picture = one_channel.reshaped(layer.outputs.with_extent(2, 1))});
    }
    bands.push_back(std::move(band));
  }
  return pictures_chart(
      fmt::format("{}: what each channel gives (teal above 0, plum below)", data.name), bands);
}

// A run that is watched

/// The pictures that are wrong in a run that is watched.
class WatchedPictures final : public WatchedSubject {
 public:
  explicit WatchedPictures(const Prepared& prepared)
      : prepared_(prepared),
        brightness_(brightness_of(prepared.data().taking(prepared.split.train.rows()).features)) {}

  [[nodiscard]] std::string_view key() const override { return "wrong"; }

  /// The worst first, each with its answer.
  [[nodiscard]] Json moment(const Network& network, const RowSet& rows) const override {
    constexpr std::int64_t most_shown = 12;
    const Dataset& data = prepared_.data();
    const std::vector<JudgedRow> wrong = rows_got_wrong(network, prepared_.loss, rows, most_shown);
    std::vector<std::int64_t> numbers(wrong.size());
    std::ranges::transform(wrong, numbers.begin(), &JudgedRow::row);
    std::vector<CaptionedPicture> pictures = samples_of(RowSet(data, numbers), most_shown);
    Json json = Json::array();
    for (std::size_t at = 0; at < pictures.size(); ++at) {
      pictures[at].answer = data.class_name(wrong[at].answer);
      json.push_back(watched_picture(pictures[at], brightness_));
    }
    return json;
  }

 private:
  const Prepared& prepared_;
  Brightness brightness_;
};

// Questions

/// What was done to the training pictures of a model, and what else makes others like them.
PictureChanges changes_for(const ModelFile& file) {
  const Shape example = file.model.network.example();
  PictureChanges changes = file.lesson.own.of<PictureSettings>().changes;
  if (!changes.size) changes.size = PictureSize{example[0], example[1]};
  changes.grey = changes.grey || example[2] == 1;
  return changes;
}

/// A file and the folder that it is in.
std::string short_path(const std::filesystem::path& path) {
  return (path.parent_path().filename() / path.filename()).string();
}

/// The pictures as the model saw them, each with its answer; nothing of many.
std::string show_with_answers(const Examples& raw, const Model& model, const Answers& answers,
                              const TerminalStyle& style) {
  constexpr std::int64_t most_shown = 12;
  const std::int64_t count = answers.scores.shape()[0];
  if (count > most_shown) return "";
  std::vector<CaptionedPicture> pictures;
  for (std::int64_t row = 0; row < count; ++row) {
    const std::vector<std::int64_t> one = {row};
    std::string caption = answers.name_of(row);
    if (!model.class_names.empty() && answers.has_answer(row)) {
      caption += fmt::format(
          " {}", model.class_names[static_cast<std::size_t>(answers.classes.at_offset(row))]);
    }
    pictures.push_back(
        {.picture = raw.rows(one).reshaped(model.network.example()), .caption = caption});
  }
  return show_pictures(pictures, style, brightness_of(raw)) + "\n";
}

/// The class of each file by the folder that it is in, empty where no class is called like that;
/// nothing where none is.
std::vector<std::string> classes_by_folder(const std::vector<std::string>& files,
                                           const Model& model) {
  std::vector<std::string> classes;
  for (const std::string& file : files) {
    const std::string folder = std::filesystem::path(file).parent_path().filename().string();
    const bool is_class = std::ranges::find(model.class_names, folder) != model.class_names.end();
    classes.push_back(is_class ? folder : "");
  }
  const bool has_any =
      std::ranges::any_of(classes, [](const std::string& name) { return !name.empty(); });
  return has_any ? classes : std::vector<std::string>();
}

Questions pictures_asked(const ModelFile& file, const std::vector<std::string>& paths) {
  const Shape example = file.model.network.example();
  PicturesAlone read = read_pictures_alone(paths, changes_for(file));
  if (example[2] == 3) read.pictures = in_colour(read.pictures);
  if (read.pictures.shape().without_first_axis() != example) {
    throw ShapeError({.what = "the pictures do not have the shape that the model was trained on",
                      .expected = to_string(example),
                      .found = to_string(read.pictures.shape().without_first_axis())});
  }
  Questions questions{.raw = read.pictures, .files = read.names};
  for (const std::string& path : read.names)
    questions.names.push_back(short_path(path));
  if (!read.told.empty()) questions.notes.push_back(read.told);
  questions.notes.insert(questions.notes.end(), read.fitted.begin(), read.fitted.end());
  questions.truth = classes_by_folder(read.names, file.model);
  return questions;
}

Dataset labelled_pictures(const ModelFile& file, const std::vector<std::string>& files,
                          const std::vector<std::string>& labels, std::vector<std::string>& notes) {
  const Model& model = file.model;
  PicturesReading read = read_pictures({.places = picture_places(files, labels),
                                        .class_names = model.class_names,
                                        .changes = changes_for(file),
                                        .may_be_one_class = true});
  if (!read.told.empty()) notes.push_back(read.told);
  Dataset& data = read.data;
  data.target_names = model.target_names;
  if (model.network.example()[2] == 3) data.features = in_colour(data.features);
  return data.in(model.network.precision()).prepared_by(model.preparation);
}

}  // namespace

bool use_pictures_around() {
  static const bool is_known = [] {
    use_pictures();
    know(pictures_in_lessons());
    know(ShownSubject{
        .name = "pictures",
        .data_view = view_of_pictures,
        .watched = [](const Prepared& prepared) -> std::unique_ptr<WatchedSubject> {
          const Dataset& data = prepared.data();
          if (!data.has_classes() || !is_raster(data.example())) return nullptr;
          return std::make_unique<WatchedPictures>(prepared);
        },
        .watch = page_files::pictures.watch,
        .words = {{"wrong_now", "Wrong now, worst first: {part} part, epoch {epoch}"},
                  {"nothing_wrong", "Nothing wrong: {part} part, epoch {epoch}"},
                  {"said", "said {answer}"}},
        .terms =
            {{"convolution",
              "A kernel slides over a picture. At each place the numbers under it are multiplied "
              "by its weights and added up.",
              "convolution"},
             {"kernel", "A small square of weights, the same at every place of the picture.",
              "convolution"},
             {"channel",
              "One picture of several that lie on top of each other: red, green and blue at "
              "first, then one for each kernel.",
              "convolution, max pooling, mean pooling, normalised"},
             {"padding", "Zeros around a picture, so that a kernel also fits at the border.",
              "convolution"},
             {"stride", "How far a window moves from one place to the next.",
              "convolution, max pooling, mean pooling"},
             {"patch", "The part of a picture that is under a window at one place.", "convolution"},
             {"pooling",
              "Each window of a picture becomes one number, its largest or its mean: the picture "
              "gets smaller.",
              "max pooling, mean pooling"},
             {"augmentation",
              "Pictures are shifted, turned or made brighter at random while training, so that "
              "such changes do not matter.",
              "augmented"},
             {"contrast normalisation",
              "Each pixel minus the mean around it, divided by the standard deviation there.",
              "mean around"}},
        .charts = {{.name = "channels",
                    .sentence = "Outputs of each channel for one picture, layer by layer",
                    .options = {{"--row", "N",
                                 "The picture of this row of the data (default: the first of the "
                                 "test part)"}},
                    .takes_rows = true,
                    .draw = draw_channels}},
        .writers = {{.option = "--idx",
                     .type = "FOLDER",
                     .sentence = "Write pictures, labels and class names into a folder, as IDX",
                     .is_folder = true,
                     .write = write_pictures},
                    {.option = "--png",
                     .type = "FOLDER",
                     .sentence = "Write pictures as PNG files into a folder for each class",
                     .is_folder = true,
                     .write = write_png_folders}},
        .question = QuestionKind{
            .option = "pictures",
            .type = "TEXT",
            .sentence = "Pictures, for a model trained on pictures: photo.png …",
            .thing = "pictures",
            .example = "photo.png",
            .fits = [](const Model& model) { return is_raster(model.network.example()); },
            .holds = holds_pictures,
            .read = pictures_asked,
            .show = show_with_answers,
            .labelled = labelled_pictures}});
    return true;
  }();
  return is_known;
}

}  // namespace lattice
