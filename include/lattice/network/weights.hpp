#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// Whether a trained tensor is a bias: by default, if it has one axis or none. An L2 term, decay
/// and an initialisation for all exclude biases: they do not make a unit steeper.
[[nodiscard]] bool is_bias(std::optional<bool> told, const Shape& shape);

/// A tensor that belongs to a network, and its name. It is learnt, unless it is frozen or kept.
struct Weight {
  std::string name;
  Tensor value;
  bool is_frozen = false;  ///< it gets no gradient, and no update changes it
  bool is_running =
      false;  ///< moves while the network trains, as its layer says, and is not learnt
  std::optional<bool> bias = std::nullopt;  ///< whether it is a bias; else its shape says
  double rate_multiplier = 1.0;             ///< it learns at so many times the rate
  bool is_spared = false;                   ///< no L2 term and no decay make it smaller

  [[nodiscard]] bool is_bias() const { return lattice::is_bias(bias, value.shape()); }

  /// True for what a start for all is about: what is learnt, and is no bias.
  [[nodiscard]] bool is_slope() const { return !is_running && !is_bias(); }

  /// True for what an L2 term and decay make smaller.
  [[nodiscard]] bool decays() const { return is_slope() && !is_spared; }
};

/// The tensors that belong to a network, learnt, frozen and kept, by name, in the order in which
/// they are used.
class Weights {
 public:
  Weights() = default;
  Weights(std::initializer_list<Weight> weights) {
    for (const Weight& weight : weights)
      add(weight);
  }

  /// Adds a weight at the end. @throws NameError when there is one of that name already.
  void add(Weight weight);

  /// @throws NameError when there is no such weight, saying which there are.
  [[nodiscard]] const Tensor& operator[](std::string_view name) const;
  [[nodiscard]] Tensor& operator[](std::string_view name);

  /// The weight with all that belongs to it. @throws as the above.
  [[nodiscard]] const Weight& find(std::string_view name) const;
  [[nodiscard]] Weight& find(std::string_view name);

  /// Holds a weight fixed from here on, or lets it go again; or all those of a layer, `hidden`.
  /// @throws NameError when there is neither, saying what there is.
  void freeze(std::string_view name, bool frozen = true);

  /// Lets a weight, or all those of a layer, learn at so many times the rate from here on.
  /// @throws as the above; SettingError unless `rate_multiplier` is above 0.
  void set_rate_multiplier(std::string_view name, double rate_multiplier);

  /// Puts the numbers of others, of the same names and shapes, in place of these. What is frozen
  /// here stays frozen. @throws NameError when one of these is not among the others.
  void take_numbers_of(const Weights& others);

  /// Where a weight stands, from 0, and what stands there. It is looked for at a likely place
  /// first.
  /// @throws as the above.
  [[nodiscard]] std::size_t place(std::string_view name, std::size_t likely = 0) const;
  [[nodiscard]] const Weight& at(std::size_t place) const { return weights_[place]; }
  [[nodiscard]] Weight& at(std::size_t place) { return weights_[place]; }

  [[nodiscard]] auto begin() const { return weights_.begin(); }
  [[nodiscard]] auto end() const { return weights_.end(); }
  [[nodiscard]] std::size_t size() const { return weights_.size(); }

 private:
  [[nodiscard]] std::vector<std::size_t>::const_iterator by_name(std::string_view name) const;
  [[nodiscard]] std::vector<Weight*> of(std::string_view name);
  [[noreturn]] void refuse(std::string_view name) const;

  std::vector<Weight> weights_ = {};
  std::vector<std::size_t> by_name_ = {};  ///< their positions, in the order of their names
};

}  // namespace lattice
