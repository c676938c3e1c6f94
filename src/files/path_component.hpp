#pragma once

#include <string>
#include <string_view>

namespace lattice {

/// Returns a name from outside, such as that of a class, as one component of a path: it can be
/// joined to a folder and stays in it. Slashes, control characters, a dot in front, and what is not
/// UTF-8 are written as the percent signs of a web address are; every other name stays as it is.
/// Two names never get the same component. Every path made from such a name goes through this
/// function.
/// Source: percent-encoding, RFC 3986, 2.1.
[[nodiscard]] std::string path_component(std::string_view name);

/// Returns the name that `path_component` made a component of; any other component as it is.
[[nodiscard]] std::string name_of_component(std::string_view component);

}  // namespace lattice
