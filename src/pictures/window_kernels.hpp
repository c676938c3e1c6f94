#pragma once

#include "lattice/pictures/window.hpp"
#include "lattice/tensor/tensor.hpp"

/// What windows do that go over pictures [… × row × column × channel]. Pictures are spread over
/// threads; how numbers are added up depends on shapes alone.
namespace lattice::kernels {

/// The sum over each window of numbers times the kernel's, with a number of `bias` for each channel
/// where there is one. The kernel is [row × column × channel in × channel out].
[[nodiscard]] Tensor convolution(const Tensor& x, const Tensor& kernel, const Tensor* bias,
                                 const WindowPlaces& places, const Shape& shape);

/// The way back to the pictures, of which `shape` is.
[[nodiscard]] Tensor convolution_to_pictures(const Tensor& gradient, const Tensor& kernel,
                                             const WindowPlaces& places, const Shape& shape);

/// The way back to the kernel, of which `shape` is.
[[nodiscard]] Tensor convolution_to_kernel(const Tensor& x, const Tensor& gradient,
                                           const WindowPlaces& places, const Shape& shape);

/// Kernels of connections [row × column × connection] as one for all channels, with 0 where there
/// is no connection; `table` has a row for each: the channel that comes in, the one that goes out.
[[nodiscard]] Tensor kernel_of_connections(const Tensor& kernels, const Tensor& table,
                                           std::int64_t channels_in, std::int64_t channels_out);

/// The way back: what belongs to connections, of a kernel for all channels.
[[nodiscard]] Tensor connections_of_kernel(const Tensor& kernel, const Tensor& table,
                                           const Shape& shape);

/// The largest number under each window, channel by channel; and the way back, to the first of them
/// at each place.
[[nodiscard]] Tensor largest_under(const Tensor& x, const WindowPlaces& places, const Shape& shape);
[[nodiscard]] Tensor to_largest_under(const Tensor& x, const Tensor& largest,
                                      const Tensor& gradient, const WindowPlaces& places);

/// The mean of the numbers under each window, channel by channel; and the way back, to pictures of
/// a shape.
[[nodiscard]] Tensor mean_under(const Tensor& x, const WindowPlaces& places, const Shape& shape);
[[nodiscard]] Tensor from_mean_under(const Tensor& gradient, const WindowPlaces& places,
                                     const Shape& shape);

}  // namespace lattice::kernels
