#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include <regex>

#include "support/worked.hpp"

/// Exercises at the prompt.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

const Words small_exercise = {"work", "glazes", "--net", "dense 3, tanh, dense 4", "--batch", "3"};

/// What the command says when this is typed, a line each.
Answer typed(const Words& words, const Words& lines) {
  std::string script = "printf '%s\\n'";
  const auto quoted = [](const std::string& word) {
    return " '" + std::regex_replace(word, std::regex("'"), "'\\''") + "'";
  };
  for (const std::string& line : lines)
    script += quoted(line);
  script += " | $lattice";
  for (const std::string& word : words)
    script += quoted(word);
  return shell(script);
}

/// An exercise of some numbers by name, and what they are.
struct Named {
  Words numbers;

  [[nodiscard]] Words words(const Words& more = {}) const {
    Words all = with(small_exercise, {"--exercise"});
    for (const std::string& number : numbers)
      all = with(all, {"--blank", number});
    return with(all, more);
  }

  /// The answer to the exercise's blank, in full.
  [[nodiscard]] static double answer(const std::string& number) {
    Words words = small_exercise;
    words[0] = "why";
    words.insert(words.begin() + 1, number);
    const Json said = json_of(lattice(with(words, {"--json"})));
    return said["value"].get<double>();
  }
};

TEST(exercise_at_prompt, judges_what_is_typed_and_ends_when_all_is_right) {
  const Named exercise{{"hidden[1,2]", "∂output[0,0]"}};
  const double hidden = Named::answer("hidden[1,2]");
  const double swept = Named::answer("∂output[0,0]");
  const Answer said = typed(
      exercise.words(),
      {fmt::format("{} / 2", 2.0 * hidden), fmt::format("{}", -swept), fmt::format("{}", swept)});
  EXPECT_EQ(said.status, 0) << said.err;
  EXPECT_THAT(said.out,
              AllOf(HasSubstr("2 numbers are blank"), HasSubstr("▢1  hidden[1,2]  right:"),
                    HasSubstr("is not right. The sign is wrong."),
                    HasSubstr("▢2  ∂output[0,0]  right:"), HasSubstr("2 of 2 right.")));
}

TEST(exercise_at_prompt, tells_no_number_before_it_is_right_or_shown) {
  const Named exercise{{"hidden[1,2]", "tanh[1,2]", "∂output[0,0]", "new hidden.weight[4,1]"}};
  const Answer said = typed(exercise.words(), {"hint",
                                               "hint",
                                               "",
                                               "hint",
                                               "hint",
                                               "",
                                               "hint",
                                               "hint",
                                               "",
                                               "hint",
                                               "hint",
                                               "look hidden",
                                               "look tanh",
                                               "look ∂output",
                                               "look new hidden.weight",
                                               "look tanh[1,2]",
                                               "look x",
                                               "look loss",
                                               "again",
                                               "list",
                                               "blank 2",
                                               "quit"});
  EXPECT_EQ(said.status, 0) << said.err;
  for (const std::string& number : exercise.numbers)
    EXPECT_THAT(said.out, Not(HasSubstr(format_number(Named::answer(number))))) << number;
  // The blank that another is made from stays one in the formula with its numbers.
  EXPECT_THAT(said.out, AllOf(HasSubstr("tanh[1,2] = tanh(hidden[1,2])"), HasSubstr("= tanh(▢1)"),
                              HasSubstr("tanh[1,2] = ▢2"), HasSubstr("0 of 4 right.")));
  const Answer shown = typed(exercise.words(), {"show", "look hidden"});
  EXPECT_THAT(shown.out, AllOf(HasSubstr(format_number(Named::answer("hidden[1,2]"))),
                               HasSubstr("0 of 4 right, 1 shown.")));
}

TEST(exercise_at_prompt, teaches_when_it_does_not_understand_and_goes_on) {
  const Named exercise{{"hidden[1,2]"}};
  const Answer said =
      typed(exercise.words(), {"help", "abc", "blank 7", "blank x", "look hiden",
                               "look hidden[9,9]", "look", "1/0", "\x1b[31m", "hints"});
  EXPECT_EQ(said.status, 0) << said.err;
  EXPECT_THAT(said.out,
              AllOf(HasSubstr("an answer: a number"), HasSubstr("'abc' is not a number"),
                    HasSubstr("'7' is no blank; there is blank 1 alone."),
                    HasSubstr("there is no table 'hiden'"), HasSubstr("did you mean hidden?"),
                    HasSubstr("'1/0' is not a number"), Not(HasSubstr("\x1b[31m")),
                    HasSubstr("'hints' is not a number"), HasSubstr("0 of 1 right.")));
}

TEST(exercise_at_prompt, keeps_the_answers_and_goes_on_where_it_was_left) {
  const Folder folder;
  const std::string path = folder.path() / "answers.json";
  const Named exercise{{"hidden[1,2]", "∂output[0,0]"}};
  const std::string right = fmt::format("{}", Named::answer("hidden[1,2]"));
  const Answer first = typed(exercise.words({"--answers", path}), {right, "hint", "0.5"});
  EXPECT_THAT(first.out, AllOf(HasSubstr("1 of 2 right."), HasSubstr("the same command goes on")));
  const Json kept = Json::parse(content_of(path));
  EXPECT_EQ(kept["answers"][0]["state"], "right");
  EXPECT_EQ(kept["answers"][1]["state"], "wrong");
  EXPECT_EQ(kept["answers"][1]["value"], 0.5);
  EXPECT_EQ(kept["answers"][1]["hints"], 1);
  const Answer second = typed(exercise.words({"--answers", path}), {"show"});
  EXPECT_THAT(second.out, AllOf(HasSubstr("1 of 2 numbers are still blank"),
                                HasSubstr("1 of 2 right, 1 shown.")));
  // Nothing is left to ask.
  const Answer third = typed(exercise.words({"--answers", path}), {});
  EXPECT_THAT(third.out, AllOf(Not(HasSubstr("blank")), HasSubstr("1 of 2 right, 1 shown.")));
  // A file says of itself that it is right: it is judged.
  Json forged = kept;
  forged["answers"][0]["typed"] = "99";
  const std::string forged_path = folder.file("forged.json", forged.dump());
  EXPECT_THAT(typed(exercise.words({"--answers", forged_path}), {}).out,
              HasSubstr("0 of 2 right."));
  const Named other{{"hidden[0,0]"}};
  const Answer refused = typed(other.words({"--answers", path}), {});
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err,
              AllOf(HasSubstr("is not written over"), HasSubstr("answers to another exercise")));
  const std::string notes = folder.file("notes.json", "my notes");
  EXPECT_EQ(typed(other.words({"--answers", notes}), {}).status, 2);
  EXPECT_EQ(content_of(notes), "my notes");
  const std::string pipe = folder.path() / "pipe";
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  EXPECT_EQ(typed(other.words({"--answers", pipe}), {}).status, 2);
}

TEST(exercise_at_prompt, is_marked_like_a_page_as_a_variant_of_a_class) {
  const Folder folder;
  const Words exercise = with(small_exercise, {"--blanks", "4"});
  ASSERT_EQ(lattice(with(exercise, {"--variants", "5", "--html", folder.path() / "e.html"})).status,
            0);
  const Json key = Json::parse(content_of(folder.path() / "e-key.json"));
  Words lines;
  for (const Json& each : key["variants"][3]["answers"])
    lines.push_back(fmt::format("{}", each["answer"].get<double>()));
  const Answer said = typed(
      with(exercise, {"--exercise", "--variant", "4", "--answers", folder.path() / "ada.json"}),
      lines);
  EXPECT_THAT(said.out, HasSubstr("4 of 4 right.")) << said.err;
  const Json marks = json_of(lattice({"mark", folder.path(), "--json"}));
  EXPECT_EQ(marks["students"][0]["variant"], 4);
  EXPECT_EQ(marks["students"][0]["right"], 4);
  // The page of the variant is the one that was handed out.
  ASSERT_EQ(
      lattice(with(exercise, {"--variant", "4", "--html", folder.path() / "again.html"})).status,
      0);
  EXPECT_THAT(content_of(folder.path() / "again.html"),
              AllOf(HasSubstr(key["variants"][3]["exercise"].get<std::string>()),
                    HasSubstr("\"variant\":4")));
}

TEST(exercise_at_prompt, is_there_for_every_kind_of_work) {
  for (const Words& words :
       {Words{"work", "kiln"},
        Words{"work", "stamps", "--net", "conv 2 of 3x3, relu, maximum 2x2, flatten, dense 8",
              "--batch", "2"},
        Words{"work", "studios"}, Words{"work", "glazes", "--rule", "adam", "--batch", "4"},
        Words{"work", "--weight", "w = 3", "--line", "cost = (w − 1)²", "--rule", "descent",
              "--blanks", "1"}}) {
    Words hints;
    for (int blank = 0; blank < 6; ++blank)
      hints = with(hints, {"hint", "hint", ""});
    const Answer said = typed(with(words, {"--exercise"}), hints);
    EXPECT_EQ(said.status, 0) << said.err;
    EXPECT_THAT(said.out, HasSubstr("▢1 is ")) << words[1];
    const Answer given_up =
        typed(with(words, {"--exercise"}), {"show", "show", "show", "show", "show", "show"});
    EXPECT_THAT(given_up.out, HasSubstr("shown.")) << words[1];
  }
}

TEST(exercise_at_prompt, is_refused_where_it_would_have_no_effect) {
  EXPECT_THAT(lattice({"work", "glazes", "--exercise", "--walk"}).err,
              HasSubstr("prompt to itself"));
  EXPECT_THAT(lattice({"work", "glazes", "--exercise", "--json"}).err,
              HasSubstr("prompt to itself"));
  EXPECT_THAT(lattice({"work", "glazes", "--answers", "a.json"}).err, HasSubstr("--exercise"));
  EXPECT_THAT(lattice({"work", "glazes", "--variant", "2"}).err, HasSubstr("one of an exercise"));
  EXPECT_THAT(lattice({"work", "glazes", "--exercise", "--variant", "2", "--variants", "3",
                       "--html", "x.html"})
                  .err,
              HasSubstr("exclude each other"));
  EXPECT_THAT(lattice({"work", "--weight", "w = 3", "--line", "cost = w²", "--exercise", "--blanks",
                       "1", "--variant", "2"})
                  .err,
              HasSubstr("a lesson"));
}

}  // namespace
}  // namespace lattice::testing
