#pragma once

#include <string>
#include <string_view>

#include "lattice/data/table.hpp"

namespace lattice {

/// A table from JSON records: a list of objects, each a row. Numbers, words, true and false are
/// fields; what is null or not said is missing.
/// @throws FileError that names the record, for what is not JSON, not a list of objects, or holds
///         lists and objects in its fields; and where there is no record.
[[nodiscard]] Table parse_records(std::string_view text, const std::string& name,
                                  const std::string& list = {});

}  // namespace lattice
