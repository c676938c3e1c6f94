#pragma once

#include <cstdint>
#include <limits>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

#include "lattice/lessons/lesson.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/words.hpp"

/// What the settings of a lesson are made of: what a value has to be, and settings of one kind.
namespace lattice::settings {

using Entry = LessonSetting::Entry;

/// A value that cannot be.
[[nodiscard]] SettingError wrong(std::string expected, const Json& value);

// What a value has to be. @throws SettingError without a place when it is not.
[[nodiscard]] std::string text_in(const Json& value);
[[nodiscard]] bool yes_or_no_in(const Json& value);
[[nodiscard]] double number_in(const Json& value, double low, double high, const char* expected);
[[nodiscard]] std::int64_t whole_in(const Json& value, std::int64_t low, std::int64_t high,
                                    std::string expected = "");
[[nodiscard]] std::vector<std::string> texts_in(const Json& value);

/// Back: a text, a list of texts, or null for none.
[[nodiscard]] Json one_or_several(const std::vector<std::string>& texts);

/// A name and a number: `hidden = 0.1`. Nothing where it is anything else.
[[nodiscard]] std::optional<std::pair<std::string, double>> named_number(std::string_view text);

// Settings of one kind. `field` gives the field of a lesson: `[](auto& l) -> auto& { return
// l.title; }`.

/// A setting that is read and written by functions of its own.
[[nodiscard]] LessonSetting own_setting(std::string section, std::string key, Entry entry,
                                        std::string type, std::string sentence,
                                        decltype(LessonSetting::set) set,
                                        decltype(LessonSetting::get) get);

/// A setting that a word may be given for: as if it were left out.
template <class Clear>
LessonSetting or_word(std::string word, LessonSetting setting, Clear clear) {
  setting.left_out = std::move(word);
  setting.set = [set = setting.set, word = setting.left_out, clear](Lesson& lesson,
                                                                    const Json& value) {
    if (value.is_string() && value.get_ref<const std::string&>() == word) {
      clear(lesson);
    } else {
      set(lesson, value);
    }
  };
  return setting;
}

template <class Field>
LessonSetting text_setting(std::string section, std::string key, Field field, std::string type,
                           std::string sentence) {
  return own_setting(
      std::move(section), std::move(key), Entry::text, std::move(type), std::move(sentence),
      [field](Lesson& lesson, const Json& value) { field(lesson) = text_in(value); },
      [field](const Lesson& lesson) -> Json {
        return field(lesson).empty() ? Json() : Json(field(lesson));
      });
}

/// The path of a file that the lesson reads.
template <class Field>
LessonSetting path_setting(std::string section, std::string key, Field field, std::string type,
                           std::string sentence) {
  LessonSetting setting =
      text_setting(std::move(section), std::move(key), field, std::move(type), std::move(sentence));
  setting.paths = [field](Lesson& lesson, const LessonSetting::PathUse& use) {
    if (!field(lesson).empty()) use(field(lesson));
  };
  return setting;
}

template <class Field>
LessonSetting yes_or_no_setting(std::string section, std::string key, Field field,
                                std::string sentence) {
  return own_setting(
      std::move(section), std::move(key), Entry::yes_or_no, "", std::move(sentence),
      [field](Lesson& lesson, const Json& value) { field(lesson) = yes_or_no_in(value); },
      [field](const Lesson& lesson) -> Json { return field(lesson); });
}

/// A whole number from `low` to `high`.
template <class Field>
LessonSetting whole_setting(std::string section, std::string key, Field field, std::int64_t low,
                            std::string sentence, std::int64_t high = most_counted) {
  return own_setting(
      std::move(section), std::move(key), Entry::whole, "N", std::move(sentence),
      [field, low, high](Lesson& lesson, const Json& value) {
        using Whole = std::remove_cvref_t<decltype(field(lesson))>;
        field(lesson) = static_cast<Whole>(whole_in(value, low, high));
      },
      [field](const Lesson& lesson) -> Json { return field(lesson); });
}

/// A whole number from 1 that may be left out, or a word for that.
template <class Field>
LessonSetting optional_whole_setting(std::string section, std::string key, Field field,
                                     std::string left_out, std::string sentence) {
  return or_word(std::move(left_out),
                 own_setting(
                     std::move(section), std::move(key), Entry::whole, "N", std::move(sentence),
                     [field](Lesson& lesson, const Json& value) {
                       field(lesson) = whole_in(value, 1, most_counted);
                     },
                     [field](const Lesson& lesson) -> Json {
                       return field(lesson) ? Json(*field(lesson)) : Json();
                     }),
                 [field](Lesson& lesson) { field(lesson) = std::nullopt; });
}

/// A list of texts: one, or several in brackets. A repeated one adds each text by itself to those
/// before, and a list takes their place.
template <class Field>
LessonSetting list_setting(std::string section, std::string key, Field field, Entry entry,
                           std::string type, std::string sentence) {
  return own_setting(
      std::move(section), std::move(key), entry, std::move(type), std::move(sentence),
      [field, entry](Lesson& lesson, const Json& value) {
        if (entry != Entry::repeated || value.is_array()) field(lesson).clear();
        for (std::string& text : texts_in(value))
          field(lesson).push_back(std::move(text));
      },
      [field](const Lesson& lesson) { return one_or_several(field(lesson)); });
}

/// Files, each by its path, or by a class and its path.
template <class Field>
LessonSetting files_setting(std::string section, std::string key, Field field,
                            std::string sentence) {
  LessonSetting setting = list_setting(std::move(section), std::move(key), field, Entry::repeated,
                                       "PATH", std::move(sentence));
  setting.paths = [field](Lesson& lesson, const LessonSetting::PathUse& use) {
    for (std::string& text : field(lesson)) {
      FileOfClass file = FileOfClass::in(text);
      use(file.path);
      text = file.text();
    }
  };
  return setting;
}

/// A setting that is one of a few words.
template <class Choice, class Field>
LessonSetting choice_setting(std::string section, std::string key, const Words<Choice>& words,
                             Field field, std::string type, std::string sentence) {
  return own_setting(
      std::move(section), std::move(key), Entry::text, std::move(type), std::move(sentence),
      [&words, field](Lesson& lesson, const Json& value) {
        field(lesson) = words.parse("this value cannot be used", text_in(value));
      },
      [&words, field](const Lesson& lesson) -> Json {
        const std::optional<Choice> choice = field(lesson);
        return choice ? Json(words.of(*choice)) : Json();
      });
}

// The settings of each section, in the order of a lesson file.

void add_data_settings(std::vector<LessonSetting>& all);
void add_split_settings(std::vector<LessonSetting>& all);
void add_network_settings(std::vector<LessonSetting>& all);
void add_training_settings(std::vector<LessonSetting>& all);
void add_judging_settings(std::vector<LessonSetting>& all);

}  // namespace lattice::settings
