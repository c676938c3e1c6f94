#include "lattice/data/field_rows.hpp"

#include <algorithm>
#include <limits>

#include "lattice/text/error.hpp"

namespace lattice {

void FieldRows::add_field(std::string_view text) {
  const std::size_t end = text_.size() - starts_.back().text + text.size();
  if (end > std::numeric_limits<std::uint32_t>::max()) {
    throw MemoryError({.what = "a row of a table is too long",
                       .expected = "a row of less than 4 GiB",
                       .found = "more"});
  }
  text_ += text;
  ends_.push_back(static_cast<std::uint32_t>(end));
}

void FieldRows::reserve(std::size_t rows, std::size_t fields, std::size_t letters) {
  starts_.reserve(rows + 1);
  ends_.reserve(fields);
  text_.reserve(letters);
}

void FieldRows::set_letter(std::size_t row, std::size_t column, std::size_t at, char letter) {
  const auto place = (*this)[row][column].data() + at - text_.data();
  text_[static_cast<std::size_t>(place)] = letter;
}

bool operator==(const FieldRows& a, const FieldRows& b) {
  return std::ranges::equal(a, b, [](const FieldRows::Row& row, const FieldRows::Row& other) {
    return std::ranges::equal(row, other);
  });
}

}  // namespace lattice
