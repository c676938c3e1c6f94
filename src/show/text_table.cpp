#include "show/text_table.hpp"

#include <algorithm>
#include <cctype>
#include <numeric>

#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/ink.hpp"

namespace lattice {

std::string cut_to(const std::string& text, std::size_t width) {
  if (columns(text) <= width) return text;
  std::string cut;
  std::size_t used = 0;
  for (const char letter : text) {
    const bool starts_a_letter = (static_cast<unsigned char>(letter) & 0xC0U) != 0x80U;
    if (starts_a_letter && ++used >= width) break;
    cut += letter;
  }
  return cut + "…";
}

std::string shortened(const std::string& text, std::size_t width) {
  if (columns(text) <= width) return text;
  const std::size_t of_end = (width - 1) / 2;
  std::size_t from = text.size();
  for (std::size_t letters = 0; from > 0 && letters < of_end;) {
    --from;
    if ((static_cast<unsigned char>(text[from]) & 0xC0U) != 0x80U) ++letters;
  }
  return cut_to(text, width - of_end) + text.substr(from);
}

namespace {

/// How many bytes all names begin and end with alike, in whole words.
std::pair<std::size_t, std::size_t> alike_ends(const std::vector<std::string>& names) {
  const auto is_within_word = [](char letter) {
    const auto byte = static_cast<unsigned char>(letter);
    return std::isalnum(byte) != 0 || byte >= 0x80 || letter == '.' || letter == '_';
  };
  const std::string& first = names.front();
  std::size_t before = first.size();
  for (const std::string& name : names) {
    const auto same = std::ranges::mismatch(first, name).in1 - first.begin();
    before = std::min(before, static_cast<std::size_t>(same));
  }
  while (before > 0 && is_within_word(first[before - 1]))
    --before;
  std::size_t after = first.size() - before;
  for (const std::string& name : names) {
    std::size_t same = 0;
    while (same < std::min(after, name.size() - before) &&
           first[first.size() - 1 - same] == name[name.size() - 1 - same])
      ++same;
    after = same;
  }
  while (after > 0 && is_within_word(first[first.size() - after]))
    --after;
  return {before, after};
}

}  // namespace

std::vector<std::string> what_differs(const std::vector<std::string>& names) {
  const auto [before, after] = alike_ends(names);
  std::vector<std::string> differing;
  differing.reserve(names.size());
  for (const std::string& name : names)
    differing.emplace_back(trimmed(name.substr(before, name.size() - before - after)));
  return differing;
}

void TextTable::label_rows(const std::vector<std::string>& labels) {
  for (std::size_t row = 0; row < rows_.size(); ++row)
    rows_[row].front() = labels[row];
}

namespace {

/// The columns that a table of such widths takes, with two blanks between them.
std::size_t total_of(const std::vector<std::size_t>& widths) {
  return std::accumulate(widths.begin(), widths.end(), 2 * (widths.size() - 1));
}

}  // namespace

std::vector<std::size_t> TextTable::widths() const {
  std::vector<std::size_t> widths;
  for (std::size_t column = 0; column < headings_.size(); ++column) {
    std::size_t width = columns(headings_[column].text);
    for (const std::vector<Entry>& row : rows_)
      width = std::max(width, columns(row[column].text));
    widths.push_back(width);
  }
  return widths;
}

bool TextTable::fits(std::size_t width) const {
  return total_of(widths()) <= width;
}

std::string TextTable::text(const TerminalStyle& style) const {
  std::vector<std::size_t> widths = this->widths();
  // The widest column of words makes way when the page is too narrow.
  std::size_t total = total_of(widths);
  while (total > style.width) {
    std::size_t widest = widths.size();
    for (std::size_t column = 0; column < widths.size(); ++column) {
      if (headings_[column].set == Set::left &&
          (widest == widths.size() || widths[column] > widths[widest]))
        widest = column;
    }
    if (widest == widths.size() || widths[widest] < 4) break;
    --widths[widest];
    --total;
  }
  const auto write = [&](const auto& cell_of) {
    std::string line;
    for (std::size_t column = 0; column < widths.size(); ++column) {
      const Entry cell = cell_of(column);
      const std::string words = shortened(cell.text, widths[column]);
      const std::string room(widths[column] - std::min(widths[column], columns(words)), ' ');
      const std::string inked = cell.ink.empty() ? words : in_ink(cell.ink, words, style);
      if (column > 0) line += "  ";
      line += headings_[column].set == Set::left ? inked + room : room + inked;
    }
    line.erase(line.find_last_not_of(' ') + 1);
    return line + "\n";
  };
  std::string heading = write([&](std::size_t column) { return Entry(headings_[column].text); });
  heading.pop_back();
  std::string text = in_ink(ink::faint, heading, style) + "\n";
  for (const std::vector<Entry>& row : rows_)
    text += write([&](std::size_t column) { return row[column]; });
  return text;
}

}  // namespace lattice
