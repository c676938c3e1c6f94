#include "show/formula_patterns.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "lattice/lattice.hpp"
#include "support/every_operation.hpp"
#include "support/pictures.hpp"
#include "support/worked_lessons.hpp"

namespace lattice {
namespace {

using Spot = WorkTables::Spot;

/// Fills the skeleton of a pattern for a position of its box, and takes down what is in the gaps.
class Reader {
 public:
  Reader(const Json& gaps, const std::vector<std::int64_t>& position)
      : gaps_(gaps), position_(position) {}

  [[nodiscard]] std::vector<Spot> spots(const Json& skeleton) {
    read(skeleton);
    EXPECT_EQ(next_, gaps_.size());
    return std::move(spots_);
  }

  /// Those that are read: what something is compared with.
  [[nodiscard]] const std::vector<std::int64_t>& numbers() const { return numbers_; }

 private:
  void read(const Json& part) {
    if (part == "#") {
      const Json& gap = gaps_[next_++];
      std::int64_t offset = gap[1];
      if (gap.size() > 2) offset += moved(gap[2], position_);
      if (gap.size() > 3) offset += moved(gap[3], times_);
      if (gap[0].is_null()) {
        numbers_.push_back(offset);
      } else {
        spots_.push_back({gap[0], offset});
      }
    } else if (part.is_array() && part[0] == "each") {
      read_each(part);
    } else if (part.is_array()) {
      for (const Json& each : part)
        read(each);
    }
  }

  void read_each(const Json& part) {
    const std::size_t first = next_;
    for (std::int64_t time = 0; time < part[1].get<std::int64_t>(); ++time) {
      next_ = first;
      times_.push_back(time);
      for (std::size_t term = 2; term < part.size(); ++term)
        read(part[term]);
      times_.pop_back();
    }
  }

  static std::int64_t moved(const Json& strides, const std::vector<std::int64_t>& positions) {
    std::int64_t sum = 0;
    for (std::size_t axis = 0; axis < strides.size(); ++axis)
      sum += strides[axis].get<std::int64_t>() * positions.at(axis);
    return sum;
  }

  const Json& gaps_;
  const std::vector<std::int64_t>& position_;
  std::vector<std::int64_t> times_ = {};
  std::size_t next_ = 0;
  std::vector<Spot> spots_ = {};
  std::vector<std::int64_t> numbers_ = {};
};

/// The cells of a formula in the order in which a skeleton has its gaps.
void take_spots(const WorkTables& tables, const Formula& formula, Spot inside,
                std::vector<const Formula*>& spelled_out, std::vector<Spot>& spots) {
  if (formula.kind() == Formula::Kind::cell) {
    spots.push_back(tables.find(formula.cell(), inside));
    return;
  }
  if (formula.kind() == Formula::Kind::shorthand) {
    if (const auto spot = tables.find_shorthand(formula.function_name(), inside)) {
      spots.push_back(*spot);
      return;
    }
    if (std::ranges::find(spelled_out, formula.parts().data()) != spelled_out.end()) return;
    spelled_out.push_back(formula.parts().data());
  }
  if (formula.kind() == Formula::Kind::choice) {
    take_spots(tables, *formula.condition().left, inside, spelled_out, spots);
    take_spots(tables, *formula.condition().right, inside, spelled_out, spots);
  }
  if (formula.kind() == Formula::Kind::pick)
    take_spots(tables, formula.which(), inside, spelled_out, spots);
  for (const Formula& part : formula.parts())
    take_spots(tables, part, inside, spelled_out, spots);
}

/// The whole numbers that something in a formula is compared with, in their order.
void take_places(const Formula& formula, std::vector<std::int64_t>& places) {
  if (formula.kind() == Formula::Kind::choice) {
    const Condition& condition = formula.condition();
    take_places(*condition.left, places);
    if (condition.relation == Condition::Relation::equal &&
        condition.right->kind() == Formula::Kind::number)
      places.push_back(static_cast<std::int64_t>(condition.right->evaluate()));
  }
  if (formula.kind() == Formula::Kind::pick) take_places(formula.which(), places);
  for (const Formula& part : formula.parts())
    take_places(part, places);
}

/// Where a place is in the box of a pattern; nothing when it is outside.
std::optional<std::vector<std::int64_t>> position_in(const Json& pattern, const Index& at) {
  std::vector<std::int64_t> position;
  for (int axis = 0; axis < at.rank(); ++axis) {
    if (pattern.size() == 2) {
      position.push_back(at[axis]);
      continue;
    }
    const Json& positions = pattern[2][static_cast<std::size_t>(axis)];
    const std::int64_t from = positions[0];
    const std::int64_t step = positions[2];
    if (at[axis] < from || (at[axis] - from) % step != 0) return std::nullopt;
    if ((at[axis] - from) / step >= positions[1]) return std::nullopt;
    position.push_back((at[axis] - from) / step);
  }
  return position;
}

/// Every calculated number has one pattern, which names the cells of its formula in their order.
void expect_that_patterns_tell(const WorkedSheet& work) {
  const WorkTables tables(work);
  Dictionary skeletons;
  for (std::size_t at = 0; at < tables.all().size(); ++at) {
    if (!tables.is_calculated(at)) continue;
    const Json patterns = Json::parse(patterns_of(tables, at, skeletons));
    const Shape& shape = tables[at].numbers.shape();
    for (std::int64_t place = 0; place < shape.count(); ++place) {
      const Spot spot{at, place};
      std::vector<Spot> expected;
      std::vector<const Formula*> spelled_out;
      const Formula made = tables.made(spot);
      take_spots(tables, made, spot, spelled_out, expected);
      std::vector<std::int64_t> places;
      take_places(made, places);
      int told = 0;
      for (const Json& pattern : patterns) {
        const auto position = position_in(pattern, shape.index(place));
        if (!position) continue;
        ++told;
        const Json skeleton = Json::parse(skeletons.texts()[pattern[0].get<std::size_t>()]);
        Reader reader(pattern[1], *position);
        ASSERT_EQ(reader.spots(skeleton), expected) << tables.text(spot);
        ASSERT_EQ(reader.numbers(), places) << tables.text(spot);
      }
      ASSERT_EQ(told, 1) << tables.text(spot);
    }
  }
}

TEST(formula_patterns, say_for_every_number_which_others_it_is_made_from) {
  for (const auto& [lesson, step] : testing::worked_lessons())
    expect_that_patterns_tell(prepare(lesson).work(step));
  expect_that_patterns_tell(testing::worked_pictures({2, 4, 5, 2}));
  expect_that_patterns_tell(testing::worked_pictures({1, 1, 2, 3}));
}

/// An operation on inputs drawn at random, swept from the sum of its numbers.
WorkedSheet worked(const testing::OperationCase& operation, std::uint64_t seed) {
  testing::Draw draw(seed, Precision::double_);
  Worksheet sheet;
  std::vector<Line> inputs;
  for (const Tensor& numbers : operation.inputs(draw)) {
    const std::string name = "w" + std::to_string(inputs.size());
    inputs.push_back(inputs.size() < operation.learnt ? sheet.weight(name, numbers)
                                                      : sheet.given(name, numbers));
  }
  const Line result = named("y", operation.apply(inputs));
  const Line total = named("total", sum(result * result));
  return {std::move(sheet), total};
}

TEST(formula_patterns, say_it_for_every_operation_on_any_shape) {
  std::vector<testing::OperationCase> all = testing::operations_of_core();
  for (const testing::OperationCase& each : testing::operations_of_subjects())
    all.push_back(each);
  for (const testing::OperationCase& operation : all) {
    SCOPED_TRACE(operation.name);
    for (std::uint64_t seed = 0; seed < 12; ++seed) {
      SCOPED_TRACE(seed);
      expect_that_patterns_tell(worked(operation, seed));
      ASSERT_FALSE(::testing::Test::HasFailure());
    }
  }
}

/// How many formulas are asked for, to tell those of a table.
std::int64_t asked_for(const WorkTables& tables, std::size_t at, bool goes_by_axis) {
  std::int64_t asked = 0;
  Dictionary skeletons;
  const std::string patterns = patterns_of(tables,
                                           {.shape = tables[at].numbers.shape(),
                                            .formula =
                                                [&](std::int64_t place) {
                                                  ++asked;
                                                  return tables.made({at, place});
                                                },
                                            .goes_by_axis = goes_by_axis,
                                            .inside = at},
                                           skeletons);
  Dictionary again;
  EXPECT_EQ(patterns, patterns_of(tables, at, again)) << tables[at].name;
  return asked;
}

TEST(formula_patterns, of_a_large_layer_need_the_formulas_along_its_axes_alone) {
  Random random(1);
  const Dataset data = dataset_of_numbers(normal({40, 30}, 0.0, 1.0, random), zeros({40}));
  const Network net(data.example(), {Dense{.outputs = 50}, Tanh{}, Dense{.outputs = 1}}, random);
  const WorkedMinibatch work(net, RowSet(data).all(), Adam{.rate = 0.1});
  const WorkTables tables(work);
  int large = 0;
  for (std::size_t at = 0; at < tables.all().size(); ++at) {
    const Shape& shape = tables[at].numbers.shape();
    if (!tables.is_calculated(at) || shape.count() < 1000) continue;
    ++large;
    EXPECT_TRUE(tables.goes_by_axis(at)) << tables[at].name;
    EXPECT_LE(asked_for(tables, at, true), shape[0] + shape[1] + 30) << tables[at].name;
    EXPECT_EQ(asked_for(tables, at, false), shape.count()) << tables[at].name;
  }
  EXPECT_GE(large, 10);
}

// The first number and the last have a formula of their own: no axis by itself tells which.
TEST(formula_patterns, are_right_where_formulas_do_not_go_by_axis_though_it_is_said) {
  Random random(1);
  Worksheet sheet;
  const Line x = sheet.weight("x", normal({1, 6}, 0.0, 1.0, random));
  const Line y = named("y", square(x));
  const Line folded = named("folded", reshape(y + 1.0, {2, 3}));
  const WorkedSheet work(std::move(sheet), named("total", sum(folded)));
  const WorkTables tables(work);
  Dictionary skeletons;
  const std::size_t inside = folded.number() - 1;
  const Json patterns = Json::parse(patterns_of(tables,
                                                {.shape = {2, 3},
                                                 .formula =
                                                     [&](std::int64_t place) {
                                                       const bool is_end = place == 0 || place == 5;
                                                       const Formula made = tables.made({1, place});
                                                       return is_end ? made + 1.0 : made;
                                                     },
                                                 .goes_by_axis = true,
                                                 .inside = inside},
                                                skeletons));
  std::map<std::size_t, std::int64_t> places;
  for (const Json& pattern : patterns) {
    std::int64_t count = 1;
    for (const Json& positions : pattern[2])
      count *= positions[1].get<std::int64_t>();
    places[pattern[0].get<std::size_t>()] += count;
  }
  EXPECT_THAT(places,
              ::testing::UnorderedElementsAre(::testing::Pair(0, 2), ::testing::Pair(1, 4)));
}

/// Short names that a long list spells out and others around it mean again, before it and behind.
WorkedMinibatch worked_peaks() {
  Random random(4);
  const Dataset data = dataset_of_numbers(normal({18, 9}, 0.0, 1.0, random), zeros({18}));
  const Layer peaks = OwnLayer{.word = "peaks", .needs = {}, .carry_out = [](const Line& x, Pass&) {
                                 const Line highest = max(x, {.axes = {1}, .keep = true});
                                 const Line first = named("first", square(highest) + sum(highest));
                                 return first * named("last", sum(highest) * square(highest));
                               }};
  const Network net(data.example(), {peaks, Dense{.outputs = 1}}, random);
  return {net, RowSet(data).all(), Descent{.rate = 0.1}};
}

TEST(formula_patterns, spell_each_short_name_out_once) {
  expect_that_patterns_tell(worked_peaks());
}

TEST(formula_patterns, are_as_many_as_there_are_kinds_of_places_however_large_a_picture_is) {
  const auto written = [](const Shape& batch) {
    const WorkedMinibatch work = testing::worked_pictures(batch);
    const WorkTables tables(work);
    Dictionary skeletons;
    std::vector<std::pair<std::string, std::size_t>> patterns;
    std::size_t letters = 0;
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      if (!tables.is_calculated(at) || tables[at].name.ends_with("top")) continue;
      const std::string text = patterns_of(tables, at, skeletons);
      patterns.emplace_back(tables[at].name, Json::parse(text).size());
      letters += text.size();
    }
    for (const std::string& skeleton : skeletons.texts())
      letters += skeleton.size();
    return std::pair(patterns, letters);
  };
  const auto [small, small_letters] = written({4, 5, 6, 2});
  const auto [large, large_letters] = written({8, 12, 12, 4});
  EXPECT_LT(large_letters, 12'000U);
  EXPECT_LT(large_letters, small_letters * 3 / 2);
  for (std::size_t at = 0; at < small.size(); ++at)
    EXPECT_LE(large[at].second, 4U) << large[at].first << " " << small[at].second;
}

}  // namespace
}  // namespace lattice
