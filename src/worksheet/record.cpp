#include "worksheet/record.hpp"

#include <fmt/format.h>

#include <mutex>

#include "lattice/tensor/error.hpp"

namespace lattice {
namespace {

constexpr std::size_t operation_block_bytes = 4096;

/// Every record that no worksheet uses and no thread keeps. Lives until the process ends.
struct Shelf {
  std::mutex mutex;
  std::vector<WorksheetRecord*> records;
};

Shelf& shelf() {
  static auto* const shelf = new Shelf;
  return *shelf;
}

/// The records that a thread keeps for its next worksheets; they go to the shelf when it ends.
struct Spare {
  std::vector<WorksheetRecord*> records;

  Spare() = default;
  Spare(const Spare&) = delete;
  Spare& operator=(const Spare&) = delete;
  ~Spare() {
    const std::scoped_lock lock(shelf().mutex);
    shelf().records.insert(shelf().records.end(), records.begin(), records.end());
  }
};

thread_local Spare spare;

/// The names of the inputs of an operation that is about to be written down.
class LineNames final : public Inputs::Names {
 public:
  LineNames(const WorksheetRecord& record, std::span<const std::uint32_t> positions)
      : record_(record), positions_(positions) {}

  [[nodiscard]] std::string name(std::size_t input) const override {
    return record_.name(positions_[input]);
  }

 private:
  const WorksheetRecord& record_;
  std::span<const std::uint32_t> positions_;
};

void check_name(std::string_view name) {
  if (name.empty() || name.find_first_of("#[] \t\n") != std::string_view::npos) {
    throw NameError({.what = "a line cannot have this name",
                     .expected = "letters, digits and signs, but no #, no brackets, no spaces",
                     .found = fmt::format("'{}'", name)});
  }
}

}  // namespace

WorksheetRecord* WorksheetRecord::take() {
  if (spare.records.empty()) {
    const std::scoped_lock lock(shelf().mutex);
    if (shelf().records.empty()) return new WorksheetRecord;
    spare.records.push_back(shelf().records.back());
    shelf().records.pop_back();
  }
  WorksheetRecord* const record = spare.records.back();
  spare.records.pop_back();
  return record;
}

void WorksheetRecord::give_back(WorksheetRecord* record) {
  record->wipe();
  spare.records.push_back(record);
}

void WorksheetRecord::refuse_dead() {
  throw LineError({.what = "this line is no longer there",
                   .found = "its worksheet was cleared or has ended, or there never was one",
                   .remedy = "keep the worksheet as long as its lines, or keep the line's value()"});
}

WorksheetRecord::Entry& WorksheetRecord::append() {
  if (used_ == entries_.size()) entries_.emplace_back();
  Entry& entry = entries_[used_++];
  entry.section = static_cast<std::uint32_t>(sections_.size() - 1);
  return entry;
}

Line WorksheetRecord::add_leaf(Line::Kind kind, std::string_view name, Tensor value) {
  check_name(name);
  static_cast<void>(value.precision());
  Entry& entry = append();
  entry.value = std::move(value);
  entry.operation = nullptr;
  entry.input_count = 0;
  entry.kind = kind;
  entry.depends_on_weights = kind == Line::Kind::weight;
  entry.name = name;
  return line(used_ - 1);
}

Line WorksheetRecord::add(const Operation& operation, std::span<const Line> inputs) {
  const auto first = static_cast<std::uint32_t>(inputs_.size());
  std::array<const Tensor*, most_inputs> values{};
  std::array<std::uint32_t, most_inputs> positions{};
  bool depends = false;
  for (std::size_t input = 0; input < inputs.size(); ++input) {
    if (&of(inputs[input]) != this) {
      throw LineError({.what = fmt::format("{}: lines of two worksheets", operation.name()),
                       .where = fmt::format("{} and {}", inputs[0].name(), inputs[input].name()),
                       .expected = "all lines of a calculation in one worksheet",
                       .remedy = "write the value down in this one: sheet.given(name, line.value())"});
    }
    positions[input] = inputs[input].position_;
    const Entry& entry = entries_[positions[input]];
    values[input] = &entry.value;
    depends |= entry.depends_on_weights;
  }
  const std::span<const std::uint32_t> used(positions.data(), inputs.size());
  const LineNames names(*this, used);
  Tensor value =
      calculate(operation, Inputs(std::span(values.data(), inputs.size()), &names));

  inputs_.insert(inputs_.end(), used.begin(), used.end());
  Entry& entry = append();
  entry.value = std::move(value);
  entry.operation = &operation;
  entry.first_input = first;
  entry.input_count = static_cast<std::uint32_t>(inputs.size());
  entry.kind = Line::Kind::calculated;
  entry.depends_on_weights = depends;
  return line(used_ - 1);
}

void WorksheetRecord::name(std::uint32_t position, std::string_view name) {
  check_name(name);
  entries_[position].name = name;
}

void WorksheetRecord::open_section(std::string_view name) { sections_.emplace_back(name); }

void WorksheetRecord::wipe() {
  ++generation_;
  for (std::uint32_t position = 0; position < used_; ++position) {
    entries_[position].value = Tensor();
    entries_[position].name.clear();
  }
  used_ = 0;
  inputs_.clear();
  sections_.resize(1);
  operation_bytes_ = 0;
}

std::string WorksheetRecord::name(std::uint32_t position) const {
  const std::string& name = entries_[position].name;
  return name.empty() ? fmt::format("#{}", position + 1) : name;
}

Symbols WorksheetRecord::symbols(std::uint32_t position) const {
  const Entry& entry = entries_[position];
  Symbols symbols{.result = name(position), .result_shape = entry.value.shape()};
  for (const std::uint32_t input : inputs(entry)) {
    symbols.inputs.push_back(name(input));
    symbols.shapes.push_back(entries_[input].value.shape());
  }
  return symbols;
}

std::vector<const Tensor*> WorksheetRecord::input_values(const Entry& entry) const {
  std::vector<const Tensor*> values;
  for (const std::uint32_t input : inputs(entry)) values.push_back(&entries_[input].value);
  return values;
}

void* WorksheetRecord::room_for_operation(std::size_t bytes) {
  constexpr std::size_t unit = sizeof(std::max_align_t);
  bytes = (bytes + unit - 1) / unit * unit;
  const std::size_t in_block = operation_bytes_ % operation_block_bytes;
  if (in_block + bytes > operation_block_bytes) operation_bytes_ += operation_block_bytes - in_block;
  const std::size_t block = operation_bytes_ / operation_block_bytes;
  if (block == operation_blocks_.size()) {
    operation_blocks_.push_back(
        std::make_unique<std::max_align_t[]>(operation_block_bytes / unit));
  }
  void* const room = operation_blocks_[block].get() + operation_bytes_ % operation_block_bytes / unit;
  operation_bytes_ += bytes;
  return room;
}

}  // namespace lattice
