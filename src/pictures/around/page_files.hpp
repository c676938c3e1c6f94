#pragma once

#include "show/page/files.hpp"

namespace lattice::page_files {

/// What pictures add to pages: the files in this folder.
extern const OfSubject pictures;

}  // namespace lattice::page_files
