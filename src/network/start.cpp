#include "lattice/network/start.hpp"

#include <fmt/format.h>

#include <cmath>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/phrase.hpp"
#include "network/start_words.hpp"

namespace lattice {
namespace {

constexpr const char* all_starts =
    "zeros, constant 0.1, uniform -0.1 0.1, normal 0.05, xavier or he";

void check_finite(double number) {
  if (std::isfinite(number)) return;
  throw SettingError({.what = "this start value is not possible",
                      .expected = "a finite number",
                      .found = format_number(number)});
}

}  // namespace

Start Start::zeros() {
  return Start(Kind::zeros);
}

Start Start::constant(double number) {
  check_finite(number);
  return Start(Kind::constant, number);
}

Start Start::uniform(double low, double high) {
  check_finite(low);
  check_finite(high);
  if (low > high) {
    throw SettingError({.what = "the limits of a uniform start are in the wrong order",
                        .expected = "the smaller number first",
                        .found = fmt::format("{} {}", low, high)});
  }
  return Start(Kind::uniform, low, high);
}

Start Start::normal(double standard_deviation) {
  check_finite(standard_deviation);
  if (standard_deviation < 0.0) {
    throw SettingError({.what = "a normal start cannot have this standard deviation",
                        .expected = "0 or more",
                        .found = format_number(standard_deviation)});
  }
  return Start(Kind::normal, standard_deviation);
}

Start Start::xavier() {
  return Start(Kind::xavier);
}

Start Start::he() {
  return Start(Kind::he);
}

Start Start::numbers(Tensor numbers) {
  Start start(Kind::numbers);
  start.numbers_ = std::move(numbers);
  return start;
}

Tensor Start::draw(const Shape& shape, std::int64_t inputs, std::int64_t outputs, Random& random,
                   Precision precision) const {
  const auto bell = [&](double standard_deviation) {
    return lattice::normal(shape, 0.0, standard_deviation, random, precision);
  };
  switch (kind_) {
    case Kind::zeros:
      return lattice::zeros(shape, precision);
    case Kind::constant:
      return lattice::constant(shape, first_, precision);
    case Kind::uniform:
      return lattice::uniform(shape, first_, second_, random, precision);
    case Kind::normal:
      return bell(first_);
    case Kind::xavier:
      return bell(std::sqrt(2.0 / static_cast<double>(inputs + outputs)));
    case Kind::he:
      return bell(std::sqrt(2.0 / static_cast<double>(inputs)));
    case Kind::numbers:
      break;
  }
  if (numbers_.count() != shape.count()) {
    throw ShapeError({.what = "the number of start values does not match the weight",
                      .expected = fmt::format("{} for {}", shape.count(), to_string(shape)),
                      .found = fmt::format("{}", numbers_.count())});
  }
  return tensor(shape, numbers_.numbers(), precision);
}

std::string Start::text() const {
  switch (kind_) {
    case Kind::zeros:
      return "zeros";
    case Kind::constant:
      return fmt::format("constant {}", first_);
    case Kind::uniform:
      return fmt::format("uniform {} {}", first_, second_);
    case Kind::normal:
      return fmt::format("normal {}", first_);
    case Kind::xavier:
      return "xavier";
    case Kind::he:
      return "he";
    case Kind::numbers:
      return "numbers";
  }
  return "";
}

Start parse_start(std::string_view text) {
  const auto [kind, numbers, readable] = parse_phrase(text);
  if (readable && numbers.empty()) {
    if (kind == "zeros") return Start::zeros();
    if (kind == "xavier") return Start::xavier();
    if (kind == "he") return Start::he();
  }
  if (readable && numbers.size() == 1) {
    if (kind == "constant") return Start::constant(numbers[0]);
    if (kind == "normal") return Start::normal(numbers[0]);
  }
  if (readable && numbers.size() == 2 && kind == "uniform")
    return Start::uniform(numbers[0], numbers[1]);
  throw SettingError({.what = fmt::format("weights cannot start with '{}'", text),
                      .expected = all_starts,
                      .found = fmt::format("'{}'", text)});
}

Start take_start(Scanner& words) {
  const std::size_t first = words.position();
  std::string text;
  while (!words.at_end_of_phrase() && (text.empty() || parse_number(words.next())))
    text += fmt::format("{}{}", text.empty() ? "" : " ", words.take());
  return words.at_word(first, [&] { return parse_start(text); });
}

}  // namespace lattice
