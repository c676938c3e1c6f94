#pragma once

#include <xlsxwriter.h>

namespace lattice {

/// Calls `each(name)` for every function of the library for spreadsheets that is used.
#define LATTICE_SPREADSHEET_FUNCTIONS(each)                                                        \
  each(format_set_align) each(format_set_bg_color) each(format_set_bold) each(format_set_border)   \
      each(format_set_border_color) each(format_set_bottom) each(format_set_bottom_color)          \
          each(format_set_font_color) each(format_set_font_size) each(format_set_num_format)       \
              each(lxw_col_to_name) each(lxw_rowcol_to_cell) each(lxw_rowcol_to_range_abs)         \
                  each(lxw_workbook_free) each(workbook_add_format) each(workbook_add_worksheet)   \
                      each(workbook_close) each(workbook_define_name) each(workbook_new)           \
                          each(worksheet_conditional_format_cell)                                  \
                              each(worksheet_conditional_format_range) each(                       \
                                  worksheet_data_validation_cell) each(worksheet_fit_to_pages)     \
                                  each(worksheet_freeze_panes) each(worksheet_hide)                \
                                      each(worksheet_print_area) each(worksheet_repeat_rows)       \
                                          each(worksheet_set_column) each(worksheet_set_landscape) \
                                              each(worksheet_set_paper)                            \
                                                  each(worksheet_write_blank)                      \
                                                      each(worksheet_write_comment)                \
                                                          each(worksheet_write_formula_num)        \
                                                              each(worksheet_write_formula_str)    \
                                                                  each(worksheet_write_number)     \
                                                                      each(worksheet_write_string)

/// These functions, of a library that is loaded with the first spreadsheet.
struct SpreadsheetLibrary {
#define LATTICE_MEMBER(name) decltype(&::name) name = nullptr;
  LATTICE_SPREADSHEET_FUNCTIONS(LATTICE_MEMBER)
#undef LATTICE_MEMBER
};

/// @throws ProgramError where the system does not have the library.
[[nodiscard]] const SpreadsheetLibrary& xlsx();

}  // namespace lattice
