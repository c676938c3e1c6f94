#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <limits>
#include <string>
#include <utility>
#include <vector>

#include "lattice/core.hpp"

/// What nobody should do with the public headers, one thing after another: each is refused with an
/// error that says what is wrong. With sanitizers, none reads or writes where it should not.
namespace lattice {
namespace {

const double nan = std::nan("");
const double infinity = std::numeric_limits<double>::infinity();
constexpr std::int64_t huge = std::numeric_limits<std::int64_t>::max();

struct Misuse {
  const char* what;
  std::function<void()> done;
};

/// Whatever comes of it is let go.
template <class T>
void drop(const T&) {}

Line dead_line() {
  Worksheet sheet;
  return sheet.given("x", ones({2}));
}

Network small_network() {
  return {Shape{2}, "dense 3, tanh, dense 2", Random(1)};
}

Dataset cracked_pots() {
  return demo_set("cracks", 20, 1);
}

Split dealt_pots() {
  Random random(1);
  return split(cracked_pots(), {}, random);
}

RunRecord run_on(Network& network, const Split& parts) {
  return train(network, parts, {.epochs = 1, .batch = 4});
}

RunRecord run_of_rule(UpdateRule rule) {
  Network network = small_network();
  return train(network, dealt_pots(), {.rule = std::move(rule), .epochs = 1, .batch = 4});
}

std::vector<Misuse> with_tensors() {
  return {
      {"a shape without room",
       [] {
         drop(Shape{2, 0});
       }},
      {"a shape with a negative extent", [] { drop(Shape{-1}); }},
      {"a shape of too many axes",
       [] {
         drop(Shape{1, 1, 1, 1, 1, 1, 1});
       }},
      {"a shape of too many numbers",
       [] {
         drop(Shape{1 << 30, 1 << 30});
       }},
      {"an axis that is not there",
       [] {
         drop(Shape{2, 3}[7]);
       }},
      {"an axis before the first",
       [] {
         drop(Shape{2, 3}[-1]);
       }},
      {"a role of no axis", [] { drop(Shape{2}.role(1)); }},
      {"too few roles",
       [] {
         drop(Shape{2, 3}.with({Role::row}));
       }},
      {"an extent of no axis", [] { drop(Shape{2}.with_extent(4, 1)); }},
      {"the first axis of one number", [] { drop(Shape{}.without_first_axis()); }},
      {"an index of too many positions",
       [] {
         drop(Index{0, 0, 0, 0, 0, 0, 0});
       }},
      {"a position that is not there", [] { drop(Index{1}[3]); }},
      {"rows of different lengths",
       [] {
         drop(tensor({{1, 2}, {3}}));
       }},
      {"numbers at different depths",
       [] {
         drop(tensor({{1}, 2}));
       }},
      {"too few numbers",
       [] {
         drop(tensor(Shape{3}, std::vector<double>{1, 2}));
       }},
      {"a number outside", [] { drop(ones({2}).at({2})); }},
      {"an index of another rank",
       [] {
         drop(ones({2}).at({0, 0}));
       }},
      {"an offset outside", [] { drop(ones({2}).at_offset(-1)); }},
      {"one number of several", [] { drop(ones({2}).number()); }},
      {"one number of none", [] { drop(Tensor().number()); }},
      {"numbers of nothing", [] { drop(Tensor().numbers()); }},
      {"a precision of nothing", [] { drop(Tensor().precision()); }},
      {"data of nothing", [] { drop(Tensor().data<double>()); }},
      {"data of the other precision", [] { drop(ones({2}).data<float>()); }},
      {"numbers of nothing to write", [] { drop(Tensor().writable<double>()); }},
      {"a row that is not there",
       [] {
         drop(ones({2, 2}).rows(std::vector<std::int64_t>{2}));
       }},
      {"rows of one number", [] { drop(tensor(1.0).rows(std::vector<std::int64_t>{0})); }},
      {"another count in another shape",
       [] {
         drop(ones({2, 3}).reshaped({4}));
       }},
      {"nothing in another shape", [] { drop(Tensor().reshaped({1})); }},
      {"what was moved away",
       [] {
         Tensor x = ones({2});
         const Tensor y = std::move(x);
         drop(x.numbers());
       }},
      {"a distance between shapes", [] { drop(distance(ones({2}), ones({3}))); }},
      {"an agreement between shapes", [] { drop(agreement(ones({2}), ones({3}))); }},
      {"a sparse row", [] { drop(sparse_matrix({3}, {})); }},
      {"an entry outside",
       [] {
         drop(sparse_matrix({2, 2}, {{2, 0}}));
       }},
      {"entries of one axis", [] { drop(entries_of(ones({3}))); }},
      {"a calculation without a thread", [] { drop(Threads(0)); }},
  };
}

std::vector<Misuse> with_worksheets() {
  return {
      {"a line that was never written", [] { drop(Line().value()); }},
      {"a line whose worksheet has ended", [] { drop(dead_line().value()); }},
      {"a dead line in a sum", [] { drop(dead_line() + dead_line()); }},
      {"lines of two worksheets",
       [] {
         Worksheet a;
         Worksheet b;
         drop(a.given("x", ones({1})) + b.given("x", ones({1})));
       }},
      {"a worksheet that was moved away",
       [] {
         Worksheet a;
         const Worksheet b = std::move(a);
         drop(a.given("x", ones({1})));
       }},
      {"a line without a name", [] { drop(Worksheet().given("", ones({1}))); }},
      {"a name with a bracket", [] { drop(Worksheet().given("x[0]", ones({1}))); }},
      {"a name that steers a terminal", [] { drop(Worksheet().given("\x1b[31m", ones({1}))); }},
      {"data without numbers", [] { drop(Worksheet().given("x", Tensor())); }},
      {"one name for two weights",
       [] {
         Worksheet sheet;
         drop(sheet.weight("W", ones({1})));
         drop(sheet.weight("W", zeros({1})));
       }},
      {"a weight that is frozen and learnt",
       [] {
         Worksheet sheet;
         drop(sheet.weight("W", ones({1})));
         drop(sheet.frozen("W", ones({1})));
       }},
      {"a line that is not there", [] { drop(Worksheet().line("z")); }},
      {"a line number that is not there", [] { drop(Worksheet().line(7)); }},
      {"an axis of a line that is not there",
       [] {
         Worksheet sheet;
         drop(labelled(3, Role::row, sheet.given("x", ones({1}))));
       }},
      {"examples named after they were used",
       [] {
         Worksheet sheet;
         const Line z = sheet.weight("z", ones({2, 3}));
         drop(softmax(z));
         drop(labelled(1, Role::example, z));
       }},
      {"a sweep of several numbers",
       [] {
         Worksheet sheet;
         drop(reverse_sweep(sheet.weight("W", ones({2}))));
       }},
      {"a sweep of data",
       [] {
         Worksheet sheet;
         drop(reverse_sweep(sum(sheet.given("x", ones({2})))));
       }},
      {"a step before the first",
       [] {
         Worksheet sheet;
         const ReverseSweep sweep(sum(sheet.weight("W", ones({2}))));
         drop(sweep.step());
       }},
      {"a gradient that has not come yet",
       [] {
         Worksheet sheet;
         const Line w = sheet.weight("W", ones({2}));
         const ReverseSweep sweep(sum(w));
         drop(sweep.gradient(w));
       }},
      {"a gradient of another name",
       [] {
         Worksheet sheet;
         drop(reverse_sweep(sum(sheet.weight("W", ones({2}))))["V"]);
       }},
      {"an explanation outside",
       [] {
         Worksheet sheet;
         drop(explain(sum(sheet.weight("W", ones({2}))), {1}));
       }},
      {"a gradient by hand of another shape",
       [] {
         Worksheet sheet;
         const Line w = sheet.weight("W", ones({2}));
         ReverseSweep sweep(sum(w));
         while (sweep.next()) {
         }
         drop(agreement(ones({3}), sweep, w));
       }},
      {"a check with no step",
       [] {
         Worksheet sheet;
         drop(check_gradients(sum(sheet.weight("W", ones({2}))), {.step = 0.0}));
       }},
      {"a worksheet cleared by its own operation",
       [] {
         Worksheet sheet;
         Worksheet* const itself = &sheet;
         const auto clears = own_operation(
             "clears",
             [itself](double x) {
               itself->clear();
               return x;
             },
             [](double) { return 1.0; });
         drop(clears(sheet.weight("W", ones({2}))));
       }},
      {"an operation without a name",
       [] {
         drop(own_operation(
             "", [](double x) { return x; }, [](double) { return 1.0; }));
       }},
      {"an operation with a line break",
       [] {
         drop(own_operation(
             "a\nb", [](double x) { return x; }, [](double) { return 1.0; }));
       }},
      {"a curve of no points",
       [] { drop(curve([](const Line& x) { return tanh(x); }, -1.0, 1.0, 0)); }},
  };
}

std::vector<Misuse> with_operations() {
  return {
      {"a sum that does not fit", [] { drop(ones({2}) + ones({3})); }},
      {"two precisions", [] { drop(ones({2}) + ones({2}, Precision::single)); }},
      {"a product that does not fit",
       [] {
         drop(matmul(ones({2, 3}), ones({2, 3})));
       }},
      {"a product of one axis", [] { drop(matmul(ones({2}), ones({2}))); }},
      {"a bias of another width",
       [] {
         drop(dense(ones({2, 3}), ones({3, 4}), ones({3})));
       }},
      {"a sum along no axis", [] { drop(sum(ones({2}), {.axes = {1}})); }},
      {"a softmax along no axis",
       [] {
         drop(softmax(ones({2, 2}), 5));
       }},
      {"a softmax of one number", [] { drop(softmax(tensor(1.0))); }},
      {"a class outside",
       [] {
         drop(at_class(ones({2, 3}), tensor({0, 3})));
       }},
      {"half a class",
       [] {
         drop(cross_entropy(ones({1, 3}), tensor({0.5})));
       }},
      {"no class", [] { drop(one_hot(tensor({0}), 0)); }},
      {"a class below 0", [] { drop(one_hot(tensor({-1}), 3)); }},
      {"a row that is not gathered",
       [] {
         drop(gather_rows(ones({2, 2}), tensor({2})));
       }},
      {"targets of another shape",
       [] {
         drop(mean_squared(ones({2, 1}), ones({2})));
       }},
      {"rows that count below 0",
       [] {
         drop(mean_squared(ones({2, 1}), ones({2, 1}), {.row_weights = tensor({-1, 1})}));
       }},
      {"rows none of which counts",
       [] {
         drop(mean_squared(ones({2, 1}), ones({2, 1}), {.row_weights = tensor({0, 0})}));
       }},
      {"an axis left out of a permutation",
       [] {
         drop(permute(ones({2, 2}), {0, 0}));
       }},
      {"a slice outside",
       [] {
         drop(slice(ones({3}), 0, {2, 9}));
       }},
      {"a slice that goes nowhere",
       [] {
         drop(slice(ones({3}), 0, {0, 3, 0}));
       }},
      {"a join of nothing", [] { drop(join(std::vector<Tensor>(), 0)); }},
      {"a join that does not fit",
       [] {
         drop(join({ones({2, 2}), ones({2, 3})}, 0));
       }},
      {"padding below 0", [] { drop(pad(ones({3}), 0, {.before = -1})); }},
      {"no repetition", [] { drop(repeat(ones({3}), 0, 0)); }},
      {"a transpose of three axes",
       [] {
         drop(transpose(ones({2, 2, 2})));
       }},
  };
}

std::vector<Misuse> with_networks() {
  return {
      {"a network without a part",
       [] { drop(Network(Shape{2}, std::vector<Layer>(), Random(1))); }},
      {"a part that is none", [] { drop(Network(Shape{2}, "dens 3", Random(1))); }},
      {"a dense part without units", [] { drop(Network(Shape{2}, "dense 0", Random(1))); }},
      {"two parts of one name",
       [] { drop(Network(Shape{2}, "a: dense 2, a: dense 2", Random(1))); }},
      {"a dense part on pictures",
       [] {
         drop(Network(Shape{4, 4, 1}, "dense 2", Random(1)));
       }},
      {"examples of another width",
       [] {
         drop(small_network()(ones({1, 3})));
       }},
      {"an example that is no batch", [] { drop(small_network()(ones({2}))); }},
      {"a weight that is not there", [] { drop(small_network()["hidden.wait"]); }},
      {"a weight of another shape",
       [] {
         Network network = small_network();
         network.set("hidden.bias", ones({4}));
       }},
      {"a weight frozen that is not there",
       [] {
         Network network = small_network();
         network.freeze("last");
       }},
      {"a rate multiplier of 0",
       [] {
         Network network = small_network();
         network.set_rate_multiplier("hidden", 0.0);
       }},
      {"updates that cannot be counted",
       [] {
         Network network = small_network();
         network.set_updates(huge);
       }},
      {"a network that was moved away",
       [] {
         Network network = small_network();
         const Network moved = std::move(network);
         drop(network(ones({1, 2})));
       }},
      {"a start with nothing in common",
       [] {
         Network network = small_network();
         drop(network.start_from(Network(Shape{7}, "other: dense 5", Random(1)).weights()));
       }},
      {"a start below 0", [] { drop(Start::normal(-1.0)); }},
      {"a start from high to low", [] { drop(Start::uniform(1.0, 0.0)); }},
      {"a dropout of everything", [] { drop(Network(Shape{2}, "dropout 1", Random(1))); }},
  };
}

std::vector<Misuse> with_data() {
  return {
      {"a set that is none", [] { drop(demo_set("pots")); }},
      {"a set of no rows", [] { drop(demo_set("kiln", 0, 1)); }},
      {"more rows than there is memory", [] { drop(demo_set("glazes", huge / 64, 1)); }},
      {"a place outside", [] { drop(RowSet(cracked_pots()).at(std::vector<std::int64_t>{20})); }},
      {"shares of more than the whole",
       [] {
         Random random(1);
         drop(split(cracked_pots(), {.train = 0.9, .test = 0.2}, random));
       }},
      {"a share that is no number",
       [] {
         Random random(1);
         drop(split(cracked_pots(), {.validation = nan}, random));
       }},
      {"parts of two rows",
       [] {
         Random random(1);
         drop(split(demo_set("kiln", 2, 1), {}, random));
       }},
      {"a minibatch of no rows",
       [] {
         Random random(1);
         drop(minibatches(cracked_pots(), {.size = 0}, random).waited());
       }},
      {"a minibatch of more rows than there are",
       [] {
         Random random(1);
         drop(minibatches(cracked_pots(), {.size = 21}, random).waited());
       }},
      {"a scaling that is none", [] { drop(parse_scaling("standrad")); }},
      {"a division by 0", [] { drop(parse_scaling("less 1 over 0")); }},
      {"classes of other rows",
       [] {
         drop(dataset_of_classes(ones({3, 2}), tensor({0, 1}), {.name = "x"}));
       }},
  };
}

std::vector<Misuse> with_learning() {
  return {
      {"a rate of 0", [] { drop(run_of_rule(Descent{.rate = 0.0})); }},
      {"a rate that is no number", [] { drop(run_of_rule(Descent{.rate = nan})); }},
      {"a momentum of 1", [] { drop(run_of_rule(Momentum{.momentum = 1.0})); }},
      {"an infinite decay", [] { drop(run_of_rule(Adam{.weight_decay = infinity})); }},
      {"fewer epochs than none",
       [] {
         Network network = small_network();
         drop(train(network, dealt_pots(), {.epochs = -1}));
       }},
      {"more epochs than can be counted",
       [] {
         Network network = small_network();
         drop(train(network, dealt_pots(), {.epochs = huge}));
       }},
      {"more epochs after those there were",
       [] {
         Network network = small_network();
         const Split parts = dealt_pots();
         RunRecord run = run_on(network, parts);
         const Training more(network, std::move(run), parts, {.epochs = huge, .batch = 4});
       }},
      {"a network that has learnt, as if it had not",
       [] {
         Network network = small_network();
         const Split parts = dealt_pots();
         drop(run_on(network, parts));
         drop(run_on(network, parts));
       }},
      {"a network with other outputs than classes",
       [] {
         Network network(Shape{2}, "dense 5", Random(1));
         drop(run_on(network, dealt_pots()));
       }},
      {"a network for other features",
       [] {
         Network network(Shape{3}, "dense 2", Random(1));
         drop(run_on(network, dealt_pots()));
       }},
      {"an L2 term below 0",
       [] {
         Network network = small_network();
         drop(train(network, dealt_pots(), {.epochs = 1, .l2 = -1.0}));
       }},
      {"a schedule that is none", [] { drop(parse_schedule("steps 0 0.5")); }},
      {"a loss that is none", [] { drop(parse_loss("cross entropy")); }},
      {"the likeliest of too many",
       [] {
         drop(top_accuracy(ones({1, 2}), tensor({0}), 3));
       }},
      {"answers of other rows",
       [] {
         drop(accuracy(tensor({0}), tensor({0, 1})));
       }},
      {"a spread of nothing", [] { drop(over_runs({})); }},
      {"runs that are not as many",
       [] {
         drop(difference_of(std::vector<double>{1, 2}, std::vector<double>{1}));
       }},
      {"records of another width",
       [] {
         const Split parts = dealt_pots();
         drop(ask(model_of(small_network(), Loss::cross_entropy, parts.train), ones({1, 3})));
       }},
      {"rows of a model of none",
       [] {
         const Split parts = dealt_pots();
         drop(ask_rows(model_of(small_network(), Loss::cross_entropy, parts.train), {0}));
       }},
  };
}

TEST(misuses, are_each_refused_with_what_is_wrong) {
  std::size_t count = 0;
  for (const std::vector<Misuse>& all : {with_tensors(), with_worksheets(), with_operations(),
                                         with_networks(), with_data(), with_learning()}) {
    for (const Misuse& misuse : all) {
      ++count;
      try {
        misuse.done();
        ADD_FAILURE() << misuse.what << " was taken";
      } catch (const Error& error) {
        EXPECT_FALSE(error.trouble().what.empty()) << misuse.what;
      }
    }
  }
  EXPECT_GE(count, 120U);
}

}  // namespace
}  // namespace lattice
