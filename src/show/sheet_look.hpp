#pragma once

#include <array>
#include <cstddef>
#include <new>
#include <string>
#include <string_view>

#include "lattice/tensor/tensor.hpp"
#include "show/spreadsheet_library.hpp"

namespace lattice {

/// How numbers are written: as they come, for data and settings; with five places; large or tiny
/// ones.
inline constexpr std::array<const char*, 4> number_forms = {"General", "0.00000", "0.00",
                                                            "0.000E+00"};

/// Refuses a book that the library cannot write.
/// @throws FileError
[[noreturn]] void refuse_book();

/// Passes on what the library says of a step. @throws FileError, std::bad_alloc.
void check_book(lxw_error error);

/// Passes on what the library made. @throws std::bad_alloc when it made nothing.
template <class Thing>
[[nodiscard]] Thing* made(Thing* thing) {
  if (thing == nullptr) throw std::bad_alloc();
  return thing;
}

/// The form that suits numbers, from 1; 0 for zeros alone.
[[nodiscard]] std::size_t form_of(const Tensor& numbers);

/// What the cells of a spreadsheet look like; each look belongs to one book.
struct SheetLook {
  explicit SheetLook(lxw_workbook* book);

  lxw_format* title;
  lxw_format* heading;
  lxw_format* label;
  lxw_format* column;
  lxw_format* blank;
  lxw_format* right;
  lxw_format* wrong;

  using OfNumbers = std::array<lxw_format*, number_forms.size()>;  ///< by their form
  OfNumbers calculated = {};
  OfNumbers given = {};
  OfNumbers calculated_sparse = {};  ///< with a mark for 0
  OfNumbers given_sparse = {};
};

/// The cells from one corner to the other, both included.
struct CellRange {
  lxw_row_t first_row;
  lxw_col_t first_column;
  lxw_row_t last_row;
  lxw_col_t last_column;
};

/// Words as far as a cell holds them.
[[nodiscard]] std::string cell_text(std::string_view text);

/// Writes words into a cell.
void write_text(lxw_worksheet* sheet, lxw_row_t row, lxw_col_t column, std::string_view text,
                lxw_format* look);

/// Tints numbers, the darker the larger: teal above 0, plum below. It follows when they change.
void tint(lxw_worksheet* sheet, const CellRange& cells);

}  // namespace lattice
