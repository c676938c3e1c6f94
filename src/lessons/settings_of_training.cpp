#include "lessons/setting_kinds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <nlohmann/json.hpp>

#include "lattice/text/numbers.hpp"

namespace lattice::settings {
namespace {

/// Layers have no naive form.
constexpr Words<Form> layer_form_words = {{Form::one_line, "one line"},
                                          {Form::written_out, "written out"}};

/// The count in `500 steps`; nothing for other values.
std::optional<std::int64_t> steps_in(const Json& value) {
  if (!value.is_string()) return std::nullopt;
  std::string_view text = value.get_ref<const std::string&>();
  for (const std::string_view word : {" steps", " step"}) {
    if (!text.ends_with(word)) continue;
    text.remove_suffix(word.size());
    const std::optional<std::int64_t> count = parse_whole_number(text);
    if (count && *count >= 1 && *count <= most_counted) return count;
  }
  return std::nullopt;
}

/// A number in a range.
template <class Field>
LessonSetting number_setting(std::string key, Field field, double low, double high,
                             const char* expected, std::string sentence) {
  return own_setting(
      "training", std::move(key), Entry::number, "NUMBER", std::move(sentence),
      [field, low, high, expected](Lesson& lesson, const Json& value) {
        field(lesson) = number_in(value, low, high, expected);
      },
      [field](const Lesson& lesson) -> Json {
        if constexpr (requires { field(lesson).has_value(); }) {
          return field(lesson) ? Json(*field(lesson)) : Json();
        } else {
          return field(lesson);
        }
      });
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

}  // namespace

void add_training_settings(std::vector<LessonSetting>& all) {
  constexpr double any = std::numeric_limits<double>::max();
  constexpr double above_0 = std::numeric_limits<double>::min();
  all.push_back(own_setting(
      "training", "rule", Entry::text, "RULE", "Update rule: descent, momentum, rms or adam",
      [](Lesson& l, const Json& v) { l.rule = rule_called(text_in(v)).word(); },
      [](const Lesson& l) -> Json { return l.rule; }));
  all.push_back(
      rule_setting("rate", "Learning rate (default 0.01, or 0.001 for rms and adam)", false));
  all.push_back(rule_setting("momentum", "Momentum coefficient", true));
  all.push_back(rule_setting("decay", "Decay of the running mean of rms", true));
  all.push_back(rule_setting("beta_1", "Decay of adam's running mean of gradients", true));
  all.push_back(rule_setting("beta_2", "Decay of adam's running mean of squared gradients", true));
  all.push_back(rule_setting("epsilon", "Epsilon that rms and adam add to a divisor", false));
  all.push_back(rule_setting(
      "weight_decay", "Decoupled weight decay: each update subtracts rate × this × weight", true));
  all.push_back(rule_setting(
      "gradient_decay",
      "Weight decay through the gradient: this × weight is added to it, after clipping", true));
  all.push_back(own_setting(
      "training", "epochs", Entry::whole, "N",
      "Number of epochs; with 0 the network is judged, saved and drawn untrained",
      [](Lesson& l, const Json& v) {
        l.training.epochs = whole_in(v, 0, most_counted);
        l.training.updates = std::nullopt;  // Of two lengths the one that was said last holds.
      },
      [](const Lesson& l) { return l.training.epochs; }));
  all.push_back(optional_whole_setting(
      "training", "updates", [](auto& l) -> auto& { return l.training.updates; }, "none",
      "Length of the run in updates, instead of epochs"));
  all.push_back(own_setting(
      "training", "batch", Entry::whole, "N",
      "Rows in a minibatch, or all (default: 16, or all where there are fewer)",
      [](Lesson& l, const Json& v) {
        l.whole_batch = v == Json("all");
        if (l.whole_batch) {
          l.batch = std::nullopt;
        } else {
          l.batch = whole_in(v, 1, most_counted);
        }
      },
      [](const Lesson& l) -> Json {
        return l.whole_batch ? Json("all") : l.batch ? Json(*l.batch) : Json();
      }));
  all.push_back(choice_setting(
      "training", "order", row_order_words, [](auto& l) -> auto& { return l.training.order; },
      "HOW", "Row order: shuffled each epoch, shuffled once or as in the data"));
  all.push_back(own_setting(
      "training", "loss", Entry::text, "LOSS",
      "mean squared, half mean squared, binary cross-entropy or cross-entropy (default: what fits)",
      [](Lesson& l, const Json& v) { l.training.loss = parse_loss(text_in(v)); },
      // A custom loss is not of the file: whoever reads it may not have it.
      [](const Lesson& l) -> Json {
        const std::optional<Loss>& loss = l.training.loss;
        return loss && loss->own() == nullptr ? Json(word(*loss)) : Json();
      }));
  all.push_back(choice_setting(
      "training", "over_rows", over_rows_words,
      [](auto& l) -> auto& { return l.training.over_rows; }, "HOW",
      "Train on the mean or the sum of the row losses: mean or sum"));
  all.push_back(choice_setting(
      "training", "form", form_words, [](auto& l) -> auto& { return l.form; }, "HOW",
      "How a worked cross-entropy is written: one line, written out, naive or patched"));
  all.push_back(choice_setting(
      "training", "layer_form", layer_form_words, [](auto& l) -> auto& { return l.layer_form; },
      "HOW",
      "How worked dense layers, softmax and normalisation are written: one line or written out"));
  all.push_back(number_setting(
      "log_epsilon", [](auto& l) -> auto& { return l.log_epsilon; }, above_0, 1.0,
      "a small number above 0, such as 1e-12", "Epsilon added inside the log in the patched form"));
  all.push_back(number_setting(
      "l2", [](auto& l) -> auto& { return l.training.l2; }, 0.0, any, "a number, 0 or more",
      "Strength of the L2 term in the loss"));
  all.push_back(
      or_word("none",
              number_setting(
                  "clip_norm", [](auto& l) -> auto& { return l.training.clip_norm; }, above_0, any,
                  "a number above 0", "Clip the norm of all gradients together to this"),
              [](Lesson& l) { l.training.clip_norm = std::nullopt; }));
  all.push_back(own_setting(
      "training", "schedule", Entry::text, "HOW",
      "Schedule of the rate: constant, \"steps 10 0.5\", \"exponential 0.95\", \"cosine 40 0.001\" "
      "or \"stall 5 0.5 least 0.001 by 0.01\"; \"warm-up 4 then steps 10 0.5\", "
      "\"constant for 20 then cosine 40\"",
      [](Lesson& l, const Json& v) { l.training.schedule = parse_schedule(text_in(v)); },
      [](const Lesson& l) -> Json { return l.training.schedule.text(); }));
  all.push_back(optional_whole_setting(
      "training", "patience", [](auto& l) -> auto& { return l.training.patience; }, "none",
      "Stop after N epochs without a new lowest monitored loss"));
  all.push_back(yes_or_no_setting(
      "training", "keep_best", [](auto& l) -> auto& { return l.training.keep_best; },
      "End with the weights of the lowest monitored loss"));
  all.push_back(whole_setting(
      "training", "ahead", [](auto& l) -> auto& { return l.training.ahead; }, 0,
      "Worker threads that prepare minibatches in advance; 0 for none", most_threads_ahead));
  all.push_back(own_setting(
      "training", "judge_every", Entry::whole, "N",
      "Epochs between evaluations; \"500 steps\": validation part in between, too",
      [](Lesson& l, const Json& v) {
        const std::optional<std::int64_t> steps = steps_in(v);
        l.training.judge_steps = steps.value_or(0);
        l.training.judge_every =
            steps ? 1
                  : whole_in(v, 1, most_counted,
                             "a whole number of epochs, 1 or more; or of steps, \"500 steps\"");
      },
      [](const Lesson& l) {
        return l.training.judge_steps > 0 ? Json(fmt::format("{} steps", l.training.judge_steps))
                                          : Json(l.training.judge_every);
      }));
  all.push_back(own_setting(
      "training", "judge_train", Entry::whole, "N",
      "Rows of the train part that are evaluated: all (the default), none, or N drawn once",
      [](Lesson& l, const Json& v) {
        if (v == Json("all")) {
          l.training.judge_train = std::nullopt;
        } else if (v == Json("none")) {
          l.training.judge_train = 0;
        } else {
          l.training.judge_train = whole_in(v, 1, most_counted, "all, none, or a number of rows");
        }
      },
      [](const Lesson& l) -> Json {
        if (!l.training.judge_train) return "all";
        return *l.training.judge_train == 0 ? Json("none") : Json(*l.training.judge_train);
      }));
  all.push_back(own_setting(
      "training", "confusion", Entry::text, "WHEN",
      "When the confusion matrix is recorded: \"every 5 epochs\", \"epochs 1, 2, 20\", \"every 500 "
      "steps\", \"steps 100, 500\", several with and (default: none)",
      [](Lesson& l, const Json& v) { l.training.confusion = parse_moments(text_in(v)); },
      [](const Lesson& l) -> Json { return l.training.confusion.text(); }));
  all.push_back(whole_setting(
      "training", "steps_every", [](auto& l) -> auto& { return l.training.steps_every; }, 0,
      "Steps between two that are recorded; 0 for none"));
  all.push_back(whole_setting(
      "training", "flow_every", [](auto& l) -> auto& { return l.training.flow_every; }, 0,
      "Epochs between records of outputs and gradients by layer; 0 for none"));
}

namespace {

/// What others reached: `a potter = 0.97`.
Reference reference_in(const std::string& text) {
  const auto named = named_number(text);
  if (!named || !(named->second <= 1.0))
    throw wrong("who reached it and an accuracy, or R², up to 1: \"a potter = 0.97\"", Json(text));
  return {named->first, named->second};
}

}  // namespace

void add_judging_settings(std::vector<LessonSetting>& all) {
  all.push_back(own_setting(
      "judging", "reference", Entry::repeated, "NAME=FIGURE",
      "Reference accuracy (or R²) to compare with: \"a potter = 0.97\"",
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

}  // namespace lattice::settings
