#include "lattice/tensor/raster.hpp"

namespace lattice {

bool is_raster(const Shape& shape) {
  return shape.rank() == 3 && shape.role(0) == Role::row && shape.role(1) == Role::column &&
         shape.role(2) == Role::channel;
}

Shape Raster::shape() const {
  return Shape{rows, columns, channels}.with({Role::row, Role::column, Role::channel});
}

}  // namespace lattice
