#pragma once

#include <concepts>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/layer_like.hpp"

namespace lattice {
class Layer;
}

/// How a `Layer` holds whatever is `LayerLike`.
namespace lattice::detail {

/// A layer made of other layers.
template <class P>
concept HasLayers = requires(const P& layer) {
  { layer.layers() } -> std::same_as<const std::vector<Layer>&>;
};

/// A layer with a skip connection that has a projection.
template <class P>
concept HasProjection = requires(const P& layer) {
  { layer.projection() } -> std::same_as<const std::optional<Layer>&>;
};

struct AnyLayer {
  AnyLayer() = default;
  AnyLayer(const AnyLayer&) = delete;
  AnyLayer& operator=(const AnyLayer&) = delete;
  virtual ~AnyLayer() = default;
  [[nodiscard]] virtual std::string_view kind() const = 0;
  [[nodiscard]] virtual std::string text() const = 0;
  [[nodiscard]] virtual LayerNature nature() const = 0;
  [[nodiscard]] virtual std::span<const Layer> inside() const = 0;
  [[nodiscard]] virtual const Layer* projection() const = 0;
  [[nodiscard]] virtual Shape shape(const Shape& example) const = 0;
  [[nodiscard]] virtual std::vector<WeightNeed> weights(const Shape& example) const = 0;
  [[nodiscard]] virtual std::int64_t multiplications(const Shape& example) const = 0;
  [[nodiscard]] virtual std::int64_t written(const Shape& example) const = 0;
  [[nodiscard]] virtual Line forward(const Line& x, Pass& pass) const = 0;
};

template <class P>
struct LayerOf final : AnyLayer {
  explicit LayerOf(P layer_) : layer(std::move(layer_)) {}
  [[nodiscard]] std::string_view kind() const override { return layer.kind(); }
  [[nodiscard]] std::string text() const override { return layer.text(); }
  [[nodiscard]] LayerNature nature() const override {
    if constexpr (requires { layer.nature(); }) {
      return layer.nature();
    } else {
      return {};
    }
  }
  [[nodiscard]] std::span<const Layer> inside() const override {
    if constexpr (HasLayers<P>) {
      return layer.layers();
    } else {
      return {};
    }
  }
  [[nodiscard]] const Layer* projection() const override {
    if constexpr (HasProjection<P>) {
      return layer.projection() ? &*layer.projection() : nullptr;
    } else {
      return nullptr;
    }
  }
  [[nodiscard]] Shape shape(const Shape& example) const override { return layer.shape(example); }
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const override {
    return layer.weights(example);
  }
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const override {
    if constexpr (requires { layer.multiplications(example); }) {
      return layer.multiplications(example);
    } else {
      return 0;
    }
  }
  [[nodiscard]] std::int64_t written(const Shape& example) const override {
    if constexpr (requires { layer.written(example); }) {
      return layer.written(example);
    } else {
      return layer.shape(example).count();
    }
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const override {
    return layer.forward(x, pass);
  }
  P layer;
};

}  // namespace lattice::detail
