#include "worksheet/record.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <mutex>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice {
namespace {

/// Every record that no worksheet uses and no thread keeps. Lives until the process ends.
struct Shelf {
  std::mutex mutex;
  std::vector<WorksheetRecord*> records;
};

Shelf& shelf() {
  static auto* const shelf = new Shelf;
  return *shelf;
}

/// Whether the spare records of this thread have gone to the shelf. Plain data, so that a worksheet
/// that ends later still, such as a global one, can ask.
constinit thread_local bool spare_is_gone = false;

/// The records that a thread keeps for its next worksheets; they go to the shelf when it ends.
struct Spare {
  std::vector<WorksheetRecord*> records;

  Spare() = default;
  Spare(const Spare&) = delete;
  Spare& operator=(const Spare&) = delete;
  ~Spare() {
    spare_is_gone = true;
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

bool is_fit_for_names(char letter) {
  const bool control_or_space = static_cast<unsigned char>(letter) <= ' ';
  return !control_or_space && letter != '#' && letter != '[' && letter != ']';
}

void check_name(std::string_view name) {
  const bool is_ascii = std::ranges::all_of(name, [](char letter) { return letter > 0; });
  if (name.empty() || !std::ranges::all_of(name, is_fit_for_names) ||
      (!is_ascii && unwelcome_in(name))) {
    throw NameError({.what = "a line cannot have this name",
                     .expected = "letters, digits and signs, but no #, no brackets, no spaces",
                     .found = fmt::format("'{}'", name)});
  }
}

[[noreturn]] void refuse_other_worksheet(const Operation& operation, const Line& first,
                                         const Line& other) {
  throw LineError({.what = fmt::format("{}: lines of two worksheets", operation.name()),
                   .where = fmt::format("{} and {}", first.name(), other.name()),
                   .expected = "all lines of a calculation in one worksheet",
                   .remedy = "write the value down in this one: sheet.given(name, line.value())"});
}

/// One name is one weight: for what would have been a second one.
[[noreturn]] void refuse_second(const Line& there, std::string expected, std::string found) {
  throw NameError({.what = fmt::format("another weight is called '{}'", there.name()),
                   .where = fmt::format("line {}", there.number()),
                   .expected = std::move(expected),
                   .found = std::move(found),
                   .remedy = "one name is one line on a worksheet: give the other a name of its "
                             "own, or use the line that is there"});
}

[[noreturn]] void refuse_empty(std::string_view name) {
  throw NumberError(
      {.what = fmt::format("there are no numbers for {}: this tensor is empty", name),
       .expected = "a tensor with numbers",
       .remedy = "fill it first; of a batch, `targets` are empty where examples have `classes`, "
                 "and `truth()` gives whichever there are"});
}

/// What a line is, for messages.
std::string in_words(Line::Kind kind) {
  switch (kind) {
    case Line::Kind::given:
      return "data";
    case Line::Kind::asked:
      return "data that is asked about";
    case Line::Kind::weight:
      return "a trained weight";
    case Line::Kind::frozen:
      return "one that is frozen";
    case Line::Kind::running:
      return "a running statistic";
    case Line::Kind::calculated:
      return "a calculated line";
  }
  return "";
}

}  // namespace

Line WorksheetRecord::line_numbered(std::size_t number) {
  if (number < 1 || number > used_) {
    throw IndexError(
        {.what = "there is no such line",
         .expected = used_ == 0 ? "nothing: the worksheet is empty" : fmt::format("1 to {}", used_),
         .found = fmt::format("line {}", number)});
  }
  return line(static_cast<std::uint32_t>(number - 1));
}

Line WorksheetRecord::line(std::string_view name) {
  if (name.starts_with('#')) {
    std::size_t number = 0;
    const auto [end, problem] = std::from_chars(name.data() + 1, name.data() + name.size(), number);
    if (problem == std::errc() && end == name.data() + name.size()) return line_numbered(number);
  }
  const std::vector<Line> found = lines_called(name);
  if (found.size() == 1) return found.front();
  if (found.empty()) {
    std::vector<std::string> names;
    for (std::uint32_t position = 0; position < used_; ++position) {
      const std::string_view text = (*this)[position].name.text();
      if (!text.empty()) names.emplace_back(text);
    }
    const std::string near = nearest(name, names);
    throw NameError({.what = fmt::format("no line is called '{}'", name),
                     .expected = names.empty() ? "nothing: no line has a name"
                                               : fmt::format("one of {}", fmt::join(names, ", ")),
                     .found = fmt::format("'{}'", name),
                     .remedy = did_you_mean(near)});
  }
  throw NameError({.what = fmt::format("{} lines are called '{}'", found.size(), name),
                   .where = fmt::format("lines {} and {}", found[0].number(), found[1].number()),
                   .remedy = fmt::format("ask by number: #{}", found[0].number())});
}

std::vector<Line> WorksheetRecord::lines_called(std::string_view name) {
  std::vector<Line> named;
  std::vector<Line> described;
  for (std::uint32_t position = 0; position < used_; ++position) {
    const LineName& called = (*this)[position].name;
    if (called.is_name() && called.text() == name) named.push_back(line(position));
    const bool may_be_it = called.is_words() && name.starts_with(called.text());
    if (may_be_it && this->name(position) == name) described.push_back(line(position));
  }
  return named.empty() ? described : named;
}

WorksheetRecord* WorksheetRecord::take() {
  const auto pop = [](std::vector<WorksheetRecord*>& records) {
    WorksheetRecord* const record = records.back();
    records.pop_back();
    return record;
  };
  if (!spare_is_gone && !spare.records.empty()) return pop(spare.records);
  const std::scoped_lock lock(shelf().mutex);
  return shelf().records.empty() ? new WorksheetRecord : pop(shelf().records);
}

void WorksheetRecord::give_back(WorksheetRecord* record) {
  record->is_given_back_ = record->at_work_ > 0;
  if (record->is_given_back_) return;
  record->wipe();
  if (!spare_is_gone) {
    spare.records.push_back(record);
    return;
  }
  const std::scoped_lock lock(shelf().mutex);
  shelf().records.push_back(record);
}

void WorksheetRecord::refuse_dead() {
  throw LineError(
      {.what = "this line is no longer there",
       .found = "its worksheet was cleared or has ended, or there never was one",
       .remedy = "keep the worksheet as long as its lines, or keep the line's value()"});
}

void WorksheetRecord::grow() {
  chunks_.push_back(std::make_unique<Entry[]>(chunk_size));
  room_ += chunk_size;
}

Line WorksheetRecord::add_leaf(Line::Kind kind, std::string_view name, Tensor&& value) {
  const bool is_known = next_remembers(name);
  if (!is_known) check_name(name);
  if (value.empty()) refuse_empty(name);
  const Line added = append_leaf(kind, std::move(value));
  LineName& called = writable(added.position_).name;
  is_known ? called.set_remembered_name() : called.set_name(name);
  return added;
}

Line WorksheetRecord::add_unnamed(Tensor&& value) {
  static_cast<void>(value.precision());
  return append_leaf(Line::Kind::given, std::move(value));
}

Line WorksheetRecord::append_leaf(Line::Kind kind, Tensor&& value, bool is_last_weight) {
  Entry& entry = append(is_last_weight);
  entry.value = std::move(value);
  entry.operation = nullptr;
  entry.input_count = 0;
  entry.kind = kind;
  entry.is_swept = kind == Line::Kind::weight || kind == Line::Kind::asked;
  if (entry.is_swept) ++swept_leaves_;
  return line(used_ - 1);
}

Line WorksheetRecord::weight(Line::Kind kind, std::string_view name, Tensor&& value) {
  if (next_remembers(name) && is_weight(used_)) {
    if (value.empty()) refuse_empty(name);
    const Line added = append_leaf(kind, std::move(value), true);
    writable(added.position_).name.set_remembered_name();
    return added;
  }
  const std::optional<std::uint32_t> place = weight_called(name);
  if (!place || *place >= used_) {
    if (place) forget_last();
    weights_by_name_.make_room();
    const Line added = add_leaf(kind, name, std::move(value));
    add_to_weights(added.position_);
    return added;
  }
  const Line there = line(*place);
  if (there.kind() != kind) refuse_second(there, in_words(there.kind()), in_words(kind));
  if (there.value() != value) {
    const bool same_shape = there.shape() == value.shape();
    refuse_second(there, same_shape ? "the numbers it has there" : to_string(there.shape()),
                  same_shape ? "others" : to_string(value.shape()));
  }
  return there;
}

void WorksheetRecord::forget_last() {
  weights_by_name_.clear();
  for (std::uint32_t at = 0; at < used_; ++at) {
    if (is_weight(at)) add_to_weights(at);
  }
  for (std::uint32_t at = used_; at < remembered_; ++at)
    writable(at).kind = Line::Kind::given;
  remembered_ = used_;
}

void WorksheetRecord::set_next(std::uint32_t now, std::uint32_t next) {
  const Entry& entry = (*this)[now];
  const auto refuse = [&](const std::string& expected, const std::string& found) {
    return NameError({.what = fmt::format("{} cannot be a running statistic", name(now)),
                      .where = fmt::format("line {}", now + 1),
                      .expected = expected,
                      .found = found});
  };
  if (entry.kind != Line::Kind::running)
    throw refuse("a running statistic, as sheet.running_statistic(…) writes it down",
                 in_words(entry.kind));
  if (std::ranges::find(running_, now, &Running::now) != running_.end())
    throw refuse("one next value a worksheet", "a second one");
  if ((*this)[next].value.shape() != entry.value.shape()) {
    throw ShapeError({.what = fmt::format("the next value of {} does not fit it", name(now)),
                      .where = fmt::format("line {}", next + 1),
                      .expected = to_string(entry.value.shape()),
                      .found = to_string((*this)[next].value.shape())});
  }
  running_.push_back({.now = now, .next = next});
  if (!(*this)[next].name.is_name()) name(next, std::string(entry.name.text()) + ".next");
}

Line WorksheetRecord::add(const Operation& operation, std::span<const Line> inputs,
                          detail::CopyOperation copy) {
  std::array<const Tensor*, most_inputs> values;
  std::array<std::uint32_t, most_inputs> positions;
  InputSet passes_to;
  for (std::size_t input = 0; input < inputs.size(); ++input) {
    if (&of(inputs[input]) != this) refuse_other_worksheet(operation, inputs[0], inputs[input]);
    const Entry& entry = (*this)[inputs[input].position_];
    positions[input] = inputs[input].position_;
    values[input] = &entry.value;
    if (entry.is_swept && operation.passes_back(input)) passes_to.set(input);
  }
  const LineNames names(*this, std::span(positions.data(), inputs.size()));
  const AtWork at_work(*this);
  Tensor aside;
  Tensor value = calculate(operation, Inputs(std::span(values.data(), inputs.size()), &names),
                           passes_to.any() ? &aside : nullptr);
  at_work.check_is_there();

  Entry& entry = append();
  entry.value = std::move(value);
  entry.aside = std::move(aside);
  entry.operation = &operation;
  entry.copy = copy;
  entry.inputs = positions;
  entry.input_count = static_cast<std::uint32_t>(inputs.size());
  entry.passes_to = passes_to;
  entry.kind = Line::Kind::calculated;
  entry.is_swept = passes_to.any();
  return line(used_ - 1);
}

void WorksheetRecord::repeat(WorksheetRecord& other,
                             const std::function<Tensor(const Line&)>& numbers) {
  const auto take_roles = [this](std::uint32_t position, const Shape& shape) {
    for (int axis = 0; axis < shape.rank(); ++axis)
      label(position, axis, shape.role(axis));
  };
  std::uint32_t section = 0;
  for (std::uint32_t position = 0; position < other.size(); ++position) {
    const Entry& entry = other[position];
    if (std::exchange(section, entry.section) != entry.section) open_section(other.section(entry));
    if (entry.operation == nullptr) {
      Tensor value = numbers(other.line(position));
      if (lattice::is_weight(entry.kind)) {
        weight(entry.kind, entry.name.text(), std::move(value));
      } else if (entry.name.text().empty()) {
        add_unnamed(std::move(value));
      } else {
        add_leaf(entry.kind, entry.name.text(), std::move(value));
      }
    } else {
      std::vector<Line> from;
      from.reserve(entry.input_count);
      for (const std::uint32_t input : inputs(entry))
        from.push_back(line(input));
      const Operation& operation =
          entry.copy == nullptr ? *entry.operation : entry.copy(*entry.operation, from.front());
      add(operation, from, entry.copy);
      if (entry.name.is_name()) name(position, entry.name.text());
      if (entry.name.is_words()) describe(position, entry.name.text());
    }
    if ((*this)[position].value.shape().rank() == entry.value.shape().rank())
      take_roles(position, entry.value.shape());
  }
  for (const Running& running : other.running_)
    set_next(running.now, running.next);
}

void WorksheetRecord::describe(std::uint32_t position, std::string_view words) {
  LineName& called = writable(position).name;
  if (!called.remembers(words)) check_name(words);
  if (!called.is_name()) called.set_words(words);
}

void WorksheetRecord::name(std::uint32_t position, std::string_view name) {
  LineName& called = writable(position).name;
  if (!called.remembers(name)) check_name(name);
  if (!is_weight(position)) return called.set_name(name);
  const std::optional<std::uint32_t> other = weight_called(name);
  if (other && *other < used_ && *other != position)
    refuse_second(line(*other), "a name of its own for each weight",
                  fmt::format("'{}' twice", name));
  called.set_name(name);
  forget_last();
}

bool WorksheetRecord::is_used(std::uint32_t position) const {
  for (std::uint32_t later = position + 1; later < used_; ++later) {
    if (std::ranges::find(inputs((*this)[later]), position) != inputs((*this)[later]).end())
      return true;
  }
  return false;
}

void WorksheetRecord::open_section(std::string_view name) {
  section_ = static_cast<std::uint32_t>(sections_.size());
  sections_.emplace_back(name);
}

WorksheetRecord::AtWork::~AtWork() {
  if (--record_.at_work_ == 0 && record_.is_given_back_)
    give_back(const_cast<WorksheetRecord*>(&record_));
}

void WorksheetRecord::clear() {
  if (at_work_ > 0) {
    throw LineError({.what = "a worksheet cannot be cleared by an operation that reads its lines",
                     .remedy = "clear it when the calculation is done"});
  }
  wipe();
}

void WorksheetRecord::wipe() {
  ++generation_;
  for (std::uint32_t position = 0; position < used_; ++position) {
    Entry& entry = writable(position);
    entry.value.reset();
    entry.aside.reset();
    entry.name.clear();
  }
  remembered_ = std::max(remembered_, used_);
  used_ = 0;
  swept_leaves_ = 0;
  running_.clear();
  section_ = 0;
  sections_.resize(1);
  next_block_ = 0;
  operation_bytes_ = 0;
  large_operations_.clear();
}

std::string WorksheetRecord::name(std::uint32_t position) const {
  const LineName& called = (*this)[position].name;
  if (called.text().empty()) return fmt::format("#{}", position + 1);
  if (called.is_name()) return std::string(called.text());
  // Words that a name or an earlier line has already get the number of the line.
  for (std::uint32_t other = 0; other < used_; ++other) {
    const LineName& like = (*this)[other].name;
    const bool comes_first = like.is_name() || other < position;
    if (other != position && comes_first && like.text() == called.text())
      return fmt::format("{}.{}", called.text(), position + 1);
  }
  return std::string(called.text());
}

Symbols WorksheetRecord::symbols(std::uint32_t position) const {
  const Entry& entry = (*this)[position];
  Symbols symbols{.result = name(position), .result_shape = entry.value.shape()};
  for (const std::uint32_t input : inputs(entry)) {
    symbols.inputs.push_back(name(input));
    symbols.shapes.push_back((*this)[input].value.shape());
  }
  return symbols;
}

void WorksheetRecord::next_operation_block() {
  if (next_block_ == operation_blocks_.size()) {
    operation_blocks_.push_back(std::make_unique<std::byte[]>(operation_block_bytes));
  }
  operation_room_ = operation_blocks_[next_block_++].get();
  operation_bytes_ = operation_block_bytes;
}

void* WorksheetRecord::room_of_its_own(std::size_t bytes, std::align_val_t alignment) {
  auto* const room = static_cast<std::byte*>(::operator new(bytes, alignment));
  large_operations_.emplace_back(room, FreeAligned{alignment});
  return room;
}

}  // namespace lattice
