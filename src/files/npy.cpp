#include "lattice/files/npy.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>
#include <optional>
#include <vector>

#include "files/file.hpp"
#include "files/number_bytes.hpp"
#include "files/unpacked.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "tensor/visit.hpp"

namespace lattice {
namespace {

constexpr std::string_view magic = "\x93NUMPY";

[[noreturn]] void refuse_array(const std::string& name, std::string what, std::string wanted,
                               std::string found) {
  throw FileError({.what = std::move(what),
                   .where = name,
                   .expected = std::move(wanted),
                   .found = std::move(found)});
}

/// What the header of an array says.
struct ArrayHeader {
  char order = '<';  ///< of bytes: the least significant first, or `>`
  char kind = 'f';   ///< f floating, i whole, u whole and not below 0, b true or false
  std::size_t size = 8;
  bool first_axis_fastest = false;
  Shape shape = {};
  std::size_t length = 0;  ///< of all that stands in front of the numbers
};

/// What stands behind a key of the header, from its first sign that is not blank.
std::string_view behind(std::string_view header, std::string_view key, const std::string& name) {
  const std::size_t at = header.find(key);
  if (at == std::string_view::npos) {
    refuse_array(name, "the header of the array lacks a word", std::string(key),
                 fmt::format("{}", header.substr(0, 200)));
  }
  std::string_view rest = header.substr(at + key.size());
  rest.remove_prefix(std::min(rest.find_first_not_of(" :"), rest.size()));
  return rest;
}

Shape shape_in(std::string_view text, const std::string& name) {
  const std::size_t end = text.find(')');
  if (!text.starts_with('(') || end == std::string_view::npos)
    refuse_array(name, "the shape of the array cannot be read", "(60000, 28, 28)",
                 std::string(text.substr(0, 60)));
  std::vector<std::int64_t> extents;
  for (std::string_view rest = text.substr(1, end - 1); !trimmed(rest).empty();) {
    const std::size_t comma = std::min(rest.find(','), rest.size());
    const std::optional<std::int64_t> extent = parse_whole_number(trimmed(rest.substr(0, comma)));
    if (!extent || *extent < 1) {
      refuse_array(name, "the shape of the array cannot be used", "1 or more along each axis",
                   std::string(text.substr(0, end + 1)));
    }
    extents.push_back(*extent);
    rest.remove_prefix(std::min(comma + 1, rest.size()));
  }
  if (extents.size() > static_cast<std::size_t>(max_rank)) {
    refuse_array(name, "an array with this many axes", fmt::format("up to {}", max_rank),
                 fmt::format("{}", extents.size()));
  }
  return Shape(std::span<const std::int64_t>(extents));
}

ArrayHeader header_in(std::string_view bytes, const std::string& name) {
  constexpr std::size_t before = 8;
  const auto byte = [&](std::size_t at) { return static_cast<unsigned char>(bytes[at]); };
  if (!bytes.starts_with(magic) || bytes.size() < before + 4)
    refuse_array(name, "this is no NPY file", "an array as NumPy saves it", "other bytes");
  const bool is_first = byte(6) == 1;
  const std::size_t start = before + (is_first ? 2 : 4);
  std::size_t length = 0;
  for (std::size_t at = start; at-- > before;)
    length = length << 8U | byte(at);
  if (byte(6) < 1 || byte(6) > 3 || length > bytes.size() - std::min(start, bytes.size())) {
    refuse_array(name, "the header of the array is truncated, or is of an unknown version",
                 "version 1, 2 or 3", fmt::format("version {}", byte(6)));
  }
  const std::string_view text = bytes.substr(start, length);
  const std::string_view type = behind(text, "'descr'", name);
  ArrayHeader header{.length = start + length};
  const std::string_view word =
      type.starts_with('\'') ? type.substr(1, type.find('\'', 1) - 1) : "";
  const std::optional<std::int64_t> size =
      word.size() >= 3 ? parse_whole_number(word.substr(2)) : std::nullopt;
  const bool is_number =
      size && ((word[1] == 'f' && (*size == 4 || *size == 8)) || (word == "|b1") ||
               ((word[1] == 'i' || word[1] == 'u') &&
                (*size == 1 || *size == 2 || *size == 4 || *size == 8)));
  if (!is_number) {
    refuse_array(name, "an array of unsupported values",
                 "whole or floating numbers of 1 to 8 bytes", std::string(type.substr(0, 40)));
  }
  header.order = word[0];
  header.kind = word[1];
  header.size = static_cast<std::size_t>(*size);
  header.first_axis_fastest = behind(text, "'fortran_order'", name).starts_with("True");
  header.shape = shape_in(behind(text, "'shape'", name), name);
  return header;
}

double number_in(const ArrayHeader& header, const char* bytes) {
  std::uint64_t bits = 0;
  for (std::size_t at = 0; at < header.size; ++at) {
    const std::size_t from = header.order == '>' ? at : header.size - 1 - at;
    bits = bits << 8U | static_cast<unsigned char>(bytes[from]);
  }
  if (header.kind == 'f') {
    return header.size == 4
               ? static_cast<double>(std::bit_cast<float>(static_cast<std::uint32_t>(bits)))
               : std::bit_cast<double>(bits);
  }
  if (header.kind != 'i') return static_cast<double>(bits);
  const auto spare = static_cast<unsigned>(64 - 8 * header.size);
  return static_cast<double>(static_cast<std::int64_t>(bits << spare) >> spare);
}

/// Where a number stands in the file, of which the first axis runs fastest.
std::int64_t place_of(const Shape& shape, std::int64_t offset) {
  const Index at = shape.index(offset);
  std::int64_t place = 0;
  for (int axis = shape.rank() - 1; axis >= 0; --axis)
    place = place * shape[axis] + at[axis];
  return place;
}

}  // namespace

Examples parse_npy(std::string_view bytes, const std::string& name) {
  if (is_gzipped(bytes)) return parse_npy(Unpacked(bytes, name).rest(), name);
  const ArrayHeader header = header_in(bytes, name);
  const std::string_view body = bytes.substr(header.length);
  const auto count = static_cast<std::size_t>(header.shape.count());
  if (body.size() / header.size < count || body.size() != count * header.size) {
    refuse_array(
        name, "the array is truncated, or continues after its end",
        fmt::format("{} numbers of {} bytes for {}", count, header.size, to_string(header.shape)),
        fmt::format("{} bytes", body.size()));
  }
  if (header.kind == 'u' && header.size == 1 && !header.first_axis_fastest &&
      header.shape.rank() > 0)
    return Examples::of_bytes(header.shape, {body.begin(), body.end()});
  const bool is_single = header.kind == 'f' && header.size == 4;
  Tensor numbers =
      Tensor::unfilled(header.shape, is_single ? Precision::single : Precision::double_);
  visit(numbers.precision(), [&]<class T>(T) {
    T* const to = numbers.writable<T>();
    for (std::size_t at = 0; at < count; ++at) {
      const auto offset = static_cast<std::int64_t>(at);
      const auto from = static_cast<std::size_t>(
          header.first_axis_fastest ? place_of(header.shape, offset) : offset);
      to[at] = static_cast<T>(number_in(header, body.data() + from * header.size));
    }
  });
  return numbers;
}

Examples read_npy(const std::filesystem::path& path) {
  return parse_npy(read_file(path, "an array as NumPy saves it"), path.string());
}

std::string to_npy(const Examples& numbers) {
  const Shape& shape = numbers.shape();
  std::string extents;
  for (int axis = 0; axis < shape.rank(); ++axis)
    extents += fmt::format("{}, ", shape[axis]);
  if (shape.rank() > 1) extents.resize(extents.size() - 2);
  const char* const type = numbers.are_bytes()                        ? "|u1"
                           : numbers.precision() == Precision::single ? "<f4"
                                                                      : "<f8";
  std::string header =
      fmt::format("{{'descr': '{}', 'fortran_order': False, 'shape': ({}), }}", type, extents);
  constexpr std::size_t whole_lines = 64;
  constexpr std::size_t before = 10;
  while ((before + header.size() + 1) % whole_lines != 0)
    header += ' ';
  header += '\n';
  std::string bytes(magic);
  bytes += '\1';
  bytes += '\0';
  bytes += static_cast<char>(header.size() & 0xFFU);
  bytes += static_cast<char>(header.size() >> 8U);
  bytes += header;
  if (numbers.are_bytes()) {
    const Examples here = numbers.in_memory();
    bytes.append(here.bytes().begin(), here.bytes().end());
    return bytes;
  }
  add_bytes(bytes, numbers.all(), ByteOrder::lowest_first);
  return bytes;
}

}  // namespace lattice
