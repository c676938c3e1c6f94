#pragma once

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <array>
#include <cmath>
#include <cstdint>
#include <limits>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "files/number_bytes.hpp"
#include "lattice/files/json.hpp"
#include "lattice/tensor/tensor.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/words.hpp"

namespace lattice::model_files {

/// Numbers for which JSON has no word, and the words they get in a model file.
inline constexpr std::array<std::pair<std::string_view, double>, 3> number_words = {
    {{"NaN", std::numeric_limits<double>::quiet_NaN()},
     {"infinity", std::numeric_limits<double>::infinity()},
     {"-infinity", -std::numeric_limits<double>::infinity()}}};

/// The number that stands there, or that the word for it means.
inline std::optional<double> number_of(const Json& json) {
  if (json.is_number()) return json.get<double>();
  if (!json.is_string()) return std::nullopt;
  for (const auto& [word, number] : number_words) {
    if (json.get_ref<const std::string&>() == word) return number;
  }
  return std::nullopt;
}

/// A place in a model file, for reading it and for saying what is wrong there.
class Reader {
 public:
  Reader(const Json& json, std::string name, std::string path = "")
      : json_(&json), name_(std::move(name)), path_(std::move(path)) {}

  [[nodiscard]] Reader operator[](const std::string& key) const {
    const std::string path = path_.empty() ? key : path_ + "." + key;
    if (!json_->is_object() || !json_->contains(key)) {
      throw FileError({.what = fmt::format("{} is not a whole model file", name_),
                       .where = path_.empty() ? "at the top" : path_,
                       .expected = fmt::format("'{}'", key),
                       .found = json_->is_object() ? "no such member" : json_->type_name()});
    }
    return {(*json_)[key], name_, path};
  }

  [[nodiscard]] const Json& json() const { return *json_; }
  [[nodiscard]] bool is_null() const { return json_->is_null(); }

  [[nodiscard]] const Json& object() const {
    if (!json_->is_object()) refuse("an object");
    return *json_;
  }

  /// A text in UTF-8, without control characters.
  [[nodiscard]] std::string text() const {
    if (!json_->is_string()) refuse("a text");
    std::string text = json_->get<std::string>();
    if (const std::optional<std::string> unwelcome = unwelcome_in(text))
      refuse("a text in UTF-8, without control characters",
             fmt::format("'{}', with {}", text, *unwelcome));
    return text;
  }

  template <class Value>
  [[nodiscard]] Value one_of(const Words<Value>& words) const {
    const std::string found = text();
    const std::optional<Value> value = words.find(found);
    if (!value) refuse(fmt::format("one of '{}'", fmt::join(words.all(), "', '")));
    return *value;
  }

  [[nodiscard]] std::vector<std::string> texts() const {
    std::vector<std::string> all;
    for (const Reader& item : items())
      all.push_back(item.text());
    return all;
  }

  [[nodiscard]] bool truth() const {
    if (!json_->is_boolean()) refuse("true or false");
    return json_->get<bool>();
  }

  /// A whole number, `lowest` or more, that can be counted.
  [[nodiscard]] std::int64_t whole(std::int64_t lowest = 0) const {
    constexpr auto highest = static_cast<std::uint64_t>(most_counted);
    const bool is_more = json_->is_number_unsigned() && json_->get<std::uint64_t>() > highest;
    if (is_more) refuse(fmt::format("a whole number up to {}", most_counted));
    if (!json_->is_number_integer() || json_->get<std::int64_t>() < lowest)
      refuse(fmt::format("a whole number, {} or more", lowest));
    return json_->get<std::int64_t>();
  }

  /// A number, NaN and infinity among them; null stands for NaN.
  [[nodiscard]] double number() const {
    if (json_->is_null()) return std::numeric_limits<double>::quiet_NaN();
    const std::optional<double> number = number_of(*json_);
    if (!number) refuse("a number");
    return *number;
  }

  /// Lists in one another or, in CBOR, bytes.
  [[nodiscard]] Tensor tensor(const Shape& shape, Precision precision) const {
    if (json_->is_binary()) {
      const auto& bytes = json_->get_binary();
      const std::string_view view(reinterpret_cast<const char*>(bytes.data()), bytes.size());
      if (std::optional<Tensor> read = tensor_of_bytes(view, shape, precision))
        return *std::move(read);
      refuse(fmt::format("the bytes of {} numbers, {} each", shape.count(),
                         precision == Precision::single ? 4 : 8),
             fmt::format("{}", bytes.size()));
    }
    std::vector<double> numbers;
    collect(*json_, shape, 0, numbers);
    return lattice::tensor(shape, numbers, precision);
  }

  [[noreturn]] void refuse(const std::string& expected, std::string found = "") const {
    if (found.empty()) {
      found = json_text(*json_);
      if (found.size() > 60) found = json_->type_name();
    }
    throw FileError({.what = fmt::format("{} holds something that cannot be used", name_),
                     .where = path_,
                     .expected = expected,
                     .found = std::move(found)});
  }

  [[nodiscard]] std::vector<Reader> items() const {
    if (!json_->is_array()) refuse("a list");
    std::vector<Reader> all;
    for (std::size_t at = 0; at < json_->size(); ++at)
      all.emplace_back((*json_)[at], name_, fmt::format("{}[{}]", path_, at));
    return all;
  }

 private:
  void collect(const Json& part, const Shape& shape, int axis, std::vector<double>& numbers) const {
    if (axis == shape.rank()) {
      const std::optional<double> number = number_of(part);
      if (!number) refuse("numbers of the shape " + to_string(shape));
      numbers.push_back(*number);
      return;
    }
    if (!part.is_array() || std::ssize(part) != shape[axis]) {
      refuse("numbers of the shape " + to_string(shape),
             part.is_array() ? fmt::format("{} on axis {}", part.size(), axis) : part.type_name());
    }
    for (const Json& each : part)
      collect(each, shape, axis + 1, numbers);
  }

  const Json* json_;
  std::string name_;
  std::string path_;
};

}  // namespace lattice::model_files
