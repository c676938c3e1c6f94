#pragma once

#include <array>
#include <cstdint>
#include <span>

#include "lattice/pictures/moving.hpp"

/// Pictures [example × row × column × channel] that are moved about, each as its move says.
namespace lattice::kernels {

/// What one place of a moved picture is made of, brightness apart: parts of places of the picture
/// as it was, and a part of what lies around it. The parts add up to 1.
class Sources {
 public:
  struct Part {
    std::int64_t row;
    std::int64_t column;
    double part;
  };

  /// To be asked of what lives on: they lie in it.
  [[nodiscard]] std::span<const Part> parts() const& { return std::span(parts_).first(count_); }
  void parts() const&& = delete;
  [[nodiscard]] double around() const { return around_; }

  void add(std::int64_t row, std::int64_t column, double part);
  void add_around(double part) { around_ += part; }

 private:
  std::array<Part, 4> parts_{};
  std::size_t count_ = 0;
  double around_ = 0.0;
};

/// Where the places of a moved picture come from.
class Moving {
 public:
  Moving(const PictureMove& move, const Around& around, std::int64_t rows, std::int64_t columns);

  /// Of a picture that is turned, each number lies between the four nearest, and takes of each as
  /// it is near.
  [[nodiscard]] Sources sources(std::int64_t row, std::int64_t column) const;

 private:
  void add(Sources& sources, std::int64_t row, std::int64_t column, double part) const;

  PictureMove move_;
  bool goes_on_;  ///< the edge does
  std::int64_t rows_;
  std::int64_t columns_;
  double cosine_;
  double sine_;
};

/// @param moves [example × 6]
[[nodiscard]] Tensor augmented(const Tensor& pictures, const Tensor& moves, const Around& around);

/// The gradient of the pictures, from that of the moved ones.
[[nodiscard]] Tensor augmented_back(const Tensor& gradient, const Tensor& moves,
                                    const Around& around);

}  // namespace lattice::kernels
