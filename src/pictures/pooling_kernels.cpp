#include <algorithm>

#include "pictures/window_kernels.hpp"
#include "tensor/lanes.hpp"
#include "tensor/parallel.hpp"
#include "tensor/visit.hpp"

namespace lattice::kernels {
namespace {

/// Pictures and what windows made of them, one after another.
struct Pictures {
  Pictures(const WindowPlaces& places_, const Shape& shape)
      : places(places_),
        channels(shape[shape.rank() - 1]),
        row_step(places.across.extent * channels),
        size(places.down.extent * row_step),
        size_of_places(places.down.places * places.across.places * channels),
        count(shape.count() / size) {}

  /// Calls `work(picture)` for each.
  template <class Work>
  void each(Work work) const {
    in_parallel(count, count * size * multiplications_a_number, work);
  }

  /// The part of a picture under a window.
  struct Under {
    /// Calls `work(offset)` for each position. `extent` is the window's, where it is known before.
    template <int extent, class Work>
    void each(Work work) const {
      const std::int64_t down = extent > 0 ? extent : rows;
      const std::int64_t across = extent > 0 ? extent : columns;
      for (std::int64_t row = 0; row < down; ++row) {
        for (std::int64_t column = 0; column < across; ++column)
          work(start + row * row_step + column * column_step);
      }
    }

    std::int64_t rows;
    std::int64_t columns;
    std::int64_t row_step;
    std::int64_t column_step;
    std::int64_t start;
  };

  /// Calls `work(offset of the window's place, the window)` for each place of a picture.
  template <class Work>
  void each_place(Work work) const {
    std::int64_t to = 0;
    for (std::int64_t row = 0; row < places.down.places; ++row) {
      const std::int64_t top = places.down.first(row);
      Under under{.rows = places.down.end(row) - top,
                  .columns = 0,
                  .row_step = row_step,
                  .column_step = channels,
                  .start = 0};
      const std::int64_t row_start = places.down.under(row, top) * row_step;
      for (std::int64_t column = 0; column < places.across.places; ++column, to += channels) {
        const std::int64_t left = places.across.first(column);
        under.columns = places.across.end(column) - left;
        under.start = row_start + places.across.under(column, left) * channels;
        work(to, under);
      }
    }
  }

  /// Whether a window always stands on the picture with all of it.
  [[nodiscard]] bool is_inside() const {
    const auto fits = [](const WindowAxis& axis) {
      return axis.first(0) == 0 && axis.end(axis.places - 1) == axis.window;
    };
    return fits(places.down) && fits(places.across);
  }

  /// Whether each number of a picture is under one window, and under no other.
  [[nodiscard]] bool are_tiled() const {
    const auto is_tiled = [](const WindowAxis& axis) {
      return axis.stride == axis.window && axis.places * axis.window == axis.extent;
    };
    return is_inside() && is_tiled(places.down) && is_tiled(places.across);
  }

  WindowPlaces places;
  std::int64_t channels;
  std::int64_t row_step;
  std::int64_t size;
  std::int64_t size_of_places;
  std::int64_t count;
};

/// Calls `work.template operator()<extent>()` with the extent of a square window that is common and
/// always stands inside, so that loops over it are written out; with 0 for any other.
template <class Work>
void with_extent(const Pictures& pictures, const Work& work) {
  const std::int64_t extent =
      pictures.is_inside() && pictures.places.down.window == pictures.places.across.window
          ? pictures.places.down.window
          : 0;
  if (extent == 2) return work.template operator()<2>();
  if (extent == 3) return work.template operator()<3>();
  work.template operator()<0>();
}

}  // namespace

Tensor largest_under(const Tensor& x, const WindowPlaces& places, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  const Pictures pictures(places, x.shape());
  visit(x.precision(), [&]<class T>(T) {
    const T* const all = x.data<T>();
    T* const to_all = result.writable<T>();
    with_extent(pictures, [&]<int extent>() {
      pictures.each([&](std::int64_t picture) {
        const T* const from = all + picture * pictures.size;
        T* const to = to_all + picture * pictures.size_of_places;
        pictures.each_place([&](std::int64_t place, const Pictures::Under& under) {
          in_lanes<T>(pictures.channels, [&]<int lanes>(std::int64_t channel) {
            Lanes<T, lanes> largest;
            load<lanes>(largest, from + under.start + channel);
            under.each<extent>([&](std::int64_t offset) {
              Lanes<T, lanes> here;
              load<lanes>(here, from + offset + channel);
              largest = here > largest ? here : largest;
            });
            store<lanes>(to + place + channel, largest);
          });
        });
      });
    });
  });
  return result;
}

Tensor to_largest_under(const Tensor& x, const Tensor& largest, const Tensor& gradient,
                        const WindowPlaces& places) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  const Pictures pictures(places, x.shape());
  const bool are_tiled = pictures.are_tiled();
  visit(x.precision(), [&]<class T>(T) {
    const T* const all = x.data<T>();
    const T* const of_places = largest.data<T>();
    const T* const at_places = gradient.data<T>();
    T* const to_all = result.writable<T>();
    with_extent(pictures, [&]<int extent>() {
      pictures.each([&](std::int64_t picture) {
        const T* const from = all + picture * pictures.size;
        T* const to = to_all + picture * pictures.size;
        if (!are_tiled) std::fill_n(to, pictures.size, T{0});
        pictures.each_place([&](std::int64_t place, const Pictures::Under& under) {
          const std::int64_t at = picture * pictures.size_of_places + place;
          in_lanes<T>(pictures.channels, [&]<int lanes>(std::int64_t channel) {
            Lanes<T, lanes> most;
            Lanes<T, lanes> left;  // to be given to the first that is as large
            load<lanes>(most, of_places + at + channel);
            load<lanes>(left, at_places + at + channel);
            const Lanes<T, lanes> none{};
            under.each<extent>([&](std::int64_t offset) {
              Lanes<T, lanes> here;
              load<lanes>(here, from + offset + channel);
              Lanes<T, lanes> sum = here == most ? left : none;
              left = here == most ? none : left;
              if (!are_tiled) {
                Lanes<T, lanes> before;
                load<lanes>(before, to + offset + channel);
                sum += before;
              }
              store<lanes>(to + offset + channel, sum);
            });
          });
        });
      });
    });
  });
  return result;
}

Tensor mean_under(const Tensor& x, const WindowPlaces& places, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  const Pictures pictures(places, x.shape());
  visit(x.precision(), [&]<class T>(T) {
    const T* const all = x.data<T>();
    T* const to_all = result.writable<T>();
    pictures.each([&](std::int64_t picture) {
      const T* const from = all + picture * pictures.size;
      T* const to = to_all + picture * pictures.size_of_places;
      pictures.each_place([&](std::int64_t place, const Pictures::Under& under) {
        const T count = static_cast<T>(under.rows * under.columns);
        in_lanes<T>(pictures.channels, [&]<int lanes>(std::int64_t channel) {
          Lanes<T, lanes> sum{};
          under.each<0>([&](std::int64_t offset) {
            Lanes<T, lanes> here;
            load<lanes>(here, from + offset + channel);
            sum += here;
          });
          store<lanes>(to + place + channel, Lanes<T, lanes>(sum / count));
        });
      });
    });
  });
  return result;
}

Tensor from_mean_under(const Tensor& gradient, const WindowPlaces& places, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, gradient.precision());
  const Pictures pictures(places, shape);
  visit(gradient.precision(), [&]<class T>(T) {
    const T* const at_places = gradient.data<T>();
    T* const to_all = result.writable<T>();
    pictures.each([&](std::int64_t picture) {
      T* const to = to_all + picture * pictures.size;
      std::fill_n(to, pictures.size, T{0});
      pictures.each_place([&](std::int64_t place, const Pictures::Under& under) {
        const std::int64_t at = picture * pictures.size_of_places + place;
        const T count = static_cast<T>(under.rows * under.columns);
        in_lanes<T>(pictures.channels, [&]<int lanes>(std::int64_t channel) {
          Lanes<T, lanes> share;
          load<lanes>(share, at_places + at + channel);
          share /= count;
          under.each<0>([&](std::int64_t offset) {
            Lanes<T, lanes> sum;
            load<lanes>(sum, to + offset + channel);
            sum += share;
            store<lanes>(to + offset + channel, sum);
          });
        });
      });
    });
  });
  return result;
}

}  // namespace lattice::kernels
