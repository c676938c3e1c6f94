#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/axis_names.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// The largest sheet that is read, in bytes.
inline constexpr std::size_t most_sheet_bytes = std::size_t{1} << 26;

/// What a sheet says beside its lines.
struct SheetHeading {
  std::string title = {};
  AxisNames names = {};                 ///< of positions: `features`, `targets`, `classes`, `nodes`
  std::vector<std::int64_t> rows = {};  ///< of the data, where the sheet takes rows of a data set
};

/// Rows of a data set, for the statement `data` of a sheet.
struct SheetData {
  Tensor features;
  Tensor targets = {};  ///< or classes
  Tensor classes = {};
  SheetHeading heading = {};
};

/// The rows that a sheet asks for: `data pots.csv, rows 0 to 3, target kind, feature width`.
struct AskedRows {
  std::string set;
  std::int64_t first = 0;
  std::int64_t last = -1;  ///< included; −1 for all
  std::vector<std::string> targets =
      {};  ///< the columns to predict; by default as the set has them
  std::vector<std::string> features = {};  ///< by default all others
};

/// How a sheet is read.
struct SheetReading {
  std::string name = "the sheet";  ///< in messages: `cost.sheet`

  /// Gives the rows that a sheet asks for. Without it, sheets with such a statement are refused.
  std::function<SheetData(const AskedRows& rows)> data = nullptr;

  /// The most numbers that a line may have.
  std::int64_t most_numbers = 100'000'000;

  /// Takes the place of the seed that the sheet names.
  std::optional<std::uint64_t> seed = std::nullopt;
};

/// A worksheet that was read from text.
struct ReadSheet {
  Worksheet sheet;
  Line result;  ///< where the sweep starts: as the sheet says, or the last line
  SheetHeading heading = {};
};

/// Reads a worksheet from text: given lines, weights and calculations as on a board.
///
/// @code
/// const ReadSheet read = read_sheet(R"(
///   given  x = [[4.8], [8.5], [2.6]]        # minutes of firing
///   given  y = [[428], [733], [229]]
///   weight W = [[80]]
///   weight b = [20]
///   z = x·W + b
///   cost = mean((z − y)²)/2
/// )");
/// const Tensor slope = reverse_sweep(read.result)["W"];
/// @endcode
/// docs/sheets.md describes the notation. A product and a bias, `x·W + b`, are one line, as is each
/// function; in brackets, `(x·W) + b`, they are two.
/// @throws SettingError that marks the place for what cannot be read, or calculated.
[[nodiscard]] ReadSheet read_sheet(std::string_view text, const SheetReading& reading = {});

/// Writes a worksheet as text with all digits. `read_sheet` gives the same lines with the same
/// numbers.
/// @param result where the sweep starts
/// @throws SettingError for an operation that sheets do not have: one of your own.
[[nodiscard]] std::string sheet_text(const Worksheet& sheet, const Line& result,
                                     const SheetHeading& heading = {});

}  // namespace lattice
