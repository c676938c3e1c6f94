#pragma once

#include <cstdint>
#include <utility>
#include <vector>

#include "lattice/tensor/axis_names.hpp"
#include "lattice/tensor/tensor.hpp"
#include "text/grid.hpp"

namespace lattice {

/// Rows of data as people wrote them down: the features of a table, then the numbers to predict or
/// the class.
class RowsGrid {
 public:
  /// @param targets [example × target]; empty where there are classes
  /// @param classes [example]; empty where there are targets
  /// @param row_weights how much each row counts [example]; null where nobody says
  RowsGrid(Tensor features, Tensor targets, Tensor classes, AxisNames names,
           const Tensor* row_weights = nullptr)
      : features_(std::move(features)),
        targets_(std::move(targets)),
        classes_(std::move(classes)),
        names_(std::move(names)),
        row_weights_(row_weights) {}

  /// Adds the headings of the columns to a grid.
  void add_headings(Grid& grid) const;

  /// Adds what one row holds to the cells of a row of a grid.
  void add_cells(std::vector<Grid::Entry>& cells, std::int64_t row) const;

 private:
  [[nodiscard]] bool has_features() const { return features_.shape().rank() == 2; }

  Tensor features_;
  Tensor targets_;
  Tensor classes_;
  AxisNames names_;
  const Tensor* row_weights_;
};

}  // namespace lattice
