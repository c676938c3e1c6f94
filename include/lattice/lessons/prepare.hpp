#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "lattice/data/split.hpp"
#include "lattice/data/table.hpp"
#include "lattice/learning/training.hpp"
#include "lattice/learning/worked_example.hpp"
#include "lattice/learning/worked_minibatch.hpp"
#include "lattice/lessons/lesson.hpp"

namespace lattice {

/// A lesson made ready: its data read, dealt out and scaled, its network at the start. The same
/// lesson gives the same numbers, whoever asks.
struct Prepared {
  /// As it was told; the numbers of a model that it begins from are among its starts.
  Lesson lesson;
  TableReading reading;  ///< the data as it was measured
  Split split;           ///< its parts, each batch of them prepared
  Network network;
  TrainSettings training;
  Loss loss;

  /// What it begins from.
  struct Beginning {
    std::string model;                  ///< the file
    std::vector<std::string> weights;   ///< those that start as they were learnt there
    std::vector<std::string> features;  ///< that these were learnt from
  };
  std::optional<Beginning> beginning = std::nullopt;

  [[nodiscard]] const Dataset& data() const { return reading.data; }

  /// What the minibatch of a step of the run is worked with, so that its scaling is on the
  /// worksheet.
  [[nodiscard]] WorkSettings work_settings() const;

  /// The minibatch of a step, counted from 1, worked; the run is trained as far as there. The rows
  /// of the minibatch are numbered as in the whole dataset.
  /// @throws SettingError when the run has no such step.
  [[nodiscard]] WorkedMinibatch work(std::int64_t step) const;

  /// The rows of the minibatch of a step, numbered as there, the network as it is before it, and
  /// how the pictures of the minibatch are moved.
  /// @throws SettingError when the run has no such step.
  struct Moment {
    std::vector<std::int64_t> rows;
    Network network;
    AugmentedEpoch augmented = {};
  };
  [[nodiscard]] Moment before(std::int64_t step) const;

  /// The minibatches of several steps, each once and in the order of the run.
  /// @param to_the_end trains on to the end of the run and puts its figures into the example
  /// @throws SettingError when the run has no such step, or none was named.
  [[nodiscard]] WorkedExample work(std::vector<std::int64_t> steps, bool to_the_end = false) const;

  /// The lesson with all that it leaves out filled in by what is in force without it.
  [[nodiscard]] Lesson in_full() const;

  /// What the lesson is called: its title, or the data and the network.
  [[nodiscard]] std::string title() const;

  /// The settings, a few words each.
  [[nodiscard]] std::vector<std::string> in_words(int digits = usual_digits) const;
};

/// Makes a lesson ready; or one fold of it. @throws what reading, splitting and building do.
[[nodiscard]] Prepared prepare(const Lesson& lesson, std::optional<Fold> fold = std::nullopt);

/// How many outputs the last layer with units of a blueprint has; 0 when that is not known.
[[nodiscard]] std::int64_t outputs_of(const std::string& blueprint);

/// The rule of a lesson. @throws NameError for a setting that its rule does not have.
[[nodiscard]] UpdateRule rule_of(const Lesson& lesson);

}  // namespace lattice
