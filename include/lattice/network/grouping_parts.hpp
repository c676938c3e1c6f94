#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/network/part.hpp"

/// Parts that are made of parts: what a deep network repeats.
namespace lattice {

/// Parts in a row that are taken for one. A deep network is a loop over them, and what is learnt in
/// the second of them is `block2.conv.kernel`.
///
/// @code
/// std::vector<Part> parts = {Dense{.outputs = 8}};
/// for (int i = 0; i < 3; ++i)
///   parts.push_back(Block({Dense{.outputs = 8}, Normalise{}, Tanh{}}));
/// parts.push_back(Dense{.outputs = 4});
/// blueprint_of(parts);  // dense 8, 3 times (dense 8, normalise, tanh), dense 4
/// @endcode
class Block {
 public:
  /// @throws SettingError when there is none, NameError when two have one name.
  explicit Block(std::vector<Part> parts);

  [[nodiscard]] static std::string_view kind() { return "block"; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const;
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;

  [[nodiscard]] const std::vector<Part>& parts() const { return parts_; }

 private:
  std::vector<Part> parts_;
  std::vector<std::string> names_;
};

/// Parts in a row, whose input is added to their output. Where what they give has another shape
/// than what comes in, a projection brings the input to that shape.
///
/// @code
/// Residual({Dense{.outputs = 8}, Relu{}});                         // 8 numbers come in
/// Residual({Dense{.outputs = 4}, Relu{}}, Dense{.outputs = 4});    // any number of them
/// @endcode
/// Source: He, Zhang, Ren and Sun, 2016.
class Residual {
 public:
  /// @param projection what the input goes through on the skip connection; its name is
  ///        `projection`, unless it has one
  /// @throws SettingError when there are no parts, NameError when two have one name.
  explicit Residual(std::vector<Part> parts, std::optional<Part> projection = std::nullopt);

  [[nodiscard]] static std::string_view kind() { return "residual"; }
  [[nodiscard]] static PartNature nature() { return {.adds_its_input = true}; }
  [[nodiscard]] std::string text() const;
  [[nodiscard]] Shape shape(const Shape& example) const;
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const;
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const;
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const;

  [[nodiscard]] const std::vector<Part>& parts() const { return block_.parts(); }
  [[nodiscard]] const std::optional<Part>& projection() const { return projection_; }

 private:
  [[nodiscard]] Shape shape_of_projection(const Shape& example) const;

  Block block_;
  std::optional<Part> projection_;
};

}  // namespace lattice
