#pragma once

#include <cstdint>
#include <vector>

#include "lattice/pictures/contrast.hpp"
#include "lattice/tensor/tensor.hpp"

/// Means of pictures [example × row × column × channel] around each place, by weights that fall off
/// as a bell does.
namespace lattice::kernels {

/// The weights along one axis of a picture.
class BellAxis {
 public:
  BellAxis(std::int64_t size, std::int64_t extent);

  /// Of a position in the mean at a place; 0 where it is outside the window.
  [[nodiscard]] double weight(std::int64_t place, std::int64_t position) const;

  /// The first position in the window at a place, and one after its last.
  [[nodiscard]] std::int64_t first(std::int64_t place) const;
  [[nodiscard]] std::int64_t end(std::int64_t place) const;

 private:
  std::int64_t reach_;
  std::int64_t extent_;
  std::vector<double> bell_;    ///< by distance from the middle
  std::vector<double> totals_;  ///< of the weights inside the picture, by place
};

/// The means, [example × row × column × 1].
[[nodiscard]] Tensor mean_around(const Tensor& pictures, std::int64_t size);

/// The gradient of the pictures, from that of the means.
[[nodiscard]] Tensor mean_around_back(const Tensor& gradient, std::int64_t size,
                                      const Shape& shape);

/// Pictures with their contrast normalised.
[[nodiscard]] Tensor with_contrast(const Tensor& pictures, const Contrast& contrast);

}  // namespace lattice::kernels
