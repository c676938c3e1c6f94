#include "lattice/worksheet/reverse_sweep.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <utility>

#include "lattice/tensor/print.hpp"
#include "lattice/text/error.hpp"
#include "tensor/kernels.hpp"
#include "tensor/visit.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

/// Adds a contribution to the gradient of a line.
void arrive(Tensor& gradient, Tensor&& contribution) {
  if (gradient.empty()) {
    gradient = std::move(contribution);
  } else {
    kernels::add(gradient, contribution);
  }
}

/// Passes the gradient of a calculated line to its inputs: calls `pass(input, position,
/// contribution)` for each one that gets a gradient.
template <class Pass>
void pass_back(const WorksheetRecord& record, const WorksheetRecord::Entry& entry,
               const Tensor& gradient, Pass pass) {
  const WorksheetRecord::AtWork at_work(record);
  const std::span<const std::uint32_t> positions = record.inputs(entry);
  std::array<const Tensor*, most_inputs> values;
  for (std::size_t input = 0; input < positions.size(); ++input) {
    values[input] = &record[positions[input]].value;
  }
  const Inputs inputs(std::span(values.data(), positions.size()));
  const BackwardStep step{inputs, entry.value, gradient, entry.aside};
  const InputSet wanted = entry.passes_to;
  if (wanted.count() == 1) {
    std::size_t only = 0;
    while (!wanted.test(only))
      ++only;
    return pass(only, positions[only], entry.operation->reverse(step, only));
  }
  const auto pass_all = [&](const std::span<Tensor> passed_on) {
    entry.operation->reverse_to_all(step, wanted, passed_on);
    for (std::size_t input = 0; input < positions.size(); ++input) {
      if (wanted.test(input)) pass(input, positions[input], std::move(passed_on[input]));
    }
  };
  // Few operations have more than three inputs, and each tensor here takes its time.
  if (std::array<Tensor, 3> few; positions.size() <= few.size()) return pass_all(few);
  std::array<Tensor, most_inputs> many;
  pass_all(many);
}

/// What becomes of the running statistics of a worksheet.
std::vector<Gradients::Next> kept_of(const WorksheetRecord& record) {
  std::vector<Gradients::Next> kept;
  kept.reserve(record.running().size());
  for (const WorksheetRecord::Running& each : record.running())
    kept.push_back(
        {.name = std::string(record[each.now].name.text()), .value = record[each.next].value});
  return kept;
}

/// Refuses a line that no weight has gone into.
void check_depends(const Line& result) {
  if (WorksheetRecord::entry(result).is_swept) return;
  throw NameError(
      {.what = fmt::format("{} depends on no weight", result.name()),
       .where = fmt::format("line {}", result.number()),
       .expected = "a line made from at least one weight",
       .remedy = "record what is to be trained with sheet.weight(…), not given(…) or frozen(…)"});
}

/// The gradient that a sweep from one number starts with: 1.
Tensor seed_of(const Line& result) {
  const Tensor& value = WorksheetRecord::entry(result).value;
  if (value.count() != 1) {
    throw ShapeError(
        {.what = fmt::format("the reverse sweep starts from one number, and {} has more",
                             result.name()),
         .where = fmt::format("line {}", result.number()),
         .expected = "one number",
         .found = to_string(value.shape()),
         .remedy = "reduce it to one number with mean(…) or sum(…), or give the gradient there: "
                   "reverse_sweep(line, seed)"});
  }
  check_depends(result);
  Tensor one = Tensor::unfilled(value.shape(), value.precision());
  visit(one.precision(), [&]<class T>(T) { *one.writable<T>() = T{1}; });
  return one;
}

Tensor checked(Tensor seed, const Line& result) {
  const Tensor& value = WorksheetRecord::entry(result).value;
  check_depends(result);
  if (seed.precision() != value.precision()) {
    throw NumberError({.what = fmt::format("the seed and {} differ in precision", result.name()),
                       .expected = std::string(word(value.precision())),
                       .found = std::string(word(seed.precision()))});
  }
  if (seed.shape() != value.shape()) {
    throw ShapeError({.what = fmt::format("the seed does not fit {}", result.name()),
                      .where = fmt::format("line {}", result.number()),
                      .expected = to_string(value.shape()),
                      .found = to_string(seed.shape())});
  }
  return seed;
}

/// Wipes what is left of a sweep that an exception ended; a sweep that ends well leaves nothing.
class Tidy {
 public:
  Tidy(WorksheetRecord& record, std::uint32_t last) : record_(record), last_(last) {}
  Tidy(const Tidy&) = delete;
  Tidy& operator=(const Tidy&) = delete;
  ~Tidy() {
    if (has_ended_well_) return;
    for (std::uint32_t position = 0; position <= last_; ++position) {
      record_.writable(position).gradient.reset();
    }
  }

  void ended_well() { has_ended_well_ = true; }

 private:
  WorksheetRecord& record_;
  std::uint32_t last_;
  bool has_ended_well_ = false;
};

}  // namespace

const Tensor& Gradients::operator[](std::string_view weight) const {
  std::vector<std::string> names;
  for (const std::vector<Entry>* const entries : {&entries_, &asked_}) {
    for (const Entry& entry : *entries) {
      if (entry.weight == weight) return entry.gradient;
      names.push_back(entry.weight);
    }
  }
  throw NameError({.what = fmt::format("there is no gradient for '{}'", weight),
                   .expected = fmt::format("one of {}", fmt::join(names, ", ")),
                   .found = fmt::format("'{}'", weight),
                   .remedy = "only what the result depends on has one: weights, and data that is "
                             "asked about"});
}

void Gradients::add(Line::Kind kind, std::string_view name, Tensor gradient) {
  (kind == Line::Kind::asked ? asked_ : entries_).emplace_back(name, std::move(gradient));
}

const Tensor& Gradients::operator[](const Line& weight) const {
  return (*this)[weight.name()];
}

Gradients reverse_sweep(const Line& result) {
  return detail::swept(result, seed_of(result));
}

Gradients reverse_sweep(const Line& result, Tensor seed) {
  return detail::swept(result, checked(std::move(seed), result));
}

Gradients detail::swept(const Line& result, Tensor seed) {
  WorksheetRecord& record = WorksheetRecord::of(result);
  const std::uint32_t last = WorksheetRecord::position(result);
  Tidy leave_nothing(record, last);
  record.writable(last).gradient = std::move(seed);
  for (std::uint32_t position = last + 1; position-- > 0;) {
    WorksheetRecord::Entry& entry = record.writable(position);
    if (entry.gradient.empty() || entry.kind != Line::Kind::calculated) continue;
    const Tensor here = std::move(entry.gradient);
    pass_back(record, entry, here, [&](std::size_t, std::uint32_t to, Tensor&& contribution) {
      arrive(record.writable(to).gradient, std::move(contribution));
    });
  }
  Gradients gradients;
  gradients.entries_.reserve(record.swept_leaves());
  for (std::uint32_t position = 0; position <= last; ++position) {
    WorksheetRecord::Entry& entry = record.writable(position);
    if (!entry.gradient.empty())
      gradients.add(entry.kind, entry.name.text(), std::move(entry.gradient));
  }
  gradients.running_ = kept_of(record);
  leave_nothing.ended_well();
  return gradients;
}

ReverseSweep::ReverseSweep(const Line& result) : ReverseSweep(result, seed_of(result)) {}

ReverseSweep::ReverseSweep(const Line& result, Tensor seed)
    : result_(result), next_(WorksheetRecord::position(result) + 1), gradients_(next_) {
  gradients_.back() = checked(std::move(seed), result);
}

bool ReverseSweep::next() {
  WorksheetRecord& record = WorksheetRecord::of(result_);
  const std::uint32_t before = next_;
  while (next_ > 0) {
    const std::uint32_t position = --next_;
    if (gradients_[position].empty()) continue;
    Taken taken{
        .step = {.line = record.line(position), .gradient = gradients_[position], .passed_on = {}},
        .next = before,
        .gradient = {}};
    const WorksheetRecord::Entry& entry = record[position];
    if (entry.kind == Line::Kind::calculated) {
      pass_back(record, entry, taken.step.gradient,
                [&](std::size_t input, std::uint32_t to, const Tensor& contribution) {
                  taken.gradient.push_back(gradients_[to]);
                  arrive(gradients_[to], Tensor(contribution));
                  taken.step.passed_on.push_back({record.line(to), input, contribution});
                });
    }
    taken_.push_back(std::move(taken));
    return true;
  }
  return false;
}

bool ReverseSweep::previous() {
  if (taken_.empty()) return false;
  Taken& last = taken_.back();
  for (std::size_t i = last.gradient.size(); i-- > 0;) {
    gradients_[WorksheetRecord::position(last.step.passed_on[i].to)] = std::move(last.gradient[i]);
  }
  next_ = last.next;
  taken_.pop_back();
  return true;
}

const ReverseStep& ReverseSweep::step() const {
  if (taken_.empty()) {
    throw LineError({.what = "the reverse sweep has not taken a step yet",
                     .remedy = "call next() first; it is false when no line is left"});
  }
  return taken_.back().step;
}

bool ReverseSweep::has_reached(const Line& line) const {
  const std::uint32_t position = WorksheetRecord::position(line);
  return &WorksheetRecord::of(line) == &WorksheetRecord::of(result_) &&
         position < gradients_.size() && !gradients_[position].empty();
}

const Tensor& ReverseSweep::gradient(const Line& line) const {
  const std::uint32_t position = WorksheetRecord::position(line);
  if (&WorksheetRecord::of(line) != &WorksheetRecord::of(result_)) {
    throw LineError({.what = fmt::format("{} is a line of another worksheet", line.name())});
  }
  if (position < gradients_.size() && position < next_ && line.is_swept()) {
    throw LineError({.what = fmt::format("the reverse sweep has not reached {} yet", line.name()),
                     .where = fmt::format("line {}", line.number()),
                     .remedy = "take more steps: next() is true as long as lines are left"});
  }
  if (!has_reached(line)) {
    const bool is_data = !line.is_swept();
    throw NameError(
        {.what = fmt::format("there is no gradient of {}", line.name()),
         .where = fmt::format("line {}", line.number()),
         .found = line.kind() == Line::Kind::frozen    ? "it is frozen"
                  : line.kind() == Line::Kind::running ? "it is a running statistic"
                  : is_data ? "it is given, or made from given lines only"
                            : fmt::format("{} does not depend on it", result_.name()),
         .remedy = is_data ? "to have a gradient for it, write it down with sheet.weight(…), or as "
                             "data with sheet.asked(…)"
                           : ""});
  }
  return gradients_[position];
}

const Tensor& ReverseSweep::gradient(std::string_view name) const {
  return gradient(line(name));
}

Gradients ReverseSweep::gradients() const {
  const WorksheetRecord& record = WorksheetRecord::of(result_);
  if (next_ > 0) {
    throw LineError({.what = "the reverse sweep is not over yet",
                     .where = fmt::format("line {}", next_),
                     .remedy = "take more steps: next() is true as long as lines are left"});
  }
  Gradients gradients;
  for (std::uint32_t position = 0; position < gradients_.size(); ++position) {
    if (record[position].kind != Line::Kind::calculated && !gradients_[position].empty())
      gradients.add(record[position].kind, record[position].name.text(), gradients_[position]);
  }
  gradients.running_ = kept_of(record);
  return gradients;
}

Line ReverseSweep::line(std::size_t number) const {
  return WorksheetRecord::of(result_).line_numbered(number);
}

Line ReverseSweep::line(std::string_view name) const {
  return WorksheetRecord::of(result_).line(name);
}

std::string to_string(const Gradients& gradients) {
  std::string text;
  for (const Gradients::Entry& entry : gradients)
    text += fmt::format("∂{}\n{}", entry.weight, entry.gradient);
  return text;
}

}  // namespace lattice
