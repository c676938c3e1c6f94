#pragma once

#include <cstddef>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "lattice/learning/worked_example.hpp"
#include "lattice/tensor/axis_names.hpp"
#include "show/cell_formula.hpp"
#include "show/sheet_layout.hpp"
#include "show/sheet_look.hpp"
#include "show/spreadsheet_library.hpp"
#include "show/work_tables.hpp"

namespace lattice {

/// A sheet in the making.
struct Sheet {
  std::string name;
  lxw_worksheet* sheet;
  std::optional<std::size_t> work;  ///< the step that it shows; none where steps share it
  lxw_row_t next_row = 3;
  lxw_col_t widest = first_column;
};

/// True for numbers that stand in the book with those that are not stored. Of larger sparse
/// matrices than `most_written_out` these cells stay empty, and formulas leave them out.
[[nodiscard]] bool is_written_out(const Tensor& numbers);

/// Where the tables of one worked sheet stand.
struct Work {
  explicit Work(const WorkedStep& step_) : step(&step_), tables(step_.work, most_written_out) {}

  const WorkedStep* step;
  WorkTables tables;
  std::vector<CellBlock> blocks = {};                  ///< how each table is laid out
  std::vector<SheetCell> corners = {};                 ///< of the first number of each table
  std::vector<std::size_t> forms = {};                 ///< of the numbers of each table
  std::map<WorkTables::Spot, SheetCell> answers = {};  ///< of numbers that are left blank
  const Work* before = nullptr;     ///< the step whose end this one begins with, if it is there
  const Work* same_data = nullptr;  ///< the step before in the book, where all have the same rows

  /// The cell of a number in its table.
  [[nodiscard]] SheetCell place_in_block(WorkTables::Spot spot) const;

  /// The cell whose number others are made from: not a blank, but the answer to it.
  [[nodiscard]] SheetCell place_of(WorkTables::Spot spot) const;

  /// The last row and the last column of a table.
  [[nodiscard]] lxw_row_t last_row_of(std::size_t table) const;
  [[nodiscard]] lxw_col_t last_column_of(std::size_t table) const;
};

/// A workbook in the making: its sheets, and the numbers of worked sheets as formulas in them.
class Workbook {
 public:
  Workbook(const std::string& path, const AxisNames& names);

  /// The sheet with a name; made when there is none yet. Names of sheets are short, of few kinds of
  /// letters, and the same in capitals.
  std::size_t sheet_called(const std::string& wanted,
                           std::optional<std::size_t> work = std::nullopt);

  [[nodiscard]] std::vector<Sheet>& sheets() { return sheets_; }
  [[nodiscard]] const SheetLook& look() const { return look_; }
  [[nodiscard]] const AxisNames& names() const { return names_; }
  [[nodiscard]] lxw_workbook* book() const { return book_.get(); }

  /// A cell, as formulas of the sheet `from` name it.
  [[nodiscard]] std::string reference(const SheetCell& to, std::size_t from) const;

  /// The formula of a number, as a cell of the sheet `from` has it; empty where it is given, or
  /// made by a function that spreadsheets do not have.
  [[nodiscard]] std::string formula_of(const Work& work, WorkTables::Spot spot, std::size_t from);

  void write_formula(const SheetCell& place, const std::string& formula, double number,
                     lxw_format* look);
  void write(const SheetCell& place, double number, lxw_format* look);
  void write(const SheetCell& place, std::string_view text, lxw_format* look);

  /// Writes a number of a worked sheet: as a formula where it has one.
  void write_number(const Work& work, WorkTables::Spot spot, const SheetCell& place);

  /// Writes what stands above and beside the numbers of a table.
  void write_labels(const Work& work, std::size_t table);

  /// Writes the file. @throws FileError.
  void close() { check_book(xlsx().workbook_close(book_.release())); }

 private:
  struct CloseWorkbook {
    void operator()(lxw_workbook* book) const { xlsx().lxw_workbook_free(book); }
  };

  [[nodiscard]] std::string sheet_prefix(std::size_t sheet, std::size_t from) const;
  [[nodiscard]] std::optional<CellFormulas::Range> range(const Work& work,
                                                         std::span<const Formula> parts,
                                                         WorkTables::Spot inside,
                                                         std::size_t from) const;
  [[nodiscard]] std::string set_apart(const std::vector<std::pair<std::string, double>>& parts,
                                      std::size_t from);

  const AxisNames& names_;
  std::unique_ptr<lxw_workbook, CloseWorkbook> book_;
  SheetLook look_;
  std::vector<Sheet> sheets_ = {};
};

}  // namespace lattice
