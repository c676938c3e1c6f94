#pragma once

#include <cstdint>
#include <functional>
#include <string>

#include "lattice/judging/model.hpp"
#include "lattice/lessons/prepare.hpp"

namespace lattice {

/// A lesson with its trained network: trained now, or read from a model file.
struct TrainedLesson {
  std::string name;
  Prepared prepared;
  Network network;
  RunRecord run;
  bool has_own_rows = true;  ///< otherwise rows of another file, as the test part

  /// `test part`; for rows of another file the name of those.
  [[nodiscard]] std::string name_of_part(DataPart part) const;

  [[nodiscard]] Model model_at(const Network& moment) const {
    return model_of(moment, prepared.loss, prepared.split.train);
  }
};

/// Trains again from the start and calls `look` at `frames` moments, the first before the first
/// step and the last after the last step.
void each_frame(const TrainedLesson& trained, std::int64_t frames,
                const std::function<void(const std::string& when, const Network& network)>& look);

}  // namespace lattice
