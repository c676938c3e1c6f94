#include "show/work_tables.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/text/error.hpp"
#include "worksheet/record.hpp"

namespace lattice {

using Kind = WorkTable::Kind;

std::vector<WorkTable> settings_of(const WorkedSheet& work) {
  const Notation in_full{.longest_sum = std::string::npos};
  std::vector<WorkTable> settings;
  for (const WorkedSheet::Update& update : work.updates()) {
    const Index first = Index::zeros(update.before.shape().rank());
    const Formula formula = work.why({update.weight, first}, WorkedSheet::Ask::update).formula;
    for (const Cell& cell : formula.cells(in_full)) {
      const bool is_new =
          std::ranges::find(settings, cell.name, &WorkTable::name) == settings.end();
      if (cell.kind == Cell::Kind::setting && is_new)
        settings.push_back({Kind::setting, cell.name, tensor(cell.number), 0});
    }
  }
  return settings;
}

std::set<std::size_t> fixed_lines(const Worksheet& sheet) {
  std::set<std::size_t> fixed;
  for (const Line& line : sheet.lines()) {
    const std::vector<Line> inputs = line.inputs();
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      const Operation& operation = *WorksheetRecord::entry(line).operation;
      if (!operation.holds_for_any(input)) fixed.insert(inputs[input].number());
    }
  }
  return fixed;
}

WorkTables::WorkTables(const WorkedSheet& work, std::int64_t in_full)
    : work_(&work),
      explainer_(work.result(), work.has_sweep() ? &work.sweep() : nullptr, in_full,
                 Told::by_probabilities, Holds::for_any),
      in_full_(in_full) {
  for (const Line& line : work.sheet().lines())
    add({Kind::value, line.name(), line.value(), line.number()});
  for (const ReverseStep& step : work.reverse_steps())
    add({Kind::gradient, "∂" + step.line.name(), step.gradient, step.line.number()});
  for (WorkTable& setting : settings_of(work))
    add(std::move(setting));
  if (work.clipping()) {
    for (const Formula& figure : {work.clipping()->norm, work.clipping()->factor})
      add({Kind::worked_out, figure.function_name(), tensor(figure.evaluate()), 0});
  }
  for (const WorkedSheet::Update& update : work.updates()) {
    const std::size_t line = work.sheet().line(update.weight).number();
    for (WorkedSheet::RuleFigure& figure : work.remembered(update))
      add({Kind::remembered, std::move(figure.name), std::move(figure.numbers), line});
    for (WorkedSheet::RuleFigure& figure : work.worked_out(update))
      add({Kind::worked_out, std::move(figure.name), std::move(figure.numbers), line});
    add({Kind::after, "new " + update.weight, update.after, line});
  }
  find_what_goes_by_axis();
}

void WorkTables::add(WorkTable table) {
  by_line_[{table.kind, table.line}].push_back(tables_.size());
  tables_.push_back(std::move(table));
}

std::optional<std::size_t> WorkTables::find(Kind kind, std::size_t line,
                                            std::string_view name) const {
  // The values of lines come first, in their order.
  if (kind == Kind::value) return line - 1;
  const auto of_line = by_line_.find({kind, line});
  if (of_line == by_line_.end()) return std::nullopt;
  for (const std::size_t at : of_line->second) {
    if (name.empty() || tables_[at].name == name) return at;
  }
  return std::nullopt;
}

bool WorkTables::is_calculated(std::size_t table) const {
  const WorkTable& of = tables_[table];
  switch (of.kind) {
    case Kind::value:
      return work_->sheet().line(of.line).kind() == Line::Kind::calculated;
    case Kind::gradient:
      return of.line != work_->result().number();
    case Kind::setting:
    case Kind::remembered:
      return false;
    case Kind::worked_out:
    case Kind::after:
      return true;
  }
  return false;
}

std::string WorkTables::worked(std::size_t table) const {
  const WorkTable& numbers = tables_[table];
  if (numbers.kind != Kind::value || numbers.numbers.count() != 1) return "";
  const Line line = work_->sheet().line(numbers.line);
  if (line.nature().worked_as.empty()) return "";
  return explainer_.value(line, Index::zeros(line.shape().rank())).worked;
}

std::vector<std::int64_t> WorkTables::residues(std::size_t table) const {
  const WorkTable& numbers = tables_[table];
  if (numbers.kind == Kind::value)
    return explainer_.residues(work_->sheet().line(numbers.line), Cell::Kind::value);
  if (numbers.kind == Kind::gradient)
    return explainer_.residues(work_->sheet().line(numbers.line), Cell::Kind::gradient);
  return {};
}

void WorkTables::find_what_goes_by_axis() {
  const std::vector<Line> lines = work_->sheet().lines();
  by_axis_.assign(lines.size() + 1, {.value = true, .gradient = true});
  // What has no name is written out in the formulas around it.
  const auto may_stand_in = [&](const OperationNature& around, bool is_named, bool goes) {
    return is_named || (goes && !around.rearranges);
  };
  for (const Line& line : lines) {
    if (line.kind() != Line::Kind::calculated) continue;
    const OperationNature nature = line.nature();
    bool goes = nature.goes_by_axis;
    for (const Line& input : line.inputs()) {
      const bool is_cell = input.has_name() || input.kind() != Line::Kind::calculated;
      goes = goes && !input.value().is_sparse() &&
             may_stand_in(nature, is_cell, by_axis_[input.number()].value);
    }
    by_axis_[line.number()].value = goes;
  }
  for (std::size_t at = lines.size(); at-- > 0;) {
    const Line& user = lines[at];
    if (user.kind() != Line::Kind::calculated) continue;
    const ByAxis& of_user = by_axis_[user.number()];
    const bool is_cell = user.has_name() || user == work_->result();
    if (of_user.value && may_stand_in(user.nature(), is_cell, of_user.gradient)) continue;
    for (const Line& input : user.inputs())
      by_axis_[input.number()].gradient = false;
  }
}

bool WorkTables::goes_by_axis(std::size_t table) const {
  const WorkTable& of = tables_[table];
  if (of.kind == Kind::value) return by_axis_[of.line].value;
  if (of.kind == Kind::gradient) return by_axis_[of.line].gradient;
  // Updates are the same for every number.
  return true;
}

Formula WorkTables::made(Spot spot) const {
  const WorkTable& table = tables_[spot.table];
  if (table.line == 0) {
    const Clipping& clipping = work_->clipping().value();
    const Formula& figure =
        clipping.norm.function_name() == table.name ? clipping.norm : clipping.factor;
    return figure.parts()[0];
  }
  const Line line = work_->sheet().line(table.line);
  const Index at = table.numbers.shape().index(spot.offset);
  using Ask = WorkedSheet::Ask;
  if (table.kind == Kind::value) return explainer_.value(line, at).formula;
  if (table.kind == Kind::gradient) return explainer_.gradient(line, at).formula;
  Formula update = work_->why(line, at, Ask::update).formula;
  if (table.kind == Kind::after) return update;
  const std::vector<Formula> shorthands = update.shorthand_parts();
  return std::ranges::find(shorthands, table.name, &Formula::function_name)->parts()[0];
}

Formula WorkTables::made_as_worked(Spot spot) const {
  const Line line = work_->sheet().line(tables_[spot.table].line);
  Explainer as_worked(work_->result(), work_->has_sweep() ? &work_->sweep() : nullptr, in_full_,
                      Told::as_worked, Holds::for_any);
  return as_worked.value(line, line.shape().index(spot.offset)).formula;
}

WorkTables::Spot WorkTables::find(const Cell& cell, Spot inside) const {
  if (cell.kind == Cell::Kind::setting) return {find(Kind::setting, 0, cell.name).value(), 0};
  if (cell.kind == Cell::Kind::remembered)
    return {find(Kind::remembered, tables_[inside.table].line, cell.name).value(), inside.offset};
  const Kind kind = cell.kind == Cell::Kind::value ? Kind::value : Kind::gradient;
  const std::size_t table = find(kind, cell.line).value();
  return {table, tables_[table].numbers.shape().offset(cell.at)};
}

std::optional<WorkTables::Spot> WorkTables::find_shorthand(const std::string& name,
                                                           Spot inside) const {
  const WorkTable& of = tables_[inside.table];
  if (of.kind != Kind::after && of.kind != Kind::worked_out) return std::nullopt;
  if (const auto table = find(Kind::worked_out, of.line, name)) return Spot{*table, inside.offset};
  if (const auto table = find(Kind::worked_out, 0, name)) return Spot{*table, 0};
  return std::nullopt;
}

WorkTables::Spot WorkTables::find(std::string_view text) const {
  using Ask = WorkedSheet::Ask;
  const auto [place, ask] = WorkedSheet::parse_asked(text);
  const Kind kind = ask == Ask::gradient ? Kind::gradient
                    : ask == Ask::update ? Kind::after
                                         : Kind::value;
  const Line line = work_->sheet().line(place.line);
  const auto table = find(kind, line.number());
  if (!table) {
    throw NameError({.what = fmt::format("there is no {}", text),
                     .expected = kind == Kind::gradient ? "a line that the sweep comes to"
                                                        : "a weight that is updated",
                     .found = fmt::format("{}, which is {}", place.line, line.operation())});
  }
  const Index at = index_on(line, place);
  // Refuses a place that is not there, by the line's name.
  static_cast<void>(explain(line, at));
  return {*table, line.shape().offset(at)};
}

std::string WorkTables::text(Spot spot) const {
  const WorkTable& table = tables_[spot.table];
  return table.name + to_string(table.numbers.shape().index(spot.offset));
}

}  // namespace lattice
