#include <gtest/gtest.h>

#include <functional>
#include <memory>

#include "lattice/core.hpp"

namespace lattice {
namespace {

/// A careless user: keeps lines and worksheets long after they have ended, mixes those of different
/// worksheets, moves things away and goes on using them.
class Careless {
 public:
  explicit Careless(std::uint64_t seed) : random_(seed) { sheets_.resize(3); }

  /// Does one thing at random. @return false when it was refused.
  bool act() {
    const std::vector<std::function<void()>> things = {
        [&] { keep(sheet().given(name(), draw())); },
        [&] { keep(sheet().weight(name(), draw())); },
        [&] { keep(line() + line()); },
        [&] { keep(line() * 2.0); },
        [&] { keep(matmul(line(), line())); },
        [&] { keep(dense(line(), line(), line())); },
        [&] { keep(half_mean_squared(line(), line())); },
        [&] { keep(mean(line(), {.axes = {whole(4) - 1}, .keep = whole(2) == 0})); },
        [&] { keep(transpose(line())); },
        [&] { keep(matmul(line(), line(), {.first = whole(2) == 0, .second = whole(2) == 0})); },
        [&] {
          const std::vector<MatrixEntry> entries = {{whole(4) - 1, whole(4)}};
          keep(matmul(sheet().given("A", sparse_matrix({whole(4), whole(4)}, entries)), line()));
        },
        [&] { keep(softmax(line(), whole(5) - 2, any_form())); },
        [&] { keep(log_sum_exp(line(), {.axes = {whole(4) - 1}}, any_form())); },
        [&] {
          keep(variance(line(), {.axes = {whole(3), whole(3)}}));
        },
        [&] { keep(argmax(line(), whole(4) - 1)); },
        [&] {
          keep(reshape(line(), {whole(4), whole(4)}));
        },
        [&] { keep(flatten(line())); },
        [&] {
          keep(permute(line(), {whole(3), whole(3)}));
        },
        [&] {
          keep(slice(line(), whole(4) - 1,
                     {.from = whole(4) - 1, .end = whole(5) - 1, .step = whole(3)}));
        },
        [&] {
          keep(join({line(), line(), line()}, whole(4) - 1));
        },
        [&] { keep(pad(line(), whole(4) - 1, {.before = whole(4) - 1, .after = whole(2)})); },
        [&] { keep(repeat(line(), whole(4) - 1, whole(4) - 1)); },
        [&] { keep(at_class(line(), line())); },
        [&] { keep(gather_rows(line(), line())); },
        [&] { keep(one_hot(line(), whole(4) - 1)); },
        [&] { keep(one_hot(argmax(line()), 3)); },
        [&] { keep(cross_entropy(line(), line(), {.form = any_form()})); },
        [&] { keep(cross_entropy(line(), line(), {.row_weights = line(), .form = any_form()})); },
        [&] {
          keep(binary_cross_entropy(line(), sigmoid(line()),
                                    {.row_weights = line(), .form = any_form()}));
        },
        [&] { keep(mean_squared(line(), line(), {.row_weights = line(), .form = any_form()})); },
        [&] { keep(clip(line(), whole(3) - 1, whole(3) - 1)); },
        [&] { keep(sheet().frozen(name(), draw())); },
        [&] { static_cast<void>(reverse_sweep(line(), draw())); },
        [&] { sweeps_.emplace_back(line(), draw()); },
        [&] { sweep().previous(); },
        [&] { static_cast<void>(sweep().gradient(name())); },
        [&] { static_cast<void>(watch(sheet())); },
        [&] { static_cast<void>(watch(sweep())); },
        [&] { static_cast<void>(check_gradients(line(), {.most = 3})); },
        [&] { static_cast<void>(check_gradients(sum(line()), {.most = 3})); },
        [&] { static_cast<void>(agreement(line().value(), draw())); },
        [&] {
          const Chain chain =
              explain_further(explain_gradient(sweep(), line(), place()), sheet(), &sweep(), 3);
          static_cast<void>(chain.text());
        },
        [&] { static_cast<void>(to_string(line().value())); },
        [&] { keep(named(name(), line())); },
        [&] { keep(sheet().line(name())); },
        [&] { keep(sheet().line(static_cast<std::size_t>(whole(9)))); },
        [&] { static_cast<void>(reverse_sweep(sum(line()))[name()]); },
        [&] { sweeps_.emplace_back(sum(line())); },
        [&] { sweep().next(); },
        [&] { static_cast<void>(explain_gradient(sweep(), line(), place())); },
        [&] { static_cast<void>(explain(line(), place()).text()); },
        [&] { static_cast<void>(line().symbols() + line().reverse_symbols(1)); },
        [&] { tensor_ = line().value(); },
        [&] { moved_ = std::move(tensor_); },
        [&] { static_cast<void>(tensor_ + moved_); },
        [&] { tensor_.set(place(), 1.0); },
        [&] {
          static_cast<void>(tensor_.reshaped({2, 3}));
        },
        [&] { sheet().clear(); },
        [&] { sheet() = Worksheet(); },
        [&] { Worksheet other = std::move(sheet()); },
    };
    try {
      things[static_cast<std::size_t>(whole(std::ssize(things)))]();
      return true;
    } catch (const Error& error) {
      EXPECT_NE(error.trouble().what, "");
      return false;
    }
  }

 private:
  int whole(std::int64_t end) { return static_cast<int>(random_.below(end)); }
  Form any_form() { return static_cast<Form>(whole(3)); }
  std::string name() { return std::string(1, static_cast<char>('a' + whole(4))); }
  Worksheet& sheet() {
    Worksheet& sheet = sheets_[static_cast<std::size_t>(whole(3))];
    if (whole(20) == 0) sheet = Worksheet();
    return sheet;
  }
  Line line() {
    return lines_.empty() ? Line() : lines_[static_cast<std::size_t>(whole(std::ssize(lines_)))];
  }
  ReverseSweep& sweep() {
    if (sweeps_.empty()) throw LineError({.what = "there is no sweep yet"});
    return sweeps_[static_cast<std::size_t>(whole(std::ssize(sweeps_)))];
  }
  Index place() {
    std::vector<std::int64_t> positions;
    for (int axis = whole(4); axis > 0; --axis)
      positions.push_back(whole(4) - 1);
    return Index(positions);
  }
  Tensor draw() {
    if (whole(15) == 0) return {};
    const Precision precision = whole(5) == 0 ? Precision::single : Precision::double_;
    std::vector<std::int64_t> extents;
    for (int axis = whole(4); axis > 0; --axis)
      extents.push_back(1 + whole(3));
    return normal(Shape(std::span<const std::int64_t>(extents)), 0.0, 1.0, random_, precision);
  }
  void keep(const Line& line) {
    if (lines_.size() > 30) lines_.erase(lines_.begin(), lines_.begin() + 15);
    lines_.push_back(line);
  }

  Random random_;
  std::vector<Worksheet> sheets_;
  std::vector<Line> lines_;
  std::vector<ReverseSweep> sweeps_;
  Tensor tensor_;
  Tensor moved_;
};

TEST(misuse, is_always_refused_with_an_error_and_never_ends_the_program) {
  int done = 0;
  int refused = 0;
  for (std::uint64_t seed = 0; seed < 200; ++seed) {
    Careless user(seed);
    for (int act = 0; act < 600; ++act)
      ++(user.act() ? done : refused);
  }
  EXPECT_GT(done, 5000);
  EXPECT_GT(refused, 5000);
}

}  // namespace
}  // namespace lattice
