#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "support/command.hpp"

/// What is printed by a browser of the machine.
namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

std::string text_of(const std::filesystem::path& pdf) {
  return run_program("/usr/bin/pdftotext", {"-layout", pdf, "-"}).out;
}

const Words printed = {"work",    "glazes",      "--net",   "dense 3, tanh, dense 4",
                       "--batch", "3",           "--blank", "loss",
                       "--blank", "∂output[0,0]"};

TEST(paper, has_a_box_for_every_blank_and_the_answers_behind) {
  const Folder folder;
  const Answer said = lattice(with(printed, {"--pdf", folder.path() / "sheet.pdf"}));
  ASSERT_EQ(said.status, 0) << said.err;
  EXPECT_THAT(said.out, AllOf(HasSubstr("sheet.pdf"), HasSubstr("answers are on a sheet")));
  const std::string text = text_of(folder.path() / "sheet.pdf");
  const std::size_t answers = text.find("Answers");
  ASSERT_NE(answers, std::string::npos);
  EXPECT_THAT(text.substr(0, answers), AllOf(HasSubstr("▢1 ____"), HasSubstr("▢2 ____")));
  EXPECT_THAT(text.substr(answers), AllOf(HasSubstr("loss"), HasSubstr("∂output[0,0]")));
  // Nothing of the work is left behind.
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 1);
}

TEST(paper, is_printed_whatever_its_folder_is_called) {
  const Folder folder;
  const std::filesystem::path odd = folder.path() / "a #b %41 ?c=1&d 'e' \"f\" ü";
  std::filesystem::create_directory(odd);
  const Answer said =
      run_program("/usr/bin/env", {"TMPDIR=" + odd.string(), LATTICE_PROGRAM, "work", "glazes",
                                   "--batch", "2", "--pdf", odd / "$(id) `x`.pdf"});
  ASSERT_EQ(said.status, 0) << said.err;
  EXPECT_THAT(text_of(odd / "$(id) `x`.pdf"), HasSubstr("Reverse"));
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(odd), {}), 1);
}

TEST(paper, needs_a_browser_and_says_which) {
  const Folder folder;
  const Answer said =
      run_program("/usr/bin/env", {"PATH=" + folder.path().string(), LATTICE_PROGRAM, "work",
                                   "glazes", "--batch", "2", "--pdf", folder.path() / "x.pdf"});
  EXPECT_NE(said.status, 0);
  EXPECT_THAT(said.err, AllOf(HasSubstr("no browser"), HasSubstr("chromium"), HasSubstr("--html")));
  EXPECT_FALSE(std::filesystem::exists(folder.path() / "x.pdf"));
}

TEST(paper, is_no_file_of_another_kind) {
  const Folder folder;
  EXPECT_THAT(lattice({"work", "glazes", "--batch", "2", "--pdf", folder.path() / "x.html"}).err,
              HasSubstr("ends in .pdf"));
}

TEST(paper, is_not_written_where_the_browser_prints_nothing) {
  const Folder folder;
  const std::string fake = folder.file("chromium", "#!/bin/sh\nexit 0\n");
  std::filesystem::permissions(fake, std::filesystem::perms::owner_all);
  const Answer said = run_program(
      "/usr/bin/env", {"PATH=" + folder.path().string() + ":/usr/bin:/bin", LATTICE_PROGRAM, "work",
                       "glazes", "--batch", "2", "--pdf", folder.path() / "x.pdf"});
  EXPECT_NE(said.status, 0);
  EXPECT_THAT(said.err, AllOf(HasSubstr("chromium drew nothing"), Not(HasSubstr("terminate"))));
  EXPECT_FALSE(std::filesystem::exists(folder.path() / "x.pdf"));
}

TEST(paper, leaves_nothing_behind_when_it_is_interrupted) {
  const Folder folder;
  const std::filesystem::path passing = folder.path() / "passing";
  std::filesystem::create_directory(passing);
  const std::string fake = folder.file(
      "chromium",
      "#!/bin/sh\nfor each; do case $each in --user-data-dir=*) mkdir -p \"${each#*=}/a/b\";; "
      "esac; done\nsleep 2\n");
  std::filesystem::permissions(fake, std::filesystem::perms::owner_all);
  const Answer said =
      run_program("/usr/bin/env",
                  {"PATH=" + folder.path().string() + ":/usr/bin:/bin",
                   "TMPDIR=" + passing.string(), "timeout", "--signal=INT", "1", LATTICE_PROGRAM,
                   "work", "glazes", "--batch", "2", "--pdf", folder.path() / "x.pdf"});
  EXPECT_NE(said.status, 0);
  // The browser is still there, and takes away what is its own.
  static_cast<void>(shell("sleep 3"));
  EXPECT_TRUE(std::filesystem::is_empty(passing));
  EXPECT_FALSE(std::filesystem::exists(folder.path() / "x.pdf"));
}

TEST(paper, has_the_variants_of_a_class) {
  const Folder folder;
  const Answer said =
      lattice({"work", "glazes", "--net", "dense 3, tanh, dense 4", "--batch", "3", "--blanks", "3",
               "--variants", "2", "--pdf", folder.path() / "e.pdf"});
  ASSERT_EQ(said.status, 0) << said.err;
  EXPECT_THAT(text_of(folder.path() / "e-02.pdf"),
              AllOf(HasSubstr("variant 2"), HasSubstr("▢3 __")));
  EXPECT_THAT(content_of(folder.path() / "e-key.json"), HasSubstr("\"page\": \"e-02.pdf\""));
}

}  // namespace
}  // namespace lattice::testing
