#pragma once

#include <concepts>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/part_like.hpp"

namespace lattice {
class Part;
}

/// How a `Part` holds whatever is `PartLike`.
namespace lattice::detail {

/// A part made of other parts.
template <class P>
concept HasParts = requires(const P& part) {
  { part.parts() } -> std::same_as<const std::vector<Part>&>;
};

/// A part with a skip connection that has a projection.
template <class P>
concept HasPast = requires(const P& part) {
  { part.projection() } -> std::same_as<const std::optional<Part>&>;
};

struct AnyPart {
  AnyPart() = default;
  AnyPart(const AnyPart&) = delete;
  AnyPart& operator=(const AnyPart&) = delete;
  virtual ~AnyPart() = default;
  [[nodiscard]] virtual std::string_view kind() const = 0;
  [[nodiscard]] virtual std::string text() const = 0;
  [[nodiscard]] virtual PartNature nature() const = 0;
  [[nodiscard]] virtual std::span<const Part> inside() const = 0;
  [[nodiscard]] virtual const Part* projection() const = 0;
  [[nodiscard]] virtual Shape shape(const Shape& example) const = 0;
  [[nodiscard]] virtual std::vector<WeightNeed> weights(const Shape& example) const = 0;
  [[nodiscard]] virtual std::int64_t multiplications(const Shape& example) const = 0;
  [[nodiscard]] virtual std::int64_t written(const Shape& example) const = 0;
  [[nodiscard]] virtual Line forward(const Line& x, Pass& pass) const = 0;
};

template <class P>
struct PartOf final : AnyPart {
  explicit PartOf(P part_) : part(std::move(part_)) {}
  [[nodiscard]] std::string_view kind() const override { return part.kind(); }
  [[nodiscard]] std::string text() const override { return part.text(); }
  [[nodiscard]] PartNature nature() const override {
    if constexpr (requires { part.nature(); }) {
      return part.nature();
    } else {
      return {};
    }
  }
  [[nodiscard]] std::span<const Part> inside() const override {
    if constexpr (HasParts<P>) {
      return part.parts();
    } else {
      return {};
    }
  }
  [[nodiscard]] const Part* projection() const override {
    if constexpr (HasPast<P>) {
      return part.projection() ? &*part.projection() : nullptr;
    } else {
      return nullptr;
    }
  }
  [[nodiscard]] Shape shape(const Shape& example) const override { return part.shape(example); }
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const override {
    return part.weights(example);
  }
  [[nodiscard]] std::int64_t multiplications(const Shape& example) const override {
    if constexpr (requires { part.multiplications(example); }) {
      return part.multiplications(example);
    } else {
      return 0;
    }
  }
  [[nodiscard]] std::int64_t written(const Shape& example) const override {
    if constexpr (requires { part.written(example); }) {
      return part.written(example);
    } else {
      return part.shape(example).count();
    }
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const override {
    return part.forward(x, pass);
  }
  P part;
};

}  // namespace lattice::detail
