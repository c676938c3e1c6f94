#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <sstream>

#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

/// Names with a command in them, for whatever a shell makes of names.
const std::vector<std::string> hostile = {
    "`touch pwned`",        "$(touch pwned)", "a'; touch pwned; '",
    "a\"; touch pwned; \"", "x; touch pwned", "a & touch pwned",
    "a | touch pwned",      "--help",         "> pwned"};

/// What an answer says to try, line by line.
std::vector<std::string> advice_in(const Answer& answer) {
  std::vector<std::string> found;
  std::istringstream lines(answer.err + answer.out);
  for (std::string line; std::getline(lines, line);) {
    const std::size_t at = line.find("try:");
    if (at != std::string::npos) found.push_back(line.substr(at + 4));
  }
  return found;
}

/// Runs the command in a folder, and pastes all that it says to try into a shell there, which must
/// run nothing of what is in a name.
/// @returns how many lines that were
std::size_t paste_advice_of(const Folder& folder, const Words& words) {
  std::string command = "cd " + folder.path().string() + " && exec $lattice";
  for (std::string word : words) {
    for (std::size_t at = 0; (at = word.find('\'', at)) != std::string::npos; at += 4)
      word.replace(at, 1, "'\\''");
    command += " '" + word + "'";
  }
  const Answer answer = shell(command);
  const std::vector<std::string> advice = advice_in(answer);
  for (const std::string& each : advice) {
    for (const char* const program : {"/bin/sh", "/bin/bash"}) {
      static_cast<void>(
          run_program(program, {"-c", "cd " + folder.path().string() + " && { " + each + "\n}"}));
      static_cast<void>(run_program(program, {"-c", "cd " + folder.path().string() + "; " + each}));
    }
    EXPECT_FALSE(std::filesystem::exists(folder.path() / "pwned")) << each;
  }
  return advice.size();
}

std::string in_quotes(const std::string& field) {
  std::string text = "\"";
  for (const char letter : field)
    text += letter == '"' ? std::string("\"\"") : std::string(1, letter);
  return text + "\"";
}

TEST(advice, with_names_of_nodes_is_safe_to_paste) {
  std::size_t pasted = 0;
  for (const std::string& name : hostile) {
    const Folder folder;
    const std::string field = in_quotes(name);
    static_cast<void>(
        folder.file("nodes.csv", "name,guild\n" + field + ",hill\nBo,river\nCy,hill\nDo,river\n"));
    static_cast<void>(folder.file("edges.csv", field + ",Cy\nBo,Do\n"));
    const Words graph = {"--file",   "nodes.csv", "--edges", "edges.csv",
                         "--target", "guild",     "--known", "1"};
    ASSERT_EQ(
        shell("cd " + folder.path().string() +
              " && $lattice train --file nodes.csv --edges edges.csv --target guild --known 1 "
              "--epochs 1 --save m.lattice")
            .status,
        0);
    pasted += paste_advice_of(folder, {"ask", "m.lattice"});
    pasted += paste_advice_of(folder, {"ask", "m.lattice", "--record", "x=1"});
    const std::string almost = name.substr(0, name.size() - 1) + "?";
    pasted += paste_advice_of(folder, {"ask", "m.lattice", "--node=" + almost});
  }
  EXPECT_GE(pasted, 2 * (hostile.size() - 1));
}

TEST(advice, with_names_of_columns_is_safe_to_paste) {
  std::size_t pasted = 0;
  for (const std::string& name : hostile) {
    const Folder folder;
    const std::string field = in_quotes(name);
    static_cast<void>(folder.file("t.csv", field + "," + in_quotes(name + "2") +
                                               "\n1,a\n2,b\n3,a\n4,b\n5,a\n6,b\n7,a\n8,b\n"));
    pasted += paste_advice_of(folder, {"train", "--file", "t.csv"});
    pasted += paste_advice_of(folder, {"train", "--file", "t.csv", "--target=" + name + "x"});
    ASSERT_EQ(shell("cd " + folder.path().string() +
                    " && $lattice train --file t.csv --target 2 --epochs 1 --save m.lattice")
                  .status,
              0);
    pasted += paste_advice_of(folder, {"ask", "m.lattice"});
    pasted += paste_advice_of(folder, {"ask", "m.lattice", "--record=" + name.substr(1) + "=1"});
  }
  EXPECT_GE(pasted, 3 * (hostile.size() - 1));
}

TEST(advice, with_names_of_files_is_safe_to_paste) {
  std::size_t pasted = 0;
  for (const std::string& name : hostile) {
    if (name.starts_with('-')) continue;
    const Folder folder;
    const std::string model = name + ".lattice";
    pasted += paste_advice_of(folder, {"new", "kiln", "--out", name + ".toml"});
    pasted += paste_advice_of(folder, {"new", "kiln", "--out", name + ".toml"});
    pasted += paste_advice_of(folder, {"train", "kiln", "--save", name + "/m.lattice"});
    pasted += paste_advice_of(folder, {"data", "--png", name});
    std::string quoted = model;
    for (std::size_t at = 0; (at = quoted.find('\'', at)) != std::string::npos; at += 4)
      quoted.replace(at, 1, "'\\''");
    ASSERT_EQ(shell("cd " + folder.path().string() +
                    " && $lattice train tiles --rows 60 --epochs 1 --save '" + quoted + "'")
                  .status,
              0);
    pasted += paste_advice_of(folder, {"train", model});
    pasted += paste_advice_of(folder, {"ask", model});
    pasted +=
        paste_advice_of(folder, {"work", model, "--row", "1", "--curves", "--html", "p.html"});
  }
  EXPECT_GE(pasted, 5 * (hostile.size() - 1));
}

TEST(output, of_names_with_line_breaks_stays_in_its_lines) {
  const Folder folder;
  const std::string forged = "a\nforged line";
  static_cast<void>(folder.file(forged + ".csv",
                                "\"w\nforged line\",state\n1,\"x\nforged line\"\n"
                                "2,y\n3,\"x\nforged line\"\n4,y\n5,y\n6,y\n7,y\n"
                                "8,\"x\nforged line\"\n9,y\n10,y\n"));
  const std::string in = "cd " + folder.path().string() + " && ";
  const std::string data = "--file '" + forged +
                           ".csv' --target state --title 'T\nforged line' "
                           "--epochs 2";
  const std::vector<std::string> commands = {
      "train " + data + " --save 'm\nforged line.lattice' --csv 'c\nforged line.csv'",
      "work " + data + " --html 'p\nforged line.html'",
      "work " + data,
      "data " + data,
      "plan " + data,
      "compare " + data + " --vary epochs=1,2",
      "draw curves " + data + " --out 'd\nforged line.svg'",
      "check " + data,
      "ask 'm\nforged line.lattice' --record 3",
      "assess 'm\nforged line.lattice' --weights",
      "new " + data + " --out 'n\nforged line.toml'",
      "data --file 'none\nforged line.csv'"};
  for (const std::string& command : commands) {
    const Answer answer = shell(in + "$lattice " + command);
    EXPECT_THAT("\n" + answer.out + "\n" + answer.err, Not(HasSubstr("\nforged line"))) << command;
    EXPECT_NE(answer.status, 3) << command;
  }
}

}  // namespace
}  // namespace lattice::testing
