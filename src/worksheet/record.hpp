#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// What a worksheet holds. Records are never freed, only recycled, and count how often they were
/// wiped: that is how a handle to a line can tell, at any time, whether its line is still there.
class WorksheetRecord {
 public:
  struct Entry {
    Tensor value;
    const Operation* operation = nullptr;
    std::uint32_t first_input = 0;
    std::uint32_t input_count = 0;
    std::uint32_t section = 0;
    Line::Kind kind = Line::Kind::given;
    bool depends_on_weights = false;
    std::string name;
  };

  /// A wiped record, from an ended worksheet when there is one.
  [[nodiscard]] static WorksheetRecord* take();

  /// Wipes the record and keeps it for the next worksheet.
  static void give_back(WorksheetRecord* record);

  /// The record of a line that is still there. @throws LineError for a dead one.
  [[nodiscard]] static WorksheetRecord& of(const Line& line) {
    if (line.record_ == nullptr || line.record_->generation_ != line.generation_) refuse_dead();
    return *line.record_;
  }

  /// Where a line stands, counted from 0. @throws LineError for a dead one.
  [[nodiscard]] static std::uint32_t position(const Line& line) {
    static_cast<void>(of(line));
    return line.position_;
  }

  [[nodiscard]] static const Entry& entry(const Line& line) {
    return of(line).entries_[line.position_];
  }

  [[nodiscard]] Line line(std::uint32_t position) { return {this, position, generation_}; }

  Line add_leaf(Line::Kind kind, std::string_view name, Tensor value);
  Line add(const Operation& operation, std::span<const Line> inputs);
  void name(std::uint32_t position, std::string_view name);
  void open_section(std::string_view name);
  void wipe();

  [[nodiscard]] std::uint32_t size() const { return used_; }
  [[nodiscard]] const Entry& operator[](std::uint32_t position) const { return entries_[position]; }
  [[nodiscard]] std::span<const std::uint32_t> inputs(const Entry& entry) const {
    return std::span(inputs_).subspan(entry.first_input, entry.input_count);
  }
  [[nodiscard]] const std::string& section(const Entry& entry) const {
    return sections_[entry.section];
  }

  /// The name, or `#5` for the fifth line when it has none.
  [[nodiscard]] std::string name(std::uint32_t position) const;

  /// The names and shapes around a line, for writing its operation in symbols.
  [[nodiscard]] Symbols symbols(std::uint32_t position) const;

  /// The tensors that went into a line.
  [[nodiscard]] std::vector<const Tensor*> input_values(const Entry& entry) const;

  /// Room for an operation, until the record is wiped.
  [[nodiscard]] void* room_for_operation(std::size_t bytes);

 private:
  [[noreturn]] static void refuse_dead();
  Entry& append();

  std::vector<Entry> entries_;
  std::vector<std::uint32_t> inputs_;
  std::vector<std::string> sections_{""};
  std::vector<std::unique_ptr<std::max_align_t[]>> operation_blocks_;
  std::size_t operation_bytes_ = 0;
  std::uint64_t generation_ = 1;
  std::uint32_t used_ = 0;
};

}  // namespace lattice
