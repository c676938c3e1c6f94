#pragma once

#include <functional>
#include <string>
#include <vector>

namespace bench {

/// Two ways to do the same work once. Each gives a number that must be the same.
struct Pair {
  std::function<double()> ours;
  std::function<double()> by_hand;
  int times = 1;            ///< how often each is run for one measurement
  double tolerance = 1e-9;  ///< how far their numbers may be apart
  double scale = 1.0;       ///< so many times what is done by hand is as much work
};

/// Of each update, on both sides.
inline constexpr double rate = 0.01;

/// What is compared under a name, and how many pairs of measurements are taken.
struct Comparison {
  std::string name;
  int pairs;
  std::function<Pair()> make;
};

/// Convolutional networks, what they are made of, and reading pictures.
[[nodiscard]] std::vector<Comparison> comparisons_of_pictures();

/// Graphs: products with a sparse matrix, and an epoch as the graph grows.
[[nodiscard]] std::vector<Comparison> comparisons_of_graphs();

}  // namespace bench
