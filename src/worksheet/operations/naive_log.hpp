#pragma once

#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/form.hpp"

namespace lattice {

/// The log of probabilities where it is taken naively: of them as they are, or in
/// `Form::patched` of a little more.
template <Operand X>
[[nodiscard]] X naive_log(const X& p, Form form, double epsilon) {
  return form == Form::patched ? log(described("patched", p + epsilon)) : log(p);
}

}  // namespace lattice
