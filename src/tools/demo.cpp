#include <fmt/format.h>
#include <fmt/ranges.h>

#include <memory>
#include <sstream>

#include "lattice/tensor/text.hpp"
#include "tools/commands.hpp"
#include "tools/settings.hpp"

namespace lattice::tools {
namespace {

struct Stop {
  std::string sentence;
  std::vector<std::string> arguments;
};

/// The tour, in teaching order.
const std::vector<Stop>& tour() {
  static const std::vector<Stop> stops = {
      {"Four readings from a small kiln: minutes of firing and the temperature they led to. We "
       "guess "
       "a straight line, z = x·W + b, and work the four line by line: forward to the cost, back to "
       "the gradients, and one update.",
       {"work", "kiln", "--batch", "4", "--rate", "0.02"}},
      {"Any number above can be asked where it came from. The second guess, z[1,0]:",
       {"why", "z[1,0]", "kiln", "--batch", "4", "--rate", "0.02"}},
      {"The gradient of the only slope, W[0,0]: one product for each reading, added up.",
       {"why", "W[0,0]", "kiln", "--gradient", "--batch", "4", "--rate", "0.02"}},
      {"Is that gradient right? Move each weight a little both ways, work the four readings again, "
       "and see how the cost really changes:",
       {"check", "kiln", "--batch", "4", "--rate", "0.02"}},
      {"The numbers in an explanation can be explained in turn, as deep as one likes. From the "
       "cost two steps down:",
       {"why", "cost", "kiln", "--depth", "2", "--batch", "4", "--rate", "0.02"}},
      {"And the slope after the update:",
       {"why", "W[0,0]", "kiln", "--update", "--batch", "4", "--rate", "0.02"}},
      {"The same step again and again, over all sixty readings, is training. The line it should "
       "find "
       "rises 85 °C a minute from 20 °C.",
       {"train", "kiln", "--batch", "4", "--rate", "0.02", "--epochs", "40"}},
      {"Three features in very different units: moisture in %, thickness in mm, peak in °C. Scaled "
       "to "
       "a common size, they are learnt together; the scaling is part of the record, too.",
       {"train", "shrinkage", "--scale", "standard", "--rate", "0.1", "--epochs", "20"}},
      {"So a scaled number can be asked as well:",
       {"why", "x[0,2]", "shrinkage", "--scale", "standard"}},
  };
  return stops;
}

/// As it would be typed: places in quotes, since shells read brackets their own way.
std::string typed(const std::vector<std::string>& arguments) {
  std::string text = "lattice";
  for (const std::string& argument : arguments) {
    const bool quoted = argument.find('[') != std::string::npos;
    text += quoted ? fmt::format(" '{}'", argument) : " " + argument;
  }
  return text;
}

/// A paragraph of at most `page_width` columns.
std::string paragraph(const std::string& text) {
  std::istringstream words(text);
  std::string result;
  std::string row;
  for (std::string word; words >> word;) {
    if (!row.empty() && columns(row) + 1 + columns(word) > page_width) {
      result += row + "\n";
      row.clear();
    }
    row += (row.empty() ? "" : " ") + word;
  }
  return result + row + "\n";
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
  console.out << "\nThe same with a table of your own:\n\n"
                 "  $ lattice work --file my.csv --target column\n";
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
