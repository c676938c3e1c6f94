#pragma once

#include <xlsxwriter.h>

namespace lattice {

/// The functions of the library for spreadsheets that are used. It is loaded with the first
/// spreadsheet.
struct SpreadsheetLibrary {
  decltype(&::format_set_align) format_set_align = nullptr;
  decltype(&::format_set_bg_color) format_set_bg_color = nullptr;
  decltype(&::format_set_bold) format_set_bold = nullptr;
  decltype(&::format_set_border) format_set_border = nullptr;
  decltype(&::format_set_border_color) format_set_border_color = nullptr;
  decltype(&::format_set_bottom) format_set_bottom = nullptr;
  decltype(&::format_set_bottom_color) format_set_bottom_color = nullptr;
  decltype(&::format_set_font_color) format_set_font_color = nullptr;
  decltype(&::format_set_font_size) format_set_font_size = nullptr;
  decltype(&::format_set_num_format) format_set_num_format = nullptr;
  decltype(&::lxw_col_to_name) lxw_col_to_name = nullptr;
  decltype(&::lxw_rowcol_to_cell) lxw_rowcol_to_cell = nullptr;
  decltype(&::lxw_rowcol_to_range_abs) lxw_rowcol_to_range_abs = nullptr;
  decltype(&::lxw_workbook_free) lxw_workbook_free = nullptr;
  decltype(&::workbook_add_format) workbook_add_format = nullptr;
  decltype(&::workbook_add_worksheet) workbook_add_worksheet = nullptr;
  decltype(&::workbook_close) workbook_close = nullptr;
  decltype(&::workbook_define_name) workbook_define_name = nullptr;
  decltype(&::workbook_new) workbook_new = nullptr;
  decltype(&::worksheet_conditional_format_cell) worksheet_conditional_format_cell = nullptr;
  decltype(&::worksheet_conditional_format_range) worksheet_conditional_format_range = nullptr;
  decltype(&::worksheet_data_validation_cell) worksheet_data_validation_cell = nullptr;
  decltype(&::worksheet_fit_to_pages) worksheet_fit_to_pages = nullptr;
  decltype(&::worksheet_freeze_panes) worksheet_freeze_panes = nullptr;
  decltype(&::worksheet_hide) worksheet_hide = nullptr;
  decltype(&::worksheet_print_area) worksheet_print_area = nullptr;
  decltype(&::worksheet_repeat_rows) worksheet_repeat_rows = nullptr;
  decltype(&::worksheet_set_column) worksheet_set_column = nullptr;
  decltype(&::worksheet_set_landscape) worksheet_set_landscape = nullptr;
  decltype(&::worksheet_set_paper) worksheet_set_paper = nullptr;
  decltype(&::worksheet_write_blank) worksheet_write_blank = nullptr;
  decltype(&::worksheet_write_comment) worksheet_write_comment = nullptr;
  decltype(&::worksheet_write_formula_num) worksheet_write_formula_num = nullptr;
  decltype(&::worksheet_write_formula_str) worksheet_write_formula_str = nullptr;
  decltype(&::worksheet_write_number) worksheet_write_number = nullptr;
  decltype(&::worksheet_write_string) worksheet_write_string = nullptr;
};

/// @throws ProgramError where the system does not have the library.
[[nodiscard]] const SpreadsheetLibrary& xlsx();

}  // namespace lattice
