#include "lattice/show/charts.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cmath>

#include "lattice/lattice.hpp"
#include "lattice/lessons/prepare.hpp"
#include "show/plot.hpp"
#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;
using ::testing::StartsWith;

TEST(draw, draws_every_kind_of_chart_as_svg_and_png) {
  const Folder folder;
  const std::string model = folder.path() / "glazes.lattice";
  const Words glazes = {"glazes", "--net", "dense 8, tanh, dense 4", "--epochs", "3"};
  ASSERT_EQ(lattice(with(with({"train"}, glazes), {"--save", model, "--say", "nothing"})).status,
            0);
  const std::vector<Words> charts = {
      {"curves", model, "kiln"},
      with({"curves"}, glazes),
      {"blocks", model, "glazes", "kiln"},
      {"regions", "cracks", "--net", "dense 3, tanh, dense 2", "--epochs", "2"},
      {"regions", "cracks", "--net", "dense 1", "--epochs", "2", "--part", "test"},
      {"line", "kiln", "--epochs", "3"},
      {"line", "kiln", "--net", "dense 3, tanh, dense 1", "--epochs", "2", "--part", "test"},
      {"weights", model},
      {"weights", model, "--weight", "output.weight", "--lay-out", "2x4"},
      {"confusion", model, "--part", "test"},
      {"function", "tanh", "leaky-relu 0.1", "elu"},
      {"descent", "kiln", "--epochs", "2"},
      with(with({"descent"}, glazes), {"--along", "hidden.weight[0,1]", "output.bias[2]"}),
      {"samples", model, "--part", "validation", "--samples", "5"},
      {"samples", "kiln", "--epochs", "2"},
      {"samples", "glazes", "--step", "3", "--batch", "6"}};
  for (const Words& chart : charts) {
    for (const auto& [ending, start] : {std::pair{".svg", "<?xml"}, {".png", "\x89PNG"}}) {
      const std::string path = (folder.path() / "chart").string() + ending;
      const Answer answer = lattice(with(with({"draw"}, chart), {"--out", path}));
      EXPECT_EQ(answer.status, 0) << ::testing::PrintToString(chart) << answer.err;
      const std::string content = content_of(path);
      EXPECT_THAT(content, StartsWith(start));
      EXPECT_GT(content.size(), 6'000U) << ::testing::PrintToString(chart);
      std::filesystem::remove(path);
    }
  }
}

TEST(draw, has_titles_units_and_names_in_the_picture) {
  const Folder folder;
  const auto svg = [&](const Words& chart) {
    const std::string path = folder.path() / "chart.svg";
    EXPECT_EQ(lattice(with(with({"draw"}, chart), {"--out", path})).status, 0);
    return content_of(path);
  };
  EXPECT_THAT(svg({"regions", "cracks", "--epochs", "1"}),
              AllOf(HasSubstr("thickness (mm)"), HasSubstr("hours (h)"), HasSubstr("cracked"),
                    HasSubstr("before training"), HasSubstr("after 1 epoch")));
  EXPECT_THAT(svg({"confusion", "glazes", "--epochs", "1"}),
              AllOf(HasSubstr("tenmoku"), HasSubstr("truth"), HasSubstr("answer"),
                    HasSubstr("glazes: dense 4: test part")));
  EXPECT_THAT(
      svg({"curves", "glazes", "--epochs", "4", "--schedule", "steps 2 0.5"}),
      AllOf(HasSubstr("validation"), HasSubstr("epoch"), HasSubstr("the rate was changed")));
}

TEST(curves, stand_by_step_where_steps_were_recorded) {
  RunRecord run{
      .epochs = {{.epoch = 0, .train = Figures{.loss = 8}, .validation = Figures{.loss = 9}},
                 {.epoch = 1,
                  .updates = 30,
                  .running = Figures{.loss = 7},
                  .train = Figures{.loss = 5},
                  .validation = Figures{.loss = 6}},
                 {.epoch = 2,
                  .updates = 60,
                  .running = Figures{.loss = 4},
                  .train = Figures{.loss = 2},
                  .validation = Figures{.loss = 3}}},
      .rate_changes = {{.epoch = 2, .before = 0.2, .after = 0.1}}};
  const auto script = [&](const std::vector<NamedRun>& runs) {
    return curves_chart("t", runs).frames().front();
  };
  const std::string by_epoch = script({{"a", run}});
  EXPECT_THAT(by_epoch, AllOf(HasSubstr("loss by epoch"), HasSubstr("\n0 9\n1 6\n2 3\n"),
                              HasSubstr("\n1 7\n2 4\n"), HasSubstr("arrow from 2, graph 0")));
  run.steps = {
      {.step = 20, .epoch = 1, .minibatch = {.loss = 1.5}, .watched = Figures{.loss = 6.5}},
      {.step = 25, .epoch = 1, .minibatch = {.loss = 2.5}},
      {.step = 30, .epoch = 1, .minibatch = {.loss = 3.5}, .watched = Figures{.loss = 6}},
      {.step = 50, .epoch = 2, .minibatch = {.loss = 4.5}, .watched = Figures{.loss = 3.5}}};
  const std::string by_step = script({{"a", run}});
  EXPECT_THAT(by_step, AllOf(HasSubstr("loss by step"), HasSubstr("xlabel 'step'"),
                             HasSubstr("\n0 9\n20 6.5\n30 6\n50 3.5\n60 3\n"),
                             HasSubstr("\n20 1.5\n25 2.5\n30 3.5\n50 4.5\n"),
                             HasSubstr("\n0 8\n30 5\n60 2\n"), HasSubstr("\n30 7\n60 4\n"),
                             HasSubstr("arrow from 30, graph 0")));
  EXPECT_THAT(script({{"a", run}, {"b", run}}), HasSubstr("loss by epoch"));
  run.steps.push_back(
      {.step = 80, .epoch = 3, .minibatch = {.loss = 5}, .watched = Figures{.loss = 7.25}});
  EXPECT_THAT(script({{"a", run}}), HasSubstr("\n60 3\n80 7.25\n"));
  run.steps.pop_back();
  for (EpochFigures& epoch : run.epochs)
    epoch.validation = std::nullopt;
  EXPECT_THAT(script({{"a", run}}), HasSubstr("\n0 8\n20 6.5\n30 5\n50 3.5\n60 2\n"));
}

TEST(compare, draws_all_runs_over_one_another) {
  const Folder folder;
  const std::string path = folder.path() / "c.svg";
  ASSERT_EQ(
      lattice({"compare", "glazes", "--epochs", "2", "--vary", "rate=0.1,0.01", "--draw", path})
          .status,
      0);
  EXPECT_THAT(content_of(path), AllOf(HasSubstr("rate 0.1<"), HasSubstr("rate 0.01<"),
                                      HasSubstr("validation (train dotted): loss by epoch")));
}

TEST(curves, name_every_run_in_one_legend_and_show_those_that_are_the_same) {
  const auto run_with = [](double loss) {
    return RunRecord{.epochs = {{.epoch = 0, .train = Figures{.loss = 2 * loss, .accuracy = 0.1}},
                                {.epoch = 1, .train = Figures{.loss = loss, .accuracy = 0.5}}}};
  };
  std::vector<NamedRun> runs;
  for (int number = 0; number < 12; ++number)
    runs.emplace_back(fmt::format("run {}", number), run_with(1.0 + number));
  const std::string script =
      curves_chart("t", runs, {{.name = "a potter", .figure = 0.9}}).frames().front();
  for (const NamedRun& run : runs)
    EXPECT_THAT(script, HasSubstr(plot::in_legend(run.first)));
  // The second plot has none, and the first names what only the second one shows.
  EXPECT_THAT(script, AllOf(HasSubstr("unset key"), HasSubstr("maxrows 4"),
                            HasSubstr("NaN with lines"), HasSubstr("train loss by epoch")));
  // Beyond the colours there are, points tell curves apart.
  EXPECT_THAT(script, HasSubstr("linespoints pt 6"));
  // Names that are shortened to the same get numbers.
  const std::string left(60, 'a');
  const std::string alike =
      curves_chart("t", {{left + "x" + left, run_with(1)}, {left + "y" + left, run_with(2)}})
          .frames()
          .front();
  EXPECT_THAT(alike,
              AllOf(HasSubstr("title " + plot::quoted("1: " + left.substr(0, 5)).substr(0, 9)),
                    HasSubstr("title " + plot::quoted("2: " + left.substr(0, 5)).substr(0, 9))));
  // A curve under another one is wider.
  const std::string same =
      curves_chart("t", {{"a", run_with(1)}, {"b", run_with(1)}}).frames().front();
  EXPECT_THAT(same, AllOf(HasSubstr("lw 5.5 title"), HasSubstr("lw 2.5 title")));
}

TEST(samples, shorten_names_and_titles_to_the_room_of_a_panel) {
  const Folder folder;
  std::string text = "a_rather_long_name_of_column_0,a_rather_long_name_of_column_1,kind\n";
  for (int row = 0; row < 40; ++row) {
    text +=
        fmt::format("{},{},a very long name of a kind of pot number {}\n", row, row % 7, row % 2);
  }
  const std::string table = folder.file("pots.csv", text);
  const std::string chart = folder.path() / "s.svg";
  ASSERT_EQ(lattice({"draw", "samples", "--file", table, "--target", "kind", "--epochs", "1",
                     "--samples", "12", "--out", chart})
                .status,
            0);
  const std::string drawn = content_of(chart);
  EXPECT_THAT(drawn, AllOf(Not(HasSubstr("a_rather_long_name_of_column")),
                           Not(HasSubstr("a very long name of a kind of pot")), HasSubstr("…")));
}

TEST(functions, fill_the_axes_and_show_curves_that_are_the_same) {
  Worksheet unused;
  const auto relu_curve = curve([](const Line& x) { return relu(x); }, 0.5, 2.5, 5);
  const auto tanh_curve = curve([](const Line& x) { return tanh(x); }, 0.5, 2.5, 5);
  const std::string script =
      function_chart({{"relu", relu_curve}, {"tanh", tanh_curve}, {"again", relu_curve}}, "t",
                     std::nullopt)
          .frames()
          .front();
  EXPECT_THAT(script, AllOf(HasSubstr("set xrange [0.5:2.5]"), HasSubstr("lw 5.8 lc rgb"),
                            HasSubstr("lw 2.8 lc rgb"), Not(HasSubstr("set offsets"))));
  const std::size_t range = script.find("set yrange [");
  ASSERT_NE(range, std::string::npos);
  double low = 0.0;
  double high = 0.0;
  ASSERT_EQ(std::sscanf(script.c_str() + range, "set yrange [%lf:%lf]", &low, &high), 2);
  // From the slope of tanh at 2.5 to relu there, and a twentieth more.
  const double least = 1.0 - std::tanh(2.5) * std::tanh(2.5);
  EXPECT_NEAR(low, least - 0.05 * (2.5 - least), 1e-9);
  EXPECT_NEAR(high, 2.5 + 0.05 * (2.5 - least), 1e-9);
  const Json json = json_of(lattice({"draw", "function", "relu", "--across", "-1,1", "--out",
                                     (Folder().path() / "f.svg").string(), "--json"}));
  EXPECT_EQ(json["curves"][0]["name"], "relu");
  EXPECT_EQ(json["curves"][0]["x"].size(), 401U);
  EXPECT_EQ(json["curves"][0]["value"][400], 1.0);
  EXPECT_EQ(json["curves"][0]["derivative"][0], 0.0);
}

TEST(draw, moves_where_time_is_the_subject) {
  const Folder folder;
  const std::string path = folder.path() / "r.gif";
  const Answer answer = lattice({"draw", "regions", "cracks", "--net", "dense 3, tanh, dense 2",
                                 "--epochs", "2", "--frames", "7", "--out", path});
  ASSERT_EQ(answer.status, 0) << answer.err;
  const std::string gif = content_of(path);
  EXPECT_THAT(gif, StartsWith("GIF89a"));
  // Each frame has a graphic control block of its own.
  std::size_t frames = 0;
  const std::string block("\x21\xF9\x04", 3);
  for (std::size_t at = gif.find(block); at != std::string::npos; at = gif.find(block, at + 1))
    ++frames;
  EXPECT_EQ(frames, 7U);
}

TEST(draw, refuses_what_cannot_be_drawn_with_a_word_that_teaches) {
  const Folder folder;
  const std::string out = folder.path() / "c.svg";
  const std::vector<std::pair<Words, const char*>> refusals = {
      {{"regions", "glazes", "--epochs", "1", "--out", out}, "two features"},
      {{"line", "glazes", "--epochs", "1", "--out", out}, "one feature"},
      {{"confusion", "kiln", "--epochs", "1", "--out", out}, "which has a numeric target"},
      {{"function", "dense 3", "--out", out}, "a layer with weights"},
      {{"function", "tanh", "--across", "2,1", "--out", out}, "the low end"},
      {{"function", "tanh", "--across", "2", "--out", out}, "such as 0,2.5"},
      {{"function", "tanh", "--across", "2,3,4", "--out", out}, "such as 0,2.5"},
      {{"function", "tanh", "--size", "900", "--out", out}, "such as 900x600"},
      {{"function", "tanh", "--size", "900x100", "--out", out}, "200 to 4000"},
      {{"confusion", "glazes", "--across", "0,1", "--out", out}, "unknown argument"},
      {{"weights", "glazes", "--epochs", "1", "--lay-out", "3x3", "--out", out},
       "rows × columns × channels = 5"},
      {{"weights", "glazes", "--epochs", "1", "--lay-out", "five", "--out", out}, "28x28"},
      {{"weights", "glazes", "--epochs", "1", "--weight", "hiden.weight", "--out", out}, "hiden"},
      {{"curves", "kiln", "--epochs", "1", "--part", "all", "--out", out}, "unknown argument"},
      {{"samples", "kiln", "--epochs", "1", "--part", "tset", "--out", out}, "test"},
      {{"curves", "kiln", "--epochs", "1", "--out", folder.path() / "c.bmp"}, ".svg, .png or .gif"},
      {{"curves", "nosuch", "--out", out}, "no demo set"},
      {{"curves", "nosuch.lattice", "--out", out}, "cannot read nosuch.lattice"}};
  for (const auto& [words, text] : refusals) {
    const Answer answer = lattice(with({"draw"}, words));
    EXPECT_EQ(answer.status, 2) << ::testing::PrintToString(words) << answer.out;
    EXPECT_THAT(answer.err, HasSubstr(text));
    EXPECT_FALSE(std::filesystem::exists(out));
  }
}

TEST(draw, has_the_size_the_axes_and_the_title_that_are_asked_for) {
  const Folder folder;
  const auto svg = [&](const Words& chart) {
    const std::string path = folder.path() / "chart.svg";
    EXPECT_EQ(lattice(with(with({"draw"}, chart), {"--out", path})).status, 0);
    std::string content = content_of(path);
    // Numbers at axes are filled up with blanks.
    for (std::size_t at = content.find("> "); at != std::string::npos; at = content.find("> ", at))
      content.erase(at + 1, 1);
    return content;
  };
  EXPECT_THAT(svg({"function", "tanh", "--across", "-2,2", "--up", "-1,3", "--title",
                   "one of <them>", "--size", "700x400"}),
              AllOf(HasSubstr("viewBox=\"0 0 700 400\""), HasSubstr("one of &lt;them>"),
                    HasSubstr(">2<"), HasSubstr(">3<"), Not(HasSubstr(">4<"))));
  EXPECT_THAT(
      svg({"curves", "glazes", "--epochs", "3", "--title", "of today", "--across", "1,3", "--up",
           "0,7", "--up-accuracy", "0.5,0.9"}),
      AllOf(HasSubstr("of today"), HasSubstr(">7<"), HasSubstr(">0.9<"), Not(HasSubstr(">0.95<"))));
  EXPECT_THAT(svg({"line", "kiln", "--epochs", "2", "--across", "2,17", "--up", "0,2000"}),
              AllOf(HasSubstr(">16<"), HasSubstr(">2000<")));
  EXPECT_THAT(svg({"descent", "kiln", "--epochs", "2", "--across", "-3,4", "--up", "-5,6"}),
              AllOf(HasSubstr(">4<"), HasSubstr(">6<")));
  // Rows beside the plane that is shown are neither drawn nor counted.
  const std::string part = svg(
      {"regions", "cracks", "--rows", "200", "--epochs", "1", "--across", "4,8", "--up", "20,60"});
  const Prepared prepared = prepare({.data = {.set = "cracks", .rows = 200}});
  const Dataset rows = prepared.data().taking(prepared.split.train.rows());
  std::int64_t count = 0;
  for (std::int64_t row = 0; row < rows.rows(); ++row) {
    const double thickness = rows.features.at({row, 0});
    const double hours = rows.features.at({row, 1});
    count += thickness >= 4.0 && thickness <= 8.0 && hours >= 20.0 && hours <= 60.0 ? 1 : 0;
  }
  ASSERT_GT(count, 10);
  EXPECT_THAT(part, HasSubstr(fmt::format(" of {} wrong", count)));
}

TEST(blocks, show_parts_shapes_counts_and_ways_past) {
  const auto script = [](const std::vector<NamedPlan>& networks) {
    return blocks_chart(networks).frames().front();
  };
  const auto text = [](const std::string& words) { return plot::quoted(words); };
  const Plan plain = Network(Shape{5}, "dense 8, tanh, dense 4", Random(1)).plan();
  const std::string one = script({{"a", plain}});
  EXPECT_THAT(one,
              AllOf(HasSubstr(text("hidden")), HasSubstr(text("dense 8")),
                    HasSubstr(text("5·8 + 8 = 48")), HasSubstr(text("[unit 8]")),
                    HasSubstr(text("[feature 5]")), HasSubstr("\\070\\064 numbers are trained")));
  EXPECT_THAT(one, AllOf(Not(HasSubstr(text("+"))), HasSubstr("NaN NaN")));
  const Plan residual =
      Network(Shape{5}, "residual(dense 8 without bias, residual(tanh), dense 5)", Random(1))
          .plan();
  const std::string both = script({{"a", plain}, {"b", residual}});
  const auto count = [&](const std::string& part) {
    std::size_t found = 0;
    for (std::size_t at = both.find(part); at != std::string::npos; at = both.find(part, at + 1))
      ++found;
    return found;
  };
  EXPECT_EQ(count(" " + text("+") + " "), 2U);
  EXPECT_EQ(count(text("40")), 0U);
  EXPECT_EQ(count(text("5·8 = 40")), 1U);
  EXPECT_EQ(count(text("85 trained")), 1U);
  // Each skip connection leaves in the middle of its column, the second one, and comes back below.
  EXPECT_EQ(count("\n15 "), 2U);
  EXPECT_THAT(both, HasSubstr("set xrange [0:20]"));
  // A layer named after its kind says it once.
  EXPECT_EQ(count(" " + text("tanh") + " "), 2U);
  const Plan deep = plan(
      Shape{8}, parse_blueprint("9 times (dense 8), residual(dense 4) with projection dense 4"));
  EXPECT_THAT(script({{"deep", deep}}),
              AllOf(HasSubstr(text("block2 to block9")), HasSubstr(text("8 times like block")),
                    HasSubstr(text("8·72 = 576")), Not(HasSubstr(text("block3"))),
                    HasSubstr(text("dense 4, 8·4 + 4 = 36"))));
  // In a narrow card what is long is shortened, and the result of a sum goes before the sum.
  const Plan narrow =
      plan(Shape{1000}, parse_blueprint("residual(residual(residual(residual(residual(dense 1000 "
                                        "start normal 0.125 bias start normal 0.0625)))))"));
  EXPECT_THAT(
      script({{"narrow", narrow}}),
      AllOf(Not(HasSubstr(text("1000·1000 + 1000 = 1001000"))), HasSubstr(text("1001000")),
            Not(HasSubstr(text("dense 1000 start normal 0.125 bias start normal 0.0625")))));
}

// What a model has learnt stays as it is; what is said above it may be another.
TEST(draw, takes_of_a_model_a_title_and_references_and_no_settings_of_a_run) {
  const Folder folder;
  const std::string model = folder.path() / "glazes.lattice";
  const std::string path = folder.path() / "chart.svg";
  ASSERT_EQ(lattice({"train", "glazes", "--epochs", "2", "--save", model}).status, 0);
  const Answer told = lattice({"draw", "curves", model, "--title", "of old", "--reference",
                               "a potter = 0.97", "--out", path});
  ASSERT_EQ(told.status, 0) << told.err;
  EXPECT_THAT(content_of(path), AllOf(HasSubstr("of old"), HasSubstr("a potter")));
  std::filesystem::remove(path);
  const Answer refused = lattice({"draw", "curves", model, "--epochs", "3", "--out", path});
  EXPECT_EQ(refused.status, 2);
  EXPECT_THAT(refused.err, HasSubstr("--epochs is for a lesson"));
  EXPECT_FALSE(std::filesystem::exists(path));
  EXPECT_EQ(lattice({"draw", "curves", model, "glazes", "--epochs", "3", "--out", path}).status, 0);
}

TEST(ask, draws_its_answers) {
  const Folder folder;
  const std::string model = folder.path() / "glazes.lattice";
  const std::string path = folder.path() / "answers.svg";
  ASSERT_EQ(lattice({"train", "glazes", "--epochs", "2", "--save", model}).status, 0);
  const std::string table = folder.path() / "more.csv";
  ASSERT_EQ(lattice({"data", "glazes", "--rows", "30", "--csv", table}).status, 0);
  ASSERT_EQ(lattice({"ask", model, "--file", table, "--draw", path, "--json"}).status, 0);
  EXPECT_THAT(content_of(path), AllOf(HasSubstr("the first 24 of 30"), HasSubstr("record 23"),
                                      Not(HasSubstr("record 24")), HasSubstr("tenmoku")));
  const Answer same = lattice({"ask", model, "--file", table, "--draw", table});
  EXPECT_EQ(same.status, 2);
  ASSERT_EQ(lattice({"train", "kiln", "--epochs", "1", "--save", model}).status, 0);
  const Answer numbers = lattice({"ask", model, "--record", "3", "--draw", path});
  EXPECT_EQ(numbers.status, 2);
  EXPECT_THAT(numbers.err, HasSubstr("one that predicts numbers"));
}

// A program that is missing is named, with the package that has it.
TEST(draw, says_which_program_is_missing) {
  const Folder folder;
  const Answer answer =
      run_program("/usr/bin/env", {"PATH=/nowhere", LATTICE_PROGRAM, "draw", "function", "tanh",
                                   "--out", folder.path() / "f.svg"});
  EXPECT_EQ(answer.status, 2);
  EXPECT_THAT(answer.err, HasSubstr("apt-get install gnuplot-nox"));
}

TEST(decision_map, asks_the_model_all_over_the_plane) {
  // Class 1 where the first feature is above 2.
  Network net(Shape{2}, "dense 2", Random(1));
  net.set("output.weight", tensor({{-1, 1}, {0, 0}}));
  net.set("output.bias", tensor({2, -2}));
  Dataset data{.name = "t",
               .features = tensor({{0, 0}, {4, 1}}),
               .classes = tensor({0, 1}),
               .feature_names = {"a", "b"},
               .target_names = {"c"},
               .class_names = {"low", "high"}};
  const Model model = model_of(net, Loss::cross_entropy, data);
  const DecisionMap map = decision_map(model, {0, 4}, {0, 1}, 5);
  EXPECT_EQ(map.classes.shape(), (Shape{5, 5}));
  for (std::int64_t row = 0; row < 5; ++row) {
    EXPECT_EQ(map.classes.at({row, 1}), 0);
    EXPECT_EQ(map.classes.at({row, 3}), 1);
    EXPECT_NEAR(map.probabilities.at({row, 3, 1}), 1.0 / (1.0 + std::exp(-2.0)), 1e-12);
  }
  EXPECT_THROW(static_cast<void>(decision_map(model, {1, 1}, {0, 1}, 5)), SettingError);
}

TEST(descent_path, follows_two_weights_and_the_surface_is_the_loss_there) {
  Random random(2);
  const Split parts = scaled(split(demo_set("kiln", 60, 1), {}, random), ScalingKind::standard,
                             ScalingKind::standard);
  const Network net(Shape{1}, "dense 1", Random(4));
  const TrainSettings settings{.rule = Descent{.rate = 0.1}, .epochs = 2, .batch = 12};
  const Place slope{"output.weight", {0, 0}};
  const Place bias{"output.bias", {0}};
  const DescentPath path = descent_path("a", net, parts, settings, slope, bias);
  Network trained = net;
  const RunRecord run = train(trained, parts, settings);
  ASSERT_EQ(path.across.size(), static_cast<std::size_t>(run.updates) + 1);
  EXPECT_EQ(path.across.front(), net["output.weight"].number());
  EXPECT_EQ(path.across.back(), trained["output.weight"].number());
  EXPECT_EQ(path.up.back(), trained["output.bias"].number());
  const LossSurface surface = loss_surface(net, Loss::half_mean_squared, parts.train, slope, bias,
                                           {path.across.back(), 2}, {path.up.back(), 1}, 4);
  EXPECT_EQ(surface.losses.at({0, 0}), run.epochs.back().train->loss);
}

/// What stands in a block of data of a chart.
std::string block_of(const Chart& chart, const std::string& name) {
  const std::string& script = chart.frames().front();
  const std::string head = "$" + name + " << END_OF_DATA\n";
  const std::size_t from = script.find(head) + head.size();
  return script.substr(from, script.find("END_OF_DATA", from) - from);
}

TEST(samples, stand_in_rows_that_fill_the_picture) {
  std::vector<Sample> samples(7);
  for (Sample& sample : samples)
    sample.features = {1.0, -2.0};
  const std::string script = samples_chart("t", {"a", "b"}, samples).frames().front();
  EXPECT_THAT(script, HasSubstr("set multiplot layout 2,4"));
}

TEST(regions, have_their_border_where_two_classes_are_equally_likely) {
  Dataset data = demo_set("cracks", 4, 1);
  const auto chart = [&](const Tensor& classes, const Tensor& probabilities) {
    return regions_chart("", data,
                         {{"", DecisionMap{.across = tensor({0.0, 1.0}),
                                           .up = tensor({0.0, 2.0}),
                                           .classes = classes,
                                           .probabilities = probabilities}}});
  };
  // The first class is 0.6 ahead on the left and 0.8 behind on the right: 0.6 / 1.4 of the way.
  EXPECT_EQ(block_of(chart(tensor({{0.0, 1.0}, {0.0, 1.0}}),
                           tensor({{{0.8, 0.2}, {0.1, 0.9}}, {{0.8, 0.2}, {0.1, 0.9}}})),
                     "border"),
            fmt::format("{0} 0\n{0} 2\n\n", 0.6000000000000001 / 1.4000000000000001));
  // Three regions: from the middle of their crossings to each of them.
  data.class_names = {"a", "b", "c"};
  const std::string three = block_of(
      chart(tensor({{0.0, 1.0}, {2.0, 2.0}}), tensor({{{0.5, 0.25, 0.25}, {0.25, 0.5, 0.25}},
                                                      {{0.25, 0.25, 0.5}, {0.25, 0.25, 0.5}}})),
      "border");
  EXPECT_EQ(three, fmt::format("0.5 0\n0.5 {0}\n\n1 1\n0.5 {0}\n\n0 1\n0.5 {0}\n\n", 2.0 / 3.0));
  // And where one class wins there is none.
  EXPECT_EQ(
      chart(tensor({{0.0, 0.0}, {0.0, 0.0}}), zeros({2, 2, 3})).frames().front().find("border"),
      std::string::npos);
}

TEST(own_charts, overlay_series_of_numbers) {
  const std::string script =
      series_chart("a % loss", {{"train", {3, 2, std::nan("")}}, {"one", {5}, 10.0}, {"", {1, 2}}},
                   {.across = "epoch", .up = "loss", .up_range = Stretch{0, 6}})
          .frames()
          .front();
  EXPECT_THAT(script, AllOf(HasSubstr("1 3\n2 2\n3 NaN\n"), HasSubstr("10 5\n"),
                            HasSubstr("set xlabel \"epoch\""), HasSubstr("set yrange [0:6]"),
                            HasSubstr("with points pt 7"), HasSubstr("notitle"),
                            Not(HasSubstr("set title \"\""))));
  EXPECT_THROW(static_cast<void>(series_chart("none", {})), SettingError);
  EXPECT_THROW(static_cast<void>(series_chart("none", {{"a", {}}, {"b", {std::nan("")}}})),
               SettingError);
}

TEST(own_charts, draw_points_by_class_under_lines_and_functions) {
  const Tensor points = tensor({{0, 0}, {2, 1}, {4, 8}});
  const PointsView view{.across = "width",
                        .up = "height",
                        .classes = {"vase", "plate"},
                        .functions = {{"square", [](double x) { return x * x; }}},
                        .lines = {{"border", 1, -1, 0}, {"upright", 2, 0, -6}}};
  const std::string script = points_chart("pots", points, tensor({0, 0, 1}), view).frames().front();
  EXPECT_THAT(script, AllOf(HasSubstr("0 0\n2 1\n"), HasSubstr("4 8\n"), HasSubstr("\"vase\""),
                            HasSubstr("set xlabel \"width\""), HasSubstr("\"border\"")));
  // The border runs from corner to corner, the upright line at 3.
  EXPECT_THAT(script, HasSubstr("-0.2 -0.2\n4.2 4.2\n"));
  EXPECT_THAT(script, HasSubstr("3 -0.4\n3 8.4\n"));
  EXPECT_THAT(points_chart("all alike", points, Tensor()).frames().front(), HasSubstr("4 8\n"));
  EXPECT_THAT(points_chart("one", tensor({{1, 1}}), {}).frames().front(),
              HasSubstr("set xrange [0.5:1.5]"));
  const auto drawn = [&](const Tensor& tensor, const PointsView& with) {
    return points_chart("", tensor, {}, with);
  };
  EXPECT_THROW(static_cast<void>(drawn(tensor({{1, 2, 3}}), {})), ShapeError);
  EXPECT_THROW(static_cast<void>(drawn(tensor({{1, std::nan("")}}), {})), SettingError);
  EXPECT_THROW(static_cast<void>(drawn(points, {.lines = {{"", 0, 0, 1}}})), SettingError);
  EXPECT_THROW(static_cast<void>(points_chart("", points, tensor({0, 1}))), ShapeError);
  EXPECT_THROW(static_cast<void>(points_chart("", points, tensor({0, 1, 2}), view)), NumberError);
}

TEST(own_charts, lay_pictures_out_in_a_grid) {
  Random random(1);
  const Folder folder;
  const std::string path = folder.path() / "grid.png";
  pictures_chart("grid", uniform({7, 5, 4}, 0, 1, random)).write(path);
  EXPECT_THAT(content_of(path), StartsWith("\x89PNG"));
  pictures_chart("in colour", uniform({2, 5, 4, 3}, 0, 1, random), {"a", "b"}).write(path);
  EXPECT_GT(content_of(path).size(), 3'000U);
  const auto refused = [](const Tensor& pictures, const Words& captions) {
    EXPECT_THROW(static_cast<void>(pictures_chart("", pictures, captions)), ShapeError);
  };
  refused(zeros({2, 3}), {});
  refused(zeros({2, 3, 3, 2}), {});
  refused(zeros({2, 3, 3}), {"one"});
}

TEST(own_charts, take_whatever_is_in_names) {
  const Folder folder;
  const std::string path = folder.path() / "hostile.svg";
  const std::string hostile =
      "a\"; system(\"touch " + (folder.path() / "hit").string() + "\") #`$(x)\n]]>%d";
  series_chart(hostile, {{hostile, {1, 2}}, {hostile, {2, 1}}}, {.across = hostile, .up = hostile})
      .write(path);
  EXPECT_THAT(content_of(path), StartsWith("<?xml"));
  points_chart(hostile, tensor({{1, 2}, {3, 4}}), tensor({0, 1}),
               {.across = hostile,
                .up = hostile,
                .classes = {hostile, hostile + "2"},
                .functions = {{hostile, [](double) { return std::nan(""); }}},
                .lines = {{hostile, 1, 1, -5}}})
      .write(path);
  EXPECT_THAT(content_of(path), StartsWith("<?xml"));
  pictures_chart(hostile, zeros({2, 3, 3}), {hostile, hostile}).write(path);
  EXPECT_FALSE(std::filesystem::exists(folder.path() / "hit"));
}

}  // namespace
}  // namespace lattice::testing
