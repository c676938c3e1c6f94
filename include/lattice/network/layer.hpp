#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/detail/any_layer.hpp"
#include "lattice/network/detail/layer_of_rule.hpp"
#include "lattice/network/layer_like.hpp"

namespace lattice {

/// One building block of a network. Anything that is `LayerLike` is one; so are the rules of the
/// activations and operations of one's own.
///
/// @code
/// std::vector<Layer> layers = {Dense{.outputs = 8}, Tanh{}, Dense{.outputs = 4}};
/// @endcode
class Layer {
 public:
  template <LayerLike P>
  Layer(P layer) : layer_(std::make_shared<detail::LayerOf<P>>(std::move(layer))) {}
  template <UnitRule Rule>
  Layer(Rule rule) : Layer(detail::EachNumber<Rule>{std::move(rule)}) {}
  template <UnitOperation Operation>
  Layer(Operation operation)
      : Layer(detail::EachNumberByOperation<Operation>{std::move(operation)}) {}

  /// The word for what it is: `dense`.
  [[nodiscard]] std::string_view kind() const { return layer_->kind(); }

  /// The name it was given; empty when the network is to find one.
  [[nodiscard]] const std::string& given_name() const { return name_; }

  /// As in a blueprint, its name included: `first: dense 8`.
  [[nodiscard]] std::string text() const {
    return name_.empty() ? unnamed_text() : name_ + ": " + unnamed_text();
  }
  [[nodiscard]] std::string unnamed_text() const {
    return is_spared_ ? layer_->text() + " without l2" : layer_->text();
  }

  /// What others have to know of it, as far as it says so.
  [[nodiscard]] LayerNature nature() const { return layer_->nature(); }

  /// The layers it is made of; empty for one that is not made of others.
  [[nodiscard]] std::span<const Layer> inside() const { return layer_->inside(); }

  /// The projection on the skip connection; null where there is none.
  [[nodiscard]] const Layer* projection() const { return layer_->projection(); }

  [[nodiscard]] Shape shape(const Shape& example) const { return layer_->shape(example); }
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  /// How many products of two numbers an example takes on its way through; 0 where nobody says.
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const {
    return layer_->multiplications(example);
  }
  /// How many numbers an example leaves on the worksheet while it learns.
  [[nodiscard]] std::int64_t written(const Shape& example) const {
    return layer_->written(example);
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const { return layer_->forward(x, pass); }

  /// The layer as the type it was made from; null when it was made from another.
  template <class P>
  [[nodiscard]] const P* as() const {
    const auto* of_type = dynamic_cast<const detail::LayerOf<P>*>(layer_.get());
    return of_type == nullptr ? nullptr : &of_type->layer;
  }

  friend Layer named(std::string_view name, Layer layer);
  friend Layer without_l2(Layer layer);

 private:
  std::shared_ptr<const detail::AnyLayer> layer_;
  std::string name_;
  bool is_spared_ = false;
};

/// Gives a layer a name, which its weights and its line on the worksheet then carry.
/// @throws NameError unless the name is a letter, followed by letters, digits, `_` or `-`.
[[nodiscard]] Layer named(std::string_view name, Layer layer);

/// Leaves the weights of a layer out of the L2 term, and lets no decay make them smaller.
///
/// @code
/// std::vector<Layer> layers = {Dense{.outputs = 8}, Tanh{}, without_l2(Dense{.outputs = 4})};
/// @endcode
[[nodiscard]] Layer without_l2(Layer layer);

/// The names of the layers of a list: those they were given, and `hidden`, `hidden2`, `tanh` … for
/// the others. Of layers with weights the last is `output` where `has_output` says so.
[[nodiscard]] std::vector<std::string> names_of(std::span<const Layer> layers, bool has_output);

/// The name that the n-th of several has, from 1: `tanh`, `tanh2`, `tanh3`.
[[nodiscard]] std::string numbered(std::string_view name, std::size_t number);

/// Layers in a row as a blueprint has them, `dense 8, tanh`; groups that follow one another and are
/// alike are told once, `3 times (dense 8, tanh)`.
[[nodiscard]] std::string blueprint_of(std::span<const Layer> layers);

}  // namespace lattice
