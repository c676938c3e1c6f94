#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include "lattice/learning/worked_example.hpp"

namespace lattice {

/// Numbers of a worked minibatch that are blank, for students to fill in.
struct Exercise {
  std::int64_t blanks = 0;  ///< how many are chosen at random, all over the worksheet

  /// Where those at random are chosen from: stages (`forward`, `loss`, `reverse`, `update`), layers
  /// and lines by name. Everywhere if empty.
  std::vector<std::string> in = {};

  /// How many numbers of each table are blank, by its name: `∂hidden` 2. In place of `blanks`, for
  /// another exercise like one that was chosen.
  std::map<std::string, std::int64_t> like = {};

  /// Numbers of more than six terms as well.
  bool hard = false;

  /// Numbers that are always blank: `hidden[0,2]`, `∂hidden.weight[1,0]`,
  /// `new output.bias[0]`.
  std::vector<std::string> named = {};

  std::uint64_t seed = 1;  ///< of the choice

  /// The tolerance of an answer, relative to the number; near 0, to a thousandth of the largest
  /// number in the table; for a new weight, to its change by the update. Above 0.
  double tolerance = 0.005;

  [[nodiscard]] bool is_asked_for() const { return blanks > 0 || !named.empty() || !like.empty(); }
};

/// The answers to an exercise.
struct AnswerKey {
  struct Answer {
    std::string number;  ///< `hidden[0,2]`
    std::string table;   ///< that it stands in
    double answer;
    double within;  ///< how far off it may be
  };

  std::string id;  ///< that tells it from other exercises; the page has it, too
  std::vector<Answer> answers = {};
};

/// The key of the exercise that a page of a worked example has.
/// @throws as `write_page` does.
[[nodiscard]] AnswerKey answer_key(const WorkedExample& example, const Exercise& exercise);

}  // namespace lattice
