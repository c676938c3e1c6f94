#include "show/exercise_text.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/worksheet/formula.hpp"
#include "show/ink.hpp"

namespace lattice {
namespace {

using Kind = WorkTable::Kind;

/// What stands in the place of a blank.
std::string box(std::size_t blank) {
  return fmt::format("▢{}", blank + 1);
}

/// Adds the numbers by which a formula picks one of several: the true class.
void add_choosers(const Formula& formula, std::vector<Cell>& cells) {
  if (formula.kind() == Formula::Kind::pick) {
    for (const Cell& cell : formula.which().cells())
      cells.push_back(cell);
    if (formula.picked() != nullptr) add_choosers(*formula.picked(), cells);
    return;
  }
  for (const Formula& part : formula.parts())
    add_choosers(part, cells);
}

std::string indented(const std::string& text) {
  std::string result;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t end = std::min(text.find('\n', from), text.size());
    result += "  " + text.substr(from, end - from) + "\n";
    from = end + 1;
  }
  return result;
}

}  // namespace

ExerciseText::ExerciseText(const WorkTables& tables, const std::vector<Blank>& blanks,
                           const AxisNames& names, const TerminalStyle& style)
    : tables_(tables),
      blanks_(blanks),
      names_(names),
      style_(style),
      entries_(entries_of(tables.work())) {
  for (std::size_t blank = 0; blank < blanks.size(); ++blank)
    open_.insert(blank);
}

std::vector<WorkTables::Spot> ExerciseText::open() const {
  std::vector<Spot> spots;
  spots.reserve(open_.size());
  for (const std::size_t blank : open_)
    spots.push_back(blanks_[blank].spot);
  return spots;
}

std::optional<std::size_t> ExerciseText::open_at(const Spot& spot) const {
  for (const std::size_t blank : open_) {
    if (blanks_[blank].spot == spot) return blank;
  }
  return std::nullopt;
}

std::string ExerciseText::number_at(const Spot& spot) const {
  if (const std::optional<std::size_t> blank = open_at(spot)) return box(*blank);
  return format_number(tables_[spot.table].numbers.at_offset(spot.offset), style_.digits);
}

std::string ExerciseText::name(std::size_t blank) const {
  return fmt::format("{}  {}", box(blank), harmless(tables_.text(blanks_[blank].spot)));
}

std::string ExerciseText::table(std::size_t at, const std::set<std::int64_t>& within) const {
  const Tensor& numbers = tables_[at].numbers;
  if (numbers.shape().rank() == 0) return number_at({at, 0}) + "\n";
  TensorView view{.words = {}, .within = within};
  for (const std::size_t blank : open_) {
    if (blanks_[blank].spot.table == at) view.words[blanks_[blank].spot.offset] = box(blank);
  }
  constexpr std::int64_t most_rows = 1000;
  GridStyle grid = grid_style(style_, true, style_.width - 2);
  grid.most_rows = most_rows;
  grid.faint = [this](const std::string& words) {
    const bool is_blank = words.find("▢") != std::string::npos;
    return in_ink(is_blank ? ink::noticed : ink::faint, words, style_);
  };
  return lattice::text(numbers, grid, names_, view);
}

std::string ExerciseText::heading_of(std::size_t table) const {
  const Kind kind = tables_[table].kind;
  if (kind == Kind::gradient) return "reverse sweep";
  if (kind != Kind::value) return "update";
  return tables_.work().sheet().line(tables_[table].line).section();
}

std::string ExerciseText::title_of_table(std::size_t table) const {
  const WorkTable& of = tables_[table];
  if (of.kind == Kind::value) return title_of(tables_.work().sheet().line(of.line));
  if (of.kind != Kind::gradient) return of.name;
  std::vector<std::string> contributions;
  for (const WorkEntry& entry : entries_) {
    for (const WorkEntry::PassedOn& passed : entry.passed_on) {
      if (passed.line == of.line) contributions.push_back(passed.symbols);
    }
  }
  return contributions.empty() ? of.name
                               : fmt::format("{} = {}", of.name, fmt::join(contributions, " + "));
}

std::vector<std::pair<std::size_t, std::set<std::int64_t>>> ExerciseText::needed_for(
    const Spot& spot) const {
  std::vector<std::pair<std::size_t, std::set<std::int64_t>>> needed;
  const Notation in_full{.longest_sum = std::string::npos};
  const Formula made = tables_.made(spot);
  std::vector<Cell> cells = made.cells(in_full);
  add_choosers(made, cells);
  for (const Cell& cell : cells) {
    const Spot from = tables_.find(cell, spot);
    const auto known =
        std::ranges::find(needed, from.table, [](const auto& each) { return each.first; });
    if (known == needed.end()) {
      needed.push_back({from.table, {from.offset}});
    } else {
      known->second.insert(from.offset);
    }
  }
  return needed;
}

std::string ExerciseText::question(std::size_t blank) const {
  // A table of up to so many rows and columns is shown whole, of a larger one what is needed.
  constexpr std::int64_t most_side = 10;
  const auto part_of = [&](std::size_t table, const std::set<std::int64_t>& offsets) {
    const TensorTables layout(tables_[table].numbers.shape());
    const bool is_small =
        layout.tables() == 1 && layout.rows() <= most_side && layout.columns() <= most_side;
    return is_small ? std::set<std::int64_t>() : offsets;
  };
  const Spot& spot = blanks_[blank].spot;
  std::string text = show_heading(heading_of(spot.table), style_);
  text += in_ink(ink::noticed, harmless(title_of_table(spot.table)), style_) + "\n";
  if (tables_[spot.table].kind == Kind::after) {
    for (const std::string& line : rule_in_words(tables_.work(), style_.digits))
      text += paragraph(line, style_.width);
  }
  text += indented(table(spot.table, part_of(spot.table, {spot.offset})));
  for (const auto& [from, offsets] : needed_for(spot)) {
    if (from == spot.table) continue;
    const bool is_number = tables_[from].numbers.count() == 1;
    const std::string name = in_ink(ink::noticed, harmless(tables_[from].name), style_);
    text += is_number ? fmt::format("{} = {}\n", name, number_at({from, 0}))
                      : name + "\n" + indented(table(from, part_of(from, offsets)));
  }
  const Line line = tables_.work().sheet().line(tables_[spot.table].line);
  const std::string place =
      names_.in_words(line.shape(), tables_[spot.table].numbers.shape().index(spot.offset));
  return text + fmt::format("\n{} is {}{}\n", box(blank), harmless(tables_.text(spot)),
                            place.empty() ? "" : ": " + harmless(place));
}

std::string ExerciseText::formula(std::size_t blank, bool filled_in) const {
  const Spot& spot = blanks_[blank].spot;
  const Formula made = tables_.made(spot);
  Notation notation{
      .filled_in = filled_in, .digits = style_.digits, .longest_sum = std::string::npos};
  notation.write = [&](const Formula& part) -> std::optional<std::string> {
    const std::optional<Spot> at = part.kind() == Formula::Kind::cell
                                       ? std::optional(tables_.find(part.cell(), spot))
                                       : tables_.find_shorthand(part.function_name(), spot);
    const std::optional<std::size_t> open = at ? open_at(*at) : std::nullopt;
    return open ? std::optional(box(*open)) : std::nullopt;
  };
  const std::string name = tables_.text(spot);
  const std::string start = filled_in ? std::string(columns(name), ' ') + " = " : name + " = ";
  std::string text = start + wrap_formula(made.text(notation), columns(start), style_.width) + "\n";
  for (const Formula::Definition& each : made.shorthands(notation)) {
    const std::string beginning = fmt::format("  with {} = ", each.name);
    text += beginning + wrap_formula(each.text, columns(beginning), style_.width) + "\n";
  }
  return harmless(text, LineBreaks::kept);
}

std::string ExerciseText::look(std::string_view name) const {
  if (name.ends_with(']')) {
    const Spot spot = tables_.find(name);
    return fmt::format("{} = {}\n", harmless(tables_.text(spot)), number_at(spot));
  }
  std::string text;
  std::vector<std::string> known;
  for (std::size_t at = 0; at < tables_.all().size(); ++at) {
    const WorkTable& table = tables_[at];
    if (table.name == name) {
      const bool is_number = table.numbers.count() == 1 && table.numbers.shape().rank() == 0;
      text += harmless(table.name);
      text += is_number ? fmt::format(" = {}\n", number_at({at, 0}))
                        : "\n" + indented(this->table(at, {}));
    } else if (!table.name.starts_with('#') &&
               std::ranges::find(known, table.name) == known.end()) {
      known.push_back(table.name);
    }
  }
  if (text.empty())
    throw NameError(not_among(fmt::format("there is no table '{}'", name), name, known));
  return text;
}

}  // namespace lattice
