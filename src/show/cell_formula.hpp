#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/worksheet/formula.hpp"

namespace lattice {

/// Writes formulas in the language of spreadsheets (OpenFormula): `C5*D9+TANH(E2)`.
class CellFormulas {
 public:
  /// Cells that stand next to one another: `C5:F9`.
  struct Range {
    std::string text;
    std::int64_t rows = 1;
    std::int64_t columns = 1;

    [[nodiscard]] bool is_line() const { return rows == 1 || columns == 1; }
  };

  struct Surroundings {
    /// The cell that a number of the worksheet stands in: `C5`, or `forward!C5`.
    std::function<std::string(const Cell& cell)> reference;

    /// The cell of a shorthand; nothing where it has none and is written out.
    std::function<std::optional<std::string>(const Formula& shorthand)> shorthand;

    /// The range that these numbers fill, when they stand next to one another in order, row by row.
    std::function<std::optional<Range>(std::span<const Formula> cells)> range;

    /// The table that a number of the worksheet stands in; those of a channel are one.
    std::function<std::int64_t(const Cell& cell)> table;

    /// Puts parts of a sum that is too long for one cell into cells of their own, and gives the
    /// range of these. A part is a formula's text and its number.
    std::function<std::string(const std::vector<std::pair<std::string, double>>& parts)> set_apart;
  };

  explicit CellFormulas(Surroundings around) : around_(std::move(around)) {}

  /// The formula's text, without `=`. Nothing when there is a function in it that spreadsheets do
  /// not have.
  [[nodiscard]] std::optional<std::string> text(const Formula& formula) const;

 private:
  [[nodiscard]] std::string part(const Formula& formula) const;
  [[nodiscard]] std::string sum(std::span<const Formula> terms) const;
  [[nodiscard]] std::optional<std::string> sum_of_products(std::span<const Formula> terms) const;
  [[nodiscard]] std::string function(const Formula& formula) const;
  [[nodiscard]] std::string place_of(std::string_view outermost,
                                     std::span<const Formula> parts) const;
  [[nodiscard]] std::string choice(const Formula& formula) const;
  [[nodiscard]] std::string pick(const Formula& formula) const;
  [[nodiscard]] std::string list(std::span<const Formula> parts) const;

  Surroundings around_;
};

}  // namespace lattice
