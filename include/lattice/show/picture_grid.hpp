#pragma once

#include <string>
#include <vector>

#include "lattice/data/row_set.hpp"
#include "lattice/show/terminal.hpp"
#include "lattice/tensor/raster.hpp"
#include "lattice/text/wrapping.hpp"

namespace lattice {

/// A picture and its caption.
struct CaptionedPicture {
  Tensor picture;  ///< [row × column × channel] of 1 channel (grey), 3 (red, green, blue), or of
                   ///< others, which are taken for grey side by side
  std::string caption = {};
  std::string answer = {};  ///< of a network, below the caption
  bool is_noticed = false;  ///< the last line of the caption is marked
};

/// The numbers of black and of white.
struct Brightness {
  double black = 0.0;
  double white = 255.0;
};

/// Pictures side by side, as many as fit into the columns, two pixels in a character cell, in grey
/// or colour; without colours two characters for a pixel, of matching darkness.
[[nodiscard]] std::string show_pictures(const std::vector<CaptionedPicture>& pictures,
                                        const TerminalStyle& style, const Brightness& brightness,
                                        std::size_t width = page_width);

/// Black and white for the pictures of a dataset: 0 and 255 for bytes, else the lowest and the
/// highest number.
[[nodiscard]] Brightness brightness_of(const Examples& pictures);

/// A picture as bytes for drawing: grey, or in colour; other channels are side by side.
[[nodiscard]] Raster as_drawn(const Tensor& picture, const Brightness& brightness);

/// Some rows of a dataset as pictures, each with its number and the name of its class.
[[nodiscard]] std::vector<CaptionedPicture> samples_of(const RowSet& rows, std::int64_t most);

/// The mean of the pictures of some rows.
[[nodiscard]] Tensor mean_picture(const RowSet& rows);

}  // namespace lattice
