#include "worksheet/sheets/call.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "worksheet/sheets/reader.hpp"

namespace lattice {

Shape SheetCall::shape(std::size_t at) const {
  const SheetValue& value = arguments_[at];
  if (const auto* const line = std::get_if<Line>(&value)) return line->shape();
  const auto* const numbers = std::get_if<Tensor>(&value);
  return numbers == nullptr ? Shape() : numbers->shape();
}

void SheetCall::check_count(double numbers) const {
  sheets::check_count(numbers, most_numbers());
}

Shape SheetCall::as_extents() const {
  std::vector<std::int64_t> extents;
  double count = 1.0;
  for (const SheetValue& each : arguments_) {
    const auto* const number = std::get_if<double>(&each);
    const bool is_extent = number != nullptr && *number >= 1.0 && std::floor(*number) == *number;
    if (!is_extent) {
      throw SettingError({.what = "this is no extent of an axis",
                          .expected = "a whole number of 1 or more",
                          .found = number == nullptr ? "a line" : format_number(*number)});
    }
    count *= *number;
    check_count(count);
    extents.push_back(static_cast<std::int64_t>(*number));
  }
  return Shape(std::span<const std::int64_t>(extents));
}

bool SheetCall::has_line() const {
  return std::ranges::any_of(
      arguments_, [](const SheetValue& each) { return std::holds_alternative<Line>(each); });
}

Tensor SheetCall::tensor_of(const SheetValue& value) const {
  if (const auto* const number = std::get_if<double>(&value)) return tensor(*number, precision());
  const auto* const numbers = std::get_if<Tensor>(&value);
  if (numbers == nullptr) sheets::refuse_mixture();
  return *numbers;
}

std::vector<Tensor> SheetCall::tensors() const {
  std::vector<Tensor> all;
  all.reserve(arguments_.size());
  for (const SheetValue& each : arguments_)
    all.push_back(tensor_of(each));
  return all;
}

std::vector<Line> SheetCall::lines() const {
  const auto first = std::ranges::find_if(
      arguments_, [](const SheetValue& each) { return std::holds_alternative<Line>(each); });
  std::vector<Line> all;
  all.reserve(arguments_.size());
  for (const SheetValue& each : arguments_) {
    const auto* const line = std::get_if<Line>(&each);
    if (line != nullptr) {
      all.push_back(*line);
    } else if (first != arguments_.end()) {
      all.push_back(detail::data_beside(std::get<Line>(*first), tensor_of(each)));
    } else {
      sheets::refuse_mixture();
    }
  }
  return all;
}

namespace sheets {

void check_count(double numbers, std::int64_t most) {
  if (numbers <= static_cast<double>(most)) return;
  throw SettingError({.what = "a line may not have so many numbers",
                      .expected = fmt::format("at most {}", most),
                      .found = format_number(numbers)});
}

void refuse_mixture() {
  throw SettingError(
      {.what = "a line and numbers that are not on the worksheet cannot meet",
       .expected = "lines",
       .found = "plain numbers",
       .remedy = "give the numbers a name, in a line of their own: given c = [1, 2]"});
}

Call::Call(Reader& reader, std::vector<SheetValue> arguments, std::vector<Token> settings,
           std::string form)
    : SheetCall(std::move(arguments)),
      reader_(reader),
      settings_(reader.source(), std::move(settings)),
      form_(std::move(form)) {}

bool Call::has_setting() {
  settings_.takes(",");
  return !settings_.at_end();
}

bool Call::takes(std::string_view words) {
  std::vector<std::string_view> parts;
  for (std::size_t start = 0; start < words.size();) {
    const std::size_t stop = std::min(words.find(' ', start), words.size());
    parts.push_back(words.substr(start, stop - start));
    start = stop + 1;
  }
  const std::size_t skipped = settings_.next().is(",") ? 1 : 0;
  for (std::size_t part = 0; part < parts.size(); ++part) {
    const Token& token = settings_.after(skipped + part);
    if (!token.is_word(parts[part]) && !token.is(parts[part])) return false;
  }
  for (std::size_t part = 0; part < skipped + parts.size(); ++part)
    settings_.take();
  return true;
}

double Call::take_number(std::string_view what) {
  settings_.takes(",");
  const bool is_negative = settings_.takes("−");
  if (settings_.next().kind != Token::Kind::number)
    settings_.refuse(fmt::format("{} is missing", what), fmt::format("a number: {}", form_));
  const double number = settings_.take().number;
  return is_negative ? -number : number;
}

std::int64_t Call::take_whole(std::string_view what, std::int64_t low) {
  settings_.takes(",");
  const auto most = static_cast<double>(most_numbers());
  const Token& token = settings_.next();
  const double number = token.number;
  const bool is_whole = token.kind == Token::Kind::number && number <= most &&
                        number >= static_cast<double>(low) && std::floor(number) == number;
  if (!is_whole) {
    settings_.refuse(fmt::format("{} is missing", what),
                     fmt::format("a whole number from {} to {}: {}", low, most_numbers(), form_));
  }
  settings_.take();
  return static_cast<std::int64_t>(number);
}

std::optional<int> Call::takes_axis(const Shape& shape) {
  if (takes("axis")) {
    const bool from_last = settings_.takes("−");
    const int axis = static_cast<int>(take_whole("the axis", 0));
    return from_last ? -axis : axis;
  }
  if (settings_.next().kind != Token::Kind::name) return std::nullopt;
  const std::optional<Role> role = role_words.find(settings_.next().text);
  if (!role) return std::nullopt;
  std::vector<int> found;
  for (int axis = 0; axis < shape.rank(); ++axis) {
    if (shape.role(axis) == *role) found.push_back(axis);
  }
  if (found.size() != 1) {
    settings_.refuse(found.empty() ? "there is no such axis" : "several axes have this role",
                     fmt::format("an axis of {}, by its role or as axis 0", to_string(shape)));
  }
  settings_.take();
  return found.front();
}

Shape Call::take_shape() {
  const Axes axes = settings_.axes_inside();
  if (std::ranges::find(axes.extents, 0) != axes.extents.end())
    settings_.refuse("the extent of an axis is missing", fmt::format("all extents: {}", form_));
  Shape shape{std::span<const std::int64_t>(axes.extents)};
  for (std::size_t axis = 0; axis < axes.roles.size(); ++axis)
    shape.set_role(static_cast<int>(axis), axes.roles[axis]);
  return shape;
}

std::size_t Call::take_argument() {
  const Token token = settings_.next();
  if (token.kind == Token::Kind::number || token.is("−")) {
    arguments_.emplace_back(take_number("a line"));
  } else {
    const bool is_name = token.kind == Token::Kind::name || token.kind == Token::Kind::quoted ||
                         token.kind == Token::Kind::reference;
    if (!is_name) settings_.refuse("here a line is missing", "the name of a line");
    arguments_.push_back(reader_.line_of(settings_.take()));
  }
  return arguments_.size() - 1;
}

Random& Call::random() {
  return reader_.random();
}

std::int64_t Call::most_numbers() const {
  return reader_.most_numbers();
}

Precision Call::precision() const {
  return reader_.precision();
}

void Call::refuse_setting(const std::string& expected) {
  settings_.refuse("this setting does not belong to the function",
                   fmt::format("{}: {}", expected, form_));
}

void Call::check_is_used_up() {
  if (has_setting()) settings_.refuse("this setting does not belong to the function", form_);
}

}  // namespace sheets
}  // namespace lattice
