#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/core.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using testing::said;

Dataset pots(const Tensor& features, const Tensor& classes, std::vector<std::string> names) {
  return dataset_of_classes(features, classes, {.name = "pots", .classes = std::move(names)});
}

TEST(appended, are_datasets_whose_classes_are_matched_by_name) {
  const Dataset first = pots(tensor({{1, 2}, {3, 4}}), tensor({0, 1}), {"bowl", "jug"});
  const Dataset second = pots(tensor({{5, 6}, {7, 8}}), tensor({0, 1}), {"jug", "lid"});
  const Dataset both = appended(first, second);
  EXPECT_EQ(both.features.all(),
            tensor({{1, 2}, {3, 4}, {5, 6}, {7, 8}}).with({Role::example, Role::feature}));
  EXPECT_THAT(both.class_names, ElementsAre("bowl", "jug", "lid"));
  EXPECT_THAT(both.classes.numbers(), ElementsAre(0, 1, 1, 2));
}

TEST(appended, keep_what_is_said_of_their_rows) {
  Dataset first = dataset_of_numbers(tensor({{1}, {2}}), tensor({3, 4}));
  Dataset second = dataset_of_numbers(tensor({{5}, {6}, {7}}), tensor({8, 9, 10}));
  first.row_names = {"a", "b"};
  second.known = {0, 2};
  second.unlabelled = {1};
  second.fixed_parts = {{.part = DataPart::test, .name = "june", .rows = {2}}};
  const Dataset both = appended(first, second.with_row_weights(tensor({1, 0.5, 2})));
  EXPECT_THAT(both.targets.numbers(), ElementsAre(3, 4, 8, 9, 10));
  EXPECT_THAT(both.row_names, ElementsAre("a", "b", "row 0", "row 1", "row 2"));
  EXPECT_THAT(both.known, ElementsAre(0, 1, 2, 4));
  EXPECT_THAT(both.unlabelled, ElementsAre(3));
  EXPECT_THAT(both.fixed_part(DataPart::test)->rows, ElementsAre(4));
  EXPECT_EQ(both.row_weight(1), 1.0);
  EXPECT_EQ(both.row_weight(4), 2.0);
  Dataset third = second;
  third.fixed_parts = {{.part = DataPart::test, .name = "july", .rows = {0}}};
  EXPECT_THAT(appended(both, third).fixed_part(DataPart::test)->rows, ElementsAre(4, 5));
}

TEST(appended, refuse_what_does_not_fit) {
  const Dataset first = dataset_of_numbers(tensor({{1}}), tensor({2}), {.name = "may"});
  const auto refused = [&](const Dataset& second) {
    return said([&] { (void)appended(first, second); });
  };
  EXPECT_THAT(refused(dataset_of_numbers(tensor({{1, 2}}), tensor({3}), {.name = "june"})),
              HasSubstr("the examples of may and june differ in shape"));
  EXPECT_THAT(refused(dataset_of_numbers(tensor({{1}}), tensor({3}), {.features = {"clay"}})),
              HasSubstr("other features"));
  EXPECT_THAT(refused(pots(tensor({{1}}), tensor({0}), {"bowl"})), HasSubstr("different kinds"));
  EXPECT_THAT(refused(first.prepared_by(fit({{}}, tensor({{1}, {2}})))),
              HasSubstr("scaled already"));
}

TEST(with_part, makes_another_dataset_the_test_part) {
  const Dataset may = pots(tensor({{1}, {2}, {3}, {4}}), tensor({0, 1, 0, 1}), {"bowl", "jug"});
  const Dataset june = pots(tensor({{5}, {6}}), tensor({1, 1}), {"lid", "jug"});
  const Dataset all = with_part(may, DataPart::test, june);
  EXPECT_THAT(all.class_names, ElementsAre("bowl", "jug"));
  Random random(1);
  const Split parts = split(all, {.validation = 0}, random);
  EXPECT_EQ(parts.train.count(), 4);
  EXPECT_THAT(parts.test.rows(), ElementsAre(4, 5));
  EXPECT_THAT(parts.test.classes().numbers(), ElementsAre(1, 1));
  EXPECT_EQ(parts.data().fixed_part(DataPart::test)->name, "pots");

  const Dataset strange = pots(tensor({{5}, {6}}), tensor({1, 0}), {"vase", "jug"});
  EXPECT_THAT(said<NameError>([&] { (void)with_part(may, DataPart::test, strange); }),
              HasSubstr("the class 'vase' is in the test part only"));
  EXPECT_THAT(said<SettingError>([&] { (void)with_part(all, DataPart::test, june); }),
              HasSubstr("a second one"));
  EXPECT_THAT(said<SettingError>([&] { (void)with_part(may, DataPart::train, june); }),
              HasSubstr("the train part"));
}

/// Bytes that are the number of the example.
class Counting final : public ExampleSource {
 public:
  void write(std::int64_t example, std::span<std::uint8_t> to) const override {
    for (std::size_t at = 0; at < to.size(); ++at)
      to[at] = static_cast<std::uint8_t>(10 * example + static_cast<std::int64_t>(at));
  }
  [[nodiscard]] std::uint64_t fingerprint(std::int64_t example) const override {
    return static_cast<std::uint64_t>(example);
  }
};

TEST(examples, are_made_by_a_source_as_if_they_were_in_memory) {
  const Examples made = Examples::made_by(std::make_shared<Counting>(), {3, 2});
  const Examples stored = Examples::of_bytes({3, 2}, {0, 1, 10, 11, 20, 21});
  EXPECT_TRUE(made.are_bytes());
  EXPECT_FALSE(made.empty());
  EXPECT_EQ(made, stored);
  EXPECT_TRUE(made.bytes().empty());
  EXPECT_TRUE(std::ranges::equal(made.in_memory().bytes(), stored.bytes()));
  const std::vector<std::int64_t> rows = {2, 0};
  EXPECT_EQ(made.rows(rows), stored.rows(rows));
  const std::vector<std::int64_t> last = {1};
  EXPECT_EQ(made.taking(rows).taking(last), stored.taking(rows).taking(last));
  EXPECT_EQ(made.at({1, 1}), 11.0);
  EXPECT_THAT(said<IndexError>([&] { (void)made.at_offset(6); }), HasSubstr("0 to 5"));
  EXPECT_EQ(made.in(Precision::single).all().precision(), Precision::single);
  EXPECT_EQ(made.reshaped({3, 1, 2}).all(), stored.all().reshaped({3, 1, 2}));
  for (const auto& [first, second] : {std::pair(made, stored), {stored, made}, {made, made}}) {
    EXPECT_EQ(first.followed_by(second), stored.followed_by(stored));
    EXPECT_NE(first.followed_by(second).source(), nullptr);
  }
  EXPECT_THAT(said<ShapeError>([&] {
                (void)made.followed_by(Examples::of_bytes({1, 3}, {1, 2, 3}));
              }),
              HasSubstr("different shapes"));
}

TEST(examples, of_a_source_have_a_fingerprint_without_being_made) {
  Dataset data{.name = "made",
               .features = Examples::made_by(std::make_shared<Counting>(), {3, 2}),
               .classes = tensor({0, 1, 0})};
  const std::uint64_t whole = fingerprint(data);
  EXPECT_NE(fingerprint_of_row(data, 0), fingerprint_of_row(data, 2));
  EXPECT_NE(fingerprint(data.taking(std::vector<std::int64_t>{2, 1, 0})), whole);
  EXPECT_EQ(fingerprint(data.taking(std::vector<std::int64_t>{0, 1, 2})), whole);
}

}  // namespace
}  // namespace lattice
