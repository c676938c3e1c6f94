#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/worksheet/operation.hpp"
#include "tensor/axes.hpp"
#include "tensor/kernels.hpp"

namespace lattice {

/// How operations that work number by number write products, apart from matrix products.
inline const Notation number_by_number{.times = " × "};

/// The numbers of a tensor in symbols: its name, as a formula.
[[nodiscard]] Formula symbol(const std::string& name);

/// The axes of a set, by role or by number: `example`, `row, column`, `axis 1`.
[[nodiscard]] std::string describe_axes(kernels::AxisSet axes, const Shape& shape);

/// The same for a sheet: by number, where several axes have the role.
[[nodiscard]] std::string describe_axes(kernels::AxisSet axes, const Symbols& symbols);

/// The name of a function in a sheet: `log_sum_exp` for the operation log-sum-exp.
[[nodiscard]] std::string function_called(std::string_view name);

/// `Σ example ` when an input was stretched along the examples of the result; empty when it was not
/// stretched at all.
[[nodiscard]] std::string summed_over(const Symbols& symbols, std::size_t input);

/// Every place of the stretched shape at which the number at `at` was used.
[[nodiscard]] std::vector<Index> places_of_use(const Shape& shape, const Shape& stretched,
                                               const Index& at);

/// Every place of `shape` that agrees with `at` on the axes that are not in the set. `at` has the
/// rank of `shape`; its positions on axes of the set do not matter.
[[nodiscard]] std::vector<Index> places_along(kernels::AxisSet axes, const Shape& shape,
                                              const Index& at);

/// Refuses an input with a number that is not a whole number from 0 to `end` − 1, looking at every
/// `step`th number from `first` on. `what` is what they stand for, such as `a class number`.
/// @throws IndexError that names the place.
void check_whole(const Inputs& inputs, std::size_t input, std::int64_t end, std::string_view what,
                 std::int64_t first = 0, std::int64_t step = 1);

/// The largest of several numbers, and Σ exp(number − largest), in which nothing overflows.
struct Powers {
  Formula largest;
  Formula sum;
};

/// Those of the numbers that are gathered; they are in common at `at`.
[[nodiscard]] Powers powers_of(const Cells& cells, const Index& at,
                               const std::function<std::vector<Formula>()>& gather);

/// largest + log Σ exp(number − largest).
[[nodiscard]] Formula log_sum_exp_of(const Powers& powers);

/// (largest − number) + log Σ exp(numbers − largest), which is −log softmax: the difference is
/// taken first, so that nothing is lost where the number is by far the largest.
[[nodiscard]] Formula surprise_at(const Formula& number, const Powers& powers);

/// exp(number − largest)/Σ exp(numbers − largest).
[[nodiscard]] Formula softmax_of(const Formula& number, const Powers& powers);

/// Whether the log of a probability is as exact as that of what it was made from. One that was
/// rounded to 0, or nearly to 1, has lost what its log would tell.
[[nodiscard]] constexpr bool log_tells_all(double probability) {
  return probability >= 1e-300 && probability <= 0.9999;
}

}  // namespace lattice
