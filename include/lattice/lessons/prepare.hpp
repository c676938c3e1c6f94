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

/// A prepared lesson: its data read, split and scaled, its network initialised. The same lesson
/// always gives the same numbers.
struct Prepared {
  /// As given; the weights of a model that it starts from are among its initial weights.
  Lesson lesson;
  TableReading reading;  ///< the raw data
  Split split;           ///< its parts, with preparation
  Network network;
  TrainSettings training;
  Loss loss;

  /// The model of its initial weights.
  struct Beginning {
    std::string model;                  ///< the file
    std::vector<std::string> weights;   ///< those taken from it
    std::vector<std::string> features;  ///< it was trained on
  };
  std::optional<Beginning> beginning = std::nullopt;

  [[nodiscard]] const Dataset& data() const { return reading.data; }

  /// The settings of a worked minibatch of the run, with its scaling on the worksheet.
  [[nodiscard]] WorkSettings work_settings() const;

  /// The worked minibatch of a step, counted from 1, after training up to it. Its rows are numbered
  /// as in the whole dataset.
  /// @throws SettingError when the run has no such step.
  [[nodiscard]] WorkedMinibatch work(std::int64_t step) const;

  /// The rows of the minibatch of a step, numbered likewise, the network before it, and the
  /// augmentation of the minibatch.
  /// @throws SettingError when the run has no such step.
  struct Moment {
    std::vector<std::int64_t> rows;
    Network network;
    AugmentedEpoch augmented = {};
  };
  [[nodiscard]] Moment before(std::int64_t step) const;

  /// The minibatches of several steps, each once and in the order of the run.
  /// @param to_the_end trains to the end of the run and adds its figures to the example
  /// @param further so many minibatches that come after them, as far as the run goes
  /// @throws SettingError when the run has no such step, or none was named.
  [[nodiscard]] WorkedExample work(std::vector<std::int64_t> steps, bool to_the_end = false,
                                   std::int64_t further = 0) const;

  /// The lesson with all settings that are left out filled in.
  [[nodiscard]] Lesson in_full() const;

  /// The title of the lesson, or the data and the network.
  [[nodiscard]] std::string title() const;

  /// The settings in short.
  [[nodiscard]] std::vector<std::string> in_words(int digits = usual_digits) const;
};

/// Prepares a lesson, or one fold of it. @throws as reading, splitting and building do.
[[nodiscard]] Prepared prepare(const Lesson& lesson, std::optional<Fold> fold = std::nullopt);

/// The number of outputs of the last layer with units of a blueprint; 0 if unknown.
[[nodiscard]] std::int64_t outputs_of(const std::string& blueprint);

/// The settings of the run of a lesson on these rows.
/// @throws as `rule_of` does; SettingError for a minibatch of connected rows that is not all of
/// them.
[[nodiscard]] TrainSettings training_of(const Lesson& lesson, const RowSet& train);

/// The rule of a lesson. @throws NameError for a setting that its rule does not have.
[[nodiscard]] UpdateRule rule_of(const Lesson& lesson);

}  // namespace lattice
