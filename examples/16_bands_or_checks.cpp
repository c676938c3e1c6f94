// Lesson 16: two patterns, contrast, chosen connections, and a squared loss.
//
// Tiles come in any colours; what tells patterns apart is contrast. It is normalised place by place
// before any kernel looks, a second convolution is fed by few channels, drawn by a seed, and the
// classes are learnt as the numbers 1 and 0 with a squared loss. The pictures are brought to twice
// their size first. While it learns, the running accuracy lags behind that of the whole part: each
// minibatch was judged with the weights of its moment, before the epoch was over.

#include <fmt/core.h>

#include "lattice/lattice.hpp"

using namespace lattice;

int main() {
  // Two of the six patterns.
  const Dataset all = demo_set("tiles");
  std::vector<std::int64_t> rows;
  for (std::int64_t row = 0; row < all.rows(); ++row) {
    if (all.classes.at_offset(row) < 2.0) rows.push_back(row);
  }
  Dataset two = all.taking(rows);
  two.class_names.resize(2);
  two.features = changed(two.features, {.size = PictureSize{32, 32}, .by = Resizing::linear});

  Random dealing(1);
  const Split parts = prepared(split(two, {}, dealing), {ScalingSettings{.by = ScaledBy::channel}});
  Network net(parts.data().example(),
              "contrast 9, conv 6 of 5x5 stride 2, tanh, average 2, "
              "conv 8 of 3x3 from 3 at random, tanh, average all, dense 2",
              Random(2));
  const RunRecord run =
      train(net, parts,
            {.rule = Momentum{.rate = 0.05}, .epochs = 10, .batch = 8, .loss = Loss::mean_squared});

  fmt::print("{} against {}, {}\n\n", two.class_name(0), two.class_name(1), net.blueprint());
  fmt::print("epoch  running accuracy  accuracy of the whole train part\n");
  for (const EpochFigures& epoch : run.epochs) {
    if (epoch.running)
      fmt::print("{:5}  {:16.3f}  {:32.3f}\n", epoch.epoch, *epoch.running->accuracy,
                 *epoch.train->accuracy);
  }
  fmt::print("\naccuracy on the test part {:.3f}\n", assess(net, parts.test).figure());
}
