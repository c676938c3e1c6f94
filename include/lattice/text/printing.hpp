#pragma once

#include <fmt/core.h>

#include <concepts>
#include <iosfwd>
#include <string>
#include <string_view>
#include <type_traits>

/// Printing with `fmt` and `<<` for types that can be converted to text.
namespace lattice {
namespace detail {

using TextFormatter = fmt::formatter<fmt::string_view>;

/// Writes a text, padded to the width of the format.
fmt::format_context::iterator put(const TextFormatter& format, std::string_view text,
                                  fmt::format_context& context);
void put(std::ostream& stream, std::string_view text);

/// The formatter for types with `text()` or `to_string`: `{}`, or `{:>20}`.
template <class T>
struct Printed : TextFormatter {
  [[nodiscard]] static std::string text_of(const T& value) {
    if constexpr (requires { value.text(); }) {
      return value.text();
    } else {
      return to_string(value);
    }
  }
  auto format(const T& value, fmt::format_context& context) const {
    return put(*this, text_of(value), context);
  }
};

}  // namespace detail

/// Prints the same as `fmt::print("{}", value)`.
template <class T>
requires std::is_class_v<T> && std::derived_from<fmt::formatter<T>, detail::Printed<T>>
    std::ostream& operator<<(std::ostream& stream, const T& value) {
  detail::put(stream, detail::Printed<T>::text_of(value));
  return stream;
}

}  // namespace lattice
