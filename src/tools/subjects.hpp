#pragma once

namespace lattice::tools {

/// Makes every subject known that the command works with.
void use_subjects();

}  // namespace lattice::tools
