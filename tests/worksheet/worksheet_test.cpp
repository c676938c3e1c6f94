#include "lattice/worksheet/worksheet.hpp"

#include <gtest/gtest.h>

#include "lattice/core.hpp"

namespace lattice {
namespace {

TEST(worksheet, numbers_and_names_its_lines) {
  Worksheet sheet;
  const Line x = sheet.given("x", tensor({{1, 2}}));
  const Line W = sheet.weight("W", tensor({{3}, {4}}));
  const Line product = matmul(x, W);
  const Line z = named("z", product + 1);
  EXPECT_EQ(z.number(), 4U);
  EXPECT_EQ(product.name(), "#3");
  EXPECT_FALSE(product.has_name());
  EXPECT_EQ(z.symbols(), "#3 + 1");
  EXPECT_EQ(z.value().number(), 12);
  EXPECT_EQ(product.operation(), "matmul");
  EXPECT_EQ(x.operation(), "given");
  EXPECT_EQ(z.inputs(), std::vector<Line>{product});
  EXPECT_TRUE(z.is_swept());
  EXPECT_FALSE(x.is_swept());
  EXPECT_EQ(sheet.size(), 4U);
  EXPECT_EQ(sheet.line("z"), z);
  EXPECT_EQ(sheet.line("#3"), product);
  EXPECT_EQ(sheet.line(1), x);
  EXPECT_EQ(to_string(W.shape()), "[2 × unit 1]");
}

TEST(worksheet, takes_numbers_in_braces) {
  Worksheet sheet;
  const Line x = sheet.given("x", {{1, 2}});
  const Line W = sheet.weight("W", {{3}, {4}});
  EXPECT_EQ(matmul(x, W).value(), tensor({{11}}));
  EXPECT_EQ(sheet.weight("k", {5, 6}).value(), tensor({5, 6}));
  EXPECT_EQ(sheet.given("one", 7).value(), tensor(7));
}

TEST(worksheet, has_one_line_for_a_weight_however_often_it_is_asked_for) {
  Worksheet sheet;
  const Tensor numbers = tensor({{1, 2}, {3, 4}});
  const Line x = sheet.given("x", tensor({{5, 6}}));
  const Line once = sheet.weight("W", numbers);
  const Line other = sheet.weight("A", tensor({7}));
  const Line twice = sheet.weight("W", numbers);
  EXPECT_EQ(once, twice);
  EXPECT_EQ(sheet.size(), 3U);
  // Σ (x·W·W)ⱼ changes with W[k,l] by x[k]·(sum of row l of W) + (x·W)[k].
  const Gradients gradients = reverse_sweep(sum(matmul(matmul(x, once), twice)) + sum(other));
  EXPECT_EQ(gradients["W"].numbers(), (std::vector<double>{38, 58, 52, 76}));
  EXPECT_EQ(gradients.size(), 2U);
  const Line frozen = sheet.frozen("V", numbers);
  EXPECT_EQ(sheet.frozen("V", numbers), frozen);
}

TEST(worksheet, finds_a_weight_by_the_name_it_was_given_last) {
  Worksheet sheet;
  std::vector<Line> lines;
  for (int at = 0; at < 9; ++at)
    lines.push_back(sheet.weight(std::string(1, static_cast<char>('a' + at)), tensor({1.0 * at})));
  // Names in the opposite order, so that none stands where it stood.
  for (int at = 0; at < 9; ++at)
    named(std::string(1, static_cast<char>('z' - at)), lines[static_cast<std::size_t>(at)]);
  for (int at = 0; at < 9; ++at) {
    const std::string name(1, static_cast<char>('z' - at));
    EXPECT_EQ(sheet.weight(name, tensor({1.0 * at})), lines[static_cast<std::size_t>(at)]) << name;
  }
  EXPECT_EQ(sheet.size(), 9U);
  for (int at = 0; at < 9; ++at) {
    const std::string old(1, static_cast<char>('a' + at));
    EXPECT_EQ(sheet.weight(old, tensor({7})).number(), static_cast<std::size_t>(10 + at)) << old;
  }
}

TEST(worksheet, tells_what_the_rows_of_a_weight_are_by_what_they_meet) {
  Worksheet sheet;
  const Line x = sheet.given("x", ones(Shape{4, 3}.with({Role::example, Role::feature})));
  const Line W = sheet.weight("W", ones({3, 3}));
  const Line h = tanh(matmul(x, W));
  const Line V = sheet.frozen("V", ones({3, 2}));
  const Line b = sheet.weight("b", zeros({2}));
  static_cast<void>(dense(h, V, b));
  const Line turned = sheet.weight("turned", ones({2, 3}));
  static_cast<void>(matmul(x, turned, {.second = true}));
  const Line bare = sheet.weight("bare", ones({3, 3}));
  static_cast<void>(matmul(sheet.given("numbers", ones({4, 3})), bare));
  const Line said = sheet.weight("said", ones(Shape{3, 3}.with({Role::channel, Role::unit})));
  static_cast<void>(matmul(x, said));
  EXPECT_EQ(to_string(W.shape()), "[feature 3 × unit 3]");
  EXPECT_EQ(to_string(V.shape()), "[unit 3 × unit 2]");
  EXPECT_EQ(to_string(turned.shape()), "[unit 2 × feature 3]");
  EXPECT_EQ(to_string(bare.shape()), "[3 × unit 3]");
  EXPECT_EQ(to_string(said.shape()), "[channel 3 × unit 3]");
  // Asked for again, it is the line that is there.
  EXPECT_EQ(sheet.weight("W", ones({3, 3})).number(), W.number());
}

TEST(worksheet, refuses_a_second_weight_of_the_same_name) {
  Worksheet sheet;
  const Line W = sheet.weight("W", tensor({{1, 2}}));
  const auto trouble = [](auto&& call) {
    try {
      call();
    } catch (const NameError& error) {
      return error.trouble().expected + " | " + error.trouble().found;
    }
    return std::string();
  };
  EXPECT_EQ(trouble([&] {
              sheet.weight("W", tensor({{1, 3}}));
            }),
            "the numbers it has there | others");
  EXPECT_EQ(trouble([&] { sheet.weight("W", tensor({{1}})); }), "[1 × 2] | [1 × 1]");
  EXPECT_EQ(trouble([&] {
              sheet.frozen("W", tensor({{1, 2}}));
            }),
            "a trained weight | one that is frozen");
  const Line V = sheet.weight("V", tensor({{1, 2}}));
  EXPECT_EQ(trouble([&] { named("W", V); }), "a name of its own for each weight | 'W' twice");
  EXPECT_EQ(named("V", V), V);
  EXPECT_EQ(named("A", V), V);
  EXPECT_EQ(sheet.weight("A", tensor({{1, 2}})), V);
  EXPECT_EQ(sheet.weight("V", tensor({{9}})).number(), 3U);
  EXPECT_EQ(sheet.weight("W", tensor({{1, 2}})), W);
  sheet.clear();
  EXPECT_EQ(sheet.weight("W", tensor({{5}})).number(), 1U);
}

TEST(worksheet, groups_lines_in_sections) {
  Worksheet sheet;
  const Line before = sheet.given("before", ones({1}));
  sheet.section("hidden");
  const Line inside = named("inside", before + before);
  EXPECT_EQ(before.section(), "");
  EXPECT_EQ(inside.section(), "hidden");
}

TEST(worksheet, refuses_names_that_are_not_there_or_stand_for_two) {
  Worksheet sheet;
  const Line a = sheet.given("height", ones({1}));
  named("twice", a + a);
  named("twice", a - a);
  try {
    static_cast<void>(sheet.line("heigth"));
    FAIL();
  } catch (const NameError& error) {
    EXPECT_EQ(error.trouble().remedy, "did you mean height?");
  }
  EXPECT_THROW(static_cast<void>(sheet.line("twice")), NameError);
  EXPECT_THROW(static_cast<void>(sheet.line("#9")), IndexError);
  EXPECT_THROW(static_cast<void>(sheet.line(0)), IndexError);
  for (const char* name : {"", "#1", "a b", "W[0]"}) {
    EXPECT_THROW(static_cast<void>(sheet.given(name, ones({1}))), NameError) << name;
  }
}

TEST(worksheet, keeps_its_lines_when_it_is_moved) {
  Worksheet sheet;
  const Line x = sheet.given("x", ones({2}));
  Worksheet moved = std::move(sheet);
  EXPECT_EQ(moved.line("x"), x);
  EXPECT_THROW(static_cast<void>(sheet.size()), LineError);
  EXPECT_THROW(static_cast<void>(sheet.given("y", ones({1}))), LineError);
}

TEST(worksheet, refuses_lines_of_another_and_writes_nothing_down) {
  Worksheet one;
  Worksheet other;
  const Line a = one.given("a", ones({1}));
  const Line b = other.given("b", ones({1}));
  EXPECT_THROW(static_cast<void>(a + b), LineError);
  EXPECT_THROW(static_cast<void>(a + one.given("c", ones({2, 2, 3}).reshaped({12})) +
                                 one.given("d", ones({5}))),
               ShapeError);
  EXPECT_EQ(other.size(), 1U);
  EXPECT_EQ(one.size(), 4U);
}
}  // namespace
}  // namespace lattice
