#include <fmt/format.h>
#include <fmt/ranges.h>

#include <filesystem>
#include <memory>
#include <sstream>

#include "files/file.hpp"
#include "lattice/text/error.hpp"
#include "show/page/files.hpp"
#include "text/typed.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

/// A stop of the tour. A file is written as `@/name` in the arguments: into the folder of the tour.
struct Stop {
  std::string title;
  std::string sentence;
  std::vector<std::string> arguments;
};

constexpr std::string_view in_folder = "@/";

using Words = std::vector<std::string>;

Words on(Words words, const Words& lesson, const Words& more = {}) {
  words.insert(words.end(), lesson.begin(), lesson.end());
  words.insert(words.end(), more.begin(), more.end());
  return words;
}

/// The tour, in teaching order.
const std::vector<Stop>& tour() {
  static const Words kiln = {"kiln", "--scale", "none", "--batch", "4", "--rate", "0.02"};
  static const Words glazes = {"glazes", "--net", "dense 8, tanh, dense 4", "--rule", "adam",
                               "--rate", "0.01"};
  static const Words cracks = {"cracks", "--net",    "dense 8, tanh, dense 2",
                               "--rule", "adam",     "--rate",
                               "0.02",   "--epochs", "30"};
  static const std::string looking =
      "conv 8 of 3x3, relu, maximum 2, conv 12 of 3x3, relu, flatten, dense 8";
  static const Words stamps = {"stamps", "--net", looking, "--rule", "adam", "--rate", "0.005"};
  static const std::string conv = "conv 8 of 3x3 keeping size start he";
  static const std::string plain =
      conv + ", relu, 16 times (" + conv + ", relu), average all, dense 6";
  static const std::string residual = conv + ", normalise, relu, 5 times (residual(" + conv +
                                      ", normalise, relu, " + conv +
                                      ", normalise), relu), average all, dense 6";
  static const Words tiles = {"tiles",  "--resize", "8x8",     "--rule",       "momentum",
                              "--rate", "0.05",     "--batch", "32",           "--precision",
                              "single", "--epochs", "12",      "--flow-every", "4"};
  static const std::string guilds =
      "neighbours, dense 16 without bias, tanh, neighbours, dense 2 without bias, tanh, dense 4";
  static const Words studios = {"studios", "--net", guilds,     "--rule", "adam",
                                "--rate",  "0.02",  "--epochs", "60"};
  static const std::vector<Stop> stops = {
      {"Four readings, worked by hand",
       "Four readings from a small kiln: minutes of firing and the temperature they led to. We "
       "guess a straight line, x·weight + bias, and work the four line by line: forward to the "
       "loss, back to the gradients, and one update.",
       on({"work"}, kiln)},
      {"The same as a page",
       "To walk through at your own pace, forward and back. Select any number to see where it "
       "comes from.",
       on({"work"}, kiln, {"--steps", "1,2,3", "--html", "@/kiln.html"})},
      {"Where a number comes from",
       "In the terminal, too. The second guess:", on({"why", "output[1,0]"}, kiln)},
      {"And the gradient of a weight",
       "The gradient of the slope: one product for each reading, added up.",
       on({"why", "output.weight[0,0]"}, kiln, {"--gradient"})},
      {"Is that gradient right?",
       "Shift each weight a little both ways, work the four readings again, and see how the loss "
       "really changes.",
       on({"check"}, kiln)},
      {"Explanations of explanations",
       "The numbers in an explanation can be explained in turn. From the loss two steps down:",
       on({"why", "loss"}, kiln, {"--depth", "2"})},
      {"Lines of your own",
       "What can be written on a board can be typed: three scores, their probabilities, and what "
       "the answer costs if the first class is the right one.",
       {"work", "--title", "Softmax on paper", "--weight", "scores = [[2, 1, 0.1]]", "--given",
        "y = [0]", "--line", "powers = exp(scores)", "--line", "p = powers/sum(powers)", "--line",
        "cost = sum(−log p at y)"}},
      {"Down the loss",
       "Weight and bias after each step, over the loss of all readings: the whole set at once, "
       "minibatches, one reading at a time.",
       {"draw", "descent", "kiln", "--batch", "4", "--rate", "0.1", "--epochs", "6", "--out",
        "@/descent.png"}},
      {"A table with classes",
       "Four glazes, from five measurements in very different units.",
       {"data", "glazes"}},
      {"A small layered network",
       "Only outputs are stated; the rest follows from the shape of the data.",
       {"plan", "glazes", "--net", "dense 8, tanh, dense 4"}},
      {"And with a skip connection",
       "Its layers as blocks, with their numbers of weights and the skip connection of a residual "
       "block.",
       {"draw", "blocks", "glazes", "--net",
        "dense 8, tanh, residual(dense 8, tanh, dense 8), dense 4", "--out", "@/blocks.png"}},
      {"A straight line first",
       "Temperatures of a small kiln as points, and the line during training.",
       {"draw", "line", "kiln", "--out", "@/line.png"}},
      {"Nonlinear functions",
       "Activations and their derivatives.",
       {"draw", "function", "tanh", "relu", "sigmoid", "--out", "@/functions.png"}},
      {"One minibatch of it, in every form",
       "A page with three of its minibatches and the curves of the run; a spreadsheet in which "
       "every calculated cell is a formula, to change a weight and watch the loss; the shape of "
       "the calculation.",
       on({"work"}, glazes,
          {"--steps", "1,2,50", "--epochs", "20", "--curves", "--html", "@/glazes.html", "--xlsx",
           "@/glazes.xlsx", "--graph", "@/graph.svg"})},
      {"An exercise",
       "Twelve numbers left blank, on a page that checks answers and gives hints, and in a "
       "spreadsheet whose cells turn teal when they are right. The printed page has the answers on "
       "its last sheet.",
       on({"work"}, glazes,
          {"--batch", "4", "--blanks", "12", "--html", "@/exercise.html", "--xlsx",
           "@/exercise.xlsx"})},
      {"A minibatch as lines of text",
       "Four rows of it, written out. Change a line, or a number, and work it again with lattice "
       "work.",
       on({"work"}, glazes, {"--batch", "4", "--sheet", "@/glazes.sheet"})},
      {"Training",
       "The same step again and again, over all rows of the train part. The validation part is "
       "monitored; the test part is used at the end only.",
       on({"train"}, glazes, {"--epochs", "20", "--say", "nothing", "--save", "@/glazes.lattice"})},
      {"Its curves",
       "Loss and accuracy by epoch.",
       {"draw", "curves", "@/glazes.lattice", "--out", "@/curves.png"}},
      {"What it confuses",
       "True classes by answers, on rows it has never seen.",
       {"draw", "confusion", "@/glazes.lattice", "--part", "test", "--out", "@/confusion.png"}},
      {"What its first weights respond to",
       "A row for each measurement, a column for each unit.",
       {"draw", "weights", "@/glazes.lattice", "--out", "@/weights.png"}},
      {"A few rows and its answers",
       "Scaled measurements, the true class, and the answer if it is wrong.",
       {"draw", "samples", "@/glazes.lattice", "--part", "test", "--out", "@/samples.png"}},
      {"A row it got wrong, and why",
       "Forward from the raw measurements, and back from the winning score: what the answer "
       "depends on. Weights stay frozen.",
       {"work", "@/glazes.lattice", "--wrong", "1", "--html", "@/wrong.html"}},
      {"Any update, asked",
       "Every update of every step can be explained. Here step 100, for one weight of the hidden "
       "layer:",
       on({"why", "hidden.weight[2,1]"}, glazes, {"--update", "--step", "100"})},
      {"A curved decision boundary",
       "Cracked or sound, by wall thickness and drying hours: the decision regions before and "
       "after training.",
       on({"draw", "regions"}, cracks, {"--out", "@/regions.png"})},
      {"How it came about", "The same during training.",
       on({"draw", "regions"}, cracks, {"--frames", "40", "--out", "@/regions.gif"})},
      {"Which rate is best?", "The same rows and the same seed, three times.",
       on({"compare"}, glazes, {"--epochs", "10", "--vary", "rate=0.1,0.01,0.001"})},
      {"Name a shard",
       "Raw measurements in, a glaze out.",
       {"ask", "@/glazes.lattice", "--record",
        "iron=3,lightness=56,thickness=0.5,gloss=60,peak=1250"}},
      {"Pictures",
       "Makers' stamps in wet clay: eight marks, shifted, rotated and noisy; their mean picture "
       "and the first few.",
       {"data", "stamps"}},
      {"A softmax on pixels",
       "Each class has a weight for every pixel: the weights can be displayed as pictures.",
       {"draw", "weights", "stamps", "--epochs", "20", "--rule", "adam", "--rate", "0.005", "--out",
        "@/pixels.png"}},
      {"Convolutions",
       "The same few weights at every position, so that a mark is found wherever it was pressed.",
       on({"train"}, stamps, {"--epochs", "8", "--say", "nothing", "--save", "@/stamps.lattice"})},
      {"What each channel gives",
       "The outputs of every layer for one picture.",
       {"draw", "channels", "@/stamps.lattice", "--out", "@/channels.png"}},
      {"What it still gets wrong",
       "The rows of the test part with the highest loss, and their answers.",
       {"draw", "samples", "@/stamps.lattice", "--part", "test", "--wrong", "10", "--out",
        "@/wrong_stamps.png"}},
      {"A convolution, number by number",
       "A patch of the picture, the kernel, and their products.",
       {"why", "conv[0,3,4,1]", "stamps", "--net", "conv 4 of 3x3, maximum 2, flatten, dense 8",
        "--batch", "4"}},
      {"The same as a page",
       "Pictures are drawn as pictures, and n shows their numbers; a number of a convolution shows "
       "its patch.",
       {"work", "stamps", "--net", "conv 4 of 3x3, maximum 2, flatten, dense 8", "--batch", "4",
        "--html", "@/stamps.html"}},
      {"Many layers in a row",
       "Groups of layers, repeated. The network hardly learns: the table shows the gradients of "
       "its layers before and after training.",
       on({"train"}, tiles,
          {"--net", plain, "--say", "nothing", "--title", "in a row", "--save", "@/row.lattice"})},
      {"With a skip connection around each pair",
       "The same layers, normalised, with the input of each pair added to its output.",
       {"plan", "tiles", "--resize", "8x8", "--net", residual}},
      {"It learns", "The same rows, seed and rate.",
       on({"train"}, tiles,
          {"--net", residual, "--say", "nothing", "--title", "with skip connections", "--save",
           "@/skip.lattice"})},
      {"Activations and gradients of both",
       "The gradient norm at each layer's output and the standard deviation of its numbers, epoch "
       "by epoch.",
       {"draw", "flow", "@/row.lattice", "@/skip.lattice", "--out", "@/flow.png"}},
      {"Augmented pictures",
       "Shifted, flipped and rotated anew in each epoch, so that the network does not overfit: "
       "each picture before and after, down to the numbers.",
       {"work", "tiles", "--net", "conv 4 of 3x3, normalise, relu, average all, dense 6", "--batch",
        "2", "--augment", "shift 2, flip across, turn 15", "--html", "@/moved.html"}},
      {"A graph",
       "Potters who share kilns. Two potters of each guild are labelled; the network needs one "
       "more "
       "matrix product, with the normalised adjacency.",
       {"data", "studios"}},
      {"What one takes from another",
       "1 for a shared kiln, divided by the root of both degrees.",
       {"why", "shares[Ada,Bo]", "studios", "--net", guilds}},
      {"Predicting unknown guilds",
       "Eight potters count in the loss; the others are predicted from shared kilns.",
       on({"train"}, studios, {"--say", "nothing", "--save", "@/guilds.lattice"})},
      {"The graph and its answers",
       "The eight labelled potters have rings; a mark inside a mark is a wrong answer.",
       {"draw", "nodes", "@/guilds.lattice", "--out", "@/nodes.png"}},
      {"Two numbers for each potter",
       "The two outputs of a layer, which separate the guilds during training.",
       on({"draw", "embedding"}, studios, {"--frames", "30", "--out", "@/embedding.gif"})},
      {"A number of one potter",
       "On the page, a number of a node shows its neighbours and how much it takes from each.",
       on({"work"}, studios, {"--html", "@/guilds.html"})},
      {"Ask about a potter", "By name.", {"ask", "@/guilds.lattice", "--node", "Mina"}},
  };
  return stops;
}

/// As it would be typed.
std::string as_typed(const std::vector<std::string>& arguments) {
  std::string text = "lattice";
  for (std::string argument : arguments) {
    if (argument.starts_with(in_folder)) argument.erase(0, in_folder.size());
    text += " " + typed(argument);
  }
  return text;
}

/// The files that a stop writes.
std::vector<std::string> files_of(const Stop& stop) {
  std::vector<std::string> files;
  for (std::size_t at = 1; at < stop.arguments.size(); ++at) {
    const std::string& argument = stop.arguments[at];
    const bool is_written =
        argument.starts_with(in_folder) && stop.arguments[at - 1].starts_with("--");
    if (is_written) files.push_back(argument.substr(in_folder.size()));
  }
  return files;
}

struct Answer {
  std::string text;
  Exit exit;
};

/// Carries out what a stop says, with its files in the folder.
Answer carry_out(const Stop& stop, const std::filesystem::path& folder, bool as_json,
                 Console& console) {
  std::vector<std::string> arguments = stop.arguments;
  for (std::string& argument : arguments) {
    if (argument.starts_with(in_folder))
      argument = (folder / argument.substr(in_folder.size())).string();
  }
  if (as_json) arguments.emplace_back("--json");
  std::ostringstream answer;
  Console inner{.out = answer, .err = console.err};
  const Exit exit = run(arguments, inner);
  return {answer.str(), exit};
}

std::string section_of(const Stop& stop, std::size_t number, const std::string& answer) {
  using page_files::for_html;
  std::string html = fmt::format(
      "<section>\n<h2>{}. {}</h2>\n<p>{}</p>\n<pre class=\"typed\">$ {}</pre>\n", number,
      for_html(stop.title), for_html(stop.sentence), for_html(as_typed(stop.arguments)));
  const std::vector<std::string> files = files_of(stop);
  std::string links;
  for (const std::string& file : files) {
    const std::string ending = std::filesystem::path(file).extension().string();
    if (ending == ".png" || ending == ".gif" || ending == ".svg") {
      html += fmt::format("<p><a href=\"{0}\"><img src=\"{0}\" alt=\"{1}\"></a></p>\n", file,
                          for_html(stop.title));
    } else {
      links += fmt::format("<a href=\"{0}\">{0}</a>\n", file);
    }
  }
  if (!links.empty()) html += fmt::format("<p class=\"files\">\n{}</p>\n", links);
  const bool has_text = files.empty() || stop.arguments.front() == "train";
  if (has_text) {
    constexpr std::size_t long_answer = 2500;
    const std::string pre = fmt::format("<pre class=\"answer\">{}</pre>", for_html(answer));
    html += answer.size() > long_answer
                ? fmt::format("<details><summary>what it prints</summary>{}</details>\n", pre)
                : pre + "\n";
  }
  return html + "</section>\n";
}

void make_folder(const std::filesystem::path& folder) {
  std::error_code problem;
  std::filesystem::create_directories(folder, problem);
  if (!problem) return;
  throw FileError({.what = fmt::format("the folder {} cannot be made", folder.string()),
                   .expected = "a place that can be written to",
                   .found = problem.message(),
                   .remedy = "name another: lattice demo FOLDER"});
}

void write_tour(const std::filesystem::path& folder, bool as_json, Console& console) {
  make_folder(folder);
  std::string sections;
  Json steps = Json::array();
  std::size_t number = 0;
  for (const Stop& stop : tour()) {
    ++number;
    if (!as_json) {
      console.out << fmt::format("{:>3} of {}  {}\n", number, tour().size(), stop.title)
                  << "           $ " << as_typed(stop.arguments) << "\n"
                  << std::flush;
    }
    const Answer answer = carry_out(stop, folder, as_json, console);
    if (answer.exit != Exit::done)
      throw Error({.what = fmt::format("the tour stops at '{}'", as_typed(stop.arguments))});
    if (as_json) {
      steps.push_back({{"title", stop.title},
                       {"sentence", stop.sentence},
                       {"command", as_typed(stop.arguments)},
                       {"files", files_of(stop)},
                       {"result", parse_json(answer.text)}});
    } else {
      sections += section_of(stop, number, answer.text);
    }
  }
  if (as_json) {
    write(console.out, {{"folder", folder.string()}, {"steps", std::move(steps)}});
    return;
  }
  sections +=
      "<section><h2>And now yours</h2><p>The same with a table of your own, and a model to keep "
      "and to ask:</p>\n<pre class=\"typed\">$ lattice train --file my.csv --target column --save "
      "my.lattice\n$ lattice ask my.lattice --record height=3.5,clay=red\n$ lattice work --file "
      "my.csv --target column --walk\n$ lattice train --file my.csv --target column "
      "--serve</pre></section>\n";
  const std::filesystem::path index = folder / "index.html";
  write_file(index, page_files::filled_in(page_files::tour_html, {.title = "Open Lattice: a tour",
                                                                  .style = page_files::tour_css,
                                                                  .content = sections}));
  console.print(fmt::format("\nOpen {} in a browser: it leads through all of this.\n",
                            std::filesystem::absolute(index).string()));
}

void declare_demo(Verb& verb, Console& console) {
  struct Asked {
    std::string folder = "lattice-tour";
    bool json = false;
  };
  auto asked = std::make_shared<Asked>();
  verb.text("folder", asked->folder, "Where it is put (default lattice-tour)");
  verb.flag("--json", asked->json, "Print one JSON document and nothing else");
  verb.runs([asked, &console] { write_tour(asked->folder, asked->json, console); });
}

}  // namespace

Verb demo_verb(Console& console) {
  return {"demo", "A guided tour on made-up data: a folder of pages, pictures and a spreadsheet",
          console, declare_demo};
}

}  // namespace lattice::tools
