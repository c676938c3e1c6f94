#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cctype>
#include <regex>

#include "support/process.hpp"

namespace lattice::testing {
namespace {

TEST(dev, lists_its_tasks_when_it_is_given_none_or_an_unknown_one) {
  const std::string dev = LATTICE_SOURCE "/dev";
  for (const std::vector<std::string>& words :
       {std::vector<std::string>{}, {"dance"}, {"test", "--fast"}}) {
    const Answer answer = run_program(dev, words);
    EXPECT_EQ(answer.status, 2);
    for (const char* task : {"demo", "test", "build", "bench", "lint", "screenshots"}) {
      EXPECT_THAT(answer.err, ::testing::HasSubstr(std::string("./dev ") + task));
    }
  }
}

TEST(dev, notes_how_long_the_compiler_took_and_passes_on_what_it_said) {
  const Folder folder;
  const std::string log = folder.path() / "log";
  const std::string script =
      "for ((i = 0; i < 20000; ++i)); do :; done; echo out; echo err >&2; exit 3";
  const Answer answer = run_program(LATTICE_SOURCE "/scripts/timed.sh",
                                    {log, "bash", "-c", script, "compiler", "-o", "made.o"});
  EXPECT_EQ(answer.status, 3);
  EXPECT_EQ(answer.out, "out\n");
  EXPECT_EQ(answer.err, "err\n");
  EXPECT_THAT(content_of(log), ::testing::MatchesRegex("0\\.[0-9]+ made\\.o\n"));
}

/// What the check of includes says of a tree in which one file includes something.
std::string said_of(const std::string& file, const std::string& include) {
  const Folder tree;
  const auto write = [&](const std::filesystem::path& path, const std::string& content) {
    std::filesystem::create_directories(tree.path() / path.parent_path());
    static_cast<void>(tree.file(path, content));
  };
  write("CONTRIBUTING.md",
        "| core | `tensor/` | first |\n| around | `show/` | after it |\n| subject | `pots/` | |\n"
        "| | `jugs/` | |\n| command | `tools/` | last |\n");
  for (const char* header :
       {"include/lattice/tensor/shape.hpp", "src/show/text_table.hpp", "src/pots/pot.hpp",
        "src/pots/around/drawn_pot.hpp", "src/jugs/jug.hpp"})
    write(header, "#pragma once\n");
  write(file, "#include <vector>\n#include " + include + "\n");
  const Answer answer = run_program(LATTICE_SOURCE "/scripts/includes.py", {"check", tree.path()});
  EXPECT_EQ(answer.status, answer.err.empty() ? 0 : 1);
  return answer.err;
}

TEST(includes, go_from_a_module_to_those_above_it_alone) {
  EXPECT_EQ(said_of("src/show/page.cpp", "\"lattice/tensor/shape.hpp\""), "");
  EXPECT_EQ(said_of("src/tools/work.cpp", "\"show/text_table.hpp\""), "");
  EXPECT_EQ(said_of("src/tensor/print.cpp", "\"show/text_table.hpp\""),
            "src/tensor/print.cpp includes show/text_table.hpp: show/ stands below tensor/\n");
  EXPECT_THAT(said_of("include/lattice/cellar/a.hpp", "<string>"),
              ::testing::HasSubstr("no module cellar/"));
}

TEST(includes, leave_subjects_to_themselves_and_to_one_list) {
  EXPECT_EQ(said_of("src/pots/glaze.cpp", "\"pots/pot.hpp\""), "");
  EXPECT_EQ(said_of("src/pots/glaze.cpp", "\"lattice/tensor/shape.hpp\""), "");
  EXPECT_EQ(said_of("src/pots/around/shown.cpp", "\"show/text_table.hpp\""), "");
  EXPECT_EQ(said_of("src/tools/subjects.cpp", "\"pots/around/drawn_pot.hpp\""), "");
  for (const auto& [file, include] : std::vector<std::pair<const char*, const char*>>{
           {"src/pots/glaze.cpp", "\"show/text_table.hpp\""},
           {"src/pots/glaze.cpp", "\"pots/around/drawn_pot.hpp\""},
           {"src/pots/glaze.cpp", "\"jugs/jug.hpp\""},
           {"src/pots/around/shown.cpp", "\"jugs/jug.hpp\""},
           {"src/show/page.cpp", "\"pots/pot.hpp\""},
           {"src/tensor/print.cpp", "\"pots/pot.hpp\""},
           {"src/tools/work.cpp", "\"pots/pot.hpp\""}}) {
    EXPECT_NE(said_of(file, include), "") << file << " " << include;
  }
}

TEST(includes, of_slow_libraries_are_left_to_the_files_that_are_made_for_them) {
  EXPECT_EQ(said_of("src/tools/run.cpp", "<CLI/CLI.hpp>"), "");
  EXPECT_THAT(said_of("src/tools/work.cpp", "<CLI/CLI.hpp>"), ::testing::HasSubstr("run"));
  EXPECT_EQ(said_of("src/tensor/a.hpp", "<Eigen/Core>"), "");
  EXPECT_THAT(said_of("include/lattice/tensor/a.hpp", "<Eigen/Core>"),
              ::testing::HasSubstr("only src/tensor/"));
}

TEST(includes, tell_which_sources_see_a_file) {
  const Answer answer = run_program(
      "/bin/sh", {"-c", "cd " LATTICE_SOURCE " && scripts/includes.py users src/tools/walk.hpp"});
  EXPECT_EQ(answer.out, "src/tools/walk.cpp\nsrc/tools/work.cpp\n");
}

/// What links to headings call them: in small letters, with `-` between words.
std::vector<std::string> headings_of(const std::string& text) {
  const std::regex heading(R"((?:^|\n)#+ ([^\n]+))");
  std::vector<std::string> names;
  for (std::sregex_iterator next(text.begin(), text.end(), heading), end; next != end; ++next) {
    std::string name;
    for (const char letter : (*next)[1].str())
      name +=
          letter == ' ' ? '-' : static_cast<char>(std::tolower(static_cast<unsigned char>(letter)));
    names.push_back(name);
  }
  return names;
}

TEST(documents, link_to_files_and_headings_that_are_there) {
  for (const char* name : {"README.md", "CONTRIBUTING.md"}) {
    const std::string text = content_of(std::string(LATTICE_SOURCE "/") + name);
    ASSERT_FALSE(text.empty());
    const std::regex link(R"(\[[^\]\n]+\]\(([^)\n]+)\))");
    for (std::sregex_iterator next(text.begin(), text.end(), link), end; next != end; ++next) {
      const std::string target = (*next)[1];
      if (target.starts_with('#')) {
        EXPECT_THAT(headings_of(text), ::testing::Contains(target.substr(1)));
      } else {
        EXPECT_TRUE(std::filesystem::exists(LATTICE_SOURCE "/" + target)) << target;
      }
    }
  }
}

}  // namespace
}  // namespace lattice::testing
