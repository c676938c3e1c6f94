#include "lattice/text/nearest.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <numeric>
#include <vector>

#include "text/typed.hpp"

namespace lattice {
namespace {

std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  std::iota(row.begin(), row.end(), std::size_t{0});
  for (std::size_t i = 0; i < a.size(); ++i) {
    std::size_t diagonal = row[0];
    row[0] = i + 1;
    for (std::size_t j = 0; j < b.size(); ++j) {
      const std::size_t replaced = diagonal + (a[i] == b[j] ? 0 : 1);
      diagonal = row[j + 1];
      row[j + 1] = std::min({replaced, row[j] + 1, diagonal + 1});
    }
  }
  return row[b.size()];
}

}  // namespace

std::string nearest(std::string_view text, std::span<const std::string> candidates) {
  std::string best;
  std::size_t least = std::min(text.size(), std::max<std::size_t>(1, text.size() / 2) + 1);
  for (const std::string& candidate : candidates) {
    const std::size_t distance = edit_distance(text, candidate);
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

std::string did_you_mean(std::string_view near) {
  return near.empty() ? "" : fmt::format("did you mean {}?", typed(near));
}

Trouble not_among(std::string what, std::string_view found, std::span<const std::string> known) {
  const std::string near = nearest(found, known);
  return {.what = std::move(what),
          .expected = fmt::format("one of {}", fmt::join(known, ", ")),
          .found = fmt::format("'{}'", found),
          .remedy = did_you_mean(near)};
}

}  // namespace lattice
