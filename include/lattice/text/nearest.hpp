#pragma once

#include <span>
#include <string>
#include <string_view>

#include "lattice/text/error.hpp"

namespace lattice {

/// The candidate that `text` was most likely meant to be; empty when none is near: when more than
/// half of its letters would have to change.
/// Source: edit distance (Levenshtein, 1966).
[[nodiscard]] std::string nearest(std::string_view text, std::span<const std::string> candidates);

/// A remedy: `did you mean celadon?`, quoted for a shell where necessary; empty if none is near.
[[nodiscard]] std::string did_you_mean(std::string_view near);

/// The fields of an error for an unknown name: the known names, and the nearest.
[[nodiscard]] Trouble not_among(std::string what, std::string_view found,
                                std::span<const std::string> known);

}  // namespace lattice
