#include "show/sheet_of_any_row.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "lattice/judging/answers.hpp"

namespace lattice {
namespace {

using Spot = WorkTables::Spot;

/// Where the data of the sheet `rows` begin.
constexpr lxw_row_t first_row = 4;

class AnyRowSheets {
 public:
  AnyRowSheets(Workbook& book, const AnyRow& any_row, const Work& minibatch)
      : book_(book),
        data_(any_row.rows),
        parts_(any_row.parts),
        work_(any_row.step),
        minibatch_(minibatch),
        count_(std::min(data_.rows(), most_rows_to_choose)),
        sheet_(book.sheet_called("any row", 0)),
        rows_(book.sheet_called("rows", 0)) {}

  void write() {
    write_rows();
    lay_out();
    write_choice();
    if (data_.has_classes()) {
      write_classes();
    } else {
      write_numbers();
    }
    write_lines();
  }

 private:
  [[nodiscard]] Sheet& sheet() { return book_.sheets()[sheet_]; }
  [[nodiscard]] const SheetLook& look() const { return book_.look(); }

  /// The data, a row each: its number, its part, its features, and the truth.
  void write_rows() {
    const auto heading = [&](lxw_col_t column, const std::string& text) {
      book_.write({rows_, first_row - 1, column}, text, look().column);
    };
    const std::int64_t features = data_.feature_count();
    const Tensor& truth = data_.truth();
    const std::int64_t targets = truth.count() / data_.rows();
    heading(0, "row");
    heading(1, "part");
    for (std::int64_t of = 0; of < features; ++of)
      heading(column_of_feature(of), data_.label_of(of));
    for (std::int64_t of = 0; of < targets; ++of)
      heading(column_of_truth(of), data_.has_classes() ? "class" : data_.label_of_target(of));
    for (std::int64_t row = 0; row < count_; ++row) {
      const lxw_row_t at = first_row + static_cast<lxw_row_t>(row);
      book_.write({rows_, at, 0}, static_cast<double>(row), look().label);
      book_.write({rows_, at, 1}, parts_[static_cast<std::size_t>(row)], look().label);
      for (std::int64_t of = 0; of < features; ++of)
        book_.write({rows_, at, column_of_feature(of)}, data_.features.at({row, of}),
                    look().given[0]);
      for (std::int64_t of = 0; of < targets; ++of)
        book_.write({rows_, at, column_of_truth(of)}, truth.at_offset(row * targets + of),
                    look().given[0]);
    }
    Sheet& rows = book_.sheets()[rows_];
    rows.widest = column_of_truth(targets - 1);
    // Nobody wants all of them on paper.
    constexpr lxw_row_t most_printed = 50;
    const auto printed = std::min(most_printed, static_cast<lxw_row_t>(count_));
    check_book(xlsx().worksheet_print_area(rows.sheet, 0, 0, first_row + printed - 1, rows.widest));
  }

  [[nodiscard]] static lxw_col_t column_of_feature(std::int64_t of) {
    return static_cast<lxw_col_t>(first_column + of);
  }
  [[nodiscard]] lxw_col_t column_of_truth(std::int64_t of) const {
    return static_cast<lxw_col_t>(first_column + data_.feature_count() + of);
  }

  /// What the chosen row has in a column of the data.
  [[nodiscard]] std::string chosen(lxw_col_t column) const {
    return fmt::format("=INDEX('{}'!${}${}:${}${},{}+1)", book_.sheets()[rows_].name,
                       column_name(column), first_row + 1, column_name(column),
                       static_cast<std::int64_t>(first_row) + count_,
                       cell_name(choice_.row, choice_.column));
  }

  /// The table of an answer or of the truth, by its name.
  [[nodiscard]] std::size_t table_of(std::string_view name) const {
    return *find(work_, name, is_ours);
  }
  [[nodiscard]] bool has(std::string_view name) const {
    return find(work_, name, is_ours).has_value();
  }

  /// Parts may have the names of our lines: ours are given, or stand with the answers.
  static bool is_ours(const Line& line) {
    return line.section() == answers_section || is_given(line);
  }
  static bool is_given(const Line& line) { return line.kind() != Line::Kind::calculated; }

  /// The table of a line by its name, among those of a kind.
  static std::optional<std::size_t> find(const Work& work, std::string_view name,
                                         bool (*is_meant)(const Line& line)) {
    for (const Line& line : work.tables.work().sheet().lines()) {
      if (line.name() == name && is_meant(line)) return line.number() - 1;
    }
    return std::nullopt;
  }

  /// Finds a place for every line: weights and factors are those of the minibatch.
  void lay_out() {
    const std::int64_t listed = data_.has_classes() ? data_.class_count() + 1 : targets();
    lxw_row_t next = list_top + static_cast<lxw_row_t>(listed) + 2;
    const std::size_t lines = work_.tables.work().sheet().size();
    for (std::size_t at = 0; at < lines; ++at) {
      const WorkTable& table = work_.tables[at];
      const CellBlock& block = work_.blocks.emplace_back(table.numbers.shape());
      work_.forms.push_back(is_chosen(at) ? 0 : form_of(table.numbers));
      if (const auto there = in_minibatch(at)) {
        work_.corners.push_back(minibatch_.corners[*there]);
        continue;
      }
      if (at + 1 == lines) {
        // What is swept from is of no interest here.
        work_.corners.push_back({sheet_, next, first_column});
        continue;
      }
      next += 1 + block.head();
      work_.corners.push_back({sheet_, next, first_column});
      next += static_cast<lxw_row_t>(block.tables().rows()) + 1;
      sheet().widest = std::max(sheet().widest, work_.last_column_of(at));
    }
    sheet().next_row = next;
  }

  /// True for what is given of the row: its features, and what is true.
  [[nodiscard]] bool is_chosen(std::size_t table) const {
    const Line line = work_.tables.work().sheet().line(work_.tables[table].line);
    const bool is_truth = line.name() == "y" || line.name() == "y_raw";
    return line.kind() == Line::Kind::asked || (line.kind() == Line::Kind::given && is_truth);
  }

  /// The table of the minibatch that a line stands in, too: a weight, or a factor.
  [[nodiscard]] std::optional<std::size_t> in_minibatch(std::size_t table) const {
    const Line line = work_.tables.work().sheet().line(work_.tables[table].line);
    if (line.kind() == Line::Kind::calculated || is_chosen(table)) return std::nullopt;
    return find(minibatch_, line.name(), is_given);
  }

  void write_choice() {
    const std::int64_t row = work_.tables.work().batch().rows.front();
    book_.write({sheet_, choice_.row, 1}, "row of the data", look().heading);
    book_.write(choice_, static_cast<double>(row), look().blank);
    book_.write(
        {sheet_, choice_.row, first_column + 1},
        fmt::format(
            "  Type another number, 0 to {}{}.", count_ - 1,
            count_ < data_.rows() ? fmt::format(" (of {} rows these are here)", data_.rows()) : ""),
        look().label);
    lxw_data_validation rule{};
    rule.validate = LXW_VALIDATION_TYPE_INTEGER;
    rule.criteria = LXW_VALIDATION_CRITERIA_BETWEEN;
    rule.minimum_number = 0.0;
    rule.maximum_number = static_cast<double>(count_ - 1);
    std::string title = "No such row";
    std::string message = fmt::format("A whole number from 0 to {}.", count_ - 1);
    rule.error_title = title.data();
    rule.error_message = message.data();
    check_book(
        xlsx().worksheet_data_validation_cell(sheet().sheet, choice_.row, choice_.column, &rule));
    book_.write({sheet_, choice_.row + 1, 1}, "part", look().label);
    write_text_formula({sheet_, choice_.row + 1, first_column}, chosen(1),
                       parts_[static_cast<std::size_t>(row)]);
  }

  /// A formula that gives a text.
  void write_text_formula(const SheetCell& place, const std::string& formula,
                          const std::string& text) {
    check_book(xlsx().worksheet_write_formula_str(book_.sheets()[place.sheet].sheet, place.row,
                                                  place.column, formula.c_str(),
                                                  look().calculated[0], cell_text(text).c_str()));
  }

  /// A class a row: what is said of it, whether it is the true one, and how it went in the
  /// minibatch.
  void write_classes() {
    const std::int64_t classes = data_.class_count();
    book_.write({sheet_, list_top - 1, 1}, "class", look().label);
    heading(first_column, has("p") ? "probability" : "level");
    heading(first_column + 1, "truth");
    heading(first_column + 3, "true");
    heading(first_column + 4, "answered");
    heading(first_column + 5, "right");
    book_.write({sheet_, list_top - 2, first_column + 3}, "of the minibatch", look().label);
    for (std::int64_t of = 0; of < classes; ++of) {
      const lxw_row_t row = list_top + static_cast<lxw_row_t>(of);
      book_.write({sheet_, row, 1}, data_.class_name(of), look().label);
      write_probability({sheet_, row, first_column}, of);
      copy({sheet_, row, first_column + 1}, {table_of("t"), of}, 0);
      tally({sheet_, row, first_column + 3}, of, Tally::of_class);
      tally({sheet_, row, first_column + 4}, of, Tally::answered);
      tally({sheet_, row, first_column + 5}, of, Tally::right);
    }
    const lxw_row_t last = list_top + static_cast<lxw_row_t>(classes) - 1;
    bars({list_top, first_column, last, first_column + 1});
    book_.write({sheet_, last + 1, 1}, "in all", look().label);
    for (const int beside : {3, 4, 5}) {
      const auto column = static_cast<lxw_col_t>(first_column + beside);
      const double total = beside == 5 ? right_in_minibatch() : rows_in_minibatch();
      book_.write_formula(
          {sheet_, last + 1, column},
          fmt::format("=SUM({}:{})", cell_name(list_top, column), cell_name(last, column)), total,
          look().calculated[0]);
    }
    const auto answer =
        static_cast<std::int64_t>(work_.tables[table_of("answer")].numbers.at_offset(0));
    book_.write({sheet_, choice_.row + 2, 1}, "answer", look().heading);
    write_text_formula(
        {sheet_, choice_.row + 2, first_column},
        fmt::format("=INDEX({}:{},{}+1)", cell_name(list_top, 1), cell_name(last, 1),
                    book_.reference(work_.place_of({table_of("answer"), 0}), sheet_)),
        data_.class_name(answer));
    book_.write({sheet_, choice_.row + 2, first_column + 1},
                "  1 where it is right:", look().label);
    copy({sheet_, choice_.row + 2, first_column + 3}, {table_of("right"), 0}, 0);
  }

  void heading(int column, const std::string& text) {
    book_.write({sheet_, list_top - 1, static_cast<lxw_col_t>(column)}, text, look().column);
  }

  /// A cell that shows what another one has.
  void copy(const SheetCell& place, Spot spot, std::size_t form = 1) {
    book_.write_formula(place, "=" + book_.reference(work_.place_of(spot), sheet_),
                        work_.tables[spot.table].numbers.at_offset(spot.offset),
                        look().calculated.at(form));
  }

  /// The probability of a class; of a single output that of the second, and what is left for the
  /// first.
  void write_probability(const SheetCell& place, std::int64_t of) {
    const std::size_t table = table_of(has("p") ? "p" : "level");
    const Tensor& numbers = work_.tables[table].numbers;
    if (numbers.count() > 1) return copy(place, {table, of});
    if (of == 1) return copy(place, {table, 0});
    book_.write_formula(place, "=1-" + book_.reference(work_.place_of({table, 0}), sheet_),
                        1.0 - numbers.at_offset(0), look().calculated[1]);
  }

  enum class Tally { of_class, answered, right };

  /// How many of the minibatch are of a class, were answered with it, or both: from its counts.
  void tally(const SheetCell& place, std::int64_t of, Tally what) {
    const std::size_t table = confusion();
    const Tensor& counts = minibatch_.tables[table].numbers;
    const std::int64_t classes = counts.shape()[0];
    std::string cells;
    double number = 0.0;
    for (std::int64_t other = 0; other < classes; ++other) {
      if (what == Tally::right && other != of) continue;
      const std::int64_t offset =
          what == Tally::answered ? other * classes + of : of * classes + other;
      cells += (cells.empty() ? "" : ",") +
               book_.reference(minibatch_.place_of({table, offset}), sheet_);
      number += counts.at_offset(offset);
    }
    book_.write_formula(place, fmt::format("=SUM({})", cells), number, look().calculated[0]);
  }

  /// The table of the counts of the minibatch.
  [[nodiscard]] std::size_t confusion() const { return *find(minibatch_, "confusion", is_ours); }

  [[nodiscard]] double rows_in_minibatch() const {
    double total = 0.0;
    for (const double count : minibatch_.tables[confusion()].numbers.numbers())
      total += count;
    return total;
  }
  [[nodiscard]] double right_in_minibatch() const {
    const Tensor& counts = minibatch_.tables[confusion()].numbers;
    double total = 0.0;
    for (std::int64_t of = 0; of < counts.shape()[0]; ++of)
      total += counts.at({of, of});
    return total;
  }

  /// Bars from 0 to 1.
  void bars(const CellRange& cells) {
    lxw_conditional_format bar{};
    bar.type = LXW_CONDITIONAL_DATA_BAR;
    bar.data_bar_2010 = LXW_TRUE;
    bar.bar_solid = LXW_TRUE;
    bar.bar_color = bar_colour;
    bar.min_rule_type = LXW_CONDITIONAL_RULE_TYPE_NUMBER;
    bar.min_value = 0.0;
    bar.max_rule_type = LXW_CONDITIONAL_RULE_TYPE_NUMBER;
    bar.max_value = 1.0;
    check_book(xlsx().worksheet_conditional_format_range(sheet().sheet, cells.first_row,
                                                         cells.first_column, cells.last_row,
                                                         cells.last_column, &bar));
  }

  [[nodiscard]] std::int64_t targets() const { return data_.truth().count() / data_.rows(); }

  /// A target a row: what is said, what is true, and how far that is off.
  void write_numbers() {
    book_.write({sheet_, list_top - 1, 1}, "target", look().label);
    heading(first_column, "answer");
    heading(first_column + 1, "truth");
    heading(first_column + 2, "off");
    const std::size_t truth = has("y_raw") ? table_of("y_raw") : table_of("y");
    for (std::int64_t of = 0; of < targets(); ++of) {
      const lxw_row_t row = list_top + static_cast<lxw_row_t>(of);
      book_.write({sheet_, row, 1}, data_.label_of_target(of), look().label);
      copy({sheet_, row, first_column}, {table_of("answer"), of});
      copy({sheet_, row, first_column + 1}, {truth, of});
      copy({sheet_, row, first_column + 2}, {table_of("off"), of});
    }
  }

  /// Every line that is of this row alone.
  void write_lines() {
    for (std::size_t at = 0; at + 1 < work_.blocks.size(); ++at) {
      if (in_minibatch(at)) continue;
      book_.write_labels(work_, at);
      const Tensor& numbers = work_.tables[at].numbers;
      for (std::int64_t offset = 0; offset < numbers.count(); ++offset) {
        const SheetCell place = work_.place_in_block({at, offset});
        if (!is_chosen(at)) {
          book_.write_number(work_, {at, offset}, place);
          continue;
        }
        const bool is_feature =
            work_.tables.work().sheet().line(work_.tables[at].line).kind() == Line::Kind::asked;
        book_.write_formula(
            place, chosen(is_feature ? column_of_feature(offset) : column_of_truth(offset)),
            numbers.at_offset(offset), look().calculated[0]);
      }
      tint(sheet().sheet, {work_.corners[at].row, work_.corners[at].column, work_.last_row_of(at),
                           work_.last_column_of(at)});
    }
  }

  static constexpr lxw_row_t list_top = 9;
  static constexpr lxw_color_t bar_colour = 0x8CC8C2;

  Workbook& book_;
  const Dataset& data_;
  const std::vector<std::string>& parts_;
  Work work_;
  const Work& minibatch_;
  std::int64_t count_;
  std::size_t sheet_;
  std::size_t rows_;
  SheetCell choice_ = {sheet_, 3, first_column};
};

}  // namespace

void write_any_row(Workbook& book, const AnyRow& any_row, const Work& minibatch) {
  AnyRowSheets(book, any_row, minibatch).write();
}

}  // namespace lattice
