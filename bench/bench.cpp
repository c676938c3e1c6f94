/// How long our work takes beside the same work written by hand with Eigen, always as a ratio
/// within one run. One thread, but where the name says two.

#include <benchmark/benchmark.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <fstream>
#include <functional>
#include <limits>
#include <memory>
#include <nlohmann/json.hpp>
#include <string>
#include <thread>
#include <type_traits>
#include <vector>

#include "by_hand.hpp"
#include "comparisons.hpp"
#include "lattice/lattice.hpp"

namespace {

using namespace lattice;
using bench::Pair;
using bench::rate;
using by_hand::Bend;
using by_hand::Loss;
using by_hand::Task;

Precision precision_of(const Task& task) {
  return task.in_single ? Precision::single : Precision::double_;
}

/// The numbers that both sides start with: so many minibatches of rows.
by_hand::Numbers numbers_for(const Task& task, std::int64_t batches) {
  Random random(7);
  const std::int64_t rows = task.batch * batches;
  const std::int64_t outputs = task.sizes.back();
  by_hand::Numbers numbers;
  numbers.x = normal({rows, task.sizes.front()}, 0, 1, random).numbers();
  if (task.loss == Loss::half_mean_squared) {
    numbers.y = normal({rows, outputs}, 0, 1, random).numbers();
  } else {
    for (std::int64_t row = 0; row < rows; ++row)
      numbers.y.push_back(static_cast<double>(random.below(outputs)));
  }
  for (std::size_t layer = 1; layer < task.sizes.size(); ++layer) {
    const double spread = 1.0 / std::sqrt(static_cast<double>(task.sizes[layer - 1]));
    numbers.W.push_back(
        normal({task.sizes[layer - 1], task.sizes[layer]}, 0, spread, random).numbers());
  }
  return numbers;
}

/// With the library, as one writes a loop: a worksheet for the minibatch, the sweep, the update.
class OurSteps {
 public:
  OurSteps(const Task& task, const by_hand::Numbers& numbers)
      : task_(task), data_(data_of(task, numbers)) {
    for (std::size_t layer = 0; layer < numbers.W.size(); ++layer) {
      const std::string number = std::to_string(layer + 1);
      names_.push_back({"W" + number, "b" + number});
      const Shape shape{task.sizes[layer], task.sizes[layer + 1]};
      weights_.add({names_.back().W, tensor(shape, numbers.W[layer], precision_of(task))});
      weights_.add({names_.back().b, zeros({task.sizes[layer + 1]}, precision_of(task))});
    }
  }

  /// On all rows, as they are.
  double step() { return step(data_.features, data_.truth()); }

  /// On each minibatch of an epoch, in a new order.
  double epoch(Random& order) {
    double cost = 0.0;
    for (const Batch& batch : minibatches(data_, {.size = task_.batch}, order))
      cost = step(batch.features, batch.truth());
    return cost;
  }

 private:
  struct Names {
    std::string W;
    std::string b;
  };

  static Dataset data_of(const Task& task, const by_hand::Numbers& numbers) {
    const std::int64_t features = task.sizes.front();
    const auto rows = std::ssize(numbers.x) / features;
    const Tensor x = tensor({rows, features}, numbers.x);
    const Dataset data = task.loss == Loss::cross_entropy
                             ? dataset_of_classes(x, tensor({rows}, numbers.y))
                             : dataset_of_numbers(x, tensor({rows, task.sizes.back()}, numbers.y));
    return data.in(precision_of(task));
  }

  Line bent(const Line& z) const {
    return task_.bend == Bend::tanh ? tanh(z) : task_.bend == Bend::relu ? relu(z) : sigmoid(z);
  }

  double step(const Tensor& x, const Tensor& truth) {
    Worksheet sheet;
    Line h = sheet.given("x", x);
    const Line y = sheet.given("y", truth);
    for (std::size_t layer = 0; layer < names_.size(); ++layer) {
      const auto& [W, b] = names_[layer];
      h = dense(h, sheet.weight(W, weights_[W]), sheet.weight(b, weights_[b]));
      if (layer + 1 < names_.size()) h = bent(h);
    }
    const Line cost =
        task_.loss == Loss::cross_entropy ? cross_entropy(h, y) : half_mean_squared(h, y);
    update(rule_, weights_, reverse_sweep(cost));
    return cost.value().number();
  }

  Task task_;
  Dataset data_;
  std::vector<Names> names_;
  Weights weights_;
  Descent rule_{.rate = rate};
};

/// How often a task is repeated for one measurement.
int times_for(const Task& task, std::int64_t batches) {
  double work = 0.0;
  for (std::size_t layer = 1; layer < task.sizes.size(); ++layer)
    work += static_cast<double>(task.batch * task.sizes[layer - 1] * task.sizes[layer]);
  return std::clamp(static_cast<int>(2e6 / ((work + 1000.0) * static_cast<double>(batches))), 1,
                    2000);
}

/// A step on rows that lie ready.
Pair steps(const Task& task) {
  const by_hand::Numbers numbers = numbers_for(task, 1);
  const auto ours = std::make_shared<OurSteps>(task, numbers);
  const std::shared_ptr<by_hand::Steps> by_hand = by_hand::steps(task, numbers);
  return {.ours = [ours] { return ours->step(); },
          .by_hand = [by_hand] { return by_hand->step(); },
          .times = times_for(task, 1),
          .tolerance = task.in_single ? 1e-3 : 1e-9};
}

/// Ten steps on rows that are put together in a new order each time.
Pair shuffled_steps(const Task& task) {
  constexpr std::int64_t batches = 10;
  const by_hand::Numbers numbers = numbers_for(task, batches);
  const auto ours = std::make_shared<OurSteps>(task, numbers);
  const std::shared_ptr<by_hand::Steps> by_hand = by_hand::steps(task, numbers);
  const auto our_order = std::make_shared<Random>(5);
  const auto order_by_hand = std::make_shared<Random>(5);
  const std::int64_t rows = task.batch * batches;
  return {.ours = [=] { return ours->epoch(*our_order); },
          .by_hand = [=] { return by_hand->epoch([&] { return order_by_hand->shuffled(rows); }); },
          .times = times_for(task, batches),
          .tolerance = task.in_single ? 1e-3 : 1e-9};
}

Pair products() {
  constexpr int size = 1024;
  Random random(3);
  const Tensor a = normal({size, size}, 0, 1, random, Precision::single);
  const Tensor b = normal({size, size}, 0, 1, random, Precision::single);
  const auto to = std::make_shared<std::vector<float>>(std::size_t{size} * size);
  return {.ours =
              [a, b] {
                const Threads two(2);
                return matmul(a, b).at_offset(777);
              },
          .by_hand =
              [a, b, to] {
                by_hand::product_on_two_threads(a.data<float>(), b.data<float>(), to->data(), size);
                return double{(*to)[777]};
              },
          .tolerance = 1e-2};
}

/// A bend of a million numbers.
template <class T>
Pair bends(Bend which) {
  constexpr std::int64_t count = 1'000'000;
  constexpr Precision precision = std::is_same_v<T, float> ? Precision::single : Precision::double_;
  Random random(4);
  const Tensor x = normal({count}, 0, 2, random, precision);
  const std::vector<T> from(x.data<T>(), x.data<T>() + count);
  const auto to = std::make_shared<std::vector<T>>(std::size_t{count});
  return {.ours =
              [x, which] {
                const Tensor bent = which == Bend::tanh   ? tanh(x)
                                    : which == Bend::relu ? relu(x)
                                                          : sigmoid(x);
                return bent.at_offset(777);
              },
          .by_hand =
              [from, to, which] {
                by_hand::bend(which, from, *to);
                return double{(*to)[777]};
              },
          .tolerance = std::is_same_v<T, float> ? 1e-6 : 1e-12};
}

/// A hundred epochs of a small network on the glazes, in one call and as a loop by hand.
class GlazesRun {
 public:
  static constexpr int epochs = 100;

  GlazesRun() {
    Random dealing = Random(1).branch("parts");
    parts_ = scaled(split(demo_set("glazes"), {}, dealing), ScalingKind::standard);
  }

  [[nodiscard]] double in_one_call() const {
    Network net = network();
    return train(net, parts_, {.rule = Adam{.rate = rate}, .epochs = epochs, .batch = 16})
        .epochs.back()
        .train->loss;
  }

  [[nodiscard]] double by_hand() const {
    const Network net = network();
    Random order = Random(1).branch("rows");
    const std::int64_t rows = parts_.train.count();
    return by_hand::run(rows_of(parts_.train), rows_of(parts_.validation),
                        net["hidden.weight"].numbers(), net["output.weight"].numbers(), 8, rate,
                        epochs, 16, [&] { return order.shuffled(rows); });
  }

 private:
  static Network network() {
    return {Shape{5}, "dense 8, tanh, dense 4", Random(1).branch("start")};
  }

  static by_hand::Rows rows_of(const RowSet& rows) {
    const Batch data = rows.all();
    std::vector<int> classes;
    for (const double number : data.classes.numbers())
      classes.push_back(static_cast<int>(number));
    return {data.features.numbers(), std::move(classes)};
  }

  Split parts_;
};

Pair glazes_run() {
  const auto run = std::make_shared<GlazesRun>();
  return {.ours = [run] { return run->in_one_call(); },
          .by_hand = [run] { return run->by_hand(); },
          .tolerance = 1e-6};
}

/// Evaluating a network on rows, on all threads, beside an epoch of training on as many.
class Judging {
 public:
  Judging(std::int64_t features, const char* blueprint, std::int64_t classes, std::int64_t rows,
          std::int64_t batch, Precision precision)
      : data_(random_rows(features, classes, rows).in(precision)),
        rows_(data_),
        batch_(batch),
        network_(Shape{features}, blueprint, Random(1), precision) {}

  [[nodiscard]] double judged() const {
    const Threads all(static_cast<int>(std::thread::hardware_concurrency()));
    return figures_of(network_, lattice::Loss::cross_entropy, rows_).loss;
  }

  double trained() {
    double loss = 0.0;
    for (const Batch& batch : minibatches(data_, {.size = batch_}, random_)) {
      Worksheet sheet;
      const Line x = sheet.given("x", batch.features);
      const Line scores = network_.forward(sheet, x, Phase::training(random_));
      const Line cost = cross_entropy(scores, sheet.given("y", batch.classes));
      update(rule_, network_, reverse_sweep(cost));
      loss = cost.value().number();
    }
    return loss;
  }

 private:
  static Dataset random_rows(std::int64_t features, std::int64_t classes, std::int64_t rows) {
    Random random(3);
    std::vector<double> truth;
    for (std::int64_t row = 0; row < rows; ++row)
      truth.push_back(static_cast<double>(random.below(classes)));
    return dataset_of_classes(normal({rows, features}, 0, 1, random), tensor({rows}, truth));
  }

  Dataset data_;
  RowSet rows_;
  std::int64_t batch_;
  Network network_;
  Adam rule_{.rate = 1e-6};
  Random random_{5};
};

Pair judging(const std::shared_ptr<Judging>& rows) {
  return {.ours = [rows] { return rows->judged(); },
          .by_hand = [rows] { return rows->trained(); },
          .tolerance = std::numeric_limits<double>::infinity()};
}

Pair judging_small() {
  return judging(
      std::make_shared<Judging>(5, "dense 8, tanh, dense 4", 4, 20'000, 16, Precision::double_));
}

Pair judging_wide() {
  return judging(
      std::make_shared<Judging>(784, "dense 128, relu, dense 10", 10, 4000, 64, Precision::single));
}

double nanoseconds(const std::function<double()>& work, int times) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 0; i < times; ++i)
    benchmark::DoNotOptimize(work());
  const std::chrono::duration<double, std::nano> taken = std::chrono::steady_clock::now() - start;
  return taken.count() / times;
}

double median(std::vector<double> numbers) {
  std::ranges::sort(numbers);
  return numbers[numbers.size() / 2];
}

/// Runs both in turn, many times each, and reports the median of the ratios of neighbours: what the
/// machine does besides hits both alike.
void compare(benchmark::State& state, const std::function<Pair()>& make) {
  const Threads one(1);
  const Pair pair = make();
  for (int twice = 0; twice < 2; ++twice) {
    const double ours = pair.ours();
    const double by_hand = pair.by_hand();
    if (std::abs(ours - by_hand) > pair.tolerance * std::max(1.0, std::abs(by_hand))) {
      state.SkipWithError("the two do not compute the same");
      return;
    }
  }
  std::vector<double> ratios;
  std::vector<double> times_ours;
  std::vector<double> times_by_hand;
  for ([[maybe_unused]] auto each : state) {
    times_by_hand.push_back(nanoseconds(pair.by_hand, pair.times) * pair.scale);
    times_ours.push_back(nanoseconds(pair.ours, pair.times));
    ratios.push_back(times_ours.back() / times_by_hand.back());
  }
  state.counters["ours_ns"] = median(times_ours);
  state.counters["by_hand_ns"] = median(times_by_hand);
  state.counters["ratio"] = median(ratios);
}

/// Runs the command and waits for it. @return how long it took, in nanoseconds
double process(const char* arguments) {
  const std::string line = std::string(LATTICE_PROGRAM " ") + arguments + " > /dev/null 2>&1";
  return nanoseconds([&line] { return static_cast<double>(std::system(line.c_str())); }, 1);
}

/// The same run by the command, whole process, less what it takes to start and to do nothing;
/// beside the loop by hand.
void compare_process(benchmark::State& state) {
  const Threads one(1);
  const GlazesRun run;
  std::vector<double> ratios;
  std::vector<double> times_ours;
  std::vector<double> times_by_hand;
  std::vector<double> starts;
  for ([[maybe_unused]] auto each : state) {
    starts.push_back(process("--version"));
    times_by_hand.push_back(nanoseconds([&run] { return run.by_hand(); }, 1));
    times_ours.push_back(
        process("train glazes --net 'dense 8, tanh, dense 4' --rule adam --rate 0.01 "
                "--epochs 100 --batch 16 --say nothing --quiet all --json") -
        starts.back());
    ratios.push_back(times_ours.back() / times_by_hand.back());
  }
  state.counters["ours_ns"] = median(times_ours);
  state.counters["by_hand_ns"] = median(times_by_hand);
  state.counters["ratio"] = median(ratios);
  state.counters["start_ns"] = median(starts);
}

/// How much memory the process holds, in bytes.
double memory() {
  std::ifstream file("/proc/self/statm");
  double pages = 0.0;
  file >> pages >> pages;
  return pages * static_cast<double>(sysconf(_SC_PAGESIZE));
}

/// Memory after 10 000 steps as a multiple of that after 100.
void compare_memory(benchmark::State& state) {
  const Task task{.sizes = {5, 8, 4}, .loss = Loss::cross_entropy};
  OurSteps steps(task, numbers_for(task, 1));
  for ([[maybe_unused]] auto each : state) {
    for (int i = 0; i < 100; ++i)
      steps.step();
    const double after_100 = memory();
    for (int i = 100; i < 10'000; ++i)
      steps.step();
    state.counters["ratio"] = memory() / after_100;
  }
}

/// What it costs to write a line down, with next to nothing to calculate: 1 × 1.
void one_line(benchmark::State& state) {
  constexpr int lines = 1000;
  const Tensor one = tensor({{0.5}});
  const std::function<double()> work = [&one] {
    Worksheet sheet;
    Line x = sheet.weight("x", one);
    for (int i = 0; i < lines; ++i)
      x = x * x;
    return x.value().number();
  };
  std::vector<double> times;
  for ([[maybe_unused]] auto each : state)
    times.push_back(nanoseconds(work, 10) / lines);
  state.counters["ours_ns"] = median(times);
}

/// Prints a row for each comparison, and keeps the figures.
class RatioReporter final : public benchmark::BenchmarkReporter {
 public:
  explicit RatioReporter(bool quiet) : quiet_(quiet) {}

  bool ReportContext(const Context&) override {
    print("{:<32} {:>13} {:>13} {:>7}\n", "work", "ours, µs", "by hand, µs", "ratio");
    return true;
  }

  void ReportRuns(const std::vector<Run>& runs) override {
    for (const Run& run : runs) {
      const std::string name = run.run_name.function_name;
      if (run.error_occurred) {
        failed_ = true;
        fmt::print(stderr, "{}: {}\n", name, run.error_message);
        continue;
      }
      const auto micro = [&](const char* counter) {
        const auto found = run.counters.find(counter);
        return found == run.counters.end() ? std::string()
                                           : fmt::format("{:.3f}", found->second.value / 1000.0);
      };
      const auto ratio = run.counters.find("ratio");
      const bool has_ratio = ratio != run.counters.end();
      print("{:<32} {:>13} {:>13} {:>7}\n", name, micro("ours_ns"), micro("by_hand_ns"),
            has_ratio ? fmt::format("{:.3f}", ratio->second.value) : "");
      if (const auto start = run.counters.find("start_ns"); start != run.counters.end()) {
        print("  (less {:.1f} ms that the command takes to start)\n", start->second.value / 1e6);
        figures_["start_ms"] = start->second.value / 1e6;
      }
      keep(name, run, has_ratio ? ratio->second.value : 0.0);
    }
  }

  [[nodiscard]] const nlohmann::json& figures() const { return figures_; }
  [[nodiscard]] bool failed() const { return failed_; }

 private:
  template <class... Arguments>
  void print(fmt::format_string<Arguments...> format, Arguments&&... arguments) const {
    if (!quiet_) fmt::print(format, std::forward<Arguments>(arguments)...);
  }

  /// `grow:batch:16` becomes growth.batch.16; what is no ratio stands by itself.
  void keep(const std::string& name, const Run& run, double ratio) {
    if (name == "line-1x1") {
      figures_["nanoseconds_per_line"] = run.counters.at("ours_ns").value;
    } else if (name.starts_with("grow ")) {
      figures_["growth"][name.substr(5)] = {{"ours_ns", run.counters.at("ours_ns").value},
                                            {"by_hand_ns", run.counters.at("by_hand_ns").value},
                                            {"ratio", ratio}};
    } else {
      figures_["ratios"][name] = ratio;
    }
  }

  bool quiet_;
  bool failed_ = false;
  nlohmann::json figures_;
};

void add(const std::string& name, int pairs, const std::function<Pair()>& make) {
  benchmark::RegisterBenchmark(name.c_str(), compare, make)->Iterations(pairs);
}

void add_step(const std::string& name, int pairs, const Task& task) {
  add(name, pairs, [task] { return steps(task); });
}

/// A network with every bend, in both precisions, on rows that lie ready and on shuffled ones.
void add_network(const std::string& name, int pairs, const Task& network) {
  constexpr std::array<std::pair<const char*, Bend>, 3> all_bends = {
      {{"tanh", Bend::tanh}, {"relu", Bend::relu}, {"sigmoid", Bend::sigmoid}}};
  for (const auto& [word, bend] : all_bends) {
    for (const bool in_single : {false, true}) {
      Task task = network;
      task.bend = bend;
      task.in_single = in_single;
      const std::string full = fmt::format("{}-{}-{}", name, word, in_single ? "single" : "double");
      add_step(full, pairs, task);
      add(full + "-shuffled", pairs, [task] { return shuffled_steps(task); });
    }
  }
}

void add_all() {
  add_step("linear-3-double", 200, {.sizes = {3, 1}});
  add_network("2-5-2", 100, {.sizes = {2, 5, 2}, .loss = Loss::cross_entropy});
  add_network("5-8-4", 100, {.sizes = {5, 8, 4}, .loss = Loss::cross_entropy});
  add_network("784-128-10", 60,
              {.sizes = {784, 128, 10}, .batch = 64, .loss = Loss::cross_entropy});
  add("train-glazes-one-call", 20, glazes_run);
  benchmark::RegisterBenchmark("train-glazes-process", compare_process)->Iterations(20);
  add("judging-5-8-4-beside-training", 20, judging_small);
  add("judging-784-128-10-beside-training", 20, judging_wide);
  add("matmul-1024-two-threads", 30, products);
  for (const bench::Comparison& each : bench::comparisons_of_graphs())
    add(each.name, each.pairs, each.make);
  for (const bench::Comparison& each : bench::comparisons_of_pictures())
    add(each.name, each.pairs, each.make);
  add("tanh-1e6-double", 50, [] { return bends<double>(Bend::tanh); });
  add("tanh-1e6-single", 50, [] { return bends<float>(Bend::tanh); });
  add("sigmoid-1e6-double", 50, [] { return bends<double>(Bend::sigmoid); });
  add("sigmoid-1e6-single", 50, [] { return bends<float>(Bend::sigmoid); });
  add("relu-1e6-double", 50, [] { return bends<double>(Bend::relu); });
  add("relu-1e6-single", 50, [] { return bends<float>(Bend::relu); });
  benchmark::RegisterBenchmark("memory-10000-steps", compare_memory)->Iterations(1);
  benchmark::RegisterBenchmark("line-1x1", one_line)->Iterations(100);

  for (const std::int64_t batch : {16, 64, 256, 1024, 4096})
    add_step(fmt::format("grow batch {}", batch), 20, {.sizes = {16, 16, 4}, .batch = batch});
  for (const std::int64_t width : {8, 32, 128, 512, 2048})
    add_step(fmt::format("grow width {}", width), 10, {.sizes = {16, width, 4}});
  for (const std::size_t depth : {1U, 3U, 10U, 30U, 100U}) {
    std::vector<std::int64_t> sizes(depth + 2, 16);
    add_step(fmt::format("grow depth {}", depth), 20, {.sizes = sizes});
  }
}

}  // namespace

/// `bench [--json] [NAME]`: all comparisons, or those whose names the pattern fits.
int main(int count, char** arguments) {
  bool json = false;
  std::string which = ".";
  for (int at = 1; at < count; ++at) {
    if (std::strcmp(arguments[at], "--json") == 0) {
      json = true;
    } else {
      which = arguments[at];
    }
  }
  add_all();
  int benchmark_count = 1;
  benchmark::Initialize(&benchmark_count, arguments);
  RatioReporter reporter(json);
  benchmark::RunSpecifiedBenchmarks(&reporter, which);
  if (json) fmt::print("{}\n", reporter.figures().dump(2));
  return reporter.failed() ? 1 : 0;
}
