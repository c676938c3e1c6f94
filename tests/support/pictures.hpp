#pragma once

#include <string>
#include <vector>

#include "lattice/core.hpp"

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

/// A layer of primitive lines with padding, positions that are passed over, a largest number, and
/// what is in common to a whole minibatch.
struct Normalised {
  std::int64_t padding = 1;

  [[nodiscard]] static std::string_view kind() { return "normalised"; }
  [[nodiscard]] static std::string text() { return "normalised"; }
  [[nodiscard]] Shape shape(const Shape& example) const {
    return example.with_extent(0, example[0] + 2 * padding)
        .with_extent(1, (example[1] + 2 * padding + 1) / 2);
  }
  [[nodiscard]] static std::vector<WeightNeed> weights(const Shape& example) {
    return {{.name = "scale", .shape = Shape{example[2]}.with({Role::channel})}};
  }
  [[nodiscard]] Line forward(const Line& x, Pass& pass) const {
    const auto called = [&](const char* name, const Line& line) {
      return lattice::named(pass.name() + name, line);
    };
    const PadWidth frame{.before = padding, .after = padding};
    const Line weighed = called(".weighed", tanh(x * pass.weight("scale")));
    const Line padded = called(".padded", pad(pad(weighed, 1, frame), 2, frame));
    const Line away = called(".away", padded - mean(padded, {.axes = {0, 1, 2}}));
    const Line over = sqrt(called(".variance", variance(padded, {.axes = {0, 1, 2}})) + 0.001);
    const Line every_other = called(".every_other", slice(away / over, 2, {.step = 2}));
    return every_other - called(".top", max(every_other, {.axes = {1, 2}, .keep = true}));
  }
};

/// Noise of two kinds, worked through the layer above and a dense one.
inline WorkedMinibatch worked_pictures(const Shape& batch) {
  Random random(1);
  const Tensor pictures =
      normal(batch.with({Role::example, Role::row, Role::column, Role::channel}), 0.0, 1.0, random);
  Tensor kinds = zeros(Shape{batch[0]}.with({Role::example}));
  for (std::int64_t at = 0; at < batch[0]; ++at)
    kinds.set({at}, static_cast<double>(at % 2));
  const Dataset data = dataset_of_classes(
      pictures, kinds, {.name = "noise", .targets = {"kind"}, .classes = {"even", "odd"}});
  const Network net(data.example(), {Layer(Normalised{}), Layer(Flat{}), Dense{.outputs = 2}},
                    random);
  return {net, RowSet(data).all(), Descent{.rate = 0.1}};
}

}  // namespace lattice::testing
