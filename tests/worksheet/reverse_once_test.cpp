#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

int squares_worked = 0;

/// (a + b)², which works 2·(a + b) out once for both.
class SquareOfSum final : public Operation {
 public:
  [[nodiscard]] std::string_view name() const override { return "square of sum"; }
  [[nodiscard]] Shape shape(const Inputs& inputs) const override { return inputs.shape(0); }
  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return square(inputs[0] + inputs[1]);
  }
  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    ++squares_worked;
    return step.gradient * 2.0 * (step.inputs[0] + step.inputs[1]);
  }
  void reverse_to_all(const BackwardStep& step, const InputSet& wanted,
                      std::span<Tensor> passed_on) const override {
    const Tensor slope = reverse(step, 0);
    for (std::size_t input = 0; input < 2; ++input) {
      if (wanted.test(input)) passed_on[input] = slope;
    }
  }
  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return square(cells.input(0, at) + cells.input(1, at));
  }
  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.gradient(at) * 2.0 * (cells.input(0, at) + cells.input(1, at));
  }
  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return "(" + symbols.inputs[0] + " + " + symbols.inputs[1] + ")²";
  }
  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return "∂" + symbols.result + " × 2 × (" + symbols.inputs[0] + " + " + symbols.inputs[1] + ")";
  }
};

TEST(reverse_sweep, asks_an_operation_once_for_all_its_inputs) {
  Worksheet sheet;
  const Line a = sheet.weight("a", tensor({1, 2}));
  const Line b = sheet.weight("b", tensor({3, 5}));
  const Line loss = sum(apply(SquareOfSum(), a, b));
  squares_worked = 0;
  const Gradients gradients = reverse_sweep(loss);
  EXPECT_EQ(squares_worked, 1);
  EXPECT_EQ(gradients["a"], tensor({8, 14}));
  EXPECT_EQ(gradients["b"], tensor({8, 14}));
  EXPECT_TRUE(check_gradients(loss).agrees());
}

TEST(reverse_sweep, asks_for_one_input_alone_where_only_one_wants_it) {
  Worksheet sheet;
  const Line a = sheet.given("a", tensor({1, 2}));
  const Line b = sheet.weight("b", tensor({3, 5}));
  squares_worked = 0;
  EXPECT_EQ(reverse_sweep(sum(apply(SquareOfSum(), a, b)))["b"], tensor({8, 14}));
  EXPECT_EQ(squares_worked, 1);
}

// Step by step or at once, to the last bit, and only when it is over.
TEST(reverse_sweep, hands_out_all_gradients_when_it_is_over) {
  Worksheet sheet;
  const Line W = sheet.weight("W", tensor({{0.1, 0.7}, {0.3, -0.9}}));
  const Line b = sheet.weight("b", tensor({0.25, 0.5}));
  const Line unused = sheet.weight("unused", tensor({1}));
  const Line loss = mean(square(tanh(matmul(W, W) + b)));
  ReverseSweep sweep(loss);
  EXPECT_THROW(static_cast<void>(sweep.gradients()), LineError);
  while (sweep.next()) {
  }
  const Gradients stepped = sweep.gradients();
  const Gradients at_once = reverse_sweep(loss);
  ASSERT_EQ(stepped.size(), at_once.size());
  for (const char* name : {"W", "b"})
    EXPECT_EQ(stepped[name], at_once[name]) << name;
  EXPECT_THROW(static_cast<void>(stepped[unused]), NameError);
}

}  // namespace
}  // namespace lattice
