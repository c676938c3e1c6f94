#pragma once

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include "lattice/lessons/prepare.hpp"

namespace lattice::testing {

inline Lesson lesson_of(const std::string& toml) {
  return parse_lesson(toml, "test.toml");
}

/// Lessons with every rule, loss and kind of layer, at a step at which rules remember something.
inline std::vector<std::pair<Lesson, std::int64_t>> worked_lessons() {
  const std::string glazes = "[data]\nset = \"glazes\"\n[training]\nbatch = 3\n";
  return {
      {lesson_of(glazes + "rule = \"descent\"\n[network]\nnet = \"dense 3, relu, dense 4\"\n"), 1},
      {lesson_of(glazes +
                 "rule = \"momentum\"\nl2 = 0.1\n[network]\nnet = \"dense 3, elu, dense 4\"\n"
                 "freeze = \"hidden.bias\"\nrate_multiplier = \"output = 0.1\"\n"),
       2},
      {lesson_of(
           glazes +
           "rule = \"rms\"\nweight_decay = 0.1\n[network]\nnet = \"dense 4, residual(dense 4, "
           "sigmoid), dense 4\"\n"),
       3},
      {lesson_of(glazes +
                 "rule = \"adam\"\nclip_norm = 0.01\n[network]\nnet = \"dense 3, dropout 0.4, "
                 "softplus, dense 4, softmax\"\nrate_multiplier = [\"hidden = 0.3\", \"output.bias "
                 "= 2.5\"]\n"),
       4},
      {lesson_of("[data]\nset = \"shrinkage\"\n[training]\nbatch = 4\nloss = \"mean squared\"\n"),
       2},
      {lesson_of(
           "[data]\nset = \"cracks\"\n[training]\nbatch = 4\n[network]\nnet = \"dense 2, tanh, "
           "dense 1\"\n"),
       1},
      {lesson_of(
           "[data]\nset = \"studios\"\nrows = 12\n[training]\nrule = \"momentum\"\nl2 = "
           "0.1\n[network]\nnet = \"neighbours, dense 3 without bias, tanh, neighbours, dense "
           "4\"\n"),
       2}};
}

}  // namespace lattice::testing
