#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <optional>
#include <tuple>
#include <vector>

#include "lattice/worksheet/explain.hpp"
#include "worksheet/record.hpp"

namespace lattice {

/// For which numbers of the lines a formula holds: those that stand there, or any others in their
/// place, so that it can be worked again with them.
enum class Holds : std::uint8_t { for_these, for_any };

/// Makes formulas over the named lines of a worksheet, and over the gradients of a sweep. What
/// several formulas have in common is written down once and kept, up to a limit.
class Author {
 public:
  /// @param in_full of sparse matrices of up to so many numbers formulas go through all of them,
  ///        and not through those alone that are kept
  Author(WorksheetRecord& record, const ReverseSweep* sweep, std::int64_t in_full,
         Told told = Told::by_probabilities, Holds holds = Holds::for_these)
      : record_(record), sweep_(sweep), in_full_(in_full), told_(told), holds_(holds) {}

  /// How the number on a calculated line is made.
  [[nodiscard]] Formula made(std::uint32_t position, const Index& at);

  /// Whether a formula that was just made tells a number by probabilities that stand above.
  [[nodiscard]] bool is_told_by_probabilities(const Formula& formula) const;

  /// How the gradient at a line is made: a term for each use. The line is not the sweep's result.
  [[nodiscard]] Formula gradient_made(std::uint32_t position, const Index& at);

  /// How what a line passes on to one of its inputs is made.
  [[nodiscard]] Formula passed_on(std::uint32_t position, std::size_t input, const Index& at);

  /// How the local derivative by an input is made: that by which a number that arrives at a line is
  /// multiplied, where there is one for each (`local_derivative`).
  /// @param at on the line where what is passed on is summed over what was stretched
  ///           (`Passing::Kind::number_by_number`), else on the input
  [[nodiscard]] Formula local(std::uint32_t position, std::size_t input, const Index& at);

 private:
  class View;
  class StretchedView;

  /// What is kept: of a line, which of the things it has in common, where, and how deep inside
  /// other formulas, since that decides what is written out in it.
  using Key = std::tuple<std::uint32_t, int, Index, int>;
  struct Kept {
    Formula formula;
    int cells;
  };

  using Write = std::function<Formula()>;

  /// Lines without a name are written out inside one another so many times, and as long as a
  /// formula has fewer cells than this; beyond that they appear by their number.
  static constexpr int deepest = 6;
  static constexpr int most_cells = 20'000;
  static constexpr int worth_keeping = 8;  ///< cells
  static constexpr int most_stored = 1'000'000;

  /// A number of the first named line with the softmax of another along an axis, or without one
  /// with its sigmoid, before a position.
  [[nodiscard]] std::optional<Formula> probability(std::uint32_t scores, std::optional<int> axis,
                                                   std::uint32_t before, const Index& at);

  [[nodiscard]] bool may_write_out() const { return depth_ < deepest && cells_ < most_cells; }
  [[nodiscard]] Formula in_common(std::uint32_t position, int which, const Index& at,
                                  const Write& write);
  [[nodiscard]] Formula deeper(const Write& write);
  [[nodiscard]] Formula value_written(std::uint32_t position, const Index& at);
  [[nodiscard]] Formula gradient_written(std::uint32_t position, const Index& at);
  [[nodiscard]] Formula value(std::uint32_t position, const Index& at);
  [[nodiscard]] Formula gradient(std::uint32_t position, const Index& at);
  [[nodiscard]] Formula cell(Cell::Kind kind, std::uint32_t position, const Index& at,
                             const Tensor& numbers);

  WorksheetRecord& record_;
  const ReverseSweep* sweep_;
  std::int64_t in_full_;
  int depth_ = 0;
  int cells_ = 0;  ///< in the formula that is written
  std::map<Key, Kept> kept_ = {};
  int cells_kept_ = 0;
  Told told_;
  Holds holds_;
  std::optional<std::uint32_t> probabilities_ = std::nullopt;  ///< that the last formula asked for
};

/// Explains many numbers of one worksheet, as `explain` and `explain_gradient` do one.
class Explainer {
 public:
  /// @param line any of the worksheet
  /// @param sweep for gradients; it has to outlive this
  /// @param in_full as for an author
  explicit Explainer(const Line& line, const ReverseSweep* sweep = nullptr,
                     std::int64_t in_full = 0, Told told = Told::by_probabilities,
                     Holds holds = Holds::for_these)
      : author_(WorksheetRecord::of(line), sweep, in_full, told, holds), sweep_(sweep) {}

  [[nodiscard]] Explanation value(const Line& line, const Index& at);
  [[nodiscard]] Explanation gradient(const Line& line, const Index& at);

  /// How a line passes on to one of its inputs, as for an author.
  [[nodiscard]] Formula passed_on(const Line& line, std::size_t input, const Index& at);
  [[nodiscard]] Formula local(const Line& line, std::size_t input, const Index& at);

  /// The offsets of numbers on a calculated line, or of its gradient, that are no more than what
  /// rounding leaves where terms cancel (`is_residue`). Of very many small numbers nothing is told.
  [[nodiscard]] std::vector<std::int64_t> residues(const Line& line, Cell::Kind kind);

 private:
  Author author_;
  const ReverseSweep* sweep_;
};

}  // namespace lattice
