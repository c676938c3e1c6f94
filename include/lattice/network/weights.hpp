#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/tensor.hpp"
#include "lattice/text/detail/name_index.hpp"
#include "lattice/worksheet/worksheet.hpp"

namespace lattice {

/// Whether a trained tensor is a bias: by default, if it has one axis or none. An L2 term, decay
/// and an initialisation for all exclude biases: they do not make a unit steeper.
[[nodiscard]] bool is_bias(std::optional<bool> told, const Shape& shape);

/// A tensor of a network, and its name. It is trained, unless it is frozen or a running statistic.
struct Weight {
  std::string name;
  Tensor value;
  bool is_frozen = false;   ///< it gets no gradient, and no update changes it
  bool is_running = false;  ///< changes in training, as its layer says, but is not learnt
  std::optional<bool> bias = std::nullopt;  ///< whether it is a bias; by default its shape decides
  double rate_multiplier = 1.0;             ///< of its learning rate
  bool is_spared = false;                   ///< excluded from the L2 term and from decay
  bool bias_decays = false;                 ///< as a bias it is usually excluded from them, too

  [[nodiscard]] bool is_bias() const { return lattice::is_bias(bias, value.shape()); }

  /// Whether an initialisation for all applies to it: if it is trained and not a bias.
  [[nodiscard]] bool is_slope() const { return !is_running && !is_bias(); }

  /// Whether the L2 term and decay apply to it.
  [[nodiscard]] bool decays() const {
    return !is_running && !is_spared && (bias_decays || !is_bias());
  }
};

/// The tensors of a network, trained, frozen and running, by name, in order of use.
class Weights {
 public:
  Weights() = default;
  Weights(std::initializer_list<Weight> weights) {
    for (const Weight& weight : weights)
      add(weight);
  }

  /// Adds a weight at the end. @throws NameError for a duplicate name.
  void add(Weight weight);

  /// @throws NameError that lists the weights, for an unknown one.
  [[nodiscard]] const Tensor& operator[](std::string_view name) const;
  [[nodiscard]] Tensor& operator[](std::string_view name);

  /// The weight with its settings. @throws as the above.
  [[nodiscard]] const Weight& find(std::string_view name) const;
  [[nodiscard]] Weight& find(std::string_view name);

  /// Freezes or unfreezes a weight, or all those of a layer, `hidden`.
  /// @throws NameError that lists both, for an unknown one.
  void freeze(std::string_view name, bool frozen = true);

  /// Sets the rate multiplier of a weight, or of all those of a layer.
  /// @throws as the above; SettingError unless `rate_multiplier` is above 0.
  void set_rate_multiplier(std::string_view name, double rate_multiplier);

  /// Replaces the numbers by those of others with the same names and shapes. Frozen weights stay
  /// frozen. @throws NameError when one of these is not among the others.
  void take_numbers_of(const Weights& others);

  /// The position of a weight, from 0, and the weight. A likely position is tried first.
  /// @throws as the above.
  [[nodiscard]] std::size_t place(std::string_view name, std::size_t likely = 0) const;
  [[nodiscard]] const Weight& at(std::size_t place) const { return weights_[place]; }
  [[nodiscard]] Weight& at(std::size_t place) { return weights_[place]; }

  [[nodiscard]] auto begin() const { return weights_.begin(); }
  [[nodiscard]] auto end() const { return weights_.end(); }
  [[nodiscard]] std::size_t size() const { return weights_.size(); }

 private:
  [[nodiscard]] std::optional<std::uint32_t> by_name(std::string_view name) const;
  [[nodiscard]] std::vector<Weight*> of(std::string_view name);
  [[noreturn]] void refuse(std::string_view name) const;

  std::vector<Weight> weights_ = {};
  detail::NameIndex by_name_ = {};
};

/// The weights of a worksheet in the order of their lines: trained, frozen and running.
[[nodiscard]] Weights weights_of(const Worksheet& sheet);

/// A calculation worked again with other weights.
/// @throws NameError for a weight of the sheet that is not among them; as `worked_again` does.
[[nodiscard]] Worksheet worked_again(const Worksheet& sheet, const Weights& weights);

}  // namespace lattice
