#include "lattice/show/terminal.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "lattice/lattice.hpp"
#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;

TEST(tensor_table, labels_its_axes) {
  const Tensor t = tensor({{1.5, -2}, {3, 4}}).with({Role::example, Role::feature});
  EXPECT_EQ(show_tensor(t, {}, {.features = {"minutes", "peak"}}),
            "┌───────────┬───────────────────┐\n"
            "│ feature   │ 0 minutes  1 peak │\n"
            "├───────────┼───────────────────┤\n"
            "│ example 0 │       1.5      −2 │\n"
            "│ example 1 │         3       4 │\n"
            "└───────────┴───────────────────┘\n");
}

TEST(tensor_table, shows_a_column_upright_a_row_lying_and_one_axis_without_rows) {
  EXPECT_EQ(show_tensor(tensor({{1}, {2}, {3}}).with({Role::example, Role::unit}), {}),
            "┌───────────┬───┐\n"
            "│ unit      │ 0 │\n"
            "├───────────┼───┤\n"
            "│ example 0 │ 1 │\n"
            "│ example 1 │ 2 │\n"
            "│ example 2 │ 3 │\n"
            "└───────────┴───┘\n");
  EXPECT_EQ(show_tensor(tensor({{1, 2, 3}}), {}),
            "┌───┬─────────┐\n"
            "│   │ 0  1  2 │\n"
            "├───┼─────────┤\n"
            "│ 0 │ 1  2  3 │\n"
            "└───┴─────────┘\n");
  EXPECT_EQ(show_tensor(tensor({1, 2, 3}), {}),
            "┌──┬─────────┐\n"
            "│  │ 0  1  2 │\n"
            "├──┼─────────┤\n"
            "│  │ 1  2  3 │\n"
            "└──┴─────────┘\n");
}

TEST(tensor_table, names_places_by_the_role_of_their_axis_and_never_by_its_length) {
  const AxisNames names{.features = {"hours", "width"}, .targets = {"peak"}, .classes = {"a", "b"}};
  const auto labels = [&](Role down, Role across) {
    return show_tensor(tensor({{1, 2}, {3, 4}}).with({down, across}), {}, names);
  };
  EXPECT_EQ(labels(Role::feature, Role::class_),
            "┌─────────┬──────────┐\n"
            "│ class   │ 0 a  1 b │\n"
            "├─────────┼──────────┤\n"
            "│ 0 hours │   1    2 │\n"
            "│ 1 width │   3    4 │\n"
            "└─────────┴──────────┘\n");
  EXPECT_EQ(labels(Role::unit, Role::target),
            "┌────────┬───────────┐\n"
            "│ target │ 0 peak  1 │\n"
            "├────────┼───────────┤\n"
            "│ unit 0 │      1  2 │\n"
            "│ unit 1 │      3  4 │\n"
            "└────────┴───────────┘\n");
}

TEST(tensor_table, shows_one_number_and_more_than_two_axes) {
  EXPECT_EQ(show_tensor(tensor(-3), {}), "−3\n");
  EXPECT_THAT(show_tensor(tensor({{{1, 2}}, {{3, 4}}}), {}),
              AllOf(HasSubstr("│ [0,0,·] │ 1  2 │\n"), HasSubstr("│ [1,0,·] │ 3  4 │\n")));
}

TEST(tensor_table, leaves_out_what_does_not_fit_and_says_so) {
  const std::string wide = show_tensor(evenly_spaced(1, 64, 64).reshaped({1, 64}), {});
  EXPECT_THAT(wide, HasSubstr("…  63"));
  EXPECT_THAT(wide, HasSubstr("of 64 columns shown)"));
  const std::string tall =
      show_tensor(evenly_spaced(1, 128, 128).reshaped({64, 2}), {.most_rows = 5});
  EXPECT_THAT(tall, HasSubstr("(4 of 64 numbers shown)"));
  EXPECT_THAT(tall, HasSubstr("63 │ 127  128 │"));
}

TEST(tensor_table, colours_numbers_by_sign_only_when_asked) {
  const Tensor t = tensor({1, -1, 0});
  EXPECT_EQ(show_tensor(t, {}).find('\x1b'), std::string::npos);
  const std::string coloured = show_tensor(t, {.colour = true});
  EXPECT_THAT(coloured, HasSubstr("\x1b[38;5;30m"
                                  "1\x1b[0m"));
  EXPECT_THAT(coloured, HasSubstr("\x1b[38;5;133m"
                                  "−1\x1b[0m"));
}

TEST(check_table, has_a_row_for_each_weight_and_a_verdict) {
  GradientCheck check;
  check.weights.push_back({.name = "W",
                           .shape = {3, 2},
                           .checked = 6,
                           .worst = {2, 1},
                           .engine = 0.5,
                           .difference = 0.25,
                           .error = 0.5,
                           .agrees = false});
  const std::string text = show_check(check, {});
  EXPECT_THAT(text, HasSubstr("6 of 6  W[2,1]"));
  EXPECT_THAT(text, HasSubstr("0.5           0.25    0.5  differs"));
  EXPECT_THAT(text, HasSubstr("Some gradients do not agree"));
  check.weights[0].agrees = true;
  EXPECT_THAT(show_check(check, {}), HasSubstr("All gradients agree"));
}

WorkedMinibatch small_work() {
  const Dataset glazes = demo_set("glazes", 20, 1);
  const RowSet two(glazes.prepared_by(fit({{}}, glazes.features)), {4, 9});
  return {Network(Shape{5}, "dense 3, tanh, dense 4", Random(2)), two.all(), Momentum{.rate = 0.1}};
}

TEST(work_entries, are_in_the_order_of_the_work_with_the_section_each_belongs_to) {
  const WorkedMinibatch work = small_work();
  const std::vector<WorkEntry> entries = entries_of(work);
  using Stage = WorkEntry::Stage;
  ASSERT_EQ(entries.size(),
            work.sheet().size() + work.reverse_steps().size() + work.updates().size() + 2);
  EXPECT_EQ(entries.front().stage, Stage::rows);
  EXPECT_EQ(entries.back().stage, Stage::again);
  EXPECT_TRUE(std::ranges::is_sorted(entries, {}, &WorkEntry::stage));
  const auto first_reverse = std::ranges::find(entries, Stage::reverse, &WorkEntry::stage);
  EXPECT_EQ(first_reverse->line, work.loss().number());
  EXPECT_THAT(show_title(*first_reverse, {}), HasSubstr("│ ∂loss  "));
  const auto update = std::ranges::find(entries, Stage::update, &WorkEntry::stage);
  EXPECT_EQ(update->section, "hidden");
  EXPECT_THAT(show_numbers(*update, work, {}),
              AllOf(HasSubstr("velocity_before"), HasSubstr("velocity")));
  EXPECT_EQ(word(Stage::reverse), "reverse sweep");
}

TEST(worked_minibatch_text, folds_the_sections_that_are_not_asked_for) {
  const WorkedMinibatch work = small_work();
  const std::string all = show_worked_sheet(work, {});
  const std::string open = show_worked_sheet(work, {}, {}, {.only = {"hidden"}});
  const std::string brief = show_worked_sheet(work, {}, {}, {.brief = true});
  EXPECT_THAT(all, ::testing::Not(HasSubstr("folded")));
  EXPECT_THAT(open, AllOf(HasSubstr("▸ 1 entry folded"), HasSubstr("new hidden.bias"),
                          HasSubstr("──── Tanh ")));
  EXPECT_THAT(open, ::testing::Not(HasSubstr("new output.bias")));
  EXPECT_LT(open.size(), all.size());
  EXPECT_LT(brief.size(), open.size());
  // Brief still names every line, forward and back.
  for (const WorkEntry& entry : entries_of(work))
    EXPECT_THAT(brief, HasSubstr(show_title(entry, {})));
  EXPECT_THROW(static_cast<void>(show_worked_sheet(work, {}, {}, {.only = {"hiden"}})), NameError);
}

TEST(worked_example_text, heads_each_of_several_steps) {
  WorkedExample example;
  example.steps.push_back({.step = 1, .epoch = 1, .work = small_work()});
  EXPECT_THAT(show_worked_example(example, {}), ::testing::Not(HasSubstr("Step 1")));
  example.steps.push_back({.step = 40, .epoch = 3, .work = small_work()});
  EXPECT_THAT(show_worked_example(example, {}),
              AllOf(HasSubstr("Step 1, in epoch 1"), HasSubstr("Step 40, in epoch 3")));
}

TEST(work_entries, say_a_gradient_once_where_all_of_it_comes_along_one_way) {
  // x is used twice: what arrives there comes in two shares, which are both told.
  const WorkedMinibatch work(Network(Shape{2}, "dense 2, residual(tanh), dense 1", Random(1)),
                             {.rows = {0}, .features = tensor({{1, 2}}), .targets = tensor({{3}})},
                             Descent{});
  std::string reverse;
  for (const WorkEntry& entry : entries_of(work)) {
    if (entry.stage == WorkEntry::Stage::reverse) reverse += show_numbers(entry, work, {});
  }
  EXPECT_THAT(reverse, HasSubstr("(its whole gradient)"));
  std::size_t shares = 0;
  for (std::size_t at = reverse.find("passed on to hidden:"); at != std::string::npos;
       at = reverse.find("passed on to hidden:", at + 1)) {
    const std::size_t end = reverse.find('\n', at);
    EXPECT_EQ(reverse.substr(at, end - at).find("all that"), std::string::npos);
    ++shares;
  }
  EXPECT_EQ(shares, 2U);
}

/// What stands below the entry of a line in the reverse sweep.
std::string swept(const WorkedSheet& work, std::string_view name, const TerminalStyle& style = {}) {
  for (const WorkEntry& entry : entries_of(work)) {
    if (entry.stage == WorkEntry::Stage::reverse && entry.name == name)
      return show_numbers(entry, work, style);
  }
  return "";
}

/// A sheet as it is worked, with its sweep.
WorkedExample worked(const std::string& text) {
  ReadSheet read = read_sheet(text);
  return work_sheet(std::move(read.sheet), read.result, {});
}

TEST(work_entries, show_by_what_a_gradient_is_multiplied_on_its_way) {
  const WorkedExample example = worked(
      "given x = [[1, 2], [3, 4]]\nweight W = [[0.5], [-1]]\nweight b = [0.25]\nz = x·W + b\n"
      "h = tanh(z)\ncost = 3·mean(h)\n");
  const WorkedSheet& work = example.steps.front().work;
  EXPECT_THAT(swept(work, "∂z"), AllOf(HasSubstr("local derivative, a matrix to multiply by: xᵀ\n"),
                                       HasSubstr("0  1  3"), HasSubstr("1  2  4"),
                                       HasSubstr("local derivative: 1\n")));
  EXPECT_THAT(swept(work, "∂h"),
              AllOf(HasSubstr("local derivative, number by number:"), HasSubstr("0.28041")));
  EXPECT_THAT(swept(work, "∂cost"), HasSubstr("local derivative: 3\n"));
  EXPECT_THAT(swept(work, "∂mean"), HasSubstr("local derivative: 0.5 everywhere"));
  EXPECT_THAT(swept(work, "∂W"), ::testing::Not(HasSubstr("local derivative")));
  // A loss passes on its local derivative itself.
  const WorkedExample loss =
      worked("weight z = [[1], [4]]\nloss = half_mean_squared(z, [[3], [2]])\n");
  EXPECT_THAT(swept(loss.steps.front().work, "∂loss"),
              HasSubstr("local derivative: what is passed on, since 1 arrives"));
}

TEST(work_entries, mark_what_rounding_leaves_where_terms_cancel) {
  const WorkedExample example = worked("weight w = [0.1, 0.2, -0.3]\ntotal = sum(w)\n");
  const WorkedSheet& work = example.steps.front().work;
  const WorkEntry& total = entries_of(work)[1];
  EXPECT_THAT(show_numbers(total, work, {}),
              AllOf(HasSubstr("≈0\n"), HasSubstr("(≈0: what rounding leaves where terms cancel)")));
  const WorkedExample plain = worked("weight w = [1e-20, 2]\nhalf = w/2\n");
  EXPECT_THAT(show_numbers(entries_of(plain.steps.front().work)[1], plain.steps.front().work, {}),
              AllOf(HasSubstr("5e−21"), ::testing::Not(HasSubstr("≈0"))));
}

TEST(work_entries, are_as_wide_as_the_page) {
  const WorkedExample example =
      worked("given x = ones(2, 9)\nweight W = normal(9, 10; 0, 1)\nz = x·W\ncost = mean(z²)\n");
  for (const std::size_t width : {std::size_t{80}, std::size_t{100}, std::size_t{120}}) {
    const std::string text = show_worked_example(example, {.width = width});
    std::size_t longest = 0;
    for (std::size_t from = 0; from < text.size();) {
      const std::size_t end = text.find('\n', from);
      longest = std::max(longest, columns(text.substr(from, end - from)));
      from = end + 1;
    }
    EXPECT_LE(longest, width);
    // Ten columns of numbers need a page of 120.
    EXPECT_EQ(text.find("columns shown") == std::string::npos, width == 120) << width;
  }
}

}  // namespace
}  // namespace lattice
