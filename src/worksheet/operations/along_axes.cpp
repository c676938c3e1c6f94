#include "lattice/worksheet/operations/along_axes.hpp"

#include <fmt/format.h>

#include "lattice/tensor/error.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/symbols.hpp"

namespace lattice {
namespace {

using kernels::AxisSet;
using kernels::contains;

AxisSet every_axis(const Shape& shape) {
  return (1U << shape.rank()) - 1U;
}

/// Sum and mean: they differ by a divisor.
enum class Total { sum, mean };

template <Total total>
class AlongAxes final : public Operation {
 public:
  AlongAxes(AxisSet axes, bool keep) : axes_(axes), keep_(keep) {}

  [[nodiscard]] std::string_view name() const override {
    return total == Total::mean ? "mean" : "sum";
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    if (!keep_ && axes_ == every_axis(x)) return {};
    std::array<std::int64_t, max_rank> extents{};
    std::array<Role, max_rank> roles{};
    size_t rank = 0;
    for (int axis = 0; axis < x.rank(); ++axis) {
      const bool gone = contains(axes_, axis);
      if (gone && !keep_) continue;
      extents[rank] = gone ? 1 : x[axis];
      roles[rank++] = x.role(axis);
    }
    Shape shape(std::span<const std::int64_t>(extents.data(), rank));
    for (int axis = 0; axis < shape.rank(); ++axis)
      shape.set_role(axis, roles[size_t(axis)]);
    return shape;
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::sum(inputs[0], axes_, shape, divisor(inputs.shape(0)));
  }

  [[nodiscard]] Tensor reverse(const Arrival& step, std::size_t) const override {
    const Shape& shape = step.inputs.shape(0);
    return kernels::spread(step.arrived, axes_, shape, divisor(shape));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    std::vector<Formula> terms;
    for (const Index& place : places_along(axes_, cells.shape(0), widened(cells.shape(0), at))) {
      terms.push_back(cells.input(0, place));
    }
    return divided(Formula::sum(std::move(terms)), cells.shape(0));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    return divided(cells.arrived(narrowed(cells.shape(0), at)), cells.shape(0));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    const std::string& x = symbols.inputs[0];
    if (symbols.result_shape.count() == 1) return fmt::format("{}({})", name(), x);
    return fmt::format("{}({}; {})", name(), x, describe_axes(axes_, symbols.shapes[0]));
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    const std::string arrived = "∂" + symbols.result;
    if constexpr (total == Total::sum) return arrived + " at every place";
    return fmt::format("{}/{} at every place", arrived, divisor(symbols.shapes[0]));
  }

 private:
  /// How many numbers make one number of the mean; 1 for the sum.
  [[nodiscard]] double divisor(const Shape& x) const {
    double count = 1.0;
    if constexpr (total == Total::sum) return count;
    for (int axis = 0; axis < x.rank(); ++axis) {
      if (contains(axes_, axis)) count *= static_cast<double>(x[axis]);
    }
    return count;
  }

  [[nodiscard]] Formula divided(const Formula& formula, const Shape& x) const {
    if constexpr (total == Total::sum) return formula;
    return formula / divisor(x);
  }

  /// An index of the result as an index of the input, 0 along the axes brought together.
  [[nodiscard]] Index widened(const Shape& x, const Index& at) const {
    if (keep_) return at;
    Index place = Index::zeros(x.rank());
    for (int axis = 0, next = 0; axis < x.rank(); ++axis) {
      if (!contains(axes_, axis)) place[axis] = at[next++];
    }
    return place;
  }

  /// An index of the input as the index of the result that it went into.
  [[nodiscard]] Index narrowed(const Shape& x, const Index& at) const {
    std::vector<std::int64_t> place;
    for (int axis = 0; axis < x.rank(); ++axis) {
      if (!contains(axes_, axis)) {
        place.push_back(at[axis]);
      } else if (keep_) {
        place.push_back(0);
      }
    }
    return Index(place);
  }

  AxisSet axes_;
  bool keep_;
};

AxisSet axes_of(std::string_view operation, const Along& along, const Shape& shape) {
  AxisSet axes = 0;
  for (const int axis : along.axes) {
    const bool is_there = axis >= 0 && axis < shape.rank();
    if (!is_there || contains(axes, axis)) {
      throw ShapeError(
          {.what = fmt::format("{}: axis {} of {} {}", operation, axis, to_string(shape),
                               is_there ? "is named twice" : "is not there"),
           .expected = shape.rank() == 0
                           ? "no axes: it is one number"
                           : fmt::format("each of 0 to {} at most once", shape.rank() - 1),
           .found = fmt::format("{}", axis)});
    }
    axes |= 1U << axis;
  }
  return along.axes.empty() ? every_axis(shape) : axes;
}

template <Total total, class X>
X along_axes(std::string_view word, const X& x, const Along& along) {
  return apply(AlongAxes<total>(axes_of(word, along, x.shape()), along.keep), x);
}

}  // namespace

Line sum(const Line& x, const Along& along) {
  return along_axes<Total::sum>("sum", x, along);
}
Tensor sum(const Tensor& x, const Along& along) {
  return along_axes<Total::sum>("sum", x, along);
}

Line mean(const Line& x, const Along& along) {
  return along_axes<Total::mean>("mean", x, along);
}
Tensor mean(const Tensor& x, const Along& along) {
  return along_axes<Total::mean>("mean", x, along);
}

}  // namespace lattice
