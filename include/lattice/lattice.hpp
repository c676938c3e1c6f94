#pragma once

/// Everything that a program needs to calculate, ask and learn, with pictures and graphs.
#include "lattice/core.hpp"
#include "lattice/graphs/graphs.hpp"
#include "lattice/pictures/pictures.hpp"
