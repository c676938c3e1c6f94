#pragma once

#include <cstdint>

#include "lattice/data/table.hpp"
#include "lattice/lessons/lesson.hpp"

namespace lattice {

/// Only reads the data of a lesson.
/// @param outputs how many outputs the network has; 0 when that is not known
[[nodiscard]] TableReading read_data(const Lesson& lesson, std::int64_t outputs = 0);

/// Whether the files of a lesson are read as tables, and by no subject of their own.
[[nodiscard]] bool reads_table(const Lesson& lesson);

}  // namespace lattice
