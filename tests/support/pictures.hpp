#pragma once

#include <string>

#include "lattice/lattice.hpp"

namespace lattice::testing {

/// Small pictures of two kinds, [row × column × channel]: a bar that stands, and a bar that lies.
inline Dataset bars(std::int64_t count, std::int64_t channels = 2, std::uint64_t seed = 1) {
  Random random(seed);
  const Shape shape =
      Shape{count, 4, 5, channels}.with({Role::example, Role::row, Role::column, Role::channel});
  Tensor pictures = normal(shape, 10.0, 2.0, random);
  Tensor kinds = zeros(Shape{count}.with({Role::example}));
  for (std::int64_t at = 0; at < count; ++at) {
    const bool stands = random.below(2) == 1;
    kinds.set({at}, stands ? 1.0 : 0.0);
    const std::int64_t where = random.below(4);
    for (std::int64_t step = 0; step < 4; ++step) {
      const Index place = stands ? Index{at, step, where, 0} : Index{at, where, step, 0};
      pictures.set(place, pictures.at(place) + 20.0);
    }
  }
  return dataset_of_classes(pictures, kinds,
                            {.name = "bars", .targets = {"bar"}, .classes = {"lying", "standing"}});
}

/// What makes a row of numbers of a picture.
struct Flat {
  [[nodiscard]] static std::string_view kind() { return "flat"; }
  [[nodiscard]] static std::string text() { return "flat"; }
  [[nodiscard]] static Shape shape(const Shape& example) {
    return Shape{example.count()}.with({Role::feature});
  }
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape&) { return {}; }
  [[nodiscard]] static Line forward(const Line& x, Pass&) {
    return labelled(1, Role::feature, flatten(x));
  }
};

}  // namespace lattice::testing
