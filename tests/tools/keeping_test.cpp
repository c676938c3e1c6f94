#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "support/command.hpp"

namespace lattice::testing {
namespace {

namespace fs = std::filesystem;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

std::vector<std::string> files_in(const fs::path& folder) {
  std::vector<std::string> names;
  for (const fs::directory_entry& each : fs::directory_iterator(folder))
    names.push_back(each.path().filename());
  std::ranges::sort(names);
  return names;
}

// The command from the report that led to this: the header continues a line of the chart's script.
TEST(header, with_a_command_in_it_is_refused_with_its_place) {
  const Folder folder;
  std::string table = "a\\";
  table += '\0';
  table += ",\"; system \"\"touch " + (folder.path() / "touched").string() +
           "\"\" #\",k\n1,2,p\n2,1,q\n3,5,p\n5,4,q\n1,3,p\n4,1,q\n";
  const Answer answer =
      lattice({"draw", "regions", "", "--file", folder.file("t.csv", table), "--target", "k",
               "--epochs", "1", "--out", folder.path() / "r.svg"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err,
              AllOf(HasSubstr("the header (line 1 of the file), column 1"), HasSubstr("U+0000")));
  EXPECT_THAT(files_in(folder.path()), ::testing::ElementsAre("t.csv"));
}

TEST(outputs, are_checked_before_the_work) {
  const Folder folder;
  const std::string lesson =
      folder.file("l.toml", "[data]\nfile = \"t.csv\"\ntarget = \"b\"\n[training]\nepochs = 2\n");
  const std::string table = folder.file("t.csv", "a,b\n1,2\n2,4\n3,6\n4,8\n5,10\n6,12\n");
  const std::string before = content_of(lesson) + content_of(table);
  const std::string in = folder.path().string() + "/";
  const std::vector<std::pair<Words, const char*>> refused = {
      {{"work", lesson, "--html", lesson}, "--html would overwrite an input"},
      {{"work", lesson, "--xlsx", table}, "--xlsx would overwrite an input"},
      {{"train", lesson, "--save", table}, "--save would overwrite an input"},
      {{"compare", lesson, "--vary", "rate=1,2", "--csv", table}, "--csv would overwrite"},
      {{"new", lesson, "--out", table, "--over"}, "--out would overwrite"},
      {{"work", lesson, "--html", in + "x", "--xlsx", in + "./x"},
       "two outputs have the same path"},
      {{"train", lesson, "--save", ""}, "--save names no file"},
      {{"work", lesson, "--html", ""}, "--html names no file"},
      {{"train", lesson, "--save", in}, "the name of a file"},
      {{"train", lesson, "--save", in + "no/such"}, "mkdir -p"},
      {{"train", lesson, "--save", in + std::string(300, 'a')}, "at most 255 bytes"},
      {{"draw", "curves", lesson, "--out", in + "c.jpg"}, ".svg, .png or .gif"},
      {{"compare", lesson, "--vary", "rate=1,2", "--draw", in + "c.jpg"}, ".svg, .png or .gif"},
      {{"work", lesson, "--graph", in + "g.jpg"}, ".svg, .png, .pdf or .dot"}};
  for (const auto& [words, said] : refused) {
    const Answer answer = lattice(words);
    EXPECT_EQ(answer.status, 2) << ::testing::PrintToString(words);
    EXPECT_THAT(answer.err, HasSubstr(said));
    EXPECT_THAT(answer.err, Not(HasSubstr("epoch")));
    EXPECT_THAT(answer.out, IsEmpty());
  }
  EXPECT_EQ(content_of(lesson) + content_of(table), before);
  EXPECT_EQ(files_in(folder.path()).size(), 2U);
}

TEST(outputs, may_be_devices_pipes_and_the_model_that_is_gone_on_with) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(lattice({"train", "kiln", "--epochs", "2", "--save", model}).status, 0);
  EXPECT_EQ(lattice({"train", "--resume", model, "--epochs", "2", "--save", model}).status, 0);
  EXPECT_EQ(lattice({"train", "kiln", "--epochs", "1", "--save", "/dev/null"}).status, 0);
  EXPECT_TRUE(fs::is_character_file("/dev/null"));
  const Answer answer = shell(
      "$lattice train kiln --epochs 1 --say nothing --save /dev/fd/3 3>&1 >/dev/null | head -c 30");
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, HasSubstr("\"format\""));
  EXPECT_THAT(shell("$lattice work kiln --json /dev/stdout | head -c 9").err,
              Not(HasSubstr("fault")));
}

TEST(outputs, that_a_killed_run_left_half_written_are_taken_away) {
  const Folder folder;
  const std::string left = folder.file("m.lattice.unfinished-12-0.part", "{\"form");
  const Answer answer =
      lattice({"train", "kiln", "--epochs", "1", "--save", folder.path() / "m.lattice"});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.err, HasSubstr(left + ", half written by a run that was killed"));
  EXPECT_THAT(files_in(folder.path()), ::testing::ElementsAre("m.lattice"));
}

TEST(saving, that_fails_loses_neither_results_nor_the_run) {
  const Folder folder;
  fs::create_directory(folder.path() / "tmp");
  const Answer answer = shell("TMPDIR=" + (folder.path() / "tmp").string() +
                              " $lattice train kiln --epochs 3 --save /dev/full");
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.out, HasSubstr("mean squared error"));
  EXPECT_THAT(answer.err,
              AllOf(HasSubstr("cannot write /dev/full"), HasSubstr("they were saved as")));
  const std::vector<std::string> rescued = files_in(folder.path() / "tmp");
  ASSERT_EQ(rescued.size(), 1U);
  EXPECT_THAT(answer.err, HasSubstr(rescued[0]));
  EXPECT_EQ(lattice({"ask", folder.path() / "tmp" / rescued[0], "--record", "minutes=30"}).status,
            0);
}

TEST(saving, on_the_way_lets_a_run_that_was_killed_be_gone_on_with) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const Words lesson = {"train", "glazes", "--rows",
                        "200",   "--net",  "dense 6, dropout 0.2, dense 4"};
  EXPECT_EQ(shell("$lattice train glazes --rows 200 --net 'dense 6, dropout 0.2, dense 4' "
                  "--epochs 1000000 --save " +
                  model +
                  " --save-every 3 >/dev/null 2>&1 & pid=$!; "
                  "while [ ! -f " +
                  model + " ]; do sleep 0.02; done; kill -9 $pid; wait $pid 2>/dev/null; true")
                .status,
            0);
  const Json resumed = json_of(lattice({"train", "--resume", model, "--epochs", "2", "--json"}));
  const std::int64_t epochs = resumed["run"]["epochs"].back()["epoch"];
  EXPECT_EQ(epochs % 3, 2);
  const Json whole = json_of(lattice(with(lesson, {"--epochs", std::to_string(epochs), "--json"})));
  EXPECT_EQ(resumed["parts"], whole["parts"]);

  const Answer told =
      lattice(with(lesson, {"--epochs", "5", "--save", model, "--save-every", "2"}));
  EXPECT_THAT(told.err, AllOf(HasSubstr("after epoch 2"), HasSubstr("after epoch 4"),
                              Not(HasSubstr("after epoch 5"))));
  const Answer full =
      lattice(with(lesson, {"--epochs", "3", "--save", "/dev/full", "--save-every", "1"}));
  EXPECT_THAT(full.err, AllOf(HasSubstr("not saved after epoch 1, and the run goes on"),
                              HasSubstr("epoch 3 of 3")));
  EXPECT_THAT(lattice(with(lesson, {"--save-every", "2"})).err, HasSubstr("--save"));
}

TEST(names, that_are_no_text_are_refused_when_they_are_read) {
  for (const char* const title :
       {"\xff", "\xC0\xAF", "\xED\xA0\x80", "\xF4\x90\x80\x80", "a\x1b[31m"}) {
    const Answer answer = lattice({"train", "kiln", "--title", title, "--epochs", "100000000"});
    EXPECT_EQ(answer.status, 2);
    EXPECT_THAT(answer.err, HasSubstr("--title cannot be"));
    EXPECT_THAT(answer.err, Not(HasSubstr("\x1b")));
  }
  EXPECT_THAT(lattice({"tra\x1b[31m"}).err, HasSubstr("unknown argument 'tra␛[31m'"));
}

TEST(names, are_no_formulas_in_the_table_of_a_comparison) {
  const Folder folder;
  const std::string csv = folder.path() / "c.csv";
  const std::string odd = "=1+1.toml";
  static_cast<void>(folder.file(odd, "[training]\nepochs = 1\n"));
  const Answer answer = shell("cd " + folder.path().string() +
                              " && $lattice compare =1+1.toml --vary title=x,y --csv c.csv && "
                              "$lattice compare =1+1.toml ./=1+1.toml --csv d.csv");
  EXPECT_EQ(answer.status, 0) << answer.err;
  EXPECT_THAT(content_of(folder.path() / "d.csv"), HasSubstr("\n'=1+1.toml,"));
}

TEST(numbers, too_large_for_their_precision_are_refused) {
  const Words line = {"train", "kiln", "--precision", "single", "--epochs", "1"};
  EXPECT_THAT(lattice(with(line, {"--start", "output.weight=1.7e308"})).err,
              HasSubstr("none beyond 3.4e38 in single precision"));
  EXPECT_EQ(
      lattice({"plan", "kiln", "--precision", "single", "--start", "output.weight=1.7e38"}).status,
      0);
  const Folder folder;
  const std::string table = folder.file("t.csv", "a,b\n1,2\n2,1e300\n3,1\n4,1\n5,1\n");
  EXPECT_THAT(lattice({"train", "--file", table, "--target", "b", "--precision", "single"}).err,
              HasSubstr("beyond what single precision holds"));
}

TEST(rows, are_counted_before_they_are_made) {
  const Answer answer = lattice({"train", "kiln", "--rows", "1000000000000"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr("at most"));
}

TEST(worksheets, that_nobody_could_go_through_are_refused) {
  std::string net = "dense 1";
  for (int at = 0; at < 4'000; ++at)
    net += ", dense 1";
  EXPECT_THAT(lattice({"work", "kiln", "--net", net}).err, HasSubstr("up to 10000 lines"));
  EXPECT_EQ(lattice({"plan", "kiln", "--net", net}).status, 0);
}

TEST(many_classes, make_no_page_and_no_picture_too_large) {
  const Folder folder;
  std::string table = "a,b,k\n";
  for (int row = 0; row < 600; ++row)
    table += std::to_string(row % 10) + "." + std::to_string(row % 7) + "," +
             std::to_string(row / 10 % 10) + ",class" + std::to_string(row % 100) + "\n";
  const Words lesson = {"",         "--file",  folder.file("t.csv", table),
                        "--target", "k",       "--epochs",
                        "1",        "--quiet", "all"};
  const std::string page = folder.path() / "p.html";
  Words work = with({"work"}, Words(lesson.begin() + 1, lesson.end()));
  ASSERT_EQ(lattice(with(work, {"--html", page})).status, 0);
  EXPECT_LT(fs::file_size(page), 4'000'000U);
  const std::string chart = folder.path() / "r.svg";
  ASSERT_EQ(lattice(with(with({"draw", "regions"}, lesson), {"--out", chart})).status, 0);
  EXPECT_LT(fs::file_size(chart), 2'000'000U);
  EXPECT_THAT(content_of(chart),
              AllOf(HasSubstr("class0"), HasSubstr("and 94 more"), HasSubstr("answered wrongly")));
}

}  // namespace
}  // namespace lattice::testing
