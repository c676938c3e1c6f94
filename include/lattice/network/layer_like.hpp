#pragma once

#include <concepts>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/pass.hpp"
#include "lattice/network/start.hpp"
#include "lattice/tensor/random.hpp"

namespace lattice {

/// A weight of a layer.
struct WeightNeed {
  std::string name;  ///< `weight`, `bias`
  Shape shape;

  /// The numbers of inputs and outputs for initialisations such as xavier. By default they follow
  /// from the shape: the last axis is the outputs, the others are the inputs.
  std::optional<std::int64_t> inputs = std::nullopt;
  std::optional<std::int64_t> outputs = std::nullopt;
  Start start = Start::zeros();
  std::optional<bool> bias = std::nullopt;  ///< whether it is a bias; by default its shape decides
  bool is_running = false;  ///< changes in training (`Pass::set_next`), but is not learnt
  bool is_spared = false;   ///< excluded from the L2 term and from decay

  /// The incoming and the outgoing channel of each position on the last axis, if only some of them
  /// are connected.
  std::vector<std::pair<std::int64_t, std::int64_t>> connections = {};

  [[nodiscard]] bool is_bias() const { return lattice::is_bias(bias, shape); }
  [[nodiscard]] bool is_slope() const { return !is_running && !is_bias(); }

  /// Draws its initial numbers.
  [[nodiscard]] Tensor draw(Random& random, Precision precision = Precision::double_) const;
  [[nodiscard]] Tensor draw(const Start& other, Random& random, Precision precision) const;
};

/// How a layer turns scores into probabilities.
enum class Probabilities : std::uint8_t {
  none,
  each,     ///< each score by itself, like sigmoid
  together  ///< all scores of an example, like softmax
};

/// The facts about a layer, besides its shapes, that networks, losses and remarks need.
struct LayerNature {
  /// The number of outputs that each have weights of their own for all inputs.
  std::optional<std::int64_t> units = std::nullopt;

  bool is_affine = false;         ///< each is x·weight + bias, as in a dense layer
  bool treats_all_alike = false;  ///< equal inputs give equal outputs, whatever their position
  Probabilities probabilities = Probabilities::none;
  bool lays_out_anew = false;     ///< its outputs are its inputs in another arrangement
  bool adds_its_input = false;    ///< its input is added to its output, as in a residual
  bool uses_connections = false;  ///< each example uses those it is connected with
};

/// The requirements on a layer type. `example` is the shape of one example of its input, without
/// the axis of examples. Optional members: `nature()` for facts that others need;
/// `multiplications(example)` for those of one example; `written(example)` for the count of numbers
/// on the worksheet in training, if that is not the size of the output; for a layer that contains
/// others `layers()`, and `projection()` for a layer on the skip connection.
template <class P>
concept LayerLike = requires(const P& layer, const Shape& example, const Line& x, Pass& pass) {
  { layer.kind() } -> std::convertible_to<std::string_view>;  // `dense`
  { layer.text() } -> std::convertible_to<std::string>;       // `dense 8`
  { layer.shape(example) } -> std::same_as<Shape>;            // or a ShapeError
  { layer.weights(example) } -> std::same_as<std::vector<WeightNeed>>;
  { layer.forward(x, pass) } -> std::same_as<Line>;
};

/// An elementwise rule, such as `Tanh`: it is a layer as it is.
template <class Rule>
concept UnitRule = requires(const Rule& rule) {
  { Rule::name } -> std::convertible_to<std::string_view>;
  { rule.value(1.0) } -> std::convertible_to<double>;
};

/// Your own operation (`own_operation`): it is a layer as it is.
template <class Operation>
concept UnitOperation = requires(const Operation& operation, const Line& x) {
  { operation.name() } -> std::convertible_to<std::string_view>;
  { operation(x) } -> std::same_as<Line>;
};

}  // namespace lattice
