#pragma once

#include <cstdint>

#include "lattice/data/table.hpp"
#include "lattice/lessons/lesson.hpp"

namespace lattice {

/// Only reads the data of a lesson.
/// @param outputs how many outputs the network has; 0 when that is not known
[[nodiscard]] TableReading read_data(const Lesson& lesson, std::int64_t outputs = 0);

}  // namespace lattice
