#pragma once

#include <cstdint>
#include <memory>
#include <mutex>
#include <span>
#include <vector>

#include "lattice/tensor/tensor.hpp"

namespace lattice {

/// Which places of a matrix are stored: row by row, and by column within a row. Matrices that keep
/// the same places share it, and with it what was once found out about them.
class Pattern {
 public:
  /// @param starts where each row begins among the places, and at last where the last one ends
  /// @param columns of each place
  Pattern(std::int64_t columns, std::vector<std::int64_t> starts, std::vector<std::int32_t> places);

  [[nodiscard]] std::int64_t rows() const { return std::ssize(starts_) - 1; }
  [[nodiscard]] std::int64_t columns() const { return columns_; }
  [[nodiscard]] std::int64_t count() const { return std::ssize(places_); }

  /// Where row `row` begins among the places; `starts()[rows()]` is where the last one ends.
  [[nodiscard]] const std::int64_t* starts() const { return starts_.data(); }

  /// The column of each place.
  [[nodiscard]] const std::int32_t* places() const { return places_.data(); }
  [[nodiscard]] std::span<const std::int32_t> row(std::int64_t row) const;

  /// The same places column by column: the pattern of the turned matrix, and for each of its places
  /// which one it is here. Found out once.
  struct Turned {
    std::shared_ptr<const Pattern> pattern;
    std::vector<std::int32_t> from;
  };
  [[nodiscard]] const Turned& turned() const;

  /// The places of a square with those of its diagonal, where each of these places went, and where
  /// the diagonal is. Found out once.
  struct WithDiagonal {
    std::shared_ptr<const Pattern> pattern;
    std::vector<std::int32_t> to;
    std::vector<std::int32_t> diagonal;
  };
  [[nodiscard]] const WithDiagonal& with_diagonal() const;

 private:
  std::int64_t columns_;
  std::vector<std::int64_t> starts_;
  std::vector<std::int32_t> places_;
  mutable std::once_flag is_turned_;
  mutable Turned turned_;
  mutable std::once_flag has_diagonal_;
  mutable WithDiagonal with_diagonal_;
};

/// What is stored of a sparse matrix.
class SparseNumbers {
 public:
  SparseNumbers(std::shared_ptr<const Pattern> pattern, Tensor values)
      : pattern_(std::move(pattern)), values_(std::move(values)) {}

  [[nodiscard]] const Pattern& pattern() const { return *pattern_; }
  [[nodiscard]] const std::shared_ptr<const Pattern>& shared_pattern() const { return pattern_; }

  /// The number of each place [place].
  [[nodiscard]] const Tensor& values() const { return values_; }

  [[nodiscard]] double at(std::int64_t row, std::int64_t column) const;

  /// True when it is the same with rows and columns exchanged. Found out once.
  [[nodiscard]] bool is_symmetric() const;

  /// All numbers, those that are not stored as 0. They are written once.
  /// @throws MemoryError when they are too many.
  [[nodiscard]] const Tensor& written_out() const;

 private:
  std::shared_ptr<const Pattern> pattern_;
  Tensor values_;
  mutable std::once_flag is_compared_;
  mutable bool is_symmetric_ = false;
  mutable std::once_flag is_written_out_;
  mutable Tensor written_out_;
};

/// A matrix that stores the same places, with other numbers, with the roles of `like`.
[[nodiscard]] Tensor with_values(const Tensor& like, Tensor values);

}  // namespace lattice
