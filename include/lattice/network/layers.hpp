#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "lattice/network/layer.hpp"
#include "lattice/worksheet/operations/activations.hpp"

/// The layers of the core. The activations `Sigmoid`, `Tanh`, `Relu`, `LeakyRelu`,
/// `Softplus` and `Elu` are layers, too.
namespace lattice {

/// The bias of a dense layer.
enum class Bias : std::uint8_t {
  added,     ///< a number for each unit
  none,      ///< nothing
  as_input,  ///< the same as `added`, written as one more input that is always 1
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

/// In training, each number is set to 0 with probability `share`, and the others are divided by
/// 1 − share, so that the mean stays the same; in evaluation nothing changes. The mask is on the
/// worksheet as `dropout.mask`. Of pictures, whole channels may be dropped: neighbouring pixels are
/// so similar that a single missing one has little effect.
/// Sources: Srivastava, Hinton, Krizhevsky, Sutskever and Salakhutdinov, 2014; of channels,
/// Tompson, Goroshin, Jain, LeCun and Bregler, 2015.
struct Dropout {
  double share = 0.5;     ///< of the numbers that are dropped: 0 or more, below 1
  bool channels = false;  ///< whole channels of pictures are dropped instead of single numbers

  [[nodiscard]] static std::string_view kind() { return "dropout"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] std::int64_t written(const Shape& example) const {
    return example.count() + (channels ? example[2] : example.count());
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;
};

/// Your own forward function, with the weights it needs. It may print and branch. Its output shape
/// is found by running it on an example of zeros.
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

/// Reshapes an example of any shape to one row of numbers, last axis fastest, as a dense layer
/// expects.
struct Flatten {
  [[nodiscard]] static std::string_view kind() { return "flatten"; }
  [[nodiscard]] static std::string text() { return "flatten"; }
  [[nodiscard]] static LayerNature nature() { return {.lays_out_anew = true}; }
  [[nodiscard]] static Shape shape(const Shape& example);
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass& pass);
};

}  // namespace lattice
