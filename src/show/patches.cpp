#include <fmt/format.h>

#include <algorithm>

#include "lattice/show/terminal.hpp"
#include "lattice/tensor/arithmetic.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/ink.hpp"

namespace lattice {
namespace {

constexpr std::size_t most_drawn = 4;
constexpr std::int64_t most_places = 49;

/// `rows 3 to 5`, `row 3`; with what lies between where it is not all.
std::string stretch_of(const char* one, const std::vector<std::int64_t>& places) {
  if (places.size() == 1) return fmt::format("{} {}", one, places.front());
  const std::int64_t step = places[1] - places[0];
  return fmt::format("{}s {} to {}{}", one, places.front(), places.back(),
                     step == 1 ? "" : fmt::format(" by {}", step));
}

/// Numbers in columns of one width, below a heading.
std::vector<std::string> block_of(const std::string& heading, const Tensor& numbers,
                                  const TerminalStyle& style) {
  const Shape& shape = numbers.shape();
  std::size_t width = 1;
  for (const double number : numbers.numbers())
    width = std::max(width, columns(format_number(number, style.digits)));
  std::vector<std::string> lines = {heading};
  for (std::int64_t row = 0; row < shape[0]; ++row) {
    std::string line;
    for (std::int64_t column = 0; column < shape[1]; ++column) {
      const double number = numbers.at({row, column});
      const std::string text = format_number(number, style.digits);
      line += std::string(width - columns(text) + (column == 0 ? 0 : 2), ' ') +
              in_ink_of_sign(number, text, style);
    }
    lines.push_back(std::move(line));
  }
  return lines;
}

/// The width of a block without its colours.
std::size_t width_of(const std::string& heading, const Tensor& numbers, int digits) {
  std::size_t width = 1;
  for (const double number : numbers.numbers())
    width = std::max(width, columns(format_number(number, digits)));
  const auto across = static_cast<std::size_t>(numbers.shape()[1]);
  return std::max(columns(heading), across * width + 2 * (across - 1));
}

std::string table_of(const std::string& name, const std::string& table) {
  return table.empty() ? name : fmt::format("{}, {}", name, table);
}

std::string drawn(const Patch& patch, const TerminalStyle& style) {
  const Tensor products = patch.numbers * patch.factors;
  const std::vector<std::pair<std::string, const Tensor*>> parts = {
      {fmt::format("{}, {}", stretch_of("row", patch.rows), stretch_of("column", patch.columns)),
       &patch.numbers},
      {patch.is_turned ? patch.by + ", rotated by 180°" : patch.by, &patch.factors},
      {"products", &products}};
  std::string text = in_ink(ink::noticed,
                            fmt::format("{} × {}", table_of(patch.met, patch.of_met),
                                        table_of(patch.by, patch.of_by)),
                            style) +
                     fmt::format(": {}\n", format_number(patch.sum, style.digits));
  std::vector<std::vector<std::string>> blocks;
  std::vector<std::size_t> widths;
  std::size_t used = 0;
  for (const auto& [heading, numbers] : parts) {
    widths.push_back(width_of(heading, *numbers, style.digits));
    used += widths.back() + 4;
    blocks.push_back(block_of(in_ink(ink::faint, heading, style), *numbers, style));
  }
  const bool side_by_side = used <= style.width;
  if (!side_by_side) {
    for (const std::vector<std::string>& block : blocks) {
      for (const std::string& line : block)
        text += "  " + line + "\n";
    }
    return text;
  }
  TerminalStyle plain = style;
  plain.colour = false;
  for (std::size_t line = 0; line < blocks.front().size(); ++line) {
    std::string row;
    for (std::size_t at = 0; at < blocks.size(); ++at) {
      const std::string bare = block_of(parts[at].first, *parts[at].second, plain)[line];
      row += "  " + blocks[at][line] + std::string(widths[at] - columns(bare) + 2, ' ');
    }
    text += row.substr(0, row.find_last_not_of(' ') + 1) + "\n";
  }
  return text;
}

}  // namespace

std::string show_patches(const std::vector<Patch>& patches, const TerminalStyle& asked) {
  // One digit less than elsewhere, so that three tables of three columns stand beside each other.
  TerminalStyle style = asked;
  if (style.digits == usual_digits) style.digits = usual_digits - 1;
  std::string text;
  std::size_t count = 0;
  for (const Patch& patch : patches) {
    const bool is_small = patch.numbers.count() <= most_places;
    if (is_small && ++count <= most_drawn) {
      text += "\n" + drawn(patch, style);
    } else {
      text += fmt::format("{}{} × {}, {} places: {}\n", text.empty() ? "\n" : "",
                          table_of(patch.met, patch.of_met), table_of(patch.by, patch.of_by),
                          patch.numbers.count(), format_number(patch.sum, style.digits));
    }
  }
  return text;
}

}  // namespace lattice
