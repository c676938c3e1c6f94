#pragma once

#include <cstdint>
#include <string>

#include "lattice/files/json.hpp"
#include "lattice/lessons/prepare.hpp"

namespace lattice::tools {

/// The time that a training run will take, estimated from a few of its steps.
struct RunTime {
  std::int64_t measured = 0;   ///< steps; 0 for a run without any
  double step = 0.0;           ///< seconds of one, the median
  double evaluation = 0.0;     ///< seconds of the evaluation after an epoch
  std::int64_t evaluated = 0;  ///< rows in it
  std::int64_t batch = 1;
  std::int64_t steps = 0;  ///< of the whole run
  std::int64_t steps_in_epoch = 0;
  std::int64_t epochs = 0;
  std::int64_t evaluations = 1;  ///< of the whole run; one before the first epoch
  int threads = 1;

  [[nodiscard]] double epoch() const { return step * static_cast<double>(steps_in_epoch); }
  [[nodiscard]] double run() const {
    return step * static_cast<double>(steps) + evaluation * static_cast<double>(evaluations);
  }
};

/// Trains a copy of the network for about two seconds, and evaluates some rows.
[[nodiscard]] RunTime time_of(const Prepared& prepared);

/// As a paragraph, and as JSON.
[[nodiscard]] std::string told(const RunTime& time, std::size_t width);
[[nodiscard]] Json to_json(const RunTime& time);

/// `12 s`, `3 min 20 s`, `2 h 5 min`.
[[nodiscard]] std::string time_text(double seconds);

}  // namespace lattice::tools
