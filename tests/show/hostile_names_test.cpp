#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "lattice/graphs/around/charts.hpp"
#include "lattice/lattice.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/data.hpp"
#include "lattice/show/graph.hpp"
#include "lattice/show/judgement.hpp"
#include "lattice/show/page.hpp"
#include "lattice/show/remark.hpp"
#include "lattice/show/run.hpp"
#include "lattice/show/spreadsheet.hpp"
#include "lattice/show/terminal.hpp"
#include "lattice/show/watch_page.hpp"
#include "lattice/text/letters.hpp"
#include "support/command.hpp"

namespace lattice::testing {
namespace {

using ::testing::HasSubstr;
using ::testing::Not;

/// A name that runs, steers, opens or ends something wherever it is taken for more than a name.
std::vector<std::string> hostile_names(const std::string& touched) {
  const std::string run = "touch " + touched;
  const std::string escape = "\x1b]0;title\x07\x1b[31m";
  return {"a\\" + std::string(1, '\0') + ",\"; system \"" + run + "\" #",
          "' \nsystem '" + run + "'\n#",
          "'; system '" + run + "' #",
          "\"; system \"" + run + "\" #",
          "`" + run + "`",
          "$(" + run + ")",
          "END_OF_DATA\nsystem '" + run + "'",
          "x ]]> y<![CDATA[ z",
          "\\n\\\\",
          "\\" + std::string("\n!") + run,
          "| " + run,
          "@x $0 %s%n %d {/Symbol x}_{1}^{2}",
          "\"]; x [label=\"\\N\\G\" URL=\"file:///etc/passwd\"",
          "<b onload=\"x\">&lt;</script><script>alert(1)</script>",
          "=cmd|' /C calc'!A0",
          escape,
          "\xC2\x9B"
          "31m \xE2\x80\xAE",
          "\xEF\xBF\xBE",
          "\xff\xC0\xAF\xED\xA0\x80",
          std::string(40'000, 'a'),
          ""};
}

/// Everything that can be given a name, with one.
struct Named {
  explicit Named(const std::string& name_) : name(name_) {
    data = demo_set("cracks", 24, 1);
    data.name = name;
    data.target_names = {name};
    data.feature_names = {name, name + "2"};
    data.feature_units = {name, name};
    data.class_names = {name, "other " + name};
    example.title = name;
    example.about = {name};
    example.names = {
        .features = data.feature_names, .targets = {name}, .classes = data.class_names};
    example.steps.push_back({.work = WorkedMinibatch(network, RowSet(data).all(), Descent{})});
    example.run = run;
    example.references = {{.name = name, .figure = 0.9}};
    example.any_row =
        AnyRow{.rows = data,
               .parts = std::vector<std::string>(24, name),
               .step = {.step = 0,
                        .epoch = 0,
                        .work = work_any_row(model_of(network, Loss::cross_entropy, data),
                                             RowSet(data).from(0, 1))}};
  }

  std::string name;
  Dataset data;
  Random random{1};
  Network network{Shape{2}, "dense 2", random};
  RunRecord run = {.epochs = {{.epoch = 0, .train = Figures{.loss = 1.0, .accuracy = 0.5}},
                              {.epoch = 1, .train = Figures{.loss = 0.5, .accuracy = 0.7}}},
                   .trouble = name};
  WorkedExample example;

  /// What is explained of a line that somebody named so; nothing where no line can be.
  [[nodiscard]] std::string by_hand() const {
    Worksheet sheet;
    try {
      static_cast<void>(sheet.weight(name, tensor({1.0, 2.0})));
    } catch (const NameError&) {
      return "";
    }
    const Line x = sheet.line(1);
    const Line loss = lattice::named("loss", mean(square(x)));
    ReverseSweep sweep(loss);
    while (sweep.next()) {
    }
    return explain(loss, {}).text({}) + explain_gradient(sweep, x, {0}).text({});
  }
};

/// Three nodes, each and all else with a name.
Dataset graph_called(const std::string& name) {
  return graph_of(dataset_of_classes(each_its_own(3), tensor({0, 1, 0}),
                                     {.name = name, .classes = {name, name + "2"}}),
                  {{0, 1}}, {.names = {name, name + "2", name + "3"}, .known = {0}});
}

std::vector<Chart> charts_of(const Named& named) {
  const Model model = model_of(named.network, Loss::cross_entropy, named.data);
  const Stretch stretch = stretch_of(named.data.features, 0);
  const DecisionMap map = decision_map(model, stretch, stretch_of(named.data.features, 1), 12);
  const std::string& name = named.name;
  const Assessment judged = assess(named.network, named.data);
  const Network line(Shape{1}, "dense 1", Random(1));
  const Dataset kiln = demo_set("kiln", 20, 1);
  Random dealing(1);
  const Split parts = scaled(split(kiln, {}, dealing), ScalingKind::standard);
  const Place weight{"output.weight", {0, 0}};
  const Place bias{"output.bias", {0}};
  const DescentPath path = descent_path(name, line, parts, {.epochs = 1, .batch = 4}, weight, bias);
  const Tensor samples = demo_set("stamps", 1, 1).features;
  const std::vector<std::int64_t> first = {0};
  return {
      curves_chart(name, {{name, named.run}}),
      curves_chart(name, {{name, named.run}, {name, named.run}}),
      regions_chart(name, named.data, {{name, map}, {name, map}}),
      weights_chart(name, named.network["output.weight"],
                    {.input_names = named.data.feature_names}),
      weights_chart(name, named.network["output.weight"],
                    {.unit_names = {name, name}, .inputs = Shape{1, 2, 1}}),
      pictures_chart(name, {{.heading = name,
                             .pictures = {{.picture = samples.rows(first).reshaped({12, 12, 1}),
                                           .caption = name,
                                           .answer = name}}}}),
      confusion_chart(name, *judged.classes),
      blocks_chart({{name, named.network.plan()}}),
      layer_flow_chart(
          {{name,
            {{.epoch = 0, .layers = {{.layer = name, .learns = true, .standard_deviation = 1.0}}},
             {.epoch = 3,
              .layers = {{.layer = name,
                          .learns = true,
                          .standard_deviation = 2.0,
                          .gradient_norm = 0.1}}}}}}),
      nodes_chart(name, graph_called(name),
                  {{.title = name,
                    .places = tensor({{0, 0}, {1, 1}, {2, 0}}),
                    .answers = tensor({0, 0, 1})}},
                  {.across_name = name, .up_name = name}),
      answers_chart(name, model, ask(model, named.data.features)),
      function_chart({{name, curve([](const Line& x) { return tanh(x); }, -1.0, 1.0, 11)}}, name),
      samples_chart(name, named.data.feature_names,
                    {{.row = 0, .features = {1.0, -1.0}, .truth = name, .answer = "x"}}),
      descent_chart(name,
                    loss_surface(line, Loss::mean_squared, parts.train, weight, bias, {-1.0, 1.0},
                                 {-1.0, 1.0}),
                    {path}, name, name)};
}

TEST(hostile_names, draw_charts_and_run_nothing) {
  const Folder folder;
  const std::string touched = folder.path() / "touched";
  for (const std::string& name : hostile_names(touched)) {
    if (name.size() > 1000) continue;  // gnuplot takes its time over them
    SCOPED_TRACE(harmless(name));
    for (const Chart& chart : charts_of(Named(name))) {
      const std::filesystem::path path = folder.path() / "chart.svg";
      chart.write(path);
      EXPECT_GT(std::filesystem::file_size(path), 4'000U);
      EXPECT_FALSE(std::filesystem::exists(touched));
      // As a reader of XML sees it: no element, no control character of theirs.
      const std::string svg = content_of(path);
      EXPECT_THAT(svg, Not(HasSubstr("<script")));
      EXPECT_THAT(svg, Not(HasSubstr("\x1b")));
      EXPECT_TRUE(is_utf8(svg));
    }
  }
  EXPECT_FALSE(std::filesystem::exists(touched));
}

TEST(hostile_names, draw_graphs_and_open_nothing) {
  const Folder folder;
  std::vector<std::string> names = hostile_names(folder.path() / "touched");
  names.insert(names.end(),
               {"\",URL=\"file:///etc/passwd\",x=\"", "\\N\\G&lt;script>", "<script>x</script>"});
  int drawn = 0;
  int refused = 0;
  for (const std::string& name : names) {
    if (name.size() > 1000) continue;
    SCOPED_TRACE(harmless(name));
    Named named(name);
    const OwnLayer own{.word = "own", .carry_out = [&](const Line& x, Pass&) {
                         return lattice::named(name, x + x) + x;
                       }};
    const std::filesystem::path path = folder.path() / "graph.svg";
    try {
      named.network = Network(Shape{2}, {Dense{.outputs = 2}, own}, Random(1));
      write_graph(path, WorkedMinibatch(named.network, RowSet(named.data).all(), Descent{}));
    } catch (const ShapeError&) {
      ++refused;
      continue;
    }
    ++drawn;
    const std::string svg = content_of(path);
    EXPECT_THAT(svg, Not(HasSubstr("xlink:href=\"file")));
    EXPECT_THAT(svg, Not(HasSubstr("<script")));
    EXPECT_THAT(svg, Not(HasSubstr("\x1b")));
  }
  // Most names of this kind no line can have; those that one can are drawn.
  EXPECT_GT(drawn, 1);
  EXPECT_GT(refused, 5);
}

// As a reader of XML that knows nothing of where they come from takes them.
TEST(hostile_names, leave_every_picture_well_formed) {
  const Folder folder;
  int at = 0;
  for (const std::string name :
       {"a]]>b", "]]>", "<![CDATA[x", "&amp;]]", "]]", "-->", "?>", "a\tb"}) {
    Named named(name);
    for (const Chart& chart : charts_of(named))
      chart.write(folder.path() / fmt::format("{}.svg", ++at));
    write_graph(folder.path() / fmt::format("{}.svg", ++at),
                WorkedMinibatch(named.network, RowSet(named.data).all(), Descent{}));
  }
  const Answer read =
      run_program("/usr/bin/python3",
                  {"-c",
                   "import sys, glob, xml.dom.minidom\n"
                   "for path in glob.glob(sys.argv[1] + '/*.svg'): xml.dom.minidom.parse(path)\n"
                   "print('read')",
                   folder.path()});
  EXPECT_EQ(read.out, "read\n") << read.err;
  EXPECT_GT(at, 100);
}

TEST(hostile_names, are_shown_and_not_sent_to_a_terminal) {
  for (const std::string& name : hostile_names("touched")) {
    SCOPED_TRACE(harmless(name).substr(0, 100));
    const Named named(name);
    const Assessment judged = assess(named.network, named.data);
    const Model model = model_of(named.network, Loss::cross_entropy, named.data);
    const std::vector<std::string> shown = {
        show_heading(name, {}),
        show_worked_example(named.example, {}),
        show_data(named.data, {}),
        show_figures({{name, judged}}, {}),
        show_classes(*judged.classes, {}),
        show_answers(model, ask(model, named.data.features), {}),
        show_run(named.run, {}),
        show_remark({.code = name, .text = name, .remedy = name}, {}),
        show_tensor(named.data.features, {}, named.data.axis_names()),
        named.by_hand(),
        Error({.what = name, .where = name, .expected = name, .found = name, .remedy = name})
            .what()};
    for (const std::string& text : shown)
      EXPECT_EQ(unwelcome_in(text), std::nullopt) << text.substr(0, 400);
  }
}

TEST(hostile_names, are_text_on_pages_and_in_spreadsheets) {
  const Folder folder;
  for (const std::string& name : hostile_names("touched")) {
    SCOPED_TRACE(harmless(name).substr(0, 100));
    const Named named(name);
    for (const std::string& html :
         {page(named.example),
          watch_page({.title = name, .about = {name}, .epochs = 1}, named.data.axis_names())}) {
      EXPECT_EQ(unwelcome_in(html), std::nullopt);
      EXPECT_THAT(html, Not(HasSubstr("alert(1)</script>")));
      EXPECT_THAT(html, Not(HasSubstr("<b onload")));
    }
    const std::string sheet = folder.path() / "sheet.xlsx";
    write_spreadsheet(sheet, named.example);
    const Answer read =
        run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/texts_of_sheet.py", sheet});
    ASSERT_EQ(read.status, 0) << read.err;
    const Json texts = Json::parse(read.out);
    EXPECT_GT(texts["texts"].size(), 10U);
    EXPECT_LT(texts["longest"], 32'768);
    // A formula refers to cells, and to nothing outside.
    EXPECT_THAT(texts["formulas"].dump(), Not(HasSubstr("cmd|")));
  }
}

TEST(ordinary_names, are_drawn_as_they_are) {
  const Folder folder;
  for (const std::string name : {"'t Hof", "6''", "50%", "{a}", "x_1^2", "@home", "back\\slash",
                                 "a+1", "=7", "%d", "tab\tend", "100 %s", "Töpferei €"}) {
    Named named(name);
    for (const Chart& chart : charts_of(named)) {
      const std::filesystem::path path = folder.path() / "chart.svg";
      chart.write(path);
      const std::string written = harmless(name);
      EXPECT_THAT(content_of(path), HasSubstr(written)) << name;
    }
  }
}

}  // namespace
}  // namespace lattice::testing
