#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/learning/worked_sheet.hpp"

namespace lattice {

/// One entry of a worked sheet, in the order of the work: what every form of output shows.
struct WorkEntry {
  enum class Stage : std::uint8_t { rows, forward, loss, reverse, update, again };

  /// What a step of the sweep contributes to the gradient of an input.
  struct PassedOn {
    std::string to;    ///< the name of its line
    std::size_t line;  ///< and its number
    std::string symbols;
    Tensor contribution;
    bool is_whole;      ///< nothing else contributes
    std::size_t input;  ///< its position among the inputs of the entry's line, from 0
  };

  Stage stage;
  std::string section;  ///< of the worksheet; `rows taken` and `the same minibatch again` around it
  std::size_t line = 0;        ///< its number on the worksheet; 0 if it has none
  std::string name = {};       ///< `hidden`, `∂hidden`, `new hidden.weight`
  std::string title = {};      ///< the same, with its calculation in symbols for a calculated line
  std::string operation = {};  ///< of a line: `dense`, `given`
  Tensor numbers = {};         ///< the value, the gradient, or the weight after the update
  std::vector<PassedOn> passed_on = {};  ///< of a step of the sweep
  std::string note = {};                 ///< a sentence about it, if there is something to say

  /// The heading above it: its section; one heading for the sweep, and one for all updates.
  [[nodiscard]] std::string heading() const;
};

/// `hidden = x·hidden.weight + hidden.bias`, or only the name of a line that is not calculated.
[[nodiscard]] std::string title_of(const Line& line);

/// `forward`, `reverse sweep`, `update` …
[[nodiscard]] std::string_view word(WorkEntry::Stage stage);

/// The entries of a worked sheet: the rows taken, every line forward, the reverse sweep, the
/// updates, and the loss afterwards.
[[nodiscard]] std::vector<WorkEntry> entries_of(const WorkedSheet& work);

/// The rule of an update, its settings and the clip factor if gradients were clipped, a line each:
/// `momentum · rate 0.1 · decay 0.9`.
[[nodiscard]] std::vector<std::string> rule_in_words(const WorkedSheet& work, int digits);

}  // namespace lattice
