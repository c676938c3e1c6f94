#include "graphs/demo_sets.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/graphs/graph.hpp"

namespace lattice {
namespace {

constexpr std::array<std::string_view, 48> potters = {
    "Ada",   "Alba", "Anouk", "Arno", "Basil", "Beata", "Bo",    "Carla", "Cosmo", "Dagny",
    "Dario", "Edda", "Eino",  "Elin", "Emeka", "Fanny", "Felix", "Gisli", "Greta", "Hana",
    "Hugo",  "Ida",  "Imre",  "Inga", "Jonas", "Jutta", "Kaya",  "Knut",  "Lale",  "Leo",
    "Lotte", "Maja", "Milan", "Mina", "Nadia", "Nils",  "Oda",   "Oskar", "Petra", "Quirin",
    "Rasa",  "Rolf", "Selma", "Sven", "Tilda", "Timo",  "Ulla",  "Vera"};

/// The name of a potter; where there are more than names, with a number behind it.
std::string name_of(std::int64_t potter) {
  const auto count = std::ssize(potters);
  const std::string name(potters.at(static_cast<std::size_t>(potter % count)));
  return potter < count ? name : fmt::format("{} {}", name, potter / count + 1);
}

/// With how many of their own guild potters share a kiln that they ask for it themselves, and how
/// many of them share one with anybody.
constexpr int kilns_in_guild = 2;
constexpr double kiln_elsewhere = 0.5;

constexpr std::size_t known_in_guild = 2;

}  // namespace

Dataset make_studios(std::int64_t rows, Random& random) {
  const std::vector<std::string> guilds = {"harbour", "hill", "market", "river"};
  std::vector<std::vector<std::int64_t>> members(guilds.size());
  std::vector<double> guild_of;
  std::vector<std::string> names;
  for (std::int64_t potter = 0; potter < rows; ++potter) {
    // Every four potters are one of each guild, in any order.
    if (potter % 4 == 0) {
      for (const std::int64_t guild : random.shuffled(4))
        guild_of.push_back(static_cast<double>(guild));
    }
    members[static_cast<std::size_t>(guild_of[static_cast<std::size_t>(potter)])].push_back(potter);
    names.push_back(name_of(potter));
  }
  guild_of.resize(static_cast<std::size_t>(rows));

  std::vector<Edge> edges;
  for (std::int64_t potter = 0; potter < rows; ++potter) {
    const auto& own = members[static_cast<std::size_t>(guild_of[static_cast<std::size_t>(potter)])];
    for (int kiln = 0; kiln < kilns_in_guild; ++kiln)
      edges.push_back({potter, own[static_cast<std::size_t>(random.below(std::ssize(own)))]});
    if (random.uniform() < kiln_elsewhere) edges.push_back({potter, random.below(rows)});
  }
  std::vector<std::int64_t> known;
  for (const std::vector<std::int64_t>& guild : members) {
    const std::vector<std::int64_t> drawn = random.shuffled(std::ssize(guild));
    for (std::size_t at = 0; at < std::min<std::size_t>(known_in_guild, drawn.size()); ++at)
      known.push_back(guild[static_cast<std::size_t>(drawn[at])]);
  }
  std::ranges::sort(known);

  Dataset potters_alone =
      dataset_of_classes(each_its_own(rows), tensor({rows}, guild_of),
                         {.name = "studios", .targets = {"guild"}, .classes = guilds});
  return graph_of(potters_alone, edges, {.names = names, .known = known});
}

}  // namespace lattice
