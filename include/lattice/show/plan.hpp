#pragma once

#include <cstdint>
#include <string>

#include "lattice/network/network.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// How groups of layers that follow one another and are alike are told.
enum class Groups : std::uint8_t {
  folded,  ///< the first of them layer by layer, the others in a row that says so
  opened   ///< each layer by layer
};

/// A network layer by layer: outputs, weights, and the total.
[[nodiscard]] std::string show_plan(const Plan& plan, const TerminalStyle& style,
                                    Groups groups = Groups::folded);

/// As `show_plan` writes it, without colours.
[[nodiscard]] std::string to_string(const Plan& plan);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Plan> : lattice::detail::Printed<lattice::Plan> {};
