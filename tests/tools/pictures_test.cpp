#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <regex>
#include <tuple>

#include "lattice/files/png.hpp"
#include "lattice/lattice.hpp"
#include "support/command.hpp"
#include "support/process.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

const std::string conv = "conv 4 of 3x3, relu, maximum 2, flatten, dense 8";

/// A PNG file of a grey one.
std::string twice_as_large_in_colour(const std::string& path) {
  const Raster small = read_png(path).picture;
  Raster large = changed(small, {.size = PictureSize{2 * small.rows, 2 * small.columns}});
  std::vector<std::uint8_t> colours;
  for (const std::uint8_t grey : large.bytes)
    colours.insert(colours.end(), 3, grey);
  large.channels = 3;
  large.bytes = colours;
  return to_png(large);
}

TEST(pictures, are_looked_at_written_and_read_again) {
  const Folder folder;
  const std::string idx = folder.path() / "stamps";
  const std::string png = folder.path() / "png";
  const std::string npy = folder.path() / "stamps.npy";
  const Answer seen =
      lattice({"data", "stamps", "--rows", "40", "--idx", idx, "--png", png, "--npy", npy});
  EXPECT_EQ(seen.status, 0) << seen.err;
  EXPECT_THAT(seen.out, AllOf(HasSubstr("40 pictures, each [row 12 × column 12 × channel 1]"),
                              HasSubstr("the mean"), HasSubstr("0 anchor"), HasSubstr("%%")));
  const auto digest = [](const std::vector<std::string>& arguments) {
    const Json json = json_of(lattice(with({"data"}, with(arguments, {"--json"}))));
    return std::tuple(json["rows"], json["features"][0]["name"], json["features"][0]["lowest"],
                      json["features"][0]["mean"]);
  };
  const auto made = digest({"stamps", "--rows", "40"});
  EXPECT_EQ(digest({"--file", idx}), made);
  EXPECT_EQ(digest({"--file", png}), made);
  EXPECT_EQ(digest({"--file", npy, "--labels", idx + "/labels.idx.gz"}), made);
  const Answer table = lattice({"data", "stamps", "--csv", folder.path() / "s.csv"});
  EXPECT_EQ(table.status, 2);
  EXPECT_THAT(table.err, HasSubstr("is not a table"));
}

TEST(pictures, are_learnt_from_and_a_model_is_asked_about_others_of_any_size) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  const std::string png = folder.path() / "png";
  ASSERT_EQ(lattice({"data", "stamps", "--rows", "30", "--set-seed", "9", "--png", png}).status, 0);
  ASSERT_EQ(lattice({"train", "stamps", "--rows", "400", "--net", conv, "--rule", "adam", "--rate",
                     "0.01", "--epochs", "12", "--save", model})
                .status,
            0);
  std::string fish;  // any one
  for (const auto& entry : std::filesystem::directory_iterator(png + "/fish"))
    fish = entry.path().string();
  const Json said = json_of(lattice({"ask", model, fish, "--json"}));
  const std::string name = said["answers"][0]["stamp"];
  const Answer shown = lattice({"ask", model, fish});
  // The folder that it is in is the truth.
  EXPECT_THAT(shown.out,
              AllOf(HasSubstr(".png " + name), HasSubstr("\nfish/"), HasSubstr("truth")));
  EXPECT_EQ(said["answers"][0]["truth"]["stamp"], "fish");

  // Twice the size, in colour, is brought to what the model knows.
  const std::string twice = folder.file("large.png", twice_as_large_in_colour(fish));
  const Answer large = lattice({"ask", model, twice, "--json"});
  EXPECT_EQ(large.status, 0) << large.err;
  EXPECT_THAT(
      large.err,
      HasSubstr("[row 24 × column 24 × channel 3] became [row 12 × column 12 × channel 1]"));
  EXPECT_EQ(Json::parse(large.out)["answers"][0]["probabilities"],
            said["answers"][0]["probabilities"]);
  EXPECT_EQ(said["answers"][0]["file"], fish);
  EXPECT_THAT(lattice({"ask", model, twice}).out,
              AllOf(HasSubstr("large.png"), HasSubstr("probability"), Not(HasSubstr("truth"))));
  const Answer many = lattice({"ask", model, png});
  EXPECT_THAT(many.out, AllOf(HasSubstr("share"), HasSubstr("fish/")));
  EXPECT_THAT(many.out, HasSubstr("\nright: "));
  EXPECT_EQ(std::ranges::count(many.out, '\n'), 33);

  const Json judged = json_of(lattice({"assess", model, "--file", png, "--json"}));
  EXPECT_GT(judged["parts"]["png"]["accuracy"], 0.6);
  EXPECT_THAT(lattice({"ask", model}).err, HasSubstr("photo.png"));
  EXPECT_THAT(lattice({"ask", model, "--record", "1,2"}).err, HasSubstr("pictures, or --file"));
  EXPECT_THAT(lattice({"ask", model, model}).err, HasSubstr("no PNG file"));
}

TEST(pictures, of_a_network_are_planned_without_any_data) {
  const Answer plan = lattice({"plan", "--picture", "224x224x3", "--net",
                               "conv 64 of 3x3 keeping size, maximum 2, average all, dense 10"});
  EXPECT_EQ(plan.status, 0);
  EXPECT_THAT(plan.out, AllOf(HasSubstr("86704128"), HasSubstr("kernel 3×3×3×64, bias 64"),
                              HasSubstr("112×112, 64 channels")));
}

TEST(pictures, are_drawn_with_weights_channels_and_what_is_got_wrong) {
  const Folder folder;
  const std::string model = folder.path() / "m.lattice";
  ASSERT_EQ(
      lattice({"train", "stamps", "--rows", "200", "--net", conv, "--epochs", "2", "--save", model})
          .status,
      0);
  const std::string out = folder.path() / "p.svg";
  for (const std::vector<std::string>& kind : std::vector<std::vector<std::string>>{
           {"weights", model},
           {"weights", model, "--weight", "output.weight"},
           {"channels", model, "--row", "3"},
           {"samples", model},
           {"samples", model, "--wrong", "12", "--part", "test"}}) {
    std::vector<std::string> words = kind;
    words.insert(words.begin(), "draw");
    const Answer answer = lattice(with(words, {"--out", out}));
    EXPECT_EQ(answer.status, 0) << answer.err;
    EXPECT_THAT(content_of(out), HasSubstr("<image")) << kind[0];
  }
  EXPECT_THAT(content_of(out), HasSubstr("said "));
  EXPECT_THAT(lattice({"draw", "channels", "glazes", "--epochs", "1", "--out", out}).err,
              HasSubstr("needs a network for pictures"));
}

TEST(why, shows_the_patch_of_a_convolution) {
  const Answer answer = lattice({"why", "conv[0,3,4,1]", "stamps", "--rows", "60", "--net", conv});
  EXPECT_EQ(answer.status, 0);
  EXPECT_THAT(answer.out, AllOf(HasSubstr("x, example 0, channel 0 × conv.kernel"),
                                HasSubstr("rows 3 to 5, columns 4 to 6"), HasSubstr("products")));
}

TEST(pictures, show_flattened_weights_by_pixel_and_answer_for_each) {
  const Words stamps = {"stamps", "--rows", "60", "--net", "flatten, dense 8", "--batch", "2"};
  const auto asked = [&](const Words& words) {
    const Answer answer = lattice(with(words, stamps));
    EXPECT_EQ(answer.status, 0) << answer.err;
    return answer.out;
  };
  const std::string work = asked({"work"});
  EXPECT_THAT(work, AllOf(HasSubstr("weight [unit 144 × class 8]"), HasSubstr("row 11"),
                          HasSubstr("pictures shown)"), HasSubstr("change:")));
  const std::string by_pixel = asked({"why", "output.weight[8,4,fish]", "--gradient"});
  EXPECT_THAT(by_pixel, AllOf(HasSubstr("row 8, column 4, class 2 fish"),
                              HasSubstr("∂output.weight[100,2]")));
  EXPECT_EQ(by_pixel, asked({"why", "output.weight[100,2]", "--gradient"}));
  EXPECT_THAT(lattice(with({"why", "output.weight[12,0,0]"}, stamps)).err,
              HasSubstr("outside [row 12 × column 12 × class 8]"));
}

TEST(pictures, say_which_channel_feeds_which_and_what_was_learnt) {
  const Folder folder;
  const Words net = {"tiles", "--rows", "60", "--net",
                     "conv 4 of 3x3, conv 2 of 3x3 from 0+2 1+3, average all, dense 6"};
  const std::string open = lattice(with({"plan", "--open"}, net)).out;
  EXPECT_THAT(open, AllOf(HasSubstr("conv2: which channel feeds which (×), 4 connections"),
                          HasSubstr("→ 0      ×  ·  ×  ·"), HasSubstr("→ 1      ·  ×  ·  ×")));
  EXPECT_THAT(lattice(with({"plan"}, net)).out, Not(HasSubstr("which channel")));
  const Json plan = json_of(lattice(with({"plan", "--json"}, net)));
  EXPECT_EQ(plan["layers"][1]["weights"]["conv2.kernel"]["connections"].dump(),
            "[[0,0],[2,0],[1,1],[3,1]]");
  const std::string chart = folder.path() / "w.svg";
  const Words draw = with({"draw", "weights"}, net);
  ASSERT_EQ(
      lattice(with(draw, {"--epochs", "1", "--weight", "conv2.kernel", "--out", chart})).status, 0);
  EXPECT_THAT(content_of(chart), AllOf(HasSubstr("channel 2 → 0"), HasSubstr("channel 1 → 1")));
  // Of an untrained network nothing is learnt.
  ASSERT_EQ(lattice(with(draw, {"--epochs", "0", "--learnt", "--out", chart})).status, 0);
  EXPECT_THAT(content_of(chart), HasSubstr("now − start"));
  EXPECT_THAT(content_of(chart), HasSubstr("every number is 0"));
}

TEST(pictures, give_the_same_model_on_one_thread_and_on_two) {
  const Folder folder;
  const auto train = [&](const std::string& threads, const std::string& name) {
    const std::string path = folder.path() / name;
    EXPECT_EQ(run_program("/usr/bin/env",
                          {"OMP_NUM_THREADS=" + threads, LATTICE_PROGRAM, "train", "stamps",
                           "--rows", "500", "--net",
                           "conv 16 of 5x5, relu, maximum 2, conv 16 of 3x3, flatten, dense 8",
                           "--batch", "128", "--epochs", "2", "--save", path})
                  .status,
              0);
    // All but how long it took.
    return std::regex_replace(content_of(path),
                              std::regex("\"([a-z_]*seconds|waited|judged)\": ?[-+.e0-9]+"), "");
  };
  EXPECT_EQ(train("1", "one.lattice"), train("2", "two.lattice"));
}

}  // namespace
}  // namespace lattice::testing
