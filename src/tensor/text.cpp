#include "lattice/tensor/text.hpp"

#include <algorithm>
#include <limits>
#include <numeric>
#include <vector>

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

/// Where " + " and " − " stand that are inside the fewest parentheses.
std::vector<std::size_t> places_to_break(std::string_view formula) {
  std::vector<std::size_t> places;
  int depth = 0;
  int shallowest = std::numeric_limits<int>::max();
  for (std::size_t at = 1; at < formula.size(); ++at) {
    if (formula[at] == '(') ++depth;
    if (formula[at] == ')') --depth;
    const std::string_view rest = formula.substr(at);
    if (depth > shallowest || (!rest.starts_with(" + ") && !rest.starts_with(" − "))) continue;
    if (depth < shallowest) places.clear();
    shallowest = depth;
    places.push_back(at);
  }
  return places;
}

}  // namespace

std::size_t columns(std::string_view text) {
  return static_cast<std::size_t>(
      std::ranges::count_if(text, [](char byte) { return (byte & 0xC0) != 0x80; }));
}

std::string wrap_formula(std::string_view formula, std::size_t indent, std::size_t width) {
  const std::vector<std::size_t> breaks = places_to_break(formula);
  std::string text;
  std::size_t column = indent;
  for (std::size_t at = 0; at <= breaks.size(); ++at) {
    const std::size_t from = at == 0 ? 0 : breaks[at - 1];
    const std::size_t to = at == breaks.size() ? formula.size() : breaks[at];
    std::string_view piece = formula.substr(from, to - from);
    if (at > 0 && column + columns(piece) > width) {
      text += "\n" + std::string(indent, ' ');
      column = indent;
      piece.remove_prefix(1);
    }
    text += piece;
    column += columns(piece);
  }
  return text;
}

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

}  // namespace lattice
