#include "lattice/pictures/subject.hpp"

#include <fmt/format.h>

#include "lattice/data/dataset.hpp"
#include "lattice/network/subject.hpp"
#include "lattice/pictures/contrast_layer.hpp"
#include "lattice/pictures/picture.hpp"
#include "pictures/contrast_words.hpp"
#include "pictures/demo_sets.hpp"
#include "pictures/sheet_functions.hpp"
#include "pictures/window_words.hpp"

namespace lattice {
namespace {

Layer read_contrast(Scanner& words) {
  words.go_back_to(words.position() - 1);
  return NormaliseContrast{take_contrast(words)};
}

/// A convolution of 1 × 1 with the stride that leaves as many places.
std::string projection_to(const Shape& from, const Shape& to) {
  if (from.rank() != 3 || to.rank() != 3) return "";
  const auto places = [](std::int64_t extent, std::int64_t stride) {
    return (extent - 1) / stride + 1;
  };
  for (std::int64_t stride = 1; stride <= from[0]; ++stride) {
    if (places(from[0], stride) != to[0] || places(from[1], stride) != to[1]) continue;
    return fmt::format("conv {} of 1x1{}", to[2],
                       stride == 1 ? "" : fmt::format(" stride {}", stride));
  }
  return "";
}

Subject pictures_subject() {
  return {.name = "pictures",
          .rows = RowKind{.name = "pictures",
                          .one = "picture",
                          .several = "pictures",
                          .first_layer = "flatten",
                          .is_kind_of =
                              [](const Dataset& data) {
                                return !data.features.empty() && is_raster(data.example());
                              }},
          .layers = {{"conv", read_convolution},
                     {"maximum", read_max_pooling},
                     {"average", read_mean_pooling},
                     {"contrast", read_contrast}},
          .projection = projection_to,
          .scalings = {{.word = "contrast",
                        .example = "contrast 9",
                        .parse = [](std::string_view text) -> OwnScaling {
                          return parse_contrast(text);
                        }}},
          .demo_sets = {{.name = "stamps",
                         .story = "whose stamp is pressed into a pot: grey pictures of 12 × 12 "
                                  "with the marks of eight makers, shifted, rotated and noisy",
                         .usual_rows = 2000,
                         .copied_rows = 400,
                         .usual_seed = 1,
                         .make = make_stamps},
                        {.name = "tiles",
                         .story = "which of six patterns a glazed tile has: colour pictures of 16 "
                                  "× 16, in glazes that "
                                  "say nothing about it",
                         .usual_rows = 1200,
                         .copied_rows = 60,
                         .usual_seed = 1,
                         .make = make_tiles}},
          .functions = picture_functions()};
}

}  // namespace

bool use_pictures() {
  return use(pictures_subject());
}

}  // namespace lattice
