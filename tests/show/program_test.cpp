#include "show/program.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/text/error.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

TEST(program, reads_and_writes_at_once_however_much_there_is) {
  std::string much;
  for (int at = 0; at < 500'000; ++at)
    much += std::to_string(at) + "\n";
  EXPECT_EQ(run_program({"cat"}, much, "coreutils"), much);
  EXPECT_EQ(run_program({"cat"}, "", "coreutils"), "");
}

TEST(program, need_not_read_what_it_is_given) {
  const std::string much(5'000'000, 'x');
  EXPECT_EQ(run_program({"sh", "-c", "echo done"}, much, "dash"), "done\n");
}

TEST(program, that_fails_says_why) {
  const std::string refusal = testing::said<ProgramError>([&] {
    static_cast<void>(
        run_program({"sh", "-c", "echo first >&2; echo second >&2; exit 3"}, "", "dash"));
  });
  EXPECT_THAT(refusal, HasSubstr("second"));
  EXPECT_THAT(refusal, ::testing::Not(HasSubstr("first")));
  EXPECT_THROW(static_cast<void>(run_program({"sh", "-c", "kill -9 $$"}, "", "dash")),
               ProgramError);
}

TEST(program, that_is_missing_is_named_with_its_package) {
  const std::string refusal = testing::said<ProgramError>(
      [&] { return run_program({"no-such-program"}, "", "some-package"); });
  EXPECT_THAT(refusal, HasSubstr("no-such-program"));
  EXPECT_THAT(refusal, HasSubstr("apt-get install some-package"));
}

// One that answers well and draws nothing, or half of it, is no less broken than one that fails.
TEST(program, that_draws_nothing_is_noticed) {
  for (const std::string& drawn : {std::string(), std::string("<?xml version='1.0'?><svg>"),
                                   std::string("no picture"), std::string("%PDF-1.4 half")}) {
    for (const char* const ending : {".svg", ".png", ".gif", ".pdf"}) {
      EXPECT_THAT(testing::said<ProgramError>([&] {
                    return drawn_by({"printf", "%s", drawn}, "", "coreutils", ending);
                  }),
                  HasSubstr("the program printf drew nothing"))
          << drawn;
    }
  }
  EXPECT_EQ(drawn_by({"printf", "%s", "<?xml?><svg>a]]>b<![CDATA[c]]></svg>\n"}, "", "x", ".svg"),
            "<?xml?><svg>a]]&gt;b<![CDATA[c]]></svg>\n");
}

}  // namespace
}  // namespace lattice
