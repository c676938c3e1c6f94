#include "tensor/tensor_tables.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <set>

#include "lattice/core.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

TEST(tensor_tables, give_every_number_a_seat_of_its_own_and_find_it_there) {
  Random random(3);
  const std::vector<Role> roles = {Role::example, Role::row,     Role::column,
                                   Role::channel, Role::feature, Role::none};
  for (int turn = 0; turn < 200; ++turn) {
    std::vector<std::int64_t> extents(static_cast<std::size_t>(random.below(6)));
    for (std::int64_t& extent : extents)
      extent = 1 + random.below(4);
    Shape shape(extents);
    for (int axis = 0; axis < shape.rank(); ++axis)
      shape.set_role(axis, roles[static_cast<std::size_t>(random.below(6))]);
    const TensorTables tables(shape);
    EXPECT_EQ(tables.tables() * tables.rows() * tables.columns(), shape.count());
    std::set<std::tuple<std::int64_t, std::int64_t, std::int64_t>> seats;
    for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
      const TensorTables::Position position = tables.position(offset);
      EXPECT_EQ(tables.offset(position), offset) << to_string(shape);
      EXPECT_LT(position.table, tables.tables());
      EXPECT_LT(position.row, tables.rows());
      EXPECT_LT(position.column, tables.columns());
      seats.emplace(position.table, position.row, position.column);
    }
    EXPECT_EQ(std::ssize(seats), shape.count()) << to_string(shape);
  }
}

TEST(tensor_tables, follow_from_the_roles_of_the_axes) {
  const TensorTables pictures(
      Shape{3, 4, 5, 2}.with({Role::example, Role::row, Role::column, Role::channel}));
  EXPECT_THAT(pictures.beside(), ElementsAre(0, 3));
  EXPECT_THAT(pictures.down(), ElementsAre(1));
  EXPECT_THAT(pictures.across(), ElementsAre(2));
  EXPECT_EQ(pictures.table_label(3, {}), "example 1, channel 1");
  EXPECT_EQ(pictures.row_label(2, {}), "row 2");
  EXPECT_EQ(pictures.corner(), "column");

  // Columns come first here, and yet they go across.
  const TensorTables turned(Shape{5, 4}.with({Role::column, Role::row}));
  EXPECT_THAT(turned.across(), ElementsAre(0));
  EXPECT_EQ(turned.offset({.table = 0, .row = 1, .column = 2}), 9);

  const TensorTables table(Shape{3, 2}.with({Role::example, Role::feature}));
  EXPECT_THAT(table.beside(), IsEmpty());
  EXPECT_EQ(table.row_label(1, {}), "example 1");
  EXPECT_EQ(table.column_label(1, {.features = {"wall", "peak"}}), "1 peak");

  // Without columns it is no picture: all but the last axis go down.
  const TensorTables rows(Shape{3, 4, 2}.with({Role::example, Role::row, Role::channel}));
  EXPECT_EQ(rows.tables(), 1);
  EXPECT_EQ(rows.row_label(5, {}), "[1,1,·]");
  EXPECT_EQ(TensorTables({}).columns(), 1);
}

TEST(tensor_tables, of_pictures_are_printed_side_by_side_as_far_as_they_fit) {
  Tensor pictures =
      zeros(Shape{2, 3, 4, 2}.with({Role::example, Role::row, Role::column, Role::channel}));
  for (std::int64_t offset = 0; offset < pictures.count(); ++offset)
    pictures.set(pictures.shape().index(offset), static_cast<double>(offset));
  EXPECT_EQ(text(pictures, {.width = 60}),
            "example 0, channel 0      example 0, channel 1\n"
            "column   0   1   2   3    column   0   1   2   3\n"
            "row 0    0   2   4   6    row 0    1   3   5   7\n"
            "row 1    8  10  12  14    row 1    9  11  13  15\n"
            "row 2   16  18  20  22    row 2   17  19  21  23\n"
            "\n"
            "example 1, channel 0      example 1, channel 1\n"
            "column   0   1   2   3    column   0   1   2   3\n"
            "row 0   24  26  28  30    row 0   25  27  29  31\n"
            "row 1   32  34  36  38    row 1   33  35  37  39\n"
            "row 2   40  42  44  46    row 2   41  43  45  47\n");
  const std::string narrow = text(pictures, {.most_rows = 4, .width = 30});
  EXPECT_THAT(narrow, HasSubstr("(1 of 4 tables shown)\n"));
  const std::string ruled = text(pictures, {.width = 80, .ruled = true});
  for (std::size_t from = 0; from < ruled.size(); from = ruled.find('\n', from) + 1)
    EXPECT_LE(columns(ruled.substr(from, ruled.find('\n', from) - from)), 80U) << ruled;
}

TEST(tensor_tables, show_words_in_place_of_numbers_and_only_the_rows_and_columns_of_some) {
  const Tensor numbers =
      tensor({{0, 1, 2}, {10, 11, 12}, {20, 21, 22}}).with({Role::example, Role::class_});
  const AxisNames names{.classes = {"ash", "bone", "clay"}};
  EXPECT_EQ(text(numbers, {.width = 60}, names, {.words = {{4, "▢1"}}}),
            "class      0 ash  1 bone  2 clay\n"
            "example 0      0       1       2\n"
            "example 1     10      ▢1      12\n"
            "example 2     20      21      22\n");
  EXPECT_EQ(text(numbers, {.width = 60}, names, {.words = {{8, "▢2"}}, .within = {2, 6}}),
            "class      0 ash  2 clay\n"
            "example 0      0       2\n"
            "example 2     20      ▢2\n");
  const Tensor pictures =
      zeros(Shape{2, 2, 3, 2}.with({Role::example, Role::row, Role::column, Role::channel}));
  EXPECT_EQ(text(pictures, {.width = 60}, {}, {.within = {13, 23}}),
            "example 1, channel 1\n"
            "column  0  2\n"
            "row 0   0  0\n"
            "row 1   0  0\n");
}

TEST(tensor_tables, stand_in_line_where_a_title_is_wider_than_its_table) {
  const Tensor thin = zeros(Shape{3, 2, 1}.with({Role::example, Role::row, Role::column}));
  EXPECT_EQ(text(thin, {.width = 50}),
            "example 0    example 1    example 2\n"
            "column  0    column  0    column  0\n"
            "row 0   0    row 0   0    row 0   0\n"
            "row 1   0    row 1   0    row 1   0\n");
  const Tensor deep =
      zeros(Shape{2, 1, 1, 2}.with({Role::example, Role::row, Role::column, Role::channel}));
  EXPECT_EQ(text(deep, {.width = 50}),
            "example 0, channel 0    example 0, channel 1\n"
            "column  0               column  0\n"
            "row 0   0               row 0   0\n"
            "\n"
            "example 1, channel 0    example 1, channel 1\n"
            "column  0               column  0\n"
            "row 0   0               row 0   0\n");
}

TEST(tensor_tables, are_made_as_they_are_shown) {
  const Tensor many = zeros(Shape{200'000, 4, 4}.with({Role::example, Role::row, Role::column}));
  EXPECT_THAT(text(many, {}), HasSubstr(" of 200000 tables shown"));
}

}  // namespace
}  // namespace lattice
