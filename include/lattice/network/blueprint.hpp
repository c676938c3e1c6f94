#pragma once

#include <span>
#include <string_view>
#include <vector>

#include "lattice/network/part.hpp"

namespace lattice {

/// Reads the parts of a network from one line of text.
///
/// @code
/// parse_blueprint("dense 8, tanh, dropout 0.2, dense 4");
/// parse_blueprint("dense 8 start he, relu, residual(dense 8 without bias, relu), last: dense 4");
/// parse_blueprint("3 times (residual(dense 5, tanh), normalise), dense 4");
/// @endcode
///
/// Parts stand in a row, with commas between them; a name and a colon may come first, and how many
/// times the part is taken: `3 times (dense 8, tanh)`. They are
/// - `dense UNITS`, then, if wanted, `without bias` or `with bias as input`, `start HOW` and
///   `bias start HOW`, where HOW is what `parse_start` reads;
/// - `sigmoid`, `tanh`, `relu`, `leaky-relu [LEAK]`, `softplus`, `elu [DEPTH]`;
/// - `softmax`;
/// - `dropout SHARE`, of pictures `of channels`, if wanted;
/// - `(PARTS)`, a group that is taken for one part;
/// - `residual(PARTS)`, then optionally `with projection PART`: what the input goes through on the
///   skip connection;
/// - for pictures `conv CHANNELS of ROWSxCOLUMNS`, then, if wanted, `stride N`, `padding N` or
///   `keeping size`, `from 0+1 1+2 …` (which channels feed each) or `from N at random [seed N]`,
///   `without bias`, `start HOW` and `bias start HOW`;
/// - `maximum` and `average`, each with `N` or `ROWSxCOLUMNS` (and stride, padding or keeping size,
///   if wanted), or with `all` for the whole picture;
/// - `flatten`;
/// - `normalise`, then, if wanted, `each example`, `decay SHARE` and `epsilon NUMBER`;
/// - of pictures `contrast SIZE`, then, if wanted, `subtractive` or `divisive`, and `epsilon
///   NUMBER`.
/// Behind any of them `without l2` may stand: no L2 term and no decay are for its weights.
/// @param own parts of one's own, each of which may stand there by its word
/// @throws SettingError that marks the word it cannot read, »so«.
[[nodiscard]] std::vector<Part> parse_blueprint(std::string_view text,
                                                std::span<const Part> own = {});

}  // namespace lattice
