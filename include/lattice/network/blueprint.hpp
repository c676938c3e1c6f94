#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"

namespace lattice {

class Scanner;

/// A word of blueprints, and the function that reads its layer. Subjects add some.
struct LayerWord {
  std::string_view word;          ///< `dense`
  Layer (*read)(Scanner& words);  ///< reads the rest of the layer; throws SettingError
};

/// Adds a word for `parse_blueprint`.
void know(const LayerWord& word);

/// Proposes a layer that maps an example of one shape to another, for the projection of a residual
/// block: `conv 4 of 1x1 stride 2`; empty if it knows none.
using ProposeProjection = std::string (*)(const Shape& from, const Shape& to);

/// Adds a function for such proposals in messages.
void know(ProposeProjection propose);

/// Reads the layers of a network from one line of text.
///
/// @code
/// parse_blueprint("dense 8, tanh, dropout 0.2, dense 4");
/// parse_blueprint("dense 8 start he, relu, residual(dense 8 without bias, relu), last: dense 4");
/// parse_blueprint("3 times (residual(dense 5, tanh), normalise), dense 4");
/// @endcode
///
/// Layers are separated by commas; a name and a colon may come first, and a count:
/// `3 times (dense 8, tanh)`. They are
/// - `dense UNITS`, then optionally `without bias` or `with bias as input`, `start HOW` and
///   `bias start HOW`, where HOW is read by `parse_start`;
/// - `sigmoid`, `tanh`, `relu`, `leaky-relu [LEAK]`, `softplus`, `elu [ALPHA]`;
/// - `softmax`;
/// - `dropout SHARE`, then optionally `of channels`;
/// - `(LAYERS)`, a group used as one layer;
/// - `residual(LAYERS)`, then optionally `with projection LAYER`, a layer on the skip connection;
/// - `flatten`;
/// - `normalise`, then optionally `each example`, `decay SHARE` and `epsilon NUMBER`.
/// The subjects in use add theirs. `without l2` after any layer excludes its weights from the L2
/// term and from decay.
/// @param own your own layers, which can be named by their words
/// @throws SettingError that marks the word it cannot read, »so«.
[[nodiscard]] std::vector<Layer> parse_blueprint(std::string_view text,
                                                 std::span<const Layer> own = {});

}  // namespace lattice
