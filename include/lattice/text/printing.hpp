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

/// The formatter for types without a text. It has a function `refuse<X>` whose `static_assert` says
/// what can be printed instead: the first line of what the compiler tells.
template <class T>
struct NotPrinted {
  static constexpr auto parse(fmt::format_parse_context& context) { return context.begin(); }
  template <class Context>
  auto format(const T&, Context& context) const {
    fmt::formatter<T>::template refuse<Context>();
    return context.out();
  }
};

/// Whether a type is printed by a header of its own in `lattice/show`.
template <class T>
inline constexpr bool is_shown_elsewhere = false;

/// Never true, but only found out where `X` is known.
template <class X>
inline constexpr bool never = false;

}  // namespace detail

/// Prints the same as `fmt::print("{}", value)`.
template <class T>
requires std::is_class_v<T> && std::derived_from<fmt::formatter<T>, detail::Printed<T>>
    std::ostream& operator<<(std::ostream& stream, const T& value) {
  detail::put(stream, detail::Printed<T>::text_of(value));
  return stream;
}

template <class T>
requires std::is_class_v<T> && std::derived_from<fmt::formatter<T>, detail::NotPrinted<T>>
    std::ostream& operator<<(std::ostream& stream, const T&) {
  fmt::formatter<T>::template refuse<T>();
  return stream;
}

}  // namespace lattice

template <class T>
requires lattice::detail::is_shown_elsewhere<T>
struct fmt::formatter<T, char, void> : lattice::detail::NotPrinted<T> {
  template <class X>
  static constexpr void refuse() {
    static_assert(lattice::detail::never<X>,
                  "a header says how this is printed: lattice/show/run.hpp for a RunRecord, "
                  "lattice/show/judgement.hpp for an Assessment or a ClassJudgement, "
                  "lattice/show/plan.hpp for a Plan");
  }
};
