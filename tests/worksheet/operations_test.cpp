#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "support/every_operation.hpp"
#include "support/symbols.hpp"

namespace lattice {
namespace {

using testing::Draw;
using testing::OperationCase;

TEST(operations, stretch_every_pair_of_ranks) {
  for (int rank_a = 0; rank_a <= max_rank; ++rank_a) {
    for (int rank_b = 0; rank_b <= max_rank; ++rank_b) {
      const std::vector<std::int64_t> extents{2, 3, 1, 2, 1, 3};
      const Shape a(std::span<const std::int64_t>(extents).last(static_cast<std::size_t>(rank_a)));
      const Shape b(std::span<const std::int64_t>(extents).last(static_cast<std::size_t>(rank_b)));
      Random random(1);
      const Tensor x = normal(a, 0.0, 1.0, random);
      const Tensor y = normal(b, 0.0, 1.0, random);
      const Tensor total = x + y;
      for (std::int64_t offset = 0; offset < total.count(); ++offset) {
        const Index at = total.shape().index(offset);
        EXPECT_EQ(total.at(at), x.at(before_broadcast(a, at)) + y.at(before_broadcast(b, at)));
      }
    }
  }
}

TEST(operations, have_gradients_for_every_pair_of_ranks) {
  for (int rank_a = 0; rank_a <= max_rank; ++rank_a) {
    for (int rank_b = 0; rank_b <= max_rank; ++rank_b) {
      const std::vector<std::int64_t> of_a{2, 1, 1, 2, 3, 2};
      const std::vector<std::int64_t> of_b{1, 2, 1, 2, 1, 2};
      Random random(8);
      const auto draw = [&](const std::vector<std::int64_t>& extents, int rank) {
        const std::span<const std::int64_t> last(extents);
        return normal(Shape(last.last(static_cast<std::size_t>(rank))), 0.0, 1.0, random);
      };
      Worksheet sheet;
      const Line a = sheet.weight("a", draw(of_a, rank_a));
      const Line b = sheet.weight("b", draw(of_b, rank_b));
      const Line product = named("product", a * tanh(a + b));
      const Line total = sum(product * sheet.given("factors", draw(of_a, 6) * draw(of_b, 6)));
      EXPECT_TRUE(check_gradients(total, {.most = 6}).agrees()) << rank_a << " and " << rank_b;
      const Index at = Index::zeros(product.shape().rank());
      EXPECT_NEAR(explain(product, at).formula.evaluate(), product.value().at(at), 1e-13);
    }
  }
}

/// A small network as one function of lines, or of tensors.
template <Operand X>
X small_network(const X& x, const X& W, const X& b, const X& classes) {
  const X h = leaky_relu(dense(x, W, b), 0.1) + 0.1 * softplus(max(x, {.axes = {1}, .keep = true}));
  return cross_entropy(log_softmax(h) - variance(h, {.axes = {1}, .keep = true}), classes);
}

TEST(operations, give_tensors_the_bits_that_they_give_lines) {
  Random random(6);
  const Tensor x = normal({5, 3}, 0, 1, random);
  const Tensor W = normal({3, 4}, 0, 1, random);
  const Tensor b = normal({4}, 0, 1, random);
  const Tensor classes = tensor({0, 1, 2, 3, 0});
  Worksheet sheet;
  const Line written = small_network(sheet.given("x", x), sheet.weight("W", W),
                                     sheet.frozen("b", b), sheet.given("classes", classes));
  EXPECT_EQ(small_network(x, W, b, classes), written.value());
}

TEST(operations, give_a_number_the_same_bits_wherever_it_stands) {
  Random random(5);
  const Tensor many = normal({37}, 0.0, 3.0, random);
  const Tensor squashed = sigmoid(many);
  const Tensor bent = tanh(many);
  for (std::int64_t i = 0; i < many.count(); ++i) {
    const Tensor one = tensor(many.at({i}));
    EXPECT_EQ(sigmoid(one).number(), squashed.at({i}));
    EXPECT_EQ(tanh(one).number(), bent.at({i}));
  }
}

TEST(operations, that_are_fused_give_the_bits_of_those_that_are_not) {
  for (std::uint64_t seed = 0; seed < 50; ++seed) {
    Draw draw(seed, Precision::double_);
    const std::vector<Tensor> factors = testing::two_factors(draw);
    const Tensor bias = draw.numbers({factors[1].shape()[1]});
    const Tensor targets = draw.numbers({factors[0].shape()[0], factors[1].shape()[1]});
    const auto work = [&](bool fused) {
      Worksheet sheet;
      const Line x = sheet.weight("x", factors[0]);
      const Line W = sheet.weight("W", factors[1]);
      const Line b = sheet.weight("b", bias);
      const Line y = sheet.given("y", targets);
      const Line cost =
          fused ? half_mean_squared(dense(x, W, b), y) : 0.5 * mean(square(matmul(x, W) + b - y));
      const Gradients gradients = reverse_sweep(cost);
      return std::vector<Tensor>{cost.value(), gradients[x], gradients[W], gradients[b]};
    };
    EXPECT_EQ(work(true), work(false)) << "seed " << seed;
  }
}

TEST(operations, refuse_shapes_that_do_not_fit_and_say_which_lines_they_are) {
  Worksheet sheet;
  const Line x = sheet.given("x", zeros({16, 3}).with({Role::example, Role::feature}));
  const Line W = sheet.weight("W", zeros({2, 5}));
  try {
    static_cast<void>(matmul(x, W));
    FAIL();
  } catch (const ShapeError& error) {
    EXPECT_EQ(error.trouble().what,
              "matmul: x [example 16 × feature 3] · W [feature 2 × unit 5]: x has 3 features, W "
              "expects 2");
    EXPECT_EQ(error.trouble().where, "axis 1 of x, axis 0 of W");
    EXPECT_EQ(error.trouble().expected, "as many columns on the left as rows on the right");
    EXPECT_EQ(error.trouble().remedy, "is a column missing from the features?");
  }
  EXPECT_THROW(static_cast<void>(x + sheet.given("odd", zeros({4}))), ShapeError);
  EXPECT_THROW(static_cast<void>(half_mean_squared(x, sheet.given("flat", zeros({16})))),
               ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {2}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {-3}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {99}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {0, 0}})), ShapeError);
  EXPECT_THROW(static_cast<void>(sum(x, {.axes = {1, -1}})), ShapeError);
  EXPECT_THROW(static_cast<void>(transpose(zeros({3}))), ShapeError);
  EXPECT_THROW(static_cast<void>(dense(zeros({2, 3}), zeros({3, 4}), zeros({3}))), ShapeError);
}

TEST(operations, refuse_two_precisions_at_once) {
  const Tensor a = ones({2});
  const Tensor b = ones({2}, Precision::single);
  EXPECT_THROW(static_cast<void>(a + b), NumberError);
  EXPECT_EQ((a.in(Precision::single) + b).numbers(), (std::vector<double>{2, 2}));
  EXPECT_THROW(static_cast<void>(a + Tensor()), NumberError);
}

TEST(operations, mean_what_their_names_say) {
  const Tensor x = tensor({-2.0, 0.0, 3.0});
  EXPECT_EQ(relu(x).numbers(), (std::vector<double>{0, 0, 3}));
  EXPECT_EQ(leaky_relu(x, 0.5).numbers(), (std::vector<double>{-1, 0, 3}));
  EXPECT_NEAR(elu(x).at({0}), std::exp(-2.0) - 1, 1e-16);
  EXPECT_EQ(softplus(x).at({1}), std::log(2.0));
  EXPECT_EQ(clip(x, -1, 2).numbers(), (std::vector<double>{-1, 0, 2}));
  EXPECT_EQ(abs(x).numbers(), (std::vector<double>{2, 0, 3}));
  EXPECT_EQ(power(x, 3).numbers(), (std::vector<double>{-8, 0, 27}));
  EXPECT_EQ(maximum(x, 1).numbers(), (std::vector<double>{1, 1, 3}));
  EXPECT_EQ(minimum(x, tensor({-3, 1, 1})).numbers(), (std::vector<double>{-3, 0, 1}));
  EXPECT_EQ(above(x, 0).numbers(), (std::vector<double>{0, 0, 1}));
  EXPECT_EQ(below(x, 0).numbers(), (std::vector<double>{1, 0, 0}));
  EXPECT_EQ(at_least(x, 0).numbers(), (std::vector<double>{0, 1, 1}));
  EXPECT_EQ(at_most(x, 0).numbers(), (std::vector<double>{1, 1, 0}));
  EXPECT_EQ(equal(x, 3).numbers(), (std::vector<double>{0, 0, 1}));
  EXPECT_EQ(variance(x).number(), 38.0 / 9.0);
  EXPECT_EQ(max(x).number(), 3);
  EXPECT_EQ(min(x).number(), -2);
  EXPECT_TRUE(std::isnan(min(tensor({1, NAN, 3})).number()));
  EXPECT_TRUE(std::isnan(min(tensor({NAN, 1})).number()));
  EXPECT_EQ(power(2, x).numbers(), (std::vector<double>{0.25, 1, 8}));
  EXPECT_EQ(power(x, tensor({3, 0, -1})).at({0}), -8.0);
  EXPECT_EQ(sum(tensor({{1, 2}, {3, 4}}), {.axes = {-2}}).numbers(), (std::vector<double>{4, 6}));
  EXPECT_EQ(slice(tensor({{1, 2}, {3, 4}}), -1, {.from = 1}).numbers(),
            (std::vector<double>{2, 4}));
  EXPECT_EQ(join({x, x}, -1).shape(), Shape{6});
  EXPECT_EQ(permute(zeros({2, 3, 4}), {-1, 0, -2}).shape(), (Shape{4, 2, 3}));
  EXPECT_EQ(pad(x, -1, {.before = 1}).numbers(), (std::vector<double>{0, -2, 0, 3}));
  EXPECT_EQ(repeat(x, -1, 2).shape(), Shape{6});
  EXPECT_THROW(static_cast<void>(join({x, x}, -2)), ShapeError);
  EXPECT_THROW(static_cast<void>(permute(zeros({2, 3}), {0, -2})), ShapeError);
  EXPECT_THROW(static_cast<void>(permute(zeros({2, 3}), {0, 1, 0, 1, 0, 1, 0})), ShapeError);
  EXPECT_TRUE(std::isnan(max(tensor({1, NAN, 3})).number()));
  EXPECT_EQ(argmax(tensor({{1, 5, 5}, {7, 0, 2}})).numbers(), (std::vector<double>{1, 0}));
  EXPECT_EQ(argmax(tensor({{1, 5}, {7, 0}}), 0).numbers(), (std::vector<double>{1, 0}));
  EXPECT_EQ(sum(softmax(x)).number(), 1.0);
  EXPECT_THROW(static_cast<void>(clip(x, 1, 1)), SettingError);
  EXPECT_THROW(static_cast<void>(softmax(x, 1)), ShapeError);
  EXPECT_THROW(static_cast<void>(softmax(tensor(1.0))), ShapeError);
}

TEST(operations, pass_nothing_on_to_the_power_of_0) {
  Worksheet sheet;
  const Line base = sheet.weight("base", tensor({0, 2}));
  const Line exponent = sheet.weight("exponent", tensor({3, 3}));
  const Gradients gradients = reverse_sweep(sum(power(base, exponent)));
  EXPECT_EQ(gradients["exponent"].at({0}), 0.0);
  EXPECT_DOUBLE_EQ(gradients["exponent"].at({1}), 8.0 * std::log(2.0));
  EXPECT_EQ(gradients["base"].numbers(), (std::vector<double>{0, 12}));
}

TEST(operations, give_the_gradient_of_a_tie_to_the_first) {
  Worksheet sheet;
  const Line x = sheet.weight("x", tensor({{2, 2, 1}}));
  const Line most = named("most", max(x));
  EXPECT_EQ(reverse_sweep(most)["x"].numbers(), (std::vector<double>{1, 0, 0}));
  ReverseSweep sweep(most);
  while (sweep.next()) {
  }
  for (std::int64_t i = 0; i < 3; ++i)
    EXPECT_EQ(explain_gradient(sweep, x, {0, i}).formula.evaluate(), sweep.gradient(x).at({0, i}));
  const Line y = sheet.weight("y", tensor({{2, 3, 1}}));
  const Gradients gradients = reverse_sweep(sum(maximum(x, y)));
  EXPECT_EQ(gradients["x"].numbers(), (std::vector<double>{1, 0, 1}));
  EXPECT_EQ(gradients["y"].numbers(), (std::vector<double>{0, 1, 0}));
}

TEST(operations, keep_the_roles_of_axes) {
  const Tensor x = zeros({4, 3, 2}).with({Role::example, Role::row, Role::channel});
  const auto shape = [](const Tensor& tensor) { return to_string(tensor.shape()); };
  EXPECT_EQ(shape(permute(x, {2, 0, 1})), "[channel 2 × example 4 × row 3]");
  EXPECT_EQ(shape(flatten(x)), "[example 4 × 6]");
  EXPECT_EQ(shape(slice(x, 1, {.from = 1})), "[example 4 × row 2 × channel 2]");
  EXPECT_EQ(shape(max(x, {.axes = {1}})), "[example 4 × channel 2]");
  EXPECT_EQ(shape(softmax(x)), "[example 4 × row 3 × channel 2]");
  EXPECT_EQ(shape(argmax(x)), "[example 4 × row 3]");
  EXPECT_EQ(shape(one_hot(zeros({5}).with({Role::example}), 3)), "[example 5 × class 3]");
  EXPECT_EQ(shape(at_class(zeros({4, 3}).with({Role::example, Role::class_}), zeros({4}))),
            "[example 4]");
  EXPECT_EQ(shape(matmul(x, zeros({2, 5}).with({Role::channel, Role::unit}))),
            "[example 4 × row 3 × unit 5]");
}

TEST(operations, name_the_place_of_a_class_that_is_not_there) {
  Worksheet sheet;
  const Line scores = sheet.weight("scores", zeros({3, 4}));
  const Line classes = sheet.given("classes", tensor({0, 3, 4}));
  try {
    static_cast<void>(cross_entropy(scores, classes));
    FAIL();
  } catch (const IndexError& error) {
    EXPECT_EQ(error.trouble().where, "classes[2]");
    EXPECT_EQ(error.trouble().expected, "a whole number from 0 to 3");
    EXPECT_EQ(error.trouble().found, "4");
  }
  for (const double wrong : {-1.0, 0.5, std::nan("")}) {
    EXPECT_THROW(static_cast<void>(one_hot(tensor({0, wrong}), 3)), IndexError);
    EXPECT_THROW(static_cast<void>(at_class(zeros({2, 3}), tensor({0, wrong}))), IndexError);
    EXPECT_THROW(static_cast<void>(gather_rows(zeros({2, 3}), tensor({0, wrong}))), IndexError);
  }
}
}  // namespace
}  // namespace lattice
