#include "pictures/sheet_functions.hpp"

#include <optional>
#include <type_traits>

#include "lattice/pictures/contrast_operation.hpp"
#include "lattice/pictures/moving_operation.hpp"
#include "lattice/pictures/window_operations.hpp"

namespace lattice {
namespace {

constexpr std::string_view expected = "stride 2, padding 1, or keeping size";

/// Takes a setting of all windows, where one comes next.
bool takes_window_setting(SheetCall& call, std::int64_t& stride, Padding& padding) {
  if (call.takes("stride")) {
    stride = call.take_whole("the stride", 1);
  } else if (call.takes("padding")) {
    padding = Padding::of(call.take_whole("the padding", 0));
  } else if (call.takes("keeping size")) {
    padding = Padding::keeping_size();
  } else {
    return false;
  }
  return true;
}

SheetValue call_convolution(SheetCall& call) {
  std::optional<std::size_t> bias;
  std::optional<std::size_t> table;
  std::int64_t stride = 1;
  Padding padding = Padding::none();
  while (call.has_setting()) {
    if (call.takes("bias")) {
      bias = call.take_argument();
    } else if (call.takes("table")) {
      table = call.take_argument();
    } else if (!takes_window_setting(call, stride, padding)) {
      call.refuse_setting("bias and a line, table and a line, " + std::string(expected));
    }
  }
  return call.of_all([&](const auto& x) {
    using X = std::decay_t<decltype(x[0])>;
    ConvolutionSettings<X> settings{.stride = stride, .padding = padding};
    if (bias) settings.bias = x[*bias];
    if (table) settings.table = x[*table];
    return convolution(x[0], x[1], settings);
  });
}

template <class Pooling>
SheetFunction pooling(const std::string& name, Pooling pool) {
  std::string form = name + "(x; 2 × 2, stride 2)";
  return {.name = name, .form = std::move(form), .carry_out = [pool](SheetCall& call) {
            Window window;
            window.rows = call.take_whole("the rows of the window", 1);
            window.columns = window.rows;
            if (call.takes("×")) window.columns = call.take_whole("its columns", 1);
            while (call.has_setting()) {
              if (!takes_window_setting(call, window.stride, window.padding))
                call.refuse_setting(std::string(expected));
            }
            return call.of_all([&](const auto& x) { return pool(x[0], window); });
          }};
}

SheetValue call_augmented(SheetCall& call) {
  Around around = Around::edge();
  if (call.takes("around")) around = Around::of(call.take_number("what lies around a picture"));
  return call.of_all([&](const auto& x) { return augmented(x[0], x[1], around); });
}

SheetValue call_mean_around(SheetCall& call) {
  const std::int64_t size = call.take_whole("the size of the window", 1);
  return call.of_all([&](const auto& x) { return mean_around(x[0], size); });
}

}  // namespace

std::vector<SheetFunction> picture_functions() {
  return {{.name = "convolution",
           .fewest = 2,
           .most = 2,
           .form = "convolution(x, kernel; bias b, stride 2, padding 1)",
           .carry_out = call_convolution},
          pooling("max_pooling",
                  [](const auto& x, const Window& window) { return max_pooling(x, window); }),
          pooling("mean_pooling",
                  [](const auto& x, const Window& window) { return mean_pooling(x, window); }),
          {.name = "mean_around", .form = "mean_around(x; 3)", .carry_out = call_mean_around},
          {.name = "augmented",
           .fewest = 2,
           .most = 2,
           .form = "augmented(x, moves; around 0)",
           .carry_out = call_augmented}};
}

}  // namespace lattice
