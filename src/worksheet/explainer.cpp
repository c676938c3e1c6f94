#include "worksheet/explainer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <span>
#include <utility>
#include <vector>

#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// A line that was not calculated, explained.
std::string note_for(const Line& line) {
  if (line.kind() == Line::Kind::given) return "given: it is data, not calculated";
  if (line.kind() == Line::Kind::asked) return "given: it is data, and asked about";
  if (line.kind() == Line::Kind::weight)
    return "a weight: where it starts, or what updates made it";
  if (line.kind() == Line::Kind::frozen) return "a frozen weight";
  if (line.kind() == Line::Kind::running)
    return "a running statistic: its start value, or its value after the last step";
  return "";
}

/// The number at a place of a line's value or gradient; an error names the line.
double number_at(const Line& line, const Tensor& numbers, const Index& at) {
  try {
    return numbers.at(at);
  } catch (const IndexError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("there is no {}{}: {} is {}", line.name(), to_string(at),
                               line.name(), to_string(line.shape()));
    throw IndexError(trouble);
  }
}

}  // namespace

/// The surroundings of one line, for its operation.
class Author::View : public Cells {
 public:
  virtual ~View() = default;
  View(Author& author, std::uint32_t position)
      : author_(author),
        position_(position),
        inputs_(WorksheetRecord::inputs(author.record_[position])) {}

  [[nodiscard]] const Shape& shape(std::size_t input) const override {
    return author_.record_[inputs_[input]].value.shape();
  }
  [[nodiscard]] const Shape& result_shape() const override {
    return author_.record_[position_].value.shape();
  }
  [[nodiscard]] Formula input(std::size_t input, const Index& at) const override {
    return author_.value(inputs_[input], at);
  }
  [[nodiscard]] Formula result(const Index& at) const override {
    return author_.value(position_, at);
  }
  [[nodiscard]] Formula gradient(const Index& at) const override {
    return author_.gradient(position_, at);
  }
  [[nodiscard]] std::optional<Formula> softmax(std::size_t input, int axis,
                                               const Index& at) const override {
    return author_.probability(inputs_[input], axis, position_, at);
  }
  [[nodiscard]] std::optional<Formula> sigmoid(std::size_t input, const Index& at) const override {
    return author_.probability(inputs_[input], std::nullopt, position_, at);
  }
  [[nodiscard]] std::vector<std::int64_t> stored(std::size_t input, int axis,
                                                 std::int64_t place) const override {
    const Tensor& matrix = author_.record_[inputs_[input]].value;
    if (matrix.shape().count() > author_.in_full_) return stored_along(matrix, axis, place);
    std::vector<std::int64_t> all(static_cast<std::size_t>(matrix.shape()[axis]));
    std::iota(all.begin(), all.end(), std::int64_t{0});
    return all;
  }
  [[nodiscard]] Formula picked(
      const Formula& which, std::int64_t count,
      const std::function<Formula(std::int64_t option)>& option) const override {
    if (!hold_for_any()) return option(static_cast<std::int64_t>(which.evaluate()));
    std::vector<Formula> options;
    options.reserve(static_cast<std::size_t>(count));
    for (std::int64_t each = 0; each < count; ++each)
      options.push_back(option(each));
    return Formula::pick(which, std::move(options));
  }
  [[nodiscard]] bool hold_for_any() const override { return author_.holds_ == Holds::for_any; }
  [[nodiscard]] Formula in_common(int which, const Index& at, const Write& write) const override {
    return author_.in_common(position_, which, at, write);
  }

 private:
  Author& author_;
  std::uint32_t position_;
  std::span<const std::uint32_t> inputs_;
};

/// The same where 1 arrives at each number of the line, and its inputs have its shape, as if what
/// is stretched were written out.
class Author::StretchedView final : public View {
 public:
  StretchedView(Author& author, std::uint32_t position, bool is_stretched)
      : View(author, position), is_stretched_(is_stretched) {}

  [[nodiscard]] const Shape& shape(std::size_t input) const override {
    return is_stretched_ ? result_shape() : View::shape(input);
  }
  [[nodiscard]] Formula input(std::size_t input, const Index& at) const override {
    return is_stretched_ ? View::input(input, before_stretching(View::shape(input), at))
                         : View::input(input, at);
  }
  [[nodiscard]] Formula gradient(const Index&) const override { return 1.0; }
  [[nodiscard]] Formula in_common(int, const Index&, const Write& write) const override {
    return write();
  }

 private:
  static Index before_stretching(const Shape& shape, const Index& at) {
    Index place = Index::zeros(shape.rank());
    for (int axis = 0; axis < shape.rank(); ++axis)
      place[axis] = shape[axis] == 1 ? 0 : at[at.rank() - shape.rank() + axis];
    return place;
  }

  bool is_stretched_;
};

std::optional<Formula> Author::probability(std::uint32_t scores, std::optional<int> axis,
                                           std::uint32_t before, const Index& at) {
  if (told_ == Told::as_worked) return std::nullopt;
  for (std::uint32_t position = scores + 1; position < before; ++position) {
    const WorksheetRecord::Entry& entry = record_[position];
    if (entry.operation == nullptr || !entry.name.is_name() || entry.inputs[0] != scores) continue;
    const OperationNature nature = entry.operation->nature();
    if (axis ? nature.softmax_along != axis : !nature.is_sigmoid) continue;
    probabilities_ = position;
    return value(position, at);
  }
  return std::nullopt;
}

bool Author::is_told_by_probabilities(const Formula& formula) const {
  if (!probabilities_) return false;
  const std::vector<Cell> cells = formula.cells();
  return std::ranges::any_of(cells,
                             [&](const Cell& cell) { return cell.line == *probabilities_ + 1; });
}

Formula Author::made(std::uint32_t position, const Index& at) {
  cells_ = 0;
  probabilities_ = std::nullopt;
  return value_written(position, at);
}

Formula Author::gradient_made(std::uint32_t position, const Index& at) {
  cells_ = 0;
  return gradient_written(position, at);
}

Formula Author::passed_on(std::uint32_t position, std::size_t input, const Index& at) {
  cells_ = 0;
  return record_[position].operation->reverse_element(View(*this, position), input, at);
}

Formula Author::local(std::uint32_t position, std::size_t input, const Index& at) {
  cells_ = 0;
  const Operation& operation = *record_[position].operation;
  const bool is_stretched = operation.passing(input).kind == Passing::Kind::number_by_number;
  return operation.reverse_element(StretchedView(*this, position, is_stretched), input, at);
}

Formula Author::value_written(std::uint32_t position, const Index& at) {
  return record_[position].operation->element(View(*this, position), at);
}

Formula Author::gradient_written(std::uint32_t position, const Index& at) {
  std::vector<Formula> uses;
  const std::uint32_t last = WorksheetRecord::position(sweep_->result());
  for (std::uint32_t user = position + 1; user <= last; ++user) {
    const WorksheetRecord::Entry& entry = record_[user];
    if (entry.operation == nullptr || !sweep_->has_reached(record_.line(user))) continue;
    const std::span<const std::uint32_t> inputs = WorksheetRecord::inputs(entry);
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      if (inputs[input] != position || !entry.operation->passes_back(input)) continue;
      uses.push_back(entry.operation->reverse_element(View(*this, user), input, at));
    }
  }
  return Formula::sum(std::move(uses));
}

Formula Author::in_common(std::uint32_t position, int which, const Index& at, const Write& write) {
  const Key key = {position, which, at, depth_};
  const auto known = kept_.find(key);
  // Where the cells could run out on the way, what is written out depends on how many there are.
  if (known != kept_.end() && cells_ + known->second.cells < most_cells) {
    cells_ += known->second.cells;
    return known->second.formula;
  }
  const int before = cells_;
  Formula formula = write();
  const int cells = cells_ - before;
  if (cells < worth_keeping || cells_ >= most_cells) return formula;
  if (cells_kept_ + cells > most_stored) {
    kept_.clear();
    cells_kept_ = 0;
  }
  cells_kept_ += cells;
  kept_.insert_or_assign(key, Kept{formula, cells});
  return formula;
}

Formula Author::deeper(const Write& write) {
  ++depth_;
  Formula formula = write();
  --depth_;
  return formula;
}

Formula Author::value(std::uint32_t position, const Index& at) {
  const WorksheetRecord::Entry& entry = record_[position];
  if (entry.name.is_name() || entry.operation == nullptr || !may_write_out())
    return cell(Cell::Kind::value, position, at, entry.value);
  constexpr int whole = -1;
  return deeper([&] {
    return in_common(position, whole, at, [&] {
      const Formula written_out = value_written(position, at);
      const bool is_list =
          written_out.kind() == Formula::Kind::function && written_out.parts().size() > 1;
      return is_list ? Formula::shorthand("m", written_out) : written_out;
    });
  });
}

Formula Author::gradient(std::uint32_t position, const Index& at) {
  const bool is_result = position == WorksheetRecord::position(sweep_->result());
  if (!record_[position].name.is_name() && !is_result && may_write_out()) {
    constexpr int whole_gradient = -2;
    return deeper([&] {
      return in_common(position, whole_gradient, at,
                       [&] { return gradient_written(position, at); });
    });
  }
  return cell(Cell::Kind::gradient, position, at, sweep_->gradient(record_.line(position)));
}

Formula Author::cell(Cell::Kind kind, std::uint32_t position, const Index& at,
                     const Tensor& numbers) {
  ++cells_;
  return Formula(Cell{.kind = kind,
                      .name = record_.name(position),
                      .at = at,
                      .number = numbers.at(at),
                      .line = position + 1});
}

Explanation Explainer::value(const Line& line, const Index& at) {
  const double value = number_at(line, line.value(), at);
  const std::string subject = line.name() + to_string(at);
  if (line.kind() != Line::Kind::calculated) return {subject, value, value, note_for(line)};
  Explanation made{subject, author_.made(WorksheetRecord::position(line), at), value, ""};
  const std::string_view worked_as = line.nature().worked_as;
  if (!worked_as.empty() && author_.is_told_by_probabilities(made.formula))
    made.worked = fmt::format("worked as {}: equal, and never overflows", worked_as);
  return made;
}

Formula Explainer::passed_on(const Line& line, std::size_t input, const Index& at) {
  return author_.passed_on(WorksheetRecord::position(line), input, at);
}

Formula Explainer::local(const Line& line, std::size_t input, const Index& at) {
  return author_.local(WorksheetRecord::position(line), input, at);
}

std::vector<std::int64_t> Explainer::residues(const Line& line, Cell::Kind kind) {
  const bool is_gradient = kind == Cell::Kind::gradient;
  if (is_gradient ? line == sweep_->result() : line.kind() != Line::Kind::calculated) return {};
  const Tensor& numbers = is_gradient ? sweep_->gradient(line) : line.value();
  if (numbers.is_sparse()) return {};
  // Only what is small can be one.
  const double least = numbers.precision() == Precision::single ? 1e-4 : 1e-9;
  constexpr std::ptrdiff_t most = 64;
  std::vector<std::int64_t> small;
  for (std::int64_t offset = 0; offset < numbers.count(); ++offset) {
    const double number = numbers.at_offset(offset);
    if (number == 0.0 || !(std::abs(number) < least)) continue;
    small.push_back(offset);
    if (std::ssize(small) > most) return {};
  }
  std::erase_if(small, [&](std::int64_t offset) {
    const Index at = numbers.shape().index(offset);
    const Formula formula = is_gradient ? author_.gradient_made(WorksheetRecord::position(line), at)
                                        : author_.made(WorksheetRecord::position(line), at);
    return !is_residue(formula, numbers.at_offset(offset), numbers.precision());
  });
  return small;
}

Explanation Explainer::gradient(const Line& line, const Index& at) {
  const ReverseSweep& sweep = *sweep_;
  const double value = number_at(line, sweep.gradient(line), at);
  const std::string result = sweep.result().name();
  const std::string subject = fmt::format("∂{}/∂{}{}", result, line.name(), to_string(at));
  if (line == sweep.result()) {
    return {subject, value, value,
            line.value().count() == 1 && value == 1.0
                ? "the sweep starts here: ∂x/∂x = 1"
                : "the sweep starts here, with a gradient that was given"};
  }
  return {subject, author_.gradient_made(WorksheetRecord::position(line), at), value, ""};
}

}  // namespace lattice
