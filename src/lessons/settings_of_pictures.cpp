#include "lessons/setting_kinds.hpp"

#include <nlohmann/json.hpp>

#include "lattice/data/picture.hpp"
#include "lattice/files/pictures.hpp"

namespace lattice::settings {
namespace {

/// A size of pictures among what is done to them.
LessonSetting size_setting(std::string key, std::optional<PictureSize> PictureChanges::*place,
                           std::string sentence) {
  return or_word("none",
                 own_setting(
                     "data", std::move(key), Entry::text, "ROWSxCOLUMNS", std::move(sentence),
                     [place](Lesson& l, const Json& v) {
                       l.picture_changes.*place = parse_picture_size(text_in(v));
                     },
                     [place](const Lesson& l) -> Json {
                       const std::optional<PictureSize>& size = l.picture_changes.*place;
                       return size ? Json(to_string(*size)) : Json();
                     }),
                 [place](Lesson& l) { l.picture_changes.*place = std::nullopt; });
}

}  // namespace

void add_picture_settings(std::vector<LessonSetting>& all) {
  all.push_back(
      text_setting("data", "labels", &Lesson::labels, "PATH",
                   "The class of each picture of the file: IDX, NPY, or text with a label a line"));
  all.push_back(own_setting(
      "data", "classes", Entry::list, "A,B",
      "The names of the classes, of number 0, of number 1 …, where labels are numbers",
      [](Lesson& l, const Json& v) { l.class_names = texts_in(v); },
      [](const Lesson& l) -> Json {
        return l.class_names.empty() ? Json() : Json(l.class_names);
      }));
  all.push_back(or_word(
      "none",
      own_setting(
          "data", "picture", Entry::text, "12x12x1",
          "The rows of a table are pictures: rows, columns and channels, those of each point side "
          "by "
          "side",
          [](Lesson& l, const Json& v) {
            l.picture = text_in(v);
            static_cast<void>(parse_picture_shape(l.picture));
          },
          [](const Lesson& l) -> Json { return l.picture.empty() ? Json() : Json(l.picture); }),
      [](Lesson& l) { l.picture.clear(); }));
  all.push_back(own_setting(
      "data", "grey", Entry::yes_or_no, "", "Pictures in colour are made grey",
      [](Lesson& l, const Json& v) { l.picture_changes.grey = yes_or_no_in(v); },
      [](const Lesson& l) -> Json { return l.picture_changes.grey; }));
  all.push_back(size_setting("crop", &PictureChanges::crop,
                             "So much around the middle of each picture is kept"));
  all.push_back(size_setting("resize", &PictureChanges::size, "Pictures are brought to this size"));
  all.push_back(choice_setting(
      "data", "resize_by", resizing_words, [](auto& l) -> auto& { return l.picture_changes.by; },
      "HOW", "area (the mean of what a new point covers) or linear (between the nearest four)"));
}

}  // namespace lattice::settings
