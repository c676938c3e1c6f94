#include <algorithm>
#include <array>
#include <utility>
#include <vector>

#include "pictures/window_kernels.hpp"
#include "tensor/lanes.hpp"
#include "tensor/parallel.hpp"
#include "tensor/visit.hpp"

/// Nothing is laid out patch by patch: where channels lie side by side, a row of a window is a run
/// of numbers of the picture, and neighbouring windows are runs that overlap. A few neighbours are
/// worked at a time, with their sums in registers.
namespace lattice::kernels {
namespace {

/// Registers of this machine, and how many bytes are in one.
#if defined(__AVX512F__)
constexpr int register_bytes = 64;
constexpr int registers = 32;
#elif defined(__AVX__)
constexpr int register_bytes = 32;
constexpr int registers = 16;
#else
constexpr int register_bytes = 16;
constexpr int registers = 16;
#endif

/// So many sums of this many lanes are kept in registers while they are added up.
template <class T, int lanes>
constexpr std::size_t most_sums = [] {
  constexpr int bytes = lanes * static_cast<int>(sizeof(T));
  constexpr int needed = bytes > register_bytes ? bytes / register_bytes : 1;
  constexpr int for_others = 4;
  return static_cast<std::size_t>(std::min((registers - for_others) / needed, 12));
}();

/// Where pieces begin that are as long as each other, or by one longer, and at most so long.
struct Pieces {
  Pieces(std::int64_t extent_, std::int64_t most)
      : extent(extent_), count((extent + most - 1) / most) {}

  [[nodiscard]] std::int64_t start(std::int64_t piece) const { return extent * piece / count; }
  [[nodiscard]] std::int64_t length(std::int64_t piece) const {
    return start(piece + 1) - start(piece);
  }

  std::int64_t extent;
  std::int64_t count;
};

/// Calls `work` with the numbers from 0 to n − 1 in its type, for an n of 1 to `most` that is only
/// known when the program runs.
template <std::size_t most, class Work>
void with_numbers_to(std::int64_t n, const Work& work) {
  if (n == static_cast<std::int64_t>(most)) return work(std::make_index_sequence<most>());
  if constexpr (most > 1) with_numbers_to<most - 1>(n, work);
}

/// Channels in blocks of lanes; the last block may have lanes to spare.
template <class T>
struct ChannelBlocks {
  explicit ChannelBlocks(std::int64_t channels_) : channels(channels_), padded(room(channels_)) {}

  /// As many numbers as the blocks hold.
  static std::int64_t room(std::int64_t channels) {
    std::int64_t rest = channels % most_lanes<T>;
    std::int64_t last = rest == 0 ? 0 : 1;
    while (last < rest)
      last *= 2;
    return channels - rest + last;
  }

  /// Calls `work.template operator()<lanes>(first channel, how many of them there are)`.
  template <class Work>
  void each(const Work& work) const {
    in_lanes<T>(padded, [&]<int lanes>(std::int64_t first) {
      work.template operator()<lanes>(first, std::min<std::int64_t>(lanes, channels - first));
    });
  }

  std::int64_t channels;
  std::int64_t padded;
};

/// Some numbers for each thread, to work in.
class Room {
 public:
  Room(int threads, std::int64_t count, Precision precision) {
    if (count == 0) return;
    for (int thread = 0; thread < threads; ++thread)
      rooms_.push_back(Tensor::unfilled(Shape{count}, precision));
  }

  template <class T>
  [[nodiscard]] T* of(int thread) {
    return rooms_.empty() ? nullptr : rooms_[static_cast<std::size_t>(thread)].writable<T>();
  }

 private:
  std::vector<Tensor> rooms_ = {};
};

/// A part of the plane in which a picture lies among zeros: from `top` rows and `left` columns
/// before its first number (after it, where they are below 0).
struct Frame {
  std::int64_t top = 0;
  std::int64_t left = 0;
  std::int64_t rows = 1;
  std::int64_t columns = 1;

  /// What lies under the windows at all places.
  static Frame under(const WindowPlaces& places) {
    const auto length = [](const WindowAxis& axis) {
      return (axis.places - 1) * axis.stride + axis.window;
    };
    return {.top = places.down.before,
            .left = places.across.before,
            .rows = length(places.down),
            .columns = length(places.across)};
  }
};

/// Pictures one after another, of which a frame is taken.
template <class T>
class Framed {
 public:
  Framed(const T* numbers, std::int64_t rows, std::int64_t columns, std::int64_t channels,
         std::int64_t channels_to, const Frame& frame)
      : numbers_(numbers),
        rows_(rows),
        columns_(columns),
        channels_(channels),
        channels_to_(channels_to),
        frame_(frame),
        is_there_(channels == channels_to && frame.top <= 0 && frame.left <= 0 &&
                  frame.rows - frame.top <= rows && frame.columns - frame.left <= columns) {}

  /// How many numbers one takes that has to be copied; 0 when they are used where they are.
  [[nodiscard]] std::int64_t room() const {
    return is_there_ ? 0 : frame_.rows * frame_.columns * channels_to_;
  }

  /// From one row to the next.
  [[nodiscard]] std::int64_t row_step() const {
    return (is_there_ ? columns_ : frame_.columns) * channels_to_;
  }

  /// The frame of a picture, whether it had to be copied to `room` or not.
  [[nodiscard]] const T* of(std::int64_t picture, T* room) const {
    const T* const from = numbers_ + picture * rows_ * columns_ * channels_;
    if (is_there_) return from - (frame_.top * columns_ + frame_.left) * channels_;
    T* to = room;
    const std::int64_t step = frame_.columns * channels_to_;
    const std::int64_t first = std::clamp<std::int64_t>(frame_.left, 0, frame_.columns);
    const std::int64_t skipped = std::max<std::int64_t>(-frame_.left, 0);
    const std::int64_t taken = std::clamp<std::int64_t>(
        frame_.columns - first, 0, std::max(columns_ - skipped, std::int64_t{0}));
    for (std::int64_t row = 0; row < frame_.rows; ++row, to += step) {
      const std::int64_t of_picture = row - frame_.top;
      if (of_picture < 0 || of_picture >= rows_) {
        std::fill_n(to, step, T{0});
        continue;
      }
      const T* const row_from = from + (of_picture * columns_ + skipped) * channels_;
      std::fill_n(to, first * channels_to_, T{0});
      T* end = to + first * channels_to_;
      if (channels_ == channels_to_) {
        end = std::copy_n(row_from, taken * channels_, end);
      } else {
        for (std::int64_t column = 0; column < taken; ++column) {
          end = std::copy_n(row_from + column * channels_, channels_, end);
          end = std::fill_n(end, channels_to_ - channels_, T{0});
        }
      }
      std::fill(end, to + step, T{0});
    }
    return room;
  }

 private:
  const T* numbers_;
  std::int64_t rows_;
  std::int64_t columns_;
  std::int64_t channels_;
  std::int64_t channels_to_;  ///< with zeros behind each number's channels
  Frame frame_;
  bool is_there_;
};

/// A kernel as it is worked with: for each block of channels that go out, a row of lanes for each
/// position of the window and channel that comes in.
template <class T>
class Panels {
 public:
  /// @param row where the kernel's numbers for a position and channel of the window begin
  /// @param step from one channel that goes out to the next
  template <class RowOf>
  Panels(std::int64_t depth, std::int64_t channels, Precision precision, std::int64_t step,
         RowOf row)
      : blocks_(channels),
        depth_(depth),
        numbers_(
            Tensor::unfilled(Shape{std::max<std::int64_t>(depth * blocks_.padded, 1)}, precision)) {
    T* to = numbers_.writable<T>();
    blocks_.each([&]<int lanes>(std::int64_t first, std::int64_t live) {
      for (std::int64_t at = 0; at < depth; ++at, to += lanes) {
        const T* const from = row(at) + first * step;
        for (std::int64_t lane = 0; lane < lanes; ++lane)
          to[lane] = lane < live ? from[lane * step] : T{0};
      }
    });
  }

  [[nodiscard]] const ChannelBlocks<T>& blocks() const { return blocks_; }
  [[nodiscard]] const T* of(std::int64_t first) const {
    return numbers_.data<T>() + first * depth_;
  }

 private:
  ChannelBlocks<T> blocks_;
  std::int64_t depth_;
  Tensor numbers_;
};

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
  std::array<Lanes<T, lanes>, sizeof...(i)> sums;
  (load<lanes>(sums[i], start), ...);
  for (std::int64_t row = 0; row < of.window_rows; ++row) {
    const T* run = from + row * of.row_step;
    for (const T* const end = run + of.run; run != end; ++run, panel += lanes) {
      Lanes<T, lanes> weights;
      load<lanes>(weights, panel);
      ((sums[i] += run[static_cast<std::int64_t>(i) * across] * weights), ...);
    }
  }
  if (live == lanes) {
    (store<lanes>(to + static_cast<std::int64_t>(i) * to_across, sums[i]), ...);
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
  std::array<Lanes<T, lanes>, sizeof...(i)> sums;
  (load<lanes>(sums[i], to + static_cast<std::int64_t>(i) * to_step), ...);
  for (std::int64_t row = 0; row < of.rows; ++row) {
    const T* met = from + row * of.place_down;
    for (std::int64_t column = 0; column < of.columns; ++column) {
      Lanes<T, lanes> here;
      load<lanes>(here, gradient);
      ((sums[i] += met[i] * here), ...);
      met += of.place_across;
      gradient += arrived_step;
    }
  }
  (store<lanes>(to + static_cast<std::int64_t>(i) * to_step, sums[i]), ...);
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
    const Panels<T> panels(kernel.count() / sizes.outputs, sizes.outputs, x.precision(), 1,
                           [&](std::int64_t at) { return weights + at * sizes.outputs; });
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
          down.window * run, sizes.channels, gradient.precision(), sizes.outputs,
          [&](std::int64_t at) {
            const std::int64_t row = down.of_kernel(at / run, stride);
            const std::int64_t column = across.of_kernel(at % run / sizes.outputs, stride);
            const std::int64_t place = row * places.across.window + column;
            return weights + place * sizes.channels * sizes.outputs + at % sizes.outputs;
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
    const std::int64_t pieces_of_work = groups.count * window_rows;
    const int threads = threads_for(pieces_of_work, sizes.multiplications);
    Room of_pictures(threads, pictures.room(), x.precision());
    Room of_arrivals(threads, arrivals.room(), x.precision());
    on_threads(threads, pieces_of_work, [&](std::int64_t number, int thread) {
      const std::int64_t group = number / window_rows;
      const std::int64_t row = number % window_rows;
      T* const to = all_sums + number * of_row;
      for (std::int64_t picture = groups.start(group); picture < groups.start(group + 1);
           ++picture) {
        const T* const from =
            pictures.of(picture, of_pictures.of<T>(thread)) + row * pictures.row_step();
        const T* const here = arrivals.of(picture, of_arrivals.of<T>(thread));
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

namespace {

/// Calls `meet(offset in the list, offset in the whole kernel)` for each number of each connection.
template <class T, class Meet>
void each_connected(const Shape& kernels, const Tensor& table, std::int64_t channels_in,
                    std::int64_t channels_out, Meet meet) {
  const std::int64_t connections = kernels[2];
  const T* const pairs = table.data<T>();
  for (std::int64_t place = 0; place < kernels[0] * kernels[1]; ++place) {
    for (std::int64_t connection = 0; connection < connections; ++connection) {
      const auto in = static_cast<std::int64_t>(pairs[2 * connection]);
      const auto out = static_cast<std::int64_t>(pairs[2 * connection + 1]);
      meet(place * connections + connection, (place * channels_in + in) * channels_out + out);
    }
  }
}

}  // namespace

Tensor kernel_of_connections(const Tensor& kernels, const Tensor& table, std::int64_t channels_in,
                             std::int64_t channels_out) {
  const Shape& shape = kernels.shape();
  Tensor whole =
      Tensor::unfilled({shape[0], shape[1], channels_in, channels_out}, kernels.precision());
  visit(kernels.precision(), [&]<class T>(T) {
    const T* const from = kernels.data<T>();
    T* const to = whole.writable<T>();
    std::fill_n(to, whole.count(), T{0});
    each_connected<T>(shape, table, channels_in, channels_out,
                      [&](std::int64_t listed, std::int64_t at) { to[at] += from[listed]; });
  });
  return whole;
}

Tensor connections_of_kernel(const Tensor& kernel, const Tensor& table, const Shape& shape) {
  Tensor listed = Tensor::unfilled(shape, kernel.precision());
  visit(kernel.precision(), [&]<class T>(T) {
    const T* const from = kernel.data<T>();
    T* const to = listed.writable<T>();
    each_connected<T>(shape, table, kernel.shape()[2], kernel.shape()[3],
                      [&](std::int64_t at, std::int64_t in_whole) { to[at] = from[in_whole]; });
  });
  return listed;
}

}  // namespace lattice::kernels
