#pragma once

#include <cstdint>
#include <string>

#include "lattice/network/network.hpp"
#include "lattice/show/terminal.hpp"

namespace lattice {

/// How consecutive equal groups of layers are shown.
enum class Groups : std::uint8_t {
  folded,  ///< the first layer by layer, the others in one row
  opened   ///< each layer by layer
};

/// A network layer by layer: outputs, weights, and the total.
[[nodiscard]] std::string show_plan(const Plan& plan, const TerminalStyle& style,
                                    Groups groups = Groups::folded);

/// As `show_plan`, without colours.
[[nodiscard]] std::string to_string(const Plan& plan);

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Plan> : lattice::detail::Printed<lattice::Plan> {};
