#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <new>
#include <optional>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "lattice/text/detail/name_index.hpp"
#include "lattice/worksheet/worksheet.hpp"
#include "worksheet/line_name.hpp"

namespace lattice {

/// What a worksheet holds. Records are never freed, only recycled, and count how often they were
/// wiped: that is how a handle to a line can tell, at any time, whether its line is still there.
class WorksheetRecord {
 public:
  struct Entry {
    Tensor value;
    const Operation* operation = nullptr;
    detail::CopyOperation copy = nullptr;  ///< of the operation
    Tensor aside;                          ///< what its operation keeps for the reverse sweep
    Tensor gradient;                       ///< the gradient, while `reverse_sweep` is under way
    std::array<std::uint32_t, most_inputs> inputs{};
    std::uint32_t input_count = 0;
    InputSet passes_to;  ///< the inputs that get a gradient from it
    std::uint32_t section = 0;
    Line::Kind kind = Line::Kind::given;
    bool is_swept = false;  ///< whether gradients go through it
    LineName name;
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

  [[nodiscard]] static const Entry& entry(const Line& line) { return of(line)[line.position_]; }

  [[nodiscard]] Line line(std::uint32_t position) { return {this, position, generation_}; }

  /// The line with a number from 1. @throws IndexError when there is none.
  [[nodiscard]] Line line_numbered(std::size_t number);

  /// The line with a name; `#5` finds line 5. @throws NameError when no line, or more than one, has
  /// it.
  [[nodiscard]] Line line(std::string_view name);

  /// The lines with a name; without any, those that it describes.
  [[nodiscard]] std::vector<Line> lines_called(std::string_view name);

  /// Describes a line that has no name.
  void describe(std::uint32_t position, std::string_view words);

  Line add_leaf(Line::Kind kind, std::string_view name, Tensor&& value);

  /// Adds data without a name.
  Line add_unnamed(Tensor&& value);

  /// A running statistic and the line of what it becomes with the next update.
  struct Running {
    std::uint32_t now;
    std::uint32_t next;
  };
  void set_next(std::uint32_t now, std::uint32_t next);
  [[nodiscard]] std::span<const Running> running() const { return running_; }

  /// The weight, or the running statistic, of this name, written down where it is not there yet.
  /// @throws NameError when it is there with other numbers, or as another kind.
  Line weight(Line::Kind kind, std::string_view name, Tensor&& value);
  Line add(const Operation& operation, std::span<const Line> inputs, detail::CopyOperation copy);

  /// Works the lines of another record again (`worked_again`).
  void repeat(WorksheetRecord& other, const std::function<Tensor(const Line&)>& numbers);
  void name(std::uint32_t position, std::string_view name);
  void label(std::uint32_t position, int axis, Role role) {
    writable(position).value.label(axis, role);
  }

  /// Whether any line was made of this one.
  [[nodiscard]] bool is_used(std::uint32_t position) const;
  void open_section(std::string_view name);

  /// @throws LineError while an operation reads the lines.
  void clear();

  class AtWork;

  [[nodiscard]] std::uint32_t size() const { return used_; }
  [[nodiscard]] std::uint32_t swept_leaves() const { return swept_leaves_; }
  [[nodiscard]] const Entry& operator[](std::uint32_t position) const {
    return chunks_[position / chunk_size][position % chunk_size];
  }
  [[nodiscard]] Entry& writable(std::uint32_t position) {
    return chunks_[position / chunk_size][position % chunk_size];
  }
  [[nodiscard]] static std::span<const std::uint32_t> inputs(const Entry& entry) {
    return std::span(entry.inputs).first(entry.input_count);
  }
  [[nodiscard]] const std::string& section(const Entry& entry) const {
    return sections_[entry.section];
  }

  /// The name, or `#5` for the fifth line when it has none.
  [[nodiscard]] std::string name(std::uint32_t position) const;

  /// The names and shapes around a line, for writing its operation in symbols.
  [[nodiscard]] Symbols symbols(std::uint32_t position) const;

  /// Room for an operation, until the record is wiped.
  [[nodiscard]] void* room_for_operation(std::size_t bytes, std::size_t alignment) {
    constexpr std::size_t unit = alignof(std::max_align_t);
    if (alignment > unit || bytes > operation_block_bytes)
      return room_of_its_own(bytes, std::align_val_t{std::max(alignment, unit)});
    bytes = (bytes + unit - 1) / unit * unit;
    if (bytes > operation_bytes_) next_operation_block();
    operation_bytes_ -= bytes;
    return std::exchange(operation_room_, operation_room_ + bytes);
  }

 private:
  void wipe();

  static constexpr std::uint32_t chunk_size = 64;
  static constexpr std::size_t operation_block_bytes = 4096;

  [[nodiscard]] bool is_weight(std::uint32_t position) const {
    return lattice::is_weight((*this)[position].kind);
  }
  /// The weight of this name, on this worksheet or on the last one.
  [[nodiscard]] std::optional<std::uint32_t> weight_called(std::string_view name) const {
    return weights_by_name_.find(name, detail::hash_of(name), [this](std::uint32_t at) {
      return (*this)[at].name.remembered();
    });
  }
  void add_to_weights(std::uint32_t position) {
    weights_by_name_.add((*this)[position].name.hash(), position);
  }

  /// Whether the line that comes next had this name on the last worksheet, too.
  [[nodiscard]] bool next_remembers(std::string_view name) const {
    return used_ < room_ && (*this)[used_].name.remembers(name);
  }

  /// Forgets the weights of the last worksheet that are not on this one: from here on this one is
  /// another.
  void forget_last();
  [[noreturn]] static void refuse_dead();
  void next_operation_block();
  [[nodiscard]] void* room_of_its_own(std::size_t bytes, std::align_val_t alignment);
  Line append_leaf(Line::Kind kind, Tensor&& value, bool is_last_weight = false);

  /// @param is_last_weight whether the line is the weight that it was on the last worksheet
  Entry& append(bool is_last_weight = false) {
    if (used_ == room_) grow();
    if (is_weight(used_) && !is_last_weight) forget_last();
    Entry& entry = writable(used_++);
    entry.section = section_;
    return entry;
  }
  void grow();

  /// Only the first `used_` entries are lines; the others wait. They never move, so that the value
  /// of a line stays where it is while more lines are written.
  std::vector<std::unique_ptr<Entry[]>> chunks_;
  std::uint32_t room_ = 0;  ///< how many entries there are
  std::vector<std::string> sections_{""};
  std::uint32_t section_ = 0;
  std::vector<std::unique_ptr<std::byte[]>> operation_blocks_;
  std::size_t next_block_ = 0;
  std::byte* operation_room_ = nullptr;
  std::size_t operation_bytes_ = 0;  ///< how many are left there

  /// An operation that fits into no block.
  struct FreeAligned {
    std::align_val_t alignment;
    void operator()(std::byte* room) const { ::operator delete(room, alignment); }
  };
  std::vector<std::unique_ptr<std::byte, FreeAligned>> large_operations_ = {};
  std::uint64_t generation_ = 1;
  std::uint32_t used_ = 0;
  std::uint32_t swept_leaves_ = 0;

  /// Of all that is no data: learnt, frozen and running. Most worksheets are written like the one
  /// before, so its weights stay here, and their kinds in their entries, as long as this one has
  /// them at the same places: a weight that is where it was need not be looked for.
  detail::NameIndex weights_by_name_ = {};
  std::uint32_t remembered_ = 0;  ///< only the first so many entries may be weights of the last one
  std::vector<Running> running_ = {};
  mutable std::uint32_t at_work_ = 0;  ///< how many operations read the lines right now
  bool is_given_back_ = false;         ///< while they did
};

/// While an operation reads lines they have to stay: its worksheet cannot be cleared, and what is
/// on one that ends goes only after it.
class WorksheetRecord::AtWork {
 public:
  explicit AtWork(const WorksheetRecord& record) : record_(record) { ++record_.at_work_; }
  AtWork(const AtWork&) = delete;
  AtWork& operator=(const AtWork&) = delete;
  ~AtWork();

  /// @throws LineError when the worksheet has ended meanwhile.
  void check_is_there() const {
    if (record_.is_given_back_) refuse_dead();
  }

 private:
  const WorksheetRecord& record_;
};

}  // namespace lattice
