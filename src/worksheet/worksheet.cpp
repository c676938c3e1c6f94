#include "lattice/worksheet/worksheet.hpp"

#include <fmt/format.h>

#include "lattice/tensor/print.hpp"
#include "lattice/text/error.hpp"
#include "worksheet/record.hpp"

namespace lattice {

std::size_t Line::number() const {
  return WorksheetRecord::position(*this) + 1;
}

std::string Line::name() const {
  return WorksheetRecord::of(*this).name(position_);
}

bool Line::has_name() const {
  return WorksheetRecord::entry(*this).name.is_name();
}

Line::Kind Line::kind() const {
  return WorksheetRecord::entry(*this).kind;
}

const std::string& Line::section() const {
  return WorksheetRecord::of(*this).section(WorksheetRecord::entry(*this));
}

const Shape& Line::shape() const {
  return value().shape();
}

const Tensor& Line::value() const {
  return WorksheetRecord::entry(*this).value;
}

std::string_view Line::operation() const {
  switch (kind()) {
    case Kind::given:
      return "given";
    case Kind::asked:
      return "given, and asked about";
    case Kind::weight:
      return "weight";
    case Kind::frozen:
      return "frozen weight";
    case Kind::running:
      return "running statistic";
    case Kind::calculated:
      return WorksheetRecord::entry(*this).operation->name();
  }
  return "";
}

OperationNature Line::nature() const {
  const Operation* const operation = WorksheetRecord::entry(*this).operation;
  return operation == nullptr ? OperationNature() : operation->nature();
}

std::string Line::symbols() const {
  const WorksheetRecord::Entry& entry = WorksheetRecord::entry(*this);
  if (entry.operation == nullptr) return "";
  return entry.operation->symbols(record_->symbols(position_));
}

std::string to_string(const Line& line) {
  const std::string symbols = line.symbols();
  return fmt::format("{}{}{}\n{}", line.name(), symbols.empty() ? "" : " = ", symbols,
                     line.value());
}

std::string to_string(const Worksheet& sheet) {
  std::string text;
  for (const Line& line : sheet.lines())
    text += (text.empty() ? "" : "\n") + to_string(line);
  return text;
}

std::string Line::reverse_symbols(std::size_t input) const {
  const WorksheetRecord::Entry& entry = WorksheetRecord::entry(*this);
  if (input >= entry.input_count) {
    throw IndexError({.what = fmt::format("{} has no input number {}", name(), input),
                      .expected = fmt::format("fewer than {}", entry.input_count),
                      .found = fmt::format("{}", input)});
  }
  return entry.operation->reverse_symbols(record_->symbols(position_), input);
}

std::vector<Line> Line::inputs() const {
  std::vector<Line> lines;
  for (const std::uint32_t input :
       WorksheetRecord::of(*this).inputs(WorksheetRecord::entry(*this))) {
    lines.push_back(record_->line(input));
  }
  return lines;
}

std::vector<Line> Line::uses() const {
  std::vector<Line> lines;
  const WorksheetRecord& record = WorksheetRecord::of(*this);
  for (std::uint32_t user = position_ + 1; user < record.size(); ++user) {
    const std::span<const std::uint32_t> inputs = record.inputs(record[user]);
    if (std::ranges::find(inputs, position_) != inputs.end()) lines.push_back(record_->line(user));
  }
  return lines;
}

std::optional<Line> Line::next() const {
  const WorksheetRecord& record = WorksheetRecord::of(*this);
  const auto found = std::ranges::find(record.running(), position_, &WorksheetRecord::Running::now);
  if (found == record.running().end()) return std::nullopt;
  return record_->line(found->next);
}

bool Line::is_swept() const {
  return WorksheetRecord::entry(*this).is_swept;
}

Worksheet::Worksheet() : record_(WorksheetRecord::take()) {}

Worksheet::~Worksheet() {
  if (record_ != nullptr) WorksheetRecord::give_back(record_);
}

WorksheetRecord& Worksheet::record() const {
  if (record_ == nullptr) {
    throw LineError({.what = "this worksheet was moved elsewhere",
                     .remedy = "use the one it was moved to, or make a new one"});
  }
  return *record_;
}

Line Worksheet::given(std::string_view name, Tensor value) {
  return record().add_leaf(Line::Kind::given, name, std::move(value));
}

Line Worksheet::given(Tensor value) {
  return record().add_unnamed(std::move(value));
}

Line Worksheet::asked(std::string_view name, Tensor value) {
  return record().add_leaf(Line::Kind::asked, name, std::move(value));
}

Line Worksheet::weight(std::string_view name, Tensor value) {
  return add_weight(Line::Kind::weight, name, std::move(value));
}

Line Worksheet::frozen(std::string_view name, Tensor value) {
  return add_weight(Line::Kind::frozen, name, std::move(value));
}

Line Worksheet::running_statistic(std::string_view name, Tensor value) {
  return record().weight(Line::Kind::running, name, std::move(value));
}

void Worksheet::set_next(const Line& running, const Line& next) {
  const std::uint32_t now = WorksheetRecord::position(running);
  const std::uint32_t later = WorksheetRecord::position(next);
  if (&WorksheetRecord::of(running) != &record() || &WorksheetRecord::of(next) != &record()) {
    throw LineError({.what = "a running statistic and its next value must be on the same worksheet",
                     .found = "a line of another one"});
  }
  record().set_next(now, later);
}

Line Worksheet::add_weight(Line::Kind kind, std::string_view name, Tensor value) {
  const Shape& shape = value.shape();
  if (shape.rank() == 1 && shape.role(0) == Role::none) value.label(0, Role::unit);
  return record().weight(kind, name, std::move(value));
}

void Worksheet::section(std::string_view name) {
  record().open_section(name);
}

std::size_t Worksheet::size() const {
  return record().size();
}

Line Worksheet::line(std::size_t number) const {
  return record().line_numbered(number);
}

Line Worksheet::line(std::string_view name) const {
  return record().line(name);
}

std::optional<Line> Worksheet::find(std::string_view name) const {
  const std::vector<Line> lines = record().lines_called(name);
  return lines.empty() ? std::nullopt : std::optional(lines.front());
}

std::vector<Line> Worksheet::lines() const {
  std::vector<Line> lines;
  for (std::uint32_t position = 0; position < record().size(); ++position) {
    lines.push_back(record().line(position));
  }
  return lines;
}

void Worksheet::clear() {
  record().clear();
}

Line named(std::string_view name, Line line) {
  WorksheetRecord::of(line).name(WorksheetRecord::position(line), name);
  return line;
}

Line described(std::string_view words, Line line) {
  WorksheetRecord::of(line).describe(WorksheetRecord::position(line), words);
  return line;
}

Line labelled(int axis, Role role, Line line) {
  if (axis < 0 || axis >= line.shape().rank()) {
    throw IndexError({.what = fmt::format("{} has no axis {}", line.name(), axis),
                      .expected = fmt::format("one of {}", to_string(line.shape())),
                      .found = fmt::format("axis {}", axis)});
  }
  WorksheetRecord& record = WorksheetRecord::of(line);
  const std::uint32_t position = WorksheetRecord::position(line);
  Shape labelled_shape = line.shape();
  labelled_shape.set_role(axis, role);
  const int examples = axis_of_examples(labelled_shape);
  if (examples != axis_of_examples(line.shape()) && record.is_used(position)) {
    throw LineError(
        {.what = fmt::format("{} was used before its axis of examples was named", line.name()),
         .where = fmt::format("line {}", line.number()),
         .expected = "axes labelled before the line is used",
         .found =
             fmt::format("{}, to become {}", to_string(line.shape()), to_string(labelled_shape)),
         .remedy = "label the tensor: with({Role::class_, Role::example})"});
  }
  record.label(position, axis, role);
  return line;
}

Worksheet worked_again(const Worksheet& sheet,
                       const std::function<Tensor(const Line& line)>& numbers) {
  Worksheet again;
  again.record().repeat(sheet.record(), numbers);
  return again;
}

namespace detail {

Line data_beside(const Line& near, const Tensor& value) {
  return WorksheetRecord::of(near).add_unnamed(Tensor(value));
}

void* room_for_operation(const Line& line, std::size_t bytes, std::size_t alignment) {
  return WorksheetRecord::of(line).room_for_operation(bytes, alignment);
}

Line write_down(const Operation& operation, std::span<const Line> inputs, CopyOperation copy) {
  return WorksheetRecord::of(inputs.front()).add(operation, inputs, copy);
}

}  // namespace detail

}  // namespace lattice
