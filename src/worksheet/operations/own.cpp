#include "lattice/worksheet/operations/own.hpp"

#include <fmt/format.h>

#include "lattice/text/letters.hpp"

namespace lattice::detail {

void check_own_name(std::string_view name, std::size_t longest) {
  const bool is_one_line = name.find_first_of("\t\r\n") == std::string_view::npos;
  if (!name.empty() && name.size() <= longest && is_one_line && !unwelcome_in(name)) return;
  throw NameError({.what = "an operation cannot have this name",
                   .expected = fmt::format("1 to {} letters, digits and signs", longest),
                   .found = fmt::format("'{}'", name)});
}

}  // namespace lattice::detail
