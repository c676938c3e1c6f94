#pragma once

#include <cstdint>
#include <map>
#include <set>
#include <string>
#include <vector>

#include "lattice/tensor/axis_names.hpp"
#include "lattice/tensor/tensor.hpp"
#include "text/grid.hpp"

namespace lattice {

/// How a tensor is laid out, whatever it is shown on: in tables side by side, by the roles of its
/// axes. Rows and columns of a picture make a table, and all other axes number such tables. Where
/// there are not both, the last axis goes across and all others go down, in one table.
class TensorTables {
 public:
  explicit TensorTables(const Shape& shape);

  /// Where a number stands, from 0.
  struct Position {
    std::int64_t table;
    std::int64_t row;
    std::int64_t column;
  };

  /// The axes that number the tables, that go down, and that go across, each the outermost first.
  [[nodiscard]] const std::vector<int>& beside() const { return beside_; }
  [[nodiscard]] const std::vector<int>& down() const { return down_; }
  [[nodiscard]] const std::vector<int>& across() const { return across_; }

  [[nodiscard]] std::int64_t tables() const { return places_along(beside_); }
  [[nodiscard]] std::int64_t rows() const { return places_along(down_); }
  [[nodiscard]] std::int64_t columns() const { return places_along(across_); }

  [[nodiscard]] Position position(std::int64_t offset) const;
  [[nodiscard]] std::int64_t offset(const Position& position) const;

  /// `example 0, channel 2`; empty where there is one table.
  [[nodiscard]] std::string table_label(std::int64_t table, const AxisNames& names) const;

  /// `example 3`; `[0,3,·]` where several axes go down; empty where none does.
  [[nodiscard]] std::string row_label(std::int64_t row, const AxisNames& names) const;

  /// `2 peak`; the role stands in the corner.
  [[nodiscard]] std::string column_label(std::int64_t column, const AxisNames& names) const;
  [[nodiscard]] std::string_view corner() const;

 private:
  [[nodiscard]] std::int64_t places_along(const std::vector<int>& axes) const;
  [[nodiscard]] std::int64_t place_along(const std::vector<int>& axes, const Index& at) const;
  void move_along(const std::vector<int>& axes, std::int64_t place, Index& at) const;
  [[nodiscard]] Index start() const { return Index::zeros(shape_.rank()); }

  Shape shape_;
  std::vector<int> beside_ = {};
  std::vector<int> down_ = {};
  std::vector<int> across_ = {};
};

/// What is shown of a tensor, if not all its numbers.
struct TensorView {
  std::map<std::int64_t, std::string> words = {};  ///< in place of numbers, by offset

  /// Offsets: tables, rows and columns without any of them are left out. Nothing is if empty.
  std::set<std::int64_t> within = {};
};

/// A tensor of one axis or more as grids side by side.
[[nodiscard]] std::string text(const Tensor& tensor, const GridStyle& style,
                               const AxisNames& names = {}, const TensorView& view = {});

}  // namespace lattice
