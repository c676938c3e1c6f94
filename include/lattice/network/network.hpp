#pragma once

#include <concepts>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/grouping_layers.hpp"
#include "lattice/network/layer.hpp"
#include "lattice/network/layers.hpp"
#include "lattice/network/weights.hpp"
#include "lattice/text/printing.hpp"

namespace lattice {

/// What a network computes for the shape of one example, layer by layer.
struct Plan {
  struct Row {
    std::string name;                    ///< `hidden`; in a residual `residual.hidden`
    std::string kind;                    ///< `dense`
    std::string layer;                   ///< `dense 8`, without a name given to it
    Shape outputs;                       ///< of one example
    std::vector<WeightNeed> needs = {};  ///< with full names: `hidden.weight`
    std::int64_t weights = 0;            ///< how many trained numbers it has
    std::int64_t multiplications = 0;    ///< in the forward pass of one example
    std::int64_t written = 0;            ///< numbers on the worksheet for one example, in training
    std::vector<Row> inside = {};        ///< the layers it contains, such as those of a residual
    bool adds_its_input = false;         ///< its input is added to its output
    bool uses_connections = false;       ///< each row uses the rows it is connected with
    std::vector<Row> projection = {};    ///< of that input, before it is added; none or one

    /// The last part of its name: `hidden` of `residual.hidden`.
    [[nodiscard]] std::string own_name() const { return name.substr(name.rfind('.') + 1); }
  };

  Shape example;  ///< the input
  std::vector<Row> rows;

  /// How many connected rows, such as the nodes of a graph, are computed together. Multiplications
  /// and numbers on the worksheet are then those of all of them.
  std::optional<std::int64_t> together = std::nullopt;
  std::int64_t written_at_first = 0;  ///< then: their features and connections
  std::string whole = {};             ///< then: what they are, `the graph of 48 nodes`

  /// How many of the first rows are copies of one group of layers, with weights of the same shapes,
  /// so that showing one of them is enough; 1 where the first is not a group, or is the only one.
  [[nodiscard]] static std::size_t alike(std::span<const Row> rows);

  [[nodiscard]] std::int64_t weights() const;          ///< how many trained numbers there are
  [[nodiscard]] std::int64_t multiplications() const;  ///< of one example, or of all together
  [[nodiscard]] std::int64_t written() const;          ///< likewise, including the input
  [[nodiscard]] Shape outputs() const;                 ///< of one example
};

/// Computes the shapes of one example through layers.
/// @throws ShapeError, SettingError that name the layer where it does not fit.
[[nodiscard]] Plan plan(const Shape& example, const std::vector<Layer>& layers);

namespace detail {
[[nodiscard]] Plan plan_of_blueprint(const Shape& example, std::string_view blueprint);
}  // namespace detail

/// The same of a blueprint: `plan(Shape{5}, "dense 8, tanh, dense 4")`.
/// @throws as reading it does.
template <std::convertible_to<std::string_view> Text>
[[nodiscard]] Plan plan(const Shape& example, const Text& blueprint) {
  return detail::plan_of_blueprint(example, blueprint);
}

/// A sequence of layers, with their weights. Only outputs are stated: the number of inputs of each
/// layer follows from the shape of an example. An axis of an example without a role is features.
///
/// @code
/// Random random(1);
/// Network net(Shape{5}, {Dense{.outputs = 8}, Tanh{}, Dense{.outputs = 4}}, random);
/// Network same(5, "dense 8, tanh, dense 4", random);
/// net["hidden.weight"];                       // [feature 5 × unit 8]
/// Tensor scores = net(pots.features);         // in evaluation, without a worksheet
/// @endcode
///
/// A network is a value: a copy is trained independently. A network that was moved from can be
/// assigned to; everything else throws SettingError.
class Network {
 public:
  Network(const Shape& example, std::vector<Layer> layers, const Random& random,
          Precision precision = Precision::double_);
  Network(const Shape& example, std::string_view blueprint, const Random& random,
          Precision precision = Precision::double_);

  /// Of a table with so many features.
  Network(std::int64_t features, std::string_view blueprint, const Random& random,
          Precision precision = Precision::double_)
      : Network(Shape{features}, blueprint, random, precision) {}

  /// Writes a forward pass on a worksheet: every weight, and every layer's output under its name.
  /// Each layer is a section. @throws ShapeError when the shape of the examples does not fit.
  [[nodiscard]] Line forward(Worksheet& sheet, const Line& x,
                             const Phase& phase = Phase::in_use()) const;

  /// The same without a softmax or a sigmoid at the end: scores, as the losses expect them. The
  /// last layer is left out if it `makes_probabilities`.
  [[nodiscard]] Line scores(Worksheet& sheet, const Line& x,
                            const Phase& phase = Phase::in_use()) const;

  /// The outputs for a batch, without a worksheet.
  [[nodiscard]] Tensor operator()(const Tensor& x) const;

  /// A weight by its full name. @throws NameError that lists the weights there are.
  [[nodiscard]] const Tensor& operator[](std::string_view weight) const { return weights_[weight]; }

  /// Replaces the numbers of a weight. @throws NameError, or ShapeError when the shape differs.
  void set(std::string_view weight, const Tensor& numbers);

  /// Freezes a weight, or all those of a layer, or unfreezes them.
  /// @throws NameError.
  void freeze(std::string_view name, bool frozen = true) { weights_.freeze(name, frozen); }

  /// Sets the rate multiplier of a weight, or of all those of a layer: `("hidden", 0.1)`.
  /// @throws NameError; SettingError unless `rate_multiplier` is above 0.
  void set_rate_multiplier(std::string_view name, double rate_multiplier) {
    weights_.set_rate_multiplier(name, rate_multiplier);
  }

  /// Whether the L2 term and decay apply to biases, too. By default they do not.
  void set_biases_decay(bool decay = true);

  [[nodiscard]] const Weights& weights() const { return weights_; }

  /// The weights, for changing them. Count an update after doing so in training.
  [[nodiscard]] Weights& weights() { return weights_; }

  /// How many updates the weights have had since they were initialised.
  [[nodiscard]] std::int64_t updates() const { return updates_; }
  void count_update() { ++updates_; }

  /// @throws SettingError below 0, and for more than can be counted (`most_counted`).
  void set_updates(std::int64_t updates);

  /// Sets the role of the outputs, such as classes: they, and the weights of a dense layer that
  /// computes them, are labelled accordingly from now on.
  void label_outputs(Role role);

  /// Initialises every weight again; everything learnt is lost.
  void start_over(const Random& random);

  /// Takes initial weights from a trained network: layers that both have, and whose weights all
  /// have the same names and shapes, get its numbers; the others keep theirs. No update is counted:
  /// this neither resumes the other's run nor starts over from random weights.
  ///
  /// @code
  /// Network finer(Shape{5}, "dense 8, tanh, dense 2", random);
  /// finer.start_from(net.weights());  // hidden.weight and hidden.bias; another last layer
  /// finer.freeze("hidden");
  /// @endcode
  /// @returns the names of the weights that were taken
  /// @throws NameError when there is none.
  std::vector<std::string> start_from(const Weights& learnt);

  [[nodiscard]] const Plan& plan() const { return plan_; }
  [[nodiscard]] const std::vector<Layer>& layers() const {
    check_is_there();
    return layers_;
  }
  [[nodiscard]] Shape example() const { return plan_.example; }
  [[nodiscard]] Shape outputs() const {
    check_is_there();
    return plan_.outputs();
  }
  [[nodiscard]] Precision precision() const { return precision_; }

  /// The network in one line of text: `dense 8, tanh, dense 4`.
  [[nodiscard]] std::string blueprint() const;

  /// Whether the last layer turns scores into probabilities; `scores` then leaves it out.
  [[nodiscard]] Probabilities makes_probabilities() const;

 private:
  void check_is_there() const {
    if (layers_.empty()) refuse_moved();
  }
  [[noreturn]] static void refuse_moved();

  [[nodiscard]] Line through(std::size_t layers, Worksheet& sheet, const Line& x,
                             const Phase& phase) const;

  std::vector<Layer> layers_;
  Plan plan_;
  Precision precision_;
  Weights weights_;
  std::int64_t updates_ = 0;
};

/// Sets the role of the outputs of a network: targets or classes. A single score for two classes is
/// a unit.
void label_outputs(Network& network, bool has_classes);

template <>
inline constexpr bool detail::is_shown_elsewhere<Plan> = true;

}  // namespace lattice

template <>
struct fmt::formatter<lattice::Network> : lattice::detail::NotPrinted<lattice::Network> {
  template <class X>
  static constexpr void refuse() {
    static_assert(lattice::detail::never<X>,
                  "print the layers of a network, net.plan(), with lattice/show/plan.hpp");
  }
};
