#pragma once

#include "lattice/tensor/precision.hpp"

namespace lattice {

/// Calls `work` with a zero of the C++ type that a precision stands for.
template <class Work>
decltype(auto) visit(Precision precision, Work&& work) {
  if (precision == Precision::double_) return work(double{});
  return work(float{});
}

}  // namespace lattice
