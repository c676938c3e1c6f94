#pragma once

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <string>

#include "support/command.hpp"

/// What tests of spreadsheets have in common.
namespace lattice::testing {

inline bool has_office() {
  return std::filesystem::exists("/usr/bin/soffice");
}

inline constexpr const char* no_office =
    "LibreOffice is not here: no spreadsheet was calculated anew (package libreoffice-calc)";

/// Calculates spreadsheets anew; see recalculate.py.
inline Json recalculated(const Folder& folder, const Json& jobs) {
  const std::string list = folder.file("jobs.json", jobs.dump());
  return json_of(
      run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/recalculate.py", list}));
}

inline void expect_near(const Json& number, const Json& expected, const std::string& where) {
  ASSERT_TRUE(number.is_number() && expected.is_number()) << where << ": " << number;
  const double wanted = expected.get<double>();
  EXPECT_NEAR(number.get<double>(), wanted, 1e-9 * std::max(1.0, std::abs(wanted))) << where;
}

/// A lesson whose books are small.
inline const Words small_lesson = {"work", "glazes", "--batch", "5"};

}  // namespace lattice::testing
