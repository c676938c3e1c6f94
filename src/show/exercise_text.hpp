#pragma once

#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/learning/work_entry.hpp"
#include "lattice/show/terminal.hpp"
#include "show/blanks.hpp"
#include "tensor/tensor_tables.hpp"

namespace lattice {

/// An exercise as text for a terminal: what is shown of a worked sheet while numbers on it are
/// blank. The number of an open blank is in nothing that it writes.
class ExerciseText {
 public:
  /// @param tables, blanks, names, style must outlive it
  ExerciseText(const WorkTables& tables, const std::vector<Blank>& blanks, const AxisNames& names,
               const TerminalStyle& style);

  /// A blank that was answered, or shown, is a number from now on.
  void close(std::size_t blank) { open_.erase(blank); }
  [[nodiscard]] bool is_open(std::size_t blank) const { return open_.contains(blank); }

  /// The numbers of the blanks that are open.
  [[nodiscard]] std::vector<WorkTables::Spot> open() const;

  /// The stage and the line of a blank, its table, and the tables that it is made from.
  [[nodiscard]] std::string question(std::size_t blank) const;

  /// How the number of a blank is made, in names or with the numbers.
  [[nodiscard]] std::string formula(std::size_t blank, bool filled_in) const;

  /// Tables by their name, `∂hidden`, or one number of them, `∂hidden[0,2]`.
  /// @throws NameError, IndexError where there is none.
  [[nodiscard]] std::string look(std::string_view name) const;

  /// `▢3  hidden[0,2]`.
  [[nodiscard]] std::string name(std::size_t blank) const;

 private:
  using Spot = WorkTables::Spot;

  [[nodiscard]] std::optional<std::size_t> open_at(const Spot& spot) const;
  [[nodiscard]] std::string number_at(const Spot& spot) const;
  [[nodiscard]] std::string table(std::size_t at, const std::set<std::int64_t>& within) const;
  [[nodiscard]] std::string heading_of(std::size_t table) const;
  [[nodiscard]] std::string title_of_table(std::size_t table) const;
  [[nodiscard]] std::vector<std::pair<std::size_t, std::set<std::int64_t>>> needed_for(
      const Spot& spot) const;

  const WorkTables& tables_;
  const std::vector<Blank>& blanks_;
  const AxisNames& names_;
  const TerminalStyle& style_;
  std::vector<WorkEntry> entries_;
  std::set<std::size_t> open_ = {};
};

}  // namespace lattice
