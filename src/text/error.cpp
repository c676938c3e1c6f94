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

std::string compose(const Trouble& trouble) {
  std::string message = readable(trouble.what);
  const auto add = [&](std::string_view label, const std::string& text) {
    if (!text.empty()) message += fmt::format("\n  {:<9} {}", label, readable(text));
  };
  add("where:", trouble.where);
  add("expected:", trouble.expected);
  add("found:", trouble.found);
  add("try:", trouble.remedy);
  return message;
}

}  // namespace

Error::Error(Trouble trouble) : trouble_(std::move(trouble)), message_(compose(trouble_)) {}

}  // namespace lattice
