#pragma once

#include <xlsxwriter.h>

#include "files/library_files.hpp"
#include "files/loaded_library.hpp"

namespace lattice {

/// The functions of the library for spreadsheets that are used. It is loaded with the first
/// spreadsheet.
struct SpreadsheetLibrary {
  LoadedLibrary library{spreadsheet_library_file, "a spreadsheet"};
  decltype(&::format_set_align) format_set_align = library.find("format_set_align");
  decltype(&::format_set_bg_color) format_set_bg_color = library.find("format_set_bg_color");
  decltype(&::format_set_bold) format_set_bold = library.find("format_set_bold");
  decltype(&::format_set_border) format_set_border = library.find("format_set_border");
  decltype(&::format_set_border_color) format_set_border_color =
      library.find("format_set_border_color");
  decltype(&::format_set_bottom) format_set_bottom = library.find("format_set_bottom");
  decltype(&::format_set_bottom_color) format_set_bottom_color =
      library.find("format_set_bottom_color");
  decltype(&::format_set_font_color) format_set_font_color = library.find("format_set_font_color");
  decltype(&::format_set_font_size) format_set_font_size = library.find("format_set_font_size");
  decltype(&::format_set_num_format) format_set_num_format = library.find("format_set_num_format");
  decltype(&::lxw_col_to_name) lxw_col_to_name = library.find("lxw_col_to_name");
  decltype(&::lxw_rowcol_to_cell) lxw_rowcol_to_cell = library.find("lxw_rowcol_to_cell");
  decltype(&::lxw_rowcol_to_range_abs) lxw_rowcol_to_range_abs =
      library.find("lxw_rowcol_to_range_abs");
  decltype(&::lxw_workbook_free) lxw_workbook_free = library.find("lxw_workbook_free");
  decltype(&::workbook_add_format) workbook_add_format = library.find("workbook_add_format");
  decltype(&::workbook_add_worksheet) workbook_add_worksheet =
      library.find("workbook_add_worksheet");
  decltype(&::workbook_close) workbook_close = library.find("workbook_close");
  decltype(&::workbook_define_name) workbook_define_name = library.find("workbook_define_name");
  decltype(&::workbook_new) workbook_new = library.find("workbook_new");
  decltype(&::worksheet_conditional_format_cell) worksheet_conditional_format_cell =
      library.find("worksheet_conditional_format_cell");
  decltype(&::worksheet_conditional_format_range) worksheet_conditional_format_range =
      library.find("worksheet_conditional_format_range");
  decltype(&::worksheet_data_validation_cell) worksheet_data_validation_cell =
      library.find("worksheet_data_validation_cell");
  decltype(&::worksheet_fit_to_pages) worksheet_fit_to_pages =
      library.find("worksheet_fit_to_pages");
  decltype(&::worksheet_freeze_panes) worksheet_freeze_panes =
      library.find("worksheet_freeze_panes");
  decltype(&::worksheet_hide) worksheet_hide = library.find("worksheet_hide");
  decltype(&::worksheet_print_area) worksheet_print_area = library.find("worksheet_print_area");
  decltype(&::worksheet_repeat_rows) worksheet_repeat_rows = library.find("worksheet_repeat_rows");
  decltype(&::worksheet_set_column) worksheet_set_column = library.find("worksheet_set_column");
  decltype(&::worksheet_set_landscape) worksheet_set_landscape =
      library.find("worksheet_set_landscape");
  decltype(&::worksheet_set_paper) worksheet_set_paper = library.find("worksheet_set_paper");
  decltype(&::worksheet_write_blank) worksheet_write_blank = library.find("worksheet_write_blank");
  decltype(&::worksheet_write_comment) worksheet_write_comment =
      library.find("worksheet_write_comment");
  decltype(&::worksheet_write_formula_num) worksheet_write_formula_num =
      library.find("worksheet_write_formula_num");
  decltype(&::worksheet_write_formula_str) worksheet_write_formula_str =
      library.find("worksheet_write_formula_str");
  decltype(&::worksheet_write_number) worksheet_write_number =
      library.find("worksheet_write_number");
  decltype(&::worksheet_write_string) worksheet_write_string =
      library.find("worksheet_write_string");
};

/// @throws ProgramError where the system does not have the library.
[[nodiscard]] const SpreadsheetLibrary& xlsx();

}  // namespace lattice
