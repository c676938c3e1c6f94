#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "lattice/learning/worked_example.hpp"
#include "lattice/worksheet/patches.hpp"

/// Text for a terminal: ruled paper with a margin, at most `page_width` columns wide.
namespace lattice {

/// How text for a terminal is written.
struct TerminalStyle {
  bool colour = false;          ///< teal above 0, plum below, amber for headings
  int digits = usual_digits;    ///< significant digits of numbers
  std::int64_t most_rows = 10;  ///< longer tables are shortened, and say so
};

/// A heading across the page: `── Forward ─────`.
[[nodiscard]] std::string show_heading(std::string_view text, const TerminalStyle& style);

/// What the place of a number stands for, `node 7 Carla, unit 0`, and which other nodes are in its
/// formula: `; with 24 Jonas, 37 Oskar`. Empty where none of its axes has names.
[[nodiscard]] std::string place_in_words(const AxisNames& names, const Line& line, const Index& at,
                                         const Formula& formula, const Worksheet& sheet);

/// An explanation, below what its place stands for: `example 0, class 2 shino`, or nothing.
[[nodiscard]] std::string show_explanation(const Chain& chain, const std::string& place,
                                           const Notation& notation);

/// Patches as tables: what is met, what it is multiplied by, and the products, with their sum. Of
/// large ones, and of more than a few, the sums alone. Empty for no patch.
[[nodiscard]] std::string show_patches(const std::vector<Patch>& patches,
                                       const TerminalStyle& style);

/// A tensor as a table, each axis labelled with its role, and its places with their names. What
/// does not fit is left out with a word about how much.
[[nodiscard]] std::string show_tensor(const Tensor& tensor, const TerminalStyle& style,
                                      const AxisNames& names = {});

/// One entry of a worked sheet, in the order in which it is worked.
struct WorkEntry {
  enum class Stage : std::uint8_t { rows, forward, loss, reverse, update, again };

  Stage stage;
  std::string section;  ///< of the worksheet; `rows taken` and `the same minibatch again` around it
  std::size_t line = 0;  ///< its number on the worksheet; 0 where there is none
  std::string title;     ///< its first row
  std::string numbers;   ///< what stands below
};

/// `forward`, `reverse sweep`, `update` …
[[nodiscard]] std::string_view word(WorkEntry::Stage stage);

/// What an entry stands under: its section; the whole sweep, and all updates, under one heading.
[[nodiscard]] std::string heading_of(const WorkEntry& entry);

/// The entries of a worked sheet: the rows taken, every line forward, the reverse sweep, the
/// updates, and the loss afterwards.
[[nodiscard]] std::vector<WorkEntry> entries_of(const WorkedSheet& work, const TerminalStyle& style,
                                                const AxisNames& names = {});

/// What is shown of a worked sheet.
struct WorkView {
  /// The sections that are open; of the others only their heading is shown. All when empty.
  std::vector<std::string> only = {};

  bool brief = false;  ///< every entry in one row, without its table
};

/// A worked sheet from the rows taken to the loss after the update, as far as it goes.
/// @throws NameError for a section that is not there.
[[nodiscard]] std::string show_worked_sheet(const WorkedSheet& work, const TerminalStyle& style,
                                            const AxisNames& names = {}, const WorkView& view = {});

/// Every minibatch of a worked example, each under a heading where there are several.
[[nodiscard]] std::string show_worked_example(const WorkedExample& example,
                                              const TerminalStyle& style,
                                              const WorkView& view = {});

/// A gradient check, weight by weight, with the place where engine and difference are farthest
/// apart.
[[nodiscard]] std::string show_check(const GradientCheck& check, const TerminalStyle& style);

}  // namespace lattice
