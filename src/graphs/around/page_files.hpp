#pragma once

#include "show/page/files.hpp"

namespace lattice::page_files {

/// What graphs add to pages: the files in this folder.
extern const OfSubject graphs;

}  // namespace lattice::page_files
