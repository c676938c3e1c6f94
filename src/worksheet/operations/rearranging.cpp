#include "lattice/worksheet/operations/rearranging.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <optional>

#include "lattice/text/error.hpp"
#include "tensor/kernels.hpp"
#include "tensor/rearranging_kernels.hpp"
#include "text/counted.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

class Reshape final : public Operation {
 public:
  Reshape(std::string_view name, const Shape& shape) : name_(name), shape_(shape) {}

  [[nodiscard]] std::string_view name() const override { return name_; }

  [[nodiscard]] OperationNature nature() const override {
    return {.rearranges = true, .goes_by_axis = true};
  }

  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::as_it_is};
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    if (inputs.shape(0).count() == shape_.count()) return shape_;
    throw ShapeError({.what = fmt::format("{}: {} cannot become {}", name_, inputs.describe(0),
                                          to_string(shape_)),
                      .expected = "a shape of " + counted(inputs.shape(0).count(), "number"),
                      .found = counted(shape_.count(), "number")});
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return inputs[0].reshaped(shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    return step.gradient.reshaped(step.inputs.shape(0));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    return cells.input(0, cells.shape(0).index(cells.result_shape().offset(at)));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return cells.gradient(cells.result_shape().index(cells.shape(0).offset(at)));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    if (name_ != "reshape") return fmt::format("{}({})", name_, symbols.inputs[0]);
    const std::string shape = to_string(shape_);
    return fmt::format("reshape({}; {})", symbols.inputs[0], shape.substr(1, shape.size() - 2));
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} as {}", symbols.result, to_string(symbols.shapes[0]));
  }

 private:
  std::string_view name_;
  Shape shape_;
};

/// Where a block of an input goes: positions `from_start`, `from_start + from_step` … along each of
/// its axes, `extents` of them, to positions `to_start`, `to_start + 1` … along axis `to_axis` of
/// the result.
struct Placement {
  std::array<std::int64_t, max_rank> extents{};
  std::array<std::int64_t, max_rank> from_start{};
  std::array<std::int64_t, max_rank> from_step{};
  std::array<std::int64_t, max_rank> to_start{};
  std::array<int, max_rank> to_axis{};

  /// Everything, to the same place.
  explicit Placement(const Shape& shape) {
    for (int axis = 0; axis < shape.rank(); ++axis) {
      const auto a = static_cast<std::size_t>(axis);
      extents[a] = shape[axis];
      from_step[a] = 1;
      to_axis[a] = axis;
    }
  }

  /// The number of the input that stands at a place of the result, when one does.
  [[nodiscard]] std::optional<Index> source(const Index& at, int rank) const {
    Index source = Index::zeros(rank);
    for (int axis = 0; axis < rank; ++axis) {
      const auto a = static_cast<std::size_t>(axis);
      const std::int64_t step = at[to_axis[a]] - to_start[a];
      if (step < 0 || step >= extents[a]) return std::nullopt;
      source[axis] = from_start[a] + step * from_step[a];
    }
    return source;
  }

  /// The place of the result where a number of the input stands, when it is taken.
  [[nodiscard]] std::optional<Index> target(const Index& at) const {
    Index target = Index::zeros(at.rank());
    for (int axis = 0; axis < at.rank(); ++axis) {
      const auto a = static_cast<std::size_t>(axis);
      const std::int64_t from_first = at[axis] - from_start[a];
      const std::int64_t step = from_first / from_step[a];
      if (from_first < 0 || from_first % from_step[a] != 0 || step >= extents[a])
        return std::nullopt;
      target[to_axis[a]] = to_start[a] + step;
    }
    return target;
  }

  /// The same for the kernels, from an input of a shape to a result of a shape.
  [[nodiscard]] kernels::Block block(const Shape& from, const Shape& to) const {
    kernels::Block block{.rank = from.rank()};
    const auto strides = [](const Shape& shape) {
      std::array<std::int64_t, max_rank> steps{};
      std::int64_t step = 1;
      for (int axis = shape.rank() - 1; axis >= 0; --axis) {
        steps[static_cast<std::size_t>(axis)] = step;
        step *= shape[axis];
      }
      return steps;
    };
    const auto in_from = strides(from);
    const auto in_to = strides(to);
    for (std::size_t a = 0; a < static_cast<std::size_t>(from.rank()); ++a) {
      const std::int64_t step_to = in_to[static_cast<std::size_t>(to_axis[a])];
      block.extents[a] = extents[a];
      block.from_start += from_start[a] * in_from[a];
      block.from_step[a] = from_step[a] * in_from[a];
      block.to_start += to_start[a] * step_to;
      block.to_step[a] = step_to;
    }
    return block;
  }
};

/// What operations have in common that take blocks of their inputs to places of the result.
class Rearrangement : public Operation {
 public:
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }

  [[nodiscard]] Passing passing(std::size_t) const override {
    return {.kind = Passing::Kind::as_it_is};
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    Tensor result = kernels::filled(shape, inputs[0].precision(), filling());
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      for (int use = 0; use < uses(); ++use) {
        kernels::copy(inputs[input], result,
                      placement(inputs.shape(input), input, use).block(inputs.shape(input), shape));
      }
    }
    return result;
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    const Shape& shape = step.inputs.shape(input);
    Tensor result = kernels::filled(shape, step.gradient.precision(), 0.0);
    for (int use = 0; use < uses(); ++use) {
      kernels::add_back(step.gradient, result,
                        placement(shape, input, use).block(shape, step.gradient.shape()));
    }
    return result;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    for (std::size_t input = 0; input < inputs(); ++input) {
      for (int use = 0; use < uses(); ++use) {
        const Shape& shape = cells.shape(input);
        const std::optional<Index> source = placement(shape, input, use).source(at, shape.rank());
        if (source) return cells.input(input, *source);
      }
    }
    return filling();
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    std::vector<Formula> gradient;
    for (int use = 0; use < uses(); ++use) {
      const std::optional<Index> target = placement(cells.shape(input), input, use).target(at);
      if (target) gradient.push_back(cells.gradient(*target));
    }
    return Formula::sum(std::move(gradient));
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} from where it went", symbols.result);
  }

 protected:
  Rearrangement() = default;
  ~Rearrangement() = default;

  [[nodiscard]] virtual Placement placement(const Shape& from, std::size_t input,
                                            int use) const = 0;
  [[nodiscard]] virtual std::size_t inputs() const { return 1; }
  /// How often each input is used.
  [[nodiscard]] virtual int uses() const { return 1; }
  /// What stands where no input goes.
  [[nodiscard]] virtual double filling() const { return 0.0; }
};

class Permute final : public Rearrangement {
 public:
  explicit Permute(const std::array<int, max_rank>& axes) : axes_(axes) {}

  [[nodiscard]] std::string_view name() const override { return "permute"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    Shape shape = inputs.shape(0);
    for (int axis = 0; axis < shape.rank(); ++axis) {
      const int from = axes_[static_cast<std::size_t>(axis)];
      shape = shape.with_extent(axis, inputs.shape(0)[from]);
      shape.set_role(axis, inputs.shape(0).role(from));
    }
    return shape;
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    std::string order;
    for (int axis = 0; axis < symbols.result_shape.rank(); ++axis)
      order += fmt::format("{}{}", axis == 0 ? "" : ", ", axes_[static_cast<std::size_t>(axis)]);
    return fmt::format("permute({}; axes {})", symbols.inputs[0], order);
  }

 private:
  [[nodiscard]] Placement placement(const Shape& from, std::size_t, int) const override {
    Placement placement(from);
    for (int axis = 0; axis < from.rank(); ++axis) {
      const auto source = static_cast<std::size_t>(axes_[static_cast<std::size_t>(axis)]);
      placement.to_axis[source] = axis;
    }
    return placement;
  }

  std::array<int, max_rank> axes_;
};

class Slice final : public Rearrangement {
 public:
  Slice(int axis, Range range) : axis_(axis), range_(range) {}

  [[nodiscard]] std::string_view name() const override { return "slice"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    return inputs.shape(0).with_extent(axis_, count());
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    const std::int64_t last = range_.from + (count() - 1) * range_.step;
    return fmt::format(
        "slice({}; {}: {}{})", symbols.inputs[0], describe_axes(1U << axis_, symbols),
        last == range_.from ? fmt::format("{}", last) : fmt::format("{} to {}", range_.from, last),
        range_.step == 1 ? "" : fmt::format(" by {}", range_.step));
  }

 private:
  [[nodiscard]] std::int64_t count() const {
    return (range_.end - range_.from - 1) / range_.step + 1;
  }

  [[nodiscard]] Placement placement(const Shape& from, std::size_t, int) const override {
    Placement placement(from);
    const auto axis = static_cast<std::size_t>(axis_);
    placement.extents[axis] = count();
    placement.from_start[axis] = range_.from;
    placement.from_step[axis] = range_.step;
    return placement;
  }

  int axis_;
  Range range_;
};

class Join final : public Rearrangement {
 public:
  explicit Join(int axis) : axis_(axis) {}

  /// One more part, so long along the axis.
  void add(std::int64_t extent) {
    starts_[parts_ + 1] = starts_[parts_] + extent;
    ++parts_;
  }

  [[nodiscard]] std::string_view name() const override { return "join"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& first = inputs.shape(0);
    for (std::size_t input = 1; input < inputs.size(); ++input) {
      const Shape& other = inputs.shape(input);
      const bool fits = other.rank() == first.rank() &&
                        other.with_extent(axis_, 1) == first.with_extent(axis_, 1);
      if (fits) continue;
      throw ShapeError(
          {.what = fmt::format("{}: {} and {} do not fit along {}", name(), inputs.describe(0),
                               inputs.describe(input), describe_axes(1U << axis_, first)),
           .expected = fmt::format("the same extents on all axes but axis {}", axis_),
           .found = fmt::format("{} and {}", to_string(first), to_string(other))});
    }
    return first.with_extent(axis_, starts_[parts_]);
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("join({}; {})", fmt::join(symbols.inputs, ", "),
                       describe_axes(1U << axis_, symbols));
  }

 private:
  [[nodiscard]] std::size_t inputs() const override { return parts_; }

  [[nodiscard]] Placement placement(const Shape& from, std::size_t input, int) const override {
    Placement placement(from);
    placement.to_start[static_cast<std::size_t>(axis_)] = starts_[input];
    return placement;
  }

  int axis_;
  std::array<std::int64_t, most_inputs + 1> starts_{};
  std::size_t parts_ = 0;
};

class Pad final : public Rearrangement {
 public:
  Pad(int axis, PadWidth width) : axis_(axis), width_(width) {}

  [[nodiscard]] std::string_view name() const override { return "pad"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    return x.with_extent(axis_, width_.before + x[axis_] + width_.after);
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("pad({}; {}: {} before, {} after, with {})", symbols.inputs[0],
                       describe_axes(1U << axis_, symbols), width_.before, width_.after,
                       symbols.number(width_.number));
  }

 private:
  [[nodiscard]] double filling() const override { return width_.number; }

  [[nodiscard]] Placement placement(const Shape& from, std::size_t, int) const override {
    Placement placement(from);
    placement.to_start[static_cast<std::size_t>(axis_)] = width_.before;
    return placement;
  }

  int axis_;
  PadWidth width_;
};

class Repeat final : public Rearrangement {
 public:
  Repeat(int axis, int times) : axis_(axis), times_(times) {}

  [[nodiscard]] std::string_view name() const override { return "repeat"; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    return inputs.shape(0).with_extent(axis_, inputs.shape(0)[axis_] * times_);
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("repeat({}; {}: {} times)", symbols.inputs[0],
                       describe_axes(1U << axis_, symbols), times_);
  }

 private:
  [[nodiscard]] int uses() const override { return times_; }

  [[nodiscard]] Placement placement(const Shape& from, std::size_t, int use) const override {
    Placement placement(from);
    placement.to_start[static_cast<std::size_t>(axis_)] = use * from[axis_];
    return placement;
  }

  int axis_;
  int times_;
};

/// Joins at most `most_inputs` parts.
template <class X>
X join_some(std::span<const X> parts, int axis) {
  Join operation(axis);
  for (const X& part : parts) {
    operation.add(part.shape()[axis_in(operation.name(), axis, part.shape())]);
  }
  return apply_to_all(operation, parts);
}

template <class X>
X join_all(const std::vector<X>& parts, int axis) {
  if (parts.empty()) {
    throw ShapeError({.what = "join: there is nothing to join", .expected = "one part or more"});
  }
  axis = axis_in("join", axis, parts.front().shape());
  std::span<const X> rest(parts);
  const auto take = [&](std::size_t most) {
    const std::span<const X> some = rest.first(std::min(most, rest.size()));
    rest = rest.subspan(some.size());
    return some;
  };
  X joined = join_some(take(most_inputs), axis);
  while (!rest.empty()) {
    std::vector<X> more{joined};
    for (const X& part : take(most_inputs - 1))
      more.push_back(part);
    joined = join_some(std::span<const X>(more), axis);
  }
  return joined;
}

Range checked(Range range, int axis, const Shape& shape) {
  if (range.end == -1) range.end = shape[axis];
  const bool fits = range.from >= 0 && range.from < range.end && range.end <= shape[axis];
  if (fits && range.step >= 1) return range;
  throw IndexError(
      {.what =
           fmt::format("slice: positions that axis {} of {} does not have", axis, to_string(shape)),
       .expected =
           fmt::format("from 0 to an end of at most {}, in steps of 1 or more", shape[axis]),
       .found = fmt::format("from {} to {} by {}", range.from, range.end, range.step)});
}

}  // namespace

template <Operand X>
X reshape(const X& x, const Shape& shape) {
  return apply(Reshape("reshape", shape), x);
}

template <Operand X>
X flatten(const X& x) {
  const Shape& from = x.shape();
  const std::int64_t rows = from[axis_in("flatten", 0, from)];
  Shape shape{rows, from.count() / rows};
  shape.set_role(0, from.role(0));
  if (from.rank() == 2) shape.set_role(1, from.role(1));
  return apply(Reshape("flatten", shape), x);
}

template <Operand X>
X permute(const X& x, std::span<const int> axes) {
  std::array<int, max_rank> order{};
  kernels::AxisSet named = 0;
  std::size_t count = 0;
  for (const int axis : axes) {
    if (count == order.size()) break;
    order[count] = axis_in("permute", axis, x.shape());
    named |= 1U << order[count++];
  }
  const auto rank = static_cast<std::size_t>(x.shape().rank());
  if (axes.size() != rank || named != (1U << rank) - 1U) {
    throw ShapeError(
        {.what = fmt::format("permute: not an order of the axes of {}", to_string(x.shape())),
         .expected = fmt::format("each of its {} axes once", x.shape().rank()),
         .found = fmt::format("{}", fmt::join(axes, ", "))});
  }
  return apply(Permute(order), x);
}

template <Operand X>
X slice(const X& x, int axis, Range range) {
  axis = axis_in("slice", axis, x.shape());
  return apply(Slice(axis, checked(range, axis, x.shape())), x);
}

Line join(const std::vector<Line>& parts, int axis) {
  return join_all(parts, axis);
}
Tensor join(const std::vector<Tensor>& parts, int axis) {
  return join_all(parts, axis);
}

template <Operand X>
X pad(const X& x, int axis, PadWidth width) {
  axis = axis_in("pad", axis, x.shape());
  if (width.before < 0 || width.after < 0) {
    throw ShapeError({.what = "pad: a width is negative",
                      .expected = "0 or more before and after",
                      .found = fmt::format("{} and {}", width.before, width.after),
                      .remedy = "slice(…) takes some away"});
  }
  return apply(Pad(axis, width), x);
}

template <Operand X>
X repeat(const X& x, int axis, std::int64_t times) {
  axis = axis_in("repeat", axis, x.shape());
  constexpr std::int64_t most = 1'000'000'000;
  if (times < 1 || times > most) {
    throw ShapeError({.what = fmt::format("repeat: {} times", times),
                      .expected = fmt::format("1 to {}", most),
                      .found = fmt::format("{}", times)});
  }
  return apply(Repeat(axis, static_cast<int>(times)), x);
}

template Line reshape(const Line&, const Shape&);
template Tensor reshape(const Tensor&, const Shape&);
template Line flatten(const Line&);
template Tensor flatten(const Tensor&);
template Line permute(const Line&, std::span<const int>);
template Tensor permute(const Tensor&, std::span<const int>);
template Line slice(const Line&, int, Range);
template Tensor slice(const Tensor&, int, Range);
template Line pad(const Line&, int, PadWidth);
template Tensor pad(const Tensor&, int, PadWidth);
template Line repeat(const Line&, int, std::int64_t);
template Tensor repeat(const Tensor&, int, std::int64_t);
}  // namespace lattice
