#include "lattice/worksheet/worksheet.hpp"

#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/said.hpp"

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

TEST(worksheet, takes_numbers_that_could_be_a_shape) {
  Worksheet sheet;
  EXPECT_EQ(sheet.given("x", {{1}, {0}}).value(), tensor({{1}, {0}}));
  EXPECT_EQ(sheet.given("y", {{0}, {0}}).value(), tensor({{0}, {0}}));
  EXPECT_EQ(sheet.given("v", std::vector<double>{1, 2}).value(), tensor({1, 2}));
}

TEST(worksheet, writes_a_tensor_beside_a_line_down_as_data_without_a_name) {
  Worksheet sheet;
  const Line w = sheet.weight("w", {{1, 2}, {3, 4}});
  const Line z = named("z", w * tensor({10, 20}));
  EXPECT_EQ(sheet.size(), 3U);
  EXPECT_EQ(z.value(), tensor({{10, 40}, {30, 80}}));
  EXPECT_EQ(sheet.line(2).kind(), Line::Kind::given);
  EXPECT_EQ(sheet.line(2).name(), "#2");
  EXPECT_EQ(sheet.line("#2").value(), tensor({10, 20}));
  EXPECT_EQ(z.symbols(), "w × #2");
  EXPECT_EQ(explain(z, {0, 1}).text(), "z[0,1] = w[0,1]·#2[1]\n       = 2·20\n       = 40");
  EXPECT_EQ((tensor({10, 20}) - w).value(), tensor({{9, 18}, {7, 16}}));
  EXPECT_EQ((w / tensor({{2}, {4}}) + tensor(1)).value(), tensor({{1.5, 2}, {1.75, 2}}));
  EXPECT_EQ(maximum(tensor({2, 2}), w).value(), tensor({{2, 2}, {3, 4}}));
  EXPECT_EQ(matmul(w, tensor({{1}, {1}})).value(), tensor({{3}, {7}}));
  EXPECT_EQ(matmul(tensor({{1, 1}}), w, {.second = true}).value(), tensor({{3, 7}}));
  EXPECT_EQ(at_class(w, tensor({1, 0})).value(), tensor({2, 3}));
  EXPECT_EQ(gather_rows(w, tensor({1})).value(), tensor({{3, 4}}));
  EXPECT_EQ(mean_squared(w, tensor({{1, 2}, {3, 6}})).value().number(), 1.0);
  EXPECT_EQ(half_mean_squared(w, tensor({{1, 2}, {3, 6}})).value().number(), 0.5);
  EXPECT_EQ(cross_entropy(w, tensor({0, 1})).value(), cross_entropy(w.value(), tensor({0, 1})));
  EXPECT_EQ(binary_cross_entropy(w, tensor({{0, 1}, {1, 0}})).value(),
            binary_cross_entropy(w.value(), tensor({{0, 1}, {1, 0}})));
  EXPECT_EQ(reverse_sweep(sum(z))["w"], tensor({{10, 20}, {10, 20}}));
  EXPECT_THROW(static_cast<void>(w + Tensor()), NumberError);

  const Worksheet again = worked_again(sheet, [](const Line& line) {
    return line.number() == 2 ? 2.0 * line.value() : line.value();
  });
  EXPECT_EQ(again.line("z").value(), tensor({{20, 80}, {60, 160}}));
  EXPECT_FALSE(again.line(2).has_name());
  const Line alone = sheet.given(tensor({5}));
  EXPECT_EQ(alone.value(), tensor({5}));
  EXPECT_FALSE(alone.has_name());
}

TEST(worksheet, shows_a_described_line_by_words_and_writes_it_out_in_formulas) {
  Worksheet sheet;
  const Line w = sheet.weight("w", {1, 2});
  const Line centred = described("centred", w - 1);
  const Line z = named("z", 3 * centred);
  EXPECT_EQ(centred.name(), "centred");
  EXPECT_FALSE(centred.has_name());
  EXPECT_EQ(sheet.line("centred"), centred);
  EXPECT_EQ(sheet.find("centred"), centred);
  EXPECT_EQ(z.symbols(), "3 × centred");
  EXPECT_EQ(explain(z, {1}).formula.text(), "3·(w[1] − 1)");
  // A name comes before words, and words never take the place of a name.
  const Line named_so = named("centred", w + 1);
  EXPECT_EQ(sheet.line("centred"), named_so);
  EXPECT_EQ(sheet.find("centred"), named_so);
  EXPECT_EQ(described("other", z).name(), "z");
  EXPECT_EQ(centred.name(), "centred.2");
  EXPECT_EQ(sheet.line("centred.2"), centred);
  const Line twice = described("other", w * 2);
  EXPECT_EQ(described("other", w * 3).name(), "other.6");
  EXPECT_EQ(twice.name(), "other");
  const Worksheet again = worked_again(sheet, [](const Line& line) { return line.value(); });
  EXPECT_EQ(again.line(2).name(), "centred.2");
  EXPECT_FALSE(again.line(2).has_name());
  named("own", centred);
  EXPECT_TRUE(centred.has_name());
  EXPECT_EQ(explain(z, {1}).formula.text(), "3·own[1]");
  // The next worksheet takes the same memory, and not the words.
  sheet.clear();
  sheet.weight("w", {1, 2});
  EXPECT_FALSE(named("y", sheet.line(1) + 1).name().empty());
  EXPECT_TRUE(sheet.line(2).has_name());
}

TEST(worksheet, says_which_numbers_are_missing) {
  Worksheet sheet;
  const RowSet rows(demo_set("glazes", 20, 1));
  Random random(1);
  for (const Batch& batch : minibatches(rows, 4, random)) {
    const std::string said =
        testing::said<NumberError>([&] { return sheet.given("t", batch.targets); });
    EXPECT_NE(said.find("there are no numbers for t"), std::string::npos) << said;
    EXPECT_NE(said.find("`classes`"), std::string::npos) << said;
    const std::string read = testing::said<NumberError>([&] { return batch.targets.number(); });
    EXPECT_NE(read.find("`classes`"), std::string::npos) << read;
  }
}

TEST(worksheet, prints_all_its_lines) {
  Worksheet sheet;
  const Line w = sheet.weight("w", {1, 2});
  named("z", 2 * w);
  EXPECT_EQ(to_string(sheet), to_string(w) + "\n" + to_string(sheet.line("z")));
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
