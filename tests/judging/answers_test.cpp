#include "lattice/judging/answers.hpp"

#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// A worked minibatch, and what judging says of the same rows.
struct Judged {
  WorkedMinibatch work;
  Assessment assessment;
};

Judged judged(const Dataset& data, const std::string& blueprint, const Loss& loss) {
  Random random(5);
  const Split parts = scaled(split(data, {}, random), ScalingKind::standard, ScalingKind::none);
  const Network net(data.example(), blueprint, Random(3));
  return {WorkedMinibatch(net, parts.train.from(0, 40), Descent{}, {.loss = loss}),
          assess(net,
                 RowSet(parts.train.data(),
                        {parts.train.rows().begin(), parts.train.rows().begin() + 40}),
                 {.loss = loss})};
}

TEST(answer_lines, count_what_judging_counts) {
  struct Case {
    std::string set;
    std::string blueprint;
    Loss loss;
  };
  for (const Case& each : {Case{"glazes", "dense 5, tanh, dense 4", Loss::cross_entropy},
                           Case{"glazes", "dense 4, softmax", Loss::half_mean_squared},
                           Case{"glazes", "dense 4", Loss::mean_squared},
                           Case{"cracks", "dense 3, tanh, dense 1", Loss::binary_cross_entropy},
                           Case{"cracks", "dense 1, sigmoid", Loss::mean_squared}}) {
    Dataset data = demo_set(each.set, 120, 2);
    for (const bool are_weighed : {false, true}) {
      if (are_weighed) {
        Random random(8);
        data = data.with_row_weights(uniform({120}, 0.5, 2.0, random));
      }
      const auto [work, assessment] = judged(data, each.blueprint, each.loss);
      const Worksheet& sheet = work.sheet();
      EXPECT_NEAR(sheet.line("accuracy").value().number(), assessment.classes->accuracy, 1e-12)
          << each.set << each.blueprint;
      EXPECT_LT(distance(sheet.line("confusion").value(), assessment.classes->confusion).largest,
                1e-12)
          << each.set << each.blueprint;
      EXPECT_FALSE(sheet.line("accuracy").is_swept());
      EXPECT_GT(sheet.line("answer").number(), work.loss().number());
      const Explanation why = work.why({"accuracy", {}}, WorkedSheet::Ask::value);
      EXPECT_DOUBLE_EQ(why.formula.evaluate(), why.value);
    }
  }
}

TEST(answer_lines, are_for_classes_alone) {
  const Dataset kiln = demo_set("kiln", 20, 1);
  const Network net(kiln.example(), "dense 1", Random(1));
  const WorkedMinibatch work(net, RowSet(kiln).all(), Descent{});
  EXPECT_THROW(static_cast<void>(work.sheet().line("accuracy")), NameError);
}

}  // namespace
}  // namespace lattice
