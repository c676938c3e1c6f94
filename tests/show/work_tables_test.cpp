#include "show/work_tables.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <set>
#include <span>

#include "lattice/lattice.hpp"
#include "show/blanks.hpp"
#include "support/worked_lessons.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;
using Spot = WorkTables::Spot;
using Kind = WorkTable::Kind;

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
  for (const auto& [lesson, step] : testing::worked_lessons()) {
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
            << tables.text(spot) << " of " << lesson.network.blueprint;
        ++calculated;
      }
    }
    EXPECT_GT(calculated, 40U);
  }
}

TEST(work_tables, find_every_number_by_the_way_people_write_it) {
  const WorkedMinibatch work = prepare(testing::worked_lessons()[3].first).work(2);
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
  const WorkedMinibatch work = prepare(testing::worked_lessons()[3].first).work(4);
  const WorkTables tables(work);
  const std::size_t weight = work.sheet().line("output.weight").number();
  for (const char* name : {"m", "v", "m̂", "v̂"})
    EXPECT_TRUE(tables.find(Kind::worked_out, weight, name)) << name;
  const std::size_t m = tables.find(Kind::worked_out, weight, "m").value();
  const std::size_t before = tables.find(Kind::remembered, weight, "m_before").value();
  const std::size_t gradient = tables.find(Kind::gradient, weight).value();
  const double expected = 0.9 * tables[before].numbers.at_offset(0) +
                          (1 - 0.9) * work.clip_factor() * tables[gradient].numbers.at_offset(0);
  EXPECT_NEAR(tables[m].numbers.at_offset(0), expected, 1e-15);
  EXPECT_LT(work.clip_factor(), 1.0);
}

double largest_of(const Tensor& numbers) {
  double largest = 0.0;
  for (const double number : numbers.numbers())
    largest = std::max(largest, std::abs(number));
  return largest;
}

TEST(blanks, are_named_ones_and_others_in_the_order_of_the_work) {
  const WorkedMinibatch work = prepare(testing::worked_lessons()[0].first).work(1);
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

TEST(blanks, drawn_at_random_are_none_that_0_would_answer) {
  for (const auto& [lesson, step] : testing::worked_lessons()) {
    const WorkedMinibatch work = prepare(lesson).work(1);
    const WorkTables tables(work);
    for (std::uint64_t seed = 1; seed <= 20; ++seed) {
      for (const Blank& blank : choose_blanks(tables, {.blanks = 6, .seed = seed})) {
        const Tensor& numbers = tables[blank.spot.table].numbers;
        EXPECT_GT(std::abs(numbers.at_offset(blank.spot.offset)), blank.within)
            << tables.text(blank.spot);
      }
    }
  }
}

/// The blanks of a minibatch, by name.
std::vector<std::string> drawn(const WorkedMinibatch& work, const Exercise& exercise,
                               std::span<const WorkedStep> steps = {}) {
  const WorkTables tables(work);
  std::vector<std::string> names;
  for (const Blank& blank : choose_blanks(tables, exercise, steps))
    names.push_back(tables.text(blank.spot));
  return names;
}

WorkedMinibatch worked_glazes(const std::string& rule = "descent", std::int64_t batch = 4) {
  Lesson lesson;
  lesson.data.set = "glazes";
  lesson.data.rows = 60;
  lesson.network.blueprint = "dense 3, tanh, dense 4";
  lesson.rule = rule;
  lesson.batch = batch;
  return prepare(lesson).work(1);
}

TEST(blanks, are_no_copies_of_what_can_be_read_elsewhere) {
  // In the first step of Adam m̂ is the gradient; both are blank, or neither.
  const WorkedMinibatch work = worked_glazes("adam");
  const WorkTables tables(work);
  for (std::uint64_t seed = 0; seed < 20; ++seed) {
    const std::vector<Blank> blanks = choose_blanks(tables, {.blanks = 9, .seed = seed});
    const auto is_blank = [&](WorkTables::Spot spot) {
      return std::ranges::find(blanks, spot, &Blank::spot) != blanks.end();
    };
    for (const Blank& blank : blanks) {
      const double number = tables[blank.spot.table].numbers.at_offset(blank.spot.offset);
      for (std::size_t at = 0; at < tables.all().size(); ++at) {
        if (tables[at].kind == WorkTable::Kind::setting) continue;
        for (std::int64_t offset = 0; offset < tables[at].numbers.count(); ++offset) {
          const double other = std::abs(tables[at].numbers.at_offset(offset));
          if (std::abs(other - std::abs(number)) > 1e-10 * other) continue;
          EXPECT_TRUE(is_blank({at, offset}))
              << tables.text(blank.spot) << " is " << tables.text({at, offset});
        }
      }
    }
  }
}

TEST(blanks, of_a_softmax_leave_more_than_one_open_in_a_row) {
  const WorkedMinibatch work = worked_glazes();
  for (std::uint64_t seed = 0; seed < 10; ++seed) {
    const std::vector<std::string> names = drawn(work, {.blanks = 4, .in = {"p"}, .seed = seed});
    EXPECT_EQ(std::set<std::string>(names.begin(), names.end()).size(), 4U) << "none twice";
    std::map<std::string, int> of_row;
    for (const std::string& name : names)
      ++of_row[name.substr(0, name.find(','))];
    for (const auto& [row, count] : of_row)
      EXPECT_GE(count, 2) << row;
  }
}

TEST(blanks, are_of_up_to_six_terms_unless_hard_ones_are_asked_for) {
  const WorkedMinibatch work = worked_glazes("descent", 8);
  // Over 8 rows a gradient of a weight has 8 terms.
  for (const std::string& name : drawn(work, {.blanks = 5, .in = {"output.weight"}}))
    EXPECT_TRUE(name.starts_with("new ")) << name;
  const std::vector<std::string> hard =
      drawn(work, {.blanks = 8, .in = {"output.weight"}, .hard = true});
  EXPECT_TRUE(std::ranges::any_of(hard, [](const auto& name) { return name.starts_with("∂"); }));
  for (const std::string& name : drawn(work, {.blanks = 12}))
    EXPECT_FALSE(name.starts_with("∂hidden.weight") || name.starts_with("∂output.weight")) << name;
}

TEST(blanks, are_found_with_the_digits_that_are_shown) {
  const WorkedMinibatch work = worked_glazes();
  const WorkTables tables(work);
  std::size_t tried = 0;
  for (std::uint64_t seed = 0; seed < 10; ++seed) {
    for (const Blank& blank : choose_blanks(tables, {.blanks = 10, .seed = seed})) {
      const Formula made = tables.made(blank.spot);
      if (!made.shorthands().empty()) continue;
      // What stands on paper, worked as a sheet.
      const std::string on_paper = made.text({.filled_in = true, .longest_sum = std::string::npos});
      const double worked =
          read_sheet("given one = 1\nworked = one·(" + on_paper + ")").result.value().number();
      const double number = tables[blank.spot.table].numbers.at_offset(blank.spot.offset);
      EXPECT_NEAR(worked, number, blank.within) << tables.text(blank.spot) << " " << on_paper;
      ++tried;
    }
  }
  EXPECT_GT(tried, 50U);
}

TEST(blanks, are_chosen_by_stage_layer_or_line) {
  const WorkedMinibatch work = worked_glazes();
  for (const std::string& name : drawn(work, {.blanks = 6, .in = {"update"}}))
    EXPECT_TRUE(name.starts_with("new ")) << name;
  for (const std::string& name : drawn(work, {.blanks = 6, .in = {"reverse"}}))
    EXPECT_TRUE(name.starts_with("∂")) << name;
  for (const std::string& name : drawn(work, {.blanks = 6, .in = {"hidden", "tanh"}}))
    EXPECT_TRUE(name.find("hidden") != std::string::npos || name.find("tanh") != std::string::npos)
        << name;
  try {
    static_cast<void>(drawn(work, {.blanks = 1, .in = {"updat"}}));
    FAIL();
  } catch (const SettingError& error) {
    EXPECT_EQ(error.trouble().found, "'updat'");
  }
}

TEST(blanks, are_no_new_weights_where_the_next_step_shows_them) {
  Lesson lesson;
  lesson.data.set = "glazes";
  lesson.data.rows = 60;
  lesson.batch = 4;
  const WorkedExample example = prepare(lesson).work({1, 2});
  const WorkTables tables(example.steps.front().work);
  EXPECT_THROW(
      static_cast<void>(choose_blanks(tables, {.blanks = 1, .in = {"update"}}, example.steps)),
      SettingError);
  const WorkedExample apart = prepare(lesson).work({1, 3});
  EXPECT_EQ(choose_blanks(tables, {.blanks = 1, .in = {"update"}}, apart.steps).size(), 1U);
}

TEST(blanks, are_refused_when_there_are_not_so_many_or_nothing_counts_as_right) {
  const WorkedMinibatch work = prepare(testing::worked_lessons()[4].first).work(1);
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
