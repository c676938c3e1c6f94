#include <fmt/format.h>
#include <fmt/ranges.h>

#include <memory>
#include <sstream>

#include "lattice/tensor/text.hpp"
#include "tools/commands.hpp"
#include "tools/options.hpp"

namespace lattice::tools {
namespace {

struct Stop {
  std::string sentence;
  std::vector<std::string> arguments;
};

/// The tour, in teaching order.
const std::vector<Stop>& tour() {
  static const std::vector<std::string> kiln = {"kiln", "--scale", "none", "--batch",
                                                "4",    "--rate",  "0.02"};
  static const std::vector<std::string> network = {
      "glazes", "--net", "dense 8, tanh, dense 4", "--rule", "adam", "--rate", "0.01"};
  const auto on = [](std::vector<std::string> words, const std::vector<std::string>& lesson,
                     const std::vector<std::string>& more = {}) {
    words.insert(words.end(), lesson.begin(), lesson.end());
    words.insert(words.end(), more.begin(), more.end());
    return words;
  };
  static const std::vector<Stop> stops = {
      {"Four readings from a small kiln: minutes of firing and the temperature they led to. We "
       "guess a straight line, x·weight + bias, and work the four line by line: forward to the "
       "loss, back to the gradients, and one update.",
       on({"work"}, kiln)},
      {"Any number above can be asked where it came from. The second guess:",
       on({"why", "output[1,0]"}, kiln)},
      {"The gradient of the only slope: one product for each reading, added up.",
       on({"why", "output.weight[0,0]"}, kiln, {"--gradient"})},
      {"Is that gradient right? Move each weight a little both ways, work the four readings again, "
       "and see how the loss really changes:",
       on({"check"}, kiln)},
      {"The numbers in an explanation can be explained in turn, as deep as one likes. From the "
       "loss two steps down:",
       on({"why", "loss"}, kiln, {"--depth", "2"})},
      {"Now a table with something to tell apart: four glazes, from five measurements in very "
       "different units.",
       {"data", "glazes"}},
      {"A small layered network for it. Only outputs are stated; the rest follows from the shape "
       "of the data.",
       {"plan", "glazes", "--net", "dense 8, tanh, dense 4"}},
      {"Training is the same step again and again, over all rows of the train part. The validation "
       "part is watched, the test part kept for the end.",
       on({"train"}, network, {"--epochs", "20", "--say", "nothing"})},
      {"Every update can be asked about, too, at any step. The hundredth, for one weight of the "
       "hidden part:",
       on({"why", "hidden.weight[2,1]"}, network, {"--update", "--step", "100"})},
      {"Which rate is best? The same rows and the same seed, three times.",
       on({"compare"}, network, {"--epochs", "10", "--vary", "rate=0.1,0.01,0.001"})},
  };
  return stops;
}

/// As it would be typed: places in quotes, since shells read brackets their own way.
std::string typed(const std::vector<std::string>& arguments) {
  std::string text = "lattice";
  for (const std::string& argument : arguments) {
    const bool quoted = argument.find_first_of("[ ,") != std::string::npos;
    text += quoted ? fmt::format(" '{}'", argument) : " " + argument;
  }
  return text;
}

void write_tour(Console& console) {
  std::size_t number = 0;
  for (const Stop& stop : tour()) {
    console.out << (number == 0 ? "" : "\n")
                << show_heading(fmt::format("stop {} of {}", number + 1, tour().size()),
                                console.style)
                << paragraph(stop.sentence) << "\n  $ " << typed(stop.arguments) << "\n\n";
    ++number;
    run(stop.arguments, console);
  }
  console.out << "\nThe same with a table of your own, and a model to keep and to ask:\n\n"
                 "  $ lattice train --file my.csv --target column --save my.lattice\n"
                 "  $ lattice ask my.lattice --record height=3.5,clay=red\n";
}

void write_tour_as_json(Console& console) {
  Json steps = Json::array();
  for (const Stop& stop : tour()) {
    std::ostringstream answer;
    Console inner{.out = answer, .err = console.err};
    std::vector<std::string> arguments = stop.arguments;
    arguments.emplace_back("--json");
    run(arguments, inner);
    steps.push_back({{"sentence", stop.sentence},
                     {"command", typed(stop.arguments)},
                     {"result", Json::parse(answer.str())}});
  }
  write(console.out, {{"steps", std::move(steps)}});
}

}  // namespace

void add_demo(CLI::App& app, Console& console) {
  auto json = std::make_shared<bool>(false);
  CLI::App& verb = *app.add_subcommand("demo", "A guided tour on made-up data");
  verb.add_flag("--json", *json, "Print one JSON document and nothing else");
  verb.callback([json, &console] {
    if (*json) {
      write_tour_as_json(console);
    } else {
      write_tour(console);
    }
  });
}

}  // namespace lattice::tools
