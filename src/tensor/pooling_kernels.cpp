#include <algorithm>

#include "tensor/lanes.hpp"
#include "tensor/parallel.hpp"
#include "tensor/visit.hpp"
#include "tensor/window_kernels.hpp"

namespace lattice::kernels {
namespace {

/// Pictures and what windows made of them, one after another.
struct Pictures {
  Pictures(const WindowPlaces& places_, const Shape& shape)
      : places(places_),
        channels(shape[shape.rank() - 1]),
        size(places.down.extent * places.across.extent * channels),
        size_of_places(places.down.places * places.across.places * channels),
        count(shape.count() / size) {}

  /// Calls `work(picture)` for each.
  template <class Work>
  void each(Work work) const {
    // What is read and written costs more than what is worked.
    constexpr std::int64_t steps_a_number = 4;
    in_parallel(count, count * size * steps_a_number, work);
  }

  /// Calls `work(offset of the window's place, the window)` for each place of a picture.
  template <class Work>
  void each_place(Work work) const {
    std::int64_t to = 0;
    for (std::int64_t row = 0; row < places.down.places; ++row) {
      for (std::int64_t column = 0; column < places.across.places; ++column, to += channels)
        work(to, Under(*this, row, column));
    }
  }

  /// The part of a picture under a window.
  struct Under {
    Under(const Pictures& of, std::int64_t row, std::int64_t column)
        : rows(of.places.down.end(row) - of.places.down.first(row)),
          columns(of.places.across.end(column) - of.places.across.first(column)),
          row_step(of.places.across.extent * of.channels),
          column_step(of.channels),
          start(of.places.down.under(row, of.places.down.first(row)) * row_step +
                of.places.across.under(column, of.places.across.first(column)) * column_step) {}

    /// Calls `work(offset)` for each position.
    template <class Work>
    void each(Work work) const {
      for (std::int64_t row = 0; row < rows; ++row) {
        for (std::int64_t column = 0; column < columns; ++column)
          work(start + row * row_step + column * column_step);
      }
    }

    std::int64_t rows;
    std::int64_t columns;
    std::int64_t row_step;
    std::int64_t column_step;
    std::int64_t start;
  };

  WindowPlaces places;
  std::int64_t channels;
  std::int64_t size;
  std::int64_t size_of_places;
  std::int64_t count;
};

}  // namespace

Tensor largest_under(const Tensor& x, const WindowPlaces& places, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, x.precision());
  const Pictures pictures(places, x.shape());
  visit(x.precision(), [&]<class T>(T) {
    const T* const all = x.data<T>();
    T* const to_all = result.writable<T>();
    pictures.each([&](std::int64_t picture) {
      const T* const from = all + picture * pictures.size;
      T* const to = to_all + picture * pictures.size_of_places;
      pictures.each_place([&](std::int64_t place, const Pictures::Under& under) {
        in_lanes<T>(pictures.channels, [&]<int lanes>(std::int64_t channel) {
          Lanes<T, lanes> largest;
          load<lanes>(largest, from + under.start + channel);
          under.each([&](std::int64_t offset) {
            Lanes<T, lanes> here;
            load<lanes>(here, from + offset + channel);
            largest = here > largest ? here : largest;
          });
          store<lanes>(to + place + channel, largest);
        });
      });
    });
  });
  return result;
}

Tensor to_largest_under(const Tensor& x, const Tensor& largest, const Tensor& arrived,
                        const WindowPlaces& places) {
  Tensor result = Tensor::unfilled(x.shape(), x.precision());
  const Pictures pictures(places, x.shape());
  visit(x.precision(), [&]<class T>(T) {
    const T* const all = x.data<T>();
    const T* const of_places = largest.data<T>();
    const T* const at_places = arrived.data<T>();
    T* const to_all = result.writable<T>();
    pictures.each([&](std::int64_t picture) {
      const T* const from = all + picture * pictures.size;
      T* const to = to_all + picture * pictures.size;
      std::fill_n(to, pictures.size, T{0});
      pictures.each_place([&](std::int64_t place, const Pictures::Under& under) {
        const std::int64_t at = picture * pictures.size_of_places + place;
        in_lanes<T>(pictures.channels, [&]<int lanes>(std::int64_t channel) {
          Lanes<T, lanes> most;
          Lanes<T, lanes> left;  // to be given to the first that is as large
          load<lanes>(most, of_places + at + channel);
          load<lanes>(left, at_places + at + channel);
          const Lanes<T, lanes> none{};
          under.each([&](std::int64_t offset) {
            Lanes<T, lanes> here;
            Lanes<T, lanes> sum;
            load<lanes>(here, from + offset + channel);
            load<lanes>(sum, to + offset + channel);
            sum += here == most ? left : none;
            left = here == most ? none : left;
            store<lanes>(to + offset + channel, sum);
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
          under.each([&](std::int64_t offset) {
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

Tensor from_mean_under(const Tensor& arrived, const WindowPlaces& places, const Shape& shape) {
  Tensor result = Tensor::unfilled(shape, arrived.precision());
  const Pictures pictures(places, shape);
  visit(arrived.precision(), [&]<class T>(T) {
    const T* const at_places = arrived.data<T>();
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
          under.each([&](std::int64_t offset) {
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
