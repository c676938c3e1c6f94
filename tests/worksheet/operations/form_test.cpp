#include "lattice/worksheet/operations/form.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <vector>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// Value and gradients of a calculation on one weight in one form.
struct Worked {
  Tensor value;
  Tensor gradient;

  Worked(const Tensor& weight, const std::function<Line(Worksheet&, const Line&)>& write) {
    Worksheet sheet;
    const Line w = sheet.weight("w", weight);
    const Line result = sum(write(sheet, w));
    value = result.value();
    gradient = reverse_sweep(result)["w"];
  }
};

/// Everything that comes in several forms.
const std::vector<std::function<Line(Worksheet&, const Line&, Form)>> in_forms = {
    [](Worksheet&, const Line& w, Form form) { return sigmoid(w, form); },
    [](Worksheet& sheet, const Line& w, Form form) {
      return square(dense(sheet.given("x", ones({2, 3})), w, sheet.given("b", ones({4})), form));
    },
    [](Worksheet&, const Line& w, Form form) { return square(softmax(w, 1, form)); },
    [](Worksheet&, const Line& w, Form form) { return square(softmax(w, 0, form)); },
    [](Worksheet&, const Line& w, Form form) { return square(log_softmax(w, 1, form)); },
    [](Worksheet&, const Line& w, Form form) {
      return square(log_sum_exp(w, {.axes = {0}}, form));
    },
    [](Worksheet&, const Line& w, Form form) { return square(log_sum_exp(w, {}, form)); },
    [](Worksheet& sheet, const Line& w, Form form) {
      return mean_squared(w, sheet.given("y", ones(w.shape())), {.form = form});
    },
    [](Worksheet& sheet, const Line& w, Form form) {
      return half_mean_squared(
          w, sheet.given("y", ones(w.shape())),
          {.row_weights = sheet.given("counted", tensor({1, 0, 3})), .form = form});
    },
    [](Worksheet& sheet, const Line& w, Form form) {
      return binary_cross_entropy(w, sheet.given("y", 0.25 * ones(w.shape())), {.form = form});
    },
    [](Worksheet& sheet, const Line& w, Form form) {
      return binary_cross_entropy(
          w, sheet.given("y", zeros(w.shape())),
          {.row_weights = sheet.given("counted", tensor({1, 0, 3})), .form = form});
    },
    [](Worksheet& sheet, const Line& w, Form form) {
      return cross_entropy(w, sheet.given("classes", tensor({1, 0, 3})), {.form = form});
    },
    [](Worksheet& sheet, const Line& w, Form form) {
      return cross_entropy(
          w, sheet.given("classes", tensor({1, 0, 3})),
          {.row_weights = sheet.given("counted", tensor({1, 0, 3})), .form = form});
    },
    [](Worksheet& sheet, const Line& w, Form form) {
      return cross_entropy(w, sheet.given("truth", softmax(ones(w.shape()))), {.form = form});
    },
    [](Worksheet&, const Line& w, Form form) { return l2_term(w, 0.3, form); },
};

TEST(forms, mean_the_same_value_and_the_same_gradients) {
  Random random(11);
  for (int trial = 0; trial < 30; ++trial) {
    const Tensor weight = normal({3, 4}, 0, 2, random);
    for (std::size_t i = 0; i < in_forms.size(); ++i) {
      const auto in_form = [&](Form form) {
        return Worked(weight,
                      [&](Worksheet& sheet, const Line& w) { return in_forms[i](sheet, w, form); });
      };
      const Worked fused = in_form(Form::one_line);
      for (const Form form : {Form::written_out, Form::naive}) {
        const Worked other = in_form(form);
        EXPECT_TRUE(agreement(other.value, fused.value, 1e-12).agrees) << i;
        EXPECT_TRUE(agreement(other.gradient, fused.gradient, 1e-10).agrees) << i;
      }
    }
  }
}

/// Whether a form gives ordinary numbers only, forward and back, for scores of this size.
bool holds(Precision precision, double size, Form form,
           const std::function<Line(const Line&, Form)>& write) {
  const Tensor scores = tensor({{size, -size, 0}, {-size, 0, size}}, precision);
  const Worked worked(scores, [&](Worksheet&, const Line& w) { return write(w, form); });
  return std::isfinite(worked.value.number()) && std::isfinite(sum(worked.gradient).number());
}

TEST(forms, break_where_they_are_naive_and_hold_where_they_are_not) {
  const std::vector<std::function<Line(const Line&, Form)>> calculations = {
      [](const Line& w, Form form) { return softmax(w, 1, form); },
      [](const Line& w, Form form) { return log_softmax(w, 1, form); },
      [](const Line& w, Form form) { return sigmoid(w, form); }};
  for (const auto& calculation : calculations) {
    for (const auto& [precision, size] :
         {std::pair(Precision::double_, 1000.0), std::pair(Precision::single, 100.0)}) {
      EXPECT_TRUE(holds(precision, size, Form::one_line, calculation));
      EXPECT_TRUE(holds(precision, size, Form::written_out, calculation));
      EXPECT_FALSE(holds(precision, size, Form::naive, calculation));
    }
    EXPECT_TRUE(holds(Precision::double_, 100.0, Form::naive, calculation));
  }
}

TEST(forms, that_are_patched_hold_where_a_log_meets_0_and_are_a_little_off_elsewhere) {
  const double epsilon = 1e-6;
  for (const double score : {0.5, 400.0}) {
    const auto of_classes = [&](Worksheet& sheet, const Line& w, Form form) {
      return cross_entropy(w, sheet.given("y", tensor({1, 1})), {.form = form, .epsilon = epsilon});
    };
    const auto of_two = [&](Worksheet& sheet, const Line& w, Form form) {
      return binary_cross_entropy(w, sheet.given("y", tensor({{0, 1, 1}, {0, 1, 1}})),
                                  {.form = form, .epsilon = epsilon});
    };
    const Tensor scores = tensor({{score, -score, 0}, {-score, 0, score}});
    for (const auto& write : {std::function<Line(Worksheet&, const Line&, Form)>(of_classes),
                              std::function<Line(Worksheet&, const Line&, Form)>(of_two)}) {
      const auto in = [&](Form form) {
        return Worked(scores,
                      [&](Worksheet& sheet, const Line& w) { return write(sheet, w, form); });
      };
      const Worked patched = in(Form::patched);
      EXPECT_TRUE(std::isfinite(patched.value.number()));
      EXPECT_TRUE(std::isfinite(sum(patched.gradient).number()));
      if (score < 1.0) {
        EXPECT_NEAR(patched.value.number(), in(Form::one_line).value.number(), 20 * epsilon);
        EXPECT_NE(patched.value.number(), in(Form::one_line).value.number());
      } else {
        EXPECT_LT(patched.value.number(), 14.0);
        EXPECT_GT(in(Form::one_line).value.number(), 100.0);
      }
    }
  }
}

}  // namespace
}  // namespace lattice
