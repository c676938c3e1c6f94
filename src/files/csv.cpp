#include "lattice/files/csv.hpp"

#include <csv.h>
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <iterator>
#include <utility>

#include "files/file.hpp"
#include "files/json_records.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

/// The records of a file, and the line of the file on which each starts.
struct Records {
  FieldRows rows = {};
  RowSources sources = {};
};

/// Collects the records that the parser finds.
class Collector {
 public:
  Collector(const std::string& name, char separator) : name_(name), separator_(separator) {
    if (csv_init(&parser_, CSV_STRICT | CSV_STRICT_FINI) != 0) throw std::bad_alloc();
    csv_set_delim(&parser_, static_cast<unsigned char>(separator));
  }
  Collector(const Collector&) = delete;
  Collector& operator=(const Collector&) = delete;
  ~Collector() { csv_free(&parser_); }

  Records collect(std::string_view text) {
    make_room_for(text);
    for (line_ = 1; !text.empty(); ++line_) {
      const std::size_t length = std::min(text.find('\n'), text.size() - 1) + 1;
      if (csv_parse(&parser_, text.data(), length, on_field, on_record, this) != length) refuse();
      text.remove_prefix(length);
    }
    if (csv_fini(&parser_, on_field, on_record, this) != 0) refuse();
    return std::move(records_);
  }

 private:
  /// Room for what the whole text seems to have, by its beginning.
  void make_room_for(std::string_view text) {
    constexpr std::size_t looked_at = 1 << 16;
    const std::string_view sample = text.substr(0, looked_at);
    const auto of_all = [&](char sign) {
      const auto here = static_cast<double>(std::ranges::count(sample, sign)) + 1.0;
      return static_cast<std::size_t>(here * static_cast<double>(text.size()) /
                                      static_cast<double>(sample.size()));
    };
    if (text.empty()) return;
    const std::size_t lines = of_all('\n');
    records_.rows.reserve(lines, lines + of_all(separator_), text.size());
  }

  static void on_field(void* text, std::size_t size, void* self) {
    auto& collector = *static_cast<Collector*>(self);
    if (collector.begun_on_ == 0) collector.begun_on_ = collector.line_;
    collector.records_.rows.add_field({static_cast<const char*>(text), size});
  }

  static void on_record(int, void* self) {
    auto& collector = *static_cast<Collector*>(self);
    Records& records = collector.records_;
    records.rows.end_row();
    records.sources.add({.file = collector.name_,
                         .row = records.rows.size(),
                         .line = std::exchange(collector.begun_on_, 0)});
  }

  [[noreturn]] void refuse() {
    throw FileError({.what = fmt::format("{} is not a CSV file", name_),
                     .where = fmt::format("line {}", line_),
                     .expected = "fields in double quotes closed, and quotes inside them doubled",
                     .found = "a quote inside a field, or one that is never closed"});
  }

  const std::string& name_;
  char separator_;
  csv_parser parser_{};
  Records records_;
  std::size_t begun_on_ = 0;  ///< the line of the record that is being read; 0 before it
  std::size_t line_ = 1;
};

/// Adds a letter of the first 65 536 to a text in UTF-8.
void add_letter(std::string& utf8, unsigned code) {
  if (code < 0x80U) {
    utf8 += static_cast<char>(code);
    return;
  }
  if (code < 0x800U) {
    utf8 += static_cast<char>(0xC0U | (code >> 6U));
  } else {
    utf8 += static_cast<char>(0xE0U | (code >> 12U));
    utf8 += static_cast<char>(0x80U | (code >> 6U & 0x3FU));
  }
  utf8 += static_cast<char>(0x80U | (code & 0x3FU));
}

/// The text of a file in Windows-1252 in UTF-8: Latin-1, with letters where that has the control
/// characters 0x80 to 0x9F. Of those, the five that stand for nothing stay what they are.
std::string from_windows_1252(std::string_view text) {
  constexpr std::array<unsigned, 32> letters = {
      0x20AC, 0x81,   0x201A, 0x0192, 0x201E, 0x2026, 0x2020, 0x2021, 0x02C6, 0x2030, 0x0160,
      0x2039, 0x0152, 0x8D,   0x017D, 0x8F,   0x90,   0x2018, 0x2019, 0x201C, 0x201D, 0x2022,
      0x2013, 0x2014, 0x02DC, 0x2122, 0x0161, 0x203A, 0x0153, 0x9D,   0x017E, 0x0178};
  std::string utf8;
  for (const char letter : text) {
    const auto byte = static_cast<unsigned char>(letter);
    add_letter(utf8, byte >= 0x80U && byte < 0xA0U ? letters.at(byte - 0x80U) : byte);
  }
  return utf8;
}

std::string_view without_byte_order_mark(std::string_view text) {
  constexpr std::string_view byte_order_mark = "\xEF\xBB\xBF";
  if (text.starts_with(byte_order_mark)) text.remove_prefix(byte_order_mark.size());
  return text;
}

bool is_digit(char letter) {
  return letter >= '0' && letter <= '9';
}

/// The sign that is most frequent in the first line, outside quotes; a comma when none is there.
/// Where there are others, a comma between digits is rather a decimal sign.
char separator_of(std::string_view text) {
  constexpr std::string_view signs = ",;\t|";
  std::array<int, signs.size()> counts{};
  int between_digits = 0;
  bool quoted = false;
  const std::string_view line = text.substr(0, text.find('\n'));
  for (std::size_t at = 0; at < line.size(); ++at) {
    if (line[at] == '"') quoted = !quoted;
    const std::size_t sign = signs.find(line[at]);
    if (quoted || sign == std::string_view::npos) continue;
    ++counts.at(sign);
    if (line[at] == ',' && at > 0 && at + 1 < line.size() && is_digit(line[at - 1]) &&
        is_digit(line[at + 1]))
      ++between_digits;
  }
  if (counts[1] + counts[2] + counts[3] > 0) counts[0] -= between_digits;
  return signs[static_cast<std::size_t>(std::ranges::max_element(counts) - counts.begin())];
}

/// A number with one comma for the decimal point, `-3,5`, with a point; nothing for other text.
std::optional<std::string> with_point(std::string_view field) {
  const std::size_t comma = field.find(',');
  const bool is_one = comma != std::string_view::npos && comma > 0 && comma + 1 < field.size() &&
                      is_digit(field[comma - 1]) && is_digit(field[comma + 1]) &&
                      field.find_first_of(",.", comma + 1) == std::string_view::npos &&
                      field.substr(0, comma).find('.') == std::string_view::npos;
  if (!is_one) return std::nullopt;
  std::string text(field);
  text[comma] = '.';
  return parse_number(text) ? std::optional(text) : std::nullopt;
}

bool is_number(std::string_view field) {
  return parse_number(field).has_value() || with_point(field).has_value();
}

/// Gives numbers points for commas, column by column: where there is a number with a comma, and no
/// field that has a point, or is no number.
void read_decimal_commas(Table& table) {
  for (std::size_t column = 0; column < table.header.size(); ++column) {
    std::optional<std::string_view> example;
    const bool all = std::ranges::all_of(table.rows, [&](const FieldRows::Row& row) {
      const std::string_view field = trimmed(row[column]);
      if (with_point(field)) {
        if (!example) example = field;
        return true;
      }
      return is_missing(field) ||
             (parse_number(field) && field.find('.') == std::string_view::npos);
    });
    if (!all || !example) continue;
    table.decimal_commas.push_back(
        {.column = table.header[column], .as_written = std::string(*example)});
    for (std::size_t row = 0; row < table.rows.size(); ++row) {
      const std::string_view field = table.rows[row][column];
      if (with_point(trimmed(field))) table.rows.set_letter(row, column, field.find(','), '.');
    }
  }
}

/// True unless the first row holds numbers in every column that holds them below it.
bool has_header(const FieldRows& rows) {
  if (rows.size() == 1) return std::ranges::none_of(rows[0], is_number);
  bool columns_of_numbers = false;
  for (std::size_t column = 0; column < rows[0].size(); ++column) {
    bool below = true;
    for (std::size_t row = 1; row < rows.size() && row < 20 && below; ++row)
      below = column < rows[row].size() && is_number(rows[row][column]);
    if (below && !is_number(rows[0][column])) return true;
    columns_of_numbers = columns_of_numbers || below;
  }
  return !columns_of_numbers;
}

/// True for what is called JSON, and for a list of objects whatever it is called.
bool holds_records(std::string_view text, const std::string& name) {
  if (name.ends_with(".json")) return true;
  const std::string_view begin = trimmed(text);
  return begin.starts_with('[') && trimmed(begin.substr(1)).starts_with('{');
}

/// What a row says in a column, of which `feature` is the first.
std::string field_of(const Tensor& features, std::int64_t row, std::int64_t feature,
                     const Column& column) {
  if (column.words.empty()) return fmt::format("{}", features.at({row, feature}));
  std::size_t word = 0;
  while (word + 1 < column.words.size() &&
         features.at({row, feature + static_cast<std::int64_t>(word)}) == 0.0)
    ++word;
  return column.words[word];
}

/// Whether a spreadsheet would take a field for a formula, were it not for quotes in front.
bool is_like_a_formula(std::string_view field) {
  const std::size_t first = field.find_first_not_of('\'');
  if (first == std::string_view::npos) return false;
  return std::string_view("=+-@\t\r").find(field[first]) != std::string_view::npos &&
         !parse_number(field.substr(first)) && field != "-nan" && field != "-inf";
}

/// A field that no program takes for a formula; `without_quote` gives it back as it was.
std::string no_formula(std::string_view field) {
  return fmt::format("{}{}", is_like_a_formula(field) ? "'" : "", field);
}

std::string_view without_quote(std::string_view field) {
  return field.starts_with('\'') && is_like_a_formula(field) ? field.substr(1) : field;
}

FieldRows without_quotes(const FieldRows& rows) {
  FieldRows without;
  for (const FieldRows::Row row : rows) {
    for (const std::string_view field : row)
      without.add_field(without_quote(field));
    without.end_row();
  }
  return without;
}

/// Refuses control characters: whatever is shown of the table later, no name in it does anything
/// but stand there.
void check_letters(const Records& records, const std::string& name, bool header) {
  for (std::size_t at = 0; at < records.rows.size(); ++at) {
    for (std::size_t column = 0; column < records.rows[at].size(); ++column) {
      const std::string_view field = records.rows[at][column];
      const std::optional<std::string> unwelcome = unwelcome_in(field);
      if (!unwelcome) continue;
      const std::string row =
          header && at == 0 ? "the header" : fmt::format("row {}", header ? at : at + 1);
      throw FileError({.what = fmt::format("{} contains something that is not text", name),
                       .where = fmt::format("{} (line {} of the file), column {}", row,
                                            records.sources[at].line, column + 1),
                       .expected = "letters, digits and signs",
                       .found = fmt::format("'{}', with {}", field, *unwelcome),
                       .remedy = "correct the field, or save the table as text again"});
    }
  }
}

}  // namespace

Table read_table(const std::filesystem::path& path, const CsvSettings& settings) {
  return parse_table(read_file(path, "a CSV file"), harmless(path.filename().string()), settings);
}

Table read_tables(const std::vector<std::string>& paths, const CsvSettings& settings) {
  std::vector<Table> tables;
  tables.reserve(paths.size());
  for (const std::string& path : paths)
    tables.push_back(read_table(path, settings));
  return appended(std::move(tables));
}

Table parse_table(std::string_view text, const std::string& name, const CsvSettings& settings) {
  if (!is_utf8(text)) return parse_table(from_windows_1252(text), name, settings);
  text = without_byte_order_mark(text);
  if (holds_records(text, name)) return parse_records(text, name, settings.list);
  if (!settings.list.empty()) {
    throw SettingError({.what = fmt::format("a list '{}' is asked for in a table", settings.list),
                        .where = name,
                        .expected = "JSON, where a list stands under a key",
                        .found = "CSV"});
  }
  const char separator = settings.separator.value_or(separator_of(text));
  Records records = Collector(name, separator).collect(text);
  FieldRows& rows = records.rows;
  if (rows.empty()) {
    throw FileError({.what = fmt::format("{} is empty", name),
                     .expected = "a header row with the names of the columns, and rows below it",
                     .found = "nothing"});
  }
  Table table{.name = name, .header = {}, .rows = {}};
  const bool header = settings.header.value_or(has_header(rows));
  if (unwelcome_in(text)) check_letters(records, name, header);
  if (header) {
    for (const std::string_view column : rows.front())
      table.header.emplace_back(without_quote(trimmed(column)));
    rows.drop_first();
  } else {
    for (std::size_t column = 1; column <= rows.front().size(); ++column)
      table.header.push_back(fmt::format("column{}", column));
  }
  if (rows.empty()) {
    throw FileError({.what = fmt::format("{} has no rows", name),
                     .expected = "at least one row below the header",
                     .found = "the header alone"});
  }
  for (std::size_t row = 0; row < rows.size(); ++row) {
    const std::size_t line = records.sources[row + (header ? 1 : 0)].line;
    table.sources.add({.file = name, .row = row + 1, .line = line});
    if (rows[row].size() != table.header.size()) {
      throw FileError(
          {.what = "a row and the header differ in the number of fields",
           .where = fmt::format("{}, row {} (line {} of the file)", name, row + 1, line),
           .expected = fmt::format("{}: {}", counted(std::ssize(table.header), "field"),
                                   fmt::join(table.header, ", ")),
           .found =
               fmt::format("{}: {}", counted(static_cast<std::int64_t>(rows[row].size()), "field"),
                           fmt::join(rows[row], ", ")),
           .remedy = fmt::format("if fields are not separated by '{}', name the separator",
                                 separator == '\t' ? "a tab" : std::string(1, separator)),
           .advice = {"separator", ""}});
    }
  }
  table.rows = text.find('\'') == std::string_view::npos ? std::move(rows) : without_quotes(rows);
  read_decimal_commas(table);
  return table;
}

Dataset read_csv(const std::filesystem::path& path, const ColumnChoice& choice) {
  return dataset_from(read_table(path), choice).data;
}

Dataset parse_csv(std::string_view text, const std::string& name, const ColumnChoice& choice) {
  return dataset_from(parse_table(text, name), choice).data;
}

std::vector<std::string> parse_csv_record(const std::string& text) {
  const std::string name = fmt::format("'{}'", text);
  const Records records = Collector(name, ',').collect(text);
  check_letters(records, name, false);
  if (records.rows.size() == 1) return {records.rows.front().begin(), records.rows.front().end()};
  throw FileError({.what = fmt::format("{} is not one list of names", name),
                   .expected = "names separated by commas",
                   .found = records.rows.empty() ? "nothing" : "several rows"});
}

std::string to_csv(const Dataset& data) {
  return to_csv(table_of(data));
}

Table table_of(const Dataset& data) {
  if (!data.is_table()) {
    throw SettingError({.what = fmt::format("{} is not a table", data.name),
                        .expected = "rows of features",
                        .found = fmt::format("examples {}", to_string(data.example()))});
  }
  Table table{.name = data.name, .header = {}, .rows = {}};
  // Where each row is its own feature there is no column: without any it is so again.
  const std::vector<Column> columns =
      data.has_own_features() ? std::vector<Column>() : data.columns_or_features();
  if (!data.row_names.empty()) table.header.emplace_back("name");
  const bool is_weighed = find_side(data.side, row_weights_name) != nullptr;
  for (const Column& column : columns)
    table.header.push_back(column.name);
  for (const std::string& target : data.all_target_names())
    table.header.push_back(target);
  if (is_weighed) table.header.emplace_back(row_weights_name);
  if (!data.known.empty()) table.header.emplace_back("known");
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    std::vector<std::string> fields;
    if (!data.row_names.empty()) fields.push_back(data.row_name(row));
    std::int64_t feature = 0;
    for (const Column& column : columns) {
      fields.push_back(field_of(data.features, row, feature, column));
      feature += static_cast<std::int64_t>(column.feature_count());
    }
    if (!data.has_truth(row)) {
      fields.resize(fields.size() + data.all_target_names().size());
    } else if (data.has_classes()) {
      fields.push_back(data.class_name(static_cast<std::int64_t>(data.classes.at({row}))));
    } else {
      for (std::int64_t target = 0; target < data.targets.shape()[1]; ++target)
        fields.push_back(fmt::format("{}", data.targets.at({row, target})));
    }
    if (is_weighed) fields.push_back(fmt::format("{}", data.row_weight(row)));
    if (!data.known.empty()) fields.emplace_back(data.is_known(row) ? "yes" : "no");
    table.rows.push_back(fields);
  }
  return table;
}

namespace {

/// The confusion matrices of a run, by class and answer, and the recalls.
class ConfusionColumns {
 public:
  explicit ConfusionColumns(const std::vector<std::string>& classes) : classes_(classes) {}

  [[nodiscard]] static const Tensor* confusion_of(const EpochFigures& epoch) {
    const std::optional<Figures>& watched = epoch.validation ? epoch.validation : epoch.train;
    return watched && watched->confusion ? &*watched->confusion : nullptr;
  }
  [[nodiscard]] static const Tensor* confusion_of(const StepFigures& step) {
    return step.watched && step.watched->confusion ? &*step.watched->confusion : nullptr;
  }

  void add_names(std::vector<std::string>& header) const {
    for (const std::string& truth : classes_)
      header.push_back("recall " + truth);
    for (const std::string& truth : classes_) {
      for (const std::string& answer : classes_)
        header.push_back(fmt::format("{} as {}", truth, answer));
    }
  }

  void add(std::vector<std::string>& row, const Tensor* confusion) const {
    const std::size_t count = classes_.size();
    if (confusion == nullptr || confusion->shape()[0] != std::ssize(classes_)) {
      row.resize(row.size() + count + count * count);
      return;
    }
    for (const std::optional<double>& recall : recalls(*confusion))
      row.push_back(recall ? fmt::format("{}", *recall) : "");
    for (const double number : confusion->numbers())
      row.push_back(fmt::format("{}", number));
  }

 private:
  const std::vector<std::string>& classes_;
};

}  // namespace

Table figures_table(const std::string& name, const RunRecord& run,
                    const std::vector<std::string>& classes) {
  Table table{
      .name = name,
      .header = {"name", "step", "epoch", "rate", "minibatch_loss", "minibatch_accuracy",
                 "running_loss", "running_accuracy", "train_loss", "train_accuracy",
                 "validation_loss", "validation_accuracy", "learning_seconds", "judging_seconds"},
      .rows = {}};
  const ConfusionColumns confusions(classes);
  confusions.add_names(table.header);
  const bool has_validation = !run.epochs.empty() && run.epochs.front().validation;
  const auto add = [&](std::int64_t step, std::int64_t epoch, const std::string& rate,
                       const std::array<std::optional<Figures>, 4>& all,
                       const std::array<std::string, 2>& seconds, const Tensor* confusion) {
    std::vector<std::string> row = {name, fmt::format("{}", step), fmt::format("{}", epoch), rate};
    for (const std::optional<Figures>& figures : all) {
      row.push_back(figures ? fmt::format("{}", figures->loss) : "");
      row.push_back(figures && figures->accuracy ? fmt::format("{}", *figures->accuracy) : "");
    }
    row.insert(row.end(), seconds.begin(), seconds.end());
    confusions.add(row, confusion);
    table.rows.push_back(row);
  };
  auto step = run.steps.begin();
  const auto add_steps = [&](std::int64_t last) {
    for (; step != run.steps.end() && step->step <= last; ++step) {
      add(step->step, step->epoch, "",
          {step->minibatch, step->running, has_validation ? std::nullopt : step->watched,
           has_validation ? step->watched : std::nullopt},
          {}, ConfusionColumns::confusion_of(*step));
    }
  };
  for (const EpochFigures& epoch : run.epochs) {
    add_steps(epoch.updates);
    add(epoch.updates, epoch.epoch, fmt::format("{}", epoch.rate),
        {std::nullopt, epoch.running, epoch.train, epoch.validation},
        {fmt::format("{:.6f}", epoch.learning_seconds),
         fmt::format("{:.6f}", epoch.judging_seconds)},
        ConfusionColumns::confusion_of(epoch));
  }
  add_steps(run.updates);  // of an epoch in which the loss was no longer a number
  return table;
}

std::string to_csv(const Table& table) {
  std::string text;
  const auto add_record = [&](const auto& fields) {
    for (std::size_t at = 0; at < fields.size(); ++at) {
      if (at > 0) text += ",";
      const std::string field = no_formula(fields[at]);
      // Lists of edges may have comments, which these signs begin.
      const bool is_like_a_comment = at == 0 && (field.starts_with('#') || field.starts_with('%'));
      if (field.find_first_of(",\"\r\n") == std::string::npos && !is_like_a_comment) {
        text += field;
        continue;
      }
      text += '"';
      for (const char letter : field)
        text += letter == '"' ? "\"\"" : std::string(1, letter);
      text += '"';
    }
    text += "\r\n";
  };
  add_record(table.header);
  for (const FieldRows::Row row : table.rows)
    add_record(row);
  return text;
}

}  // namespace lattice
