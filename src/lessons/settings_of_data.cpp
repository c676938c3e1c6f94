#include "lessons/setting_kinds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <nlohmann/json.hpp>

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

LessonSetting share_setting(std::string key, std::optional<double> Lesson::*place,
                            std::string sentence) {
  return {.section = "split",
          .key = std::move(key),
          .sentence = std::move(sentence),
          .type = "SHARE",
          .entry = Entry::number,
          .set =
              [place](Lesson& lesson, const Json& value) {
                lesson.*place = number_in(value, 0.0, 1.0, "a share from 0 to 1, such as 0.2");
              },
          .get = [place](const Lesson& lesson) -> Json {
            return lesson.*place ? Json(*(lesson.*place)) : Json();
          }};
}

}  // namespace

void add_data_settings(std::vector<LessonSetting>& all) {
  all.push_back(
      text_setting("data", "set", &Lesson::set, "SET",
                   "A demo set: kiln, shrinkage, cracks, glazes, stamps, tiles or studios"));
  all.push_back(own_setting(
      "data", "set_seed", Entry::whole, "N",
      "What the demo set is made from; its usual seed when left out",
      [](Lesson& l, const Json& v) {
        l.set_seed =
            static_cast<std::uint64_t>(whole_in(v, 0, std::numeric_limits<std::int64_t>::max()));
      },
      [](const Lesson& l) -> Json { return l.set_seed ? Json(*l.set_seed) : Json(); }));
  all.push_back(own_setting(
      "data", "file", Entry::repeated, "PATH",
      "A file instead: CSV or JSON records, several with the same columns being read as one; or "
      "pictures: IDX, NPY, or a folder of PNG files by class",
      [](Lesson& l, const Json& v) {
        for (const std::string& path : texts_in(v))
          l.files.push_back(path);
      },
      [](const Lesson& l) { return one_or_several(l.files); }));
  all.push_back(own_setting(
      "data", "points", Entry::repeated, "X,Y",
      "Points typed in instead: 1,3; in a lesson [[1, 3], [2, 5]]. The last number, or word, is "
      "what "
      "there is to predict",
      [](Lesson& l, const Json& v) {
        const bool is_list = v.is_array() && (v.empty() || v.front().is_array());
        for (const Json& point : is_list ? v : Json::array({v}))
          l.points.push_back(point_in(point));
      },
      [](const Lesson& l) { return json_of_points(l.points); }));
  all.push_back(or_word("all",
                        optional_whole_setting("data", "rows", &Lesson::rows,
                                               "How many rows of the demo set are made; of a file, "
                                               "how many at most are drawn, by the seed"),
                        [](Lesson& l) { l.rows = std::nullopt; }));
  all.push_back(own_setting(
      "data", "target", Entry::list, "COLUMN",
      "The column of the file to predict; several, A,B, where each is a number",
      [](Lesson& l, const Json& v) {
        l.columns.targets = v.is_number_integer() ? std::vector{json_text(v)} : texts_in(v);
      },
      [](const Lesson& l) { return one_or_several(l.columns.targets); }));
  all.push_back(own_setting(
      "data", "features", Entry::list, "A,B",
      "The columns to predict it from, by name or by position from 1; all others when left out",
      [](Lesson& l, const Json& v) { l.columns.features = texts_in(v); },
      [](const Lesson& l) -> Json {
        return l.columns.features.empty() ? Json() : Json(l.columns.features);
      }));
  all.push_back(own_setting(
      "data", "weights", Entry::text, "COLUMN",
      "The column of the file that says how much each row counts, in losses and in figures",
      [](Lesson& l, const Json& v) {
        l.columns.weights = v.is_number_integer() ? json_text(v) : text_in(v);
      },
      [](const Lesson& l) -> Json {
        return l.columns.weights.empty() ? Json() : Json(l.columns.weights);
      }));
  all.push_back(text_setting("data", "edges", &Lesson::edges, "PATH",
                             "The edges of a graph, whose nodes the rows of the file are: two "
                             "columns of nodes, and a weight if wanted. A node without a target "
                             "is part of the graph, but of no loss and no figure"));
  all.push_back(yes_or_no_setting("data", "directed", &Lesson::directed,
                                  "An edge leads from the first of its nodes to the second alone"));
  all.push_back(text_setting("data", "names", &Lesson::names, "COLUMN",
                             "The column of the file that names the nodes of a graph, the first "
                             "when left out; numbers: edges tell nodes by their rows, from 0"));
  all.push_back(choice_setting(
      "data", "task", target_kind_words, [](auto& l) -> auto& { return l.columns.kind; }, "HOW",
      "automatic, numbers or classes: what the target column holds"));
  all.push_back(choice_setting(
      "data", "missing", missing_words, [](auto& l) -> auto& { return l.columns.missing; }, "HOW",
      "refuse or drop: what is done about rows in which a value is missing"));
  all.push_back(
      or_word("automatic",
              choice_setting(
                  "data", "separator", separators, [](auto& l) -> auto& { return l.csv.separator; },
                  "SIGN", "comma, semicolon, tab or bar; found out when left out"),
              [](Lesson& l) { l.csv.separator = std::nullopt; }));
  all.push_back(or_word(
      "automatic",
      own_setting(
          "data", "header", Entry::yes_or_no, "",
          "Whether the first row names the columns; found out when left out",
          [](Lesson& l, const Json& v) { l.csv.header = yes_or_no_in(v); },
          [](const Lesson& l) -> Json { return l.csv.header ? Json(*l.csv.header) : Json(); }),
      [](Lesson& l) { l.csv.header = std::nullopt; }));
  all.push_back(own_setting(
      "data", "scale", Entry::list, "HOW",
      "How features are scaled: standard (mean 0, spread 1), min-max (0 to 1), less mean (of "
      "pictures the mean picture) or none, behind it \"by channel\" or \"as a whole\"; or by known "
      "numbers, \"less 127.5 over 127.5\", and bytes \"0 to 1\". Standard when left out, of "
      "pictures "
      "by channel",
      [](Lesson& l, const Json& v) { l.scale = scaling_in(v); },
      [](const Lesson& l) { return words_of(l.scale); }));
  all.push_back(own_setting(
      "data", "scale_target", Entry::list, "HOW",
      "The same for numbers to predict; as the features when left out",
      [](Lesson& l, const Json& v) { l.scale_target = scaling_in(v); },
      [](const Lesson& l) -> Json { return l.scale_target ? words_of(*l.scale_target) : Json(); }));
}

void add_split_settings(std::vector<LessonSetting>& all) {
  all.push_back(share_setting("train", &Lesson::train_share,
                              "The share of rows to learn from; what the others leave when left "
                              "out"));
  all.push_back(share_setting("validation", &Lesson::validation_share,
                              "The share of rows to watch while learning; 0.2, or half of what "
                              "train leaves, when left out"));
  all.push_back(
      share_setting("test", &Lesson::test_share,
                    "The share of rows for the last judgement; as the one above when left "
                    "out"));
  all.push_back(own_setting(
      "split", "known", Entry::text, "COLUMN|N",
      "Whose labels are learnt from: a column of the file that says yes, or how many of each class "
      "are drawn; all others are for the test",
      [](Lesson& l, const Json& v) {
        const std::string text = v.is_number() ? json_text(v) : text_in(v);
        const std::optional<std::int64_t> count = parse_whole_number(text);
        if (count && (*count < 1 || *count > most_counted))
          throw wrong("a column, or 1 or more of each class", v);
        l.known = count;
        l.columns.known = count ? "" : text;
      },
      [](const Lesson& l) -> Json {
        if (l.known) return *l.known;
        return l.columns.known.empty() ? Json() : Json(l.columns.known);
      }));
  all.push_back(yes_or_no_setting("split", "stratified", &Lesson::stratified,
                                  "The same shares of every class in each part"));
  all.push_back(yes_or_no_setting("split", "shuffled", &Lesson::shuffled,
                                  "Rows are drawn at random; else they are taken in order"));
}

}  // namespace lattice::settings
