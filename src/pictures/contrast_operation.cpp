#include "lattice/pictures/contrast_operation.hpp"

#include <fmt/format.h>

#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "pictures/contrast_kernels.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

class MeanAround final : public Operation {
 public:
  explicit MeanAround(std::int64_t size) : size_(size) {}

  [[nodiscard]] std::string_view name() const override { return "mean around"; }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    if (x.rank() != 4) {
      throw ShapeError(
          {.what = fmt::format("mean around: {} is not a tensor of pictures", inputs.describe(0)),
           .expected = "[example × row × column × channel]",
           .found = to_string(x)});
    }
    Contrast{.size = size_}.check(x.without_first_axis());
    return Shape{x[0], x[1], x[2], 1}.with({x.role(0), x.role(1), x.role(2), x.role(3)});
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return kernels::mean_around(inputs[0], size_);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    return kernels::mean_around_back(step.gradient, size_, step.inputs.shape(0));
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const Shape& x = cells.shape(0);
    const kernels::BellAxis down(size_, x[1]);
    const kernels::BellAxis across(size_, x[2]);
    std::vector<Formula> parts;
    for (std::int64_t row = down.first(at[1]); row < down.end(at[1]); ++row) {
      for (std::int64_t column = across.first(at[2]); column < across.end(at[2]); ++column) {
        const double weight = down.weight(at[1], row) * across.weight(at[2], column);
        for (std::int64_t channel = 0; channel < x[3]; ++channel) {
          parts.push_back(weight / static_cast<double>(x[3]) *
                          cells.input(0, {at[0], row, column, channel}));
        }
      }
    }
    return Formula::sum(std::move(parts));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const Shape& x = cells.shape(0);
    const kernels::BellAxis down(size_, x[1]);
    const kernels::BellAxis across(size_, x[2]);
    // As far as a place reaches, it is reached from.
    std::vector<Formula> uses;
    for (std::int64_t row = down.first(at[1]); row < down.end(at[1]); ++row) {
      for (std::int64_t column = across.first(at[2]); column < across.end(at[2]); ++column) {
        const double weight = down.weight(row, at[1]) * across.weight(column, at[2]);
        uses.push_back(weight / static_cast<double>(x[3]) *
                       cells.gradient({at[0], row, column, 0}));
      }
    }
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("mean_around({}; {})", symbols.inputs[0], size_);
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{1} by the weights of {0}×{0}", size_, symbols.result);
  }

 private:
  std::int64_t size_;
};

}  // namespace

template <Operand X>
X mean_around(const X& pictures, std::int64_t size) {
  return apply(MeanAround(size), pictures);
}

template <Operand X>
Contrasted<X> with_contrast(const X& pictures, const Contrast& contrast) {
  contrast.check();
  Contrasted<X> made{.result = pictures};
  if (contrast.kind != ContrastKind::divisive) {
    made.level = mean_around(pictures, contrast.size);
    made.result = pictures - *made.level;
  }
  if (contrast.kind == ContrastKind::subtractive) return made;
  made.deviation = sqrt(mean_around(square(made.result), contrast.size) + contrast.epsilon);
  made.least = mean(*made.deviation, {.axes = {1, 2}, .keep = true});
  made.result = made.result / maximum(*made.deviation, *made.least);
  return made;
}

template Line mean_around(const Line&, std::int64_t);
template Tensor mean_around(const Tensor&, std::int64_t);
template Contrasted<Line> with_contrast(const Line&, const Contrast&);
template Contrasted<Tensor> with_contrast(const Tensor&, const Contrast&);

void name_lines(const Contrasted<Line>& contrasted, std::string_view owner,
                std::string_view ending) {
  const auto called = [&](const char* name, const std::optional<Line>& line) {
    if (line) named(fmt::format("{}.{}{}", owner, name, ending), *line);
  };
  called("level", contrasted.level);
  called("deviation", contrasted.deviation);
  called("least", contrasted.least);
}

namespace {

class ContrastScaler final : public Scaler {
 public:
  explicit ContrastScaler(const Contrast& contrast) : contrast_(contrast) {}

  [[nodiscard]] std::string text() const override { return lattice::text(contrast_); }
  void check(const Shape& example) const override { contrast_.check(example); }

  [[nodiscard]] Tensor scaled(const Tensor& pictures) const override {
    return kernels::with_contrast(pictures, contrast_);
  }

  [[nodiscard]] Line scaled(const Line& pictures, std::string_view ending) const override {
    const Contrasted<Line> made = with_contrast(pictures, contrast_);
    name_lines(made, "raw", ending);
    return made.result;
  }

 private:
  Contrast contrast_;
};

}  // namespace

Contrast::operator OwnScaling() const {
  return OwnScaling(std::make_shared<const ContrastScaler>(*this));
}

}  // namespace lattice
