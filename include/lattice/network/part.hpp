#pragma once

#include <concepts>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "lattice/network/start.hpp"
#include "lattice/network/weights.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// What a forward pass is for. Some parts do something else while a network learns.
class Phase {
 public:
  /// To be used: nothing is left to chance.
  [[nodiscard]] static Phase in_use() { return Phase(false, nullptr); }

  /// To learn from; `random` decides what dropout leaves out.
  [[nodiscard]] static Phase training(Random& random) { return Phase(true, &random); }

  [[nodiscard]] bool is_training() const { return is_training_; }
  [[nodiscard]] Random* random() const { return random_; }

 private:
  Phase(bool is_training, Random* random) : is_training_(is_training), random_(random) {}

  bool is_training_;
  Random* random_;
};

/// One forward pass, as a part of a network sees it: the worksheet, and weights by their short
/// names.
class Pass {
 public:
  Pass(Worksheet& sheet, const Weights& weights, Phase phase)
      : sheet_(&sheet), weights_(&weights), phase_(phase) {}

  [[nodiscard]] Worksheet& sheet() const { return *sheet_; }
  [[nodiscard]] const Phase& phase() const { return phase_; }

  /// The name of the part in its network: `hidden`.
  [[nodiscard]] const std::string& name() const { return name_; }

  /// Writes down a weight of the part: `weight("bias")` is `hidden.bias` on the worksheet.
  [[nodiscard]] Line weight(std::string_view name);

  /// Writes down data of the part, under its name: `hidden.one`.
  Line given(std::string_view name, Tensor value) const;

  /// Carries out a part that lies inside this one, and names its result.
  Line through(const class Part& part, const std::string& name, const Line& x);

 private:
  friend class Network;

  [[nodiscard]] std::string full(std::string_view name) const;

  Worksheet* sheet_;
  const Weights* weights_;
  Phase phase_;
  std::string name_ = {};
};

/// A weight that a part needs.
struct WeightNeed {
  std::string name;  ///< `weight`, `bias`
  Shape shape;

  /// How many numbers go into one unit, and how many units one number goes to, as starts such as
  /// xavier ask. Where they are left out they follow from the shape: the last axis is of units, and
  /// what goes into one is on the others.
  std::optional<std::int64_t> inputs = std::nullopt;
  std::optional<std::int64_t> outputs = std::nullopt;
  Start start = Start::zeros();
  std::optional<bool> bias = std::nullopt;  ///< whether it is a bias; else its shape says

  [[nodiscard]] bool is_bias() const { return lattice::is_bias(bias, shape); }

  /// Draws numbers as it starts.
  [[nodiscard]] Tensor draw(Random& random, Precision precision = Precision::double_) const;
  [[nodiscard]] Tensor draw(const Start& other, Random& random, Precision precision) const;
};

/// What a type has to say to be a part of a network. `example` is the shape of one example as it
/// comes in, without the axis of examples.
template <class P>
concept PartLike = requires(const P& part, const Shape& example, const Line& x, Pass& pass) {
  { part.kind() } -> std::convertible_to<std::string_view>;  // `dense`
  { part.text() } -> std::convertible_to<std::string>;       // `dense 8`
  { part.shape(example) } -> std::same_as<Shape>;            // or a ShapeError
  { part.weights(example) } -> std::same_as<std::vector<WeightNeed>>;
  { part.forward(x, pass) } -> std::same_as<Line>;
};

/// A rule for every number alone, such as `Tanh`: a part as it stands.
template <class Rule>
concept UnitRule = requires(const Rule& rule) {
  { Rule::name } -> std::convertible_to<std::string_view>;
  { rule.value(1.0) } -> std::convertible_to<double>;
};

/// An operation of one's own (`own_operation`): a part as it stands.
template <class Operation>
concept UnitOperation = requires(const Operation& operation, const Line& x) {
  { operation.name() } -> std::convertible_to<std::string_view>;
  { operation(x) } -> std::same_as<Line>;
};

/// One building block of a network. Anything that is `PartLike` is one; so are the rules of the
/// activations and operations of one's own.
///
/// @code
/// std::vector<Part> parts = {Dense{.outputs = 8}, Tanh{}, Dense{.outputs = 4}};
/// @endcode
class Part {
 public:
  template <PartLike P>
  Part(P part) : model_(std::make_shared<Of<P>>(std::move(part))) {}
  template <UnitRule Rule>
  Part(Rule rule);
  template <UnitOperation Operation>
  Part(Operation operation);

  /// The word for what it is: `dense`.
  [[nodiscard]] std::string_view kind() const { return model_->kind(); }

  /// The name it was given; empty when the network is to find one.
  [[nodiscard]] const std::string& given_name() const { return name_; }

  /// As in a blueprint, its name included: `first: dense 8`.
  [[nodiscard]] std::string text() const {
    return name_.empty() ? model_->text() : name_ + ": " + model_->text();
  }

  [[nodiscard]] Shape shape(const Shape& example) const { return model_->shape(example); }
  [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const {
    return model_->weights(example);
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const { return model_->forward(x, pass); }

  /// The part as the type it was made from; null when it was made from another.
  template <class P>
  [[nodiscard]] const P* as() const {
    const auto* model = dynamic_cast<const Of<P>*>(model_.get());
    return model == nullptr ? nullptr : &model->part;
  }

  friend Part named(std::string_view name, Part part);

 private:
  struct Model {
    Model() = default;
    Model(const Model&) = delete;
    Model& operator=(const Model&) = delete;
    virtual ~Model() = default;
    [[nodiscard]] virtual std::string_view kind() const = 0;
    [[nodiscard]] virtual std::string text() const = 0;
    [[nodiscard]] virtual Shape shape(const Shape& example) const = 0;
    [[nodiscard]] virtual std::vector<WeightNeed> weights(const Shape& example) const = 0;
    [[nodiscard]] virtual Line forward(const Line& x, Pass& pass) const = 0;
  };

  template <class P>
  struct Of final : Model {
    explicit Of(P part_) : part(std::move(part_)) {}
    [[nodiscard]] std::string_view kind() const override { return part.kind(); }
    [[nodiscard]] std::string text() const override { return part.text(); }
    [[nodiscard]] Shape shape(const Shape& example) const override { return part.shape(example); }
    [[nodiscard]] std::vector<WeightNeed> weights(const Shape& example) const override {
      return part.weights(example);
    }
    [[nodiscard]] Line forward(const Line& x, Pass& pass) const override {
      return part.forward(x, pass);
    }
    P part;
  };

  std::shared_ptr<const Model> model_;
  std::string name_;
};

/// Gives a part a name, which its weights and its line on the worksheet then carry.
/// @throws NameError unless the name is a letter, followed by letters, digits, `_` or `-`.
[[nodiscard]] Part named(std::string_view name, Part part);

/// The names of the parts of a list: those they were given, and `hidden`, `hidden2`, `tanh` … for
/// the others. Of parts with weights the last is `output` where `has_output` says so.
[[nodiscard]] std::vector<std::string> names_of(const std::vector<Part>& parts, bool has_output);

}  // namespace lattice

#include "lattice/network/part_of_rule.hpp"
