#include <algorithm>
#include <array>
#include <utility>
#include <vector>

#include "pictures/channel_blocks.hpp"
#include "pictures/framed.hpp"
#include "pictures/window_kernels.hpp"
#include "tensor/parallel.hpp"
#include "tensor/visit.hpp"

/// Nothing is laid out patch by patch: where channels lie side by side, a row of a window is a run
/// of numbers of the picture, and neighbouring windows are runs that overlap. A few neighbours are
/// worked at a time, with their sums in registers.
namespace lattice::kernels {
namespace {

/// Sums of a window over one picture, for all its places.
struct Correlation {
  std::int64_t rows = 1;  ///< of places
  std::int64_t columns = 1;
  std::int64_t window_rows = 1;
  std::int64_t run = 1;         ///< numbers in a row of the window
  std::int64_t row_step = 1;    ///< of the picture, from one of its rows to the next
  std::int64_t place_down = 1;  ///< from one row of places to the next
  std::int64_t place_across = 1;
  std::int64_t to_down = 1;  ///< the same of what comes out
  std::int64_t to_across = 1;
};

/// Places beside each other, as many as there are numbers i.
template <int lanes, class T, std::size_t... i>
void correlate_some(std::index_sequence<i...>, const Correlation& of, const T* from, const T* panel,
                    const T* start, std::int64_t live, T* to) {
  const std::int64_t across = of.place_across;
  const std::int64_t to_across = of.to_across;
  std::array<Wide<T, lanes>, sizeof...(i)> sums;
  (sums[i].load(start), ...);
  for (std::int64_t row = 0; row < of.window_rows; ++row) {
    const T* run = from + row * of.row_step;
    for (const T* const end = run + of.run; run != end; ++run, panel += lanes) {
      Wide<T, lanes> weights;
      weights.load(panel);
      (sums[i].add_product(run[static_cast<std::int64_t>(i) * across], weights), ...);
    }
  }
  if (live == lanes) {
    (sums[i].store(to + static_cast<std::int64_t>(i) * to_across), ...);
  } else {
    (std::memcpy(to + static_cast<std::int64_t>(i) * to_across, &sums[i],
                 static_cast<std::size_t>(live) * sizeof(T)),
     ...);
  }
}

/// @param start what each channel's sum starts from, with room for all lanes
template <class T>
void correlate(const Correlation& of, const T* from, const Panels<T>& panels, const T* start,
               T* to) {
  panels.blocks().each([&]<int lanes>(std::int64_t first, std::int64_t live) {
    constexpr std::size_t most = most_sums<T, lanes>;
    const Pieces pieces(of.columns, static_cast<std::int64_t>(most));
    for (std::int64_t row = 0; row < of.rows; ++row) {
      for (std::int64_t piece = 0; piece < pieces.count; ++piece) {
        const std::int64_t column = pieces.start(piece);
        const T* const window = from + row * of.place_down + column * of.place_across;
        T* const place = to + row * of.to_down + column * of.to_across + first;
        with_numbers_to<most>(pieces.length(piece), [&](auto neighbours) {
          correlate_some<lanes>(neighbours, of, window, panels.of(first), start + first, live,
                                place);
        });
      }
    }
  });
}

/// Adds, for as many numbers in a row of the window as there are i, what they met times what
/// gradient there, over all places.
template <int lanes, class T, std::size_t... i>
void gather_some(std::index_sequence<i...>, const Correlation& of, const T* from, const T* gradient,
                 std::int64_t arrived_step, T* to, std::int64_t to_step) {
  std::array<Wide<T, lanes>, sizeof...(i)> sums;
  (sums[i].load(to + static_cast<std::int64_t>(i) * to_step), ...);
  for (std::int64_t row = 0; row < of.rows; ++row) {
    const T* met = from + row * of.place_down;
    for (std::int64_t column = 0; column < of.columns; ++column) {
      Wide<T, lanes> here;
      here.load(gradient);
      (sums[i].add_product(met[i], here), ...);
      met += of.place_across;
      gradient += arrived_step;
    }
  }
  (sums[i].store(to + static_cast<std::int64_t>(i) * to_step), ...);
}

/// What a convolution has to know of its shapes.
struct Sizes {
  Sizes(const WindowPlaces& places_, const Shape& x, const Shape& kernel)
      : places(places_),
        rows(x[x.rank() - 3]),
        columns(x[x.rank() - 2]),
        channels(x[x.rank() - 1]),
        outputs(kernel[3]),
        picture(rows * columns * channels),
        count(x.count() / picture),
        of_places(places.down.places * places.across.places),
        multiplications(count * of_places * places.down.window * places.across.window * channels *
                        outputs) {}

  WindowPlaces places;
  std::int64_t rows;
  std::int64_t columns;
  std::int64_t channels;
  std::int64_t outputs;
  std::int64_t picture;  ///< numbers in one
  std::int64_t count;    ///< of pictures
  std::int64_t of_places;
  std::int64_t multiplications;
};

}  // namespace

Tensor convolution(const Tensor& x, const Tensor& kernel, const Tensor* bias,
                   const WindowPlaces& places, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  const Sizes sizes(places, x.shape(), kernel.shape());
  visit(x.precision(), [&]<class T>(T) {
    const Framed<T> pictures(x.data<T>(), sizes.rows, sizes.columns, sizes.channels, sizes.channels,
                             Frame::under(places));
    const T* const weights = kernel.data<T>();
    const std::int64_t of_position = sizes.channels * sizes.outputs;
    const Panels<T> panels(places.down.window * places.across.window, sizes.outputs, x.precision(),
                           {.in = sizes.outputs, .channels_in = sizes.channels},
                           [&](std::int64_t position) { return weights + position * of_position; });
    std::vector<T> start(static_cast<std::size_t>(panels.blocks().padded));
    if (bias != nullptr) std::copy_n(bias->data<T>(), sizes.outputs, start.begin());
    const Correlation of{.rows = places.down.places,
                         .columns = places.across.places,
                         .window_rows = places.down.window,
                         .run = places.across.window * sizes.channels,
                         .row_step = pictures.row_step(),
                         .place_down = pictures.row_step() * places.down.stride,
                         .place_across = sizes.channels * places.across.stride,
                         .to_down = places.across.places * sizes.outputs,
                         .to_across = sizes.outputs};
    T* const to = result.writable<T>();
    const int threads = threads_for(sizes.count, sizes.multiplications);
    Room room(threads, pictures.room(), x.precision());
    on_threads(threads, sizes.count, [&](std::int64_t picture, int thread) {
      correlate(of, pictures.of(picture, room.of<T>(thread)), panels, start.data(),
                to + picture * sizes.of_places * sizes.outputs);
    });
  });
  return result;
}

namespace {

/// Of the rows, or the columns, of a picture those that the same positions of the window meet:
/// every `stride`th one. In them, what came out meets a window of its own, the other way round.
struct Phase {
  Phase(const WindowAxis& axis, std::int64_t number)
      : window_first((number + axis.before) % axis.stride),
        window((axis.window - window_first + axis.stride - 1) / axis.stride),
        first(number),
        count((axis.extent - number + axis.stride - 1) / axis.stride),
        frame_first((number + axis.before) / axis.stride - (window - 1)) {}

  /// The kernel's position at a position of the window as it lies turned.
  [[nodiscard]] std::int64_t of_kernel(std::int64_t position, std::int64_t stride) const {
    return window_first + (window - 1 - position) * stride;
  }

  std::int64_t window_first;  ///< of the kernel's positions
  std::int64_t window;        ///< how many there are; 0 where no window comes past
  std::int64_t first;         ///< of the picture's positions
  std::int64_t count;
  std::int64_t frame_first;  ///< of the places, under the first window
};

}  // namespace

Tensor convolution_to_pictures(const Tensor& gradient, const Tensor& kernel,
                               const WindowPlaces& places, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, gradient.precision());
  const Sizes sizes(places, shape, kernel.shape());
  const std::int64_t stride = places.down.stride;
  visit(gradient.precision(), [&]<class T>(T) {
    const T* const weights = kernel.data<T>();
    T* const to = result.writable<T>();
    const int threads = threads_for(sizes.count, sizes.multiplications);
    for (std::int64_t number = 0; number < stride * stride; ++number) {
      const Phase down(places.down, number / stride);
      const Phase across(places.across, number % stride);
      if (down.count <= 0 || across.count <= 0) continue;
      const std::int64_t run = across.window * sizes.outputs;
      const Panels<T> panels(
          down.window * across.window, sizes.channels, gradient.precision(),
          {.out = sizes.outputs, .channels_in = sizes.outputs}, [&](std::int64_t position) {
            const std::int64_t row = down.of_kernel(position / across.window, stride);
            const std::int64_t column = across.of_kernel(position % across.window, stride);
            const std::int64_t place = row * places.across.window + column;
            return weights + place * sizes.channels * sizes.outputs;
          });
      const std::vector<T> start(static_cast<std::size_t>(panels.blocks().padded));
      const Framed<T> frames(gradient.data<T>(), places.down.places, places.across.places,
                             sizes.outputs, sizes.outputs,
                             {.top = -down.frame_first,
                              .left = -across.frame_first,
                              .rows = down.count - 1 + down.window,
                              .columns = across.count - 1 + across.window});
      const Correlation of{.rows = down.count,
                           .columns = across.count,
                           .window_rows = run == 0 ? 0 : down.window,
                           .run = run,
                           .row_step = frames.row_step(),
                           .place_down = frames.row_step(),
                           .place_across = sizes.outputs,
                           .to_down = stride * sizes.columns * sizes.channels,
                           .to_across = stride * sizes.channels};
      Room room(threads, frames.room(), gradient.precision());
      on_threads(threads, sizes.count, [&](std::int64_t picture, int thread) {
        correlate(of, frames.of(picture, room.of<T>(thread)), panels, start.data(),
                  to + picture * sizes.picture +
                      (down.first * sizes.columns + across.first) * sizes.channels);
      });
    }
  });
  return result;
}

Tensor convolution_to_kernel(const Tensor& x, const Tensor& gradient, const WindowPlaces& places,
                             const Shape& shape) {
  // Pictures are dealt into so many groups, each with sums of its own, whatever the threads are.
  constexpr std::int64_t most_groups = 4;
  Tensor result = Tensor::unfilled(shape, x.precision());
  const Sizes sizes(places, x.shape(), shape);
  const Pieces groups(sizes.count, (sizes.count + most_groups - 1) / most_groups);
  visit(x.precision(), [&]<class T>(T) {
    const ChannelBlocks<T> blocks(sizes.outputs);
    const Framed<T> pictures(x.data<T>(), sizes.rows, sizes.columns, sizes.channels, sizes.channels,
                             Frame::under(places));
    const Framed<T> arrivals(gradient.data<T>(), places.down.places, places.across.places,
                             sizes.outputs, blocks.padded,
                             {.rows = places.down.places, .columns = places.across.places});
    const Correlation of{.rows = places.down.places,
                         .columns = places.across.places,
                         .run = places.across.window * sizes.channels,
                         .place_down = pictures.row_step() * places.down.stride,
                         .place_across = sizes.channels * places.across.stride};
    constexpr std::int64_t near_bytes = 24 << 10;
    const std::int64_t row_bytes = static_cast<std::int64_t>(sizeof(T)) *
                                   (of.place_down + places.across.places * blocks.padded);
    Correlation band = of;
    band.rows = std::max(near_bytes / row_bytes, std::int64_t{1});
    const std::int64_t window_rows = places.down.window;
    const std::int64_t of_row = of.run * blocks.padded;
    Tensor sums = Tensor::unfilled(Shape{groups.count * window_rows * of_row}, x.precision());
    T* const all_sums = sums.writable<T>();
    std::fill_n(all_sums, sums.count(), T{0});
    const int threads = threads_for(groups.count * window_rows, sizes.multiplications);
    // A picture that has to be copied is copied once for all rows of the window, unless there are
    // threads enough to work on each row by itself.
    const std::int64_t rows_together = threads > groups.count ? 1 : window_rows;
    const std::int64_t pieces_of_group = window_rows / rows_together;
    Room of_pictures(threads, pictures.room(), x.precision());
    Room of_arrivals(threads, arrivals.room(), x.precision());
    // What a row of the window met in a picture, whose frame is at `from`, with what arrived there.
    const auto gather_row = [&](const T* from, const T* here, T* to) {
      // A few rows at a time, which stay in the nearest memory while all sums pass over them.
      for (std::int64_t top = 0; top < places.down.places; top += band.rows) {
        Correlation here_of = band;
        here_of.rows = std::min(band.rows, places.down.places - top);
        const T* const met = from + top * of.place_down;
        const T* const came = here + top * places.across.places * blocks.padded;
        blocks.each([&]<int lanes>(std::int64_t first, std::int64_t) {
          constexpr std::size_t most = most_sums<T, lanes>;
          const Pieces runs(of.run, static_cast<std::int64_t>(most));
          for (std::int64_t piece = 0; piece < runs.count; ++piece) {
            const std::int64_t at = runs.start(piece);
            with_numbers_to<most>(runs.length(piece), [&](auto numbers) {
              gather_some<lanes>(numbers, here_of, met + at, came + first, blocks.padded,
                                 to + at * blocks.padded + first, blocks.padded);
            });
          }
        });
      }
    };
    on_threads(threads, groups.count * pieces_of_group, [&](std::int64_t number, int thread) {
      const std::int64_t group = number / pieces_of_group;
      const std::int64_t first_row = number % pieces_of_group;
      for (std::int64_t picture = groups.start(group); picture < groups.start(group + 1);
           ++picture) {
        const T* const from = pictures.of(picture, of_pictures.of<T>(thread));
        const T* const here = arrivals.of(picture, of_arrivals.of<T>(thread));
        for (std::int64_t row = first_row; row < first_row + rows_together; ++row)
          gather_row(from + row * pictures.row_step(), here,
                     all_sums + (group * window_rows + row) * of_row);
      }
    });
    T* to = result.writable<T>();
    const std::int64_t positions = window_rows * of.run;
    for (std::int64_t at = 0; at < positions; ++at, to += sizes.outputs) {
      const T* from = all_sums + at * blocks.padded;
      std::copy_n(from, sizes.outputs, to);
      for (std::int64_t group = 1; group < groups.count; ++group) {
        from += positions * blocks.padded;
        for (std::int64_t output = 0; output < sizes.outputs; ++output)
          to[output] += from[output];
      }
    }
  });
  return result;
}

}  // namespace lattice::kernels
