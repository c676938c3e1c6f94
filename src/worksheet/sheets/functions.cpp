#include <fmt/format.h>

#include <cmath>
#include <type_traits>
#include <utility>

#include "lattice/tensor/sparse.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/choosing.hpp"
#include "lattice/worksheet/operations/losses.hpp"
#include "lattice/worksheet/operations/normalising.hpp"
#include "lattice/worksheet/operations/products.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "lattice/worksheet/sheet_functions.hpp"
#include "worksheet/operations/by_example.hpp"
#include "worksheet/operations/of_itself.hpp"

namespace lattice::sheets {
namespace {

template <class F>
SheetFunction of_two(const std::string& name, F function) {
  std::string form = name + "(a, b)";
  return {.name = name,
          .fewest = 2,
          .most = 2,
          .form = std::move(form),
          .carry_out = [function](SheetCall& call) {
            return call.of_all([&](const auto& x) { return function(x[0], x[1]); });
          }};
}

/// Of two, one of which may be a plain number.
template <class F>
SheetFunction of_pair(const std::string& name, F function) {
  std::string form = name + "(a, b)";
  return {.name = name,
          .fewest = 2,
          .most = 2,
          .form = std::move(form),
          .carry_out = [function](SheetCall& call) { return call.of_pair(function); }};
}

/// The way a calculation is written: in one line, if nothing else is said.
std::optional<Form> takes_form(SheetCall& call) {
  for (const auto& [form, word] : form_words) {
    if (form != Form::patched && call.takes(word)) return form;
  }
  return std::nullopt;
}

constexpr std::string_view axes_expected = "an axis, such as axis 0 or class, or kept";

Along take_along(SheetCall& call) {
  Along along;
  const Shape shape = call.shape(0);
  while (call.has_setting()) {
    if (call.takes("kept")) {
      along.keep = true;
    } else if (const std::optional<int> axis = call.takes_axis(shape)) {
      along.axes.push_back(*axis);
    } else {
      call.refuse_setting(std::string(axes_expected));
    }
  }
  return along;
}

template <class F>
SheetFunction along(const std::string& name, F function) {
  std::string form = name + "(x; axis 0, kept)";
  return {.name = name, .form = std::move(form), .carry_out = [function](SheetCall& call) {
            const Along along = take_along(call);
            return call.of_all([&](const auto& x) { return function(x[0], along); });
          }};
}

/// The mean by rows that count more or less, in primitive lines.
template <class X>
X weighted_mean(const X& values, const X& row_weights) {
  const Shape& shape = values.shape();
  const X total = sum(values * beside_examples(row_weights, shape)) / sum(row_weights);
  const std::int64_t width = shape.count() / shape[axis_of_examples(shape)];
  return width == 1 ? total : total / static_cast<double>(width);
}

SheetFunction mean_function() {
  return {.name = "mean",
          .form = "mean(x; axis 0, kept), or mean(x; weighted by w)",
          .carry_out = [](SheetCall& call) -> SheetValue {
            if (call.takes("weighted by")) {
              const std::size_t weights = call.take_argument();
              return call.of_all([&](const auto& x) { return weighted_mean(x[0], x[weights]); });
            }
            const Along along = take_along(call);
            return call.of_all([&](const auto& x) { return mean(x[0], along); });
          }};
}

template <class F>
SheetFunction across(const std::string& name, F function) {
  std::string form = name + "(x; axis 1)";
  return {.name = name, .form = std::move(form), .carry_out = [function](SheetCall& call) {
            int axis = across_classes;
            Form how = Form::one_line;
            const Shape shape = call.shape(0);
            while (call.has_setting()) {
              if (const std::optional<int> taken = call.takes_axis(shape)) {
                axis = *taken;
              } else if (const std::optional<Form> written = takes_form(call)) {
                how = *written;
              } else {
                call.refuse_setting("an axis, such as axis 1 or class, written out, or naive");
              }
            }
            return call.of_all([&](const auto& x) { return function(x[0], axis, how); });
          }};
}

template <class F>
SheetFunction loss(const std::string& name, F function) {
  std::string form = name + "(z, y; weighted by w)";
  return {.name = name,
          .fewest = 2,
          .most = 2,
          .form = std::move(form),
          .carry_out = [function](SheetCall& call) {
            std::optional<std::size_t> weights;
            Form how = Form::one_line;
            while (call.has_setting()) {
              if (call.takes("weighted by")) {
                weights = call.take_argument();
              } else if (const std::optional<Form> written = takes_form(call)) {
                how = *written;
              } else {
                call.refuse_setting("weighted by and a line, written out, or naive");
              }
            }
            return call.of_all([&](const auto& x) {
              using X = std::decay_t<decltype(x[0])>;
              LossSettings<X> settings{.form = how};
              if (weights) settings.row_weights = x[*weights];
              return function(x[0], x[1], settings);
            });
          }};
}

/// A function of x and a plain number, which is its setting.
template <class F>
SheetFunction with_number(const std::string& name, const std::string& what, double usual,
                          F function) {
  std::string form = fmt::format("{}(x; {})", name, usual);
  return {
      .name = name, .form = std::move(form), .carry_out = [function, what, usual](SheetCall& call) {
        const double number = call.has_setting() ? call.take_number(what) : usual;
        return call.of_all([&](const auto& x) { return function(x[0], number); });
      }};
}

int take_axis(SheetCall& call) {
  const std::optional<int> axis = call.takes_axis(call.shape(0));
  if (!axis) call.refuse_setting("an axis, such as axis 0 or class");
  return *axis;
}

double numbers_in(const SheetCall& call) {
  return static_cast<double>(call.shape(0).count());
}

SheetValue call_matmul(SheetCall& call) {
  Transpose transpose;
  while (call.has_setting()) {
    if (call.takes("first transposed")) {
      transpose.first = true;
    } else if (call.takes("second transposed")) {
      transpose.second = true;
    } else {
      call.refuse_setting("first transposed, or second transposed");
    }
  }
  return call.of_all([&](const auto& x) { return matmul(x[0], x[1], transpose); });
}

SheetValue call_permute(SheetCall& call) {
  std::vector<int> axes;
  static_cast<void>(call.takes("axes"));
  while (call.has_setting())
    axes.push_back(static_cast<int>(call.take_whole("an axis", 0)));
  return call.of_all([&](const auto& x) { return permute(x[0], std::span<const int>(axes)); });
}

SheetValue call_slice(SheetCall& call) {
  const int axis = take_axis(call);
  static_cast<void>(call.takes(":"));
  Range range;
  range.from = call.take_whole("the first place", 0);
  range.end = range.from + 1;
  if (call.takes("to")) range.end = call.take_whole("the last place", range.from) + 1;
  if (call.takes("by")) range.step = call.take_whole("the step", 1);
  return call.of_all([&](const auto& x) { return slice(x[0], axis, range); });
}

SheetValue call_join(SheetCall& call) {
  const int axis = take_axis(call);
  return call.of_all([&](const auto& x) { return join(x, axis); });
}

SheetValue call_pad(SheetCall& call) {
  const int axis = take_axis(call);
  static_cast<void>(call.takes(":"));
  PadWidth width;
  while (call.has_setting()) {
    if (call.takes("with")) {
      width.number = call.take_number("what is put there");
      continue;
    }
    const std::int64_t places = call.take_whole("how many places are added", 0);
    if (call.takes("before")) {
      width.before = places;
    } else if (call.takes("after")) {
      width.after = places;
    } else {
      call.refuse_setting("before, or after");
    }
  }
  call.check_count(numbers_in(call) * static_cast<double>(1 + width.before + width.after));
  return call.of_all([&](const auto& x) { return pad(x[0], axis, width); });
}

SheetValue call_repeat(SheetCall& call) {
  const int axis = take_axis(call);
  static_cast<void>(call.takes(":"));
  const std::int64_t times = call.take_whole("how often", 1);
  call.check_count(numbers_in(call) * static_cast<double>(times));
  static_cast<void>(call.takes("times"));
  return call.of_all([&](const auto& x) { return repeat(x[0], axis, times); });
}

SheetValue call_one_hot(SheetCall& call) {
  const std::int64_t count = call.take_whole("the number of classes", 1);
  static_cast<void>(call.takes("classes"));
  int axis = last_axis;
  if (call.has_setting()) {
    if (!call.takes("axis")) call.refuse_setting("an axis of the result, such as axis 0");
    axis = static_cast<int>(call.take_whole("the axis", 0));
  }
  call.check_count(numbers_in(call) * static_cast<double>(count));
  return call.of_all([&](const auto& x) { return one_hot(x[0], count, axis); });
}

SheetValue call_normalised(SheetCall& call) {
  NormalisationSettings settings;
  Along own;
  const Shape shape = call.shape(0);
  while (call.has_setting()) {
    if (call.takes("epsilon")) {
      settings.epsilon = call.take_number("epsilon");
    } else if (call.takes("written out")) {
      settings.form = Form::written_out;
    } else if (call.takes("of itself along") || !own.axes.empty()) {
      const std::optional<int> axis = call.takes_axis(shape);
      if (!axis) call.refuse_setting("an axis, such as axis 0");
      own.axes.push_back(*axis);
    } else {
      call.refuse_setting("epsilon and a number, written out, or of itself along and axes");
    }
  }
  return call.of_all([&](const auto& x) {
    return own.axes.empty() ? normalised(x[0], x[1], x[2], x[3], x[4], settings)
                            : normalised_of_itself(x[0], x[1], x[2], x[3], x[4], own, settings);
  });
}

SheetValue call_clip(SheetCall& call) {
  const double low = call.take_number("the lower limit");
  if (!call.has_setting()) call.refuse_setting("two limits: clip(x; 0, 1)");
  const double high = call.take_number("the upper limit");
  return call.of_all([&](const auto& x) { return clip(x[0], low, high); });
}

/// A power with a plain exponent is another operation than one of two tensors.
SheetValue call_power(SheetCall& call) {
  if (const auto* const exponent = std::get_if<double>(&call.argument(1))) {
    return call.of_first([&](const auto& x) { return power(x, *exponent); });
  }
  return call.of_pair([](const auto& a, const auto& b) { return power(a, b); });
}

template <class Make>
SheetFunction numbers(const std::string& name, const std::string& settings, Make make) {
  std::string form = fmt::format("{}(3, 2{})", name, settings);
  return {.name = name,
          .fewest = 0,
          .most = static_cast<std::size_t>(max_rank),
          .form = std::move(form),
          .carry_out = [make](SheetCall& call) -> SheetValue { return make(call); }};
}

double take(SheetCall& call, std::string_view what) {
  if (!call.has_setting()) call.refuse_setting(fmt::format("{}", what));
  return call.take_number(what);
}

SheetValue call_sparse(SheetCall& call) {
  std::vector<MatrixEntry> entries;
  const Shape shape = call.as_extents();
  while (call.has_setting()) {
    MatrixEntry entry;
    entry.row = call.take_whole("a row", 0);
    entry.column = call.take_whole("a column", 0);
    entry.number = call.take_number("the number there");
    entries.push_back(entry);
  }
  return sparse_matrix(shape, entries, call.precision());
}

/// As of a weight of so many inputs and outputs.
double spread_of(const Shape& shape, bool is_he) {
  if (shape.rank() != 2) {
    throw ShapeError({.what = "this start is for a matrix of weights",
                      .expected = "inputs and outputs: xavier(5, 8)",
                      .found = to_string(shape)});
  }
  const auto inputs = static_cast<double>(shape[0]);
  return std::sqrt(2.0 / (is_he ? inputs : inputs + static_cast<double>(shape[1])));
}

std::vector<SheetFunction> own_functions() {
  std::vector<SheetFunction> all = {
      sheet_function("exp", [](const auto& x) { return exp(x); }),
      sheet_function("log", [](const auto& x) { return log(x); }),
      sheet_function("sqrt", [](const auto& x) { return sqrt(x); }),
      sheet_function("inverse_root", [](const auto& x) { return inverse_root(x); }),
      sheet_function("square", [](const auto& x) { return square(x); }),
      sheet_function("abs", [](const auto& x) { return abs(x); }),
      sheet_function("tanh", [](const auto& x) { return tanh(x); }),
      sheet_function("relu", [](const auto& x) { return relu(x); }),
      sheet_function("softplus", [](const auto& x) { return softplus(x); }),
      sheet_function("transpose", [](const auto& x) { return transpose(x); }),
      sheet_function("flatten", [](const auto& x) { return flatten(x); }),
      {.name = "sigmoid",
       .form = "sigmoid(x), or sigmoid(x; naive)",
       .carry_out =
           [](SheetCall& call) {
             const Form form = takes_form(call).value_or(Form::one_line);
             return call.of_all([&](const auto& x) { return sigmoid(x[0], form); });
           }},
      with_number("leaky_relu", "the leak", 0.01,
                  [](const auto& x, double leak) { return leaky_relu(x, leak); }),
      with_number("elu", "alpha", 1.0, [](const auto& x, double alpha) { return elu(x, alpha); }),
      {.name = "clip", .form = "clip(x; 0, 1)", .carry_out = call_clip},
      {.name = "power", .fewest = 2, .most = 2, .form = "power(a, b)", .carry_out = call_power},
      of_pair("above", [](const auto& a, const auto& b) { return above(a, b); }),
      of_pair("below", [](const auto& a, const auto& b) { return below(a, b); }),
      of_pair("at_least", [](const auto& a, const auto& b) { return at_least(a, b); }),
      of_pair("at_most", [](const auto& a, const auto& b) { return at_most(a, b); }),
      of_pair("equal", [](const auto& a, const auto& b) { return equal(a, b); }),
      of_pair("maximum", [](const auto& a, const auto& b) { return maximum(a, b); }),
      of_pair("minimum", [](const auto& a, const auto& b) { return minimum(a, b); }),
      of_pair("max", [](const auto& a, const auto& b) { return maximum(a, b); }),
      of_pair("min", [](const auto& a, const auto& b) { return minimum(a, b); }),
      along("max", [](const auto& x, const Along& axes) { return max(x, axes); }),
      along("min", [](const auto& x, const Along& axes) { return min(x, axes); }),
      along("sum", [](const auto& x, const Along& axes) { return sum(x, axes); }),
      along("variance", [](const auto& x, const Along& axes) { return variance(x, axes); }),
      along("log_sum_exp", [](const auto& x, const Along& axes) { return log_sum_exp(x, axes); }),
      mean_function(),
      across("softmax", [](const auto& x, int axis, Form form) { return softmax(x, axis, form); }),
      across("log_softmax",
             [](const auto& x, int axis, Form form) { return log_softmax(x, axis, form); }),
      across("argmax", [](const auto& x, int axis, Form) { return argmax(x, axis); }),
      {.name = "matmul",
       .fewest = 2,
       .most = 2,
       .form = "matmul(a, b; second transposed)",
       .carry_out = call_matmul},
      {.name = "dense",
       .fewest = 3,
       .most = 3,
       .form = "dense(x, W, b)",
       .carry_out =
           [](SheetCall& call) {
             return call.of_all([](const auto& x) { return dense(x[0], x[1], x[2]); });
           }},
      {.name = "reshape",
       .form = "reshape(x; row 3 × column 4)",
       .carry_out =
           [](SheetCall& call) {
             const Shape shape = call.take_shape();
             return call.of_all([&](const auto& x) { return reshape(x[0], shape); });
           }},
      {.name = "permute", .form = "permute(x; axes 1, 0)", .carry_out = call_permute},
      {.name = "slice", .form = "slice(x; axis 1: 2 to 5 by 1)", .carry_out = call_slice},
      {.name = "join", .most = 100, .form = "join(a, b; axis 1)", .carry_out = call_join},
      {.name = "pad", .form = "pad(x; axis 1: 0 before, 1 after, with 1)", .carry_out = call_pad},
      {.name = "repeat", .form = "repeat(x; axis 1: 3 times)", .carry_out = call_repeat},
      of_two("at_class", [](const auto& x, const auto& classes) { return at_class(x, classes); }),
      of_two("gather_rows", [](const auto& x, const auto& rows) { return gather_rows(x, rows); }),
      {.name = "one_hot", .form = "one_hot(y; 4 classes)", .carry_out = call_one_hot},
      loss("mean_squared",
           [](const auto& z, const auto& y, const auto& how) { return mean_squared(z, y, how); }),
      loss("half_mean_squared", [](const auto& z, const auto& y,
                                   const auto& how) { return half_mean_squared(z, y, how); }),
      loss("binary_cross_entropy", [](const auto& z, const auto& y,
                                      const auto& how) { return binary_cross_entropy(z, y, how); }),
      loss("cross_entropy",
           [](const auto& z, const auto& y, const auto& how) { return cross_entropy(z, y, how); }),
      with_number("l2_term", "the strength", 0.001,
                  [](const auto& W, double strength) { return l2_term(W, strength); }),
      {.name = "normalised",
       .fewest = 5,
       .most = 5,
       .form = "normalised(x, mean, variance, scale, shift; epsilon 1e-5)",
       .carry_out = call_normalised},
  };
  const std::vector<SheetFunction> starts = {
      numbers("zeros", "",
              [](SheetCall& call) { return zeros(call.as_extents(), call.precision()); }),
      numbers("ones", "",
              [](SheetCall& call) { return ones(call.as_extents(), call.precision()); }),
      numbers("constant", "; 0.5",
              [](SheetCall& call) {
                return constant(call.as_extents(), take(call, "the number"), call.precision());
              }),
      numbers("uniform", "; -1, 1",
              [](SheetCall& call) {
                const double low = take(call, "the lowest number");
                const double high = take(call, "the highest number");
                return uniform(call.as_extents(), low, high, call.random(), call.precision());
              }),
      numbers("normal", "; 0, 0.1",
              [](SheetCall& call) {
                const double mean = take(call, "the mean");
                const double spread = take(call, "the standard deviation");
                return normal(call.as_extents(), mean, spread, call.random(), call.precision());
              }),
      numbers("xavier", "",
              [](SheetCall& call) {
                const Shape shape = call.as_extents();
                return normal(shape, 0.0, spread_of(shape, false), call.random(), call.precision());
              }),
      numbers("he", "",
              [](SheetCall& call) {
                const Shape shape = call.as_extents();
                return normal(shape, 0.0, spread_of(shape, true), call.random(), call.precision());
              }),
      numbers("evenly_spaced", "; 0, 1",
              [](SheetCall& call) {
                const double first = take(call, "the first number");
                const double last = take(call, "the last number");
                const Shape shape = call.as_extents();
                return reshape(evenly_spaced(first, last, shape.count(), call.precision()), shape);
              }),
      {.name = "identity",
       .form = "identity(4)",
       .carry_out = [](SheetCall& call) -> SheetValue {
         const std::int64_t size = call.as_extents()[0];
         call.check_count(static_cast<double>(size) * static_cast<double>(size));
         return identity(size, call.precision());
       }},
      {.name = "sparse",
       .fewest = 2,
       .most = 2,
       .form = "sparse(4, 4; 0 1 0.5, 1 0 0.5)",
       .carry_out = call_sparse},
  };
  all.insert(all.end(), starts.begin(), starts.end());
  return all;
}

std::vector<SheetFunction>& known() {
  static std::vector<SheetFunction> all = own_functions();
  return all;
}

}  // namespace
}  // namespace lattice::sheets

namespace lattice {

std::span<const SheetFunction> sheet_functions() {
  return sheets::known();
}

void add_sheet_functions(std::span<const SheetFunction> functions) {
  sheets::known().insert(sheets::known().end(), functions.begin(), functions.end());
}

}  // namespace lattice
