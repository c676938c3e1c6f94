#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "lattice/learning/work_entry.hpp"
#include "lattice/learning/worked_example.hpp"
#include "lattice/text/wrapping.hpp"
#include "lattice/worksheet/patches.hpp"

/// Text for a terminal: ruled paper with a margin.
namespace lattice {

/// The style of text for a terminal.
struct TerminalStyle {
  bool colour = false;             ///< teal above 0, plum below, amber for headings
  int digits = usual_digits;       ///< significant digits of numbers
  std::int64_t most_rows = 10;     ///< longer tables are shortened, and say so
  std::size_t width = page_width;  ///< in columns: of what does not fit some is left out
};

/// A heading across the page: `── Forward ─────`; nothing for lines without one.
[[nodiscard]] std::string show_heading(std::string_view text, const TerminalStyle& style);

/// The names of the positions of a number, `node 7 Carla, unit 0`, and the other nodes in its
/// formula: `; with 24 Jonas, 37 Oskar`. Empty if none of its axes has names.
[[nodiscard]] std::string place_in_words(const AxisNames& names, const Line& line, const Index& at,
                                         const Formula& formula, const Worksheet& sheet);

/// An explanation, below the names of its positions: `example 0, class 2 shino`, or nothing.
[[nodiscard]] std::string show_explanation(const Chain& chain, const std::string& place,
                                           const Notation& notation,
                                           std::size_t width = page_width);

/// Patches as tables: the numbers of the picture, those of the kernel, and the products with their
/// sum. For large patches, and for more than a few, only the sums. Empty for no patch.
[[nodiscard]] std::string show_patches(const std::vector<Patch>& patches,
                                       const TerminalStyle& style);

/// A tensor as a table, with the roles of axes and the names of positions. What does not fit is
/// left out, with a note of how much.
[[nodiscard]] std::string show_tensor(const Tensor& tensor, const TerminalStyle& style,
                                      const AxisNames& names = {});

/// The first row of an entry of a worked sheet; empty if it has no line.
[[nodiscard]] std::string show_title(const WorkEntry& entry, const TerminalStyle& style);

/// The rows below it: its numbers, and what there is to say about them.
[[nodiscard]] std::string show_numbers(const WorkEntry& entry, const WorkedSheet& work,
                                       const TerminalStyle& style, const AxisNames& names = {});

/// The settings for showing a worked sheet.
struct WorkView {
  /// The open sections; of the others only the heading is shown. All if empty.
  std::vector<std::string> only = {};

  bool brief = false;  ///< every entry in one row, without its table
};

/// A worked sheet from the rows taken to the loss after the update, as far as it goes.
/// @throws NameError for an unknown section.
[[nodiscard]] std::string show_worked_sheet(const WorkedSheet& work, const TerminalStyle& style,
                                            const AxisNames& names = {}, const WorkView& view = {});

/// All minibatches of a worked example, with headings if there are several.
[[nodiscard]] std::string show_worked_example(const WorkedExample& example,
                                              const TerminalStyle& style,
                                              const WorkView& view = {});

/// A gradient check, weight by weight, with the element of the largest error.
[[nodiscard]] std::string show_check(const GradientCheck& check, const TerminalStyle& style);

}  // namespace lattice
