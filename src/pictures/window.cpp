#include "lattice/pictures/window.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

constexpr std::int64_t most = 1'000'000;

std::string by(std::int64_t rows, std::int64_t columns) {
  return fmt::format("{} × {}", rows, columns);
}

void check(const Window& window) {
  const auto refuse = [](std::string what, std::string expected, std::string found) {
    throw SettingError(
        {.what = std::move(what), .expected = std::move(expected), .found = std::move(found)});
  };
  const auto can_be = [](std::int64_t extent) { return extent >= 1 && extent <= most; };
  if (!can_be(window.rows) || !can_be(window.columns)) {
    refuse("a window has rows and columns", fmt::format("1 to {} of each", most),
           by(window.rows, window.columns));
  }
  if (!can_be(window.stride)) {
    refuse("a window cannot go on by this stride", fmt::format("1 to {}", most),
           fmt::format("{}", window.stride));
  }
  const std::int64_t narrow = std::min(window.rows, window.columns);
  const std::int64_t width = window.padding.width();
  if (width >= 0 && width < narrow) return;
  refuse("at some places the window would see nothing of the picture",
         fmt::format("a padding from 0 to {}, narrower than the window of {}", narrow - 1,
                     by(window.rows, window.columns)),
         fmt::format("a padding of {}", width));
}

WindowAxis along(std::int64_t extent, std::int64_t window, const Window& settings) {
  WindowAxis axis{.extent = extent, .window = window, .stride = settings.stride};
  if (settings.padding.keeps_size()) {
    axis.places = (extent - 1) / axis.stride + 1;
    axis.before = std::max((axis.places - 1) * axis.stride + window - extent, std::int64_t{0}) / 2;
  } else {
    axis.before = settings.padding.width();
    axis.places = (extent + 2 * axis.before - window) / axis.stride + 1;
  }
  return axis;
}

}  // namespace

WindowPlaces places_of(const Window& window, const Shape& pictures) {
  check(window);
  const int rank = pictures.rank();
  if (rank < 3) {
    throw ShapeError(
        {.what = "a window needs pictures",
         .expected = "[… × row × column × channel]",
         .found = to_string(pictures),
         .remedy = rank == 2 ? "a grey picture has an axis of 1 channel at its end" : ""});
  }
  const std::int64_t rows = pictures[rank - 3];
  const std::int64_t columns = pictures[rank - 2];
  const std::int64_t around = 2 * window.padding.width();
  const bool fits = window.padding.keeps_size() ||
                    (window.rows <= rows + around && window.columns <= columns + around);
  if (!fits) {
    throw ShapeError(
        {.what = fmt::format("a window of {} does not fit on a picture of {}{}",
                             by(window.rows, window.columns), by(rows, columns),
                             around > 0 ? fmt::format(" with a padding of {}", around / 2) : ""),
         .expected = fmt::format("a window of at most {}", by(rows + around, columns + around)),
         .found = by(window.rows, window.columns),
         .remedy = "a smaller window, larger pictures, less pooling or stride before it, or "
                   "keeping size"});
  }
  return {.down = along(rows, window.rows, window),
          .across = along(columns, window.columns, window)};
}

Shape places_shape(const WindowPlaces& places, const Shape& pictures, std::int64_t channels) {
  const int rank = pictures.rank();
  Shape shape = pictures.with_extent(rank - 3, places.down.places)
                    .with_extent(rank - 2, places.across.places)
                    .with_extent(rank - 1, channels);
  shape.set_role(rank - 3, Role::row);
  shape.set_role(rank - 2, Role::column);
  shape.set_role(rank - 1, Role::channel);
  return shape;
}

std::string to_string(const Window& window) {
  std::string text = fmt::format("{}x{}", window.rows, window.columns);
  if (window.stride != 1) text += fmt::format(" stride {}", window.stride);
  if (window.padding.keeps_size()) return text + " keeping size";
  if (window.padding.width() > 0) text += fmt::format(" padding {}", window.padding.width());
  return text;
}

}  // namespace lattice
