#include "lattice/data/table.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <string>

#include "lattice/files/csv.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

TableReading read(const std::string& text, const ColumnChoice& choice) {
  return dataset_from(parse_table(text, "pots.csv"), choice);
}

std::string trouble_of(const std::string& text, const ColumnChoice& choice) {
  return testing::said([&] { return read(text, choice); });
}

const std::string pots =
    "clay,wall,kind\n"
    "red,4,bowl\n"
    "white,5,jug\n"
    "red,6,bowl\n"
    "grey,7,jug\n";

TEST(table, makes_a_feature_of_each_word_of_a_column) {
  const Dataset data = read(pots, {.targets = {"kind"}}).data;
  EXPECT_THAT(data.feature_names, ElementsAre("clay=grey", "clay=red", "clay=white", "wall"));
  EXPECT_THAT(data.features.numbers(), ElementsAre(0, 1, 0, 4, 0, 0, 1, 5, 0, 1, 0, 6, 1, 0, 0, 7));
  EXPECT_THAT(data.columns[0].words, ElementsAre("grey", "red", "white"));
  EXPECT_THAT(data.columns[1].words, IsEmpty());
}

Table with_test(const std::string& rows, const std::string& header = "clay,wall,kind\n") {
  return with_part(parse_table(pots, "pots.csv"), DataPart::test,
                   parse_table(header + rows, "june.csv"));
}

TEST(table, has_the_words_and_classes_of_the_rows_that_are_in_no_fixed_part) {
  const Dataset data = dataset_from(with_test("6,jug,red\n3,bowl,white\n", "wall,kind,clay\n"),
                                    {.targets = {"kind"}})
                           .data;
  EXPECT_EQ(data.name, "pots.csv");
  EXPECT_EQ(data.rows(), 6);
  EXPECT_EQ(data.features.at({4, 3}), 6.0);
  EXPECT_THAT(data.classes.numbers(), ElementsAre(0, 1, 0, 1, 1, 0));
  const FixedPart* const test = data.fixed_part(DataPart::test);
  ASSERT_NE(test, nullptr);
  EXPECT_EQ(test->name, "june.csv");
  EXPECT_THAT(test->rows, ElementsAre(4, 5));
  const auto refused = [](const std::string& rows, const ColumnChoice& choice) {
    return testing::said<FileError>([&] { (void)dataset_from(with_test(rows), choice); });
  };
  EXPECT_THAT(refused("red,4,vase\n", {.targets = {"kind"}}),
              AllOf(HasSubstr("'vase' was never seen"), HasSubstr("june.csv, row 1")));
  EXPECT_THAT(refused("blue,4,jug\n", {.targets = {"kind"}}), HasSubstr("'blue' was never seen"));
  EXPECT_THAT(refused("red,thin,jug\nred,thin,jug\nred,thin,jug\nred,thin,jug\nred,thin,jug\n",
                      {.targets = {"kind"}}),
              HasSubstr("'thin' cannot be used as a number"));
  EXPECT_THAT(testing::said<FileError>([] { (void)with_test("4\n", "wall\n"); }),
              HasSubstr("june.csv has other columns than pots.csv"));
  // Rows that are dropped leave the others where they belong.
  const Dataset dropped = dataset_from(with_test("red,,jug\nred,5,bowl\n"),
                                       {.targets = {"kind"}, .missing = Missing::dropped})
                              .data;
  EXPECT_THAT(dropped.fixed_part(DataPart::test)->rows, ElementsAre(4));
}

TEST(table, matches_classes_that_are_numbers_in_a_fixed_part) {
  const auto table = [](const std::string& rows) {
    return with_part(parse_table("x,y\n1,0\n2,1\n3,0\n4,1\n", "a.csv"), DataPart::validation,
                     parse_table("x,y\n" + rows, "b.csv"));
  };
  EXPECT_THAT(dataset_from(table("5,1.0\n6,0\n"), {.targets = {"y"}}).data.classes.numbers(),
              ElementsAre(0, 1, 0, 1, 1, 0));
  EXPECT_THAT(
      testing::said<FileError>([&] { (void)dataset_from(table("5,2\n"), {.targets = {"y"}}); }),
      HasSubstr("one of 0, 1"));
}

TEST(table, takes_a_column_for_numbers_when_at_least_half_of_it_is) {
  // One number among words is a word; one word among numbers is a mistake.
  EXPECT_THAT(read("a,y\nred,1\n4,2\nwhite,3\ngrey,5\n", {.targets = {"y"}}).data.feature_names,
              ElementsAre("a=4", "a=grey", "a=red", "a=white"));
  EXPECT_THAT(trouble_of("a,y\n1,1\n4,2\nwhite,3\n6,5\n", {.targets = {"y"}}),
              HasSubstr("'white'"));
  EXPECT_THAT(trouble_of("a,y\n1,1\n4,2\nwhite,3\ngrey,5\n", {.targets = {"y"}}),
              HasSubstr("'white'"));
}

TEST(table, tells_numbers_from_what_looks_like_one) {
  for (const std::string word : {".", "-.", "-", "1.2.3", "1-2", "1.5x", "--1.5", "1.−5"}) {
    const Dataset data =
        read(fmt::format("a,y\n{0},1.5\n{0},2.5\nw,3.5\n", word), {.targets = {"y"}}).data;
    EXPECT_THAT(data.columns[0].words, ElementsAre(word, "w")) << word;
  }
  for (const std::string word :
       {"1.", ".5", "-.5", "-0.25", "+1.5", "1e5", "−2.5", "7", "1.5e−3"}) {
    const Dataset data =
        read(fmt::format("a,y\n{0},1.5\n{0},2.5\n4,3.5\n", word), {.targets = {"y"}}).data;
    EXPECT_THAT(data.columns[0].words, IsEmpty()) << word;
    EXPECT_EQ(data.features.numbers()[0], parse_number(word)) << word;
  }
}

TEST(table, numbers_classes_in_the_order_of_their_names) {
  const Dataset data = read(pots, {.targets = {"kind"}}).data;
  EXPECT_THAT(data.class_names, ElementsAre("bowl", "jug"));
  EXPECT_THAT(data.classes.numbers(), ElementsAre(0, 1, 0, 1));
  EXPECT_TRUE(data.targets.empty());
  EXPECT_THAT(RowSet(data).class_sizes(), ElementsAre(2, 2));
}

TEST(table, takes_minus_one_and_one_for_two_classes) {
  const Dataset signs = read("a,y\n1,+1\n2,-1\n3,1\n4,-1\n", {.targets = {"y"}}).data;
  EXPECT_THAT(signs.classes.numbers(), ElementsAre(1, 0, 1, 0));
  EXPECT_THAT(signs.class_names, ElementsAre("-1", "+1"));
  EXPECT_TRUE(read("a,y\n1,0\n2,1\n3,1\n4,0\n", {.targets = {"y"}}).data.has_classes());
  EXPECT_FALSE(read("a,y\n1,0\n2,2\n3,2\n4,0\n", {.targets = {"y"}}).data.has_classes());
  EXPECT_FALSE(read("a,y\n1,0\n2,1\n3,1\n4,0\n", {.targets = {"y"}, .kind = TargetKind::numbers})
                   .data.has_classes());
}

TEST(table, takes_whole_numbers_for_classes_when_the_network_has_an_output_for_each) {
  const std::string text = "a,y\n1,3\n2,1\n3,2\n4,1\n5,3\n6,2\n";
  EXPECT_FALSE(read(text, {.targets = {"y"}}).data.has_classes());
  const TableReading reading = read(text, {.targets = {"y"}, .outputs = 3});
  EXPECT_THAT(reading.data.classes.numbers(), ElementsAre(2, 0, 1, 0, 2, 1));
  EXPECT_TRUE(reading.whole_numbers_as_classes);
  EXPECT_FALSE(read(text, {.targets = {"y"}, .outputs = 1}).data.has_classes());
  EXPECT_TRUE(read(text, {.targets = {"y"}, .kind = TargetKind::classes}).data.has_classes());
}

TEST(table, names_classes_whose_labels_are_numbers) {
  const std::string text = "a,y\n1,2\n2,0\n3,0\n4,2\n5,0\n6,2\n";
  const ColumnChoice choice{.targets = {"y"}, .class_names = {"bowl", "jug", "vase"}};
  const Dataset data = read(text, choice).data;
  EXPECT_THAT(data.class_names, ElementsAre("bowl", "jug", "vase"));
  EXPECT_THAT(data.classes.numbers(), ElementsAre(2, 0, 0, 2, 0, 2));
  EXPECT_THAT(data.class_labels, ElementsAre("0", "1", "2"));
  // Labels that are no places are taken in their order.
  const Dataset others =
      read("a,y\n1,7\n2,5\n3,5\n4,7\n", {.targets = {"y"}, .class_names = {"bowl", "jug"}}).data;
  EXPECT_THAT(others.classes.numbers(), ElementsAre(1, 0, 0, 1));
  EXPECT_THAT(others.class_labels, ElementsAre("5", "7"));
  // Of words they are the order, and all there are.
  const Dataset words = read(pots, {.targets = {"kind"}, .class_names = {"jug", "bowl"}}).data;
  EXPECT_THAT(words.classes.numbers(), ElementsAre(1, 0, 1, 0));
  EXPECT_TRUE(words.class_labels.empty());
  EXPECT_THAT(trouble_of(pots, {.targets = {"kind"}, .class_names = {"jug", "cup"}}),
              HasSubstr("'bowl'"));
  EXPECT_THAT(trouble_of("a,y\n1,7\n2,5\n3,5\n4,7\n",
                         {.targets = {"y"}, .class_names = {"bowl", "jug", "vase"}}),
              HasSubstr("3 names for 5, 7"));
  EXPECT_THAT(trouble_of("a,y\n1,0.5\n2,1\n3,1\n4,0.5\n5,3\n",
                         {.targets = {"y"}, .class_names = {"a", "b"}}),
              HasSubstr("a name for each of 3 labels"));
}

TEST(table, refuses_names_of_classes_that_do_not_tell_them_apart) {
  const std::string text = "a,y\n1,1\n2,0\n3,0\n4,1\n";
  EXPECT_THAT(trouble_of(text, {.targets = {"y"}, .class_names = {"bowl", "bowl"}}),
              HasSubstr("one twice"));
  EXPECT_THAT(trouble_of(text, {.targets = {"y"}, .class_names = {"bowl", ""}}),
              HasSubstr("one without a letter"));
}

TEST(table, finds_columns_by_position_from_1) {
  const Dataset data = read("a,b,y\n1,2,3\n4,5,6\n", {.targets = {"3"}, .features = {"2"}}).data;
  EXPECT_THAT(data.features.numbers(), ElementsAre(2, 5));
  EXPECT_THAT(data.feature_names, ElementsAre("b"));
  EXPECT_EQ(data.target_name(), "y");
  // A name goes before a position.
  EXPECT_EQ(
      read("2,b,y\n1,2,3\n4,5,6\n", {.targets = {"y"}, .features = {"2"}}).data.feature_names[0],
      "2");
  EXPECT_THAT(trouble_of("a,y\n1,2\n", {.targets = {"3"}}), HasSubstr("a position from 1 to 2"));
}

TEST(table, refuses_or_drops_rows_with_missing_values) {
  for (const char* gap : {"", " ", "?", "NA", "n/a", "NaN", "null"}) {
    const std::string text = std::string("a,b,y\n1,2,3\n") + gap + ",5,6\n7,8,9\n";
    const std::string trouble = trouble_of(text, {.targets = {"y"}});
    EXPECT_THAT(trouble, HasSubstr("a value is missing")) << gap;
    EXPECT_THAT(trouble, HasSubstr("row 2 (line 3 of the file), column 'a'")) << gap;
    EXPECT_THAT(trouble, HasSubstr("drop such rows")) << gap;
    const TableReading reading = read(text, {.targets = {"y"}, .missing = Missing::dropped});
    EXPECT_EQ(reading.rows_dropped, 1);
    EXPECT_THAT(reading.data.targets.numbers(), ElementsAre(3, 9));
    // A gap in a column that is not used does not matter.
    EXPECT_EQ(read(text, {.targets = {"y"}, .features = {"b"}}).data.rows(), 3);
  }
  EXPECT_THAT(trouble_of("a,y\n?,1\n", {.targets = {"y"}, .missing = Missing::dropped}),
              HasSubstr("no row of pots.csv is left"));
}

TEST(table, leaves_columns_of_many_words_out_unless_they_are_named) {
  std::string text = "name,a,y\n";
  for (int row = 0; row < 30; ++row)
    text += "pot" + std::to_string(row) + "," + std::to_string(row) + ",1.5\n";
  const TableReading reading = read(text, {.targets = {"y"}});
  EXPECT_THAT(reading.left_out, ElementsAre("name"));
  EXPECT_THAT(reading.data.feature_names, ElementsAre("a"));
  EXPECT_EQ(read(text, {.targets = {"y"}, .features = {"name"}}).data.feature_names.size(), 30U);
}

TEST(table, refuses_targets_that_cannot_be_learnt) {
  EXPECT_THAT(trouble_of("a,y\n1,red\n2,red\n", {.targets = {"y"}}),
              HasSubstr("has only one class"));
  EXPECT_THAT(trouble_of("a,y\n1,red\n2,blue\n3,grey\n", {.targets = {"y"}}),
              HasSubstr("too many classes"));
  EXPECT_THAT(trouble_of("a,y\n1,2\n2,3\n3,wet\n", {.targets = {"y"}}),
              HasSubstr("row 3 (line 4 of the file), column 'y'"));
  EXPECT_THAT(trouble_of("a,y\n1,2\n", {.targets = {"y"}, .features = {"a", "a"}}),
              HasSubstr("named twice"));
}

TEST(table, has_several_targets_where_each_is_a_number) {
  const std::string text = "a,height,width,kind\n1,10,20,jug\n2,30,40,bowl\n3,50,60,jug\n";
  const Dataset data = read(text, {.targets = {"width", "2"}, .features = {"a"}}).data;
  EXPECT_THAT(data.target_names, ElementsAre("width", "height"));
  EXPECT_EQ(data.targets.shape(), (Shape{3, 2}));
  EXPECT_EQ(data.targets.shape().role(1), Role::target);
  EXPECT_THAT(data.targets.numbers(), ElementsAre(20, 10, 40, 30, 60, 50));
  EXPECT_EQ(data.target_name(1), "height");
  EXPECT_THAT(read(text, {.targets = {"width", "height"}}).data.feature_names,
              ElementsAre("a", "kind=bowl", "kind=jug"));
  EXPECT_THAT(read("a,\"x,y\"\n1,2\n3,4\n", {.targets = {"x", "y"}}).data.target_names,
              ElementsAre("x,y"));
  EXPECT_THAT(trouble_of(text, {.targets = {"width", "width"}}), HasSubstr("named twice"));
  EXPECT_THAT(trouble_of(text, {.targets = {"width", "kind"}}),
              HasSubstr("words in the column 'kind'"));
  EXPECT_THAT(trouble_of(text, {.targets = {"width", "height"}, .kind = TargetKind::classes}),
              HasSubstr("2 targets of classes"));
  EXPECT_THAT(trouble_of(text, {.targets = {"width", "height"}, .features = {"height"}}),
              HasSubstr("'height' is the target, and is a feature at once"));
  EXPECT_THAT(trouble_of("a,b,y\n1,2,3\n2,x,4\n3,1,5\n4,1,5\n", {.targets = {"b", "y"}}),
              HasSubstr("row 2 (line 3 of the file), column 'b'"));
  EXPECT_THAT(trouble_of(text, {}), HasSubstr("which column of pots.csv is the target?"));
}

TEST(table, appends_tables_of_the_same_columns) {
  const Table first = parse_table("a,y\n1,2\n3,4\n", "one.csv");
  const Table second = parse_table("y,a\n6,5\n8,\n", "two.csv");
  const Table all = appended({first, second, first});
  EXPECT_EQ(all.name, "one.csv and 2 more");
  EXPECT_EQ(appended({first, second}).name, "one.csv and two.csv");
  EXPECT_EQ(appended({first}).name, "one.csv");
  EXPECT_THAT(all.rows[2], ElementsAre("5", "6"));
  EXPECT_EQ(all.rows.size(), 6U);
  EXPECT_EQ(all.place(3), "two.csv, row 2 (line 3 of the file)");
  EXPECT_EQ(all.place(4), "one.csv, row 1 (line 2 of the file)");
  // Rows keep their places when others are dropped.
  const auto trouble = [](const auto& make) { return testing::said([&] { return make(); }); };
  const Table wrong = parse_table("a,y\nx,2\n", "three.csv");
  EXPECT_THAT(trouble([&] {
                return dataset_from(appended({first, second, wrong}),
                                    {.targets = {"y"}, .missing = Missing::dropped});
              }),
              HasSubstr("three.csv, row 1 (line 2 of the file), column 'a'"));
  EXPECT_THAT(trouble([&] {
                return appended({first, parse_table("a,b\n1,2\n", "b.csv")});
              }),
              HasSubstr("b.csv has other columns than one.csv"));
  EXPECT_THAT(trouble([&] {
                return appended({first, parse_table("a,y,z\n1,2,3\n", "b.csv")});
              }),
              HasSubstr("other columns"));
  const Table twice = parse_table("a,a\n1,2\n", "a.csv");
  EXPECT_THAT(appended({twice, twice}).rows[1], ElementsAre("1", "2"));
  EXPECT_THAT(trouble([&] {
                return appended({twice, first});
              }),
              HasSubstr("2 columns are called 'a'"));
  EXPECT_THAT(trouble([&] { return appended({}); }), HasSubstr("no table"));
  const Table by_hand{.name = "mine", .header = {"a", "y"}, .rows = {{"1", "2"}}};
  EXPECT_EQ(appended({by_hand, first}).place(0), "mine, row 1");
}

TEST(table, reads_new_records_as_the_old_ones_were_read) {
  const Dataset data = read(pots, {.targets = {"kind"}}).data;
  const auto asked = [&](const std::string& text) {
    return features_from(parse_table(text, "new.csv"), data.columns);
  };
  EXPECT_THAT(asked("wall,clay,note\n9,red,fine\n").numbers(), ElementsAre(0, 1, 0, 9));
  const auto trouble = [&](const std::string& text) {
    return testing::said([&] { return asked(text); });
  };
  EXPECT_THAT(trouble("wall\n9\n"), HasSubstr("a feature is missing: clay"));
  EXPECT_THAT(trouble("wall,clay\n9,blue\n"), HasSubstr("'blue' was never seen in this column"));
  EXPECT_THAT(trouble("wall,clay\n9,whit\n"), HasSubstr("did you mean white?"));
  EXPECT_THAT(trouble("wall,clay\nthick,red\n"), HasSubstr("'thick' cannot be used as a number"));
  EXPECT_THAT(trouble("wall,clay\n,red\n"), HasSubstr("a value is missing"));
}

TEST(row_weights, come_from_a_column_of_a_table) {
  const Table table = parse_table("a,b,often\n1,2,1\n2,1,0.5\n3,5,0\n", "pots.csv");
  const Dataset data = dataset_from(table, {.targets = {"b"}, .weights = "often"}).data;
  EXPECT_EQ(data.feature_names, std::vector<std::string>{"a"});
  EXPECT_EQ(data.row_weight(1), 0.5);
  EXPECT_EQ(
      dataset_from(parse_table(to_csv(data), ""), {.targets = {"b"}, .weights = "row_weights"})
          .data.row_weight(1),
      0.5);
  const auto said = [&](const ColumnChoice& choice, const std::string& rows = "") {
    return testing::said([&] {
      return dataset_from(rows.empty() ? table : parse_table("a,b,often\n" + rows, "pots.csv"),
                          choice);
    });
  };
  EXPECT_THAT(said({.targets = {"b"}, .weights = "oftn"}), HasSubstr("oftn"));
  EXPECT_THAT(said({.targets = {"b"}, .weights = "b"}), HasSubstr("the target"));
  EXPECT_THAT(said({.targets = {"b"}, .features = {"often"}, .weights = "often"}),
              HasSubstr("a feature at once"));
  EXPECT_THAT(said({.targets = {"b"}, .weights = "often"}, "1,2,1\n2,1,-1\n"), HasSubstr("row 2"));
  EXPECT_THAT(said({.targets = {"b"}, .weights = "often"}, "1,2,0\n2,1,0\n"),
              HasSubstr("no row counts"));
  EXPECT_THAT(said({.targets = {"b"}, .weights = "often"}, "1,2,much\n2,1,1\n3,3,1\n"),
              HasSubstr("much"));
}

}  // namespace
}  // namespace lattice
