#pragma once

#include <string>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/show/terminal.hpp"
#include "lattice/tensor/raster.hpp"
#include "lattice/text/wrapping.hpp"

namespace lattice {

/// A picture and what stands above it.
struct CaptionedPicture {
  Tensor picture;  ///< [row × column × channel] of 1 channel (grey), 3 (red, green, blue), or of
                   ///< others, which are taken for grey side by side
  std::string caption = {};
  std::string answer = {};  ///< what a network says of it, below the caption
  bool is_noticed = false;  ///< the last line above it is marked
};

/// From the number that is black to the one that is white.
struct Brightness {
  double black = 0.0;
  double white = 255.0;
};

/// Pictures beside each other, as many as fit into so many columns, two points in a letter: in grey
/// steps and colours; without colours in letters that are as dark as the point is, two for a point.
[[nodiscard]] std::string show_pictures(const std::vector<CaptionedPicture>& pictures,
                                        const TerminalStyle& style, const Brightness& brightness,
                                        std::size_t width = page_width);

/// What is black and what is white in pictures of a dataset: 0 and 255 for bytes, else the lowest
/// and the highest number.
[[nodiscard]] Brightness brightness_of(const Examples& pictures);

/// A picture as it is drawn, in bytes: grey, or in colour; other channels stand side by side.
[[nodiscard]] Raster as_drawn(const Tensor& picture, const Brightness& brightness);

/// Some rows of a dataset as pictures, each with its number and the name of its class.
[[nodiscard]] std::vector<CaptionedPicture> samples_of(const RowSet& rows, std::int64_t most);

/// The mean of the pictures of some rows.
[[nodiscard]] Tensor mean_picture(const RowSet& rows);

}  // namespace lattice
