#include <algorithm>

#include "pictures/window_kernels.hpp"
#include "tensor/visit.hpp"

namespace lattice::kernels {
namespace {

/// Calls `meet(offset in the list, offset in the whole kernel)` for each number of each connection.
template <class T, class Meet>
void each_connected(const Shape& kernels, const Tensor& table, std::int64_t channels_in,
                    std::int64_t channels_out, Meet meet) {
  const std::int64_t connections = kernels[2];
  const T* const pairs = table.data<T>();
  for (std::int64_t place = 0; place < kernels[0] * kernels[1]; ++place) {
    for (std::int64_t connection = 0; connection < connections; ++connection) {
      const auto in = static_cast<std::int64_t>(pairs[2 * connection]);
      const auto out = static_cast<std::int64_t>(pairs[2 * connection + 1]);
      meet(place * connections + connection, (place * channels_in + in) * channels_out + out);
    }
  }
}

}  // namespace

Tensor kernel_of_connections(const Tensor& kernels, const Tensor& table, std::int64_t channels_in,
                             std::int64_t channels_out) {
  const Shape& shape = kernels.shape();
  Tensor whole =
      Tensor::unfilled({shape[0], shape[1], channels_in, channels_out}, kernels.precision());
  visit(kernels.precision(), [&]<class T>(T) {
    const T* const from = kernels.data<T>();
    T* const to = whole.writable<T>();
    std::fill_n(to, whole.count(), T{0});
    each_connected<T>(shape, table, channels_in, channels_out,
                      [&](std::int64_t listed, std::int64_t at) { to[at] += from[listed]; });
  });
  return whole;
}

Tensor connections_of_kernel(const Tensor& kernel, const Tensor& table, const Shape& shape) {
  Tensor listed = Tensor::unfilled(shape, kernel.precision());
  visit(kernel.precision(), [&]<class T>(T) {
    const T* const from = kernel.data<T>();
    T* const to = listed.writable<T>();
    each_connected<T>(shape, table, kernel.shape()[2], kernel.shape()[3],
                      [&](std::int64_t at, std::int64_t in_whole) { to[at] = from[in_whole]; });
  });
  return listed;
}

}  // namespace lattice::kernels
