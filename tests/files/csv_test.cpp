#include "lattice/files/csv.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/text/error.hpp"
#include "support/pictures.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

/// What is wrong with a text, as a reader is told.
std::string trouble_with(const std::string& text, const ColumnChoice& choice = {.targets = {"y"}}) {
  return testing::said([&] { return parse_csv(text, "pots.csv", choice); });
}

TEST(csv, is_read_by_the_names_of_columns) {
  const Dataset data =
      parse_csv("a,y,b\n1,2,3\n4,5,6\n", "pots.csv", {.targets = {"y"}, .features = {"b", "a"}});
  EXPECT_THAT(data.features.numbers(), ElementsAre(3, 1, 6, 4));
  EXPECT_THAT(data.targets.numbers(), ElementsAre(2, 5));
  EXPECT_THAT(data.feature_names, ElementsAre("b", "a"));
  EXPECT_EQ(to_string(data.features.shape()), "[example 2 × feature 2]");
  EXPECT_EQ(to_string(data.targets.shape()), "[example 2 × target 1]");
}

TEST(csv, takes_all_other_columns_when_no_feature_is_named) {
  EXPECT_THAT(parse_csv("a,y,b\n1,2,3\n", "", {.targets = {"y"}}).feature_names,
              ElementsAre("a", "b"));
}

TEST(csv, is_read_however_rfc_4180_allows_it_to_be_written) {
  const Dataset data = parse_csv(
      "\xEF\xBB\xBF\"wall, mm\",\"the \"\"best\"\" one\",note,y\r\n"
      "\"1\",-2.5e1,\"two\r\nrows\",3\r\n"
      "4, 5 ,,\"−6\"",
      "pots.csv", {.targets = {"y"}, .features = {"wall, mm", "the \"best\" one"}});
  EXPECT_THAT(data.features.numbers(), ElementsAre(1, -25, 4, 5));
  EXPECT_THAT(data.targets.numbers(), ElementsAre(3, -6));
}

TEST(csv, says_row_line_and_column_of_what_is_not_a_number) {
  const std::string trouble =
      trouble_with("note,a,y\n\"x\nx\",1,2\nx,wet,4\n", {.targets = {"y"}, .features = {"a"}});
  EXPECT_THAT(trouble, HasSubstr("'wet' cannot be used as a number"));
  EXPECT_THAT(trouble, HasSubstr("pots.csv, row 2 (line 4 of the file), column 'a'"));
  EXPECT_THAT(trouble_with("a,y\n,2\n"), HasSubstr("a value is missing"));
  EXPECT_THAT(trouble_with("a,y\n1,2\nNaN,2\n"), HasSubstr("row 2 (line 3 of the file)"));
  EXPECT_THAT(trouble_with("a,y\n1,-inf\n"), HasSubstr("row 1 (line 2 of the file), column 'y'"));
  EXPECT_THAT(trouble_with("a,y\n1e999,2\n"), HasSubstr("a finite number"));
  EXPECT_THAT(trouble_with("a,y\n1.5,2\n\"1,5\",2\n"),
              HasSubstr("write the decimal sign as a point"));
}

TEST(csv, refuses_what_is_not_a_table) {
  EXPECT_THAT(trouble_with(""), HasSubstr("pots.csv is empty"));
  EXPECT_THAT(trouble_with("\n\n"), HasSubstr("pots.csv is empty"));
  EXPECT_THAT(trouble_with("a,y\n"), HasSubstr("pots.csv has no rows"));
  EXPECT_THAT(trouble_with("a,y\n1,2\n3\n"), HasSubstr("row 2 (line 3 of the file)"));
  EXPECT_THAT(trouble_with("a,y\n1,2,3\n"), HasSubstr("3 fields: 1, 2, 3"));
  EXPECT_THAT(trouble_with("a,y\n\"1,2\n"), HasSubstr("pots.csv is not a CSV file"));
  EXPECT_THAT(trouble_with("a,y\n1\"x,2\n"), HasSubstr("line 2"));
}

TEST(csv, refuses_columns_that_are_not_there) {
  EXPECT_THAT(trouble_with("moisture,shrink\n1,2\n", {.targets = {"shrnk"}}),
              HasSubstr("did you mean shrink?"));
  EXPECT_THAT(trouble_with("a,y\n1,2\n", {.targets = {"y"}, .features = {"q"}}),
              HasSubstr("there is no column 'q'"));
  EXPECT_THAT(trouble_with("a,y\n1,2\n", {.targets = {"y"}, .features = {"y"}}),
              HasSubstr("the target, and is a feature at once"));
  EXPECT_THAT(trouble_with("y\n1\n"), HasSubstr("has no feature column"));
  EXPECT_THAT(trouble_with("a,a,y\n1,2,3\n"), HasSubstr("2 columns are called 'a'"));
  EXPECT_THAT(trouble_with("a,y\n1,2\n", {.targets = {""}}), HasSubstr("which column"));
}

TEST(csv, refuses_files_that_cannot_be_read) {
  EXPECT_THROW(static_cast<void>(read_csv("/no/such/file.csv", {.targets = {"y"}})), FileError);
  EXPECT_THROW(static_cast<void>(read_csv("/tmp", {.targets = {"y"}})), FileError);
  EXPECT_THROW(static_cast<void>(read_csv("/dev/zero", {.targets = {"y"}})), FileError);
}

// What spreadsheets of some machines write: Latin-1, with letters where that has control
// characters.
TEST(csv, knows_the_letters_of_windows_1252) {
  const Table table = parse_table("price \x80,\x93name\x94\n1,\x8Atefan \x96 \x9F\n", "t.csv");
  EXPECT_THAT(table.header, ::testing::ElementsAre("price €", "“name”"));
  EXPECT_EQ(table.rows[0][1], "Štefan – Ÿ");
  // Five of its bytes stand for nothing.
  for (const char* const byte : {"\x81", "\x8D", "\x8F", "\x90", "\x9D"})
    EXPECT_THROW(static_cast<void>(parse_table(std::string("a,b\n1,") + byte + "\n", "t")),
                 FileError);
}

TEST(csv, tells_row_and_column_of_what_is_no_text) {
  const auto said = [](const std::string& text) -> std::string {
    return testing::said<FileError>([&] { return parse_table(text, "t.csv"); });
  };
  EXPECT_THAT(said("a,b\n1,x\n2,y\x1b[31m\n"),
              ::testing::AllOf(::testing::HasSubstr("row 2 (line 3 of the file), column 2"),
                               ::testing::HasSubstr("'y␛[31m', with U+001B as letter 2")));
  EXPECT_THAT(said("a,\ab\n1,x\n"),
              ::testing::HasSubstr("the header (line 1 of the file), column 2"));
  EXPECT_THAT(said("1,2\n3,4\x7f\n"), ::testing::HasSubstr("row 2 (line 2 of the file), column 2"));
  EXPECT_EQ(said("a,\"two\nlines\"\n1,\"x\ty\"\n"), "nothing");
}

TEST(csv, takes_what_is_not_utf_8_for_latin_1) {
  EXPECT_EQ(parse_table("H\xF6he,y\n1,2\n", "").header[0], "Höhe");
  EXPECT_EQ(parse_table("Höhe,y\n1,2\n", "").header[0], "Höhe");
}

TEST(csv, quotes_whatever_would_end_a_field_or_a_row) {
  const Table table{.name = "",
                    .header = {"a\rb", "c\nd", "e,f", "g\"h", "plain"},
                    .rows = {{"1\r", "\n2", ",", "\"", "x"}}};
  const std::string text = to_csv(table);
  EXPECT_THAT(text, ::testing::HasSubstr("\"a\rb\",\"c\nd\",\"e,f\",\"g\"\"h\",plain\r\n"));
  EXPECT_THAT(text, ::testing::HasSubstr("\"1\r\",\"\n2\",\",\",\"\"\"\",x\r\n"));
}

TEST(csv, finds_out_separator_and_header) {
  for (const char* text : {"a;y\n1;2\n", "a\ty\n1\t2\n", "a|y\n1|2\n", "\"a\";y\n\"1\";2\n"})
    EXPECT_THAT(parse_csv(text, "", {.targets = {"y"}}).features.numbers(), ElementsAre(1)) << text;
  const Table bare = parse_table("5.1,3.5,red\n4.9,3.0,blue\n", "");
  EXPECT_THAT(bare.header, ElementsAre("column1", "column2", "column3"));
  EXPECT_EQ(bare.rows.size(), 2U);
  EXPECT_EQ(parse_table("a,b\nx,y\n", "").rows.size(), 1U);
  // A column is of numbers when all rows below say so, not the next one alone.
  EXPECT_EQ(parse_table("x,1\n7,2\ny,3\n", "").rows.size(), 3U);
  EXPECT_EQ(parse_table("x,1\n7,2\n8,3\n", "").rows.size(), 2U);
  EXPECT_EQ(parse_table("a,b\nx,y\n", "", {.header = false}).rows.size(), 2U);
  EXPECT_EQ(parse_table("1,2\n3,4\n", "", {.header = true}).header[1], "2");
  EXPECT_EQ(parse_table("a;b,c\n1;2,3\n", "", {.separator = ';'}).header.size(), 2U);
  EXPECT_THAT(parse_table(" a , y \n1,2\n", "").header, ElementsAre("a", "y"));
}

TEST(csv, is_written_so_that_it_reads_back) {
  const Dataset data{.name = "pots",
                     .features = tensor({{1.0 / 3.0, -2}}),
                     .targets = tensor({{1e-9}}),
                     .feature_names = {"wall, mm", "a \"b\""},
                     .target_names = {"y"}};
  const Dataset back = parse_csv(to_csv(data), "", {.targets = {"y"}});
  EXPECT_EQ(back.features, data.features);
  EXPECT_EQ(back.targets, data.targets);
  EXPECT_EQ(back.feature_names, data.feature_names);
  const Dataset kinds =
      parse_csv("a,y\n1,\"b, c\"\n2,d\n3,d\n4,\"b, c\"\n", "", {.targets = {"y"}});
  EXPECT_EQ(parse_csv(to_csv(kinds), "", {.targets = {"y"}}).classes, kinds.classes);
  EXPECT_THAT(parse_csv_record("a,\"b,c\""), ElementsAre("a", "b,c"));
  EXPECT_THROW(static_cast<void>(parse_csv_record("")), FileError);
}

TEST(csv, writes_words_back_as_words) {
  const std::string text =
      "clay,wall,kind\r\nred,4,bowl\r\nwhite,5.5,jug\r\nred,6,jug\r\n"
      "white,7,bowl\r\n";
  const Dataset data = parse_csv(text, "", {.targets = {"kind"}});
  EXPECT_EQ(to_csv(data), text);
  EXPECT_EQ(to_csv(data.prepared_by(fit({{}}, data.features))), text);
}

TEST(csv, takes_commas_for_decimal_points_where_a_column_has_no_others) {
  const Table table = parse_table("moisture;wall;y\n18,5;3;1\n20;4,25;2\n;-5,0e1;3\n", "pots.csv");
  EXPECT_THAT(table.rows, ElementsAre(ElementsAre("18.5", "3", "1"), ElementsAre("20", "4.25", "2"),
                                      ElementsAre("", "-5.0e1", "3")));
  ASSERT_EQ(table.decimal_commas.size(), 2U);
  EXPECT_EQ(table.decimal_commas[0].column, "moisture");
  EXPECT_EQ(table.decimal_commas[0].as_written, "18,5");
  EXPECT_EQ(table.decimal_commas[1].column, "wall");
  // Of a column that is not used nothing is told.
  EXPECT_EQ(dataset_from(table, {.targets = {"y"}, .features = {"wall"}}).decimal_commas.size(),
            1U);
  // A point, a word, two commas: then it is something else.
  for (const char* field : {"1.5", "wet", "1,2,3", "1.000,5", ",5", "5,", "1,x"}) {
    const Table mixed = parse_table(std::string("a;y\n1,5;1\n") + field + ";2\n", "t");
    EXPECT_THAT(mixed.decimal_commas, IsEmpty()) << field;
    EXPECT_EQ(mixed.rows[0][0], "1,5") << field;
  }
}

TEST(csv, finds_the_sign_between_fields_that_have_commas_in_them) {
  EXPECT_THAT(parse_table("1,5;2,5;3,5\n4,5;5,5;6,5\n", "").rows[0],
              ElementsAre("1.5", "2.5", "3.5"));
  EXPECT_EQ(parse_table("1,5\t2,5\n4,5\t5,5\n", "").header.size(), 2U);
  EXPECT_EQ(parse_table("1,5,2\n4,5,6\n", "").header.size(), 3U);
  EXPECT_EQ(parse_table("a,b\n\"1,5\",2\n", "").rows[0][0], "1.5");
}

TEST(records, are_read_as_a_table_is) {
  const Table table = parse_table(
      R"([{"hours": 30, "state": "sound"}, {"state": "cracked", "hours": 1.25e1, "kiln": true},
          {"hours": null, "kiln": false, "state": "sound"}])",
      "pots.json");
  EXPECT_THAT(table.header, ElementsAre("hours", "state", "kiln"));
  EXPECT_THAT(table.rows,
              ElementsAre(ElementsAre("30", "sound", ""), ElementsAre("12.5", "cracked", "true"),
                          ElementsAre("", "sound", "false")));
  EXPECT_EQ(table.place(2), "pots.json, row 3");
  // A list of objects is told by what it is, JSON by its name.
  EXPECT_EQ(parse_table(" [\n {\"a\": 1, \"y\": 2}]", "pots").header.size(), 2U);
  EXPECT_EQ(parse_table("[a],y\n1,2\n", "pots").header[0], "[a]");
  const Dataset data =
      parse_csv(R"([{"a": 1, "y": 0.5}, {"a": 2, "y": 1.5}])", "j", {.targets = {"y"}});
  EXPECT_THAT(data.features.numbers(), ElementsAre(1, 2));
}

TEST(records, have_columns_in_the_order_in_which_they_are_met) {
  const Table table = parse_table(
      R"([{"b": 1, "a": 2}, {"a": 3, "b": 4}, {"c": 5, "b": 6}, {}, {"b": 7, "a": 8, "c": 9}])",
      "pots.json");
  EXPECT_THAT(table.header, ElementsAre("b", "a", "c"));
  EXPECT_THAT(table.rows, ElementsAre(ElementsAre("1", "2", ""), ElementsAre("4", "3", ""),
                                      ElementsAre("6", "", "5"), ElementsAre("", "", ""),
                                      ElementsAre("7", "8", "9")));
}

TEST(records, may_be_the_only_list_of_objects_under_a_key) {
  const Table table = parse_table(
      R"({"made": "in May", "units": ["cm"], "pots": [{"a": 1, "y": 2}, {"a": 3, "y": 4}]})",
      "pots.json");
  EXPECT_THAT(table.header, ElementsAre("a", "y"));
  EXPECT_EQ(table.rows.size(), 2U);
  EXPECT_THAT(testing::said<FileError>([] {
                return parse_table(R"({"bowls": [{"a": 1}], "jugs": [{"a": 2}]})", "pots.json");
              }),
              HasSubstr("lists of objects under bowls, jugs"));
}

TEST(records, are_refused_with_the_place_of_what_is_wrong) {
  const auto trouble = [](const char* text) {
    return testing::said<FileError>([&] { return parse_table(text, "pots.json"); });
  };
  EXPECT_THAT(trouble("{\"a\": 1}"), AllOf(HasSubstr("does not hold records"),
                                           HasSubstr("one object without a list of objects")));
  EXPECT_THAT(trouble("[]"), HasSubstr("has no records"));
  EXPECT_THAT(trouble("[{}]"), HasSubstr("objects without fields"));
  EXPECT_THAT(trouble("[{\"a\": 1}, 2]"), HasSubstr("row 2"));
  EXPECT_THAT(trouble("[{\"a\": 1}, [2]]"), HasSubstr("a list"));
  EXPECT_THAT(trouble("[{\"a\": [1]}]"), HasSubstr("row 1, column 'a'"));
  EXPECT_THAT(trouble("[{\"a\": {\"b\": 1}}]"), HasSubstr("an object"));
  EXPECT_THAT(trouble("[{\"a\": \"x\\u0007\"}]"), HasSubstr("a field that cannot be used"));
  EXPECT_THAT(trouble("[{\"a\\u0007\": 1}]"), HasSubstr("a field that cannot be used"));
  EXPECT_THAT(trouble("[{\"a\": 1}"), HasSubstr("is not JSON"));
}

TEST(csv, reads_the_list_of_a_json_file_that_is_asked_for) {
  const std::string text =
      R"({"kiln": {"readings": [{"a": 1, "y": 2}], "x.y": [{"b": 3}]}, "more": [{"a": 4}],)"
      R"( "others": [{"a": 5}]})";
  const auto first = [&](const std::string& list) {
    return std::string(parse_table(text, "k.json", {.list = list}).rows.front().front());
  };
  EXPECT_EQ(first("kiln.readings"), "1");
  EXPECT_EQ(first("kiln.x.y"), "3");
  EXPECT_EQ(first("others"), "5");
  EXPECT_EQ(first("kiln.readings").size(), 1U);
  const auto said = [&](const std::string& list) {
    return testing::said([&] { return parse_table(text, "k.json", {.list = list}); });
  };
  EXPECT_THAT(said(""), HasSubstr("lists of objects under more, others"));
  EXPECT_THAT(said("kiln.reading"), HasSubstr("did you mean readings?"));
  EXPECT_THAT(said("kiln.readings.a"), HasSubstr("has no list under 'kiln.readings.a'"));
  EXPECT_THAT(said("kiln"), HasSubstr("lists of objects under readings, x.y"));
  EXPECT_THAT(testing::said([] { return parse_table("a,y\n1,2\n", "k.csv", {.list = "x"}); }),
              HasSubstr("a list 'x' is asked for in a table"));
}

TEST(figures_table, has_epochs_and_steps_in_their_order) {
  RunRecord run{
      .epochs = {{.epoch = 0, .train = Figures{.loss = 2}, .rate = 0.5},
                 {.epoch = 1,
                  .updates = 3,
                  .running = Figures{.loss = 1.5, .accuracy = 0.25},
                  .train = Figures{.loss = 1, .accuracy = 0.75},
                  .validation = Figures{.loss = 4},
                  .rate = 0.5,
                  .learning_seconds = 2.5,
                  .judging_seconds = 0.25}},
      .steps = {{.step = 2,
                 .epoch = 1,
                 .minibatch = {.loss = 7, .accuracy = 1},
                 .running = Figures{.loss = 6.5, .accuracy = 0.5}},
                {.step = 3, .epoch = 1, .minibatch = {.loss = 6}, .watched = Figures{.loss = 5}}}};
  const std::string head =
      "name,step,epoch,rate,minibatch_loss,minibatch_accuracy,running_loss,running_accuracy,"
      "train_loss,train_accuracy,validation_loss,validation_accuracy,learning_seconds,"
      "judging_seconds\r\n";
  // Without a validation part at the start the steps looked at the train part.
  EXPECT_EQ(to_csv(figures_table("=a", run)),
            head +
                "'=a,0,0,0.5,,,,,2,,,,0.000000,0.000000\r\n"
                "'=a,2,1,,7,1,6.5,0.5,,,,,,\r\n'=a,3,1,,6,,,,5,,,,,\r\n"
                "'=a,3,1,0.5,,,1.5,0.25,1,0.75,4,,2.500000,0.250000\r\n");
  // Steps of an epoch that was not judged any more are there, too.
  run.steps.push_back({.step = 5, .epoch = 2, .minibatch = {.loss = 8}});
  run.updates = 5;
  EXPECT_THAT(to_csv(figures_table("a", run)), ::testing::EndsWith("\r\na,5,2,,8,,,,,,,,,\r\n"));
  run.epochs[0].validation = Figures{.loss = 9};
  EXPECT_THAT(to_csv(figures_table("b", run)), HasSubstr("b,3,1,,6,,,,,,5,,,\r\n"));
}

TEST(figures_table, has_confusion_matrices_where_they_were_recorded) {
  Figures figures{.loss = 1, .accuracy = 0.75};
  figures.confusion = tensor({{3, 1}, {0, 0}});
  const RunRecord run{.epochs = {{.epoch = 0, .train = Figures{.loss = 2}},
                                 {.epoch = 1, .updates = 2, .train = figures}},
                      .steps = {{.step = 1, .epoch = 1, .watched = figures}}};
  const Table table = figures_table("a", run, {"bowl", "jug"});
  EXPECT_THAT(table.header,
              ::testing::IsSupersetOf({"recall bowl", "recall jug", "bowl as jug", "jug as jug"}));
  for (const FieldRows::Row row : table.rows)
    EXPECT_EQ(row.size(), table.header.size());
  const auto last = [&](std::size_t row) {
    return std::vector<std::string>(table.rows[row].end() - 6, table.rows[row].end());
  };
  EXPECT_THAT(last(0), ::testing::Each(""));
  // A class without rows has no recall.
  EXPECT_THAT(last(1), ::testing::ElementsAre("0.75", "", "3", "1", "0", "0"));
  EXPECT_EQ(last(1), last(2));
}

// Whatever fields hold, what was written is what is read.
TEST(csv, reads_back_any_fields_it_wrote) {
  Random random(8);
  const std::vector<std::string> pieces = {"a", "\"", ",", ";", "\n", "\r\n", " ", "é", "7", "|"};
  for (int trial = 0; trial < 200; ++trial) {
    Table table{.name = "any", .header = {}, .rows = {}};
    const std::int64_t columns = 1 + random.below(5);
    for (std::int64_t column = 0; column < columns; ++column)
      table.header.push_back("column" + std::to_string(column));
    for (std::int64_t row = 1 + random.below(6); row > 0; --row) {
      std::vector<std::string> fields;
      for (std::int64_t column = 0; column < columns; ++column) {
        // A field that is never empty: a row of one empty field is an empty line.
        std::string field = "x";
        for (std::int64_t length = random.below(6); length > 0; --length)
          field += pieces[static_cast<std::size_t>(random.below(std::ssize(pieces)))];
        fields.push_back(field + "y");
      }
      table.rows.push_back(fields);
    }
    const Table back = parse_table(to_csv(table), "any", {.separator = ',', .header = true});
    EXPECT_EQ(back.header, table.header);
    EXPECT_EQ(back.rows, table.rows);
  }
}

TEST(csv, holds_no_pictures) {
  EXPECT_THROW(static_cast<void>(to_csv(testing::bars(4))), SettingError);
}

}  // namespace
}  // namespace lattice
