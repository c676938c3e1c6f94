#include "lattice/tensor/error.hpp"

#include <fmt/format.h>

#include "lattice/tensor/text.hpp"

namespace lattice {
namespace {

/// What was found may hold anything; the message may be sent to a terminal.
std::string compose(const Trouble& trouble) {
  std::string message = harmless(trouble.what);
  const auto add = [&](std::string_view label, const std::string& text) {
    if (!text.empty()) message += fmt::format("\n  {:<9} {}", label, harmless(text));
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
