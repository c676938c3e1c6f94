#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/data/examples.hpp"
#include "lattice/tensor/raster.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// Rows and columns of a picture.
struct PictureSize {
  std::int64_t rows = 1;
  std::int64_t columns = 1;

  friend bool operator==(const PictureSize&, const PictureSize&) = default;
};

/// `28x28`. @throws SettingError for another text.
[[nodiscard]] PictureSize parse_picture_size(std::string_view text);
[[nodiscard]] std::string to_string(const PictureSize& size);

/// How a picture is resized.
enum class Resizing : std::uint8_t {
  area,   ///< each new pixel is the mean of the area that it covers
  linear  ///< bilinear interpolation of the nearest four
};

inline constexpr Words<Resizing> resizing_words = {{Resizing::area, "area"},
                                                   {Resizing::linear, "linear"}};

/// Changes of each picture as it is read, in this order.
struct PictureChanges {
  bool grey = false;  ///< one channel: 0.299 red + 0.587 green + 0.114 blue (ITU-R BT.601)
  std::optional<PictureSize> crop = std::nullopt;  ///< to this size, around the centre
  std::optional<PictureSize> size = std::nullopt;  ///< the size after resizing
  Resizing by = Resizing::area;

  [[nodiscard]] bool empty() const { return !grey && !crop && !size; }

  friend bool operator==(const PictureChanges&, const PictureChanges&) = default;
};

/// The most bytes of changed pictures that are kept in memory.
inline constexpr std::int64_t most_changed_in_memory = std::int64_t{256} << 20;

/// Pictures [example × row × column × channel] after changes. Bytes stay bytes, rounded. Where they
/// would be more than `most_in_memory`, each picture is changed anew whenever it is asked for.
/// @throws ShapeError for examples that are not pictures, for a crop larger than they are, and for
///         grey from other than 1 or 3 channels.
[[nodiscard]] Examples changed(const Examples& pictures, const PictureChanges& changes,
                               std::int64_t most_in_memory = most_changed_in_memory);
[[nodiscard]] Raster changed(const Raster& picture, const PictureChanges& changes);

/// Grey pictures [example × row × column × 1] as colour pictures with equal red, green and blue.
/// Others stay as they are.
[[nodiscard]] Examples in_colour(const Examples& pictures);

}  // namespace lattice
