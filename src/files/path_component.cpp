#include "files/path_component.hpp"

#include <fmt/format.h>

#include "lattice/text/letters.hpp"

namespace lattice {
namespace {

/// Stands for a name without a letter: no other name becomes it, since its percent sign would be
/// written out.
constexpr std::string_view for_no_name = "%";

int digit_of(char letter) {
  if (letter >= '0' && letter <= '9') return letter - '0';
  return letter >= 'A' && letter <= 'F' ? letter - 'A' + 10 : -1;
}

/// The byte that is written at a place as `%2F`; below 0 where none is.
int byte_at(std::string_view text, std::size_t at) {
  if (at + 2 >= text.size() || text[at] != '%') return -1;
  const int high = digit_of(text[at + 1]);
  const int low = digit_of(text[at + 2]);
  return high < 0 || low < 0 ? -1 : 16 * high + low;
}

}  // namespace

std::string path_component(std::string_view name) {
  if (name.empty()) return std::string(for_no_name);
  const bool has_other_bytes = !is_utf8(name);
  std::string component;
  for (std::size_t at = 0; at < name.size(); ++at) {
    const auto byte = static_cast<unsigned char>(name[at]);
    const bool is_control = byte < 0x20U || byte == 0x7FU || (has_other_bytes && byte >= 0x80U);
    const bool is_percent = byte == '%' && (name.size() == 1 || byte_at(name, at) >= 0);
    if (is_control || is_percent || byte == '/' || byte == '\\' || (byte == '.' && at == 0)) {
      component += fmt::format("%{:02X}", byte);
    } else {
      component += name[at];
    }
  }
  return component;
}

std::string name_of_component(std::string_view component) {
  std::string name;
  for (std::size_t at = 0; component != for_no_name && at < component.size(); ++at) {
    const int byte = byte_at(component, at);
    name += byte < 0 ? component[at] : static_cast<char>(byte);
    if (byte >= 0) at += 2;
  }
  return path_component(name) == component ? name : std::string(component);
}

}  // namespace lattice
