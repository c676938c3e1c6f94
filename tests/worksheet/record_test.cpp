#include "worksheet/record.hpp"

#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <map>
#include <memory>
#include <vector>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(worksheet, leaves_dead_handles_that_say_so) {
  Line line;
  EXPECT_THROW(static_cast<void>(line.value()), LineError);
  {
    Worksheet sheet;
    line = sheet.given("x", ones({1}));
  }
  EXPECT_THROW(static_cast<void>(line.value()), LineError);
  Worksheet next;
  const Line fresh = next.given("x", ones({1}));
  EXPECT_THROW(static_cast<void>(line.name()), LineError);
  EXPECT_THROW(static_cast<void>(fresh + line), LineError);
  EXPECT_THROW(static_cast<void>(line + fresh), LineError);
  next.clear();
  EXPECT_EQ(next.size(), 0U);
  EXPECT_THROW(static_cast<void>(named("y", fresh)), LineError);
}

TEST(worksheet, gives_the_same_bits_when_its_memory_is_used_again) {
  const auto work = [](Worksheet& sheet) {
    Random random(1);
    const Line x = sheet.given("x", normal({7, 3}, 0, 1, random));
    const Line W = sheet.weight("W", normal({3, 2}, 0, 1, random));
    const Line cost = mean(square(sigmoid(matmul(x, W))));
    return std::pair(cost.value(), reverse_sweep(cost)["W"]);
  };
  Worksheet sheet;
  const auto first = work(sheet);
  for (int round = 0; round < 10; ++round) {
    sheet.clear();
    EXPECT_EQ(work(sheet), first);
    Worksheet another;
    EXPECT_EQ(work(another), first);
  }
}

// A weight that is where it was on the last worksheet is not looked for. Whatever that one had, a
// name has to be one line.
TEST(worksheet, finds_its_weights_whatever_the_last_one_had) {
  Random random(11);
  Worksheet sheet;
  std::size_t found = 0;
  for (int round = 0; round < 2000; ++round) {
    sheet.clear();
    std::map<std::string, Line> weights;
    const auto lines = static_cast<int>(random.below(9));
    for (int at = 0; at < lines; ++at) {
      const auto some_name = [&] {
        // Mostly as before, so that worksheets are alike for a while.
        const auto other = random.below(4) == 0 ? random.below(6) : 0;
        return std::string(1, static_cast<char>('a' + (at + other) % 6));
      };
      const std::string name = some_name();
      const auto known = weights.find(name);
      const std::int64_t what = random.below(12);
      if (what == 0) {
        static_cast<void>(sheet.given(name, ones({1})));
      } else if (what == 1) {
        static_cast<void>(sheet.given(ones({1})));
      } else if (what == 2 && !weights.empty()) {
        static_cast<void>(weights.begin()->second + 1.0);
      } else if (what == 3 && !weights.empty() && known == weights.end()) {
        const auto renamed = weights.extract(weights.begin());
        named(name, renamed.mapped());
        weights.emplace(name, renamed.mapped());
      } else if (known != weights.end()) {
        EXPECT_EQ(sheet.weight(name, ones({1})), known->second);
        EXPECT_THROW(static_cast<void>(sheet.frozen(name, ones({1}))), NameError);
        ++found;
      } else {
        const std::size_t before = sheet.size();
        const Line added =
            what == 4 ? sheet.running_statistic(name, ones({1})) : sheet.weight(name, ones({1}));
        ASSERT_EQ(added.number(), before + 1) << "round " << round << ", " << name;
        if (what == 4) {
          EXPECT_EQ(sheet.running_statistic(name, ones({1})), added);
          named(name + std::to_string(at), added);
        } else {
          weights.emplace(name, added);
        }
      }
    }
  }
  EXPECT_GT(found, 300U);
}

TEST(worksheet, is_called_what_it_says_whatever_the_last_one_was_called) {
  Worksheet sheet;
  const Line x = sheet.given("x", ones({2}));
  const Line W = sheet.weight("W", ones({2}));
  named("z", described("product", x * W));
  static_cast<void>(described("doubled", x + x));
  sheet.clear();

  const Line y = sheet.given("y", ones({2}));
  const Line x_again = sheet.weight("x", ones({2}));
  const Line unnamed = y * x_again;
  const Line twice = described("product", y + y);
  EXPECT_EQ(y.name(), "y");
  EXPECT_EQ(x_again.name(), "x");
  EXPECT_EQ(unnamed.name(), "#3");
  EXPECT_FALSE(unnamed.has_name());
  EXPECT_EQ(twice.name(), "product");
  EXPECT_FALSE(twice.has_name());
  EXPECT_FALSE(sheet.find("z"));
  EXPECT_FALSE(sheet.find("W"));
  EXPECT_THROW(static_cast<void>(sheet.line("doubled")), NameError);
  EXPECT_EQ(sheet.weight("W", ones({3})).number(), 5U);
  EXPECT_EQ(sheet.weight("x", ones({2})), x_again);
  EXPECT_THROW(sheet.weight("x", zeros({2})), NameError);
}

TEST(worksheet, refuses_a_name_wherever_the_last_one_stood) {
  Worksheet sheet;
  for (int round = 0; round < 2; ++round) {
    sheet.clear();
    const Line x = sheet.given("x", ones({2}));
    EXPECT_THROW(sheet.given("", ones({2})), NameError);
    EXPECT_THROW(sheet.given("#1", ones({2})), NameError);
    EXPECT_THROW(sheet.weight("a b", ones({2})), NameError);
    EXPECT_THROW(named("", x + x), NameError);
    EXPECT_THROW(sheet.given("empty", Tensor()), NumberError);
  }
}

TEST(worksheet, keeps_for_the_sweep_what_it_has_worked) {
  Worksheet sheet;
  const Line scores = sheet.weight("scores", tensor({{1, 2, 4}, {0, 0, 0}}));
  const Line classes = sheet.given("classes", tensor({2, 0}));
  const Line loss = cross_entropy(scores, classes);
  EXPECT_EQ(WorksheetRecord::entry(loss).aside, exp(tensor({{-3, -2, 0}, {0, 0, 0}})));
  const Line of_data = cross_entropy(sheet.given("others", scores.value()), classes);
  EXPECT_TRUE(WorksheetRecord::entry(of_data).aside.empty());
  const Gradients first = reverse_sweep(loss);
  EXPECT_EQ(reverse_sweep(loss)["scores"], first["scores"]);
}

// Ends after everything that belongs to its thread; a sanitizer sees whether that is safe.
Worksheet global_sheet;

TEST(worksheet, may_live_to_the_end_of_the_program) {
  const Line x = global_sheet.weight("x", ones({100}));
  EXPECT_EQ(reverse_sweep(sum(x))["x"], ones({100}));
}

TEST(worksheet, grows_to_many_lines) {
  Worksheet sheet;
  Line line = sheet.weight("w", tensor({1.0}));
  const Line start = line;
  for (int i = 0; i < 2000; ++i)
    line = line + 0.5 * start;
  EXPECT_EQ(line.value().number(), 1001.0);
  EXPECT_EQ(reverse_sweep(line)["w"].number(), 1001.0);
}

TEST(worksheet, leaves_values_where_they_are_while_more_lines_are_written) {
  Worksheet sheet;
  const Line first = sheet.weight("first", tensor({{1, 2}}));
  const Tensor& value = first.value();
  const Shape& shape = first.shape();
  Line last = first;
  for (int i = 0; i < 1000; ++i)
    last = 0.5 * last;
  EXPECT_EQ(&first.value(), &value);
  EXPECT_EQ(value.numbers(), (std::vector<double>{1, 2}));
  EXPECT_EQ(to_string(shape), "[1 × 2]");
}

/// A training step written down in a worksheet: the cost and the gradients.
std::vector<Tensor> step_in(Worksheet& sheet) {
  Random random(4);
  const Line x = sheet.given("x", normal({7, 5}, 0, 1, random));
  const Line W = sheet.weight("W", normal({5, 6}, 0, 1, random));
  const Line b = sheet.weight("b", normal({6}, 0, 1, random));
  const Line h = relu(dense(x, W, b));
  const Line cost = cross_entropy(h - mean(h), sheet.given("y", tensor({0, 1, 2, 3, 4, 5, 0})));
  const Gradients gradients = reverse_sweep(cost);
  return {cost.value(), gradients[W], gradients[b]};
}

TEST(worksheet, gives_the_same_bits_when_it_is_used_again) {
  Worksheet fresh;
  const std::vector<Tensor> expected = step_in(fresh);
  Worksheet sheet;
  Random random(1);
  for (int round = 0; round < 20; ++round) {
    const std::int64_t size = 1 + random.below(40);
    const Line noise = sheet.weight("noise", normal({size, size}, 0, 100, random));
    static_cast<void>(reverse_sweep(sum(matmul(noise, exp(noise)))));
    sheet.clear();
    EXPECT_EQ(step_in(sheet), expected);
    if (round % 3 == 0) sheet = Worksheet();
  }
}

TEST(worksheet, has_room_for_operations_of_any_size_and_alignment) {
  struct alignas(64) Aligned {
    double factor;
  };
  std::array<double, 1024> table{};
  table[7] = 0.5;
  const Aligned aligned{3.0};
  const auto looked_up = own_operation(
      "looked_up", [table](double x) { return x * table[7]; },
      [table](double) { return table[7]; });
  const auto times = own_operation(
      "times", [aligned](double x) { return x * aligned.factor; },
      [aligned](double) { return aligned.factor; });
  static_assert(alignof(decltype(times)) == 64);
  Worksheet sheet;
  for (int round = 0; round < 3; ++round) {
    const Line x = sheet.weight("x", tensor({1, 2}));
    Line y = x;
    for (int time = 0; time < 20; ++time)
      y = times(looked_up(y));
    const double expected = std::pow(1.5, 20);
    EXPECT_NEAR(y.value().at({1}), 2.0 * expected, 1e-9);
    EXPECT_NEAR(reverse_sweep(sum(y))["x"].at({0}), expected, 1e-9);
    sheet.clear();
  }
}

TEST(worksheet, cannot_be_cleared_by_an_operation_that_reads_it) {
  Worksheet sheet;
  Worksheet* const itself = &sheet;
  const Line x = sheet.weight("x", tensor({1, 2}));
  const auto clears = own_operation(
      "clears",
      [itself](double number) {
        itself->clear();
        return number;
      },
      [](double) { return 1.0; });
  EXPECT_THROW(static_cast<void>(clears(x)), LineError);
  EXPECT_EQ(x.value(), tensor({1, 2}));
  const auto clears_on_the_way_back = own_operation(
      "clears", [](double number) { return number; },
      [itself](double) {
        itself->clear();
        return 1.0;
      });
  const Line y = sum(clears_on_the_way_back(x));
  EXPECT_THROW(static_cast<void>(reverse_sweep(y)), LineError);
  EXPECT_EQ(y.value().number(), 3.0);
  sheet.clear();
  EXPECT_EQ(sheet.size(), 0U);
}

TEST(worksheet, may_end_in_an_operation_that_reads_it_and_its_lines_are_gone_after_that) {
  auto sheet = std::make_unique<Worksheet>();
  std::unique_ptr<Worksheet>* const place = &sheet;
  const Line x = sheet->weight("x", tensor({1, 2}));
  const auto ends = own_operation(
      "ends",
      [place](double number) {
        place->reset();
        return number;
      },
      [](double) { return 1.0; });
  EXPECT_THROW(static_cast<void>(ends(x)), LineError);
  EXPECT_THROW(static_cast<void>(x.value()), LineError);
  Worksheet next;
  EXPECT_EQ(next.given("x", ones({1})).value(), ones({1}));
}

}  // namespace
}  // namespace lattice
