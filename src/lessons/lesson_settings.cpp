#include "lattice/lessons/lesson.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>

#include "lattice/network/blueprint.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/words.hpp"

namespace lattice {
namespace {

using Entry = LessonSetting::Entry;

// What a value has to be

SettingError wrong(std::string expected, const Json& value) {
  return SettingError({.what = "this value cannot be used",
                       .expected = std::move(expected),
                       .found = value.is_string() ? fmt::format("'{}'", value.get<std::string>())
                                                  : json_text(value)});
}

std::string text_in(const Json& value) {
  if (!value.is_string()) throw wrong("a text in quotes", value);
  std::string text = value.get<std::string>();
  if (const std::optional<std::string> unwelcome = unwelcome_in(text)) {
    throw SettingError({.what = "this value cannot be used",
                        .expected = "a text in UTF-8, without control characters",
                        .found = fmt::format("'{}', with {}", text, *unwelcome)});
  }
  return text;
}

bool yes_or_no_in(const Json& value) {
  if (!value.is_boolean()) throw wrong("true or false", value);
  return value.get<bool>();
}

double number_in(const Json& value, double low, double high, const char* expected) {
  if (!value.is_number()) throw wrong(expected, value);
  const auto number = value.get<double>();
  if (!std::isfinite(number) || number < low || number > high) throw wrong(expected, value);
  return number;
}

std::int64_t whole_in(const Json& value, std::int64_t low, std::int64_t high,
                      std::string expected = "") {
  if (expected.empty()) {
    expected = high > 1'000'000'000 ? fmt::format("a whole number, {} or more", low)
                                    : fmt::format("a whole number from {} to {}", low, high);
  }
  if (!value.is_number_integer()) throw wrong(expected, value);
  if (value.is_number_unsigned() &&
      value.get<std::uint64_t>() > std::uint64_t{std::numeric_limits<std::int64_t>::max()})
    throw wrong(expected, value);
  const auto number = value.get<std::int64_t>();
  if (number < low || number > high) throw wrong(expected, value);
  return number;
}

/// The count in `500 steps`; nothing for other values.
std::optional<std::int64_t> steps_in(const Json& value) {
  if (!value.is_string()) return std::nullopt;
  std::string_view text = value.get_ref<const std::string&>();
  for (const std::string_view word : {" steps", " step"}) {
    if (!text.ends_with(word)) continue;
    text.remove_suffix(word.size());
    const std::optional<std::int64_t> count = parse_whole_number(text);
    if (count && *count >= 1) return count;
  }
  return std::nullopt;
}

std::vector<std::string> texts_in(const Json& value) {
  if (value.is_string()) return {text_in(value)};
  if (!value.is_array()) throw wrong("texts in brackets, such as [\"a\", \"b\"]", value);
  std::vector<std::string> texts;
  for (const Json& each : value)
    texts.push_back(each.is_number_integer() ? json_text(each) : text_in(each));
  return texts;
}

/// Back: a text, a list of texts, or null for none.
Json one_or_several(const std::vector<std::string>& texts) {
  if (texts.empty()) return {};
  return texts.size() == 1 ? Json(texts.front()) : Json(texts);
}

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

// Settings of one kind

LessonSetting text_setting(std::string section, std::string key, std::string Lesson::*place,
                           std::string type, std::string sentence) {
  return {.section = std::move(section),
          .key = std::move(key),
          .sentence = std::move(sentence),
          .type = std::move(type),
          .entry = Entry::text,
          .set = [place](Lesson& lesson, const Json& value) { lesson.*place = text_in(value); },
          .get = [place](const Lesson& lesson) -> Json {
            return (lesson.*place).empty() ? Json() : Json(lesson.*place);
          }};
}

LessonSetting yes_or_no_setting(std::string section, std::string key, bool Lesson::*place,
                                std::string sentence) {
  return {
      .section = std::move(section),
      .key = std::move(key),
      .sentence = std::move(sentence),
      .type = "",
      .entry = Entry::yes_or_no,
      .set = [place](Lesson& lesson, const Json& value) { lesson.*place = yes_or_no_in(value); },
      .get = [place](const Lesson& lesson) -> Json { return lesson.*place; }};
}

LessonSetting whole_setting(std::string section, std::string key, std::int64_t Lesson::*place,
                            std::int64_t low, std::string sentence) {
  return {.section = std::move(section),
          .key = std::move(key),
          .sentence = std::move(sentence),
          .type = "N",
          .entry = Entry::whole,
          .set =
              [place, low](Lesson& lesson, const Json& value) {
                lesson.*place = whole_in(value, low, 1'000'000'000'000);
              },
          .get = [place](const Lesson& lesson) -> Json { return lesson.*place; }};
}

LessonSetting optional_whole_setting(std::string section, std::string key,
                                     std::optional<std::int64_t> Lesson::*place,
                                     std::string sentence) {
  return {
      .section = std::move(section),
      .key = std::move(key),
      .sentence = std::move(sentence),
      .type = "N",
      .entry = Entry::whole,
      .set = [place](Lesson& lesson,
                     const Json& value) { lesson.*place = whole_in(value, 1, 1'000'000'000'000); },
      .get = [place](const Lesson& lesson) -> Json {
        return lesson.*place ? Json(*(lesson.*place)) : Json();
      }};
}

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

/// A number that a rule is set by.
LessonSetting rule_setting(const std::string& key, std::string sentence, bool may_be_0) {
  return {.section = "training",
          .key = key,
          .sentence = std::move(sentence),
          .type = "NUMBER",
          .entry = Entry::number,
          .set =
              [key, may_be_0](Lesson& lesson, const Json& value) {
                const double low = may_be_0 ? 0.0 : std::numeric_limits<double>::min();
                lesson.rule_settings[key] =
                    number_in(value, low, std::numeric_limits<double>::max(),
                              may_be_0 ? "a number, 0 or more" : "a number above 0, such as 0.01");
              },
          .get = [key](const Lesson& lesson) -> Json {
            const auto found = lesson.rule_settings.find(key);
            return found == lesson.rule_settings.end() ? Json() : Json(found->second);
          }};
}

/// A setting that is read and written by functions of its own.
LessonSetting own_setting(std::string section, std::string key, Entry entry, std::string type,
                          std::string sentence, decltype(LessonSetting::set) set,
                          decltype(LessonSetting::get) get) {
  return {.section = std::move(section),
          .key = std::move(key),
          .sentence = std::move(sentence),
          .type = std::move(type),
          .entry = entry,
          .set = std::move(set),
          .get = std::move(get)};
}

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

void add_data_settings(std::vector<LessonSetting>& all) {
  all.push_back(text_setting("data", "set", &Lesson::set, "SET",
                             "A demo set: kiln, shrinkage, cracks or glazes"));
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
      "A file instead, CSV or JSON records; several with the same columns are read as one",
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
      "standard (mean 0, spread 1), min-max (0 to 1) or none: how features are scaled; behind it "
      "\"by channel\" or \"as a whole\"; or by known numbers, \"less 127.5 over 127.5\"",
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
  all.push_back(yes_or_no_setting("split", "stratified", &Lesson::stratified,
                                  "The same shares of every class in each part"));
  all.push_back(yes_or_no_setting("split", "shuffled", &Lesson::shuffled,
                                  "Rows are drawn at random; else they are taken in order"));
}

/// A name and a number: `hidden = 0.1`. Nothing where it is anything else.
std::optional<std::pair<std::string, double>> named_number(std::string_view text) {
  const std::size_t equals = text.rfind('=');
  if (equals == std::string_view::npos) return std::nullopt;
  const std::string_view name = trimmed(text.substr(0, equals));
  const std::optional<double> number = parse_number(trimmed(text.substr(equals + 1)));
  if (name.empty() || !number || !std::isfinite(*number)) return std::nullopt;
  return std::pair(std::string(name), *number);
}

void add_network_settings(std::vector<LessonSetting>& all) {
  all.push_back(own_setting(
      "network", "net", Entry::text, "BLUEPRINT",
      "The parts, such as \"dense 8, tanh, dense 4\"; one dense part when left out",
      [](Lesson& l, const Json& v) {
        const std::string text = text_in(v);
        static_cast<void>(parse_blueprint(text));
        l.blueprint = text;
      },
      [](const Lesson& l) -> Json { return l.blueprint.empty() ? Json() : Json(l.blueprint); }));
  all.push_back(own_setting(
      "network", "start", Entry::repeated, "HOW",
      "How weights start: zeros, normal 0.05, uniform -0.1 0.1, xavier, he; or numbers for one, "
      "such "
      "as hidden.bias=0,0.5",
      [](Lesson& l, const Json& v) {
        for (const std::string& text : texts_in(v)) {
          if (text.find('=') == std::string::npos) static_cast<void>(parse_start(text));
          l.start.push_back(text);
        }
      },
      [](const Lesson& l) -> Json { return l.start.empty() ? Json() : Json(l.start); }));
  all.push_back(text_setting("network", "from", &Lesson::from, "MODEL",
                             "A model file: a new run begins with its weights, as far as they fit; "
                             "neither its run nor its "
                             "scaling is taken"));
  all.push_back(own_setting(
      "network", "hold", Entry::repeated, "NAME",
      "Parts or weights that stay as they start: hidden, or hidden.weight",
      [](Lesson& l, const Json& v) {
        for (std::string& text : texts_in(v))
          l.held.push_back(std::move(text));
      },
      [](const Lesson& l) { return one_or_several(l.held); }));
  all.push_back(own_setting(
      "network", "pace", Entry::repeated, "NAME=TIMES",
      "Parts or weights that learn at another rate than the others: \"hidden = 0.1\", a tenth of "
      "it",
      [](Lesson& l, const Json& v) {
        for (const std::string& text : texts_in(v)) {
          const auto named = named_number(text);
          if (!named || !(named->second > 0.0)) {
            throw wrong(
                "a part or a weight and how many times the rate it learns at, above 0: "
                "\"hidden = 0.1\"",
                Json(text));
          }
          l.paces.push_back(*named);
        }
      },
      [](const Lesson& l) {
        std::vector<std::string> texts;
        for (const auto& [name, pace] : l.paces)
          texts.push_back(fmt::format("{} = {}", name, pace));
        return one_or_several(texts);
      }));
  all.push_back(choice_setting(
      "network", "precision", precision_words, [](auto& l) -> auto& { return l.precision; }, "HOW",
      "double or single"));
}

void add_training_settings(std::vector<LessonSetting>& all) {
  all.push_back(own_setting(
      "training", "rule", Entry::text, "RULE", "descent, momentum, rms or adam",
      [](Lesson& l, const Json& v) { l.rule = rule_called(text_in(v)).word(); },
      [](const Lesson& l) -> Json { return l.rule; }));
  all.push_back(rule_setting("rate", "The learning rate; 0.01, or 0.001 for rms and adam", false));
  all.push_back(rule_setting("keep", "The part that momentum and rms keep of what was", true));
  all.push_back(rule_setting("beta_1", "The part that adam keeps of the mean of gradients", true));
  all.push_back(rule_setting("beta_2", "The part that adam keeps of the mean of squares", true));
  all.push_back(rule_setting("epsilon", "What rms and adam add to a divisor", false));
  all.push_back(rule_setting(
      "weight_decay", "The part of rate × weight that each update takes off, beside the gradient",
      true));
  all.push_back(rule_setting("gradient_decay",
                             "The part of the weight that is added to its gradient: an L2 term of "
                             "that strength",
                             true));
  all.push_back(own_setting(
      "training", "epochs", Entry::whole, "N", "How many times every row is seen",
      [](Lesson& l, const Json& v) {
        l.epochs = whole_in(v, 1, 1'000'000'000'000);
        l.updates = std::nullopt;  // Of two lengths the one that was said last holds.
      },
      [](const Lesson& l) { return l.epochs; }));
  all.push_back(
      or_word("none",
              optional_whole_setting("training", "updates", &Lesson::updates,
                                     "A run as long as so many updates, wherever its epochs end"),
              [](Lesson& l) { l.updates = std::nullopt; }));
  all.push_back(own_setting(
      "training", "batch", Entry::whole, "N",
      "Rows in a minibatch, or all; 16, or all where there are fewer, when left out",
      [](Lesson& l, const Json& v) {
        l.whole_batch = v == Json("all");
        if (l.whole_batch) {
          l.batch = std::nullopt;
        } else {
          l.batch = whole_in(v, 1, 1'000'000'000'000);
        }
      },
      [](const Lesson& l) -> Json {
        return l.whole_batch ? Json("all") : l.batch ? Json(*l.batch) : Json();
      }));
  all.push_back(choice_setting(
      "training", "order", row_order_words, [](auto& l) -> auto& { return l.order; }, "HOW",
      "shuffled each epoch, shuffled once or as in the data: the order in which rows are seen"));
  all.push_back(own_setting(
      "training", "loss", Entry::text, "LOSS",
      "mean squared, half mean squared, binary cross-entropy or cross-entropy; what fits when left "
      "out",
      [](Lesson& l, const Json& v) { l.loss = parse_loss(text_in(v)); },
      // One of one's own is not of the file: whoever reads it may not have it.
      [](const Lesson& l) -> Json {
        return l.loss && l.loss->own() == nullptr ? Json(word(*l.loss)) : Json();
      }));
  all.push_back(choice_setting(
      "training", "over_rows", over_rows_words, [](auto& l) -> auto& { return l.over_rows; }, "HOW",
      "mean or sum: whether the mean of what the rows of a minibatch lost is learnt from, or the "
      "sum"));
  all.push_back(choice_setting(
      "training", "form", form_words, [](auto& l) -> auto& { return l.form; }, "HOW",
      "one line, written out, careless or patched: how a cross-entropy is written where "
      "minibatches "
      "are worked"));
  all.push_back(own_setting(
      "training", "patch", Entry::number, "NUMBER",
      "The small number that the patched form adds in front of a log",
      [](Lesson& l, const Json& v) {
        l.patch = number_in(v, std::numeric_limits<double>::min(), 1.0,
                            "a small number above 0, such as 1e-12");
      },
      [](const Lesson& l) -> Json { return l.patch; }));
  all.push_back(own_setting(
      "training", "l2", Entry::number, "NUMBER", "The strength of the L2 term in the loss",
      [](Lesson& l, const Json& v) {
        l.l2 = number_in(v, 0.0, std::numeric_limits<double>::max(), "a number, 0 or more");
      },
      [](const Lesson& l) -> Json { return l.l2; }));
  all.push_back(or_word("none",
                        own_setting(
                            "training", "longest_gradient", Entry::number, "NUMBER",
                            "Gradients that are longer, all together, are shortened to this",
                            [](Lesson& l, const Json& v) {
                              l.longest_gradient =
                                  number_in(v, std::numeric_limits<double>::min(),
                                            std::numeric_limits<double>::max(), "a number above 0");
                            },
                            [](const Lesson& l) -> Json {
                              return l.longest_gradient ? Json(*l.longest_gradient) : Json();
                            }),
                        [](Lesson& l) { l.longest_gradient = std::nullopt; }));
  all.push_back(own_setting(
      "training", "schedule", Entry::text, "HOW",
      "How the rate changes: constant, \"steps 10 0.5\", \"exponential 0.95\", \"cosine 40 0.001\" "
      "or "
      "\"stall 5 0.5\"",
      [](Lesson& l, const Json& v) { l.schedule = parse_schedule(text_in(v)); },
      [](const Lesson& l) -> Json { return l.schedule.text(); }));
  all.push_back(or_word(
      "none",
      optional_whole_setting("training", "patience", &Lesson::patience,
                             "Stop when the watched loss has found no new low for so many epochs"),
      [](Lesson& l) { l.patience = std::nullopt; }));
  all.push_back(yes_or_no_setting("training", "keep_best", &Lesson::keep_best,
                                  "End with the weights of the lowest watched loss"));
  all.push_back(yes_or_no_setting("training", "ahead", &Lesson::ahead,
                                  "Put minibatches together on another thread"));
  all.push_back(own_setting(
      "training", "judge_every", Entry::whole, "N",
      "Epochs between two looks at all rows; or \"500 steps\", to look at the validation part in "
      "between, too",
      [](Lesson& l, const Json& v) {
        const std::optional<std::int64_t> steps = steps_in(v);
        l.judge_steps = steps.value_or(0);
        l.judge_every =
            steps ? 1
                  : whole_in(v, 1, 1'000'000'000'000,
                             "a whole number of epochs, 1 or more; or of steps, \"500 steps\"");
      },
      [](const Lesson& l) {
        return l.judge_steps > 0 ? Json(fmt::format("{} steps", l.judge_steps))
                                 : Json(l.judge_every);
      }));
  all.push_back(whole_setting("training", "steps_every", &Lesson::steps_every, 0,
                              "Steps between two that are recorded; 0 for none"));
}

/// What others reached: `a potter = 0.97`.
Reference reference_in(const std::string& text) {
  const auto named = named_number(text);
  if (!named || !(named->second <= 1.0))
    throw wrong("who reached it and an accuracy, or R², up to 1: \"a potter = 0.97\"", Json(text));
  return {named->first, named->second};
}

void add_judging_settings(std::vector<LessonSetting>& all) {
  all.push_back(own_setting(
      "judging", "reference", Entry::repeated, "NAME=FIGURE",
      "What others reached, to be held beside the figures: \"a potter = 0.97\", an accuracy, or R² "
      "where numbers are learnt",
      [](Lesson& l, const Json& v) {
        for (const std::string& text : texts_in(v))
          l.references.push_back(reference_in(text));
      },
      [](const Lesson& l) {
        std::vector<std::string> texts;
        for (const Reference& each : l.references)
          texts.push_back(fmt::format("{} = {}", each.name, each.figure));
        return one_or_several(texts);
      }));
}

std::vector<LessonSetting> make_settings() {
  std::vector<LessonSetting> all;
  all.push_back(text_setting("", "title", &Lesson::title, "TEXT", "What the lesson is about"));
  all.push_back(own_setting(
      "", "seed", Entry::whole, "N", "Decides parts, start weights, the order of rows and dropout",
      [](Lesson& l, const Json& v) {
        l.seed =
            static_cast<std::uint64_t>(whole_in(v, 0, std::numeric_limits<std::int64_t>::max()));
      },
      [](const Lesson& l) -> Json { return l.seed; }));
  all.push_back(own_setting(
      "", "quiet", Entry::list, "CODES", "Codes of remarks that are not shown; all for none at all",
      [](Lesson& l, const Json& v) { l.quiet = texts_in(v); },
      [](const Lesson& l) -> Json { return l.quiet.empty() ? Json() : Json(l.quiet); }));
  add_data_settings(all);
  add_split_settings(all);
  add_network_settings(all);
  add_training_settings(all);
  add_judging_settings(all);
  return all;
}

}  // namespace

std::string LessonSetting::flag() const {
  std::string flag = "--" + key;
  std::ranges::replace(flag, '_', '-');
  return flag;
}

std::string LessonSetting::full_key() const {
  return section.empty() ? key : section + "." + key;
}

const std::vector<LessonSetting>& lesson_settings() {
  static const std::vector<LessonSetting> settings = make_settings();
  return settings;
}

void set_from_flag(Lesson& lesson, const LessonSetting& setting, const std::string& text) {
  const std::string flag = setting.flag();
  Json value = text;
  if (setting.entry == Entry::whole || setting.entry == Entry::number) {
    if (const std::optional<std::int64_t> whole = parse_whole_number(text)) {
      value = *whole;
    } else if (const std::optional<double> number = parse_number(text)) {
      value = *number;
    }
  } else if (setting.entry == Entry::list) {
    value = parse_csv_record(text);
  } else if (setting.entry == Entry::yes_or_no && (text == "true" || text == "false")) {
    value = text == "true";
  }
  try {
    setting.set(lesson, value);
  } catch (const Error& error) {
    Trouble trouble = error.trouble();
    if (trouble.where.empty()) {
      trouble.what = fmt::format("{} cannot be '{}'", flag, text);
      trouble.found = fmt::format("'{}'", text);
    } else {
      trouble.what = fmt::format("{}: {}", flag, trouble.what);
    }
    throw SettingError(trouble);
  }
}

}  // namespace lattice
