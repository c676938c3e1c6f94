#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "lattice/network/layer.hpp"
#include "lattice/worksheet/operations/activations.hpp"

/// The layers that networks are made of. The activations `Sigmoid`, `Tanh`, `Relu`, `LeakyRelu`,
/// `Softplus` and `Elu` are layers, too.
namespace lattice {

/// What is added to the sums of a dense layer.
enum class Bias : std::uint8_t {
  added,     ///< a number for each unit
  none,      ///< nothing
  as_input,  ///< the same as `added`, told the other way: one more input that is always 1
};

/// Every output is a weighted sum of all inputs: x·W + b, with `weight` [feature × unit] and `bias`
/// [unit]. With the bias as an input, `weight` has one more row, the last, that belongs to it.
struct Dense {
  std::int64_t outputs = 1;  ///< how many units there are, 1 to 1 000 000
  Bias bias = Bias::added;
  Start start = Start::xavier();      ///< of the weight
  Start bias_start = Start::zeros();  ///< of the bias

  [[nodiscard]] static std::string_view kind() { return "dense"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] LayerNature nature() const { return {.units = outputs, .is_affine = true}; }
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const {
    return (bias == Bias::as_input ? example[0] + 1 : example[0]) * outputs;
  }
  [[nodiscard]] std::int64_t written(const Shape& example) const {
    return bias == Bias::as_input ? example[0] + 1 + outputs : outputs;
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

/// Scores turned into positive numbers that add up to 1, across the units.
struct Softmax {
  [[nodiscard]] static std::string_view kind() { return "softmax"; }
  [[nodiscard]] static std::string text() { return "softmax"; }
  [[nodiscard]] static LayerNature nature() {
    return {.treats_all_alike = true, .probabilities = Probabilities::together};
  }
  [[nodiscard]] static Shape shape(const Shape& example);
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass& pass);
};

/// While a network learns, each number is left out with a probability, and those that stay grow by
/// as much as is missing on average; in use nothing changes. What stays is on the worksheet as
/// `dropout.mask`. Of pictures whole channels may be left out: numbers beside each other are much
/// alike, so that one that is missing is no loss.
/// Sources: Srivastava, Hinton, Krizhevsky, Sutskever and Salakhutdinov, 2014; of channels,
/// Tompson, Goroshin, Jain, LeCun and Bregler, 2015.
struct Dropout {
  double share = 0.5;     ///< of what is left out: 0 or more, below 1
  bool channels = false;  ///< whole channels of pictures are left out, and not single numbers

  [[nodiscard]] static std::string_view kind() { return "dropout"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] std::int64_t written(const Shape& example) const {
    return example.count() + (channels ? example[2] : example.count());
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

/// A forward function of one's own, with the weights it takes. A print or a branch may stand in the
/// middle of it. The shape it gives is found out by trying it on an example of zeros.
///
/// @code
/// const OwnLayer gate{
///     .word = "gate",
///     .needs = {{.name = "W", .shape = {5, 8}, .start = Start::he()}},
///     .carry_out = [](const Line& x, Pass& pass) {
///       return sigmoid(matmul(x, pass.weight("W")));
///     }};
/// @endcode
struct OwnLayer {
  std::string word;
  std::vector<WeightNeed> needs = {};
  std::function<Line(const Line& x, Pass& pass)> carry_out;

  [[nodiscard]] std::string_view kind() const { return word; }
  [[nodiscard]] std::string text() const { return word; }
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape&) const { return needs; }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const { return carry_out(x, pass); }
};

/// An example of any shape as one row of numbers, the last axis running fastest: what a dense layer
/// takes.
struct Flatten {
  [[nodiscard]] static std::string_view kind() { return "flatten"; }
  [[nodiscard]] static std::string text() { return "flatten"; }
  [[nodiscard]] static LayerNature nature() { return {.lays_out_anew = true}; }
  [[nodiscard]] static Shape shape(const Shape& example);
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass& pass);
};

}  // namespace lattice
