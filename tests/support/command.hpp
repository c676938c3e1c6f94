#pragma once

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "support/process.hpp"

/// What tests of the command have in common.
namespace lattice::testing {

using Json = nlohmann::json;
using Words = std::vector<std::string>;

/// Runs the `lattice` command.
[[nodiscard]] inline Answer lattice(const Words& arguments) {
  return run_program(LATTICE_PROGRAM, arguments);
}

/// The JSON that the command answered with status 0.
inline Json json_of(const Answer& answer) {
  EXPECT_EQ(answer.status, 0) << answer.err;
  return Json::parse(answer.out);
}

/// What a shell answers; `$lattice` is the command in it.
inline Answer shell(const std::string& script) {
  return run_program("/bin/sh", {"-c", "lattice=" LATTICE_PROGRAM "; " + script});
}

/// Words and more words.
inline Words with(Words words, const Words& more) {
  words.insert(words.end(), more.begin(), more.end());
  return words;
}

}  // namespace lattice::testing
