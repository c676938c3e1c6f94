#include <fmt/format.h>
#include <fmt/ranges.h>

#include <nlohmann/json.hpp>

#include "files/file.hpp"
#include "lattice/pictures/around/reading.hpp"
#include "lattice/pictures/augmentation.hpp"
#include "lattice/text/error.hpp"
#include "lessons/column_check.hpp"
#include "lessons/setting_kinds.hpp"
#include "pictures/around/picture_settings.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

using namespace settings;

/// The settings of pictures in a lesson.
auto& of(Lesson& lesson) {
  return lesson.own.of<PictureSettings>();
}
const auto& of(const Lesson& lesson) {
  return lesson.own.of<PictureSettings>();
}

/// A size of pictures among what is done to them.
LessonSetting size_setting(std::string key, std::optional<PictureSize> PictureChanges::*place,
                           std::string sentence) {
  return or_word("none",
                 own_setting(
                     "data", std::move(key), Entry::text, "ROWSxCOLUMNS", std::move(sentence),
                     [place](Lesson& l, const Json& v) {
                       of(l).changes.*place = parse_picture_size(text_in(v));
                     },
                     [place](const Lesson& l) -> Json {
                       const std::optional<PictureSize>& size = of(l).changes.*place;
                       return size ? Json(to_string(*size)) : Json();
                     }),
                 [place](Lesson& l) { of(l).changes.*place = std::nullopt; });
}

LessonSetting shape_setting() {
  return or_word(
      "none",
      own_setting(
          "data", "picture", Entry::text, "12x12x1",
          "Treat each row as a picture: ROWSxCOLUMNSxCHANNELS, channels last",
          [](Lesson& l, const Json& v) {
            of(l).shape = text_in(v);
            static_cast<void>(parse_picture_shape(of(l).shape));
          },
          [](const Lesson& l) -> Json { return of(l).shape.empty() ? Json() : Json(of(l).shape); }),
      [](Lesson& l) { of(l).shape.clear(); });
}

LessonSetting augmentation_setting() {
  return own_setting(
      "training", "augment", Entry::text, "HOW",
      "Augment training pictures: \"shift 2, flip across, flip down, turn 10, brightness 0.2\", or "
      "some of these; \"shift 2x1 filled with 0\"; or none",
      [](Lesson& l, const Json& v) { l.training.augmentation = parse_augmentation(text_in(v)); },
      [](const Lesson& l) -> Json { return text(l.training.augmentation); });
}

// Reading

/// Refuses what is said of a file of pictures where there is none.
void check_pictures(const Lesson& lesson) {
  const PictureSettings& pictures = lesson.own.of<PictureSettings>();
  for (const DataPart part : {DataPart::validation, DataPart::test}) {
    if (pictures.labels_of(part).empty() || !lesson.data.files_of(part).empty()) continue;
    throw SettingError({.what = fmt::format("--{}-labels needs a file of pictures", word(part)),
                        .expected = fmt::format("--{}-file pictures.idx with it", word(part)),
                        .found = "none"});
  }
  const bool is_told = !pictures.labels.empty() || !pictures.validation_labels.empty() ||
                       !pictures.test_labels.empty();
  if (!is_told) return;
  if (!lesson.data.files.empty() && holds_pictures(FileOfClass::in(lesson.data.files.front()).path))
    return;
  throw SettingError({.what = "--labels needs a file of pictures",
                      .expected = "--file pictures.idx with it",
                      .found = "none",
                      .remedy = "in a table, the column --target has the classes"});
}

/// Refuses pictures of a part that are not like the others, and says how they can be.
void check_same_shape(const Dataset& pictures, const Dataset& own, DataPart part) {
  const Shape expected = pictures.example();
  const Shape found = own.example();
  if (expected == found) return;
  const bool same_size = expected[0] == found[0] && expected[1] == found[1];
  throw ShapeError(
      {.what = fmt::format("the pictures of the {} part are not like the others", word(part)),
       .where = own.name,
       .expected = to_string(expected),
       .found = to_string(found),
       .remedy = same_size ? "--grey makes all of them grey"
                           : fmt::format("--resize {}x{} brings all to one size", expected[0],
                                         expected[1])});
}

TableReading read_picture_files(const Lesson& lesson, const DrawRows& draw) {
  const PictureSettings& pictures = lesson.own.of<PictureSettings>();
  const std::string& path = lesson.data.files.front();
  check_no_columns(lesson, fmt::format("{}, {}", path, is_folder(path) ? "a folder" : "pictures"),
                   "pictures in a folder have its name for their class; others take --labels");
  if (!pictures.shape.empty()) {
    throw SettingError({.what = "--picture needs a table of pixels",
                        .expected = "a CSV file of pixels with it",
                        .found = fmt::format("{}, which holds pictures", path),
                        .remedy = "--resize brings pictures to another size"});
  }
  PictureSource source{.places = picture_places(lesson.data.files, pictures.labels),
                       .class_names = lesson.data.columns.class_names,
                       .changes = pictures.changes,
                       .drawn = draw};
  PicturesReading read = read_pictures(source);
  source.drawn = nullptr;
  source.may_be_one_class = true;
  std::vector<std::string> told = {read.told};
  for (const DataPart part : {DataPart::validation, DataPart::test}) {
    if (lesson.data.files_of(part).empty()) continue;
    source.places = picture_places(lesson.data.files_of(part), pictures.labels_of(part));
    const PicturesReading own = read_pictures(source);
    check_same_shape(read.data, own.data, part);
    read.data = with_part(read.data, part, own.data);
    if (!own.told.empty()) told.push_back(fmt::format("{}: {}", word(part), own.told));
  }
  std::erase(told, "");
  return {.data = std::move(read.data), .told = fmt::format("{}", fmt::join(told, "; "))};
}

/// Makes pictures of the rows of a table, and changes those that are read or made.
void change_pictures(const Lesson& lesson, Dataset& data) {
  const PictureSettings& pictures = lesson.own.of<PictureSettings>();
  if (!pictures.shape.empty()) data = as_pictures(data, parse_picture_shape(pictures.shape));
  data.features = changed(data.features, pictures.changes);
}

std::optional<Shape> example_in(const Lesson& lesson) {
  const std::string& shape = lesson.own.of<PictureSettings>().shape;
  return shape.empty() ? std::nullopt : std::optional(parse_picture_shape(shape));
}

}  // namespace

std::vector<PicturePlace> picture_places(const std::vector<std::string>& files,
                                         const std::vector<std::string>& labels) {
  std::vector<PicturePlace> places;
  auto next = labels.begin();
  for (const std::string& text : files) {
    const FileOfClass file = FileOfClass::in(text);
    if (files.size() > 1 && file.class_name.empty() && !holds_pictures(file.path)) {
      throw SettingError({.what = "a table among files of pictures",
                          .where = file.path,
                          .expected = "IDX, NPY, or a folder of PNG files",
                          .found = "another kind of file"});
    }
    PicturePlace place{.path = file.path, .class_name = file.class_name};
    const bool needs_labels = file.class_name.empty() && !is_folder(file.path);
    if (needs_labels && next != labels.end()) place.labels = *next++;
    places.push_back(std::move(place));
  }
  if (next == labels.end()) return places;
  throw SettingError(
      {.what = "there are more files of labels than files of pictures that need them",
       .where = *next,
       .expected = "labels for each IDX or NPY file without a class, in order",
       .found = counted(std::ssize(labels), Role::none, "file", "files") + " of labels"});
}

LessonSubject pictures_in_lessons() {
  return {
      .name = "pictures",
      .settings =
          {files_setting(
               "data", "labels", [](auto& l) -> auto& { return of(l).labels; },
               "The class of each picture of the file: IDX, NPY, or text with a label a line; one "
               "for each such file, in order"),
           files_setting(
               "split", "validation_labels",
               [](auto& l) -> auto& { return of(l).validation_labels; },
               "The class of each picture of --validation-file"),
           files_setting(
               "split", "test_labels", [](auto& l) -> auto& { return of(l).test_labels; },
               "The class of each picture of --test-file"),
           shape_setting(),
           yes_or_no_setting(
               "data", "grey", [](auto& l) -> auto& { return of(l).changes.grey; },
               "Convert colour pictures to grey"),
           size_setting("crop", &PictureChanges::crop,
                        "Crop each picture to this size, at its middle"),
           size_setting("resize", &PictureChanges::size, "Resize pictures to this size"),
           choice_setting(
               "data", "resize_by", resizing_words,
               [](auto& l) -> auto& { return of(l).changes.by; }, "HOW",
               "area (mean of the area that a new pixel covers) or linear (between the nearest "
               "four)"),
           augmentation_setting()},
      .check = check_pictures,
      .holds = holds_pictures,
      .read = read_picture_files,
      .change = change_pictures,
      .example = example_in};
}

}  // namespace lattice
