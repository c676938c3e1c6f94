#pragma once

#include <string>

#include "support/command.hpp"

/// Pages in a real browser.
namespace lattice::testing {

/// What a function of a script in tests/support saw on the page of a lesson, without a word on the
/// browser's console.
inline Json seen_on_page(const std::string& script, const std::string& what, const Words& lesson) {
  const Folder folder;
  const std::string page = folder.path() / "page.html";
  const Answer written = lattice(with(lesson, {"--html", page}));
  EXPECT_EQ(written.status, 0) << written.err;
  const Json seen = json_of(
      run_program("/usr/bin/python3", {LATTICE_SOURCE "/tests/support/" + script, page, what}));
  EXPECT_EQ(seen["console"], Json::array()) << what;
  return seen["seen"];
}

}  // namespace lattice::testing
