#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace lattice::sheets {

/// A text without the quotes around it, in which two quotes stand for one.
[[nodiscard]] std::string unquoted(std::string_view text);

/// A text in quotes, where it could be read as something else.
/// @param signs that it may not have without them
[[nodiscard]] std::string quoted_where_needed(std::string_view text, std::string_view signs = {});

/// Names with commas between them, some in quotes: `minutes, "wall, mm"`; and back.
[[nodiscard]] std::vector<std::string> split_names(std::string_view text);
[[nodiscard]] std::string joined_names(const std::vector<std::string>& names);

}  // namespace lattice::sheets
