#include "lattice/judging/figures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>

#include "lattice/text/error.hpp"

namespace lattice {
namespace {

void check_same_count(std::int64_t answers, std::int64_t classes) {
  if (answers == classes) return;
  throw ShapeError({.what = "accuracy needs one answer per row",
                    .expected = fmt::format("{} answers", classes),
                    .found = fmt::format("{}", answers)});
}

/// The share of those that are true.
double share(const std::vector<bool>& all) {
  return static_cast<double>(std::ranges::count(all, true)) / static_cast<double>(all.size());
}

/// Assigns rows to columns so that the sum of costs is least, row by row along cheapest paths.
/// `u` and `v` are the prices of rows and columns; place 0 stands for none.
class Assignment {
 public:
  explicit Assignment(std::vector<std::vector<double>> costs)
      : costs_(std::move(costs)),
        size_(costs_.size()),
        u_(size_ + 1),
        v_(size_ + 1),
        row_of_(size_ + 1) {
    for (std::size_t row = 1; row <= size_; ++row)
      add(row);
  }

  /// The row of each column, from 0.
  [[nodiscard]] std::vector<std::int64_t> row_of_column() const {
    std::vector<std::int64_t> rows;
    for (std::size_t column = 1; column <= size_; ++column)
      rows.push_back(static_cast<std::int64_t>(row_of_[column]) - 1);
    return rows;
  }

 private:
  void add(std::size_t row) {
    std::vector<double> least(size_ + 1, std::numeric_limits<double>::infinity());
    std::vector<std::size_t> before(size_ + 1);
    std::vector<bool> seen(size_ + 1);
    row_of_[0] = row;
    std::size_t column = 0;
    do {
      seen[column] = true;
      column = nearest_column(column, least, before, seen);
    } while (row_of_[column] != 0);
    while (column != 0) {
      row_of_[column] = row_of_[before[column]];
      column = before[column];
    }
  }

  std::size_t nearest_column(std::size_t from, std::vector<double>& least,
                             std::vector<std::size_t>& before, const std::vector<bool>& seen) {
    const std::size_t row = row_of_[from];
    double step = std::numeric_limits<double>::infinity();
    std::size_t next = 0;
    for (std::size_t column = 1; column <= size_; ++column) {
      if (seen[column]) continue;
      const double cost = costs_[row - 1][column - 1] - u_[row] - v_[column];
      if (cost < least[column]) {
        least[column] = cost;
        before[column] = from;
      }
      if (least[column] < step) {
        step = least[column];
        next = column;
      }
    }
    for (std::size_t column = 0; column <= size_; ++column) {
      if (seen[column]) {
        u_[row_of_[column]] += step;
        v_[column] -= step;
      } else {
        least[column] -= step;
      }
    }
    return next;
  }

  std::vector<std::vector<double>> costs_;
  std::size_t size_;
  std::vector<double> u_;
  std::vector<double> v_;
  std::vector<std::size_t> row_of_;
};

}  // namespace

Tensor confusion(const Tensor& answers, const Tensor& classes, std::int64_t count) {
  Tensor counts = zeros(Shape{count, count}.with({Role::class_, Role::class_}));
  add_to_confusion(counts, answers, classes);
  return counts;
}

void add_to_confusion(Tensor& counts, const Tensor& answers, const Tensor& classes,
                      const Tensor* row_weights) {
  check_same_count(answers.count(), classes.count());
  for (std::int64_t row = 0; row < classes.count(); ++row) {
    const Index at{static_cast<std::int64_t>(classes.at_offset(row)),
                   static_cast<std::int64_t>(answers.at_offset(row))};
    counts.set(at, counts.at(at) + (row_weights == nullptr ? 1.0 : row_weights->at_offset(row)));
  }
}

std::vector<std::optional<double>> recalls(const Tensor& confusion) {
  std::vector<std::optional<double>> all;
  const std::int64_t count = confusion.shape()[0];
  for (std::int64_t truth = 0; truth < count; ++truth) {
    double rows = 0.0;
    for (std::int64_t answer = 0; answer < count; ++answer)
      rows += confusion.at({truth, answer});
    all.push_back(rows > 0.0 ? std::optional(confusion.at({truth, truth}) / rows) : std::nullopt);
  }
  return all;
}

std::vector<bool> are_right(const Tensor& answers, const Tensor& classes) {
  check_same_count(answers.count(), classes.count());
  const std::vector<double> given = answers.numbers();
  const std::vector<double> truth = classes.numbers();
  std::vector<bool> right(truth.size());
  for (std::size_t row = 0; row < truth.size(); ++row)
    right[row] = given[row] == truth[row];
  return right;
}

std::vector<bool> are_among_top(const Tensor& scores, const Tensor& classes, std::int64_t k) {
  const std::int64_t count = scores.shape()[1];
  check_same_count(scores.shape()[0], classes.count());
  if (k < 1 || k > count) {
    throw SettingError({.what = fmt::format("the {} likeliest of {} classes", k, count),
                        .expected = fmt::format("1 to {}", count),
                        .found = fmt::format("{}", k)});
  }
  std::vector<bool> right;
  right.reserve(static_cast<std::size_t>(classes.count()));
  for (std::int64_t row = 0; row < classes.count(); ++row) {
    const auto truth = static_cast<std::int64_t>(classes.at_offset(row));
    const double score = scores.at({row, truth});
    std::int64_t ahead = 0;
    for (std::int64_t other = 0; other < count; ++other) {
      const double rival = scores.at({row, other});
      // Beside what is no number, no place is known.
      ahead += !(rival <= score) || (rival == score && other < truth) ? 1 : 0;
    }
    right.push_back(ahead < k);
  }
  return right;
}

double accuracy(const Tensor& answers, const Tensor& classes, const Tensor* row_weights) {
  const std::vector<bool> right = are_right(answers, classes);
  if (row_weights == nullptr) return share(right);
  double sum = 0.0;
  double all = 0.0;
  for (std::size_t row = 0; row < right.size(); ++row) {
    const double number = row_weights->at_offset(static_cast<std::int64_t>(row));
    sum += right[row] ? number : 0.0;
    all += number;
  }
  return sum / all;
}

double top_accuracy(const Tensor& scores, const Tensor& classes, std::int64_t k) {
  return share(are_among_top(scores, classes, k));
}

std::vector<std::int64_t> best_matching(const Tensor& confusion) {
  const std::int64_t count = confusion.shape()[0];
  std::vector<std::vector<double>> costs(static_cast<std::size_t>(count));
  for (std::int64_t truth = 0; truth < count; ++truth) {
    for (std::int64_t answer = 0; answer < count; ++answer)
      costs[static_cast<std::size_t>(truth)].push_back(-confusion.at({truth, answer}));
  }
  return Assignment(std::move(costs)).row_of_column();
}

double matched_accuracy(const Tensor& confusion, const std::vector<std::int64_t>& matching) {
  double right = 0.0;
  double all = 0.0;
  for (std::size_t answer = 0; answer < matching.size(); ++answer)
    right += confusion.at({matching[answer], static_cast<std::int64_t>(answer)});
  for (const double count : confusion.numbers())
    all += count;
  return right / all;
}

}  // namespace lattice
