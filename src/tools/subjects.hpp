#pragma once

namespace lattice::tools {

/// Registers all subjects of the command.
void use_subjects();

}  // namespace lattice::tools
