/// How long our work takes beside the same work written by hand with Eigen, always as a ratio
/// within one run.

#include <benchmark/benchmark.h>
#include <fmt/format.h>

#include <Eigen/Core>
#include <algorithm>
#include <chrono>
#include <cstring>
#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "lattice/lattice.hpp"

namespace {

using namespace lattice;

/// One training step of a linear model, with weights, data and rate held fast: each call works the
/// same minibatch and moves the weights on.
constexpr std::int64_t features = 3;
constexpr std::int64_t batch_size = 16;
constexpr double rate = 0.01;

struct Problem {
  Tensor x;
  Tensor y;
  Tensor W;

  Problem() {
    Random random(7);
    x = normal(Shape{batch_size, features}.with({Role::example, Role::feature}), 0, 1, random);
    y = normal(Shape{batch_size, 1}.with({Role::example, Role::unit}), 0, 1, random);
    W = normal({features, 1}, 0, 1, random);
  }
};

/// With the library, as one writes a loop: a worksheet for the minibatch, the sweep, the update.
class OurStep {
 public:
  explicit OurStep(const Problem& problem)
      : x_(problem.x), y_(problem.y), weights_{{"W", problem.W}, {"b", zeros({1})}} {}

  double operator()() {
    Worksheet sheet;
    const Line x = sheet.given("x", x_);
    const Line y = sheet.given("y", y_);
    const Line W = sheet.weight("W", weights_["W"]);
    const Line b = sheet.weight("b", weights_["b"]);
    const Line cost = half_mean_squared(dense(x, W, b), y);
    rule_.update(weights_, reverse_sweep(cost));
    return cost.value().number();
  }

 private:
  Tensor x_;
  Tensor y_;
  Weights weights_;
  Descent rule_{.rate = rate};
};

/// By hand: matrices of a size known at run time, as the library's are, and buffers made once.
class StepByHand {
 public:
  explicit StepByHand(const Problem& problem)
      : x_(batch_size, features), y_(batch_size), W_(features), e_(batch_size), dW_(features) {
    std::copy_n(problem.x.data<double>(), x_.size(), x_.data());
    std::copy_n(problem.y.data<double>(), y_.size(), y_.data());
    std::copy_n(problem.W.data<double>(), W_.size(), W_.data());
  }

  double operator()() {
    e_.noalias() = x_ * W_;
    e_.array() += b_;
    e_ -= y_;
    const double cost = 0.5 * e_.squaredNorm() / static_cast<double>(e_.size());
    e_ /= static_cast<double>(e_.size());
    dW_.noalias() = x_.transpose() * e_;
    W_ -= rate * dW_;
    b_ -= rate * e_.sum();
    return cost;
  }

 private:
  Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor> x_;
  Eigen::VectorXd y_;
  Eigen::VectorXd W_;
  Eigen::VectorXd e_;
  Eigen::VectorXd dW_;
  double b_ = 0.0;
};

double nanoseconds(auto& step, int times) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 0; i < times; ++i)
    benchmark::DoNotOptimize(step());
  const std::chrono::duration<double, std::nano> taken = std::chrono::steady_clock::now() - start;
  return taken.count() / times;
}

double median(std::vector<double> numbers) {
  std::ranges::sort(numbers);
  return numbers[numbers.size() / 2];
}

/// Runs both in turn, many times each, and reports the median of the ratios of neighbours: what the
/// machine does besides hits both alike.
template <class Ours, class ByHand>
void compare(benchmark::State& state) {
  const Problem problem;
  Ours ours(problem);
  ByHand by_hand(problem);
  if (std::abs(ours() - by_hand()) > 1e-12 || std::abs(ours() - by_hand()) > 1e-12) {
    state.SkipWithError("the two do not compute the same");
    return;
  }
  std::vector<double> ratios;
  std::vector<double> times_ours;
  std::vector<double> times_by_hand;
  constexpr int steps = 2000;
  for ([[maybe_unused]] auto pair : state) {
    times_by_hand.push_back(nanoseconds(by_hand, steps));
    times_ours.push_back(nanoseconds(ours, steps));
    ratios.push_back(times_ours.back() / times_by_hand.back());
  }
  state.counters["ours_ns"] = median(times_ours);
  state.counters["by_hand_ns"] = median(times_by_hand);
  state.counters["ratio"] = median(ratios);
}

/// Prints a row for each comparison, and keeps the ratios.
class RatioReporter final : public benchmark::BenchmarkReporter {
 public:
  explicit RatioReporter(bool quiet) : quiet_(quiet) {}

  bool ReportContext(const Context&) override {
    if (!quiet_)
      fmt::print("{:<28} {:>10} {:>13} {:>7}\n", "work", "ours, ns", "by hand, ns", "ratio");
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
      const auto figure = [&](const char* counter) { return run.counters.at(counter).value; };
      ratios_[name] = figure("ratio");
      if (!quiet_) {
        fmt::print("{:<28} {:>10.1f} {:>13.1f} {:>7.2f}\n", name, figure("ours_ns"),
                   figure("by_hand_ns"), figure("ratio"));
      }
    }
  }

  [[nodiscard]] const std::map<std::string, double>& ratios() const { return ratios_; }
  [[nodiscard]] bool failed() const { return failed_; }

 private:
  bool quiet_;
  bool failed_ = false;
  std::map<std::string, double> ratios_;
};

}  // namespace

int main(int count, char** arguments) {
  const bool json = std::any_of(arguments + 1, arguments + count, [](const char* argument) {
    return std::strcmp(argument, "--json") == 0;
  });
  benchmark::RegisterBenchmark("step-linear-3-double", compare<OurStep, StepByHand>)
      ->Iterations(400)
      ->Unit(benchmark::kMillisecond);
  int benchmark_count = 1;
  benchmark::Initialize(&benchmark_count, arguments);
  RatioReporter reporter(json);
  benchmark::RunSpecifiedBenchmarks(&reporter);
  if (json) fmt::print("{}\n", nlohmann::json{{"ratios", reporter.ratios()}}.dump(2));
  return reporter.failed() ? 1 : 0;
}
