#include "lattice/files/idx.hpp"

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>
#include <new>
#include <vector>

#include "files/file.hpp"
#include "files/number_bytes.hpp"
#include "files/unpacked.hpp"
#include "lattice/text/error.hpp"
#include "tensor/memory.hpp"
#include "tensor/visit.hpp"

namespace lattice {
namespace {

constexpr std::string_view expected = "an IDX file, plain or gzipped";

/// What the third byte of a file says of its numbers.
enum class Element : std::uint8_t {
  unsigned_byte = 0x08,
  signed_byte = 0x09,
  short_ = 0x0B,
  int_ = 0x0C,
  float_ = 0x0D,
  double_ = 0x0E
};

std::size_t bytes_of(Element element) {
  switch (element) {
    case Element::unsigned_byte:
    case Element::signed_byte:
      return 1;
    case Element::short_:
      return 2;
    case Element::int_:
    case Element::float_:
      return 4;
    case Element::double_:
      return 8;
  }
  return 0;
}

/// Bytes in the order of the file, the most significant first, as a whole number.
template <class Whole>
Whole whole_of(const std::uint8_t* bytes) {
  Whole number = 0;
  for (std::size_t at = 0; at < sizeof(Whole); ++at)
    number = static_cast<Whole>(static_cast<std::uint64_t>(number) << 8U | bytes[at]);
  return number;
}

double number_of(Element element, const std::uint8_t* bytes) {
  switch (element) {
    case Element::unsigned_byte:
      return *bytes;
    case Element::signed_byte:
      return static_cast<std::int8_t>(*bytes);
    case Element::short_:
      return static_cast<std::int16_t>(whole_of<std::uint16_t>(bytes));
    case Element::int_:
      return static_cast<std::int32_t>(whole_of<std::uint32_t>(bytes));
    case Element::float_:
      return static_cast<double>(std::bit_cast<float>(whole_of<std::uint32_t>(bytes)));
    case Element::double_:
      return std::bit_cast<double>(whole_of<std::uint64_t>(bytes));
  }
  return 0.0;
}

[[noreturn]] void refuse(const std::string& name, std::string what, std::string wanted,
                         std::string found, std::string remedy = "") {
  throw FileError({.what = std::move(what),
                   .where = name,
                   .expected = std::move(wanted),
                   .found = std::move(found),
                   .remedy = std::move(remedy)});
}

/// What stands in front of the numbers.
struct Header {
  Element element = Element::unsigned_byte;
  Shape shape;
};

/// @param most bytes that may come after it
Header header_of(Unpacked& file, std::size_t most, const std::string& name) {
  std::array<std::uint8_t, 4> magic{};
  const std::size_t there = file.take(magic.data(), magic.size());
  const auto element = static_cast<Element>(magic[2]);
  if (there < magic.size() || magic[0] != 0 || magic[1] != 0 || bytes_of(element) == 0) {
    refuse(name, "this is no IDX file",
           "two bytes 0, the type of its numbers (8, 9, 11 to 14), and how many axes it has",
           there == 0 ? "nothing"
                      : fmt::format("{}", fmt::join(magic.begin(), magic.begin() + there, " ")),
           "pictures are read from IDX, NPY, a folder of PNG files, or a CSV of pixels");
  }
  const std::size_t rank = magic[3];
  if (rank < 1 || rank > static_cast<std::size_t>(max_rank)) {
    refuse(name, "an IDX file with this many axes", fmt::format("1 to {}", max_rank),
           fmt::format("{}", rank));
  }
  std::array<std::int64_t, max_rank> extents{};
  double bytes = static_cast<double>(bytes_of(element));
  for (std::size_t axis = 0; axis < rank; ++axis) {
    std::array<std::uint8_t, 4> extent{};
    if (file.take(extent.data(), extent.size()) < extent.size()) {
      refuse(name, "the header is truncated", fmt::format("{} extents", rank),
             fmt::format("{}", axis), "copy or download it again");
    }
    extents.at(axis) = whole_of<std::uint32_t>(extent.data());
    bytes *= static_cast<double>(extents.at(axis));
  }
  const std::string by =
      fmt::format("{}", fmt::join(extents.begin(), extents.begin() + rank, " × "));
  if (bytes == 0.0) refuse(name, "a file of nothing", "1 or more along each axis", by);
  if (bytes > static_cast<double>(machine_bytes()) / 2.0) {
    refuse(name, "the file says that it holds more than fits into memory",
           fmt::format("at most {:.1f} GB", static_cast<double>(machine_bytes()) / 2e9),
           fmt::format("{} numbers, {:.1f} GB", by, bytes / 1e9),
           "check where it comes from; a part of it can be cut out by a program that writes IDX");
  }
  if (bytes > static_cast<double>(most)) {
    refuse(name, "the file says that it holds more than a file of its size can",
           fmt::format("at most {:.0f} MB of numbers", static_cast<double>(most) / 1e6),
           fmt::format("{} numbers, {:.0f} MB", by, bytes / 1e6),
           "the header, or the file, is damaged");
  }
  return {element, Shape(std::span<const std::int64_t>(extents.data(), rank))};
}

/// The rest of a file, which has to be so long.
std::vector<std::uint8_t> body_of(Unpacked& file, std::size_t bytes, const std::string& name) {
  // Who says that there is more than there is gets no memory for it.
  constexpr std::size_t piece = std::size_t{64} << 20U;
  std::vector<std::uint8_t> body;
  while (body.size() < bytes) {
    const std::size_t had = body.size();
    body.resize(std::min(bytes, std::max(had + piece, 2 * had)));
    const std::size_t taken = file.take(body.data() + had, body.size() - had);
    if (had + taken < body.size()) {
      refuse(name, "the file is truncated", fmt::format("{} bytes after the header", bytes),
             fmt::format("{}", had + taken), "copy or download it again");
    }
  }
  if (!file.at_end()) {
    refuse(name, "the file continues after its end",
           fmt::format("{} bytes after the header", bytes), "more",
           "the header, or the file, is damaged");
  }
  return body;
}

}  // namespace

Examples parse_idx(std::string_view bytes, const std::string& name) {
  Unpacked file(bytes, name);
  // A file that is not packed breaks off where it says too much.
  const std::size_t most = is_gzipped(bytes) ? most_unpacked(bytes.size()) : machine_bytes();
  const auto [element, shape] = header_of(file, most, name);
  const auto count = static_cast<std::size_t>(shape.count());
  const std::size_t each = bytes_of(element);
  std::vector<std::uint8_t> body = body_of(file, count * each, name);
  if (element == Element::unsigned_byte) return Examples::of_bytes(shape, std::move(body));
  Tensor numbers = Tensor::unfilled(shape, Precision::double_);
  double* const to = numbers.writable<double>();
  for (std::size_t at = 0; at < count; ++at)
    to[at] = number_of(element, body.data() + at * each);
  return numbers;
}

Examples read_idx(const std::filesystem::path& path) {
  return parse_idx(read_file(path, expected), path.string());
}

std::string to_idx(const Examples& numbers) {
  const Shape& shape = numbers.shape();
  const Element element = numbers.are_bytes()                        ? Element::unsigned_byte
                          : numbers.precision() == Precision::single ? Element::float_
                                                                     : Element::double_;
  std::string bytes = {'\0', '\0', static_cast<char>(element), static_cast<char>(shape.rank())};
  for (int axis = 0; axis < shape.rank(); ++axis) {
    const auto extent = static_cast<std::uint32_t>(shape[axis]);
    for (const unsigned above : {24U, 16U, 8U, 0U})
      bytes += static_cast<char>(extent >> above & 0xFFU);
  }
  if (numbers.are_bytes()) {
    const Examples here = numbers.in_memory();
    bytes.append(here.bytes().begin(), here.bytes().end());
    return bytes;
  }
  add_bytes(bytes, numbers.all(), ByteOrder::highest_first);
  return bytes;
}

std::string gzipped(std::string_view bytes) {
  constexpr int gzip_alone = 16;
  constexpr int usual_memory = 8;
  z_stream stream{};
  if (deflateInit2(&stream, Z_BEST_COMPRESSION, Z_DEFLATED, MAX_WBITS + gzip_alone, usual_memory,
                   Z_DEFAULT_STRATEGY) != Z_OK)
    throw std::bad_alloc();
  std::string packed(deflateBound(&stream, bytes.size()), '\0');
  stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(bytes.data()));
  stream.avail_in = static_cast<uInt>(bytes.size());
  stream.next_out = reinterpret_cast<Bytef*>(packed.data());
  stream.avail_out = static_cast<uInt>(packed.size());
  deflate(&stream, Z_FINISH);
  packed.resize(stream.total_out);
  deflateEnd(&stream);
  return packed;
}

}  // namespace lattice
