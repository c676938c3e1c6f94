#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// How an operation writes itself: in symbols, one number of its result, what it passes on to its
/// first input in symbols, and one number of that.
struct Wording {
  const char* name;
  Line (*apply)(Worksheet& sheet, const Line& x);
  const char* symbols;
  const char* element;
  const char* reverse_symbols;
  const char* reverse_element;
};

void PrintTo(const Wording& wording, std::ostream* out) {
  *out << wording.name;
}

/// The other inputs of an operation.
Line other(Worksheet& sheet) {
  return sheet.given("w", tensor({{0.5, 3}, {-1, 4}}));
}
Line classes(Worksheet& sheet) {
  return sheet.given("c", tensor({1, 0}));
}
Line counted(Worksheet& sheet) {
  return sheet.given("k", tensor({1, 3}));
}

const std::vector<Wording> wordings = {
    {"add", [](Worksheet& s, const Line& x) { return x + other(s); }, "x + w", "x[0,1] + w[0,1]",
     "∂y", "∂y[0,1]"},
    {"subtract from", [](Worksheet&, const Line& x) { return 1 - x; }, "1 − x", "1 − x[0,1]", "−∂y",
     "−∂y[0,1]"},
    {"divide", [](Worksheet& s, const Line& x) { return x / other(s); }, "x/w", "x[0,1]/w[0,1]",
     "∂y × (1/w)", "∂y[0,1]·(1/w[0,1])"},
    {"power", [](Worksheet&, const Line& x) { return power(x, 3); }, "x^3", "x[0,1]^3",
     "∂y × (3 × x²)", "∂y[0,1]·(3·x[0,1]²)"},
    {"square root", [](Worksheet&, const Line& x) { return sqrt(x); }, "√(x)", "√(x[0,1])",
     "∂y × (1/(2 × y))", "∂y[0,1]·(1/(2·y[0,1]))"},
    {"absolute value", [](Worksheet&, const Line& x) { return abs(x); }, "|x|", "|x[0,1]|",
     "∂y × ((1 if x > 0 else 0) − (1 if x < 0 else 0))",
     "∂y[0,1]·((1 if x[0,1] > 0 else 0) − (1 if x[0,1] < 0 else 0))"},
    {"maximum", [](Worksheet& s, const Line& x) { return maximum(x, other(s)); }, "max(x, w)",
     "max(x[0,1], w[0,1])", "∂y × (1 if x ≥ w else 0)", "∂y[0,1]·(1 if x[0,1] ≥ w[0,1] else 0)"},
    {"clip", [](Worksheet&, const Line& x) { return clip(x, -1, 1); }, "min(max(x, −1), 1)",
     "min(max(x[0,1], −1), 1)", "∂y × ((1 if x > −1 else 0) × (1 if x < 1 else 0))",
     "∂y[0,1]·((1 if x[0,1] > −1 else 0)·(1 if x[0,1] < 1 else 0))"},
    {"at most", [](Worksheet&, const Line& x) { return at_most(x, 2); }, "(1 if x ≤ 2 else 0)",
     "(1 if x[0,1] ≤ 2 else 0)", nullptr, nullptr},
    {"equal", [](Worksheet& s, const Line& x) { return equal(x, other(s)); }, "(1 if x = w else 0)",
     "(1 if x[0,1] = w[0,1] else 0)", nullptr, nullptr},
    {"ReLU", [](Worksheet&, const Line& x) { return relu(x); }, "max(x, 0)", "max(x[0,1], 0)",
     "∂y × (1 if x > 0 else 0)", "∂y[0,1]·(1 if x[0,1] > 0 else 0)"},
    {"leaky ReLU", [](Worksheet&, const Line& x) { return leaky_relu(x, 0.1); },
     "(x if x > 0 else 0.1 × x)", "(x[0,1] if x[0,1] > 0 else 0.1·x[0,1])",
     "∂y × (1 if x > 0 else 0.1)", "∂y[0,1]·(1 if x[0,1] > 0 else 0.1)"},
    {"softplus", [](Worksheet&, const Line& x) { return softplus(x); },
     "max(x, 0) + log(1 + exp(−|x|))", "max(x[0,1], 0) + log(1 + exp(−|x[0,1]|))",
     "∂y × (1/(1 + exp(−x)))", "∂y[0,1]·(1/(1 + exp(−x[0,1])))"},
    {"sum", [](Worksheet&, const Line& x) { return sum(x, {.axes = {1}, .keep = true}); },
     "sum(x; unit, kept)", "x[0,0] + x[0,1]", "∂y at every place", "∂y[0,0]"},
    {"mean", [](Worksheet&, const Line& x) { return mean(x); }, "mean(x)",
     "(x[0,0] + x[0,1] + x[1,0] + x[1,1])/4", "∂y/4 at every place", "∂y/4"},
    {"variance", [](Worksheet&, const Line& x) { return variance(x, {.axes = {0}}); },
     "variance(x; feature)", "((x[0,0] − m)² + (x[1,0] − m)²)/2", "2 × (x − mean(x))/2 × ∂y",
     "2·(x[0,1] − m)/2·∂y[1]"},
    {"max", [](Worksheet&, const Line& x) { return max(x); }, "max(x)",
     "max(x[0,0], x[0,1], x[1,0], x[1,1])", "∂y where x is largest, 0 elsewhere",
     "(∂y if argmax(x[0,0], x[0,1], x[1,0], x[1,1]) = 1 else 0)"},
    {"log-sum-exp", [](Worksheet&, const Line& x) { return log_sum_exp(x, {.axes = {1}}); },
     "log_sum_exp(x; unit)", "m + log(exp(x[0,0] − m) + exp(x[0,1] − m))", "exp(x − y) × ∂y",
     "exp(x[0,1] − y[0])·∂y[0]"},
    {"softmax", [](Worksheet&, const Line& x) { return softmax(x); }, "softmax(x; unit)",
     "exp(x[0,1] − m)/(exp(x[0,0] − m) + exp(x[0,1] − m))", "(∂y − Σ(unit) ∂y × y) × y",
     "(∂y[0,1] − (∂y[0,0]·y[0,0] + ∂y[0,1]·y[0,1]))·y[0,1]"},
    {"log-softmax", [](Worksheet&, const Line& x) { return log_softmax(x); },
     "log_softmax(x; unit)", "−(m − x[0,1] + log(exp(x[0,0] − m) + exp(x[0,1] − m)))",
     "∂y − exp(y) × Σ(unit) ∂y", "∂y[0,1] − exp(y[0,1])·(∂y[0,0] + ∂y[0,1])"},
    {"argmax", [](Worksheet&, const Line& x) { return argmax(x); }, "argmax(x; unit)",
     "argmax(x[0,0], x[0,1])", nullptr, nullptr},
    {"matmul", [](Worksheet& s, const Line& x) { return matmul(x, other(s)); }, "x·w",
     "x[0,0]·w[0,1] + x[0,1]·w[1,1]", "∂y·wᵀ", "∂y[0,0]·w[1,0] + ∂y[0,1]·w[1,1]"},
    {"matmul turned",
     [](Worksheet& s, const Line& x) {
       return matmul(x, other(s), {.first = true, .second = true});
     },
     "xᵀ·wᵀ", "x[0,0]·w[1,0] + x[1,0]·w[1,1]", "wᵀ·(∂y)ᵀ", "∂y[1,0]·w[0,0] + ∂y[1,1]·w[1,0]"},
    {"transpose", [](Worksheet&, const Line& x) { return transpose(x); }, "xᵀ", "x[1,0]", "(∂y)ᵀ",
     "∂y[1,0]"},
    {"reshape", [](Worksheet&, const Line& x) { return reshape(x, {4}); }, "reshape(x; 4)",
     "x[0,0]", "∂y as [feature 2 × unit 2]", "∂y[1]"},
    {"slice", [](Worksheet&, const Line& x) { return slice(x, 1, {.from = 1}); },
     "slice(x; unit: 1)", "x[0,1]", "∂y from where it went", "∂y[0,0]"},
    {"pad", [](Worksheet&, const Line& x) { return pad(x, 0, {.before = 1, .number = 9}); },
     "pad(x; feature: 1 before, 0 after, with 9)", "9", "∂y from where it went", "∂y[1,1]"},
    {"join",
     [](Worksheet& s, const Line& x) {
       return join({x, other(s)}, 1);
     },
     "join(x, w; unit)", "x[0,1]", "∂y from where it went", "∂y[0,1]"},
    {"repeat", [](Worksheet&, const Line& x) { return repeat(x, 1, 2); },
     "repeat(x; unit: 2 times)", "x[0,1]", "∂y from where it went", "∂y[0,1] + ∂y[0,3]"},
    {"at class", [](Worksheet& s, const Line& x) { return at_class(x, classes(s)); }, "x at c",
     "x[0,1]", "∂y at c, 0 elsewhere", "(∂y[0] if c[0] = 1 else 0)"},
    {"gather rows", [](Worksheet& s, const Line& x) { return gather_rows(x, classes(s)); },
     "gather_rows(x, c)", "x[1,1]", "∂y to rows c", "∂y[1,1]"},
    {"mean squared", [](Worksheet& s, const Line& x) { return mean_squared(x, other(s)); },
     "mean((x − w)²)",
     "((x[0,0] − w[0,0])² + (x[0,1] − w[0,1])² + (x[1,0] − w[1,0])² + (x[1,1] − w[1,1])²)/4",
     "∂y/4 × 2 × (x − w)", "∂y/4·(2·(x[0,1] − w[0,1]))"},
    {"half mean squared, counted",
     [](Worksheet& s, const Line& x) {
       const Line a = named("a", slice(x, 1, {.end = 1}));
       const Line b = named("b", slice(other(s), 1, {.end = 1}));
       return half_mean_squared(a, b, {.row_weights = counted(s)});
     },
     "0.5 × mean((a − b)²; weighted by k)",
     "0.5·((k[0]·(a[0,0] − b[0,0])² + k[1]·(a[1,0] − b[1,0])²)/(k[0] + k[1]))",
     "∂y × k/sum(k) × (a − b)", "∂y·k[0]/(k[0] + k[1])·(a[0,0] − b[0,0])"},
    {"cross-entropy", [](Worksheet& s, const Line& x) { return cross_entropy(x, classes(s)); },
     "mean(−log softmax(x) at c)",
     "((m₁ − x[0,1] + log(exp(x[0,0] − m₁) + exp(x[0,1] − m₁)))"
     " + (m₂ − x[1,0] + log(exp(x[1,0] − m₂) + exp(x[1,1] − m₂))))/2",
     "∂y/2 × (softmax(x) − one_hot(c))",
     "∂y/2·(exp(x[0,1] − m)/(exp(x[0,0] − m) + exp(x[0,1] − m)) − (1 if c[0] = 1 else 0))"},
    {"L2 term", [](Worksheet&, const Line& x) { return l2_term(x, 0.5); }, "0.25 × sum(x²)",
     "0.25·(x[0,0]² + x[0,1]² + x[1,0]² + x[1,1]²)", "∂y × 0.5 × x", "∂y·0.5·x[0,1]"},
};

class OperationWording : public ::testing::TestWithParam<Wording> {};

TEST_P(OperationWording, is_what_a_teacher_would_write) {
  const Wording& expected = GetParam();
  Worksheet sheet;
  const Line x = sheet.weight("x", tensor({{1, 2}, {3, 4}}).with({Role::feature, Role::unit}));
  const Line y = named("y", expected.apply(sheet, x));
  EXPECT_EQ(y.symbols(), expected.symbols);

  // The last place of the first row, or the first place where there is no second column.
  const auto place = [](const Shape& shape) {
    Index at = Index::zeros(shape.rank());
    if (shape.rank() == 2 && shape[1] > 1) at[1] = 1;
    return at;
  };
  EXPECT_EQ(explain(y, place(y.shape())).formula.text(), expected.element);
  EXPECT_EQ(y.is_swept(), expected.reverse_symbols != nullptr);
  if (expected.reverse_symbols == nullptr) return;
  EXPECT_EQ(y.reverse_symbols(0), expected.reverse_symbols);
  ReverseSweep sweep(y, ones(y.shape()));
  while (sweep.next()) {
  }
  const Line first = y.inputs()[0];
  EXPECT_EQ(explain_gradient(sweep, first, place(first.shape())).formula.text(),
            expected.reverse_element);
}

INSTANTIATE_TEST_SUITE_P(engine, OperationWording, ::testing::ValuesIn(wordings),
                         [](const auto& each) {
                           std::string name = each.param.name;
                           std::erase_if(name, [](char c) { return c == ',' || c == '-'; });
                           std::ranges::replace(name, ' ', '_');
                           return name;
                         });

TEST(explanation, tells_short_names_once_with_what_they_stand_for) {
  Worksheet sheet;
  const Line x = sheet.weight("x", tensor({{1, 3}}).with({Role::feature, Role::unit}));
  const Line p = named("p", softmax(x));
  EXPECT_EQ(explain(p, {0, 0}).text(),
            "p[0,0] = exp(x[0,0] − m)/(exp(x[0,0] − m) + exp(x[0,1] − m))\n"
            "         with m = max(x[0,0], x[0,1]) = max(1, 3) = 3\n"
            "       = exp(1 − 3)/(exp(1 − 3) + exp(3 − 3))\n"
            "       = 0.1192");
  const Line written_out = named("q", softmax(x, last_axis, Form::written_out));
  EXPECT_EQ(explain(written_out, {0, 0}).formula.text(), explain(p, {0, 0}).formula.text());
}

}  // namespace
}  // namespace lattice
