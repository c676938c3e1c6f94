#include "pictures/around/watched_picture.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "lattice/pictures/picture.hpp"

namespace lattice {

Json watched_picture(const CaptionedPicture& captioned, const Brightness& brightness) {
  constexpr std::int64_t most = 48;
  Raster picture = as_drawn(captioned.picture, brightness);
  if (const std::int64_t side = std::max(picture.rows, picture.columns); side > most) {
    const auto smaller = [&](std::int64_t extent) {
      return std::max<std::int64_t>(extent * most / side, 1);
    };
    picture =
        changed(picture, {.size = PictureSize{smaller(picture.rows), smaller(picture.columns)}});
  }
  return {{"caption", captioned.caption}, {"answer", captioned.answer},
          {"rows", picture.rows},         {"columns", picture.columns},
          {"channels", picture.channels}, {"points", picture.bytes}};
}

}  // namespace lattice
