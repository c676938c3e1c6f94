#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/show/terminal.hpp"
#include "lattice/text/letters.hpp"

namespace lattice {

/// A table of texts: numbers are set to the right, words to the left.
class TextTable {
 public:
  enum class Set { left, right };

  struct Heading {
    std::string text;
    Set set = Set::right;
  };

  struct Entry {
    Entry(const std::string& text_, std::string_view ink_ = {})
        : text(harmless(text_)), ink(ink_) {}
    Entry(const char* text_) : text(text_) {}

    std::string text;
    std::string_view ink;  ///< a colour of `ink.hpp`, or none
  };

  explicit TextTable(std::vector<Heading> headings) : headings_(std::move(headings)) {
    for (Heading& heading : headings_)
      heading.text = harmless(heading.text);
  }

  /// @param row its first entries; the others are empty
  void add(std::vector<Entry> row) {
    row.resize(headings_.size(), Entry(""));
    rows_.push_back(std::move(row));
  }

  /// Puts other texts into the first column.
  void label_rows(const std::vector<std::string>& labels);

  /// Whether no text has to be cut short.
  [[nodiscard]] bool fits(std::size_t width) const;

  /// Ends in a line break. Text that does not fit into the page is shortened with a `…`, its end
  /// kept.
  [[nodiscard]] std::string text(const TerminalStyle& style) const;

 private:
  [[nodiscard]] std::vector<std::size_t> widths() const;

  std::vector<Heading> headings_;
  std::vector<std::vector<Entry>> rows_;
};

/// The text, or as much of it as fits into `width` columns, and a `…`.
[[nodiscard]] std::string cut_to(const std::string& text, std::size_t width);

/// The same with the end kept, in which names often differ: `kiln_temperature…_of_shelf_3`.
[[nodiscard]] std::string shortened(const std::string& text, std::size_t width);

/// Names without the words that all of them begin and end with; empty for one that has no others.
[[nodiscard]] std::vector<std::string> what_differs(const std::vector<std::string>& names);

}  // namespace lattice
