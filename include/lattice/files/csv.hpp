#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/dataset.hpp"

namespace lattice {

/// Which columns of a table are learnt from, and which is learnt.
struct ColumnChoice {
  std::string target;                      ///< the column to predict
  std::vector<std::string> features = {};  ///< all other columns when none is named
};

/// Reads a table with a header row from a CSV file as RFC 4180 describes it. The chosen columns
/// must hold finite numbers; what is in the others does not matter.
/// @throws FileError, naming row and column, when the file is missing, empty, ragged or holds
///         something else than numbers; NameError for a column that is not there.
[[nodiscard]] Dataset read_csv(const std::filesystem::path& path, const ColumnChoice& choice);

/// The same from text; `name` stands for it in messages.
[[nodiscard]] Dataset parse_csv(std::string_view text, const std::string& name,
                                const ColumnChoice& choice);

/// The fields of a single record: `a,"wall, mm"` gives `a` and `wall, mm`.
/// @throws FileError when it is not one record.
[[nodiscard]] std::vector<std::string> parse_csv_record(const std::string& text);

/// A dataset as CSV with a header row, every number in full.
[[nodiscard]] std::string to_csv(const Dataset& data);

}  // namespace lattice
