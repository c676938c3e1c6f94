#include <gtest/gtest.h>

#include <algorithm>
#include <numeric>

#include "lattice/files/csv.hpp"
#include "lattice/graphs/around/edges.hpp"
#include "lattice/lattice.hpp"
#include "lattice/pictures/around/reading.hpp"
#include "support/process.hpp"

namespace lattice {
namespace {

std::vector<std::int64_t> numbers_to(std::int64_t count) {
  std::vector<std::int64_t> numbers(static_cast<std::size_t>(count));
  std::iota(numbers.begin(), numbers.end(), std::int64_t{0});
  return numbers;
}

/// The pictures class after class, as folders hold them.
Tensor by_class(const Dataset& data) {
  std::vector<std::int64_t> rows = numbers_to(data.rows());
  std::ranges::stable_sort(rows, {}, [&](std::int64_t row) { return data.classes.at({row}); });
  return data.features.rows(rows);
}

TEST(demo_sets, are_the_copies_in_the_demo_folder) {
  for (const DemoSet& set : demo_sets()) {
    const Dataset made = demo_set(set.name);
    EXPECT_EQ(made.rows(), set.usual_rows);
    if (!made.is_table() || made.is_connected()) continue;
    const std::string path = std::string(LATTICE_SOURCE "/demo/data/") + set.name + ".csv";
    EXPECT_EQ(to_csv(made), testing::content_of(path));
    const Dataset read = read_csv(path, {.targets = made.target_names});
    EXPECT_EQ(read.features, made.features);
    EXPECT_EQ(read.targets, made.targets);
    EXPECT_EQ(read.classes, made.classes);
    EXPECT_EQ(read.class_names, made.class_names);
  }
  const Dataset studios = demo_set("studios");
  const std::string folder = LATTICE_SOURCE "/demo/data/";
  EXPECT_EQ(to_csv(studios), testing::content_of(folder + "studios.csv"));
  EXPECT_EQ(to_csv(edges_table(studios)), testing::content_of(folder + "studios_edges.csv"));
  for (const std::string name : {"stamps", "tiles"}) {
    const DemoSet& set = demo_set_called(name);
    const Dataset made = demo_set(name, set.copied_rows, set.usual_seed);
    EXPECT_EQ(demo_set(name).features.taking(numbers_to(set.copied_rows)), made.features);
    const Dataset read =
        read_pictures({.places = {{.path = LATTICE_SOURCE "/demo/data/" + name}}}).data;
    EXPECT_EQ(read.class_names, made.class_names);
    if (name == "tiles") {
      EXPECT_EQ(by_class(read), by_class(made));
    } else {
      EXPECT_EQ(read.features, made.features);
      EXPECT_EQ(read.classes, made.classes);
    }
  }
}

TEST(demo_sets, have_a_copy_that_is_sorted_by_class) {
  const Dataset glazes = demo_set("glazes");
  const Dataset sorted =
      read_csv(LATTICE_SOURCE "/demo/data/glazes_sorted.csv", {.targets = {"glaze"}});
  EXPECT_EQ(sorted.rows(), glazes.rows());
  EXPECT_TRUE(std::ranges::is_sorted(sorted.classes.numbers()));
  EXPECT_NEAR(sum(sorted.features).number(), sum(glazes.features).number(), 1e-6);
}

}  // namespace
}  // namespace lattice
