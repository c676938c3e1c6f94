#include "show/work_tables.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "show/blanks.hpp"
#include "show/formula_patterns.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;
using Spot = WorkTables::Spot;
using Kind = WorkTable::Kind;

Lesson lesson_of(const std::string& toml) {
  return parse_lesson(toml, "test.toml");
}

/// Lessons with every rule, loss and kind of part, at a step at which rules remember something.
std::vector<std::pair<Lesson, std::int64_t>> lessons() {
  const std::string glazes = "[data]\nset = \"glazes\"\n[training]\nbatch = 3\n";
  return {
      {lesson_of(glazes + "rule = \"descent\"\n[network]\nnet = \"dense 3, relu, dense 4\"\n"), 1},
      {lesson_of(glazes +
                 "rule = \"momentum\"\nl2 = 0.1\n[network]\nnet = \"dense 3, elu, dense 4\"\n"),
       2},
      {lesson_of(glazes +
                 "rule = \"rms\"\nweight_decay = 0.1\n[network]\nnet = \"dense 4, bypass(dense 4, "
                 "sigmoid), dense 4\"\n"),
       3},
      {lesson_of(
           glazes +
           "rule = \"adam\"\nlongest_gradient = 0.01\n[network]\nnet = \"dense 3, dropout 0.4, "
           "softplus, dense 4, softmax\"\n"),
       4},
      {lesson_of("[data]\nset = \"shrinkage\"\n[training]\nbatch = 4\nloss = \"mean squared\"\n"),
       2},
      {lesson_of(
           "[data]\nset = \"cracks\"\n[training]\nbatch = 4\n[network]\nnet = \"dense 2, tanh, "
           "dense 1\"\n"),
       1}};
}

/// What a number is when its formula is worked over the tables alone.
double worked_over(const WorkTables& tables, const Formula& formula, Spot inside) {
  const Notation in_full{.longest_sum = std::string::npos};
  for (const Cell& cell : formula.cells(in_full)) {
    const Spot spot = tables.find(cell, inside);
    EXPECT_EQ(tables[spot.table].numbers.at_offset(spot.offset), cell.number) << to_string(cell);
  }
  return formula.evaluate();
}

// Whatever a form shows is made from other numbers that it shows, and gives itself again.
TEST(work_tables, have_a_formula_over_themselves_for_every_number_that_is_calculated) {
  for (const auto& [lesson, step] : lessons()) {
    const WorkedMinibatch work = prepare(lesson).work(step);
    const WorkTables tables(work);
    std::size_t calculated = 0;
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      if (!tables.is_calculated(at)) continue;
      for (std::int64_t offset = 0; offset < tables[at].numbers.count(); ++offset) {
        const Spot spot{at, offset};
        const double number = tables[at].numbers.at_offset(offset);
        EXPECT_NEAR(worked_over(tables, tables.made(spot), spot), number,
                    1e-11 * std::max(1.0, std::abs(number)))
            << tables.text(spot) << " of " << work.network().blueprint();
        ++calculated;
      }
    }
    EXPECT_GT(calculated, 40U);
  }
}

TEST(work_tables, find_every_number_by_the_way_people_write_it) {
  const WorkedMinibatch work = prepare(lessons()[3].first).work(2);
  const WorkTables tables(work);
  for (std::size_t at = 0; at < tables.all().size(); ++at) {
    const Kind kind = tables[at].kind;
    if (kind != Kind::value && kind != Kind::gradient && kind != Kind::after) continue;
    const Spot last{at, tables[at].numbers.count() - 1};
    EXPECT_EQ(tables.find(tables.text(last)), last) << tables.text(last);
  }
  EXPECT_THROW(static_cast<void>(tables.find("∂x[0,0]")), NameError);
  EXPECT_THROW(static_cast<void>(tables.find("new hidden[0,0]")), NameError);
  EXPECT_THROW(static_cast<void>(tables.find("hidden[0,99]")), IndexError);
}

TEST(work_tables, hold_what_the_rule_remembers_and_works_out) {
  const WorkedMinibatch work = prepare(lessons()[3].first).work(4);
  const WorkTables tables(work);
  const std::size_t weight = work.sheet().line("output.weight").number();
  for (const char* name : {"m", "v", "m̂", "v̂"})
    EXPECT_TRUE(tables.find(Kind::worked_out, weight, name)) << name;
  const std::size_t m = tables.find(Kind::worked_out, weight, "m").value();
  const std::size_t before = tables.find(Kind::remembered, weight, "m_before").value();
  const std::size_t gradient = tables.find(Kind::gradient, weight).value();
  const double expected = 0.9 * tables[before].numbers.at_offset(0) +
                          (1 - 0.9) * work.shrink() * tables[gradient].numbers.at_offset(0);
  EXPECT_NEAR(tables[m].numbers.at_offset(0), expected, 1e-15);
  EXPECT_LT(work.shrink(), 1.0);
}

TEST(formula_patterns, say_for_every_number_which_others_it_is_made_from) {
  using Json = nlohmann::json;
  for (const auto& [lesson, step] : lessons()) {
    const WorkedMinibatch work = prepare(lesson).work(step);
    const WorkTables tables(work);
    Dictionary skeletons;
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      if (!tables.is_calculated(at)) continue;
      const Json patterns = Json::parse(patterns_of(tables, at, skeletons));
      const Shape& shape = tables[at].numbers.shape();
      std::vector<bool> told(static_cast<std::size_t>(shape.count()));
      for (const Json& pattern : patterns) {
        const bool is_whole = pattern.size() == 2;
        const std::size_t places = is_whole ? told.size() : pattern[2].size();
        for (std::size_t row = 0; row < places; ++row) {
          const std::size_t place = is_whole ? row : pattern[2][row].get<std::size_t>();
          EXPECT_FALSE(told[place]);
          told[place] = true;
          // Each gap names a number that there is.
          const Index index = shape.index(static_cast<std::int64_t>(place));
          for (const Json& gap : pattern[1]) {
            std::int64_t offset = 0;
            if (gap[1].is_array()) {
              offset = gap[1][row];
            } else {
              offset = gap[1];
              for (std::size_t axis = 2; axis < gap.size(); ++axis)
                offset += gap[axis].get<std::int64_t>() * index[static_cast<int>(axis) - 2];
            }
            EXPECT_GE(offset, 0);
            EXPECT_LT(offset, tables[gap[0].get<std::size_t>()].numbers.count());
          }
        }
      }
      EXPECT_TRUE(std::ranges::all_of(told, [](bool each) { return each; })) << tables[at].name;
    }
    for (const std::string& skeleton : skeletons.texts())
      EXPECT_TRUE(Json::accept(skeleton)) << skeleton;
  }
}

double largest_of(const Tensor& numbers) {
  double largest = 0.0;
  for (const double number : numbers.numbers())
    largest = std::max(largest, std::abs(number));
  return largest;
}

TEST(blanks, are_named_ones_and_others_in_the_order_of_the_work) {
  const WorkedMinibatch work = prepare(lessons()[0].first).work(1);
  const WorkTables tables(work);
  const std::vector<Blank> blanks = choose_blanks(
      tables, {.blanks = 5, .named = {"new output.bias[1]", "hidden[2,1]"}, .seed = 8});
  ASSERT_EQ(blanks.size(), 7U);
  std::vector<std::string> names;
  for (std::size_t at = 0; at < blanks.size(); ++at) {
    names.push_back(tables.text(blanks[at].spot));
    EXPECT_TRUE(at == 0 || blanks[at - 1].spot < blanks[at].spot);
    const Tensor& numbers = tables[blanks[at].spot.table].numbers;
    EXPECT_GE(blanks[at].within, 0.005 * std::abs(numbers.at_offset(blanks[at].spot.offset)));
    EXPECT_LE(blanks[at].within,
              0.005 * std::max(std::abs(numbers.at_offset(blanks[at].spot.offset)),
                               largest_of(numbers) / 1000.0));
  }
  // Next to 0 an answer may be off by a thousandth of what the largest number may be off by.
  for (const char* name : {"relu[0,0]", "relu[0,1]", "relu[1,0]", "relu[1,1]", "relu[2,2]"}) {
    const Blank blank = choose_blanks(tables, {.named = {name}}).at(0);
    const Tensor& numbers = tables[blank.spot.table].numbers;
    const double number = std::abs(numbers.at_offset(blank.spot.offset));
    EXPECT_DOUBLE_EQ(blank.within, 0.005 * std::max(number, largest_of(numbers) / 1000.0)) << name;
  }
  EXPECT_THAT(names, ::testing::IsSupersetOf({"hidden[2,1]", "new output.bias[1]"}));
}

TEST(blanks, are_refused_when_there_are_not_so_many_or_nothing_counts_as_right) {
  const WorkedMinibatch work = prepare(lessons()[4].first).work(1);
  const WorkTables tables(work);
  EXPECT_THROW(static_cast<void>(choose_blanks(tables, {.blanks = 100'000})), SettingError);
  EXPECT_THROW(static_cast<void>(choose_blanks(tables, {.blanks = 1, .tolerance = 0.0})),
               SettingError);
  EXPECT_THROW(static_cast<void>(choose_blanks(tables, {.named = {"y[0,0", "y"}})), NameError);
  // As many as there are can be blank, and each is another.
  std::int64_t most = 1;
  while (true) {
    try {
      static_cast<void>(choose_blanks(tables, {.blanks = most}));
      ++most;
    } catch (const SettingError& error) {
      EXPECT_THAT(error.what(), HasSubstr("up to " + std::to_string(most - 1)));
      break;
    }
  }
  EXPECT_GT(most, 10);
}

}  // namespace
}  // namespace lattice
