#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <iterator>
#include <set>
#include <string>
#include <vector>

#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/wrapping.hpp"
#include "lattice/worksheet/sheet_text.hpp"
#include "worksheet/record.hpp"
#include "worksheet/sheets/names.hpp"
#include "worksheet/sheets/tokens.hpp"

namespace lattice::sheets {
namespace {

/// A number with all its digits; one of single precision has fewer.
void append_number(std::string& text, double number, Precision precision) {
  if (!std::isfinite(number)) {
    text += format_number(number);
  } else if (precision == Precision::single) {
    fmt::format_to(std::back_inserter(text), "{}", static_cast<float>(number));
  } else {
    fmt::format_to(std::back_inserter(text), "{}", number);
  }
}

/// Numbers in nested brackets.
/// @param between what stands between the rows of matrices
void append_numbers(std::string& text, const Tensor& numbers, int axis, std::int64_t& offset,
                    const std::string& between) {
  const Shape& shape = numbers.shape();
  if (axis == shape.rank()) {
    append_number(text, numbers.at_offset(offset++), numbers.precision());
    return;
  }
  text += "[";
  for (std::int64_t place = 0; place < shape[axis]; ++place) {
    if (place > 0) text += axis + 1 < shape.rank() ? between : ", ";
    append_numbers(text, numbers, axis + 1, offset, between);
  }
  text += "]";
}

/// Numbers in one line where they fit, else a line for each row below the first.
std::string text_of(const Tensor& numbers, std::size_t indent) {
  std::string text;
  if (numbers.is_sparse()) {
    text = fmt::format("sparse({}, {};", numbers.shape()[0], numbers.shape()[1]);
    const char* between = " ";
    for (const MatrixEntry& entry : entries_of(numbers)) {
      text += fmt::format("{}{} {} ", between, entry.row, entry.column);
      append_number(text, entry.number, numbers.precision());
      between = ", ";
    }
    return text + ")";
  }
  constexpr std::int64_t few = 64;
  std::int64_t offset = 0;
  if (numbers.count() <= few) {
    append_numbers(text, numbers, 0, offset, ", ");
    if (indent + columns(text) <= page_width) return text;
    text.clear();
    offset = 0;
  }
  const std::size_t brackets = static_cast<std::size_t>(std::max(1, numbers.shape().rank() - 1));
  append_numbers(text, numbers, 0, offset, ",\n" + std::string(indent + brackets, ' '));
  return text;
}

/// The roles of axes, where there are any: ` [example × feature]`.
std::string roles_of(const Shape& shape) {
  bool has_role = false;
  std::string text;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const Role role = shape.role(axis);
    has_role = has_role || role != Role::none;
    text += axis == 0 ? "" : " × ";
    text += role == Role::none ? fmt::format("{}", shape[axis]) : std::string(word(role));
  }
  return has_role ? fmt::format(" [{}]", text) : "";
}

std::string_view word_of(Line::Kind kind) {
  switch (kind) {
    case Line::Kind::given:
      return "given";
    case Line::Kind::asked:
      return "asked";
    case Line::Kind::weight:
      return "weight";
    case Line::Kind::frozen:
      return "frozen";
    case Line::Kind::running:
      return "running";
    case Line::Kind::calculated:
      return "";
  }
  return "";
}

/// Writes the lines of a worksheet, one after another.
class Writer {
 public:
  explicit Writer(WorksheetRecord& record) : record_(record) {
    for (std::uint32_t position = 0; position < record.size(); ++position)
      names_.push_back(typed_name(position));
  }

  void write(std::string& text) const {
    std::uint32_t section = 0;
    for (std::uint32_t position = 0; position < record_.size(); ++position) {
      const WorksheetRecord::Entry& entry = record_[position];
      if (entry.section != section) {
        section = entry.section;
        text += fmt::format("\nsection {}\n", quoted_where_needed(record_.section(entry)));
      }
      text += entry.operation == nullptr ? leaf(position) : calculated(position);
      text += "\n";
      for (const WorksheetRecord::Running& running : record_.running()) {
        if (running.next == position)
          text += fmt::format("next {} = {}\n", names_[running.now], names_[running.next]);
      }
    }
  }

  [[nodiscard]] const std::string& name(std::uint32_t position) const { return names_[position]; }

 private:
  /// The name of a line, `#5` without one; of several that are called alike, each has its number.
  std::string typed_name(std::uint32_t position) {
    if (record_[position].name.text().empty()) return fmt::format("#{}", position + 1);
    std::string name = record_.name(position);
    while (!used_.insert(name).second)
      name = fmt::format("{}.{}", record_[position].name.text(), position + 1);
    if (is_plain_name(name)) return name;
    std::string quoted = "\"";
    for (const char letter : name)
      quoted += letter == '"' ? "\"\"" : std::string(1, letter);
    return quoted + "\"";
  }

  [[nodiscard]] std::string leaf(std::uint32_t position) const {
    const WorksheetRecord::Entry& entry = record_[position];
    const std::string start = fmt::format("{} {}{} = ", word_of(entry.kind), names_[position],
                                          roles_of(entry.value.shape()));
    return start + text_of(entry.value, columns(start));
  }

  [[nodiscard]] std::string calculated(std::uint32_t position) const {
    const WorksheetRecord::Entry& entry = record_[position];
    if (entry.operation->nature().is_own) {
      throw SettingError(
          {.what = fmt::format("{} is an operation of your own, which a sheet cannot "
                               "have",
                               entry.operation->name()),
           .where = fmt::format("line {}, {}", position + 1, names_[position]),
           .expected = "operations of the library"});
    }
    Symbols symbols{
        .result = names_[position], .result_shape = entry.value.shape(), .are_typed = true};
    std::vector<const Tensor*> values;
    for (const std::uint32_t input : WorksheetRecord::inputs(entry)) {
      symbols.inputs.push_back(names_[input]);
      symbols.shapes.push_back(record_[input].value.shape());
      values.push_back(&record_[input].value);
    }
    // Roles that the operation does not give by itself were given to the line.
    const Shape own = entry.operation->shape(Inputs(values));
    bool has_own_roles = true;
    for (int axis = 0; axis < own.rank(); ++axis)
      has_own_roles = has_own_roles && own.role(axis) == entry.value.shape().role(axis);
    return fmt::format("{}{} = {}", names_[position],
                       has_own_roles ? "" : roles_of(entry.value.shape()),
                       entry.operation->symbols(symbols));
  }

  WorksheetRecord& record_;
  std::vector<std::string> names_ = {};
  std::set<std::string> used_ = {};
};

void append_names(std::string& text, std::string_view word, const std::vector<std::string>& names) {
  if (!names.empty()) text += fmt::format("{} {}\n", word, joined_names(names));
}

}  // namespace
}  // namespace lattice::sheets

namespace lattice {

std::string sheet_text(const Worksheet& sheet, const Line& result, const SheetHeading& heading) {
  std::string text;
  if (!heading.title.empty())
    text += fmt::format("title {}\n", sheets::quoted_where_needed(heading.title));
  if (sheet.size() > 0 && sheet.line(1).value().precision() == Precision::single)
    text += "precision single\n";
  sheets::append_names(text, "features", heading.names.features);
  sheets::append_names(text, "targets", heading.names.targets);
  sheets::append_names(text, "classes", heading.names.classes);
  sheets::append_names(text, "nodes", heading.names.nodes);
  if (sheet.size() == 0) return text;
  const bool begins_with_section = !sheet.line(1).section().empty();
  if (!text.empty() && !begins_with_section) text += "\n";
  WorksheetRecord& record = WorksheetRecord::of(sheet.line(1));
  const sheets::Writer writer(record);
  writer.write(text);
  if (result.number() != sheet.size()) {
    text += fmt::format("\nsweep from {}\n", writer.name(WorksheetRecord::position(result)));
  }
  return text;
}

}  // namespace lattice
