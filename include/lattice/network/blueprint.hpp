#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"

namespace lattice {

class Scanner;

/// A word of blueprints, and how the layer after it is read. Subjects bring some along.
struct LayerWord {
  std::string_view word;          ///< `dense`
  Layer (*read)(Scanner& words);  ///< takes what belongs to the layer; throws SettingError
};

/// Lets `parse_blueprint` read a word.
void know(const LayerWord& word);

/// Proposes the layer that brings an example of one shape to another, for the projection of a
/// residual block: `conv 4 of 1x1 stride 2`; empty where it knows none.
using ProposeProjection = std::string (*)(const Shape& from, const Shape& to);

/// Lets messages about a residual block propose one.
void know(ProposeProjection propose);

/// Reads the layers of a network from one line of text.
///
/// @code
/// parse_blueprint("dense 8, tanh, dropout 0.2, dense 4");
/// parse_blueprint("dense 8 start he, relu, residual(dense 8 without bias, relu), last: dense 4");
/// parse_blueprint("3 times (residual(dense 5, tanh), normalise), dense 4");
/// @endcode
///
/// Layers stand in a row, with commas between them; a name and a colon may come first, and how many
/// times the layer is taken: `3 times (dense 8, tanh)`. They are
/// - `dense UNITS`, then, if wanted, `without bias` or `with bias as input`, `start HOW` and
///   `bias start HOW`, where HOW is what `parse_start` reads;
/// - `sigmoid`, `tanh`, `relu`, `leaky-relu [LEAK]`, `softplus`, `elu [DEPTH]`;
/// - `softmax`;
/// - `dropout SHARE`, then optionally `of channels`;
/// - `(LAYERS)`, a group that is taken for one layer;
/// - `residual(LAYERS)`, then optionally `with projection LAYER`: what the input goes through on
///   the skip connection;
/// - `flatten`;
/// - `normalise`, then, if wanted, `each example`, `decay SHARE` and `epsilon NUMBER`.
/// The subjects in use add theirs. After any of them `without l2` may stand: no L2 term and no
/// decay are for its weights.
/// @param own layers of one's own, each of which may stand there by its word
/// @throws SettingError that marks the word it cannot read, »so«.
[[nodiscard]] std::vector<Layer> parse_blueprint(std::string_view text,
                                                 std::span<const Layer> own = {});

}  // namespace lattice
