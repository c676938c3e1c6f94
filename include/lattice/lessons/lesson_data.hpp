#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/lessons/lesson.hpp"

namespace lattice {

/// Reads the data of a lesson.
/// @param outputs the number of outputs of the network; 0 if unknown
[[nodiscard]] TableReading read_data(const Lesson& lesson, std::int64_t outputs = 0);

/// Reads tables as one. @throws as `read_tables` does; SettingError for a file with a class
/// (`FileOfClass`).
[[nodiscard]] Table read_tables_of(const std::vector<std::string>& files, const CsvSettings& csv);

}  // namespace lattice
