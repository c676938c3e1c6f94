#include "lattice/files/csv.hpp"

#include <csv.h>
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <fstream>
#include <iterator>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/numbers.hpp"
#include "lattice/tensor/text.hpp"

namespace lattice {
namespace {

/// One record of the file, and the line of the file on which it starts.
struct Record {
  std::vector<std::string> fields;
  std::size_t line = 0;
};

/// Collects the records that the parser finds.
class Collector {
 public:
  explicit Collector(const std::string& name) : name_(name) {
    if (csv_init(&parser_, CSV_STRICT | CSV_STRICT_FINI) != 0) throw std::bad_alloc();
  }
  Collector(const Collector&) = delete;
  Collector& operator=(const Collector&) = delete;
  ~Collector() { csv_free(&parser_); }

  std::vector<Record> collect(std::string_view text) {
    constexpr std::string_view byte_order_mark = "\xEF\xBB\xBF";
    if (text.starts_with(byte_order_mark)) text.remove_prefix(byte_order_mark.size());
    for (line_ = 1; !text.empty(); ++line_) {
      const std::size_t length = std::min(text.find('\n'), text.size() - 1) + 1;
      if (csv_parse(&parser_, text.data(), length, on_field, on_record, this) != length) refuse();
      text.remove_prefix(length);
    }
    if (csv_fini(&parser_, on_field, on_record, this) != 0) refuse();
    return std::move(records_);
  }

 private:
  static void on_field(void* text, std::size_t size, void* self) {
    auto& collector = *static_cast<Collector*>(self);
    if (collector.current_.fields.empty()) collector.current_.line = collector.line_;
    collector.current_.fields.emplace_back(static_cast<const char*>(text), size);
  }

  static void on_record(int, void* self) {
    auto& collector = *static_cast<Collector*>(self);
    collector.records_.push_back(std::move(collector.current_));
    collector.current_ = {};
  }

  [[noreturn]] void refuse() {
    throw FileError({.what = fmt::format("{} is not a CSV file", name_),
                     .where = fmt::format("line {}", line_),
                     .expected = "fields in double quotes closed, and quotes inside them doubled",
                     .found = csv_strerror(csv_error(&parser_))});
  }

  const std::string& name_;
  csv_parser parser_{};
  std::vector<Record> records_;
  Record current_;
  std::size_t line_ = 1;
};

/// A table as text, and the columns that were chosen.
class Table {
 public:
  Table(std::string_view text, const std::string& name)
      : name_(name), records_(Collector(name).collect(text)) {
    if (records_.empty()) {
      throw FileError(
          {.what = fmt::format("{} is empty", name),
           .expected = "a header row with the names of the columns, and rows of numbers",
           .found = "nothing"});
    }
    if (records_.size() == 1) {
      throw FileError({.what = fmt::format("{} has no rows", name),
                       .expected = "at least one row of numbers below the header",
                       .found = "the header alone"});
    }
    for (std::size_t row = 1; row < records_.size(); ++row) {
      if (records_[row].fields.size() == header().size()) continue;
      throw FileError(
          {.what = "a row with another number of fields than the header",
           .where = where(row),
           .expected = fmt::format("{} fields: {}", header().size(), fmt::join(header(), ", ")),
           .found = fmt::format("{} fields: {}", records_[row].fields.size(),
                                fmt::join(records_[row].fields, ", "))});
    }
  }

  [[nodiscard]] const std::vector<std::string>& header() const { return records_.front().fields; }
  [[nodiscard]] std::size_t rows() const { return records_.size() - 1; }

  /// The column with a name; `option` is how it was asked for.
  [[nodiscard]] std::size_t column(const std::string& name, std::string_view option) const {
    const auto count = std::ranges::count(header(), name);
    if (count == 1)
      return static_cast<std::size_t>(std::ranges::find(header(), name) - header().begin());
    if (count > 1) {
      throw NameError({.what = fmt::format("{} columns are called '{}'", count, name),
                       .where = name_,
                       .expected = "a different name for each column"});
    }
    const std::string near = nearest(name, header());
    const bool one_column =
        header().size() == 1 && header()[0].find_first_of(";\t|") != std::string::npos;
    std::string remedy = near.empty() ? "" : fmt::format("{} {}", option, near);
    if (one_column) remedy = "separate the fields with commas: this file seems to use another sign";
    throw NameError(
        {.what = name.empty() ? fmt::format("which column of {} is the target?", name_)
                              : fmt::format("there is no column '{}' in {}", name, name_),
         .expected = fmt::format("one of {}", fmt::join(header(), ", ")),
         .found = name.empty() ? "no name" : fmt::format("'{}'", name),
         .remedy = name.empty() ? fmt::format("{} {}", option, header().back()) : remedy});
  }

  /// The number in a row, counted from 1, and a column.
  [[nodiscard]] double number(std::size_t row, std::size_t column,
                              const std::string& target) const {
    const std::string& field = records_[row].fields[column];
    const std::optional<double> number = parse_number(field);
    if (number && std::isfinite(*number)) return *number;
    Trouble trouble{.what = fmt::format("'{}' cannot be used as a number", field),
                    .where = fmt::format("{}, column '{}'", where(row), header()[column]),
                    .expected = "a finite number with a decimal point, such as 4.5",
                    .found = fmt::format("'{}'", field)};
    if (field.empty()) {
      trouble.what = "a value is missing";
      trouble.found = "an empty field";
    } else if (number) {
      trouble.remedy = "NaN and infinity spread to every sum they enter: mend or drop the row";
    } else if (field.find(',') != std::string::npos) {
      trouble.remedy = "write the decimal sign as a point";
    } else {
      trouble.remedy = header()[column] == target
                           ? "choose a column of numbers as the target"
                           : "leave columns of text out: --features " + number_columns(target);
    }
    throw FileError(trouble);
  }

 private:
  [[nodiscard]] std::string where(std::size_t row) const {
    return fmt::format("{}, row {} (line {} of the file)", name_, row, records_[row].line);
  }

  /// The columns, apart from the target, whose first row holds a number.
  [[nodiscard]] std::string number_columns(const std::string& target) const {
    std::vector<std::string> names;
    for (std::size_t column = 0; column < header().size(); ++column) {
      const bool is_number = parse_number(records_[1].fields[column]).has_value();
      if (is_number && header()[column] != target) names.push_back(header()[column]);
    }
    return fmt::format("{}", fmt::join(names, ","));
  }

  const std::string& name_;
  std::vector<Record> records_;
};

std::string read_whole(const std::filesystem::path& path) {
  const auto refuse = [&](const std::string& reason) {
    return FileError({.what = fmt::format("cannot read {}", path.string()),
                      .expected = "a CSV file with a header row",
                      .found = reason,
                      .remedy = "check the path; it is taken from the folder you are in"});
  };
  if (std::filesystem::is_directory(path)) throw refuse("a folder");
  if (std::filesystem::is_character_file(path)) throw refuse("a device, which may never end");
  std::ifstream file(path, std::ios::binary);
  if (!file) throw refuse(std::strerror(errno));
  std::string text{std::istreambuf_iterator<char>(file), {}};
  if (file.bad()) throw refuse(std::strerror(errno));
  return text;
}

}  // namespace

Dataset read_csv(const std::filesystem::path& path, const ColumnChoice& choice) {
  return parse_csv(read_whole(path), path.filename().string(), choice);
}

Dataset parse_csv(std::string_view text, const std::string& name, const ColumnChoice& choice) {
  const Table table(text, name);
  const std::size_t target = table.column(choice.target, "--target");
  std::vector<std::string> names = choice.features;
  if (names.empty()) {
    std::ranges::copy_if(table.header(), std::back_inserter(names),
                         [&](const std::string& column) { return column != choice.target; });
  }
  if (names.empty()) {
    throw NameError({.what = fmt::format("{} has no column to learn from", name),
                     .expected = fmt::format("at least one column besides '{}'", choice.target),
                     .found = fmt::format("{}", fmt::join(table.header(), ", "))});
  }
  std::vector<std::size_t> columns;
  for (const std::string& feature : names) {
    if (feature == choice.target) {
      throw NameError({.what = fmt::format("'{}' is the target and a feature at once", feature),
                       .expected = "features that are known before the target is",
                       .remedy = "leave it out of --features"});
    }
    columns.push_back(table.column(feature, "--features"));
  }
  std::vector<double> features;
  std::vector<double> targets;
  for (std::size_t row = 1; row <= table.rows(); ++row) {
    for (const std::size_t column : columns)
      features.push_back(table.number(row, column, choice.target));
    targets.push_back(table.number(row, target, choice.target));
  }
  const auto rows = static_cast<std::int64_t>(table.rows());
  const Shape shape{rows, std::ssize(columns)};
  return {.name = name,
          .features = tensor(shape.with({Role::example, Role::feature}), features),
          .targets = tensor(Shape{rows, 1}.with({Role::example, Role::unit}), targets),
          .feature_names = std::move(names),
          .target_name = choice.target};
}

std::vector<std::string> parse_csv_record(const std::string& text) {
  const std::string name = fmt::format("'{}'", text);
  std::vector<Record> records = Collector(name).collect(text);
  if (records.size() == 1) return std::move(records.front().fields);
  throw FileError({.what = fmt::format("{} is not one list of names", name),
                   .expected = "names separated by commas",
                   .found = records.empty() ? "nothing" : "several rows"});
}

std::string to_csv(const Dataset& data) {
  const auto quoted = [](const std::string& field) {
    if (field.find_first_of(",\"\r\n") == std::string::npos) return field;
    std::string text = "\"";
    for (const char letter : field)
      text += letter == '"' ? "\"\"" : std::string(1, letter);
    return text + "\"";
  };
  std::string text;
  for (const std::string& name : data.feature_names)
    text += quoted(name) + ",";
  text += quoted(data.target_name) + "\r\n";
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    for (std::int64_t feature = 0; feature < data.features.shape()[1]; ++feature) {
      text += fmt::format("{},", data.features.at({row, feature}));
    }
    text += fmt::format("{}\r\n", data.targets.at({row, 0}));
  }
  return text;
}

}  // namespace lattice
