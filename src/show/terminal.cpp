#include "lattice/show/terminal.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <optional>
#include <set>
#include <utility>
#include <vector>

#include "lattice/judging/loss.hpp"
#include "lattice/show/picture_grid.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/wrapping.hpp"
#include "lattice/worksheet/laid_out.hpp"
#include "lattice/worksheet/local_derivative.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "show/ink.hpp"
#include "show/rows_grid.hpp"
#include "show/text_table.hpp"
#include "tensor/tensor_tables.hpp"
#include "worksheet/explainer.hpp"

namespace lattice {
namespace {

/// How far the text of a line stands from the left edge: a number and the rule of the margin.
constexpr std::size_t margin = 6;

/// A grid that leaves room for the margin.
GridStyle behind_margin(const TerminalStyle& style, bool signs = true) {
  return grid_style(style, signs, style.width - margin - 2);
}

/// Puts every line of a text behind the rule of the margin.
std::string behind_margin(const std::string& text, const TerminalStyle& style) {
  std::string result;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t end = text.find('\n', from);
    result +=
        "    " + in_ink(ink::faint, "│", style) + "   " + text.substr(from, end - from) + "\n";
    from = end + 1;
  }
  return result;
}

/// A numbered entry: number, rule, text on the left and on the right.
std::string numbered(std::size_t number, const std::string& said, const std::string& right,
                     const TerminalStyle& style) {
  const std::string left = harmless(said);
  const std::size_t used = margin + columns(left) + columns(right);
  const std::size_t room = used + 2 < style.width ? style.width - used : 2;
  return fmt::format("{:>3} {} {}{}{}\n", number, in_ink(ink::faint, "│", style),
                     in_ink(ink::noticed, left, style), std::string(room, ' '), right);
}

std::string empty_entry(const TerminalStyle& style) {
  return "    " + in_ink(ink::faint, "│", style) + "\n";
}

/// Writes what stands below the titles of the entries of a worked sheet.
class EntryWriter {
 public:
  EntryWriter(const WorkedSheet& work, const TerminalStyle& style, const AxisNames& names)
      : work_(work), style_(style), names_(names) {}

  [[nodiscard]] std::string write(const WorkEntry& entry) const {
    switch (entry.stage) {
      case Stage::rows:
        return rows();
      case Stage::forward:
      case Stage::loss:
        return numbers(entry, Cell::Kind::value) + pictures_of_units(entry.numbers, entry.line);
      case Stage::reverse:
        return swept(entry);
      case Stage::update:
        return updated(entry);
      case Stage::again:
        return result(entry);
    }
    return "";
  }

 private:
  using Stage = WorkEntry::Stage;

  /// How the numbers of a line lie: those of flattened pictures as pictures.
  [[nodiscard]] Tensor lying(const Tensor& numbers, std::size_t line) const {
    if (line == 0 || numbers.is_sparse()) return numbers;
    const Line of = work_.sheet().line(line);
    return numbers.shape() == of.shape() ? numbers.reshaped(laid_out(of)) : numbers;
  }

  [[nodiscard]] std::string numbers(const Tensor& tensor, std::size_t line) const {
    return numbers(lying(tensor, line));
  }

  /// The numbers of a line or of its gradient. What rounding leaves where terms cancel has a mark.
  [[nodiscard]] std::string numbers(const WorkEntry& entry, Cell::Kind kind) const {
    const Line line = work_.sheet().line(entry.line);
    Explainer explainer(line, work_.has_sweep() ? &work_.sweep() : nullptr);
    const std::vector<std::int64_t> residues = explainer.residues(line, kind);
    if (residues.empty()) return numbers(entry.numbers, entry.line);
    std::set<double> small;
    for (const std::int64_t offset : residues)
      small.insert(entry.numbers.at_offset(offset));
    GridStyle grid = behind_margin(style_);
    grid.write = [&small](double number) {
      return small.contains(number) ? std::optional<std::string>(residue_in_text) : std::nullopt;
    };
    std::string text = numbers_as_text(lying(entry.numbers, entry.line), grid);
    if (text.find(residue_in_text) != std::string::npos)
      text += fmt::format("({}: what rounding leaves where terms cancel)\n", residue_in_text);
    return behind_margin(text, style_);
  }

  /// The weights of units for each pixel, or their gradients, as pictures side by side, as many as
  /// there is room for: 0 in the middle between dark and bright.
  [[nodiscard]] std::string pictures_of_units(const Tensor& on_line, std::size_t line) const {
    const Tensor all = lying(on_line, line);
    const int rank = all.shape().rank();
    const bool are_units = rank > on_line.shape().rank() && all.shape().role(0) == Role::row;
    if (!are_units) return "";
    double largest = 0.0;
    for (const double number : all.numbers())
      largest = std::max(largest, std::abs(number));
    if (!(largest > 0.0) || !std::isfinite(largest)) return "";
    const std::int64_t units = all.shape()[rank - 1];
    const std::int64_t columns_of_one = style_.colour ? all.shape()[1] : 2 * all.shape()[1];
    const auto room = static_cast<std::int64_t>(style_.width - margin - 2);
    const std::int64_t shown = std::clamp(room / (columns_of_one + 2), std::int64_t{1}, units);
    const Tensor flat = all.reshaped({all.count() / units, units});
    std::vector<CaptionedPicture> pictures;
    const std::int64_t channels = rank == 4 ? all.shape()[2] : 1;
    for (std::int64_t unit = 0; unit < shown; ++unit) {
      const Tensor one = slice(flat, 1, {.from = unit, .end = unit + 1});
      pictures.push_back({.picture = one.reshaped({all.shape()[0], all.shape()[1], channels}),
                          .caption = names_.label_with_role(all.shape(), rank - 1, unit)});
    }
    std::string text = show_pictures(pictures, style_, {.black = -largest, .white = largest},
                                     style_.width - margin - 2);
    if (shown < units) text += fmt::format("({} of {} pictures shown)\n", shown, units);
    return behind_margin("\n" + text, style_);
  }

  [[nodiscard]] std::string numbers(const Tensor& tensor) const {
    return behind_margin(numbers_as_text(tensor, behind_margin(style_)), style_);
  }

  [[nodiscard]] std::string numbers_as_text(const Tensor& tensor, const GridStyle& grid) const {
    if (tensor.shape().rank() > 0) return lattice::text(tensor, grid, names_);
    const double number = tensor.number();
    const std::optional<std::string> words =
        grid.write ? grid.write(number) : std::optional<std::string>();
    return in_ink_of_sign(number, words.value_or(format_number(number, style_.digits)), style_) +
           "\n";
  }

  [[nodiscard]] std::string rows() const {
    const Batch& batch = work_.batch();
    const Role role = batch.features.shape().role(0);
    Grid table{.corner = std::string(word(role)),
               .headings = {batch.is_whole ? "name" : "row"},
               .thing = plural(role, "rows")};
    // Where each row is its own feature, that says nothing beside its name.
    const bool has_own = batch.is_whole && batch.features.is_sparse();
    const RowsGrid rows(has_own ? Tensor() : batch.features, batch.targets, batch.classes, names_,
                        find_side(batch.side, row_weights_name));
    rows.add_headings(table);
    for (std::size_t at = 0; at < batch.rows.size(); ++at) {
      const std::int64_t place = batch.place_of(at);
      std::vector<Grid::Entry> cells;
      if (batch.is_whole) {
        cells.emplace_back(names_.of(role, place));
      } else {
        cells.emplace_back(static_cast<double>(batch.rows[at]));
      }
      rows.add_cells(cells, place);
      table.rows.push_back(std::move(cells));
      table.labels.push_back(fmt::format("{}", place));
    }
    std::string text = lattice::text(table, behind_margin(style_, false));
    if (const std::string pictures = pictures_of(batch, batch.features); !pictures.empty())
      text += "\n" + pictures;
    if (!batch.drawn.empty()) text += "\n" + augmented(batch);
    return behind_margin(text, style_);
  }

  /// How each example is augmented, and what it looks like then.
  [[nodiscard]] std::string augmented(const Batch& batch) const {
    std::string text = "augmented:\n";
    const std::vector<std::string> words = batch.augmented_in_words();
    for (std::size_t at = 0; at < words.size(); ++at)
      text += fmt::format("example {}: {}\n", at, words[at]);
    return text + "\n" +
           pictures_of(batch, batch.augmentation->changed(batch.features, batch.drawn));
  }

  /// The examples, where they are pictures.
  [[nodiscard]] std::string pictures_of(const Batch& batch, const Tensor& examples) const {
    const Shape& shape = examples.shape();
    if (shape.rank() == 0 || !is_raster(shape.without_first_axis())) return "";
    std::vector<CaptionedPicture> pictures;
    for (std::int64_t at = 0; at < std::min(shape[0], style_.most_rows); ++at) {
      const std::vector<std::int64_t> one = {at};
      std::string caption = fmt::format("{}", at);
      if (!batch.classes.empty()) {
        const auto number = static_cast<std::int64_t>(batch.classes.at_offset(at));
        caption += " " + names_.of(Role::class_, number);
      }
      pictures.push_back({.picture = examples.rows(one).reshaped(shape.without_first_axis()),
                          .caption = std::move(caption)});
    }
    return show_pictures(pictures, style_, brightness_of(batch.features),
                         style_.width - margin - 2);
  }

  [[nodiscard]] std::string swept(const WorkEntry& entry) const {
    std::string text =
        numbers(entry, Cell::Kind::gradient) + pictures_of_units(entry.numbers, entry.line);
    for (const WorkEntry::PassedOn& passed : entry.passed_on) {
      text += empty_entry(style_);
      text += behind_margin(passed_on(passed), style_);
      text += local(local_derivative(work_.sheet().line(entry.line), passed.input), entry.numbers);
      if (!passed.is_whole)
        text += behind_margin("passed on:\n", style_) + numbers(passed.contribution);
    }
    if (!entry.note.empty()) text += behind_margin(entry.note + "\n", style_);
    return text;
  }

  [[nodiscard]] std::string passed_on(const WorkEntry::PassedOn& passed) const {
    const std::size_t room = style_.width - margin - 2;
    const std::string to = fmt::format("passed on to {}: ", harmless(passed.to));
    std::string text = to + wrap_formula(harmless(passed.symbols), columns(to), room);
    if (!passed.is_whole) return text + "\n";
    constexpr std::string_view whole = "(its whole gradient)";
    constexpr std::size_t gap = 4;
    const bool fits = columns(text) + gap + columns(whole) <= room;
    return fmt::format("{}{}{}\n", text, fits ? std::string(gap, ' ') : "\n", whole);
  }

  /// By what that which arrives is multiplied on its way to an input.
  [[nodiscard]] std::string local(const std::optional<LocalDerivative>& by,
                                  const Tensor& arrived) const {
    if (!by) return "";
    const LocalDerivative& local = *by;
    if (local.kind == LocalDerivative::Kind::matrix) {
      return behind_margin(fmt::format("local derivative, a matrix to multiply by: {}\n",
                                       harmless(local.factor_in_symbols())),
                           style_) +
             numbers(local.numbers);
    }
    if (local.kind == LocalDerivative::Kind::window) {
      return behind_margin(
                 fmt::format(
                     "local derivative, to multiply by under each place of the window: {}\n",
                     harmless(local.factor_in_symbols())),
                 style_) +
             numbers(local.numbers);
    }
    if (local.kind == LocalDerivative::Kind::across) {
      const std::string several =
          local.each.empty() ? "" : fmt::format(" for each {}, the first of them", local.each);
      return behind_margin(fmt::format("local derivative, a matrix to multiply by{}:\n", several),
                           style_) +
             numbers(local.numbers);
    }
    if (local.everywhere) {
      return behind_margin(
          fmt::format("local derivative: {}{}\n", format_number(*local.everywhere, style_.digits),
                      local.numbers.count() == 1 ? "" : " everywhere"),
          style_);
    }
    if (arrived.count() == 1 && arrived.number() == 1.0)
      return behind_margin("local derivative: what is passed on, since 1 arrives\n", style_);
    return behind_margin("local derivative, number by number:\n", style_) + numbers(local.numbers);
  }

  [[nodiscard]] std::string updated(const WorkEntry& entry) const {
    const std::string weight = work_.sheet().line(entry.line).name();
    const WorkedSheet::Update& update =
        *std::ranges::find(work_.updates(), weight, &WorkedSheet::Update::weight);
    const bool is_learnt = !update.gradient.empty();
    Grid table{.corner = update.weight, .headings = {"before"}, .thing = "weights"};
    if (is_learnt) table.headings.emplace_back("gradient");
    std::vector<WorkedSheet::RuleFigure> figures = work_.remembered(update);
    for (WorkedSheet::RuleFigure& figure : work_.worked_out(update))
      figures.push_back(std::move(figure));
    for (const WorkedSheet::RuleFigure& figure : figures)
      table.headings.push_back(figure.name);
    table.headings.insert(table.headings.end(), {"change", "after"});
    for (std::int64_t offset = 0; offset < update.before.count(); ++offset) {
      table.labels.push_back(to_string(update.before.shape().index(offset)));
      const double before = update.before.at_offset(offset);
      const double after = update.after.at_offset(offset);
      std::vector<Grid::Entry> row{before};
      if (is_learnt) row.emplace_back(update.gradient.at_offset(offset));
      for (const WorkedSheet::RuleFigure& figure : figures)
        row.emplace_back(figure.numbers.at_offset(offset));
      row.emplace_back(after - before);
      row.emplace_back(after);
      table.rows.push_back(std::move(row));
    }
    const std::string change = pictures_of_units(update.after - update.before, entry.line);
    return behind_margin(lattice::text(table, behind_margin(style_)), style_) +
           (change.empty() ? "" : behind_margin("change:\n", style_) + change);
  }

  [[nodiscard]] std::string result(const WorkEntry& entry) const {
    const std::string loss = harmless(work_.result().name());
    std::string text = fmt::format("{} before the update  {}\n{} after the update   {}\n", loss,
                                   format_number(work_.result_before(), style_.digits), loss,
                                   format_number(work_.result_after().value(), style_.digits));
    if (!entry.note.empty()) text += harmless(entry.note) + "\n";
    return behind_margin(text, style_);
  }

  const WorkedSheet& work_;
  const TerminalStyle& style_;
  const AxisNames& names_;
};

/// What stands below the heading of a phase, before its first entry.
std::string introduction(WorkEntry::Stage stage, const WorkedSheet& work,
                         const TerminalStyle& style) {
  if (stage == WorkEntry::Stage::reverse) {
    const std::string result = harmless(work.result().name());
    const char* const any = result == "z" ? "x" : "z";
    return behind_margin(
        paragraph(
            fmt::format(
                "∂{1} means ∂{0}/∂{1}, the derivative of {0} with respect to each number of {1}",
                result, any),
            style.width - margin - 2),
        style);
  }
  if (stage != WorkEntry::Stage::update) return "";
  std::string rule;
  for (const std::string& line : rule_in_words(work, style.digits))
    rule += paragraph(line, style.width - margin - 2);
  return behind_margin(rule, style);
}

/// Refuses sections that are not on the sheet.
void check_sections(const WorkedSheet& work, const std::vector<std::string>& only) {
  std::vector<std::string> known;
  for (const Line& line : work.sheet().lines()) {
    if (std::ranges::find(known, line.section()) == known.end()) known.push_back(line.section());
  }
  for (const std::string& each : only) {
    if (std::ranges::find(known, each) != known.end()) continue;
    throw NameError(not_among(fmt::format("the worksheet has no section '{}'", each), each, known));
  }
}

}  // namespace

std::string show_heading(std::string_view text, const TerminalStyle& style) {
  if (text.empty()) return "";
  std::string heading = harmless(text);
  heading[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(heading[0])));
  const std::size_t used = columns(heading) + 6;
  std::string rule;
  for (std::size_t at = used; at < style.width; ++at)
    rule += "─";
  return in_ink(ink::faint, "────", style) + " " + in_ink(ink::noticed, heading, style) + " " +
         in_ink(ink::faint, rule, style) + "\n";
}

namespace {

/// `row 8, column 4, class 2 fish`.
std::string words_by_pixel(const AxisNames& names, const Shape& shape, const Index& at) {
  std::vector<std::string> words;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const Role role = shape.role(axis);
    const std::string label = names.label(shape, axis, at[axis]);
    words.push_back(role == Role::none ? label : fmt::format("{} {}", word(role), label));
  }
  return fmt::format("{}", fmt::join(words, ", "));
}

}  // namespace

std::string place_in_words(const AxisNames& names, const Line& line, const Index& at,
                           const Formula& formula, const Worksheet& sheet) {
  const Shape lying = laid_out(line);
  std::string words = lying.rank() == line.shape().rank()
                          ? names.in_words(line.shape(), at)
                          : words_by_pixel(names, lying, lying.index(line.shape().offset(at)));
  if (names.nodes.empty()) return words;
  const auto nodes_in = [](const Shape& shape, const Index& place) {
    std::set<std::int64_t> nodes;
    for (int axis = 0; axis < shape.rank(); ++axis) {
      if (shape.role(axis) == Role::node) nodes.insert(place[axis]);
    }
    return nodes;
  };
  const std::set<std::int64_t> own = nodes_in(line.shape(), at);
  std::set<std::int64_t> others;
  for (const Cell& cell : formula.cells()) {
    if (cell.line == 0) continue;
    for (const std::int64_t node : nodes_in(sheet.line(cell.line).shape(), cell.at)) {
      if (!own.contains(node)) others.insert(node);
    }
  }
  constexpr std::size_t most = 8;
  if (others.empty() || others.size() > most) return words;
  std::vector<std::string> called;
  called.reserve(others.size());
  for (const std::int64_t node : others)
    called.push_back(names.label(Role::node, node));
  return fmt::format("{}{}with {}", words, words.empty() ? "" : "; ", fmt::join(called, ", "));
}

std::string show_explanation(const Chain& chain, const std::string& place, const Notation& notation,
                             std::size_t width) {
  return (place.empty() ? "" : harmless(place) + "\n") + chain.text(notation, width);
}

std::string show_tensor(const Tensor& tensor, const TerminalStyle& style, const AxisNames& names) {
  if (tensor.shape().rank() == 0) return format_number(tensor.number(), style.digits) + "\n";
  GridStyle ruled = grid_style(style);
  ruled.ruled = true;
  return text(tensor, ruled, names);
}

std::string show_title(const WorkEntry& entry, const TerminalStyle& style) {
  using Stage = WorkEntry::Stage;
  if (entry.line == 0) return "";
  std::string left = entry.title;
  if (entry.stage == Stage::update && !entry.note.empty()) left += ", " + entry.note;
  const std::string operation = entry.operation.empty() ? "" : entry.operation + " ";
  return numbered(entry.line, left, operation + to_string(entry.numbers.shape()), style);
}

std::string show_numbers(const WorkEntry& entry, const WorkedSheet& work,
                         const TerminalStyle& style, const AxisNames& names) {
  return EntryWriter(work, style, names).write(entry);
}

std::string show_worked_sheet(const WorkedSheet& work, const TerminalStyle& style,
                              const AxisNames& names, const WorkView& view) {
  check_sections(work, view.only);
  using Stage = WorkEntry::Stage;
  const auto is_open = [&](const WorkEntry& entry) {
    return view.only.empty() || entry.line == 0 ||
           std::ranges::find(view.only, entry.section) != view.only.end();
  };
  std::string text;
  std::string heading;
  std::size_t folded = 0;
  const auto tell_folded = [&] {
    if (folded > 0) {
      text += behind_margin(
          fmt::format("▸ {} {} folded\n", folded, folded == 1 ? "entry" : "entries"), style);
    }
    folded = 0;
  };
  bool is_first = true;
  for (const WorkEntry& entry : entries_of(work)) {
    if (const std::string now = entry.heading(); now != heading) {
      tell_folded();
      heading = now;
      text += (text.empty() ? "" : "\n") + show_heading(heading, style) +
              introduction(entry.stage, work, style);
      is_first = entry.stage != Stage::reverse && entry.stage != Stage::update;
    }
    if (!is_open(entry)) {
      ++folded;
      continue;
    }
    tell_folded();
    const bool title_alone = view.brief && entry.line != 0;
    if (!is_first && !title_alone) text += empty_entry(style);
    text += show_title(entry, style);
    if (!title_alone) text += show_numbers(entry, work, style, names);
    is_first = false;
  }
  tell_folded();
  return text;
}

std::string show_worked_example(const WorkedExample& example, const TerminalStyle& style,
                                const WorkView& view) {
  std::string text;
  for (const WorkedStep& step : example.steps) {
    if (example.steps.size() > 1) {
      text +=
          (text.empty() ? "" : "\n") +
          show_heading(step.epoch == 0 ? fmt::format("step {}", step.step)
                                       : fmt::format("step {}, in epoch {}", step.step, step.epoch),
                       style) +
          "\n";
    }
    text += show_worked_sheet(step.work, style, example.names, view);
  }
  return text;
}

std::string show_check(const GradientCheck& check, const TerminalStyle& style) {
  std::string text = fmt::format("Each number is shifted by ±{0}; errors up to {1} pass.\n\n",
                                 format_number(check.settings.step, style.digits),
                                 format_number(check.settings.tolerance, style.digits));
  using Set = TextTable::Set;
  TextTable table({{"weight", Set::left},
                   {"checked"},
                   {"worst place", Set::left},
                   {"by the sweep"},
                   {"by difference"},
                   {"error"},
                   {"", Set::left}});
  std::int64_t on_kinks = 0;
  for (const GradientCheck::Weight& weight : check.weights) {
    on_kinks += weight.on_kinks;
    const std::string checked = fmt::format("{} of {}", weight.checked, weight.shape.count());
    if (weight.on_kinks == weight.checked) {
      table.add({weight.name, checked, "", "", "", "", "on kinks"});
      continue;
    }
    table.add(
        {weight.name,
         checked,
         weight.name + to_string(weight.worst),
         format_number(weight.engine, style.digits),
         format_number(weight.difference, style.digits),
         format_number(weight.error, 2),
         {weight.agrees ? "agrees" : "differs", weight.agrees ? ink::positive : ink::negative}});
  }
  text += table.text(style) + "\n";
  if (on_kinks > 0) {
    text += paragraph(fmt::format("{} of the numbers sit{} on a kink (left and right slopes "
                                  "differ) and were not checked.",
                                  on_kinks, on_kinks == 1 ? "s" : ""),
                      style.width);
  }
  const std::string all = on_kinks > 0 ? "All others" : "All gradients";
  return text + (check.agrees() ? all + " agree with central differences.\n"
                                : "Some gradients do not agree with central differences.\n");
}

}  // namespace lattice
