#pragma once

#include <cstdint>
#include <limits>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
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

// Settings of one kind

[[nodiscard]] LessonSetting text_setting(std::string section, std::string key,
                                         std::string Lesson::*place, std::string type,
                                         std::string sentence);
[[nodiscard]] LessonSetting yes_or_no_setting(std::string section, std::string key,
                                              bool Lesson::*place, std::string sentence);
[[nodiscard]] LessonSetting whole_setting(std::string section, std::string key,
                                          std::int64_t Lesson::*place, std::int64_t low,
                                          std::string sentence);
[[nodiscard]] LessonSetting optional_whole_setting(std::string section, std::string key,
                                                   std::optional<std::int64_t> Lesson::*place,
                                                   std::string sentence);

/// A setting that is read and written by functions of its own.
[[nodiscard]] LessonSetting own_setting(std::string section, std::string key, Entry entry,
                                        std::string type, std::string sentence,
                                        decltype(LessonSetting::set) set,
                                        decltype(LessonSetting::get) get);

/// A setting that is one of a few words.
template <class Choice, class Place>
LessonSetting choice_setting(std::string section, std::string key, const Words<Choice>& words,
                             Place place, std::string type, std::string sentence) {
  return own_setting(
      std::move(section), std::move(key), Entry::text, std::move(type), std::move(sentence),
      [&words, place](Lesson& lesson, const Json& value) {
        place(lesson) = words.parse("this value cannot be used", text_in(value));
      },
      [&words, place](const Lesson& lesson) -> Json {
        const std::optional<Choice> choice = place(lesson);
        return choice ? Json(words.of(*choice)) : Json();
      });
}

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

// The settings of each section, in the order of a lesson file.

void add_data_settings(std::vector<LessonSetting>& all);
void add_picture_settings(std::vector<LessonSetting>& all);
void add_split_settings(std::vector<LessonSetting>& all);
void add_network_settings(std::vector<LessonSetting>& all);
void add_training_settings(std::vector<LessonSetting>& all);
void add_judging_settings(std::vector<LessonSetting>& all);

}  // namespace lattice::settings
