#include "lattice/network/blueprint.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "lattice/network/network.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

using ::testing::HasSubstr;

TEST(blueprint, reads_back_what_a_network_says_of_itself) {
  for (const char* text :
       {"dense 4", "dense 8, tanh, dense 4", "dense 8 without bias, relu, dense 2, softmax",
        "dense 3 with bias as input start he, sigmoid, dense 2 start normal 0.05",
        "dense 3 start uniform -0.5 0.5 bias start constant 0.1, elu 1, dense 2",
        "dense 4 start he without l2, residual(dense 4 without bias without l2) without l2, dense "
        "2",
        "leaky-relu 0.01, softplus, dropout 0.2, dense 1",
        "first: dense 4, residual(inner: dense 4, tanh, residual(tanh)), last: dense 4"}) {
    EXPECT_EQ(Network(Shape{4}, text, Random(1)).blueprint(), text);
  }
  EXPECT_EQ(Network(Shape{4}, " dense  8 ,\ttanh,dense 4 ", Random(1)).blueprint(),
            "dense 8, tanh, dense 4");
}

struct Refused {
  const char* text;
  const char* because;
  const char* where;
};

TEST(blueprint, marks_the_word_it_cannot_read) {
  for (const Refused& refusal : std::vector<Refused>{
           {"dense 8, tahn, dense 4", "did you mean tanh?", "dense 8, »tahn«, dense 4"},
           {"dense", "the number of units is missing", "dense »«"},
           {"dense eight", "'eight' cannot be the number of units", "dense »eight«"},
           {"dense 0", "cannot have 0 units", "dense »0«"},
           {"dense -3, tanh", "cannot have -3 units", "dense »-3«, tanh"},
           {"dense 2.5", "cannot have 2.5 units", "dense »2.5«"},
           {"dense 1e12", "cannot have 1e12 units", "dense »1e12«"},
           {"dense 8 4", "does not belong to a dense layer", "dense 8 »4«"},
           {"dense 8 without tanh", "does not belong to a dense layer", "dense 8 »without« tanh"},
           {"dense 8 start hee", "weights cannot start with 'hee'", "dense 8 start »hee«"},
           {"dense 8,, tanh", "',' is not a layer", "dense 8,»,« tanh"},
           {"dense 8, ", "a layer is missing", "dense 8,  »«"},
           {"dropout 1", "cannot leave out this share", "dropout »1«"},
           {"dropout", "the dropout rate is missing", "dropout »«"},
           {"residual(dense 8", "')' is missing", "residual(dense 8 »«"},
           {"residual dense 8", "'(' is missing", "residual »dense« 8"},
           {"dense 8) tanh", "does not belong to a layer", "dense 8»)« tanh"},
           {"relu 3", "does not belong to a layer", "relu »3«"},
           {"8: dense 4", "a layer cannot have this name", "»8«: dense 4"},
           {"", "a network without layers", ""}}) {
    try {
      static_cast<void>(parse_blueprint(refusal.text));
      ADD_FAILURE() << refusal.text;
    } catch (const SettingError& error) {
      EXPECT_THAT(error.what(), HasSubstr(refusal.because)) << refusal.text;
      EXPECT_THAT(error.what(), HasSubstr(refusal.where)) << refusal.text;
    }
  }
}

/// A row of layers that takes four numbers and gives four, made up.
std::string any_parts(Random& random, int depth) {
  const std::vector<std::string> layers = {"tanh",
                                           "sigmoid",
                                           "relu",
                                           "leaky-relu 0.1",
                                           "softplus",
                                           "elu 0.5",
                                           "dropout 0.25",
                                           "softmax",
                                           "dense 4",
                                           "dense 4 without bias",
                                           "dense 4 with bias as input",
                                           "dense 4 start he",
                                           "dense 4 bias start constant 0.5"};
  std::string text;
  for (std::int64_t count = 1 + random.below(4); count > 0; --count) {
    const bool nested = depth > 0 && random.below(4) == 0;
    text += text.empty() ? "" : ", ";
    text += nested ? "residual(" + any_parts(random, depth - 1) + ")"
                   : layers[static_cast<std::size_t>(random.below(std::ssize(layers)))];
  }
  return text;
}

TEST(blueprint, of_any_parts_reads_back_and_counts_every_weight) {
  Random random(12);
  for (int trial = 0; trial < 200; ++trial) {
    const std::string text = any_parts(random, 2);
    const Network net(Shape{4}, text, Random(1));
    EXPECT_EQ(net.blueprint(), text);
    std::int64_t numbers = 0;
    for (const Weight& weight : net.weights())
      numbers += weight.value.count();
    EXPECT_EQ(net.plan().weights(), numbers) << text;
    EXPECT_EQ(net(ones({3, 4})).shape(), (Shape{3, 4})) << text;
  }
}

}  // namespace
}  // namespace lattice
