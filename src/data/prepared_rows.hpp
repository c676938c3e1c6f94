#pragma once

#include <cstdint>
#include <span>

#include "lattice/data/examples.hpp"
#include "lattice/data/preparation.hpp"

namespace lattice {

/// Some examples, prepared: the bits of `preparation.prepared(examples.rows(rows))`. Bytes are
/// scaled as they become numbers, in one pass.
[[nodiscard]] Tensor prepared_rows(const Preparation& preparation, const Examples& examples,
                                   std::span<const std::int64_t> rows);

}  // namespace lattice
