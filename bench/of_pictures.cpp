#include <cmath>
#include <cstring>
#include <limits>
#include <memory>

#include "by_hand.hpp"
#include "comparisons.hpp"
#include "lattice/files/idx.hpp"
#include "lattice/lattice.hpp"
#include "lattice/pictures/picture.hpp"

namespace bench {
namespace {

using namespace lattice;

constexpr std::int64_t pictures_at_once = 64;

by_hand::Numbers numbers_of_pictures() {
  Random random(7);
  by_hand::Numbers numbers;
  numbers.x = uniform({pictures_at_once, 784}, 0, 1, random).numbers();
  for (std::int64_t row = 0; row < pictures_at_once; ++row)
    numbers.y.push_back(static_cast<double>(random.below(10)));
  for (const Shape& shape : {Shape{25, 8}, Shape{200, 16}, Shape{256, 10}}) {
    const double spread = 1.0 / std::sqrt(static_cast<double>(shape[0]));
    numbers.W.push_back(normal(shape, 0, spread, random).numbers());
  }
  return numbers;
}

/// The network that by_hand::convolutional_steps has, in a loop as one writes it.
std::function<double()> our_convolutional_steps(Precision precision) {
  const by_hand::Numbers numbers = numbers_of_pictures();
  const auto net = std::make_shared<Network>(
      Shape{28, 28, 1},
      "conv 8 of 5x5, relu, maximum 2, conv 16 of 5x5, relu, maximum 2, flatten, dense 10",
      Random(1), precision);
  net->set("conv.kernel", tensor(Shape{5, 5, 1, 8}, numbers.W[0]));
  net->set("conv2.kernel", tensor(Shape{5, 5, 8, 16}, numbers.W[1]));
  net->set("output.weight", tensor(Shape{256, 10}, numbers.W[2]));
  const Tensor x = tensor(Shape{pictures_at_once, 28, 28, 1}, numbers.x, precision);
  const Tensor y = tensor(Shape{pictures_at_once}, numbers.y, precision);
  const auto rule = std::make_shared<Descent>(Descent{.rate = rate});
  return [=] {
    Worksheet sheet;
    const Line scores = net->forward(sheet, sheet.given("x", x));
    const Line loss = cross_entropy(scores, sheet.given("y", y));
    update(*rule, *net, reverse_sweep(loss));
    return loss.value().number();
  };
}

Pair convolutional(bool in_single) {
  const Precision precision = in_single ? Precision::single : Precision::double_;
  return {.ours = our_convolutional_steps(precision),
          .by_hand = by_hand::convolutional_steps(static_cast<int>(pictures_at_once), in_single,
                                                  numbers_of_pictures(), rate),
          .times = 4,
          .tolerance = in_single ? 1e-3 : 1e-9};
}

/// The same step on two threads beside one.
Pair convolutional_on_two() {
  const auto on = [](int threads) {
    return [threads, step = our_convolutional_steps(Precision::single)] {
      const Threads some(threads);
      return step();
    };
  };
  return {.ours = on(2), .by_hand = on(1), .times = 4, .tolerance = 0.0};
}

/// 64 pictures of 28 × 28 through 3 × 3 kernels from 32 to 64 channels.
struct WideConvolution {
  WideConvolution() {
    Random random(3);
    x = normal({64, 30, 30, 32}, 0, 1, random, Precision::single);
    kernel = normal({3, 3, 32, 64}, 0, 1, random, Precision::single);
  }

  /// What arrives is the sum of the result: the sweep is the two ways back, and little else.
  [[nodiscard]] double back(bool to_pictures) const {
    Worksheet sheet;
    const Line pictures = to_pictures ? sheet.weight("x", x) : sheet.given("x", x);
    const Line weights = to_pictures ? sheet.given("K", kernel) : sheet.weight("K", kernel);
    const Gradients gradients = reverse_sweep(sum(convolution(pictures, weights)));
    return gradients[to_pictures ? "x" : "K"].at_offset(777);
  }

  Tensor x;
  Tensor kernel;
};

/// A product of 1024³ as often as makes as many multiplications as `work` does.
/// @param times how many of them
Pair beside_product(const std::function<double()>& work, double times) {
  Random random(3);
  const Tensor a = normal({1024, 1024}, 0, 1, random, Precision::single);
  const Tensor b = normal({1024, 1024}, 0, 1, random, Precision::single);
  return {.ours = work,
          .by_hand = [a, b] { return matmul(a, b).at_offset(777); },
          .tolerance = std::numeric_limits<double>::infinity(),
          .scale = times};
}

constexpr double products_in_a_wide_convolution =
    64.0 * 28 * 28 * 9 * 32 * 64 / (1024.0 * 1024.0 * 1024.0);

Pair wide_forward() {
  const WideConvolution wide;
  return beside_product([wide] { return convolution(wide.x, wide.kernel).at_offset(777); },
                        products_in_a_wide_convolution);
}

/// Forward and one way back.
Pair wide_back(bool to_pictures) {
  const WideConvolution wide;
  return beside_product([wide, to_pictures] { return wide.back(to_pictures); },
                        2.0 * products_in_a_wide_convolution);
}

/// The maximum of every two by two beside a copy of the pictures.
Pair pooling() {
  Random random(3);
  const Tensor x = normal({64, 24, 24, 8}, 0, 1, random, Precision::single);
  const auto to = std::make_shared<std::vector<float>>(static_cast<std::size_t>(x.count()));
  return {.ours = [x] { return max_pooling(x, {.stride = 2}).at_offset(777); },
          .by_hand =
              [x, to] {
                std::memcpy(to->data(), x.data<float>(), to->size() * sizeof(float));
                return double{(*to)[777]};
              },
          .times = 50,
          .tolerance = std::numeric_limits<double>::infinity()};
}

/// Batch normalisation of 32 pictures of 16 × 16, 32 channels, forward and back.
Pair normalisation() {
  constexpr int channels = 32;
  Random random(3);
  const Tensor x = normal({32, 16, 16, channels}, 1, 2, random, Precision::single);
  const Tensor gradient = normal(x.shape(), 0, 1, random, Precision::single);
  const auto floats = [](const Tensor& of) {
    return std::vector<float>(of.data<float>(), of.data<float>() + of.count());
  };
  return {
      .ours =
          [x, gradient] {
            Worksheet sheet;
            const Line scale = sheet.weight("scale", ones({channels}, Precision::single));
            const Line shift = sheet.weight("shift", zeros({channels}, Precision::single));
            const Line y =
                normalised_along(sheet.weight("x", x), scale, shift, {.axes = {0, 1, 2}}).result;
            const Gradients back = reverse_sweep(y, gradient);
            constexpr std::int64_t place = 7 * channels + 1;
            return back["x"].at_offset(place) + y.value().at_offset(place) + back["scale"].at({1}) +
                   back["shift"].at({1});
          },
      .by_hand = by_hand::normalisation(floats(x), floats(gradient), channels),
      .times = 4,
      .tolerance = 1e-2};
}

/// Twenty layers with weights in three stages, with a skip connection around each pair of them.
std::string twenty_parts() {
  const auto pair = [](const std::string& channels, const std::string& first) {
    const std::string more = "conv " + channels + " of 3x3 keeping size";
    return "residual(conv " + channels + " of 3x3 " + first + ", relu, " + more + ")";
  };
  const auto stage = [&](const std::string& channels) {
    return ", (" + pair(channels, "stride 2 padding 1") + " with projection conv " + channels +
           " of 1x1 stride 2, relu), 2 times (" + pair(channels, "keeping size") + ", relu)";
  };
  return "conv 16 of 3x3 keeping size, relu, 3 times (" + pair("16", "keeping size") + ", relu)" +
         stage("32") + stage("64") + ", average all, dense 6";
}

/// A step of these on 32 tiles, beside products of as many multiplications: there and twice back.
Pair twenty_deep() {
  constexpr std::int64_t batch = 32;
  const auto net =
      std::make_shared<Network>(Shape{16, 16, 3}, twenty_parts(), Random(1), Precision::single);
  Random random(3);
  const Tensor x = normal({batch, 16, 16, 3}, 0, 1, random, Precision::single);
  const Tensor y = tensor(Shape{batch}, std::vector<double>(batch, 1.0), Precision::single);
  const auto rule = std::make_shared<Descent>(Descent{.rate = 1e-6});
  const auto step = [=] {
    Worksheet sheet;
    const Line scores = net->forward(sheet, sheet.given("x", x));
    const Line loss = cross_entropy(scores, sheet.given("y", y));
    update(*rule, *net, reverse_sweep(loss));
    return loss.value().number();
  };
  const double all = 3.0 * batch * static_cast<double>(net->plan().multiplications());
  return beside_product(step, all / (1024.0 * 1024.0 * 1024.0));
}

/// An epoch on tiles that are moved about by another thread, beside one on tiles as they are.
Pair moved_by_another_thread() {
  Random dealing(1);
  const auto parts =
      std::make_shared<Split>(prepared(split(demo_set("tiles", 320, 1).in(Precision::single),
                                             {.validation = 0.1, .test = 0.1}, dealing),
                                       {ScalingSettings{.by = ScaledBy::channel}}));
  const auto epoch = [parts](const Augmentation& how, std::int64_t ahead) {
    return [parts, how, ahead] {
      const Threads one(1);
      Network net(Shape{16, 16, 3}, twenty_parts(), Random(1), Precision::single);
      return train(net, *parts,
                   {.rule = Descent{.rate = 1e-6},
                    .epochs = 1,
                    .batch = 32,
                    .augmentation = how,
                    .ahead = ahead,
                    .judge_every = 1})
          .epochs.back()
          .train->loss;
    };
  };
  return {.ours = epoch(parse_augmentation("shift 2, flip across, turn 10, brightness 0.2"), 1),
          .by_hand = epoch({}, 0),
          .tolerance = 0.1};
}

/// Reading 60 000 gzipped pictures of 28 × 28 beside unpacking them.
Pair reading() {
  const Examples stamps = demo_set("stamps", 60'000, 1).features;
  const auto packed = std::make_shared<const std::string>(
      gzipped(to_idx(changed(stamps, {.size = PictureSize{28, 28}}))));
  constexpr std::size_t header = 4 + 4 * 4;  // magic, and an extent for each axis
  constexpr std::int64_t some = 777'777;
  const auto unpacked =
      std::make_shared<std::vector<unsigned char>>(std::size_t{60'000} * 28 * 28 + header);
  return {.ours = [packed] { return parse_idx(*packed, "pictures").at_offset(some); },
          .by_hand =
              [packed, unpacked] {
                by_hand::unpack(*packed, *unpacked);
                return static_cast<double>((*unpacked)[header + some]);
              }};
}

/// 60 000 pictures of bytes, scaled by one centre and one divisor, minibatch by minibatch in
/// another order.
Pair preparing() {
  constexpr std::int64_t count = 60'000;
  constexpr std::size_t width = 28 * 28;
  Random random(3);
  auto bytes = std::make_shared<std::vector<unsigned char>>(count * width);
  for (unsigned char& byte : *bytes)
    byte = static_cast<unsigned char>(random.below(256));
  const Shape shape =
      Shape{count, 28, 28, 1}.with({Role::example, Role::row, Role::column, Role::channel});
  const Examples pictures = Examples::of_bytes(shape, *bytes, Precision::single);
  const Preparation preparation =
      fit({{.by = ScaledBy::channel}}, pictures.rows(std::vector<std::int64_t>{0, 1, 2, 3}));
  const auto row_set = std::make_shared<const RowSet>(
      Dataset{.name = "pictures", .features = pictures}.prepared_by(preparation));
  const auto order = std::make_shared<const std::vector<std::int64_t>>(random.shuffled(count));
  const auto each_minibatch = [order](const auto& prepare) {
    double total = 0.0;
    for (std::int64_t from = 0; from + pictures_at_once <= count; from += pictures_at_once)
      total += prepare(std::vector<std::int64_t>(order->begin() + from,
                                                 order->begin() + from + pictures_at_once));
    return total;
  };
  const auto centre = static_cast<float>(preparation.steps.front().centre.number());
  const auto divisor = static_cast<float>(preparation.steps.front().divisor.number());
  const auto to = std::make_shared<std::vector<float>>(pictures_at_once * width);
  return {.ours =
              [=] {
                return each_minibatch([&](const std::vector<std::int64_t>& rows) {
                  return row_set->at(rows).features.at_offset(777);
                });
              },
          .by_hand =
              [=] {
                return each_minibatch([&](const std::vector<std::int64_t>& rows) {
                  by_hand::scale(*bytes, rows, width, centre, divisor, *to);
                  return static_cast<double>((*to)[777]);
                });
              },
          .tolerance = 1e-6};
}

}  // namespace

std::vector<Comparison> comparisons_of_pictures() {
  return {{"convolutional-single", 40, [] { return convolutional(true); }},
          {"convolutional-double", 40, [] { return convolutional(false); }},
          {"convolutional-two-threads", 40, convolutional_on_two},
          {"wide-convolution", 20, wide_forward},
          {"wide-convolution-kernel", 20, [] { return wide_back(false); }},
          {"wide-convolution-pictures", 20, [] { return wide_back(true); }},
          {"max-pooling-beside-copy", 50, pooling},
          {"normalisation", 40, normalisation},
          {"twenty-deep-beside-product", 20, twenty_deep},
          {"moved-by-another-thread", 20, moved_by_another_thread},
          {"reading-60000-pictures", 10, reading},
          {"preparing-60000-pictures", 10, preparing}};
}

}  // namespace bench
