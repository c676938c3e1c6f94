#include "lattice/worksheet/operations/arithmetic.hpp"

#include "worksheet/operations/elementwise_rules.hpp"

namespace lattice {

template class Binary<Add>;
template class Unary<WithNumber<Add, Side::first>>;
template class Unary<WithNumber<Add, Side::second>>;

template class Binary<Subtract>;
template class Unary<WithNumber<Subtract, Side::first>>;
template class Unary<WithNumber<Subtract, Side::second>>;

template class Binary<Multiply>;
template class Unary<WithNumber<Multiply, Side::first>>;
template class Unary<WithNumber<Multiply, Side::second>>;

template class Binary<Divide>;
template class Unary<WithNumber<Divide, Side::first>>;
template class Unary<WithNumber<Divide, Side::second>>;

template class Unary<Negate>;
template class Unary<Square>;
template class Unary<Exp>;
template class Unary<Log>;

}  // namespace lattice
