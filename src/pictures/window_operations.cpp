#include "lattice/pictures/window_operations.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <span>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "pictures/window_kernels.hpp"
#include "tensor/kernels.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

/// Stride and padding in brackets, where they are not the usual ones.
std::string in_words(std::int64_t stride, const Padding& padding) {
  std::string text;
  if (stride != 1) text = fmt::format("stride {}", stride);
  const std::string around = padding.keeps_size()  ? "keeping size"
                             : padding.width() > 0 ? fmt::format("padding {}", padding.width())
                                                   : "";
  if (!text.empty() && !around.empty()) text += ", ";
  return text + around;
}

/// A place of pictures [… × row × column × channel], and what lies around it.
Index at_place(Index at, std::int64_t row, std::int64_t column, std::int64_t channel) {
  const int rank = at.rank();
  at[rank - 3] = row;
  at[rank - 2] = column;
  at[rank - 1] = channel;
  return at;
}

/// Calls `meet(row, column, position of the window there)` for the places whose window is over a
/// position of the picture. `meet` gets the window's row and column.
template <class Meet>
void each_window_over(const WindowPlaces& places, std::int64_t row, std::int64_t column,
                      Meet meet) {
  const auto reach = [](const WindowAxis& axis, std::int64_t position) {
    const std::int64_t last = std::min((position + axis.before) / axis.stride, axis.places - 1);
    const std::int64_t over = position + axis.before - axis.window + axis.stride;
    return std::pair(over <= 0 ? 0 : over / axis.stride, last);
  };
  const auto [top, bottom] = reach(places.down, row);
  const auto [left, right] = reach(places.across, column);
  for (std::int64_t down = top; down <= bottom; ++down) {
    for (std::int64_t across = left; across <= right; ++across) {
      meet(down, across, row - places.down.under(down, 0), column - places.across.under(across, 0));
    }
  }
}

/// Where a window stands on the first input; an error says whose places they would be.
WindowPlaces places_in(std::string_view operation, const Inputs& inputs, const Window& window) {
  try {
    return places_of(window, inputs.shape(0));
  } catch (const ShapeError& error) {
    Trouble trouble = error.trouble();
    trouble.where = fmt::format("{} of {}", operation, inputs.describe(0));
    throw ShapeError(trouble);
  }
}

/// Sums of products under a kernel. Inputs are pictures, kernel, then bias and table where they are
/// there.
class Convolution final : public Operation {
 public:
  Convolution(bool has_bias, bool has_table, std::int64_t stride, Padding padding)
      : has_bias_(has_bias), has_table_(has_table), stride_(stride), padding_(padding) {}

  [[nodiscard]] std::string_view name() const override { return "convolution"; }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }
  [[nodiscard]] bool holds_for_any(std::size_t input) const override { return passes_back(input); }
  [[nodiscard]] bool passes_back(std::size_t input) const override {
    return !has_table_ || input != table();
  }
  [[nodiscard]] Passing passing(std::size_t input) const override {
    if (input > 1) return {.kind = Passing::Kind::as_it_is};
    return {.kind = Passing::Kind::window, .factor = 1 - input};
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    const Shape& kernel = inputs.shape(1);
    const int rank = has_table_ ? 3 : 4;
    if (kernel.rank() != rank) {
      throw ShapeError({.what = fmt::format("convolution: {} is not a kernel", inputs.describe(1)),
                        .expected = has_table_
                                        ? "[row × column × connection], with a table of connections"
                                        : "[row × column × channel in × channel out]",
                        .found = to_string(kernel)});
    }
    const WindowPlaces places = places_in(name(), inputs, window(kernel));
    if (has_table_) {
      check_table(inputs);
    } else if (kernel[2] != x[x.rank() - 1]) {
      throw ShapeError(
          {.what = fmt::format("convolution: {} has {} {}, {} takes {}", inputs.describe(0),
                               x[x.rank() - 1], x[x.rank() - 1] == 1 ? "channel" : "channels",
                               inputs.name(1), kernel[2]),
           .where = fmt::format("axis {} of {}, axis 2 of {}", x.rank() - 1, inputs.name(0),
                                inputs.name(1)),
           .expected = "as many channels as the kernel takes",
           .found = fmt::format("{} and {}", x[x.rank() - 1], kernel[2]),
           .remedy = "a kernel is [row × column × channel in × channel out]"});
    }
    const std::int64_t outputs = channels_out(inputs);
    if (has_bias_ && inputs.shape(2) != Shape{outputs}) {
      throw ShapeError(
          {.what = fmt::format("convolution: {} does not fit {}", inputs.describe("the bias", 2),
                               inputs.describe("the kernel", 1)),
           .expected = fmt::format("[{}], one number for each channel that goes out", outputs),
           .found = to_string(inputs.shape(2))});
    }
    return places_shape(places, x, outputs);
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    return kernels::convolution(inputs[0], whole_kernel(inputs, shape[shape.rank() - 1]),
                                has_bias_ ? &inputs[2] : nullptr, places(inputs), shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t input) const override {
    const Inputs& inputs = step.inputs;
    const Shape& result = step.result.shape();
    const std::int64_t outputs = result[result.rank() - 1];
    if (input == 0) {
      return kernels::convolution_to_pictures(step.gradient, whole_kernel(inputs, outputs),
                                              places(inputs), inputs.shape(0));
    }
    if (input == 2) {
      const kernels::AxisSet all_but_last = (1U << (result.rank() - 1)) - 1;
      return kernels::sum(step.gradient, all_but_last, inputs.shape(2));
    }
    const Shape& kernel = inputs.shape(1);
    const Shape& x = inputs.shape(0);
    const Shape whole = has_table_ ? Shape{kernel[0], kernel[1], x[x.rank() - 1], outputs} : kernel;
    const Tensor gradient =
        kernels::convolution_to_kernel(inputs[0], step.gradient, places(inputs), whole);
    return has_table_ ? kernels::connections_of_kernel(gradient, inputs[table()], kernel)
                      : gradient;
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const int rank = at.rank();
    const WindowPlaces places = places_from(cells);
    const std::int64_t down = at[rank - 3];
    const std::int64_t across = at[rank - 2];
    std::vector<Formula> terms;
    for (std::int64_t row = places.down.first(down); row < places.down.end(down); ++row) {
      for (std::int64_t column = places.across.first(across); column < places.across.end(across);
           ++column) {
        each_into(cells, at[rank - 1], [&](std::int64_t channel, const Index& weight) {
          terms.push_back(cells.input(0, at_place(at, places.down.under(down, row),
                                                  places.across.under(across, column), channel)) *
                          cells.input(1, in_kernel(weight, row, column)));
        });
      }
    }
    if (has_bias_) terms.push_back(cells.input(2, {at[rank - 1]}));
    return Formula::sum(std::move(terms));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t input,
                                        const Index& at) const override {
    if (input == 0) return to_picture(cells, at);
    if (input == 1) return to_kernel(cells, at);
    const Shape& result = cells.result_shape();
    const int rank = result.rank();
    Index place = Index::zeros(rank);
    place[rank - 1] = at[0];
    std::vector<Formula> uses;
    for (const Index& use : places_along((1U << (rank - 1)) - 1, result, place))
      uses.push_back(cells.gradient(use));
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    const std::string how = in_words(stride_, padding_);
    if (symbols.are_typed) {
      std::vector<std::string> settings;
      if (has_bias_) settings.push_back("bias " + symbols.inputs[2]);
      if (has_table_) settings.push_back("table " + symbols.inputs[table()]);
      if (!how.empty()) settings.push_back(how);
      return fmt::format("convolution({}, {}{}{})", symbols.inputs[0], symbols.inputs[1],
                         settings.empty() ? "" : "; ", fmt::join(settings, ", "));
    }
    const std::string with_table =
        has_table_ ? fmt::format("table {}{}", symbols.inputs[table()], how.empty() ? "" : ", ")
                   : "";
    const bool has_words = has_table_ || !how.empty();
    return fmt::format("{} ∗ {}{}{}", symbols.inputs[0], symbols.inputs[1],
                       has_words ? fmt::format(" ({}{})", with_table, how) : "",
                       has_bias_ ? fmt::format(" + {}", symbols.inputs[2]) : "");
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols,
                                            std::size_t input) const override {
    const std::string gradient = "∂" + symbols.result;
    if (input == 0) return fmt::format("{} ∗ {} rotated by 180°", gradient, symbols.inputs[1]);
    if (input == 1) return fmt::format("{} ∗ {}, summed over places", symbols.inputs[0], gradient);
    return fmt::format("{}{}", summed_over(symbols, 2), gradient);
  }

 private:
  [[nodiscard]] std::size_t table() const { return has_bias_ ? 3 : 2; }

  [[nodiscard]] Window window(const Shape& kernel) const {
    return {.rows = kernel[0], .columns = kernel[1], .stride = stride_, .padding = padding_};
  }
  [[nodiscard]] WindowPlaces places(const Inputs& inputs) const {
    return places_of(window(inputs.shape(1)), inputs.shape(0));
  }
  [[nodiscard]] WindowPlaces places_from(const Cells& cells) const {
    return places_of(window(cells.shape(1)), cells.shape(0));
  }

  void check_table(const Inputs& inputs) const {
    const Shape& shape = inputs.shape(table());
    const std::int64_t connections = inputs.shape(1)[2];
    if (shape != Shape{connections, 2}) {
      throw ShapeError({.what = fmt::format("convolution: {} is not a table of connections for {}",
                                            inputs.describe(table()), inputs.describe(1)),
                        .expected = fmt::format("[{} × 2]: for each the channel that comes in, and "
                                                "the one that goes out",
                                                connections),
                        .found = to_string(shape)});
    }
    const Shape& x = inputs.shape(0);
    constexpr std::int64_t most_channels = 1'000'000;
    check_whole(inputs, table(), x[x.rank() - 1], "convolution: a channel that comes in", 0, 2);
    check_whole(inputs, table(), has_bias_ ? inputs.shape(2).count() : most_channels,
                "convolution: a channel that goes out", 1, 2);
  }

  [[nodiscard]] std::int64_t channels_out(const Inputs& inputs) const {
    if (!has_table_) return inputs.shape(1)[3];
    if (has_bias_) return inputs.shape(2).count();
    std::int64_t most = 0;
    for (std::int64_t connection = 0; connection < inputs.shape(1)[2]; ++connection) {
      most = std::max(most, static_cast<std::int64_t>(inputs[table()].at({connection, 1})));
    }
    return most + 1;
  }

  /// The kernel for all channels, with 0 where none is connected.
  [[nodiscard]] Tensor whole_kernel(const Inputs& inputs, std::int64_t outputs) const {
    if (!has_table_) return inputs[1];
    const Shape& x = inputs.shape(0);
    return kernels::kernel_of_connections(inputs[1], inputs[table()], x[x.rank() - 1], outputs);
  }

  static Index in_kernel(Index weight, std::int64_t row, std::int64_t column) {
    weight[0] = row;
    weight[1] = column;
    return weight;
  }

  /// The channels of a connection.
  [[nodiscard]] std::pair<std::int64_t, std::int64_t> connected(const Cells& cells,
                                                                std::int64_t connection) const {
    const auto number = [&](std::int64_t which) {
      return static_cast<std::int64_t>(cells.input(table(), {connection, which}).evaluate());
    };
    return {number(0), number(1)};
  }

  /// Calls `meet(channel in, place in the kernel)` for each channel that goes into one.
  template <class Meet>
  void each_into(const Cells& cells, std::int64_t out, Meet meet) const {
    const std::int64_t count = cells.shape(1)[2];
    for (std::int64_t of = 0; of < count; ++of) {
      if (!has_table_) {
        meet(of, Index{0, 0, of, out});
      } else if (const auto [from, to] = connected(cells, of); to == out) {
        meet(from, Index{0, 0, of});
      }
    }
  }

  /// Calls `meet(channel out, place in the kernel)` for each channel that one goes into.
  template <class Meet>
  void each_out_of(const Cells& cells, std::int64_t in, Meet meet) const {
    const std::int64_t count = has_table_ ? cells.shape(1)[2] : cells.shape(1)[3];
    for (std::int64_t of = 0; of < count; ++of) {
      if (!has_table_) {
        meet(of, Index{0, 0, in, of});
      } else if (const auto [from, to] = connected(cells, of); from == in) {
        meet(to, Index{0, 0, of});
      }
    }
  }

  [[nodiscard]] Formula to_picture(const Cells& cells, const Index& at) const {
    const int rank = at.rank();
    std::vector<Formula> uses;
    each_window_over(
        places_from(cells), at[rank - 3], at[rank - 2],
        [&](std::int64_t down, std::int64_t across, std::int64_t row, std::int64_t column) {
          each_out_of(cells, at[rank - 1], [&](std::int64_t out, const Index& weight) {
            uses.push_back(cells.gradient(at_place(at, down, across, out)) *
                           cells.input(1, in_kernel(weight, row, column)));
          });
        });
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] Formula to_kernel(const Cells& cells, const Index& at) const {
    const Shape& result = cells.result_shape();
    const int rank = result.rank();
    const WindowPlaces places = places_from(cells);
    const auto [in, out] = has_table_ ? connected(cells, at[2]) : std::pair(at[2], at[3]);
    std::vector<Formula> uses;
    Index first = Index::zeros(rank);
    first[rank - 1] = out;
    for (const Index& place : places_along((1U << (rank - 1)) - 1, result, first)) {
      const std::int64_t row = places.down.under(place[rank - 3], at[0]);
      const std::int64_t column = places.across.under(place[rank - 2], at[1]);
      if (!places.down.is_inside(row) || !places.across.is_inside(column)) continue;
      uses.push_back(cells.input(0, at_place(place, row, column, in)) * cells.gradient(place));
    }
    return Formula::sum(std::move(uses));
  }

  bool has_bias_;
  bool has_table_;
  std::int64_t stride_;
  Padding padding_;
};

/// What a pooling makes of the numbers under its window.
enum class Pooled { largest, mean };

template <Pooled pooled>
class Pooling final : public Operation {
 public:
  explicit Pooling(const Window& window) : window_(window) {}

  [[nodiscard]] std::string_view name() const override {
    return is_largest ? "max pooling" : "mean pooling";
  }
  [[nodiscard]] OperationNature nature() const override { return {.goes_by_axis = true}; }

  /// Where windows stand apart, each number of the picture gets one that arrives.
  [[nodiscard]] Passing passing(std::size_t) const override {
    const bool stand_apart = window_.stride >= std::max(window_.rows, window_.columns);
    return {.kind = stand_apart ? Passing::Kind::shared_out : Passing::Kind::mixed};
  }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& x = inputs.shape(0);
    const WindowPlaces places = places_in(name(), inputs, window_);
    return places_shape(places, x, x[x.rank() - 1]);
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape& shape) const override {
    const WindowPlaces places = places_of(window_, inputs.shape(0));
    return is_largest ? kernels::largest_under(inputs[0], places, shape)
                      : kernels::mean_under(inputs[0], places, shape);
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    const Tensor& x = step.inputs[0];
    const WindowPlaces places = places_of(window_, x.shape());
    return is_largest ? kernels::to_largest_under(x, step.result, step.gradient, places)
                      : kernels::from_mean_under(step.gradient, places, x.shape());
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const std::vector<Formula> numbers = gathered(cells, at);
    if constexpr (is_largest) return Formula::largest(numbers);
    return Formula::sum(numbers) / static_cast<double>(numbers.size());
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const int rank = at.rank();
    const WindowPlaces places = places_of(window_, cells.shape(0));
    std::vector<Formula> uses;
    each_window_over(places, at[rank - 3], at[rank - 2],
                     [&](std::int64_t down, std::int64_t across, std::int64_t, std::int64_t) {
                       const Index use = at_place(at, down, across, at[rank - 1]);
                       uses.push_back(is_largest ? if_first(cells, at, use)
                                                 : cells.gradient(use) / of_window(places, use));
                     });
    return Formula::sum(std::move(uses));
  }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    return fmt::format("{}({}; {})", is_largest ? "max_pooling" : "mean_pooling", symbols.inputs[0],
                       how());
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    if constexpr (is_largest) {
      return fmt::format("∂{} where {} is the first largest, 0 elsewhere", symbols.result,
                         symbols.inputs[0]);
    }
    return fmt::format("∂{} dealt out over {} × {}", symbols.result, window_.rows, window_.columns);
  }

 private:
  static constexpr bool is_largest = pooled == Pooled::largest;

  [[nodiscard]] std::string how() const {
    const std::string more = in_words(window_.stride, window_.padding);
    return fmt::format("{} × {}{}{}", window_.rows, window_.columns, more.empty() ? "" : ", ",
                       more);
  }

  [[nodiscard]] static double of_window(const WindowPlaces& places, const Index& use) {
    const auto extent = [](const WindowAxis& axis, std::int64_t place) {
      return axis.end(place) - axis.first(place);
    };
    return static_cast<double>(extent(places.down, use[use.rank() - 3]) *
                               extent(places.across, use[use.rank() - 2]));
  }

  /// The places of the picture under a window.
  [[nodiscard]] std::vector<Index> under(const Cells& cells, const Index& at) const {
    const int rank = at.rank();
    const auto [down, across] = places_of(window_, cells.shape(0));
    const std::int64_t row_place = at[rank - 3];
    const std::int64_t column_place = at[rank - 2];
    std::vector<Index> all;
    for (std::int64_t row = down.first(row_place); row < down.end(row_place); ++row) {
      for (std::int64_t column = across.first(column_place); column < across.end(column_place);
           ++column) {
        all.push_back(at_place(at, down.under(row_place, row), across.under(column_place, column),
                               at[rank - 1]));
      }
    }
    return all;
  }

  [[nodiscard]] std::vector<Formula> gathered(const Cells& cells, const Index& at) const {
    std::vector<Formula> numbers;
    for (const Index& place : under(cells, at))
      numbers.push_back(cells.input(0, place));
    return numbers;
  }

  /// The gradient of a place, for a number that is the first largest there; else 0.
  [[nodiscard]] Formula if_first(const Cells& cells, const Index& at, const Index& use) const {
    const std::vector<Index> places = under(cells, use);
    if (places.size() == 1) return cells.gradient(use);
    const Formula first =
        cells.in_common(0, use, [&] { return Formula::function("argmax", gathered(cells, use)); });
    const auto position = std::ranges::find(places, at) - places.begin();
    return where(first == Formula(static_cast<double>(position)), cells.gradient(use),
                 Formula(0.0));
  }

  Window window_;
};

/// A kernel that does not say what its axes stand for, and its bias, are told.
void take_roles(const Line& kernel, const ConvolutionSettings<Line>& settings) {
  const auto says_nothing = [](const Line& line) {
    for (int axis = 0; axis < line.shape().rank(); ++axis) {
      if (line.shape().role(axis) != Role::none) return false;
    }
    return is_weight(line.kind());
  };
  if (says_nothing(kernel) && kernel.shape().rank() == (settings.table ? 3 : 4)) {
    labelled(0, Role::row, kernel);
    labelled(1, Role::column, kernel);
    for (int axis = 2; !settings.table && axis < 4; ++axis)
      labelled(axis, Role::channel, kernel);
  }
  if (settings.bias && says_nothing(*settings.bias) && settings.bias->shape().rank() == 1)
    labelled(0, Role::channel, *settings.bias);
}
void take_roles(const Tensor&, const ConvolutionSettings<Tensor>&) {}

}  // namespace

template <Operand X>
X convolution(const X& x, const X& kernel, const ConvolutionSettingsFor<X>& settings) {
  take_roles(kernel, settings);
  if (settings.form != Form::one_line && settings.bias && !settings.table) {
    ConvolutionSettings<X> alone = settings;
    alone.bias = std::nullopt;
    return convolution<X>(x, kernel, alone) + *settings.bias;
  }
  std::vector<X> inputs = {x, kernel};
  if (settings.bias) inputs.push_back(*settings.bias);
  if (settings.table) inputs.push_back(*settings.table);
  return apply_to_all(Convolution(settings.bias.has_value(), settings.table.has_value(),
                                  settings.stride, settings.padding),
                      std::span<const X>(inputs));
}

template <Operand X>
X max_pooling(const X& x, const Window& window) {
  return apply(Pooling<Pooled::largest>(window), x);
}

template <Operand X>
X mean_pooling(const X& x, const Window& window) {
  return apply(Pooling<Pooled::mean>(window), x);
}

template Line convolution(const Line&, const Line&, const ConvolutionSettings<Line>&);
template Tensor convolution(const Tensor&, const Tensor&, const ConvolutionSettings<Tensor>&);
template Line max_pooling(const Line&, const Window&);
template Tensor max_pooling(const Tensor&, const Window&);
template Line mean_pooling(const Line&, const Window&);
template Tensor mean_pooling(const Tensor&, const Window&);

}  // namespace lattice
