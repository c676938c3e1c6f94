#pragma once

#include <gtest/gtest.h>

#include "lattice/learning/worked_minibatch.hpp"

namespace lattice::testing {

/// Every value, gradient and update evaluates to its number.
inline void expect_explained(const WorkedMinibatch& example) {
  for (const Line& line : example.sheet().lines()) {
    for (std::int64_t offset = 0; offset < line.shape().count(); ++offset) {
      const Place place{line.name(), line.shape().index(offset)};
      const Explanation value = example.why(place, WorkedMinibatch::Ask::value);
      if (value.note.empty()) {
        EXPECT_NEAR(value.formula.evaluate(), line.value().at_offset(offset), 1e-10);
      }
      if (example.reverse_step_of(line) == nullptr || line == example.loss()) continue;
      const Explanation gradient = example.why(place, WorkedMinibatch::Ask::gradient);
      EXPECT_NEAR(gradient.formula.evaluate(), gradient.value, 1e-10);
    }
  }
  for (const WorkedMinibatch::Update& update : example.updates()) {
    const Explanation why = example.why({update.weight, Index::zeros(update.after.shape().rank())},
                                        WorkedMinibatch::Ask::update);
    EXPECT_EQ(why.value, update.after.at_offset(0));
    EXPECT_NEAR(why.formula.evaluate(), why.value, 1e-15);
  }
}

}  // namespace lattice::testing
