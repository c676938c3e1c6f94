#include "lattice/network/grouping_layers.hpp"

#include <fmt/format.h>

#include "lattice/network/blueprint.hpp"
#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"

namespace lattice {
namespace {

/// What `ask` gives, for a layer inside another; trouble in it is told to be at that layer.
template <class Ask>
auto inside(const Layer& layer, const std::string& name, const Ask& ask) -> decltype(ask()) {
  try {
    return ask();
  } catch (const Error& error) {
    Trouble trouble = error.trouble();
    const std::string what =
        layer.inside().empty() ? fmt::format(", {}", layer.unnamed_text()) : "";
    trouble.where =
        fmt::format("{}{}{}{}", name, what, trouble.where.empty() ? "" : ": ", trouble.where);
    throw ShapeError(trouble);
  }
}

void add_needs(std::vector<WeightNeed>& needs, const std::string& name,
               std::vector<WeightNeed> more) {
  for (WeightNeed& need : more) {
    need.name = fmt::format("{}.{}", name, need.name);
    needs.push_back(std::move(need));
  }
}

std::vector<ProposeProjection>& proposals() {
  static std::vector<ProposeProjection> all;
  return all;
}

/// The projection that brings an example to the shape of what goes through a residual block.
std::string fitting_past(const Shape& example, const Shape& through) {
  if (example.rank() == 1 && through.rank() == 1)
    return fmt::format("with projection dense {}", through[0]);
  for (const ProposeProjection propose : proposals()) {
    if (const std::string layer = propose(example, through); !layer.empty())
      return "with projection " + layer;
  }
  return fmt::format("with projection to {}", to_string(through));
}

}  // namespace

void know(ProposeProjection propose) {
  proposals().push_back(propose);
}

Block::Block(std::vector<Layer> layers)
    : layers_(std::move(layers)), names_(names_of(layers_, false)) {
  if (!layers_.empty()) return;
  throw SettingError({.what = "a group of no layers",
                      .expected = "one layer or more, such as (dense 8, tanh)",
                      .found = "none"});
}

std::string Block::text() const {
  return fmt::format("({})", blueprint_of(layers_));
}

Shape Block::shape(const Shape& example) const {
  Shape inner = example;
  for (std::size_t at = 0; at < layers_.size(); ++at)
    inner = inside(layers_[at], names_[at], [&] { return layers_[at].shape(inner); });
  return inner;
}

std::vector<WeightNeed> Block::weights(const Shape& example) const {
  std::vector<WeightNeed> needs;
  Shape inner = example;
  for (std::size_t at = 0; at < layers_.size(); ++at) {
    add_needs(needs, names_[at], layers_[at].weights(inner));
    inner = layers_[at].shape(inner);
  }
  return needs;
}

std::int64_t Block::multiplications(const Shape& example) const {
  std::int64_t sum = 0;
  Shape inner = example;
  for (const Layer& layer : layers_) {
    sum += layer.multiplications(inner);
    inner = layer.shape(inner);
  }
  return sum;
}

Line Block::forward(const Line& x, Pass& pass) const {
  Line inner = x;
  for (std::size_t at = 0; at < layers_.size(); ++at)
    inner = pass.through(layers_[at], names_[at], inner);
  return inner;
}

Residual::Residual(std::vector<Layer> layers, std::optional<Layer> projection)
    : block_(std::move(layers)), projection_(std::move(projection)) {
  if (!projection_) return;
  if (projection_->given_name().empty()) projection_ = named("projection", *projection_);
  std::vector<Layer> all = block_.layers();
  all.push_back(*projection_);
  static_cast<void>(names_of(all, false));
}

std::string Residual::text() const {
  std::string text = "residual" + block_.text();
  if (projection_) {
    text += " with projection " + (projection_->given_name() == "projection"
                                       ? projection_->unnamed_text()
                                       : projection_->text());
  }
  return text;
}

Shape Residual::shape_of_projection(const Shape& example) const {
  if (!projection_) return example;
  return inside(*projection_, projection_->given_name(),
                [&] { return projection_->shape(example); });
}

Shape Residual::shape(const Shape& example) const {
  const Shape through = block_.shape(example);
  const Shape projection = shape_of_projection(example);
  if (through == projection) return through;
  throw ShapeError(
      {.what = "the input of a residual block cannot be added to what goes through it",
       .expected = fmt::format("{}, as what goes through", to_string(through)),
       .found = to_string(projection),
       .remedy = fmt::format("let the layers inside keep the shape, or add after the bracket: {}",
                             fitting_past(example, through))});
}

std::vector<WeightNeed> Residual::weights(const Shape& example) const {
  std::vector<WeightNeed> needs = block_.weights(example);
  if (projection_) add_needs(needs, projection_->given_name(), projection_->weights(example));
  return needs;
}

std::int64_t Residual::multiplications(const Shape& example) const {
  return block_.multiplications(example) +
         (projection_ ? projection_->multiplications(example) : 0);
}

Line Residual::forward(const Line& x, Pass& pass) const {
  const Line through = block_.forward(x, pass);
  return (projection_ ? pass.through(*projection_, projection_->given_name(), x) : x) + through;
}

}  // namespace lattice
