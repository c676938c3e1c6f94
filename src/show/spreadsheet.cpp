#include "lattice/show/spreadsheet.hpp"

#include <fmt/format.h>
#include <xlsxwriter.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <map>
#include <memory>

#include "files/file.hpp"
#include "lattice/text/error.hpp"
#include "show/blanks.hpp"
#include "show/cell_formula.hpp"
#include "show/overheard.hpp"
#include "show/passing_file.hpp"
#include "show/sheet_layout.hpp"
#include "show/sheet_look.hpp"
#include "show/work_tables.hpp"

namespace lattice {
namespace {

using Kind = WorkTable::Kind;
using Spot = WorkTables::Spot;

/// More cells than this in a stage, and each of its sections gets a sheet.
constexpr std::int64_t long_stage = 4'000;

/// The paper that sheets are printed on, by its number in the file format.
constexpr std::uint8_t a4 = 9;

/// A sheet in the making.
struct Sheet {
  std::string name;
  lxw_worksheet* sheet;
  std::optional<std::size_t> work;  ///< the step that it shows; none where steps share it
  lxw_row_t next_row = 3;
  lxw_col_t widest = first_column;
};

/// Where the tables of one worked sheet stand.
struct Work {
  explicit Work(const WorkedStep& step_) : step(&step_), tables(step_.work) {}
  const WorkedStep* step;
  WorkTables tables;
  std::vector<Block> blocks = {};       ///< how each table is laid out
  std::vector<Seat> corners = {};       ///< of the first number of each table
  std::vector<std::size_t> forms = {};  ///< of the numbers of each table
  std::map<Spot, Seat> answers = {};    ///< of numbers that are left blank
};

struct CloseWorkbook {
  void operator()(lxw_workbook* book) const { lxw_workbook_free(book); }
};

/// Writes one workbook.
class Book {
 public:
  Book(const std::string& path, const WorkedExample& example)
      : example_(example), book_(made(workbook_new(path.c_str()))), look_(book_.get()) {}

  void write(const Exercise& exercise) {
    for (const WorkedStep& step : example_.steps)
      works_.emplace_back(step);
    check_size();
    for (std::size_t at = 0; at < works_.size(); ++at)
      lay_out(at);
    if (exercise.is_asked_for()) set_blanks(works_.front(), exercise);
    for (std::size_t at = 0; at < works_.size(); ++at) {
      Work& work = works_[at];
      before_ = follows(at) ? &works_[at - 1] : nullptr;
      for (std::size_t table = 0; table < work.tables.all().size(); ++table)
        write_table(work, table);
    }
    if (exercise.is_asked_for()) write_answers(works_.front());
    finish_sheets();
    check_book(workbook_close(book_.release()));
  }

 private:
  /// True for a step that goes on where the one before it in the book ended.
  [[nodiscard]] bool follows(std::size_t work) const {
    return work > 0 && works_[work - 1].step->step + 1 == works_[work].step->step;
  }

  void check_size() const {
    std::int64_t cells = 0;
    for (const Work& work : works_) {
      for (std::size_t at = 0; at < work.tables.all().size(); ++at) {
        if (work.tables.is_calculated(at)) cells += work.tables[at].numbers.count();
      }
    }
    if (cells <= most_formula_cells) return;
    throw SettingError(
        {.what = "the spreadsheet would have too many formulas to be opened with ease",
         .expected = fmt::format("up to {} calculated cells", most_formula_cells),
         .found = fmt::format("{} in {} steps", cells, works_.size()),
         .remedy = works_.size() > 1 ? "leave out steps, or work fewer rows"
                                     : "a smaller network, or fewer rows",
         .advice = {"batch", "4"}});
  }

  static void check_width(const WorkTable& table, const Block& block) {
    constexpr std::int64_t most = LXW_COL_MAX - first_column;
    if (block.columns() <= most) return;
    // Pictures stand side by side: fewer of them are fewer columns.
    const bool has_pictures = block.tables().tables() > 1;
    throw SettingError(
        {.what = fmt::format("{} is too wide for a spreadsheet", table.name),
         .expected = fmt::format("up to {} columns", most),
         .found = fmt::format("{}", block.columns()),
         .remedy = has_pictures ? "work fewer rows" : "take some columns of the table",
         .advice = has_pictures ? Advice{"batch", "4"} : Advice{"features", "a,b"}});
  }

  /// The stage of the work that a table is shown in.
  [[nodiscard]] static std::string stage_of(const WorkTables& tables, std::size_t at) {
    const WorkTable& table = tables[at];
    if (table.kind == Kind::gradient) return "reverse";
    if (table.kind != Kind::value) return "update";
    const Line::Kind kind = tables.work().sheet().line(table.line).kind();
    const bool is_data = kind == Line::Kind::given || kind == Line::Kind::asked;
    return is_data ? "data" : "forward";
  }

  void lay_out(std::size_t of) {
    Work& work = works_[of];
    std::map<std::string, std::int64_t> sizes;
    for (std::size_t at = 0; at < work.tables.all().size(); ++at)
      sizes[stage_of(work.tables, at)] += work.tables[at].numbers.count();
    const std::string step = works_.size() > 1 ? fmt::format(" {}", work.step->step) : "";
    for (std::size_t at = 0; at < work.tables.all().size(); ++at) {
      const WorkTable& table = work.tables[at];
      const std::string stage = stage_of(work.tables, at);
      const bool by_section = sizes[stage] > long_stage && table.line > 0 && stage != "data";
      const std::string section =
          by_section ? fmt::format(" {}", work.tables.work().sheet().line(table.line).section())
                     : "";
      const std::size_t in = sheet_called(fmt::format("{}{}{}", stage, step, section), of);
      Sheet& sheet = sheets_[in];
      const Block& block = work.blocks.emplace_back(table.numbers.shape());
      check_width(table, block);
      const lxw_row_t top = sheet.next_row + 1 + block.head();
      work.corners.push_back({in, top, first_column});
      const bool as_it_comes = stage == "data" || table.kind == Kind::setting;
      work.forms.push_back(as_it_comes ? 0 : form_of(table.numbers));
      sheet.next_row = top + static_cast<lxw_row_t>(block.tables().rows()) + 1;
      sheet.widest = std::max(sheet.widest, last_column_of(block));
    }
  }

  /// The sheet with a name; made when there is none yet. Names of sheets are short, of few kinds of
  /// letters, and the same in capitals.
  std::size_t sheet_called(const std::string& wanted,
                           std::optional<std::size_t> work = std::nullopt) {
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
    sheets_.push_back({name, made(workbook_add_worksheet(book_.get(), name.c_str())), work});
    return sheets_.size() - 1;
  }

  [[nodiscard]] static Seat place_in_block(const Work& work, Spot spot) {
    const Block& block = work.blocks[spot.table];
    const Seat& corner = work.corners[spot.table];
    return {corner.sheet, corner.row + block.row(spot.offset),
            static_cast<lxw_col_t>(corner.column + block.column(spot.offset))};
  }

  static lxw_col_t last_column_of(const Block& block) {
    return static_cast<lxw_col_t>(first_column + block.columns() - 1);
  }

  /// The cell whose number others are made from: not a blank, but the answer to it.
  [[nodiscard]] static Seat place_of(const Work& work, Spot spot) {
    const auto answer = work.answers.find(spot);
    return answer == work.answers.end() ? place_in_block(work, spot) : answer->second;
  }

  [[nodiscard]] std::string sheet_prefix(std::size_t sheet, std::size_t from) const {
    return sheet == from ? "" : fmt::format("'{}'!", sheets_[sheet].name);
  }

  [[nodiscard]] std::string reference(const Seat& to, std::size_t from) const {
    return sheet_prefix(to.sheet, from) + cell_name(to.row, to.column);
  }

  /// The range that cells fill when they are neighbours in one row or column, or fill a box row by
  /// row.
  [[nodiscard]] std::optional<std::string> range(const Work& work, std::span<const Formula> parts,
                                                 Spot inside, std::size_t from) const {
    if (parts.size() < 2) return std::nullopt;
    std::vector<Seat> places;
    for (const Formula& part : parts) {
      if (part.kind() != Formula::Kind::cell) return std::nullopt;
      places.push_back(place_of(work, work.tables.find(part.cell(), inside)));
    }
    const Seat& first = places.front();
    const auto width =
        std::ranges::find_if(places, [&](const Seat& place) { return place.row != first.row; }) -
        places.begin();
    if (std::ssize(places) % width != 0) return std::nullopt;
    for (std::ptrdiff_t at = 0; at < std::ssize(places); ++at) {
      const Seat& place = places[static_cast<std::size_t>(at)];
      const auto row = static_cast<lxw_row_t>(first.row + at / width);
      const auto column = static_cast<lxw_col_t>(first.column + at % width);
      if (place.sheet != first.sheet || place.row != row || place.column != column)
        return std::nullopt;
    }
    return fmt::format("{}:{}", reference(first, from),
                       cell_name(places.back().row, places.back().column));
  }

  /// Puts partial sums into cells of their own, and gives their range.
  std::string set_apart(const std::vector<std::pair<std::string, double>>& parts,
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

  /// The formula of a number, as a cell of the sheet `from` has it; empty where it is given, or
  /// made by a function that spreadsheets do not have.
  std::string formula_of(const Work& work, Spot spot, std::size_t from) {
    if (const auto earlier = in_step_before(work, spot)) return "=" + reference(*earlier, from);
    if (!work.tables.is_calculated(spot.table)) return "";
    // Partial sums stand on another sheet, so that all references name theirs.
    const Formula formula = work.tables.made(spot);
    const auto written = [&](std::size_t as_from) {
      return CellFormulas(
                 {.reference =
                      [&, as_from](const Cell& cell) {
                        return reference(place_of(work, work.tables.find(cell, spot)), as_from);
                      },
                  .shorthand = [&, as_from](const Formula& each) -> std::optional<std::string> {
                    const auto found = work.tables.find_shorthand(each.function_name(), spot);
                    if (!found) return std::nullopt;
                    return reference(place_of(work, *found), as_from);
                  },
                  .range =
                      [&, as_from](std::span<const Formula> parts) {
                        return range(work, parts, spot, as_from);
                      },
                  .set_apart =
                      [&, as_from](const std::vector<std::pair<std::string, double>>& parts) {
                        is_long_ = true;
                        return as_from == nowhere ? set_apart(parts, as_from) : std::string();
                      }})
          .text(formula);
    };
    is_long_ = false;
    std::optional<std::string> text = written(from);
    if (is_long_) text = written(nowhere);
    return text ? "=" + *text : "";
  }

  /// The cell of the step before that a weight, or what a rule remembers, comes from.
  [[nodiscard]] std::optional<Seat> in_step_before(const Work& work, Spot spot) const {
    if (before_ == nullptr) return std::nullopt;
    const WorkTable& table = work.tables[spot.table];
    const WorkTables& earlier = before_->tables;
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
    return place_of(*before_, {*from, spot.offset});
  }

  void write_formula(const Seat& place, const std::string& formula, double number,
                     lxw_format* look) {
    lxw_worksheet* const sheet = sheets_[place.sheet].sheet;
    if (std::isfinite(number)) {
      check_book(worksheet_write_formula_num(sheet, place.row, place.column, formula.c_str(), look,
                                             number));
    } else {
      check_book(worksheet_write_formula_str(sheet, place.row, place.column, formula.c_str(), look,
                                             format_number(number).c_str()));
    }
  }

  void write_table(Work& work, std::size_t at) {
    const WorkTable& table = work.tables[at];
    const Shape& shape = table.numbers.shape();
    const Block& block = work.blocks[at];
    const Seat corner = work.corners[at];
    lxw_worksheet* const sheet = sheets_[corner.sheet].sheet;
    write_head(work, table, block, corner);
    for (std::int64_t row = 0; row < block.tables().rows(); ++row) {
      write_text(sheet, corner.row + static_cast<lxw_row_t>(row), 1,
                 block.tables().row_label(row, example_.names), look_.label);
    }
    for (std::int64_t offset = 0; offset < shape.count(); ++offset) {
      const Spot spot{at, offset};
      const Seat place = place_in_block(work, spot);
      if (work.answers.contains(spot)) {
        check_book(worksheet_write_blank(sheet, place.row, place.column, look_.blank));
        continue;
      }
      write_number(work, spot, place);
    }
    tint(sheet, {corner.row, corner.column, last_row_of(block, corner), last_column_of(block)});
    name_range(work, table, block, corner);
  }

  void write_number(const Work& work, Spot spot, const Seat& place) {
    const WorkTable& table = work.tables[spot.table];
    const double number = table.numbers.at_offset(spot.offset);
    const std::size_t form = work.forms[spot.table];
    const std::string formula = formula_of(work, spot, place.sheet);
    lxw_worksheet* const sheet = sheets_[place.sheet].sheet;
    if (!formula.empty()) {
      write_formula(place, formula, number, look_.calculated.at(form));
    } else if (std::isfinite(number)) {
      check_book(
          worksheet_write_number(sheet, place.row, place.column, number, look_.given.at(form)));
    } else {
      write_text(sheet, place.row, place.column, format_number(number), look_.given.at(form));
    }
  }

  static lxw_row_t last_row_of(const Block& block, const Seat& corner) {
    return corner.row + static_cast<lxw_row_t>(block.tables().rows()) - 1;
  }

  void write_head(const Work& work, const WorkTable& table, const Block& block,
                  const Seat& corner) const {
    lxw_worksheet* const sheet = sheets_[corner.sheet].sheet;
    const lxw_row_t top = corner.row - block.head() - 1;
    if (table.line > 0)
      check_book(
          worksheet_write_number(sheet, top, 0, static_cast<double>(table.line), look_.label));
    write_text(sheet, top, 1, heading_of(work, table), look_.heading);
    if (block.head() == 0) return;
    const TensorTables& tables = block.tables();
    write_text(sheet, corner.row - 1, 1, tables.corner(), look_.label);
    for (std::int64_t at = 0; at < tables.tables(); ++at) {
      const auto column_of = [&](std::int64_t column) {
        const std::int64_t offset = tables.offset({.table = at, .row = 0, .column = column});
        return static_cast<lxw_col_t>(corner.column + block.column(offset));
      };
      if (tables.tables() > 1) {
        write_text(sheet, corner.row - 2, column_of(0), tables.table_label(at, example_.names),
                   look_.label);
      }
      for (std::int64_t column = 0; column < tables.columns(); ++column) {
        write_text(sheet, corner.row - 1, column_of(column),
                   tables.column_label(column, example_.names), look_.column);
      }
    }
  }

  [[nodiscard]] static std::string heading_of(const Work& work, const WorkTable& table) {
    if (table.line == 0) return table.name;
    const Line line = work.tables.work().sheet().line(table.line);
    std::string text = table.name;
    if (table.kind == Kind::value && !line.symbols().empty()) text += " = " + line.symbols();
    if (table.kind == Kind::remembered || table.kind == Kind::worked_out)
      text += " of " + line.name();
    return fmt::format("{}   {}", text, to_string(line.shape()));
  }

  /// Gives a table a name that formulas of one's own can use: `hidden.weight`, `grad.hidden`.
  void name_range(const Work& work, const WorkTable& table, const Block& block,
                  const Seat& corner) const {
    if (table.kind == Kind::remembered || table.kind == Kind::worked_out) return;
    std::string name = table.kind == Kind::setting ? table.name
                       : table.kind == Kind::value
                           ? table.name
                           : (table.kind == Kind::gradient ? "grad." : "new.") +
                                 work.tables.work().sheet().line(table.line).name();
    const bool is_plain = std::ranges::all_of(name, [](char letter) {
      return std::isalnum(static_cast<unsigned char>(letter)) != 0 || letter == '.' ||
             letter == '_';
    });
    if (!is_plain) return;
    // What could be read as a cell, such as z1 or r, is marked.
    const std::size_t letters =
        name.find_first_not_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ");
    if (letters == std::string::npos ? name.size() <= 3
                                     : std::isdigit(static_cast<unsigned char>(name[letters])) != 0)
      name += "_";
    const std::string& sheet = sheets_[corner.sheet].name;
    const std::string scope = works_.size() > 1 ? fmt::format("'{}'!", sheet) : "";
    const std::string cells =
        fmt::format("='{}'!${}${}:${}${}", sheet, column_name(corner.column), corner.row + 1,
                    column_name(last_column_of(block)), last_row_of(block, corner) + 1);
    // A name for which the format has no room is left out.
    const lxw_error error =
        workbook_define_name(book_.get(), (scope + name).c_str(), cells.c_str());
    if (error == LXW_ERROR_MEMORY_MALLOC_FAILED) check_book(error);
  }

  void set_blanks(Work& work, const Exercise& exercise) {
    const std::size_t in = sheet_called("answers");
    for (const Blank& blank : choose_blanks(work.tables, exercise)) {
      Sheet& sheet = sheets_[in];
      work.answers[blank.spot] = {in, sheet.next_row, first_column};
      blanks_.push_back(blank);
      ++sheet.next_row;
    }
  }

  void write_answers(const Work& work) {
    for (std::size_t at = 0; at < blanks_.size(); ++at) {
      const Blank& blank = blanks_[at];
      const Seat answer = work.answers.at(blank.spot);
      lxw_worksheet* const sheet = sheets_[answer.sheet].sheet;
      check_book(
          worksheet_write_number(sheet, answer.row, 0, static_cast<double>(at + 1), look_.label));
      write_text(sheet, answer.row, 1, work.tables.text(blank.spot), look_.label);
      write_number(work, blank.spot, answer);
      write_text(sheet, answer.row, first_column + 1, "may be off by", look_.label);
      check_book(
          worksheet_write_number(sheet, answer.row, first_column + 2, blank.within, look_.label));
      judge_blank(place_in_block(work, blank.spot), answer);
    }
    worksheet_hide(sheets_[work.answers.begin()->second.sheet].sheet);
  }

  /// Colours a blank as soon as something is in it.
  void judge_blank(const Seat& blank, const Seat& answer) const {
    const std::string cell = cell_name(blank.row, blank.column);
    const std::string right = reference(answer, blank.sheet);
    Seat off = answer;
    off.column = static_cast<lxw_col_t>(answer.column + 2);
    const std::string is_right = fmt::format("AND(ISNUMBER({0}),ABS({0}-{1})<={2})", cell, right,
                                             reference(off, blank.sheet));
    const auto colour = [&](std::string condition, lxw_format* look) {
      lxw_conditional_format rule{};
      rule.type = LXW_CONDITIONAL_TYPE_FORMULA;
      rule.value_string = condition.data();
      rule.format = look;
      check_book(worksheet_conditional_format_cell(sheets_[blank.sheet].sheet, blank.row,
                                                   blank.column, &rule));
    };
    colour("=" + is_right, look_.right);
    colour(fmt::format("=AND(NOT(ISBLANK({})),NOT({}))", cell, is_right), look_.wrong);
  }

  /// The loss of a step, or the score that is swept from, in sight on every sheet of that step.
  void write_loss(std::size_t in, const Work& work) {
    const WorkedSheet& worked = work.step->work;
    const Spot spot{worked.result().number() - 1, 0};
    if (work.answers.contains(spot)) return;
    write_text(sheets_[in].sheet, 1, 1, worked.result().name(), look_.label);
    write_formula({in, 1, first_column}, "=" + reference(place_of(work, spot), in),
                  worked.result_before(), look_.calculated[1]);
  }

  /// Says where the steps between two of the book are left out.
  void write_gap(const Sheet& sheet) const {
    const std::size_t at = *sheet.work;
    if (at == 0 || follows(at)) return;
    const std::string text = fmt::format(
        "Between step {} and step {} others were taken: the weights here stand as numbers, and do "
        "not follow from that step.",
        works_[at - 1].step->step, works_[at].step->step);
    write_text(sheet.sheet, 1, first_column + 1, text, look_.label);
  }

  void finish_sheets() {
    for (std::size_t at = 0; at < sheets_.size(); ++at) {
      const Sheet& sheet = sheets_[at];
      write_text(sheet.sheet, 0, 1, fmt::format("{}: {}", example_.title, sheet.name), look_.title);
      if (sheet.work || works_.size() == 1) write_loss(at, works_[sheet.work.value_or(0)]);
      if (sheet.work) write_gap(sheet);
      worksheet_set_landscape(sheet.sheet);
      worksheet_set_paper(sheet.sheet, a4);
      worksheet_fit_to_pages(sheet.sheet, 1, 0);
      check_book(worksheet_repeat_rows(sheet.sheet, 0, 1));
      worksheet_freeze_panes(sheet.sheet, 2, first_column);
      check_book(worksheet_set_column(sheet.sheet, 0, 0, 4, nullptr));
      check_book(worksheet_set_column(sheet.sheet, 1, 1, 26, nullptr));
      check_book(worksheet_set_column(sheet.sheet, first_column, sheet.widest, 12, nullptr));
    }
  }

  /// A sheet that there is none of: references from there always name the sheet.
  static constexpr std::size_t nowhere = static_cast<std::size_t>(-1);

  const WorkedExample& example_;
  std::unique_ptr<lxw_workbook, CloseWorkbook> book_;
  std::vector<Sheet> sheets_ = {};
  std::vector<Work> works_ = {};
  std::vector<Blank> blanks_ = {};
  const Work* before_ = nullptr;  ///< the step before the one that is written, if it is there
  bool is_long_ = false;
  SheetLook look_;
};

}  // namespace

void write_spreadsheet(const std::filesystem::path& path, const WorkedExample& example,
                       const Exercise& exercise) {
  // The library writes to a file, and not atomically: to one of our own first.
  const PassingFile passing("book.xlsx");
  {
    Overheard library;
    Book(passing.path(), example).write(exercise);
    if (library.complained()) refuse_book();
  }
  write_file(path, read_file(passing.path(), "the spreadsheet that was just made"));
}

}  // namespace lattice
