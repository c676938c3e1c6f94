#include "show/workbook.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "lattice/learning/work_entry.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {

using Kind = WorkTable::Kind;
using Spot = WorkTables::Spot;

namespace {

/// A sheet that there is none of: references from there always name the sheet.
constexpr std::size_t nowhere = static_cast<std::size_t>(-1);

/// No tensor has as many tables side by side: they would not fit on a sheet.
constexpr std::int64_t most_tables = std::int64_t{1} << 32U;

/// The cell of the step before that data come from which are the same in all steps, as a graph is.
std::optional<SheetCell> in_same_data(const Work& work, Spot spot) {
  const WorkTable& table = work.tables[spot.table];
  if (work.same_data == nullptr || table.kind != Kind::value) return std::nullopt;
  if (work.tables.work().sheet().line(table.line).kind() != Line::Kind::given) return std::nullopt;
  const WorkTables& earlier = work.same_data->tables;
  const std::optional<std::size_t> from = earlier.find(Kind::value, table.line);
  if (!from || earlier[*from].name != table.name || earlier[*from].numbers != table.numbers)
    return std::nullopt;
  return work.same_data->place_of({*from, spot.offset});
}

/// The cell of the step before that a weight, or what a rule remembers, comes from.
std::optional<SheetCell> in_step_before(const Work& work, Spot spot) {
  if (const std::optional<SheetCell> same = in_same_data(work, spot)) return same;
  if (work.before == nullptr) return std::nullopt;
  const WorkTable& table = work.tables[spot.table];
  const WorkTables& earlier = work.before->tables;
  std::optional<std::size_t> from;
  if (table.kind == Kind::value) {
    from = earlier.find(Kind::after, table.line);
  } else if (table.kind == Kind::remembered) {
    for (std::size_t at = 0; at < earlier.all().size(); ++at) {
      const WorkTable& each = earlier[at];
      if (each.kind == Kind::worked_out && each.line == table.line &&
          name_before(each.name) == table.name)
        from = at;
    }
  }
  if (!from) return std::nullopt;
  return work.before->place_of({*from, spot.offset});
}

std::string heading_of(const Work& work, const WorkTable& table) {
  if (table.line == 0) return table.name;
  const Line line = work.tables.work().sheet().line(table.line);
  std::string text = table.kind == Kind::value ? title_of(line) : table.name;
  if (table.kind == Kind::remembered || table.kind == Kind::worked_out)
    text += " of " + line.name();
  return fmt::format("{}   {}", text, to_string(line.shape()));
}

}  // namespace

bool is_written_out(const Tensor& numbers) {
  return !numbers.is_sparse() || numbers.count() <= most_written_out;
}

SheetCell Work::place_in_block(Spot spot) const {
  const SheetCell& corner = corners[spot.table];
  const CellBlock::Place place = blocks[spot.table].place(spot.offset);
  return {corner.sheet, corner.row + place.row,
          static_cast<lxw_col_t>(corner.column + place.column)};
}

SheetCell Work::place_of(Spot spot) const {
  const auto answer = answers.find(spot);
  return answer == answers.end() ? place_in_block(spot) : answer->second;
}

lxw_row_t Work::last_row_of(std::size_t table) const {
  return corners[table].row + static_cast<lxw_row_t>(blocks[table].tables().rows()) - 1;
}

lxw_col_t Work::last_column_of(std::size_t table) const {
  return static_cast<lxw_col_t>(corners[table].column + blocks[table].columns() - 1);
}

Workbook::Workbook(const std::string& path, const AxisNames& names)
    : names_(names), book_(made(xlsx().workbook_new(path.c_str()))), look_(book_.get()) {}

std::size_t Workbook::sheet_called(const std::string& wanted, std::optional<std::size_t> work) {
  std::string name;
  for (const char letter : wanted) {
    const auto byte = static_cast<unsigned char>(letter);
    const bool is_plain =
        byte < 128 && (std::isalnum(byte) != 0 ||
                       std::string_view(" .-_").find(letter) != std::string_view::npos);
    name += is_plain ? static_cast<char>(std::tolower(byte)) : '_';
  }
  if (name.size() > LXW_SHEETNAME_MAX) name.resize(LXW_SHEETNAME_MAX);
  const auto found = std::ranges::find(sheets_, name, &Sheet::name);
  if (found != sheets_.end()) return static_cast<std::size_t>(found - sheets_.begin());
  sheets_.push_back({name, made(xlsx().workbook_add_worksheet(book_.get(), name.c_str())), work});
  return sheets_.size() - 1;
}

std::string Workbook::sheet_prefix(std::size_t sheet, std::size_t from) const {
  return sheet == from ? "" : fmt::format("'{}'!", sheets_[sheet].name);
}

std::string Workbook::reference(const SheetCell& to, std::size_t from) const {
  return sheet_prefix(to.sheet, from) + cell_name(to.row, to.column);
}

/// The range that cells fill when they are neighbours in one row or column, or fill a box row by
/// row.
std::optional<CellFormulas::Range> Workbook::range(const Work& work, std::span<const Formula> parts,
                                                   Spot inside, std::size_t from) const {
  if (parts.size() < 2) return std::nullopt;
  std::vector<SheetCell> places;
  places.reserve(parts.size());
  for (const Formula& part : parts) {
    if (part.kind() != Formula::Kind::cell) return std::nullopt;
    places.push_back(work.place_of(work.tables.find(part.cell(), inside)));
  }
  const SheetCell& first = places.front();
  const auto width =
      std::ranges::find_if(places, [&](const SheetCell& place) { return place.row != first.row; }) -
      places.begin();
  if (std::ssize(places) % width != 0) return std::nullopt;
  for (std::ptrdiff_t at = 0; at < std::ssize(places); ++at) {
    const SheetCell& place = places[static_cast<std::size_t>(at)];
    const auto row = static_cast<lxw_row_t>(first.row + at / width);
    const auto column = static_cast<lxw_col_t>(first.column + at % width);
    if (place.sheet != first.sheet || place.row != row || place.column != column)
      return std::nullopt;
  }
  return CellFormulas::Range{
      .text = fmt::format("{}:{}", reference(first, from),
                          cell_name(places.back().row, places.back().column)),
      .rows = std::ssize(places) / width,
      .columns = width};
}

/// Puts partial sums into cells of their own, and gives their range.
std::string Workbook::set_apart(const std::vector<std::pair<std::string, double>>& parts,
                                std::size_t from) {
  const std::size_t in = sheet_called("partial sums");
  Sheet& sheet = sheets_[in];
  const lxw_row_t top = sheet.next_row;
  for (const auto& [text, number] : parts) {
    write_formula({in, sheet.next_row, first_column}, "=" + text, number, look_.calculated[1]);
    ++sheet.next_row;
  }
  return fmt::format("{}:{}", reference({in, top, first_column}, from),
                     cell_name(sheet.next_row - 1, first_column));
}

std::string Workbook::formula_of(const Work& work, Spot spot, std::size_t from) {
  if (const auto earlier = in_step_before(work, spot)) return "=" + reference(*earlier, from);
  if (!work.tables.is_calculated(spot.table)) return "";
  // Partial sums stand on another sheet, so that all references name theirs.
  const Formula formula = work.tables.made(spot);
  bool is_long = false;
  const auto written = [&](std::size_t as_from) {
    return CellFormulas(
               {.reference =
                    [&, as_from](const Cell& cell) {
                      return reference(work.place_of(work.tables.find(cell, spot)), as_from);
                    },
                .shorthand = [&, as_from](const Formula& each) -> std::optional<std::string> {
                  const auto found = work.tables.find_shorthand(each.function_name(), spot);
                  if (!found) return std::nullopt;
                  return reference(work.place_of(*found), as_from);
                },
                .range =
                    [&, as_from](std::span<const Formula> parts) {
                      return range(work, parts, spot, as_from);
                    },
                .table =
                    [&](const Cell& cell) {
                      const Spot at = work.tables.find(cell, spot);
                      const TensorTables& tables = work.blocks[at.table].tables();
                      const std::int64_t which =
                          tables.tables() == 1 ? 0 : tables.position(at.offset).table;
                      return static_cast<std::int64_t>(at.table) * most_tables + which;
                    },
                .set_apart =
                    [&, as_from](const std::vector<std::pair<std::string, double>>& parts) {
                      is_long = true;
                      return as_from == nowhere ? set_apart(parts, as_from) : std::string();
                    }})
        .text(formula);
  };
  std::optional<std::string> text = written(from);
  if (is_long) text = written(nowhere);
  return text ? "=" + *text : "";
}

void Workbook::write_formula(const SheetCell& place, const std::string& formula, double number,
                             lxw_format* look) {
  lxw_worksheet* const sheet = sheets_[place.sheet].sheet;
  if (std::isfinite(number)) {
    check_book(xlsx().worksheet_write_formula_num(sheet, place.row, place.column, formula.c_str(),
                                                  look, number));
  } else {
    check_book(xlsx().worksheet_write_formula_str(sheet, place.row, place.column, formula.c_str(),
                                                  look, format_number(number).c_str()));
  }
}

void Workbook::write(const SheetCell& place, double number, lxw_format* look) {
  if (!std::isfinite(number)) return write(place, format_number(number), look);
  check_book(xlsx().worksheet_write_number(sheets_[place.sheet].sheet, place.row, place.column,
                                           number, look));
}

void Workbook::write(const SheetCell& place, std::string_view text, lxw_format* look) {
  write_text(sheets_[place.sheet].sheet, place.row, place.column, text, look);
}

void Workbook::write_number(const Work& work, Spot spot, const SheetCell& place) {
  const Tensor& numbers = work.tables[spot.table].numbers;
  const double number = numbers.at_offset(spot.offset);
  if (number == 0.0 && !is_written_out(numbers)) return;
  const bool is_sparse = numbers.is_sparse();
  const std::size_t form = work.forms[spot.table];
  const std::string formula = formula_of(work, spot, place.sheet);
  if (formula.empty()) {
    write(place, number, (is_sparse ? look_.given_sparse : look_.given).at(form));
  } else {
    write_formula(place, formula, number,
                  (is_sparse ? look_.calculated_sparse : look_.calculated).at(form));
  }
}

void Workbook::write_labels(const Work& work, std::size_t at) {
  const WorkTable& table = work.tables[at];
  const CellBlock& block = work.blocks[at];
  const std::size_t in = work.corners[at].sheet;
  const lxw_row_t row = work.corners[at].row;
  const lxw_col_t left = work.corners[at].column;
  const TensorTables& tables = block.tables();
  const lxw_row_t top = row - block.head() - 1;
  if (table.line > 0) write({in, top, 0}, static_cast<double>(table.line), look_.label);
  write({in, top, 1}, heading_of(work, table), look_.heading);
  for (std::int64_t down = 0; down < tables.rows(); ++down) {
    write({in, row + static_cast<lxw_row_t>(down), 1}, tables.row_label(down, names_), look_.label);
  }
  if (block.head() == 0) return;
  write({in, row - 1, 1}, tables.corner(), look_.label);
  for (std::int64_t each = 0; each < tables.tables(); ++each) {
    const auto column_of = [&](std::int64_t column) {
      const std::int64_t offset = tables.offset({.table = each, .row = 0, .column = column});
      return static_cast<lxw_col_t>(left + block.place(offset).column);
    };
    if (tables.tables() > 1)
      write({in, row - 2, column_of(0)}, tables.table_label(each, names_), look_.label);
    for (std::int64_t column = 0; column < tables.columns(); ++column)
      write({in, row - 1, column_of(column)}, tables.column_label(column, names_), look_.column);
  }
}

}  // namespace lattice
