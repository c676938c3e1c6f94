#pragma once

#include <compare>
#include <cstddef>
#include <cstdint>
#include <initializer_list>
#include <iterator>
#include <string>
#include <string_view>
#include <vector>

namespace lattice {

/// Rows of texts, such as the fields of a table. All texts stand in one piece of memory, one after
/// another, so that a table of a million rows takes little more than its file. A text that is taken
/// from it stays until the rows are changed.
///
/// @code
/// FieldRows rows = {{"18.5", "cup"}, {"20", "jug"}};
/// rows.push_back({"17", "cup"});
/// const std::string_view kind = rows[1][1];   // jug
/// @endcode
class FieldRows {
 public:
  /// Goes through something by position.
  template <class Of>
  class Iterator {
   public:
    using iterator_concept = std::random_access_iterator_tag;
    using iterator_category = std::input_iterator_tag;
    using value_type = typename Of::value_type;
    using difference_type = std::ptrdiff_t;
    using pointer = void;
    using reference = value_type;

    Iterator() = default;
    Iterator(const Of& of, std::size_t at) : of_(of), at_(static_cast<std::ptrdiff_t>(at)) {}

    value_type operator*() const { return of_[static_cast<std::size_t>(at_)]; }
    value_type operator[](std::ptrdiff_t by) const { return *(*this + by); }
    Iterator& operator+=(std::ptrdiff_t by) {
      at_ += by;
      return *this;
    }
    Iterator& operator-=(std::ptrdiff_t by) { return *this += -by; }
    Iterator& operator++() { return *this += 1; }
    Iterator& operator--() { return *this -= 1; }
    Iterator operator++(int) {
      const Iterator before = *this;
      ++*this;
      return before;
    }
    Iterator operator--(int) {
      const Iterator before = *this;
      --*this;
      return before;
    }
    friend Iterator operator+(Iterator a, std::ptrdiff_t by) { return a += by; }
    friend Iterator operator+(std::ptrdiff_t by, Iterator a) { return a += by; }
    friend Iterator operator-(Iterator a, std::ptrdiff_t by) { return a -= by; }
    friend std::ptrdiff_t operator-(const Iterator& a, const Iterator& b) { return a.at_ - b.at_; }
    friend bool operator==(const Iterator& a, const Iterator& b) { return a.at_ == b.at_; }
    friend auto operator<=>(const Iterator& a, const Iterator& b) { return a.at_ <=> b.at_; }

   private:
    Of of_ = {};
    std::ptrdiff_t at_ = 0;
  };

  /// One of the rows.
  class Row {
   public:
    using value_type = std::string_view;
    using iterator = Iterator<Row>;
    using const_iterator = iterator;

    Row() = default;
    Row(const FieldRows& rows, std::size_t row) : rows_(&rows), row_(row) {}

    [[nodiscard]] std::size_t size() const {
      return rows_->starts_[row_ + 1].field - rows_->starts_[row_].field;
    }
    [[nodiscard]] bool empty() const { return size() == 0; }

    /// @param column below `size()`
    [[nodiscard]] std::string_view operator[](std::size_t column) const {
      const Start& start = rows_->starts_[row_];
      const std::uint32_t* const end = rows_->ends_.data() + start.field + column;
      const std::size_t from = column == 0 ? 0 : *(end - 1);
      return {rows_->text_.data() + start.text + from, *end - from};
    }
    [[nodiscard]] std::string_view front() const { return (*this)[0]; }
    [[nodiscard]] std::string_view back() const { return (*this)[size() - 1]; }
    [[nodiscard]] iterator begin() const { return {*this, 0}; }
    [[nodiscard]] iterator end() const { return {*this, size()}; }

   private:
    const FieldRows* rows_ = nullptr;
    std::size_t row_ = 0;
  };

  using value_type = Row;

 private:
  /// All rows, for going through them.
  struct All {
    using value_type = Row;
    const FieldRows* rows = nullptr;
    Row operator[](std::size_t row) const { return {*rows, row}; }
  };

 public:
  using iterator = Iterator<All>;
  using const_iterator = iterator;

  FieldRows() = default;
  FieldRows(std::initializer_list<std::vector<std::string>> rows) {
    for (const std::vector<std::string>& row : rows)
      push_back(row);
  }

  [[nodiscard]] std::size_t size() const { return starts_.size() - 1; }
  [[nodiscard]] bool empty() const { return size() == 0; }

  /// @param row below `size()`
  [[nodiscard]] Row operator[](std::size_t row) const { return {*this, row}; }
  [[nodiscard]] Row front() const { return (*this)[0]; }
  [[nodiscard]] Row back() const { return (*this)[size() - 1]; }
  [[nodiscard]] iterator begin() const { return {{this}, 0}; }
  [[nodiscard]] iterator end() const { return {{this}, size()}; }

  /// Adds a row of texts.
  template <class Texts>
  void push_back(const Texts& texts) {
    for (const auto& text : texts)
      add_field(text);
    end_row();
  }
  void push_back(std::initializer_list<std::string_view> texts) {
    push_back<std::initializer_list<std::string_view>>(texts);
  }

  /// Adds a text to the row that is being written, and ends that row.
  /// @throws MemoryError for a row of 4 GiB or more.
  void add_field(std::string_view text);
  void end_row() { starts_.push_back({text_.size(), ends_.size()}); }

  /// Makes room for rows of so many fields and letters in all.
  void reserve(std::size_t rows, std::size_t fields, std::size_t letters);

  /// Leaves the first row out.
  void drop_first() { starts_.erase(starts_.begin()); }

  /// Puts another letter in place of one.
  void set_letter(std::size_t row, std::size_t column, std::size_t at, char letter);

  friend bool operator==(const FieldRows& a, const FieldRows& b);

 private:
  /// Where a row begins.
  struct Start {
    std::size_t text = 0;
    std::size_t field = 0;
  };

  std::string text_ = {};
  std::vector<std::uint32_t> ends_ = {};  ///< of each field in the text of its row
  std::vector<Start> starts_ = {{}};      ///< of each row, and of the one that is being written
};

}  // namespace lattice
