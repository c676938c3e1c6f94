#include "tools/subjects.hpp"

#include "lattice/graphs/around/subject.hpp"
#include "lattice/pictures/around/subject.hpp"

namespace lattice::tools {

// A new subject has a line here.
void use_subjects() {
  use_pictures_around();
  use_graphs_around();
}

}  // namespace lattice::tools
