#pragma once

#include <Eigen/Core>
#include <cmath>
#include <limits>

/// Functions of whole arrays, several numbers at a time, that are right to a few units of the last
/// digit over the whole range: where the ones of Eigen are not, or work one number at a time.
namespace lattice::kernels {

/// exp. Eigen's never gets to 0: in double it ends at 5.6·10⁻³⁰⁹, in single, on some machines, at
/// 2.9·10⁻³⁹. So small arguments are worked higher and scaled down.
template <class T>
struct ExpOf {
  T operator()(T x) const { return std::exp(x); }

  template <class Packet>
  [[nodiscard]] Packet packetOp(const Packet& x) const {
    using namespace Eigen::internal;
    constexpr bool is_double = std::is_same_v<T, double>;
    constexpr T lowest = is_double ? T(-700) : T(-80);
    constexpr T shift = is_double ? T(200) : T(40);
    constexpr T power =
        is_double ? T(1.3838965267367376e-87) : T(4.248354255291589e-18);  // exp(−shift)
    const Packet is_low = pcmp_lt(x, pset1<Packet>(lowest));
    // Of two ways to ask the same, the quicker one in each precision.
    const bool has_low = is_double ? !(predux_min(x) >= lowest) : predux_any(is_low);
    if (!has_low) return pexp(x);
    const Packet shifted = padd(x, pand(is_low, pset1<Packet>(shift)));
    const Packet scale = pselect(is_low, pset1<Packet>(power), pset1<Packet>(T(1)));
    return pmul(pexp(shifted), scale);
  }
};

/// The natural logarithm. Eigen's takes numbers that are smaller than normal ones for the smallest
/// normal one, so these are scaled up first.
template <class T>
struct LogOf {
  T operator()(T x) const { return std::log(x); }

  template <class Packet>
  [[nodiscard]] Packet packetOp(const Packet& x) const {
    using namespace Eigen::internal;
    constexpr T scale = std::is_same_v<T, double> ? T(1ULL << 54U) : T(1ULL << 25U);
    constexpr T log_of_scale = std::is_same_v<T, double> ? static_cast<T>(54 * 0.6931471805599453)
                                                         : static_cast<T>(25 * 0.6931471805599453);
    const Packet is_low = pcmp_lt(x, pset1<Packet>(std::numeric_limits<T>::min()));
    const Packet scaled = pselect(is_low, pmul(x, pset1<Packet>(scale)), x);
    return psub(plog(scaled), pand(is_low, pset1<Packet>(log_of_scale)));
  }
};

/// log(1 + x) and exp(x) − 1, without losing what is little beside 1.
/// Source: Kahan, in Hewlett-Packard's HP-15C Advanced Functions Handbook, 1982.
template <class T>
struct Log1pOf {
  T operator()(T x) const { return std::log1p(x); }

  template <class Packet>
  [[nodiscard]] Packet packetOp(const Packet& x) const {
    return Eigen::internal::generic_plog1p(x);
  }
};
template <class T>
struct Expm1Of {
  T operator()(T x) const { return std::expm1(x); }

  template <class Packet>
  [[nodiscard]] Packet packetOp(const Packet& x) const {
    return Eigen::internal::generic_expm1(x);
  }
};

/// The hyperbolic tangent: in single one quotient of polynomials, right to 5 units of the last
/// digit; in double such a quotient near 0, and 1 − 2/(e^2x + 1) elsewhere.
/// Source: Moshier, Cephes mathematical library, 1989 (after Cody and Waite, 1980).
template <class T>
struct TanhOf {
  T operator()(T x) const { return std::tanh(x); }

  template <class Packet>
  [[nodiscard]] Packet packetOp(const Packet& x) const {
    using namespace Eigen::internal;
    if constexpr (std::is_same_v<T, float>) {
      return pselect(pcmp_eq(x, x), generic_fast_tanh_float(x), x);  // NaN stays NaN
    } else {
      const auto number = [](double each) { return pset1<Packet>(each); };
      const Packet size = pabs(x);
      const Packet square = pmul(x, x);
      const auto next = [&](const Packet& sum, double coefficient) {
        return padd(pmul(sum, square), number(coefficient));
      };
      const Packet above = next(next(number(-9.64399179425052238628e-1), -9.92877231001918586564e1),
                                -1.61468768441708447952e3);
      const Packet below =
          next(next(padd(square, number(1.12811678491632931402e2)), 2.23548839060100448583e3),
               4.84406305325125486048e3);
      const Packet near = padd(x, pmul(pmul(x, square), pdiv(above, below)));
      const Packet power = pexp(padd(size, size));
      const Packet rest = psub(number(1.0), pdiv(number(2.0), padd(power, number(1.0))));
      const Packet far = pselect(pcmp_lt(x, number(0.0)), pnegate(rest), rest);
      return pselect(pcmp_lt(size, number(0.625)), near, far);
    }
  }
};

template <class X>
[[nodiscard]] auto exp_of(const X& x) {
  return x.unaryExpr(ExpOf<typename X::Scalar>());
}
template <class X>
[[nodiscard]] auto log1p_of(const X& x) {
  return x.unaryExpr(Log1pOf<typename X::Scalar>());
}

}  // namespace lattice::kernels

namespace Eigen::internal {

template <class T>
struct functor_traits<lattice::kernels::ExpOf<T>> {
  enum { Cost = functor_traits<scalar_exp_op<T>>::Cost, PacketAccess = packet_traits<T>::HasExp };
};

template <class T>
struct functor_traits<lattice::kernels::LogOf<T>> {
  enum { Cost = functor_traits<scalar_log_op<T>>::Cost, PacketAccess = packet_traits<T>::HasLog };
};

template <class T>
struct functor_traits<lattice::kernels::Log1pOf<T>> {
  enum { Cost = functor_traits<scalar_log_op<T>>::Cost, PacketAccess = packet_traits<T>::HasLog };
};

template <class T>
struct functor_traits<lattice::kernels::Expm1Of<T>> {
  enum {
    Cost = functor_traits<scalar_exp_op<T>>::Cost,
    PacketAccess = bool(packet_traits<T>::HasExp) && bool(packet_traits<T>::HasLog)
  };
};

template <class T>
struct functor_traits<lattice::kernels::TanhOf<T>> {
  enum {
    Cost = functor_traits<scalar_exp_op<T>>::Cost,
    PacketAccess = bool(packet_traits<T>::HasExp) && bool(packet_traits<T>::HasDiv)
  };
};

}  // namespace Eigen::internal
