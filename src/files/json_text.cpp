#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "lattice/tensor/error.hpp"

/// The one place where JSON and CBOR are read and written: the library's readers and writers take
/// long to compile.
namespace lattice {
namespace {

FileError broken(const char* format, const Json::parse_error& error) {
  return FileError(
      {.what = fmt::format("this is not {}", format),
       .expected = fmt::format("a whole {} document", format),
       .found = fmt::format("something that ends or breaks off at byte {}", error.byte)});
}

}  // namespace

std::string json_text(const Json& json, int indent) {
  return json.dump(indent, ' ', false, Json::error_handler_t::replace);
}

Json parse_json(std::string_view text) {
  try {
    return Json::parse(text);
  } catch (const Json::parse_error& error) {
    throw broken("JSON", error);
  }
}

std::string to_cbor(const Json& json) {
  std::string bytes;
  Json::to_cbor(json, bytes);
  return bytes;
}

Json parse_cbor(std::string_view bytes) {
  try {
    return Json::from_cbor(bytes);
  } catch (const Json::parse_error& error) {
    throw broken("CBOR", error);
  }
}

}  // namespace lattice
