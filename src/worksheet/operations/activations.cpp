#include "lattice/worksheet/operations/activations.hpp"

#include "worksheet/operations/elementwise_rules.hpp"

namespace lattice {

template class Unary<Sigmoid>;
template class Unary<Tanh>;

}  // namespace lattice
