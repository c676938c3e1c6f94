#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "show/formula_patterns.hpp"

/// Formulas taken apart, into what several have in common and what fills its gaps.
namespace lattice {

/// What fills a gap: a number of a table, and how far it moves in that table from one term to the
/// next along each of the repetitions that the gap is in. Without a table the number is the offset
/// itself.
struct Gap {
  std::optional<std::size_t> table;
  std::int64_t offset;
  std::vector<std::int64_t> along = {};
};

/// A formula or a part of one, taken apart.
struct Piece {
  std::string skeleton = {};
  std::vector<Gap> gaps = {};

  void append(const Piece& other) {
    skeleton += other.skeleton;
    gaps.insert(gaps.end(), other.gaps.begin(), other.gaps.end());
  }

  /// Whether another differs in nothing but where its gaps begin.
  [[nodiscard]] bool is_like(const Piece& other) const {
    return skeleton == other.skeleton &&
           std::ranges::equal(gaps, other.gaps, [](const Gap& a, const Gap& b) {
             return a.table == b.table && a.along == b.along;
           });
  }
};

/// Takes formulas apart. What many of them have in common, being one and the same formula, is taken
/// apart once.
class Dissector {
 public:
  Dissector(const WorkTables& tables, const Making& making);

  /// The formula of the number at a place, taken apart.
  [[nodiscard]] Piece dissect(std::int64_t place);

 private:
  /// A long list that was met, what was spelled out before it and after it.
  struct Met {
    Formula formula;
    std::vector<Formula> before;
    std::vector<Formula> after;
    Piece piece;
  };

  [[nodiscard]] Piece piece_of(const Formula& formula);
  [[nodiscard]] Piece fresh_piece_of(const Formula& formula);
  [[nodiscard]] Piece choice(const Formula& formula);
  [[nodiscard]] Piece pick(const Formula& formula);

  /// What a short name stands for is spelled out where it comes first: a softmax has its largest
  /// score in every term, and would else be as long as its terms are many, times two.
  [[nodiscard]] Piece shorthand(const Formula& formula);
  [[nodiscard]] Piece list(const std::string& head, std::span<const Formula> parts);
  [[nodiscard]] std::vector<Piece> pieces_of(std::span<const Formula> parts);

  /// Adds the piece of a formula that differs from the one before in its cells alone, as the terms
  /// of a sum do: there is no need to write it down anew. False where it is no such formula.
  [[nodiscard]] bool add_one_like_the_last(const Formula& formula, const Formula& last,
                                           std::vector<Piece>& pieces) const;

  /// @param gaps those of the formula are added
  [[nodiscard]] bool differs_in_cells_alone(const Formula& formula, const Formula& other,
                                            std::vector<Gap>& gaps) const;

  const WorkTables& tables_;
  const Making& making_;
  WorkTables::Spot inside_;
  std::vector<Formula> spelled_out_ = {};  ///< short names of this formula
  std::map<const Formula*, Met> met_ = {};
  std::size_t parts_met_ = 0;
};

}  // namespace lattice
