#pragma once

#include <string>

#include "lattice/text/error.hpp"

namespace lattice::testing {

/// What the error says that something is refused with; `nothing` when it is done.
template <class Refusal = Error, class Act>
std::string said(const Act& act) {
  try {
    static_cast<void>(act());
  } catch (const Refusal& error) {
    return error.what();
  }
  return "nothing";
}

}  // namespace lattice::testing
