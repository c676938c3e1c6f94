#pragma once

/// Everything for pictures. Including this header makes them known (`use_pictures`).
#include "lattice/pictures/augmentation.hpp"
#include "lattice/pictures/contrast.hpp"
#include "lattice/pictures/contrast_layer.hpp"
#include "lattice/pictures/contrast_operation.hpp"
#include "lattice/pictures/moving.hpp"
#include "lattice/pictures/moving_operation.hpp"
#include "lattice/pictures/picture.hpp"
#include "lattice/pictures/subject.hpp"
#include "lattice/pictures/window.hpp"
#include "lattice/pictures/window_layers.hpp"
#include "lattice/pictures/window_operations.hpp"

namespace lattice::detail {

inline const bool are_pictures_in_use = use_pictures();

}  // namespace lattice::detail
