#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/learning/worked_sheet.hpp"
#include "worksheet/explainer.hpp"

namespace lattice {

/// A table of numbers that belongs to a worked sheet.
struct WorkTable {
  enum class Kind : std::uint8_t {
    value,       ///< of a line
    gradient,    ///< at a line
    setting,     ///< of the update rule, one number
    remembered,  ///< what the rule kept of a weight from the updates before
    worked_out,  ///< what the rule makes of it on the way to the new weight
    after        ///< a weight after the update
  };

  Kind kind;
  std::string name;  ///< `hidden`, `∂hidden`, `rate`, `m_before`, `m̂`, `new hidden.weight`
  Tensor numbers;
  std::size_t line = 0;  ///< of the line, or of the weight; 0 for a setting
};

/// Of sparse matrices of up to so many numbers formulas go through all, so that one that is typed
/// in counts where there was none.
inline constexpr std::int64_t most_written_out = 10'000;

/// The settings of the update rule that appear in updates, a number each.
[[nodiscard]] std::vector<WorkTable> settings_of(const WorkedSheet& work);

/// The numbers of the lines that formulas are written for the numbers of, and hold for no others
/// (`Operation::holds_for_any`).
[[nodiscard]] std::set<std::size_t> fixed_lines(const Worksheet& sheet);

/// All tables of a worked sheet, and how each number in them is made from other numbers in
/// them: what is drawn as a page or as a spreadsheet.
class WorkTables {
 public:
  /// One number of a table.
  struct Spot {
    std::size_t table;
    std::int64_t offset;

    friend bool operator==(const Spot&, const Spot&) = default;
    friend bool operator<(const Spot& a, const Spot& b) {
      return a.table != b.table ? a.table < b.table : a.offset < b.offset;
    }
  };

  /// @param in_full of sparse matrices of up to so many numbers formulas go through all of them
  explicit WorkTables(const WorkedSheet& work, std::int64_t in_full = 0);

  [[nodiscard]] const WorkedSheet& work() const { return *work_; }
  [[nodiscard]] const std::vector<WorkTable>& all() const { return tables_; }
  [[nodiscard]] const WorkTable& operator[](std::size_t table) const { return tables_[table]; }

  /// The table of a kind that belongs to a line. Nothing where there is none.
  [[nodiscard]] std::optional<std::size_t> find(WorkTable::Kind kind, std::size_t line,
                                                std::string_view name = {}) const;

  /// Makes the formulas.
  [[nodiscard]] Explainer& explainer() const { return explainer_; }

  /// True when the numbers of a table are calculated.
  [[nodiscard]] bool is_calculated(std::size_t table) const;

  /// How a number of a calculated table is made, by a formula that holds for any numbers
  /// (`Holds::for_any`) but those on `fixed_lines`.
  [[nodiscard]] Formula made(Spot spot) const;

  /// Whether the formulas of the numbers of a calculated table go by axis
  /// (`OperationNature::goes_by_axis`).
  [[nodiscard]] bool goes_by_axis(std::size_t table) const;

  /// Whether those of a calculated line do, and of what it passes on.
  [[nodiscard]] bool goes_by_axis(const Line& line) const { return by_axis_[line.number()].value; }

  /// The same in the form in which it was worked, where it is told in another (`worked`).
  [[nodiscard]] Formula made_as_worked(Spot spot) const;

  /// How the one number of a table was worked, if it is told by another formula that is equal.
  [[nodiscard]] std::string worked(std::size_t table) const;

  /// The offsets of numbers of a table that are what rounding leaves where terms cancel.
  [[nodiscard]] std::vector<std::int64_t> residues(std::size_t table) const;

  /// Where a cell stands that appears in the formula of `inside`.
  [[nodiscard]] Spot find(const Cell& cell, Spot inside) const;

  /// Where a shorthand stands that appears in the formula of `inside`; nothing where it has no
  /// table of its own.
  [[nodiscard]] std::optional<Spot> find_shorthand(const std::string& name, Spot inside) const;

  /// A number by the way people write it: `hidden[0,2]`, `∂hidden[0,2]`, `new hidden.weight[1,0]`.
  /// @throws NameError, IndexError when there is none.
  [[nodiscard]] Spot find(std::string_view text) const;

  /// The way people write it.
  [[nodiscard]] std::string text(Spot spot) const;

 private:
  void add(WorkTable table);
  void find_what_goes_by_axis();

  /// Whether the formulas of the numbers of a line go by axis, and of its gradients.
  struct ByAxis {
    bool value;
    bool gradient;
  };

  const WorkedSheet* work_;
  mutable Explainer explainer_;  ///< keeps what formulas have in common
  std::int64_t in_full_;
  std::vector<WorkTable> tables_;
  std::vector<ByAxis> by_axis_;  ///< by the number of the line, from 1
  std::map<std::pair<WorkTable::Kind, std::size_t>, std::vector<std::size_t>> by_line_;
};

}  // namespace lattice
