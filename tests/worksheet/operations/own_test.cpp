#include "lattice/worksheet/operations/own.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "support/every_operation.hpp"

namespace lattice {
namespace {

TEST(own_operation, is_shown_as_arithmetic_when_it_is_generic_and_by_name_when_not) {
  Worksheet sheet;
  const Line w = named("w", sheet.weight("w", tensor({2.0})));
  const Line h = named("h", testing::swish(w));
  EXPECT_EQ(h.operation(), "swish");
  EXPECT_EQ(h.symbols(), "swish(w)");
  EXPECT_EQ(explain(h, {0}).formula.text(), "w[0]/(1 + exp(−w[0]))");
  EXPECT_EQ(explain(testing::wave(w), {0}).formula.text(), "wave(w[0])");
  EXPECT_EQ(testing::wave(tensor({0.5})).number(), std::sin(0.5));
  for (const char* const name :
       {"", "a name that is longer than it may be", "\x1B[31mred", "a\nb", "\xFF"}) {
    EXPECT_THROW(static_cast<void>(own_operation(
                     name, [](double x) { return x; }, [](double) { return 1.0; })),
                 NameError)
        << name;
  }
}

}  // namespace
}  // namespace lattice
