#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "support/worked.hpp"

/// Exercises for a class: variants, their key, and answers that come back.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

const Words exercise_of_glazes = {"work",    "glazes", "--net",    "dense 3, tanh, dense 4",
                                  "--batch", "3",      "--blanks", "8"};

/// A folder with so many variants and their key.
class Class {
 public:
  explicit Class(int count, const Words& words = exercise_of_glazes) {
    const Answer answer = lattice(with(
        words, {"--variants", std::to_string(count), "--html", folder.path() / "exercise.html"}));
    EXPECT_EQ(answer.status, 0) << answer.err;
    key = Json::parse(content_of(folder.path() / "exercise-key.json"));
  }

  /// Answers to a variant, by a rule: what is typed for a blank.
  [[nodiscard]] Json answers(std::size_t variant, const std::string& name,
                             const std::function<Json(std::size_t, const Json&)>& value) const {
    const Json& of = key["variants"][variant];
    Json list = Json::array();
    for (std::size_t at = 0; at < of["answers"].size(); ++at) {
      list.push_back({{"blank", at + 1},
                      {"value", value(at, of["answers"][at])},
                      {"state", "wrong"},
                      {"hints", at == 0 ? 1 : 0}});
    }
    return {{"exercise", of["exercise"]}, {"name", name}, {"answers", list}};
  }

  void write(const std::string& name, const Json& json) const {
    static_cast<void>(folder.file(name, json.dump()));
  }

  [[nodiscard]] Answer mark(const Words& more = {}) const {
    return lattice(with({"mark", folder.path()}, more));
  }

  Folder folder;
  Json key;
};

Json right(std::size_t, const Json& answer) {
  return answer["answer"];
}

TEST(variants, are_numbered_all_different_and_have_blanks_of_one_kind) {
  const Class pupils(30);
  const Json& variants = pupils.key["variants"];
  ASSERT_EQ(variants.size(), 30U);
  std::set<std::string> ids;
  std::multiset<std::string> first;
  for (std::size_t at = 0; at < variants.size(); ++at) {
    const Json& variant = variants[at];
    EXPECT_EQ(variant["variant"], at + 1);
    EXPECT_EQ(variant["page"], fmt::format("exercise-{:02}.html", at + 1));
    ids.insert(variant["exercise"]);
    std::multiset<std::string> tables;
    for (const Json& answer : variant["answers"]) {
      const std::string number = answer["number"];
      tables.insert(number.substr(0, number.find('[')));
      EXPECT_GT(answer["within"], 0.0);
      // Neither 0 nor a number of another size is right.
      EXPECT_GT(std::abs(answer["answer"].get<double>()), answer["within"].get<double>());
    }
    if (at == 0) first = tables;
    EXPECT_EQ(tables, first);
    const std::string page = content_of(pupils.folder.path() / variant["page"].get<std::string>());
    EXPECT_THAT(page, HasSubstr(variant["exercise"].get<std::string>()));
    EXPECT_THAT(page, HasSubstr(fmt::format("\"variant\":{}", at + 1)));
  }
  EXPECT_EQ(ids.size(), 30U);
  EXPECT_EQ(first.size(), 8U);
}

TEST(variants, are_refused_where_they_have_no_meaning) {
  const Folder folder;
  const std::string page = folder.path() / "e.html";
  EXPECT_THAT(lattice({"work", "glazes", "--variants", "3", "--html", page}).err,
              HasSubstr("--blanks"));
  EXPECT_THAT(lattice({"work", "glazes", "--variants", "3", "--blanks", "3"}).err,
              HasSubstr("--html"));
  EXPECT_THAT(lattice(with(exercise_of_glazes,
                           {"--variants", "3", "--html", page, "--xlsx", folder.path() / "e.xlsx"}))
                  .err,
              HasSubstr("pages alone"));
  EXPECT_THAT(lattice({"work", "--weight", "w = 3", "--line", "cost = w²", "--blanks", "1",
                       "--variants", "2", "--html", page})
                  .err,
              HasSubstr("a lesson"));
  // With all rows in every minibatch and weights that start at 0 there is one variant.
  EXPECT_THAT(lattice({"work",    "kiln",  "--rows",       "6",
                       "--batch", "all",   "--order",      "as in the data",
                       "--start", "zeros", "--variants",   "3",
                       "--train", "6",     "--validation", "0",
                       "--test",  "0",     "--blank",      "new output.bias[0]",
                       "--html",  page})
                  .err,
              HasSubstr("different variants"));
}

TEST(mark, tells_by_student_and_blank_what_is_right_and_what_was_most_often_not) {
  const Class pupils(4);
  pupils.write("ada.json", pupils.answers(0, "Ada", right));
  pupils.write("bo.json", pupils.answers(2, "Bo", [](std::size_t at, const Json& answer) -> Json {
    return at == 3 ? Json(-answer["answer"].get<double>()) : answer["answer"];
  }));
  pupils.write("cy.json", pupils.answers(3, "", [](std::size_t at, const Json& answer) -> Json {
    return at == 3 || at == 5 ? Json() : answer["answer"];
  }));
  const Answer said = pupils.mark();
  EXPECT_EQ(said.status, 0) << said.err;
  EXPECT_THAT(said.out, AllOf(HasSubstr("Ada"), HasSubstr("8 of 8"), HasSubstr("7 of 8"),
                              HasSubstr("cy.json"), HasSubstr("6 of 8"), HasSubstr("▢4  2 of 3"),
                              HasSubstr("▢6  1 of 3")));
  const Json json = json_of(pupils.mark({"--json"}));
  ASSERT_EQ(json["students"].size(), 3U);
  EXPECT_EQ(json["students"][0]["right"], 8);
  EXPECT_EQ(json["students"][0]["hints"], 1);
  EXPECT_EQ(json["students"][1]["variant"], 3);
  EXPECT_EQ(json["students"][1]["blanks"][3]["mark"], "wrong");
  EXPECT_EQ(json["students"][2]["blanks"][5]["mark"], "empty");
  EXPECT_EQ(json["most_often_not_right"][0]["blank"], 4);
  EXPECT_EQ(json["most_often_not_right"][0]["not_right"], 2);
}

TEST(mark, judges_what_was_typed_and_not_what_a_file_says_of_itself) {
  const Class pupils(2);
  Json forged = pupils.answers(0, "Eve", [](std::size_t, const Json&) -> Json { return 1e9; });
  for (Json& each : forged["answers"])
    each["state"] = "right";
  pupils.write("eve.json", forged);
  Json shown = pupils.answers(1, "Flo", right);
  shown["answers"][2]["state"] = "shown";
  shown["answers"][1]["hints"] = 1'000'000;
  pupils.write("flo.json", shown);
  const Json json = json_of(pupils.mark({"--json"}));
  EXPECT_EQ(json["students"][0]["right"], 0);
  EXPECT_EQ(json["students"][1]["right"], 7);
  EXPECT_EQ(json["students"][1]["blanks"][2]["mark"], "shown");
  EXPECT_EQ(json["students"][1]["hints"], 3);
}

TEST(mark, takes_no_harm_from_what_else_is_in_the_folder) {
  const Class pupils(2);
  pupils.write("a.json", pupils.answers(0, "\x1b[31m$(touch x)\n| `id` =1+1", right));
  static_cast<void>(pupils.folder.file("b.json", "no JSON"));
  pupils.write("c.json", Json::array());
  pupils.write("d.json", {{"exercise", "0123456789abcdef"}, {"answers", Json::array()}});
  pupils.write("e.json", {{"exercise", 7}, {"answers", {{"x", 1}}}});
  Json odd = pupils.answers(1, "Gil", right);
  odd["answers"] = {nullptr, 3, {{"value", "12"}}, {{"value", nullptr}}};
  pupils.write("f.json", odd);
  static_cast<void>(pupils.folder.file("deep.json", std::string(100'000, '[')));
  ASSERT_EQ(mkfifo((pupils.folder.path() / "pipe.json").c_str(), 0600), 0);
  const Answer said = pupils.mark();
  EXPECT_EQ(said.status, 0) << said.err;
  EXPECT_THAT(said.out, AllOf(Not(HasSubstr("\x1b[31m$")), HasSubstr("Gil"), HasSubstr("0 of 8")));
  for (const char* other : {"b.json", "c.json", "d.json", "e.json", "deep.json"})
    EXPECT_THAT(said.err, HasSubstr(fmt::format("{}: no answers", other)));
}

TEST(mark, says_which_key_is_missing_or_no_key) {
  const Folder empty;
  EXPECT_THAT(lattice({"mark", empty.path()}).err, HasSubstr("which answer key?"));
  EXPECT_THAT(lattice({"mark", empty.path() / "nowhere"}).err, HasSubstr("not a folder"));
  const std::string no_key = empty.file("x-key.json", "{\"variants\": [{}]}");
  EXPECT_THAT(lattice({"mark", empty.path()}).err, HasSubstr("not an answer key"));
  EXPECT_THAT(lattice({"mark", empty.path(), "--key", empty.file("k.json", "{}")}).err,
              HasSubstr("not an answer key"));
  const Class pupils(1);
  const Answer none = pupils.mark();
  EXPECT_EQ(none.status, 2);
  EXPECT_THAT(none.err, HasSubstr("nothing to mark"));
  static_cast<void>(pupils.folder.file("other-key.json", "{}"));
  EXPECT_THAT(pupils.mark().err, HasSubstr("other-key.json"));
}

}  // namespace
}  // namespace lattice::testing
