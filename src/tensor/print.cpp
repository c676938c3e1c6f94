#include "lattice/tensor/print.hpp"

#include "tensor/tensor_tables.hpp"
#include "text/grid.hpp"

namespace lattice {

std::string to_string(const Tensor& tensor, const PrintSettings& settings) {
  if (tensor.empty()) return "[nothing]\n";
  const std::string shape = to_string(tensor.shape());
  if (tensor.shape().rank() == 0)
    return shape + " " + format_number(tensor.number(), settings.digits) + "\n";
  return shape + "\n" +
         text(tensor, {.digits = settings.digits,
                       .most_rows = settings.most_rows,
                       .width = settings.width,
                       .ruled = true});
}

}  // namespace lattice
