#pragma once

#include <fmt/core.h>

#include <concepts>
#include <iosfwd>
#include <string>
#include <string_view>
#include <type_traits>

/// How `fmt` and `<<` print what can be made text of.
namespace lattice {
namespace detail {

using TextFormatter = fmt::formatter<fmt::string_view>;

/// Writes a text, filled up to a width where the format asks for one.
fmt::format_context::iterator put(const TextFormatter& format, std::string_view text,
                                  fmt::format_context& context);
void put(std::ostream& stream, std::string_view text);

/// The formatter of a type that has `text()`, or that `to_string` makes text of: `{}`, or `{:>20}`.
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

/// Prints what `fmt::print("{}", value)` prints.
template <class T>
requires std::is_class_v<T> && std::derived_from<fmt::formatter<T>, detail::Printed<T>>
    std::ostream& operator<<(std::ostream& stream, const T& value) {
  detail::put(stream, detail::Printed<T>::text_of(value));
  return stream;
}

}  // namespace lattice
