#include "lattice/text/error.hpp"

#include <fmt/format.h>

#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

/// What was found may hold anything, and be of any length; the message may be sent to a terminal.
std::string readable(std::string_view text) {
  constexpr std::size_t longest = 2000;
  std::string shown = harmless(text);
  if (shown.size() <= longest) return shown;
  std::size_t end = longest;
  while ((static_cast<unsigned char>(shown[end]) & 0xC0U) == 0x80U)
    --end;
  return shown.substr(0, end) + " …";
}

/// The line, and below it a mark under the part; of a long line only what is around the part.
std::string marked(const Excerpt& excerpt) {
  constexpr std::size_t before = 40;
  constexpr std::size_t most = 76;
  const std::string line = harmless(excerpt.text);
  const std::size_t start = excerpt.from > before + most / 4 ? excerpt.from - before : 0;
  std::string shown;
  std::size_t column = 0;
  for (std::size_t at = 0; at < line.size(); ++column) {
    std::size_t stop = at + 1;
    while (stop < line.size() && (static_cast<unsigned char>(line[stop]) & 0xC0U) == 0x80U)
      ++stop;
    if (column >= start && column < start + most) shown += line.substr(at, stop - at);
    at = stop;
  }
  const std::string lead = start > 0 ? "… " : "";
  const std::size_t indent = 12 + columns(lead) + excerpt.from - start;
  const std::size_t room = most - std::min(most - 1, excerpt.from - start);
  const std::size_t marks = std::min(std::max<std::size_t>(1, excerpt.columns), room);
  return fmt::format("\n{:12}{}{}{}\n{:{}}{}", "", lead, shown, column > start + most ? " …" : "",
                     "", indent, std::string(marks, '^'));
}

std::string compose(const Trouble& trouble) {
  std::string message = readable(trouble.what);
  const auto add = [&](std::string_view label, const std::string& text) {
    if (!text.empty()) message += fmt::format("\n  {:<9} {}", label, readable(text));
  };
  add("where:", trouble.where);
  if (!trouble.excerpt.text.empty()) message += marked(trouble.excerpt);
  add("expected:", trouble.expected);
  add("found:", trouble.found);
  add("try:", trouble.remedy);
  return message;
}

}  // namespace

Error::Error(Trouble trouble) : trouble_(std::move(trouble)), message_(compose(trouble_)) {}

}  // namespace lattice
