#include "lattice/tensor/random.hpp"

#include <bit>
#include <cmath>
#include <numeric>
#include <utility>

namespace lattice {
namespace {

std::uint64_t splitmix(std::uint64_t& state) {
  std::uint64_t z = (state += 0x9e3779b97f4a7c15ULL);
  z = (z ^ (z >> 30U)) * 0xbf58476d1ce4e5b9ULL;
  z = (z ^ (z >> 27U)) * 0x94d049bb133111ebULL;
  return z ^ (z >> 31U);
}

}  // namespace

Random::Random(std::uint64_t seed) : state_{} {
  for (std::uint64_t& word : state_)
    word = splitmix(seed);
}

Random Random::branch(std::string_view purpose) const {
  std::uint64_t mark = state_[0] ^ std::rotl(state_[2], 17);
  for (const char letter : purpose) {
    mark ^= static_cast<unsigned char>(letter);
    mark = splitmix(mark);
  }
  return Random(mark);
}

Random Random::at(const State& state) {
  Random random(0);
  random.state_ = state;
  return random;
}

std::uint64_t Random::bits() {
  auto& s = state_;
  const std::uint64_t result = std::rotl(s[0] + s[3], 23) + s[0];
  const std::uint64_t t = s[1] << 17U;
  s[2] ^= s[0];
  s[3] ^= s[1];
  s[1] ^= s[2];
  s[0] ^= s[3];
  s[2] ^= t;
  s[3] = std::rotl(s[3], 45);
  return result;
}

double Random::uniform(double low, double high) {
  return low + (high - low) * (static_cast<double>(bits() >> 11U) * 0x1.0p-53);
}

double Random::normal(double mean, double standard_deviation) {
  for (;;) {
    const double u = uniform(-1.0, 1.0);
    const double v = uniform(-1.0, 1.0);
    const double length = u * u + v * v;
    if (length > 0.0 && length < 1.0) {
      return mean + standard_deviation * u * std::sqrt(-2.0 * std::log(length) / length);
    }
  }
}

std::int64_t Random::below(std::int64_t end) {
  const auto range = static_cast<std::uint64_t>(end);
  const std::uint64_t uneven_rest = (0 - range) % range;
  std::uint64_t draw = bits();
  while (draw < uneven_rest)
    draw = bits();
  return static_cast<std::int64_t>(draw % range);
}

std::vector<std::int64_t> Random::shuffled(std::int64_t count) {
  std::vector<std::int64_t> order(static_cast<size_t>(count));
  std::iota(order.begin(), order.end(), 0);
  for (std::int64_t last = count - 1; last > 0; --last) {
    std::swap(order[static_cast<size_t>(last)], order[static_cast<size_t>(below(last + 1))]);
  }
  return order;
}

}  // namespace lattice
