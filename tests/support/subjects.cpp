#include "lattice/graphs/around/subject.hpp"
#include "lattice/pictures/around/subject.hpp"

// Tests work with every subject that the command works with.
namespace lattice::testing {

extern const bool subjects_are_in_use;
const bool subjects_are_in_use = use_pictures_around() && use_graphs_around();

}  // namespace lattice::testing
