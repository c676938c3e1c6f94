#include "lessons/setting_kinds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <nlohmann/json.hpp>

#include "lattice/text/numbers.hpp"

namespace lattice::settings {
namespace {

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
  all.push_back(own_setting(
      "training", "rule", Entry::text, "RULE", "descent, momentum, rms or adam",
      [](Lesson& l, const Json& v) { l.rule = rule_called(text_in(v)).word(); },
      [](const Lesson& l) -> Json { return l.rule; }));
  all.push_back(rule_setting("rate", "The learning rate; 0.01, or 0.001 for rms and adam", false));
  all.push_back(rule_setting("momentum", "Momentum coefficient", true));
  all.push_back(rule_setting("decay", "Decay of the running mean of rms", true));
  all.push_back(rule_setting("beta_1", "The part that adam keeps of the mean of gradients", true));
  all.push_back(rule_setting("beta_2", "The part that adam keeps of the mean of squares", true));
  all.push_back(rule_setting("epsilon", "What rms and adam add to a divisor", false));
  all.push_back(rule_setting(
      "weight_decay", "The part of rate × weight that each update takes off, beside the gradient",
      true));
  all.push_back(rule_setting("gradient_decay",
                             "The part of the weight that is added to its gradient, after a limit: "
                             "else an L2 term",
                             true));
  all.push_back(own_setting(
      "training", "epochs", Entry::whole, "N", "How many times every row is seen",
      [](Lesson& l, const Json& v) {
        l.epochs = whole_in(v, 1, most_counted);
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
          l.batch = whole_in(v, 1, most_counted);
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
      "training", "log_epsilon", Entry::number, "NUMBER",
      "Epsilon added inside the log in the patched form",
      [](Lesson& l, const Json& v) {
        l.log_epsilon = number_in(v, std::numeric_limits<double>::min(), 1.0,
                                  "a small number above 0, such as 1e-12");
      },
      [](const Lesson& l) -> Json { return l.log_epsilon; }));
  all.push_back(own_setting(
      "training", "l2", Entry::number, "NUMBER", "The strength of the L2 term in the loss",
      [](Lesson& l, const Json& v) {
        l.l2 = number_in(v, 0.0, std::numeric_limits<double>::max(), "a number, 0 or more");
      },
      [](const Lesson& l) -> Json { return l.l2; }));
  all.push_back(or_word(
      "none",
      own_setting(
          "training", "clip_norm", Entry::number, "NUMBER",
          "Clip the norm of all gradients together to this",
          [](Lesson& l, const Json& v) {
            l.clip_norm = number_in(v, std::numeric_limits<double>::min(),
                                    std::numeric_limits<double>::max(), "a number above 0");
          },
          [](const Lesson& l) -> Json { return l.clip_norm ? Json(*l.clip_norm) : Json(); }),
      [](Lesson& l) { l.clip_norm = std::nullopt; }));
  all.push_back(own_setting(
      "training", "schedule", Entry::text, "HOW",
      "How the rate changes: constant, \"steps 10 0.5\", \"exponential 0.95\", \"cosine 40 0.001\" "
      "or \"stall 5 0.5 least 0.001 by 0.01\"; \"warm-up 4 then steps 10 0.5\"",
      [](Lesson& l, const Json& v) { l.schedule = parse_schedule(text_in(v)); },
      [](const Lesson& l) -> Json { return l.schedule.text(); }));
  all.push_back(or_word(
      "none",
      optional_whole_setting("training", "patience", &Lesson::patience,
                             "Stop when the watched loss has found no new low for so many epochs"),
      [](Lesson& l) { l.patience = std::nullopt; }));
  all.push_back(yes_or_no_setting("training", "keep_best", &Lesson::keep_best,
                                  "End with the weights of the lowest watched loss"));
  all.push_back(own_setting(
      "training", "augment", Entry::text, "HOW",
      "Move the pictures to learn from about, anew each epoch: \"shift 2, flip across, flip down, "
      "turn 10, brightness 0.2\", or some of these; \"shift 2x1 filled with 0\"; or none",
      [](Lesson& l, const Json& v) { l.augmentation = parse_augmentation(text_in(v)); },
      [](const Lesson& l) -> Json { return text(l.augmentation); }));
  all.push_back(own_setting(
      "training", "ahead", Entry::whole, "N",
      "Threads that put minibatches together while one is learnt from; 0 for none",
      [](Lesson& l, const Json& v) { l.ahead = whole_in(v, 0, most_threads_ahead); },
      [](const Lesson& l) { return l.ahead; }));
  all.push_back(own_setting(
      "training", "judge_every", Entry::whole, "N",
      "Epochs between two looks at all rows; or \"500 steps\", to look at the validation part in "
      "between, too",
      [](Lesson& l, const Json& v) {
        const std::optional<std::int64_t> steps = steps_in(v);
        l.judge_steps = steps.value_or(0);
        l.judge_every =
            steps ? 1
                  : whole_in(v, 1, most_counted,
                             "a whole number of epochs, 1 or more; or of steps, \"500 steps\"");
      },
      [](const Lesson& l) {
        return l.judge_steps > 0 ? Json(fmt::format("{} steps", l.judge_steps))
                                 : Json(l.judge_every);
      }));
  all.push_back(whole_setting("training", "steps_every", &Lesson::steps_every, 0,
                              "Steps between two that are recorded; 0 for none"));
  all.push_back(whole_setting(
      "training", "depth_every", &Lesson::depth_every, 0,
      "Epochs between two looks at what passes through the parts, there and back; 0 for none"));
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

}  // namespace lattice::settings
