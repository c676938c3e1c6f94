#include "lattice/files/png.hpp"

#include <fmt/format.h>
#include <png.h>

#include <array>
#include <csetjmp>
#include <cstring>
#include <new>
#include <string>
#include <vector>

#include "files/file.hpp"
#include "files/unpacked.hpp"
#include "lattice/text/error.hpp"
#include "tensor/memory.hpp"

namespace lattice {
namespace {

/// What libpng keeps while it writes a picture.
struct Png {
  Png() { image.version = PNG_IMAGE_VERSION; }
  Png(const Png&) = delete;
  Png& operator=(const Png&) = delete;
  ~Png() { png_image_free(&image); }

  png_image image{};
};

/// What libpng keeps while it reads one from memory, and why it stopped. Its short way of reading
/// takes 16 bits for linear light, and mixes up the rows of such a file where it is interlaced.
class PngReader {
 public:
  explicit PngReader(std::string_view bytes)
      : rest_(bytes), png_(png_create_read_struct(PNG_LIBPNG_VER_STRING, this, stop, pass_over)) {
    if (png_ != nullptr) info_ = png_create_info_struct(png_);
    if (info_ == nullptr) {
      png_destroy_read_struct(&png_, nullptr, nullptr);
      throw std::bad_alloc();
    }
    png_set_read_fn(png_, this, give);
  }
  PngReader(const PngReader&) = delete;
  PngReader& operator=(const PngReader&) = delete;
  ~PngReader() { png_destroy_read_struct(&png_, &info_, nullptr); }

  /// Reads what the file says of itself. False where it is damaged.
  [[nodiscard]] bool read_head() {
    if (setjmp(png_jmpbuf(png_)) != 0) return false;
    png_read_info(png_, info_);
    return true;
  }

  /// Has each number come as a byte, as a screen would show it, colours and grey with how much can
  /// be seen of them. False where that cannot be.
  [[nodiscard]] bool ask_for_bytes() {
    if (setjmp(png_jmpbuf(png_)) != 0) return false;
    constexpr double of_screen = 2.2;
    double of_file = 1.0 / of_screen;
    png_get_gAMA(png_, info_, &of_file);
    png_set_expand(png_);
    png_set_scale_16(png_);
    png_set_gamma(png_, of_screen, of_file);
    png_set_add_alpha(png_, 0xFF, PNG_FILLER_AFTER);
    png_set_interlace_handling(png_);
    png_read_update_info(png_, info_);
    return true;
  }

  /// Reads all rows. False where the file is damaged.
  [[nodiscard]] bool read_rows(png_bytep* rows) {
    if (setjmp(png_jmpbuf(png_)) != 0) return false;
    png_read_image(png_, rows);
    png_read_end(png_, nullptr);
    return true;
  }

  [[nodiscard]] std::int64_t rows() const { return png_get_image_height(png_, info_); }
  [[nodiscard]] std::int64_t columns() const { return png_get_image_width(png_, info_); }
  [[nodiscard]] std::size_t row_bytes() const { return png_get_rowbytes(png_, info_); }
  [[nodiscard]] int depth() const { return png_get_bit_depth(png_, info_); }
  [[nodiscard]] bool has(int mask) const { return (png_get_color_type(png_, info_) & mask) != 0; }
  [[nodiscard]] bool is_see_through() const {
    return has(PNG_COLOR_MASK_ALPHA) || png_get_valid(png_, info_, PNG_INFO_tRNS) != 0;
  }
  [[nodiscard]] const char* message() const { return message_.data(); }

 private:
  static void stop(png_structp png, png_const_charp message) {
    auto& reader = *static_cast<PngReader*>(png_get_error_ptr(png));
    std::strncpy(reader.message_.data(), message, reader.message_.size() - 1);
    png_longjmp(png, 1);
  }
  static void pass_over(png_structp, png_const_charp) {}
  static void give(png_structp png, png_bytep to, std::size_t count) {
    auto& reader = *static_cast<PngReader*>(png_get_io_ptr(png));
    if (count > reader.rest_.size()) png_error(png, "it is truncated");
    std::memcpy(to, reader.rest_.data(), count);
    reader.rest_.remove_prefix(count);
  }

  std::string_view rest_;
  std::array<char, 128> message_{};
  png_structp png_;
  png_infop info_ = nullptr;
};

[[noreturn]] void refuse_png(const std::string& name, std::string what, std::string found,
                             std::string remedy) {
  throw FileError({.what = std::move(what),
                   .where = name,
                   .expected = "a PNG file",
                   .found = std::move(found),
                   .remedy = std::move(remedy)});
}

/// Numbers that each pixel has beside how much can be seen of it, laid on black.
std::vector<std::uint8_t> laid_on_black(const std::vector<png_byte>& pixels, std::size_t channels) {
  constexpr unsigned whole = 255;
  std::vector<std::uint8_t> bytes;
  bytes.reserve(pixels.size() / (channels + 1) * channels);
  for (std::size_t at = 0; at < pixels.size(); at += channels + 1) {
    const unsigned seen = pixels[at + channels];
    for (std::size_t channel = 0; channel < channels; ++channel)
      bytes.push_back(static_cast<std::uint8_t>((pixels[at + channel] * seen + whole / 2) / whole));
  }
  return bytes;
}

}  // namespace

PngPicture parse_png(std::string_view bytes, const std::string& name) {
  constexpr std::string_view signature = "\x89PNG\r\n\x1a\n";
  if (!bytes.starts_with(signature)) {
    refuse_png(name, "this is no PNG file, whatever it is called",
               bytes.empty() ? "an empty file" : "other bytes",
               "save the picture as PNG with a program that draws or converts pictures");
  }
  PngReader png(bytes);
  const auto refuse_damaged = [&] {
    refuse_png(name, "the PNG file is damaged", png.message(), "copy or save it again");
  };
  if (!png.read_head()) refuse_damaged();
  const bool is_colour = png.has(PNG_COLOR_MASK_COLOR);
  PngPicture result{
      .picture = {.rows = png.rows(), .columns = png.columns(), .channels = is_colour ? 3 : 1},
      .had_palette = png.has(PNG_COLOR_MASK_PALETTE),
      .had_16_bits = png.depth() == 16,
      .had_alpha = png.is_see_through()};
  const double needed = static_cast<double>(png.rows()) * static_cast<double>(png.columns()) *
                        (is_colour ? 3.0 : 1.0);
  if (needed > static_cast<double>(machine_bytes()) / 4.0) {
    throw MemoryError(
        {.what = "a picture does not fit into memory",
         .where = name,
         .expected = fmt::format("at most {:.1f} GB", static_cast<double>(machine_bytes()) / 4e9),
         .found =
             fmt::format("{} × {} points, {:.1f} GB", png.rows(), png.columns(), needed / 1e9)});
  }
  if (needed > static_cast<double>(most_unpacked(bytes.size()))) {
    refuse_png(name, "the PNG file says that it holds more than a file of its size can",
               fmt::format("{} × {} points, said to be in {} bytes", png.rows(), png.columns(),
                           bytes.size()),
               "copy or save it again");
  }
  if (!png.ask_for_bytes()) refuse_damaged();
  std::vector<png_byte> pixels(png.row_bytes() * static_cast<std::size_t>(png.rows()));
  std::vector<png_bytep> rows;
  for (std::int64_t row = 0; row < png.rows(); ++row)
    rows.push_back(pixels.data() + png.row_bytes() * static_cast<std::size_t>(row));
  if (!png.read_rows(rows.data())) refuse_damaged();
  result.picture.bytes = laid_on_black(pixels, is_colour ? 3 : 1);
  return result;
}

PngPicture read_png(const std::filesystem::path& path) {
  return parse_png(read_file(path, "a PNG file"), path.string());
}

std::string to_png(const Raster& picture) {
  if (picture.channels != 1 && picture.channels != 3) {
    throw ShapeError({.what = "a PNG file cannot have this number of channels",
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
