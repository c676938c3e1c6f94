#include "lattice/files/png.hpp"

#include <fmt/format.h>
#include <png.h>

#include <algorithm>
#include <string>

#include "files/file.hpp"
#include "lattice/text/error.hpp"
#include "tensor/memory.hpp"

namespace lattice {
namespace {

/// What libpng keeps while it reads or writes a picture.
struct Png {
  Png() { image.version = PNG_IMAGE_VERSION; }
  Png(const Png&) = delete;
  Png& operator=(const Png&) = delete;
  ~Png() { png_image_free(&image); }

  png_image image{};
};

[[noreturn]] void refuse_png(const std::string& name, std::string what, std::string found,
                             std::string remedy) {
  throw FileError({.what = std::move(what),
                   .where = name,
                   .expected = "a PNG file",
                   .found = std::move(found),
                   .remedy = std::move(remedy)});
}

}  // namespace

PngPicture parse_png(std::string_view bytes, const std::string& name) {
  constexpr std::string_view signature = "\x89PNG\r\n\x1a\n";
  constexpr std::size_t depth_at = 24;
  if (!bytes.starts_with(signature)) {
    refuse_png(name, "this is no PNG file, whatever it is called",
               bytes.empty() ? "an empty file" : "other bytes",
               "save the picture as PNG with a program that draws or converts pictures");
  }
  Png png;
  if (png_image_begin_read_from_memory(&png.image, bytes.data(), bytes.size()) == 0)
    refuse_png(name, "the PNG file is damaged", png.image.message, "copy or save it again");
  const bool is_colour = (png.image.format & PNG_FORMAT_FLAG_COLOR) != 0;
  PngPicture result{.picture = {.rows = png.image.height,
                                .columns = png.image.width,
                                .channels = is_colour ? 3 : 1},
                    .had_palette = (png.image.format & PNG_FORMAT_FLAG_COLORMAP) != 0,
                    .had_16_bits = bytes.size() > depth_at && bytes[depth_at] == 16,
                    .had_alpha = (png.image.format & PNG_FORMAT_FLAG_ALPHA) != 0};
  png.image.format = is_colour ? PNG_FORMAT_RGB : PNG_FORMAT_GRAY;
  // A packed byte stands for 1032 at most, and one of these for eight points of at most 3 bytes.
  constexpr double most_a_byte = 1032.0 * 8.0 * 3.0;
  const double needed = static_cast<double>(png.image.height) *
                        static_cast<double>(png.image.width) * (is_colour ? 3.0 : 1.0);
  if (needed > static_cast<double>(machine_bytes()) / 2.0) {
    throw MemoryError(
        {.what = "a picture that does not fit into memory",
         .where = name,
         .expected = fmt::format("at most {:.1f} GB", static_cast<double>(machine_bytes()) / 2e9),
         .found = fmt::format("{} × {} points, {:.1f} GB", png.image.height, png.image.width,
                              needed / 1e9)});
  }
  if (needed > most_a_byte * static_cast<double>(bytes.size())) {
    refuse_png(name, "the PNG file is damaged",
               fmt::format("{} × {} points, said to be in {} bytes", png.image.height,
                           png.image.width, bytes.size()),
               "copy or save it again");
  }
  result.picture.bytes.resize(PNG_IMAGE_SIZE(png.image));
  constexpr png_color black{0, 0, 0};
  if (png_image_finish_read(&png.image, &black, result.picture.bytes.data(), 0, nullptr) == 0)
    refuse_png(name, "the PNG file is damaged", png.image.message, "copy or save it again");
  return result;
}

PngPicture read_png(const std::filesystem::path& path) {
  return parse_png(read_file(path, "a PNG file"), path.string());
}

std::string to_png(const Picture& picture) {
  if (picture.channels != 1 && picture.channels != 3) {
    throw ShapeError({.what = "a PNG file has grey or colours",
                      .expected = "1 or 3 channels",
                      .found = fmt::format("{}", picture.channels)});
  }
  Png png;
  png.image.width = static_cast<png_uint_32>(picture.columns);
  png.image.height = static_cast<png_uint_32>(picture.rows);
  png.image.format = picture.channels == 3 ? PNG_FORMAT_RGB : PNG_FORMAT_GRAY;
  png_alloc_size_t size = PNG_IMAGE_PNG_SIZE_MAX(png.image);
  std::string bytes(size, '\0');
  if (png_image_write_to_memory(&png.image, bytes.data(), &size, 0, picture.bytes.data(), 0,
                                nullptr) == 0)
    throw FileError({.what = "a picture could not be written as PNG", .found = png.image.message});
  bytes.resize(size);
  return bytes;
}

}  // namespace lattice
