#pragma once

#include <cstdint>

#include "lattice/worksheet/formula.hpp"

namespace lattice {

/// How tightly a kind of formula binds: a part that binds less tightly than its surroundings is put
/// in parentheses.
enum class Binding : std::uint8_t { sum, product, sign, power, atom };
[[nodiscard]] Binding binding_of(Formula::Kind kind);

}  // namespace lattice
