#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "lattice/show/data.hpp"
#include "lattice/show/page.hpp"
#include "lattice/show/spreadsheet.hpp"
#include "lattice/show/terminal.hpp"
#include "support/bars.hpp"
#include "support/command.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using testing::bars_in_parts;
using ::testing::HasSubstr;
using testing::net_for;

TEST(pictures, have_every_form_that_a_worked_minibatch_has) {
  const testing::Folder folder;
  const Split bars = bars_in_parts();
  WorkedExample example{.title = "bars", .names = bars.data().axis_names()};
  example.steps.push_back(
      {.work = WorkedMinibatch{net_for(bars.data()),
                               RowSet(bars.data().as_measured(), {0, 1, 2}).all(),
                               Adam{},
                               {.preparation = bars.data().preparation}}});
  const std::string text = show_worked_example(example, {});
  EXPECT_THAT(text, AllOf(HasSubstr("[example 3 × row 4 × column 5 × channel 2]"),
                          HasSubstr("centre2"), HasSubstr("new centred.mean")));
  EXPECT_THAT(text, HasSubstr("centred.mean.next"));
  EXPECT_THAT(show_data(bars.data(), {}), AllOf(HasSubstr("channel 1"), HasSubstr("standing")));
  const std::string html = page(example);
  EXPECT_THAT(html, HasSubstr("centred.mean.next"));
  write_spreadsheet(folder.path() / "bars.xlsx", example);
  EXPECT_GT(std::filesystem::file_size(folder.path() / "bars.xlsx"), 10'000U);
  Json json = to_json(example);
  json["settings"] = {{"version", "0.1.0"}};  // what `lattice work` adds
  const std::string path = folder.file("bars.json", json_text(json));
  const testing::Answer schema = testing::run_program(
      "/usr/bin/python3", {LATTICE_SOURCE "/tests/support/check_schema.py",
                           LATTICE_SOURCE "/docs/schemas/worked_example.schema.json", path});
  EXPECT_EQ(schema.status, 0) << schema.out << schema.err;
}

}  // namespace
}  // namespace lattice
