#pragma once

#include <concepts>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/pass.hpp"
#include "lattice/network/start.hpp"
#include "lattice/tensor/random.hpp"

namespace lattice {

/// A weight that a layer needs.
struct WeightNeed {
  std::string name;  ///< `weight`, `bias`
  Shape shape;

  /// How many numbers go into one unit, and how many units one number goes to, as starts such as
  /// xavier ask. Where they are left out they follow from the shape: the last axis is of units, and
  /// what goes into one is on the others.
  std::optional<std::int64_t> inputs = std::nullopt;
  std::optional<std::int64_t> outputs = std::nullopt;
  Start start = Start::zeros();
  std::optional<bool> bias = std::nullopt;  ///< whether it is a bias; else its shape says
  bool is_running =
      false;               ///< moves while the network trains (`Pass::set_next`), and is not learnt
  bool is_spared = false;  ///< no L2 term and no decay make it smaller

  [[nodiscard]] bool is_bias() const { return lattice::is_bias(bias, shape); }
  [[nodiscard]] bool is_slope() const { return !is_running && !is_bias(); }

  /// Draws numbers as it starts.
  [[nodiscard]] Tensor draw(Random& random, Precision precision = Precision::double_) const;
  [[nodiscard]] Tensor draw(const Start& other, Random& random, Precision precision) const;
};

/// Whether a layer makes probabilities of scores.
enum class Probabilities : std::uint8_t {
  none,
  each,     ///< of every score by itself, as sigmoid does
  together  ///< of all scores of an example, as softmax does
};

/// What a network, a loss or a remark has to know of a layer beside its shapes.
struct LayerNature {
  /// So many outputs, each of which weighs all that comes in by numbers of its own.
  std::optional<std::int64_t> units = std::nullopt;

  bool is_affine = false;         ///< each is x·weight + bias, as those of a dense layer are
  bool treats_all_alike = false;  ///< what comes in alike goes out alike, whatever place it has
  Probabilities probabilities = Probabilities::none;
  bool lays_out_anew = false;   ///< its outputs are its inputs under other names: no unit stays one
  bool adds_its_input = false;  ///< what comes in is added to what goes out, as in a residual
  bool uses_connections = false;  ///< each example takes from those it is connected with
};

/// What a type has to say to be a layer of a network. `example` is the shape of one example as it
/// comes in, without the axis of examples. What else others have to know of it, it may say by a
/// member `nature()`, and how many multiplications an example takes by `multiplications(example)`;
/// how many numbers one leaves on the worksheet while it learns, where these are others than those
/// it gives, by `written(example)`.
/// One that is made of other layers says which by a member `layers()`, and what its input goes
/// through on the skip connection, where it does, by `projection()`.
template <class P>
concept LayerLike = requires(const P& layer, const Shape& example, const Line& x, Pass& pass) {
  { layer.kind() } -> std::convertible_to<std::string_view>;  // `dense`
  { layer.text() } -> std::convertible_to<std::string>;       // `dense 8`
  { layer.shape(example) } -> std::same_as<Shape>;            // or a ShapeError
  { layer.weights(example) } -> std::same_as<std::vector<WeightNeed>>;
  { layer.forward(x, pass) } -> std::same_as<Line>;
};

/// A rule for every number alone, such as `Tanh`: a layer as it stands.
template <class Rule>
concept UnitRule = requires(const Rule& rule) {
  { Rule::name } -> std::convertible_to<std::string_view>;
  { rule.value(1.0) } -> std::convertible_to<double>;
};

/// An operation of one's own (`own_operation`): a layer as it stands.
template <class Operation>
concept UnitOperation = requires(const Operation& operation, const Line& x) {
  { operation.name() } -> std::convertible_to<std::string_view>;
  { operation(x) } -> std::same_as<Line>;
};

}  // namespace lattice
