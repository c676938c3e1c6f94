#include "lattice/worksheet/operations/arithmetic.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"
#include "worksheet/operations/elementwise_rules.hpp"

namespace lattice {
namespace elementwise {

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

template class Binary<Maximum>;
template class Unary<WithNumber<Maximum, Side::first>>;
template class Unary<WithNumber<Maximum, Side::second>>;

template class Binary<Minimum>;
template class Unary<WithNumber<Minimum, Side::first>>;
template class Unary<WithNumber<Minimum, Side::second>>;

template class Binary<Above>;
template class Unary<WithNumber<Above, Side::first>>;
template class Unary<WithNumber<Above, Side::second>>;

template class Binary<AtLeast>;
template class Unary<WithNumber<AtLeast, Side::first>>;
template class Unary<WithNumber<AtLeast, Side::second>>;

template class Binary<Equal>;
template class Unary<WithNumber<Equal, Side::first>>;
template class Unary<WithNumber<Equal, Side::second>>;

template class Unary<Negate>;
template class Unary<Square>;
template class Unary<Power>;
template class Binary<RaisedTo>;
template class Unary<WithNumber<RaisedTo, Side::first>>;
template class Unary<SquareRoot>;
template class Unary<InverseRoot>;
template class Unary<Exp>;
template class Unary<Log>;
template class Unary<AbsoluteValue>;
template class Unary<Clip>;

}  // namespace elementwise

void detail::check_limits(double low, double high) {
  if (low < high) return;
  throw SettingError({.what = "clip: the limits are in the wrong order",
                      .expected = "a lower limit below the upper one",
                      .found = fmt::format("{} and {}", format_number(low), format_number(high))});
}

}  // namespace lattice
