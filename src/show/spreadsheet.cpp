#include "lattice/show/spreadsheet.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cctype>
#include <map>
#include <set>
#include <string>
#include <vector>

#include "files/file.hpp"
#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "show/blanks.hpp"
#include "show/overheard.hpp"
#include "show/passing_file.hpp"
#include "show/sheet_of_any_row.hpp"
#include "show/spreadsheet_library.hpp"
#include "show/workbook.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

using Kind = WorkTable::Kind;
using Spot = WorkTables::Spot;

/// More cells than this in a stage, and each of its sections gets a sheet.
constexpr std::int64_t long_stage = 4'000;

/// The paper that sheets are printed on, by its number in the file format.
constexpr std::uint8_t a4 = 9;

/// Writes one workbook.
class Book {
 public:
  Book(const std::string& path, const WorkedExample& example)
      : example_(example), book_(path, example.names) {}

  void write(const Exercise& exercise) {
    for (const WorkedStep& step : example_.steps)
      works_.emplace_back(step);
    check_size();
    for (std::size_t at = 0; at < works_.size(); ++at)
      lay_out(at);
    if (exercise.is_asked_for()) set_blanks(works_.front(), exercise);
    for (std::size_t at = 0; at < works_.size(); ++at) {
      Work& work = works_[at];
      if (follows(at)) work.before = &works_[at - 1];
      if (at > 0 && work.tables.work().batch().is_whole) work.same_data = &works_[at - 1];
      for (std::size_t table = 0; table < work.tables.all().size(); ++table)
        write_table(work, table);
    }
    if (exercise.is_asked_for()) {
      write_answers(works_.front());
    } else if (example_.any_row) {
      write_any_row(book_, *example_.any_row, works_.front());
    }
    finish_sheets();
    book_.close();
  }

 private:
  /// True for a step that goes on where the one before it in the book ended.
  [[nodiscard]] bool follows(std::size_t work) const {
    return work > 0 && works_[work - 1].step->step + 1 == works_[work].step->step;
  }

  /// Whether a table has numbers for each row: fewer rows make it smaller. Of nodes it may have a
  /// feature for each, too.
  [[nodiscard]] static bool goes_with_rows(const Work& work, const WorkTable& table) {
    if (table.line == 0) return false;
    const Shape& shape = work.tables.work().sheet().line(table.line).shape();
    const Batch& batch = work.tables.work().batch();
    for (int axis = 0; axis < shape.rank(); ++axis) {
      if (shape.role(axis) == Role::example || shape.role(axis) == Role::node) return true;
      if (batch.is_whole && shape[axis] == batch.features.shape()[0]) return true;
    }
    return false;
  }

  void check_size() const {
    std::int64_t cells = 0;
    std::int64_t of_rows = 0;
    std::int64_t rows = 0;
    for (const Work& work : works_) {
      const Batch& batch = work.tables.work().batch();
      rows = std::max(rows, batch.is_whole ? batch.features.shape()[0] : std::ssize(batch.rows));
      for (std::size_t at = 0; at < work.tables.all().size(); ++at) {
        const WorkTable& table = work.tables[at];
        if (!work.tables.is_calculated(at)) continue;
        const std::int64_t count =
            is_written_out(table.numbers) ? table.numbers.count() : stored_count(table.numbers);
        cells += count;
        if (goes_with_rows(work, table)) of_rows += count;
      }
    }
    if (cells > most_formula_cells) refuse_size(cells, of_rows, rows);
  }

  /// @param of_rows how many of the cells are as many as there are rows
  [[noreturn]] void refuse_size(std::int64_t cells, std::int64_t of_rows, std::int64_t rows) const {
    const std::int64_t left = most_formula_cells - (cells - of_rows);
    const std::int64_t rows_that_fit = left > 0 && of_rows > 0 ? rows * left / of_rows : 0;
    // Of a small graph more is written out, so that not as many nodes may fit.
    const bool is_whole = works_.front().step->work.batch().is_whole;
    const std::int64_t advised =
        is_whole ? std::min<std::int64_t>(rows_that_fit, 100) : rows_that_fit;
    const bool one_step_fits = cells / std::ssize(works_) <= most_formula_cells;
    const std::string_view fewer = one_step_fits ? "fewer steps" : "a smaller network";
    throw SettingError(
        {.what = "the spreadsheet would have too many formulas to be opened with ease",
         .expected = fmt::format("up to {} calculated cells", most_formula_cells),
         .found = fmt::format("{} in {}", cells, counted(std::ssize(works_), "step")),
         .remedy = rows_that_fit > 0 ? fmt::format("{}, or fewer rows", fewer) : std::string(fewer),
         .advice = rows_that_fit == 0
                       ? Advice{}
                       : Advice{is_whole ? "rows" : "batch", fmt::format("{}", advised)}});
  }

  static void check_width(const WorkTable& table, const CellBlock& block) {
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
      const std::size_t in = book_.sheet_called(fmt::format("{}{}{}", stage, step, section), of);
      Sheet& sheet = book_.sheets()[in];
      const CellBlock& block = work.blocks.emplace_back(table.numbers.shape());
      check_width(table, block);
      const lxw_row_t top = sheet.next_row + 1 + block.head();
      work.corners.push_back({in, top, first_column});
      const bool as_it_comes = stage == "data" || table.kind == Kind::setting;
      work.forms.push_back(as_it_comes ? 0 : form_of(table.numbers));
      sheet.next_row = top + static_cast<lxw_row_t>(block.tables().rows()) + 1;
      sheet.widest = std::max(sheet.widest, work.last_column_of(at));
    }
  }

  void write_table(Work& work, std::size_t at) {
    book_.write_labels(work, at);
    for (std::int64_t offset = 0; offset < work.tables[at].numbers.count(); ++offset) {
      const Spot spot{at, offset};
      const SheetCell place = work.place_in_block(spot);
      if (!work.answers.contains(spot)) {
        book_.write_number(work, spot, place);
        continue;
      }
      check_book(xlsx().worksheet_write_blank(book_.sheets()[place.sheet].sheet, place.row,
                                              place.column, book_.look().blank));
    }
    const SheetCell& corner = work.corners[at];
    if (const std::string worked = work.tables.worked(at); !worked.empty()) {
      check_book(xlsx().worksheet_write_comment(book_.sheets()[corner.sheet].sheet, corner.row,
                                                corner.column, worked.c_str()));
    }
    tint(book_.sheets()[corner.sheet].sheet,
         {corner.row, corner.column, work.last_row_of(at), work.last_column_of(at)});
    name_range(work, at);
  }

  /// Gives a table a name that formulas of one's own can use: `hidden.weight`, `grad.hidden`.
  void name_range(const Work& work, std::size_t at) {
    const WorkTable& table = work.tables[at];
    const SheetCell& corner = work.corners[at];
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
    const std::string& sheet = book_.sheets()[corner.sheet].name;
    const std::string scope = works_.size() > 1 ? fmt::format("'{}'!", sheet) : "";
    const std::string cells =
        fmt::format("='{}'!${}${}:${}${}", sheet, column_name(corner.column), corner.row + 1,
                    column_name(work.last_column_of(at)), work.last_row_of(at) + 1);
    // Of several lines with one name the first has it; names in capitals are the same there.
    std::string known = scope + name;
    std::ranges::transform(known, known.begin(), [](unsigned char letter) {
      return static_cast<char>(std::tolower(letter));
    });
    if (!names_.insert(known).second) return;
    // A name for which the format has no room is left out.
    const lxw_error error =
        xlsx().workbook_define_name(book_.book(), (scope + name).c_str(), cells.c_str());
    if (error == LXW_ERROR_MEMORY_MALLOC_FAILED) check_book(error);
  }

  void set_blanks(Work& work, const Exercise& exercise) {
    const std::size_t in = book_.sheet_called("answers");
    for (const Blank& blank : choose_blanks(work.tables, exercise, example_.steps)) {
      Sheet& sheet = book_.sheets()[in];
      work.answers[blank.spot] = {in, sheet.next_row, first_column};
      blanks_.push_back(blank);
      ++sheet.next_row;
    }
  }

  void write_answers(const Work& work) {
    for (std::size_t at = 0; at < blanks_.size(); ++at) {
      const Blank& blank = blanks_[at];
      const SheetCell answer = work.answers.at(blank.spot);
      lxw_format* const look = book_.look().label;
      const auto beside = [&](int columns) {
        return SheetCell{answer.sheet, answer.row, static_cast<lxw_col_t>(first_column + columns)};
      };
      book_.write(beside(-2), static_cast<double>(at + 1), look);
      book_.write(beside(-1), work.tables.text(blank.spot), look);
      book_.write_number(work, blank.spot, answer);
      book_.write(beside(1), "may be off by", look);
      book_.write(beside(2), blank.within, look);
      judge_blank(work.place_in_block(blank.spot), answer);
    }
    xlsx().worksheet_hide(book_.sheets()[work.answers.begin()->second.sheet].sheet);
  }

  /// Colours a blank as soon as something is in it.
  void judge_blank(const SheetCell& blank, const SheetCell& answer) {
    const std::string cell = cell_name(blank.row, blank.column);
    const std::string right = book_.reference(answer, blank.sheet);
    SheetCell off = answer;
    off.column = static_cast<lxw_col_t>(answer.column + 2);
    const std::string is_right = fmt::format("AND(ISNUMBER({0}),ABS({0}-{1})<={2})", cell, right,
                                             book_.reference(off, blank.sheet));
    const auto colour = [&](std::string condition, lxw_format* look) {
      lxw_conditional_format rule{};
      rule.type = LXW_CONDITIONAL_TYPE_FORMULA;
      rule.value_string = condition.data();
      rule.format = look;
      check_book(xlsx().worksheet_conditional_format_cell(book_.sheets()[blank.sheet].sheet,
                                                          blank.row, blank.column, &rule));
    };
    colour("=" + is_right, book_.look().right);
    colour(fmt::format("=AND(NOT(ISBLANK({})),NOT({}))", cell, is_right), book_.look().wrong);
  }

  /// The loss of a step, or the score that is swept from, in sight on every sheet of that step.
  void write_loss(std::size_t in, const Work& work) {
    const WorkedSheet& worked = work.step->work;
    if (worked.result().value().count() != 1) return;
    const Spot spot{worked.result().number() - 1, 0};
    if (work.answers.contains(spot)) return;
    book_.write({in, 1, 1}, worked.result().name(), book_.look().label);
    book_.write_formula({in, 1, first_column}, "=" + book_.reference(work.place_of(spot), in),
                        worked.result_before(), book_.look().calculated[1]);
  }

  /// Says where the steps between two of the book are left out.
  void write_gap(const Sheet& sheet) const {
    const std::size_t at = *sheet.work;
    if (at == 0 || follows(at)) return;
    const std::string text = fmt::format(
        "Between step {} and step {} others were taken: the weights here stand as numbers, and do "
        "not follow from that step.",
        works_[at - 1].step->step, works_[at].step->step);
    write_text(sheet.sheet, 1, first_column + 1, text, book_.look().label);
  }

  void finish_sheets() {
    for (std::size_t at = 0; at < book_.sheets().size(); ++at) {
      const Sheet& sheet = book_.sheets()[at];
      write_text(sheet.sheet, 0, 1, fmt::format("{}: {}", example_.title, sheet.name),
                 book_.look().title);
      if (sheet.work || works_.size() == 1) write_loss(at, works_[sheet.work.value_or(0)]);
      if (sheet.work) write_gap(sheet);
      xlsx().worksheet_set_landscape(sheet.sheet);
      xlsx().worksheet_set_paper(sheet.sheet, a4);
      xlsx().worksheet_fit_to_pages(sheet.sheet, 1, 0);
      check_book(xlsx().worksheet_repeat_rows(sheet.sheet, 0, 1));
      xlsx().worksheet_freeze_panes(sheet.sheet, 2, first_column);
      check_book(xlsx().worksheet_set_column(sheet.sheet, 0, 0, 4, nullptr));
      check_book(xlsx().worksheet_set_column(sheet.sheet, 1, 1, 26, nullptr));
      check_book(xlsx().worksheet_set_column(sheet.sheet, first_column, sheet.widest, 12, nullptr));
    }
  }

  const WorkedExample& example_;
  Workbook book_;
  std::vector<Work> works_ = {};
  std::vector<Blank> blanks_ = {};
  std::set<std::string> names_ = {};  ///< that ranges have
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
