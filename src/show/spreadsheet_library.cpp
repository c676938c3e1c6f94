#include "show/spreadsheet_library.hpp"

#include "files/library_files.hpp"
#include "files/loaded_library.hpp"

namespace lattice {
namespace {

SpreadsheetLibrary loaded() {
  const LoadedLibrary library(spreadsheet_library_file, "a spreadsheet");
  SpreadsheetLibrary functions;
  library.find("format_set_align", functions.format_set_align);
  library.find("format_set_bg_color", functions.format_set_bg_color);
  library.find("format_set_bold", functions.format_set_bold);
  library.find("format_set_border", functions.format_set_border);
  library.find("format_set_border_color", functions.format_set_border_color);
  library.find("format_set_bottom", functions.format_set_bottom);
  library.find("format_set_bottom_color", functions.format_set_bottom_color);
  library.find("format_set_font_color", functions.format_set_font_color);
  library.find("format_set_font_size", functions.format_set_font_size);
  library.find("format_set_num_format", functions.format_set_num_format);
  library.find("lxw_col_to_name", functions.lxw_col_to_name);
  library.find("lxw_rowcol_to_cell", functions.lxw_rowcol_to_cell);
  library.find("lxw_rowcol_to_range_abs", functions.lxw_rowcol_to_range_abs);
  library.find("lxw_workbook_free", functions.lxw_workbook_free);
  library.find("workbook_add_format", functions.workbook_add_format);
  library.find("workbook_add_worksheet", functions.workbook_add_worksheet);
  library.find("workbook_close", functions.workbook_close);
  library.find("workbook_define_name", functions.workbook_define_name);
  library.find("workbook_new", functions.workbook_new);
  library.find("worksheet_conditional_format_cell", functions.worksheet_conditional_format_cell);
  library.find("worksheet_conditional_format_range", functions.worksheet_conditional_format_range);
  library.find("worksheet_data_validation_cell", functions.worksheet_data_validation_cell);
  library.find("worksheet_fit_to_pages", functions.worksheet_fit_to_pages);
  library.find("worksheet_freeze_panes", functions.worksheet_freeze_panes);
  library.find("worksheet_hide", functions.worksheet_hide);
  library.find("worksheet_print_area", functions.worksheet_print_area);
  library.find("worksheet_repeat_rows", functions.worksheet_repeat_rows);
  library.find("worksheet_set_column", functions.worksheet_set_column);
  library.find("worksheet_set_landscape", functions.worksheet_set_landscape);
  library.find("worksheet_set_paper", functions.worksheet_set_paper);
  library.find("worksheet_write_blank", functions.worksheet_write_blank);
  library.find("worksheet_write_comment", functions.worksheet_write_comment);
  library.find("worksheet_write_formula_num", functions.worksheet_write_formula_num);
  library.find("worksheet_write_formula_str", functions.worksheet_write_formula_str);
  library.find("worksheet_write_number", functions.worksheet_write_number);
  library.find("worksheet_write_string", functions.worksheet_write_string);
  return functions;
}

}  // namespace

const SpreadsheetLibrary& xlsx() {
  static const SpreadsheetLibrary functions = loaded();
  return functions;
}

}  // namespace lattice
