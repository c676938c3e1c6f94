#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "lattice/files/json.hpp"
#include "lattice/text/error.hpp"

/// The one place where JSON and CBOR are read and written: the library's readers and writers take
/// long to compile.
namespace lattice {
namespace {

/// Deeper than anything of ours: a document is read by functions that call themselves, and one that
/// is all brackets would use up the stack.
constexpr int deepest = 64;

FileError broken(std::string_view format, const std::string& found) {
  return FileError({.what = fmt::format("this is not {}", format),
                    .expected = fmt::format("a whole {} document", format),
                    .found = found});
}

/// Goes through a document without keeping any of it, and says what is wrong with it.
class Inspector : public nlohmann::json_sax<Json> {
 public:
  explicit Inspector(std::string_view format) : format_(format) {}

  bool null() override { return true; }
  bool boolean(bool) override { return true; }
  bool number_integer(number_integer_t) override { return true; }
  bool number_unsigned(number_unsigned_t) override { return true; }
  bool number_float(number_float_t, const string_t&) override { return true; }
  bool string(string_t&) override { return true; }
  bool binary(binary_t&) override { return true; }
  bool key(string_t&) override { return true; }
  bool start_object(std::size_t) override { return go_in(); }
  bool start_array(std::size_t) override { return go_in(); }
  bool end_object() override { return go_out(); }
  bool end_array() override { return go_out(); }

  bool parse_error(std::size_t byte, const std::string&,
                   const nlohmann::detail::exception& error) override {
    constexpr int number_out_of_range = 406;
    throw broken(format_, error.id == number_out_of_range
                              ? std::string("a number that is too large")
                              : fmt::format("something that ends or breaks off at byte {}", byte));
  }

 private:
  bool go_in() {
    if (++depth_ <= deepest) return true;
    throw FileError({.what = fmt::format("this {} is nested too deeply", format_),
                     .expected = fmt::format("lists and objects in one another, up to {}", deepest),
                     .found = "more"});
  }
  bool go_out() {
    --depth_;
    return true;
  }

  std::string_view format_;
  int depth_ = 0;
};

}  // namespace

std::string json_text(const Json& json, int indent) {
  return json.dump(indent, ' ', false, Json::error_handler_t::replace);
}

Json parse_json(std::string_view text) {
  Inspector inspector("JSON");
  Json::sax_parse(text, &inspector);
  return Json::parse(text);
}

std::string to_cbor(const Json& json) {
  std::string bytes;
  Json::to_cbor(json, bytes);
  return bytes;
}

Json parse_cbor(std::string_view bytes) {
  Inspector inspector("CBOR");
  Json::sax_parse(bytes, &inspector, Json::input_format_t::cbor);
  try {
    return Json::from_cbor(bytes);
  } catch (const Json::exception&) {
    // A length that no list can have is noticed only where the list is made.
    throw broken("CBOR", "a list or an object longer than the document");
  }
}

}  // namespace lattice
