#include "lattice/text/printing.hpp"

#include <fmt/format.h>

#include <ostream>

namespace lattice::detail {

fmt::format_context::iterator put(const TextFormatter& format, std::string_view text,
                                  fmt::format_context& context) {
  return format.format(text, context);
}

void put(std::ostream& stream, std::string_view text) {
  stream << text;
}

}  // namespace lattice::detail
