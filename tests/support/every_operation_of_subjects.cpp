#include "lattice/lattice.hpp"
#include "support/every_operation.hpp"

namespace lattice::testing {
namespace {

using Lines = const std::vector<Line>&;

// Pictures

/// What is drawn for a window: how it goes over pictures, and a few of them that are large enough.
struct DrawnWindow {
  Window window;
  Shape pictures;
};
DrawnWindow a_window(Draw& draw) {
  Window window{.rows = draw.whole(1, 3), .columns = draw.whole(1, 3), .stride = draw.whole(1, 3)};
  const std::int64_t narrow = std::min(window.rows, window.columns);
  switch (draw.whole(0, 2)) {
    case 0:
      window.padding = Padding::keeping_size();
      break;
    case 1:
      window.padding = Padding::of(draw.whole(0, static_cast<int>(narrow) - 1));
      break;
    default:
      break;
  }
  return {window, Shape{draw.whole(1, 2), window.rows + draw.whole(0, 3),
                        window.columns + draw.whole(0, 3), draw.whole(1, 3)}};
}
/// A window as numbers, and back.
Tensor as_numbers(Draw& draw, const Window& window) {
  const double padding =
      window.padding.keeps_size() ? -1.0 : static_cast<double>(window.padding.width());
  return tensor({static_cast<double>(window.rows), static_cast<double>(window.columns),
                 static_cast<double>(window.stride), padding},
                draw.precision());
}
Window window_of(const Line& numbers) {
  const auto number = [&](std::int64_t at) {
    return static_cast<std::int64_t>(numbers.value().at({at}));
  };
  return {.rows = number(0),
          .columns = number(1),
          .stride = number(2),
          .padding = number(3) < 0 ? Padding::keeping_size() : Padding::of(number(3))};
}

ConvolutionSettings<Line> as_drawn(const Line& window) {
  return {.stride = window_of(window).stride, .padding = window_of(window).padding};
}

/// Pictures and a kernel, a bias, and a window in the numbers of a last tensor: operations have
/// only their inputs to go by.
std::vector<Tensor> convolved(Draw& draw) {
  const auto [window, pictures] = a_window(draw);
  const std::int64_t outputs = draw.whole(1, 3);
  return {draw.numbers(pictures), draw.numbers({window.rows, window.columns, pictures[3], outputs}),
          draw.numbers({outputs}), as_numbers(draw, window)};
}

/// The same with a table of connections in front of the window.
std::vector<Tensor> convolved_by_table(Draw& draw) {
  const auto [window, pictures] = a_window(draw);
  const std::int64_t outputs = draw.whole(1, 3);
  const std::int64_t connections = draw.whole(1, 4);
  const Tensor table =
      join({draw.wholes({connections, 1}, pictures[3]), draw.wholes({connections, 1}, outputs)}, 1);
  return {draw.numbers(pictures), draw.numbers({window.rows, window.columns, connections}),
          draw.numbers({outputs}), table, as_numbers(draw, window)};
}

/// Pictures and a window.
std::vector<Tensor> pooled(Draw& draw) {
  const auto [window, pictures] = a_window(draw);
  return {draw.numbers(pictures), as_numbers(draw, window)};
}

/// Pictures of 5 to 7 rows and columns.
std::vector<Tensor> pictures_of_five(Draw& draw) {
  return {draw.numbers({draw.whole(1, 2), draw.whole(5, 7), draw.whole(5, 7), draw.whole(1, 2)})};
}

/// Pictures, and a move for each.
std::vector<Tensor> to_move(Draw& draw) {
  const Tensor pictures = draw.numbers(draw.shape(4));
  std::vector<PictureMove> moves(static_cast<std::size_t>(pictures.shape()[0]));
  for (PictureMove& move : moves) {
    move = {.flips_across = draw.whole(0, 1) == 1,
            .flips_down = draw.whole(0, 1) == 1,
            .degrees = draw.whole(0, 1) == 0 ? 0.0 : 10.0 * draw.whole(-17, 17),
            .down = draw.whole(-2, 2),
            .right = draw.whole(-2, 2),
            .brightness = draw.whole(0, 1) == 0 ? 1.0 : 0.5 + 0.2 * draw.whole(0, 4)};
  }
  return {pictures, as_tensor(moves, draw.precision())};
}

std::vector<OperationCase> of_pictures() {
  return {
      {"convolution", convolved, [](Lines x) { return convolution(x[0], x[1], as_drawn(x[3])); },
       2},
      {"convolution with bias", convolved,
       [](Lines x) {
         ConvolutionSettings<Line> settings = as_drawn(x[3]);
         settings.bias = x[2];
         return convolution(x[0], x[1], settings);
       },
       3},
      {"convolution by table", convolved_by_table,
       [](Lines x) {
         ConvolutionSettings<Line> settings = as_drawn(x[4]);
         settings.table = x[3];
         return convolution(x[0], x[1], settings);
       },
       2},
      {"convolution by table with bias", convolved_by_table,
       [](Lines x) {
         ConvolutionSettings<Line> settings = as_drawn(x[4]);
         settings.bias = x[2];
         settings.table = x[3];
         return convolution(x[0], x[1], settings);
       },
       3},
      {"convolution of one picture",
       [](Draw& draw) -> std::vector<Tensor> {
         return {draw.numbers({4, 5, 2}), draw.numbers({2, 3, 2, 3})};
       },
       [](Lines x) { return convolution(x[0], x[1], {.stride = 2, .padding = Padding::of(1)}); }},
      {"mean around", pictures_of_five, [](Lines x) { return mean_around(x[0], 3); }},
      {"augmented", to_move, [](Lines x) { return augmented(x[0], x[1]); }, 1},
      {"augmented into a number", to_move,
       [](Lines x) { return augmented(x[0], x[1], Around::of(0.7)); }, 1},
      {"max pooling", pooled, [](Lines x) { return max_pooling(x[0], window_of(x[1])); }, 1},
      {"mean pooling", pooled, [](Lines x) { return mean_pooling(x[0], window_of(x[1])); }, 1},
  };
}

// Graphs

std::vector<Tensor> one_square(Draw& draw) {
  const std::int64_t extent = draw.whole(1, 5);
  return {draw.numbers({extent, extent})};
}

/// A matrix, and a number for each of its rows and of its columns.
template <bool is_sparse>
std::vector<Tensor> to_scale_both(Draw& draw) {
  const Shape shape = draw.shape(2);
  return {is_sparse ? sparse_of(draw, shape) : draw.numbers(shape), draw.numbers({shape[0]}),
          draw.numbers({shape[1]})};
}

std::vector<OperationCase> of_graphs() {
  return {
      {"with loops", one_square, [](Lines x) { return with_loops(x[0]); }},
      {"with loops, sparse", one_sparse_square, [](Lines x) { return with_loops(x[0]); }},
      {"scale both", to_scale_both<false>, [](Lines x) { return scale_both(x[0], x[1], x[2]); }},
      {"scale both, sparse", to_scale_both<true>,
       [](Lines x) { return scale_both(x[0], x[1], x[2]); }},
  };
}

}  // namespace

const std::vector<OperationCase>& operations_of_subjects() {
  static const std::vector<OperationCase> cases = [] {
    std::vector<OperationCase> all = of_pictures();
    for (const OperationCase& each : of_graphs())
      all.push_back(each);
    return all;
  }();
  return cases;
}

}  // namespace lattice::testing
