#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "support/command.hpp"
#include "support/terminal.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

const Words lesson = {"work",   "glazes",  "--net", "dense 8, tanh, dense 4", "--batch", "4",
                      "--walk", "--steps", "1,5"};

class walk : public AtTerminal {};
class panel : public AtTerminal {};

/// What a line brings onto the screen, up to the next prompt, without colours.
std::string answer_to(Terminal& terminal, const std::string& line) {
  terminal.type(line);
  std::string seen = terminal.read_until("of 36] ");
  for (std::size_t at = seen.find('\x1b'); at != std::string::npos; at = seen.find('\x1b', at))
    seen.erase(at, seen.find('m', at) - at + 1);
  return seen;
}

TEST_F(walk, goes_on_and_back_jumps_and_explains_at_the_prompt) {
  Terminal terminal(lesson);
  EXPECT_THAT(terminal.read_until("of 36] "),
              AllOf(HasSubstr("help tells"), HasSubstr("1 of 36]")));
  EXPECT_THAT(answer_to(terminal, ""), AllOf(HasSubstr("Scaling"), HasSubstr("raw")));
  EXPECT_THAT(answer_to(terminal, ""), HasSubstr("centre"));
  EXPECT_THAT(answer_to(terminal, "b"), AllOf(HasSubstr("raw"), HasSubstr("2 of 36]")));
  EXPECT_THAT(answer_to(terminal, "hidden"), HasSubstr("hidden = x·hidden.weight + hidden.bias"));
  EXPECT_THAT(answer_to(terminal, "why hidden[0,2]"),
              AllOf(HasSubstr("= x[0,0]·hidden.weight[0,2]"), HasSubstr("= 1.0733")));
  EXPECT_THAT(answer_to(terminal, "loss"), HasSubstr("[step 1, loss,"));
  EXPECT_THAT(answer_to(terminal, "reverse"),
              AllOf(HasSubstr("Reverse sweep"), HasSubstr("│ ∂loss  ")));
  EXPECT_THAT(answer_to(terminal, "∂hidden"), HasSubstr("│ ∂hidden  "));
  EXPECT_THAT(answer_to(terminal, "why ∂hidden[0,2] 1"),
              AllOf(HasSubstr("∂loss/∂hidden[0,2] = ∂tanh[0,2]"), HasSubstr("∂loss/∂tanh[0,2] =")));
  EXPECT_THAT(answer_to(terminal, "update"), HasSubstr("new hidden.weight"));
  EXPECT_THAT(answer_to(terminal, "why new hidden.weight[0,1]"),
              HasSubstr("rate·∂hidden.weight[0,1]"));
  EXPECT_THAT(answer_to(terminal, "last"), HasSubstr("36 of 36]"));
  EXPECT_THAT(answer_to(terminal, ""), HasSubstr("On: step 5"));
  EXPECT_THAT(answer_to(terminal, "step 5"), HasSubstr("[step 5, rows taken, 1 of 36]"));
  EXPECT_THAT(answer_to(terminal, "7"), HasSubstr("hidden.weight"));
  EXPECT_THAT(answer_to(terminal, "next"), HasSubstr("hidden.bias"));
  EXPECT_THAT(answer_to(terminal, "why ∂hidden.weight[0,0] all"), Not(HasSubstr("more]")));
  EXPECT_THAT(answer_to(terminal, "history"),
              AllOf(HasSubstr("1  b\r\n"), HasSubstr("2  hidden\r\n"), HasSubstr("step 5")));
  EXPECT_THAT(answer_to(terminal, "!2"),
              AllOf(HasSubstr("hidden = x·hidden.weight"), HasSubstr("[step 5")));
  EXPECT_THAT(answer_to(terminal, "!"), HasSubstr("step 5"));
  EXPECT_THAT(answer_to(terminal, "!99"), HasSubstr("'!99' is none of !1 to !"));
  EXPECT_THAT(answer_to(terminal, "!x"), HasSubstr("'!x' is none of"));
  EXPECT_THAT(answer_to(terminal, "list"), AllOf(HasSubstr("▸"), HasSubstr("new output.bias")));
  terminal.type("quit");
  EXPECT_EQ(terminal.wait(), 0);
}

TEST_F(walk, teaches_when_it_does_not_understand_and_goes_on) {
  Terminal terminal(lesson);
  terminal.read_until("of 36] ");
  EXPECT_THAT(answer_to(terminal, "!"), HasSubstr("Nothing was typed before."));
  EXPECT_THAT(answer_to(terminal, "hiden"), HasSubstr("Did you mean hidden?"));
  EXPECT_THAT(answer_to(terminal, "why zz[1]"), HasSubstr("no line is called 'zz'"));
  EXPECT_THAT(answer_to(terminal, "why hidden[9,9]"), HasSubstr("there is no hidden[9,9]"));
  EXPECT_THAT(answer_to(terminal, "why hidden[["), HasSubstr("does not say which number"));
  EXPECT_THAT(answer_to(terminal, "why hidden[0,0] many"), HasSubstr("no depth"));
  EXPECT_THAT(answer_to(terminal, "step 7"), HasSubstr("there is: 1 5"));
  EXPECT_THAT(answer_to(terminal, "b"), HasSubstr("This is the first line"));
  EXPECT_THAT(answer_to(terminal, std::string(3000, 'x')), HasSubstr("neither a word"));
  EXPECT_THAT(answer_to(terminal, "help"), HasSubstr("one line back"));
  terminal.press_control('d');
  EXPECT_EQ(terminal.wait(), 0);
}

TEST_F(walk, survives_a_window_that_changes_and_ends_at_once_with_ctrl_c) {
  Terminal terminal(lesson);
  terminal.read_until("of 36] ");
  terminal.resize(40, 10);
  EXPECT_THAT(answer_to(terminal, ""), HasSubstr("2 of 36]"));
  terminal.resize(200, 60);
  EXPECT_THAT(answer_to(terminal, ""), HasSubstr("3 of 36]"));
  terminal.press_control('c');
  EXPECT_EQ(terminal.wait(), -1);
}

TEST_F(walk, never_takes_over_the_screen) {
  Terminal terminal(lesson);
  std::string seen = terminal.read_until("of 36] ");
  terminal.type("reverse");
  seen += terminal.read_until("of 36] ");
  for (const char* control : {"\x1b[2J", "\x1b[H", "\x1b[?1049h", "\x1b[3J"})
    EXPECT_THAT(seen, Not(HasSubstr(control)));
}

TEST_F(panel, is_drawn_on_a_terminal_and_fits_into_it) {
  Terminal terminal({"train", "cracks", "--net", "dense 8, tanh, dense 2", "--epochs", "300"}, 60);
  const std::string seen = terminal.read_until("updates in");
  EXPECT_THAT(seen, AllOf(HasSubstr("epoch "), HasSubstr("running loss"),
                          HasSubstr("loss by epoch"), HasSubstr("s left"), HasSubstr("\x1b[4A")));
  EXPECT_EQ(seen.find("\x1b[2J"), std::string::npos);
  terminal.read_until("\x04");
  EXPECT_EQ(terminal.wait(), 0);
}

}  // namespace
}  // namespace lattice::testing
