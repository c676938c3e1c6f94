#include "lattice/worksheet/operations/activations.hpp"

#include "worksheet/operations/elementwise_rules.hpp"

namespace lattice {
namespace elementwise {

template class Unary<Sigmoid>;
template class Unary<Tanh>;
template class Unary<Relu>;
template class Unary<LeakyRelu>;
template class Unary<Softplus>;
template class Unary<Elu>;

}  // namespace elementwise
}  // namespace lattice
