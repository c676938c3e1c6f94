#include "lessons/setting_kinds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>

#include "data/class_names.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice::settings {
namespace {

/// A point: `1,3`, or the same as a list.
std::vector<std::string> point_in(const Json& value) {
  std::vector<std::string> fields;
  if (value.is_string()) fields = parse_csv_record(text_in(value));
  if (value.is_array()) {
    for (const Json& each : value)
      fields.push_back(each.is_number() ? json_text(each) : text_in(each));
  }
  if (fields.size() < 2) throw wrong("a point of two numbers or more, such as [1, 3]", value);
  return fields;
}

/// Back: numbers as numbers.
Json json_of_points(const std::vector<std::vector<std::string>>& points) {
  Json list = Json::array();
  for (const std::vector<std::string>& point : points) {
    Json fields = Json::array();
    for (const std::string& field : point) {
      if (const std::optional<std::int64_t> whole = parse_whole_number(field)) {
        fields.push_back(*whole);
      } else if (const std::optional<double> number = parse_number(field)) {
        fields.push_back(*number);
      } else {
        fields.push_back(field);
      }
    }
    list.push_back(std::move(fields));
  }
  return points.empty() ? Json() : list;
}

/// Steps of a preparation: one in words, or a list of them.
std::vector<ScalingSettings> scaling_in(const Json& value) {
  std::vector<ScalingSettings> steps;
  for (const std::string& text : texts_in(value))
    steps.push_back(parse_scaling(text));
  if (steps.empty()) steps.push_back({.kind = ScalingKind::none});
  return steps;
}

Json words_of(const std::vector<ScalingSettings>& steps) {
  std::vector<std::string> words(steps.size());
  std::ranges::transform(steps, words.begin(),
                         static_cast<std::string (*)(const ScalingSettings&)>(text));
  return one_or_several(words);
}

constexpr Words<char> separators = {{',', "comma"}, {';', "semicolon"}, {'\t', "tab"}, {'|', "bar"},
                                    {',', ","},     {';', ";"},         {'\t', "\t"},  {'|', "|"}};

template <class Field>
LessonSetting share_setting(std::string key, Field field, std::string sentence) {
  return own_setting(
      "split", std::move(key), Entry::number, "SHARE|N", std::move(sentence),
      [field](Lesson& lesson, const Json& value) {
        constexpr const char* expected =
            "a share from 0 to 1, such as 0.2, or a number of rows from 2";
        const double number = number_in(value, 0.0, static_cast<double>(most_counted), expected);
        if (number > 1.0 && number != std::rint(number)) throw wrong(expected, value);
        field(lesson) = number;
      },
      [field](const Lesson& lesson) -> Json {
        if (!field(lesson)) return {};
        const double number = *field(lesson);
        return number > 1.0 ? Json(static_cast<std::int64_t>(number)) : Json(number);
      });
}

/// A column by its name, or its position.
LessonSetting column_setting(std::string key, std::string ColumnChoice::*place,
                             std::string sentence) {
  return own_setting(
      "data", std::move(key), Entry::text, "COLUMN", std::move(sentence),
      [place](Lesson& l, const Json& v) {
        l.data.columns.*place = v.is_number_integer() ? json_text(v) : text_in(v);
      },
      [place](const Lesson& l) -> Json {
        const std::string& column = l.data.columns.*place;
        return column.empty() ? Json() : Json(column);
      });
}

}  // namespace

void add_data_settings(std::vector<LessonSetting>& all) {
  all.push_back(text_setting(
      "data", "set", [](auto& l) -> auto& { return l.data.set; }, "SET",
      "A demo set: kiln, shrinkage, cracks, glazes, stamps, tiles or studios"));
  all.push_back(own_setting(
      "data", "set_seed", Entry::whole, "N",
      "Random seed that the demo set is made from (default: its usual one)",
      [](Lesson& l, const Json& v) {
        l.data.set_seed =
            static_cast<std::uint64_t>(whole_in(v, 0, std::numeric_limits<std::int64_t>::max()));
      },
      [](const Lesson& l) -> Json { return l.data.set_seed ? Json(*l.data.set_seed) : Json(); }));
  all.push_back(files_setting(
      "data", "file", [](auto& l) -> auto& { return l.data.files; },
      "A file instead: CSV or JSON records, several with the same columns read as one; or "
      "pictures: "
      "IDX, NPY, or a folder of PNG files by class"));
  all.push_back(own_setting(
      "data", "points", Entry::repeated, "X,Y",
      "Points typed in instead: 1,3; in a lesson [[1, 3], [2, 5]]. The last number, or word, is "
      "the "
      "target",
      [](Lesson& l, const Json& v) {
        const bool is_list = v.is_array() && (v.empty() || v.front().is_array());
        if (is_list) l.data.points.clear();
        for (const Json& point : is_list ? v : Json::array({v}))
          l.data.points.push_back(point_in(point));
      },
      [](const Lesson& l) { return json_of_points(l.data.points); }));
  all.push_back(optional_whole_setting(
      "data", "rows", [](auto& l) -> auto& { return l.data.rows; }, "all",
      "Number of rows of the demo set; of --file, the most rows that are drawn, by the seed"));
  all.push_back(own_setting(
      "data", "target", Entry::list, "COLUMN",
      "The column of the file to predict; several, A,B, where each is a number",
      [](Lesson& l, const Json& v) {
        l.data.columns.targets = v.is_number_integer() ? std::vector{json_text(v)} : texts_in(v);
      },
      [](const Lesson& l) { return one_or_several(l.data.columns.targets); }));
  all.push_back(own_setting(
      "data", "features", Entry::list, "A,B",
      "The columns to predict it from, by name or by position from 1 (default: all others)",
      [](Lesson& l, const Json& v) { l.data.columns.features = texts_in(v); },
      [](const Lesson& l) -> Json {
        const std::vector<std::string>& features = l.data.columns.features;
        return features.empty() ? Json() : Json(features);
      }));
  all.push_back(own_setting(
      "data", "classes", Entry::list, "A,B",
      "Names of the classes, of label 0, of label 1 …, where labels are numbers",
      [](Lesson& l, const Json& v) {
        l.data.columns.class_names = texts_in(v);
        check_class_names(l.data.columns.class_names);
      },
      [](const Lesson& l) { return one_or_several(l.data.columns.class_names); }));
  all.push_back(text_setting(
      "data", "list", [](auto& l) -> auto& { return l.data.csv.list; }, "KEY",
      "The key of the list of records in a JSON file, or the way to it, kiln.readings"));
  all.push_back(column_setting("weights", &ColumnChoice::weights,
                               "The column of row weights, in losses and in figures"));
  all.push_back(choice_setting(
      "data", "task", target_kind_words, [](auto& l) -> auto& { return l.data.columns.kind; },
      "HOW", "What the target column holds: automatic, numbers or classes"));
  all.push_back(choice_setting(
      "data", "missing", missing_words, [](auto& l) -> auto& { return l.data.columns.missing; },
      "HOW", "Rows in which a value is missing: refuse or drop"));
  all.push_back(or_word(
      "automatic",
      choice_setting(
          "data", "separator", separators, [](auto& l) -> auto& { return l.data.csv.separator; },
          "SIGN", "comma, semicolon, tab or bar (default: found out)"),
      [](Lesson& l) { l.data.csv.separator = std::nullopt; }));
  all.push_back(or_word("automatic",
                        own_setting(
                            "data", "header", Entry::yes_or_no, "",
                            "Whether the first row names the columns (default: found out)",
                            [](Lesson& l, const Json& v) { l.data.csv.header = yes_or_no_in(v); },
                            [](const Lesson& l) -> Json {
                              return l.data.csv.header ? Json(*l.data.csv.header) : Json();
                            }),
                        [](Lesson& l) { l.data.csv.header = std::nullopt; }));
  all.push_back(own_setting(
      "data", "scale", Entry::list, "HOW",
      "Scale features: standard (mean 0, standard deviation 1; the default, for pictures by "
      "channel), "
      "min-max (0 to 1), less mean or none, followed by \"by channel\" or \"as a whole\"; or by "
      "known numbers, \"less 127.5 over 127.5\", and bytes \"0 to 1\"",
      [](Lesson& l, const Json& v) { l.data.scale = scaling_in(v); },
      [](const Lesson& l) { return words_of(l.data.scale); }));
  all.push_back(own_setting(
      "data", "scale_target", Entry::list, "HOW",
      "The same for numeric targets (default: as the features)",
      [](Lesson& l, const Json& v) { l.data.scale_target = scaling_in(v); },
      [](const Lesson& l) -> Json {
        return l.data.scale_target ? words_of(*l.data.scale_target) : Json();
      }));
}

void add_split_settings(std::vector<LessonSetting>& all) {
  all.push_back(share_setting(
      "train", [](auto& l) -> auto& { return l.split.train; },
      "Share of the rows for training, or how many (default: what the others leave)"));
  all.push_back(share_setting(
      "validation", [](auto& l) -> auto& { return l.split.validation; },
      "Share of the rows for validation, or how many (default 0.2, or half of what train leaves)"));
  all.push_back(share_setting(
      "test", [](auto& l) -> auto& { return l.split.test; },
      "Share of the rows for the test, or how many (default 0.2, or from what train leaves)"));
  all.push_back(files_setting(
      "split", "validation_file", [](auto& l) -> auto& { return l.data.validation_files; },
      "A file with the rows for validation, like --file; --validation is then how many of them"));
  all.push_back(files_setting(
      "split", "test_file", [](auto& l) -> auto& { return l.data.test_files; },
      "A file with the rows for the test, like --file; --test is then how many of them"));
  all.push_back(own_setting(
      "split", "known", Entry::text, "COLUMN|N",
      "Rows with known labels: a yes/no column, or N per class; others are test",
      [](Lesson& l, const Json& v) {
        const std::string text = v.is_number() ? json_text(v) : text_in(v);
        const std::optional<std::int64_t> count = parse_whole_number(text);
        if (count && (*count < 1 || *count > most_counted))
          throw wrong("a column, or 1 or more of each class", v);
        l.split.known = count;
        l.data.columns.known = count ? "" : text;
      },
      [](const Lesson& l) -> Json {
        if (l.split.known) return *l.split.known;
        return l.data.columns.known.empty() ? Json() : Json(l.data.columns.known);
      }));
  all.push_back(yes_or_no_setting(
      "split", "stratified", [](auto& l) -> auto& { return l.split.stratified; },
      "Give each part the same share of every class"));
  all.push_back(yes_or_no_setting(
      "split", "shuffled", [](auto& l) -> auto& { return l.split.shuffled; },
      "Draw rows at random; else take them in order"));
}

}  // namespace lattice::settings
