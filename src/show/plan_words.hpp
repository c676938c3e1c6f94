#pragma once

#include <span>
#include <string>

#include "lattice/network/network.hpp"

/// How the rows of a plan are told, in a table as in a drawing.
namespace lattice {

/// `28×28, 8 channels` of a picture, else the shape with its roles.
[[nodiscard]] std::string shape_words(const Shape& example);

/// The name of groups that are alike: `block2`, `block2 to block9`.
[[nodiscard]] std::string name_of_alike(std::span<const Plan::Row> alike);

/// What they are: `like block`, `8 times like block`.
[[nodiscard]] std::string like(std::span<const Plan::Row> alike, const Plan::Row& first);

}  // namespace lattice
