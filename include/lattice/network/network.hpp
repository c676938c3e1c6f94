#pragma once

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

namespace lattice {

/// A network with a shape passed through it, layer by layer.
struct Plan {
  struct Row {
    std::string name;                    ///< `hidden`; in a residual `residual.hidden`
    std::string kind;                    ///< `dense`
    std::string layer;                   ///< `dense 8`, without a name given to it
    Shape outputs;                       ///< of one example
    std::vector<WeightNeed> needs = {};  ///< with full names: `hidden.weight`
    std::int64_t weights = 0;            ///< how many numbers are learnt in it
    std::int64_t multiplications = 0;    ///< so many an example takes on its way through
    std::int64_t written = 0;            ///< so many one leaves on the worksheet while it learns
    std::vector<Row> inside = {};        ///< the layers it is made of, such as those in a residual
    bool adds_its_input = false;         ///< what comes in is added to what goes out
    bool uses_connections = false;       ///< each row takes from those it is connected with
    std::vector<Row> projection = {};    ///< what it goes through before that; none or one

    /// Its name among those beside it: `hidden` of `residual.hidden`.
    [[nodiscard]] std::string own_name() const { return name.substr(name.rfind('.') + 1); }
  };

  Shape example;  ///< what goes in
  std::vector<Row> rows;

  /// How many connected rows, such as the nodes of a graph, pass through together: then
  /// multiplications and numbers on the worksheet are those of all of them.
  std::optional<std::int64_t> together = std::nullopt;
  std::int64_t written_at_first = 0;  ///< then: their features and connections
  std::string whole = {};             ///< then: what they are, `the graph of 48 nodes`

  /// How many of the first rows are one group of layers again and again, with weights of the same
  /// shapes, so that one of them tells of all; 1 where the first is not a group, or alone.
  [[nodiscard]] static std::size_t alike(std::span<const Row> rows);

  [[nodiscard]] std::int64_t weights() const;          ///< how many numbers are learnt in all
  [[nodiscard]] std::int64_t multiplications() const;  ///< of one example, or of all together
  [[nodiscard]] std::int64_t written() const;          ///< with what goes in, likewise
  [[nodiscard]] Shape outputs() const;                 ///< what comes out
};

/// Passes the shape of one example through layers.
/// @throws ShapeError, SettingError that name the layer where it does not fit.
[[nodiscard]] Plan plan(const Shape& example, const std::vector<Layer>& layers);

/// Layers in a row, with their weights. Only outputs are stated; how many inputs each layer has
/// follows from the shape of an example. The numbers of a row that has no role are features.
///
/// @code
/// Random random(1);
/// Network net(Shape{5}, {Dense{.outputs = 8}, Tanh{}, Dense{.outputs = 4}}, random);
/// Network same(Shape{5}, "dense 8, tanh, dense 4", random);
/// net["hidden.weight"];                       // [feature 5 × unit 8]
/// Tensor scores = net(pots.features);         // in use, without a record
/// @endcode
///
/// A network is a value: a copy learns by itself. One that was moved elsewhere can be given another
/// value; whatever else is asked of it throws SettingError.
class Network {
 public:
  Network(const Shape& example, std::vector<Layer> layers, const Random& random,
          Precision precision = Precision::double_);
  Network(const Shape& example, std::string_view blueprint, const Random& random,
          Precision precision = Precision::double_);

  /// Writes a pass down: every weight, and every layer's result under its name. Each layer is a
  /// section. @throws ShapeError when the examples have another shape than the network is for.
  [[nodiscard]] Line forward(Worksheet& sheet, const Line& x,
                             const Phase& phase = Phase::in_use()) const;

  /// The same without a softmax or a sigmoid at the end: scores, as the losses take them. What is
  /// left out is what `makes_probabilities`.
  [[nodiscard]] Line scores(Worksheet& sheet, const Line& x,
                            const Phase& phase = Phase::in_use()) const;

  /// What comes out for a batch, without a record.
  [[nodiscard]] Tensor operator()(const Tensor& x) const;

  /// A weight by its full name. @throws NameError, saying which there are.
  [[nodiscard]] const Tensor& operator[](std::string_view weight) const { return weights_[weight]; }

  /// Puts other numbers in place of a weight's. @throws NameError, or ShapeError when the shape is
  /// another.
  void set(std::string_view weight, const Tensor& numbers);

  /// Holds a weight, or all those of a layer, fixed from here on, or lets them go again.
  /// @throws NameError.
  void freeze(std::string_view name, bool frozen = true) { weights_.freeze(name, frozen); }

  /// Lets a weight, or all those of a layer, learn at so many times the rate: `("hidden", 0.1)`.
  /// @throws NameError; SettingError unless `rate_multiplier` is above 0.
  void set_rate_multiplier(std::string_view name, double rate_multiplier) {
    weights_.set_rate_multiplier(name, rate_multiplier);
  }

  [[nodiscard]] const Weights& weights() const { return weights_; }

  /// The weights, to be changed. Whoever does so for learning counts an update.
  [[nodiscard]] Weights& weights() { return weights_; }

  /// How many updates the weights have had since their start.
  [[nodiscard]] std::int64_t updates() const { return updates_; }
  void count_update() { ++updates_; }

  /// @throws SettingError below 0, and for more than can be counted (`most_counted`).
  void set_updates(std::int64_t updates);

  /// Says what the outputs stand for, such as classes: they, and the weights of a dense layer that
  /// makes them, are labelled so from here on.
  void label_outputs(Role role);

  /// Draws every weight anew, as at the start; whatever was learnt is gone.
  void start_over(const Random& random);

  /// Begins anew from what another network has learnt: layers that both have, whose weights all
  /// have the same names and shapes, start with its numbers, the others as they do. No update is
  /// counted: this neither goes on with the other's run nor starts over from nothing.
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

  /// Whether the last layer makes probabilities of scores; `scores` leaves it out then.
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

}  // namespace lattice
