#include "show/sheet_look.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

constexpr lxw_color_t teal = 0x9BD0CB;
constexpr lxw_color_t plum = 0xDDB3CF;
constexpr lxw_color_t paper = 0xFFFEF9;
constexpr lxw_color_t amber = 0xB45F06;
constexpr lxw_color_t amber_wash = 0xF9DFAE;
constexpr lxw_color_t pencil = 0x666A70;
constexpr lxw_color_t ruled_line = 0xD9DFDD;
constexpr lxw_color_t margin_rule = 0xD8B9C6;

template <class Set>
lxw_format* format_with(lxw_workbook* book, Set set) {
  lxw_format* const format = made(xlsx().workbook_add_format(book));
  set(format);
  return format;
}

}  // namespace

void refuse_book() {
  throw FileError({.what = "the spreadsheet cannot be written",
                   .expected = "memory, and room on the disk for passing files"});
}

void check_book(lxw_error error) {
  if (error == LXW_ERROR_MEMORY_MALLOC_FAILED) throw std::bad_alloc();
  if (error != LXW_NO_ERROR) refuse_book();
}

std::size_t form_of(const Tensor& numbers) {
  double largest = 0.0;
  for (const double number : numbers.numbers())
    largest = std::max(largest, std::abs(number));
  if (largest == 0.0) return 0;
  return largest >= 1000.0 ? 2 : largest < 0.001 ? 3 : 1;
}

SheetLook::SheetLook(lxw_workbook* book)
    : title(format_with(book,
                        [](lxw_format* f) {
                          xlsx().format_set_bold(f);
                          xlsx().format_set_font_size(f, 13);
                        })),
      heading(format_with(book,
                          [](lxw_format* f) {
                            xlsx().format_set_bold(f);
                            xlsx().format_set_font_color(f, amber);
                          })),
      label(format_with(book, [](lxw_format* f) { xlsx().format_set_font_color(f, pencil); })),
      column(format_with(book,
                         [](lxw_format* f) {
                           xlsx().format_set_font_color(f, pencil);
                           xlsx().format_set_align(f, LXW_ALIGN_RIGHT);
                           xlsx().format_set_bottom(f, LXW_BORDER_THIN);
                           xlsx().format_set_bottom_color(f, margin_rule);
                         })),
      blank(format_with(book,
                        [](lxw_format* f) {
                          xlsx().format_set_border(f, LXW_BORDER_MEDIUM);
                          xlsx().format_set_border_color(f, amber);
                          xlsx().format_set_bg_color(f, amber_wash);
                        })),
      right(format_with(book, [](lxw_format* f) { xlsx().format_set_bg_color(f, teal); })),
      wrong(format_with(book, [](lxw_format* f) { xlsx().format_set_bg_color(f, plum); })) {
  const auto set = [book](const std::string& form, lxw_format*& plain, lxw_format*& bold) {
    const auto number = [&form](lxw_format* f) {
      xlsx().format_set_num_format(f, form.c_str());
      xlsx().format_set_bottom(f, LXW_BORDER_HAIR);
      xlsx().format_set_bottom_color(f, ruled_line);
    };
    plain = format_with(book, number);
    bold = format_with(book, [&](lxw_format* f) {
      number(f);
      xlsx().format_set_bold(f);
    });
  };
  for (std::size_t at = 0; at < number_forms.size(); ++at) {
    const std::string form = number_forms.at(at);
    set(form, calculated.at(at), given.at(at));
    set(fmt::format("{0};-{0};\"·\"", form), calculated_sparse.at(at), given_sparse.at(at));
  }
}

std::string cell_text(std::string_view text) {
  // A cell holds 32 767 letters, of which some count twice.
  constexpr std::size_t most_letters = 16'000;
  return cut_to(harmless(text), most_letters);
}

void write_text(lxw_worksheet* sheet, lxw_row_t row, lxw_col_t column, std::string_view text,
                lxw_format* look) {
  check_book(xlsx().worksheet_write_string(sheet, row, column, cell_text(text).c_str(), look));
}

void tint(lxw_worksheet* sheet, const CellRange& cells) {
  std::array<char, LXW_MAX_CELL_RANGE_LENGTH> range{};
  xlsx().lxw_rowcol_to_range_abs(range.data(), cells.first_row, cells.first_column, cells.last_row,
                                 cells.last_column);
  // As far below 0 as above: where nothing is below, 0 is no colour all the same.
  std::string lowest = fmt::format("=MIN(MIN({0}),-MAX({0}))", range.data());
  std::string highest = fmt::format("=MAX(MAX({0}),-MIN({0}))", range.data());
  lxw_conditional_format scale{};
  scale.type = LXW_CONDITIONAL_3_COLOR_SCALE;
  scale.min_rule_type = LXW_CONDITIONAL_RULE_TYPE_FORMULA;
  scale.min_value_string = lowest.data();
  scale.mid_rule_type = LXW_CONDITIONAL_RULE_TYPE_NUMBER;
  scale.mid_value = 0.0;
  scale.max_rule_type = LXW_CONDITIONAL_RULE_TYPE_FORMULA;
  scale.max_value_string = highest.data();
  scale.min_color = plum;
  scale.mid_color = paper;
  scale.max_color = teal;
  check_book(xlsx().worksheet_conditional_format_range(sheet, cells.first_row, cells.first_column,
                                                       cells.last_row, cells.last_column, &scale));
}

}  // namespace lattice
