#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/said.hpp"

/// Examples as columns: what is done example by example goes by the role of the axis.
namespace lattice {
namespace {

using ::testing::HasSubstr;
using testing::said;

Tensor turned(const Tensor& table) {
  return permute(table, {1, 0});
}

const Tensor& scores() {
  static const Tensor numbers = tensor({{1, 2, -1}, {0, 3, 1}}).with({Role::example, Role::class_});
  return numbers;
}
const Tensor& classes() {
  static const Tensor numbers = tensor({2, 1}).with({Role::example});
  return numbers;
}

TEST(columns, say_the_same_as_rows) {
  const Tensor columns = turned(scores());
  EXPECT_EQ(turned(softmax(columns)), softmax(scores()));
  EXPECT_EQ(turned(log_softmax(columns)), log_softmax(scores()));
  EXPECT_EQ(argmax(columns), argmax(scores()));
  EXPECT_EQ(argmax(columns).shape().role(0), Role::example);
  EXPECT_EQ(at_class(columns, classes()), at_class(scores(), classes()));
  EXPECT_EQ(turned(one_hot(classes(), 3, 0)), one_hot(classes(), 3));
  EXPECT_EQ(to_string(one_hot(classes(), 3, 0).shape()), "[class 3 × example 2]");
  for (const Form form : {Form::one_line, Form::written_out, Form::naive}) {
    const LossSettings<Tensor> plain{.form = form};
    const LossSettings<Tensor> counted{.row_weights = tensor({3, 1}), .form = form};
    for (const LossSettings<Tensor>& settings : {plain, counted}) {
      EXPECT_EQ(cross_entropy(columns, classes(), settings),
                cross_entropy(scores(), classes(), settings));
      const Tensor shares = softmax(2 * scores());
      EXPECT_NEAR(cross_entropy(columns, turned(shares), settings).number(),
                  cross_entropy(scores(), shares, settings).number(), 1e-15);
      EXPECT_NEAR(mean_squared(columns, turned(shares), settings).number(),
                  mean_squared(scores(), shares, settings).number(), 1e-15);
    }
  }
  EXPECT_EQ(cross_entropy_of_rows(columns, classes()), cross_entropy_of_rows(scores(), classes()));
  EXPECT_EQ(cross_entropy_of_rows(columns, turned(softmax(scores()))),
            cross_entropy_of_rows(scores(), softmax(scores())));
  EXPECT_EQ(squared_of_rows(columns, columns + 1), tensor({1, 1}));
}

TEST(columns, are_told_by_their_role_and_never_by_their_size) {
  // As many examples as classes: without roles, examples are rows.
  const Tensor square = tensor({{1, 2}, {5, 3}});
  EXPECT_EQ(argmax(square), tensor({1, 0}));
  EXPECT_EQ(argmax(square.with({Role::class_, Role::example})), tensor({1, 1}));
  // An axis that is named is the one that is meant.
  EXPECT_EQ(argmax(turned(scores()), last_axis), tensor({0, 1, 1}));
  // A truth without roles lies as the scores do.
  const Tensor shares = tensor({{0, 0}, {0, 1}, {1, 0}});
  EXPECT_NEAR(cross_entropy(turned(scores()), shares).number(),
              cross_entropy(scores(), classes()).number(), 1e-15);
}

TEST(columns, that_do_not_fit_are_refused) {
  EXPECT_THAT(said([] {
                return cross_entropy(turned(scores()), tensor({0, 1, 2}));
              }),
              HasSubstr("[2], a class number for each example"));
  EXPECT_THAT(said([] {
                return cross_entropy(turned(scores()), tensor({0, 3}));
              }),
              HasSubstr("0 to 2"));
  EXPECT_THAT(said([] { return one_hot(classes(), 3, 2); }), HasSubstr("axis 2 of the result"));
  EXPECT_THAT(said([] {
                return mean_squared(turned(scores()), turned(scores()), {.row_weights = ones({3})});
              }),
              HasSubstr("[2], one number a row"));
}

}  // namespace
}  // namespace lattice
