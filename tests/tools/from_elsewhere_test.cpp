#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include <filesystem>
#include <functional>
#include <limits>

#include "support/command.hpp"

/// Lessons and models that may be anybody's, and what becomes of a lesson that is written anew.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

TEST(models, that_are_not_whole_are_told_where) {
  const Folder folder;
  const std::string path = folder.path() / "m.lattice";
  ASSERT_EQ(lattice({"train", "glazes", "--rows", "60", "--epochs", "1", "--save", path}).status,
            0);
  const Json whole = Json::parse(content_of(path));
  const auto said_of = [&](const std::function<void(Json&)>& change) {
    Json model = whole;
    change(model);
    const Answer answer =
        lattice({"ask", folder.file("x.lattice", model.dump()), "--record", "1,2,3,4,5"});
    EXPECT_EQ(answer.status, 2);
    return answer.err;
  };
  EXPECT_THAT(said_of([](Json& m) { m.erase("preparation"); }), HasSubstr("'preparation'"));
  EXPECT_THAT(said_of([](Json& m) { m["version"] = 1; }),
              AllOf(HasSubstr("an older version"), HasSubstr("train the lesson")));
  for (const char* const mark : {"zz", "", "0x12", "-1", "12345678901234567"}) {
    EXPECT_THAT(said_of([&](Json& m) { m["data"]["fingerprint"] = mark; }),
                HasSubstr("16 hexadecimal digits"))
        << mark;
  }
  for (const Json& ranges :
       {Json::array(), Json::array({{1, 2}}), Json::array({{1, 2, 3}}), Json(7)})
    EXPECT_THAT(said_of([&](Json& m) { m["feature_ranges"] = ranges; }),
                HasSubstr("feature_ranges"));
  for (const char* const counter : {"updates", "epoch"}) {
    EXPECT_THAT(said_of([&](Json& m) {
                  if (std::string(counter) == "updates")
                    m["run"]["updates"] = std::numeric_limits<std::int64_t>::max();
                  else
                    m["run"]["epochs"].back()["epoch"] = std::numeric_limits<std::int64_t>::max();
                }),
                HasSubstr("1000000000000"))
        << counter;
  }
}

TEST(lessons, that_count_too_far_are_told_how_far_counting_goes) {
  for (const char* const flag : {"--epochs", "--batch", "--judge-every", "--steps-every"}) {
    for (const char* const count :
         {"1000000000001", "9223372036854775807", "9223372036854775808", "1e300"}) {
      const Answer answer = lattice({"train", "kiln", flag, count});
      EXPECT_EQ(answer.status, 2);
      EXPECT_THAT(answer.err, HasSubstr("a whole number, at most 1000000000000")) << flag << count;
      EXPECT_THAT(answer.err, HasSubstr(count)) << flag;
    }
    EXPECT_THAT(lattice({"train", "kiln", flag, "1.5"}).err, HasSubstr(" or more")) << flag;
  }
}

TEST(lessons, that_are_no_file_are_told_what_they_are) {
  const Folder folder;
  const auto said_of = [&](const std::string& subject) {
    const Answer answer = lattice({"train", subject, "--epochs", "1"});
    EXPECT_EQ(answer.status, 2);
    EXPECT_THAT(answer.err, Not(HasSubstr("learnt already"))) << subject;
    return answer.err;
  };
  const std::string pipe = folder.path() / "pipe";
  ASSERT_EQ(mkfifo(pipe.c_str(), 0600), 0);
  EXPECT_THAT(said_of(pipe), HasSubstr("a pipe without a writer"));
  EXPECT_THAT(said_of("/dev/zero"), HasSubstr("a device"));
  EXPECT_THAT(said_of(folder.path()), HasSubstr("a folder"));
  EXPECT_THAT(said_of(folder.path() / "none.lattice"), HasSubstr("No such file"));
  EXPECT_THAT(said_of(folder.file("odd.lattice", "not a model")),
              HasSubstr("not a whole model file"));
  std::filesystem::create_symlink("two", folder.path() / "one");
  std::filesystem::create_symlink("one", folder.path() / "two");
  EXPECT_THAT(said_of(folder.path() / "one"), HasSubstr("Too many levels of symbolic links"));
  EXPECT_THAT(lattice({"data", "--file", folder.path() / "one"}).err,
              HasSubstr("Too many levels of symbolic links"));
  // A lesson is one whatever its file is called, and from a pipe, too.
  EXPECT_EQ(lattice({"train", folder.file("lesson", "[training]\nepochs = 1\n")}).status, 0);
  EXPECT_EQ(run_program("/bin/bash", {"-c", "printf '[training]\\nepochs = 1\\n' | " LATTICE_PROGRAM
                                            " train /dev/stdin"})
                .status,
            0);
}

TEST(lessons, of_strangers_are_told_with_what_they_have_read_elsewhere) {
  const Folder folder;
  const std::string table = folder.file("t.csv", "x,y\n1,2\n2,3\n3,4\n4,5\n5,6\n6,7\n7,8\n8,9\n");
  std::filesystem::create_directories(folder.path() / "lesson" / "data");
  static_cast<void>(folder.file("lesson/data/t.csv", content_of(table)));
  const std::string model = folder.path() / "lesson" / "m.lattice";
  const auto lesson = [&](const std::string& file, const std::string& more = "") {
    return folder.file("lesson/l.toml", "[data]\nfile = \"" + file + "\"\ntarget = \"y\"\n" + more +
                                            "[training]\nepochs = 1\n");
  };
  const std::string elsewhere = "which is not in its own folder";
  const std::string full = std::filesystem::canonical(table);
  for (const char* const verb : {"train", "work", "data", "plan", "check"}) {
    EXPECT_THAT(lattice({verb, lesson("data/t.csv")}).err, Not(HasSubstr(elsewhere))) << verb;
    for (const std::string& file :
         {std::string("../t.csv"), full, std::string("data/../../t.csv")}) {
      const Answer answer = lattice({verb, lesson(file)});
      EXPECT_EQ(answer.status, 0) << answer.err;
      EXPECT_THAT(answer.err, HasSubstr("the lesson reads " + full + ", " + elsewhere)) << verb;
    }
  }
  // A link in the folder that leads out of it is no hiding place.
  std::filesystem::create_symlink("../../t.csv", folder.path() / "lesson" / "data" / "link.csv");
  EXPECT_THAT(lattice({"train", lesson("data/link.csv")}).err, HasSubstr(full));
  // What one has typed oneself is not told.
  EXPECT_THAT(
      lattice({"train", lesson("../t.csv"), "--file", folder.path() / "lesson/data/t.csv"}).err,
      Not(HasSubstr(elsewhere)));
  ASSERT_EQ(lattice({"train", lesson("../t.csv"), "--save", model}).status, 0);
  for (const Words& words : {Words{"assess", model}, Words{"work", model, "--row", "1"},
                             Words{"why", "answer[0]", model, "--row", "1"},
                             Words{"draw", "line", model, "--out", folder.path() / "l.svg"},
                             Words{"train", "--resume", model, "--epochs", "1"}}) {
    const Answer answer = lattice(words);
    EXPECT_THAT(answer.err, HasSubstr("the lesson reads " + full)) << words[0];
  }
  EXPECT_THAT(lattice({"ask", model, "--record", "1"}).err, Not(HasSubstr(elsewhere)));
  const std::string from = lesson("data/t.csv", "[network]\nfrom = \"../outside.lattice\"\n");
  std::filesystem::copy_file(model, folder.path() / "outside.lattice");
  EXPECT_THAT(lattice({"train", from}).err, HasSubstr("outside.lattice, " + elsewhere));
}

TEST(points, that_are_typed_in_are_all_learnt_from) {
  const Answer answer = lattice({"train", "--points", "1,3", "--points", "2,5", "--epochs", "2"});
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(answer.out, HasSubstr("rows: 2 train ·"));
  const Words five = {"train",    "--points", "1,3",      "--points", "2,5",      "--points", "3,7",
                      "--points", "4,9",      "--points", "5,11",     "--epochs", "1"};
  EXPECT_THAT(lattice(with(five, {"--test", "0.2"})).out, HasSubstr("1 test"));
  EXPECT_THAT(lattice(five).out, HasSubstr("rows: 5 train ·"));
}

TEST(new_lessons, are_written_for_every_demo_set_and_train) {
  const Folder folder;
  for (const char* const set :
       {"kiln", "shrinkage", "cracks", "glazes", "stamps", "tiles", "studios"}) {
    const std::string path = folder.path() / (std::string(set) + ".toml");
    const Answer answer = lattice({"new", set, "--out", path});
    EXPECT_EQ(answer.status, 0) << set << answer.err;
    EXPECT_EQ(lattice({"train", path, "--epochs", "1"}).status, 0) << set;
    EXPECT_THAT(lattice({"plan", path}).out, HasSubstr("dense 8")) << set;
  }
}

TEST(data, of_a_lesson_is_read_as_its_network_takes_it) {
  const Folder folder;
  static_cast<void>(folder.file("t.csv",
                                "x,kind\n1,0\n2,1\n3,2\n4,0\n5,1\n6,2\n7,0\n8,1\n9,2\n"
                                "10,0\n11,1\n12,2\n"));
  const std::string lesson = folder.file(
      "l.toml", "[data]\nfile = \"t.csv\"\ntarget = \"kind\"\n[network]\nnet = \"dense 3\"\n");
  EXPECT_THAT(lattice({"data", lesson}).out, HasSubstr("Classes of kind"));
  EXPECT_TRUE(json_of(lattice({"data", lesson, "--json"}))["targets"][0].contains("classes"));
}

}  // namespace
}  // namespace lattice::testing
