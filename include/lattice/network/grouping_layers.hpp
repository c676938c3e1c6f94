#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/layer.hpp"

/// Layers that contain layers: the repeated blocks of a deep network.
namespace lattice {

/// A sequence of layers used as one layer. A deep network is a loop over such groups; a weight in
/// the second of them is called `block2.conv.kernel`.
///
/// @code
/// std::vector<Layer> layers = {Dense{.outputs = 8}};
/// for (int i = 0; i < 3; ++i)
///   layers.push_back(Block({Dense{.outputs = 8}, Normalise{}, Tanh{}}));
/// layers.push_back(Dense{.outputs = 4});
/// blueprint_of(layers);  // dense 8, 3 times (dense 8, normalise, tanh), dense 4
/// @endcode
class Block {
 public:
  /// @throws SettingError when there is none, NameError when two have one name.
  explicit Block(std::vector<Layer> layers);

  [[nodiscard]] static std::string_view kind() { return "block"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const;
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;

  [[nodiscard]] const std::vector<Layer>& layers() const { return layers_; }

 private:
  std::vector<Layer> layers_;
  std::vector<std::string> names_;
};

/// A sequence of layers whose input is added to their output. If the shapes differ, a projection
/// maps the input to the shape of the output.
///
/// @code
/// Residual({Dense{.outputs = 8}, Relu{}});                         // for 8 inputs
/// Residual({Dense{.outputs = 4}, Relu{}}, Dense{.outputs = 4});    // for any number
/// @endcode
/// Source: He, Zhang, Ren and Sun, 2016.
class Residual {
 public:
  /// @param projection a layer on the skip connection; its default name is `projection`
  /// @throws SettingError when there are no layers, NameError when two have one name.
  explicit Residual(std::vector<Layer> layers, std::optional<Layer> projection = std::nullopt);

  [[nodiscard]] static std::string_view kind() { return "residual"; }
  [[nodiscard]] static LayerNature nature() { return {.adds_its_input = true}; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const;
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;

  [[nodiscard]] const std::vector<Layer>& layers() const { return block_.layers(); }
  [[nodiscard]] const std::optional<Layer>& projection() const { return projection_; }

 private:
  [[nodiscard]] Shape shape_of_projection(const Shape& example) const;

  Block block_;
  std::optional<Layer> projection_;
};

}  // namespace lattice
