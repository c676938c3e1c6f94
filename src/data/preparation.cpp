#include "lattice/data/preparation.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>
#include <utility>
#include <vector>

#include "lattice/tensor/arithmetic.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/words.hpp"
#include "tensor/visit.hpp"
#include "text/counted.hpp"
#include "text/scanner.hpp"

namespace lattice {
namespace {

constexpr Words<ScalingKind> kinds = {{ScalingKind::none, "none"},
                                      {ScalingKind::standard, "standard"},
                                      {ScalingKind::min_max, "min-max"},
                                      {ScalingKind::less_mean, "less mean"}};

/// What brings bytes to numbers from 0 to 1.
constexpr std::string_view of_bytes = "0 to 1";
constexpr double most_of_a_byte = 255.0;

/// The steps that subjects supply.
std::vector<ScalingWord>& own_words() {
  static std::vector<ScalingWord> words;
  return words;
}

/// Reads `less 127.5 over 127.5`, or one of the two; nothing where the text is about something
/// else.
std::optional<ScalingSettings> known_numbers(std::string_view text) {
  Scanner words(text, "the scaling");
  if (!words.is_next(0, "over") && (!words.is_next(0, "less") || words.is_next(1, "mean")))
    return std::nullopt;
  ScalingSettings settings{.kind = ScalingKind::known, .by = ScaledBy::whole};
  if (words.take("less")) settings.less = words.take_number("the number to subtract", "a number");
  if (words.take("over")) settings.over = words.take_number("the divisor", "a number");
  if (!words.at_end()) words.refuse("this is not part of a scaling", "over NUMBER, or the end");
  if (settings.over != 0.0) return settings;
  throw SettingError(
      {.what = "a scaling cannot divide by 0", .expected = "over 255", .found = "0"});
}

constexpr Words<ScaledBy> ways = {
    {ScaledBy::number, ""}, {ScaledBy::channel, " by channel"}, {ScaledBy::whole, " as a whole"}};

void check_fits(const Tensor& examples, const Scaling& scaling) {
  const Shape& shape = examples.shape();
  const bool fits = shape.rank() > 0 && factors_for(shape.without_first_axis(),
                                                    scaling.settings.by) == scaling.centre.shape();
  if (fits) return;
  const auto features = [](const Shape& of, int first) {
    return of.rank() == first + 1 ? counted(of[first], "feature") : to_string(of);
  };
  throw ShapeError({.what = "the scaling was fitted on other features",
                    .expected = features(scaling.centre.shape(), 0),
                    .found = features(shape, 1)});
}

/// The bits of `scaled_by` without a tensor between: factors repeat along the numbers.
Tensor scaled_in_one_pass(const Tensor& raw, const Tensor& centre, const Tensor& divisor) {
  Tensor scaled = Tensor::unfilled(broadcast(raw.shape(), centre.shape()), raw.precision());
  visit(raw.precision(), [&]<class T>(T) {
    // A few factors are written out several times over, so that there is a longer stretch to go
    // through at once.
    constexpr std::int64_t long_enough = 256;
    const std::int64_t factors = centre.count();
    const std::int64_t stretch = factors * std::max<std::int64_t>(1, long_enough / factors);
    std::vector<T> centres;
    std::vector<T> divisors;
    centres.reserve(static_cast<std::size_t>(stretch));
    divisors.reserve(static_cast<std::size_t>(stretch));
    while (std::ssize(centres) < stretch) {
      centres.insert(centres.end(), centre.data<T>(), centre.data<T>() + factors);
      divisors.insert(divisors.end(), divisor.data<T>(), divisor.data<T>() + factors);
    }
    const T* const less = centres.data();
    const T* const over = divisors.data();
    const T* from = raw.data<T>();
    T* to = scaled.writable<T>();
    for (std::int64_t left = raw.count(); left > 0; left -= stretch) {
      const std::int64_t count = std::min(left, stretch);
      for (std::int64_t at = 0; at < count; ++at)
        to[at] = (from[at] - less[at]) / over[at];
      from += count;
      to += count;
    }
  });
  return scaled;
}

/// Goes through the numbers of examples with the place of the factors that each belongs to.
template <class Meet>
void each_number(const Tensor& examples, std::int64_t factors, Meet meet) {
  const std::vector<double> numbers = examples.numbers();
  std::int64_t place = 0;
  for (const double number : numbers) {
    meet(static_cast<std::size_t>(place), number);
    if (++place == factors) place = 0;
  }
}

/// Finds the factors of one step. Numbers are added up row by row, in order, in double.
class Fitting {
 public:
  Fitting(const ScalingSettings& settings, const EachRows& examples)
      : settings_(settings), examples_(examples) {}

  [[nodiscard]] Scaling factors() {
    switch (settings_.kind) {
      case ScalingKind::standard:
        return standard();
      case ScalingKind::less_mean: {
        Scaling scaling = standard();
        scaling.divisor = ones(*shape_, precision_);
        return scaling;
      }
      case ScalingKind::min_max:
        return min_max();
      case ScalingKind::known:
      case ScalingKind::own:
      case ScalingKind::none:
        break;
    }
    return known();
  }

 private:
  /// Calls `meet(place, number)` for all numbers.
  template <class Meet>
  void each(Meet meet) {
    examples_([&](const Tensor& rows) {
      if (!shape_) {
        if (!settings_.own.empty()) settings_.own->check(rows.shape().without_first_axis());
        shape_ = factors_for(rows.shape().without_first_axis(), settings_.by);
        precision_ = rows.precision();
        numbers_.resize(static_cast<std::size_t>(shape_->count()));
      }
      each_number(rows, shape_->count(), meet);
    });
  }

  [[nodiscard]] Scaling made_of(const std::vector<double>& centre, std::vector<double> divisor) {
    for (double& number : divisor) {
      if (!(number > 0.0)) number = 1.0;
    }
    return {.settings = settings_,
            .centre = tensor(*shape_, centre, precision_),
            .divisor = tensor(*shape_, divisor, precision_)};
  }

  [[nodiscard]] Scaling standard() {
    std::int64_t count = 0;
    each([&](std::size_t place, double number) {
      numbers_[place] += number;
      ++count;
    });
    const double of_each = static_cast<double>(count) / static_cast<double>(numbers_.size());
    std::vector<double> mean = numbers_;
    for (double& number : mean)
      number /= of_each;
    std::vector<double> squares(mean.size());
    each([&](std::size_t place, double number) {
      squares[place] += (number - mean[place]) * (number - mean[place]);
    });
    for (double& number : squares)
      number = std::sqrt(number / of_each);
    return made_of(mean, std::move(squares));
  }

  [[nodiscard]] Scaling min_max() {
    std::vector<double> low;
    std::vector<double> high;
    each([&](std::size_t place, double number) {
      if (low.empty()) {
        low.assign(numbers_.size(), std::numeric_limits<double>::infinity());
        high.assign(numbers_.size(), -std::numeric_limits<double>::infinity());
      }
      low[place] = std::min(low[place], number);
      high[place] = std::max(high[place], number);
    });
    for (std::size_t place = 0; place < low.size(); ++place)
      high[place] -= low[place];
    return made_of(low, std::move(high));
  }

  [[nodiscard]] Scaling known() {
    each([](std::size_t, double) {});  // for shape and precision
    const std::vector<double> divisor(numbers_.size(), settings_.over);
    return {
        .settings = settings_,
        .centre = tensor(*shape_, std::vector<double>(numbers_.size(), settings_.less), precision_),
        .divisor = tensor(*shape_, divisor, precision_)};
  }

  ScalingSettings settings_;
  const EachRows& examples_;
  std::optional<Shape> shape_ = std::nullopt;
  Precision precision_ = Precision::double_;
  std::vector<double> numbers_ = {};  ///< one for each factor
};

}  // namespace

void know(const ScalingWord& word) {
  own_words().push_back(word);
}

std::string text(const ScalingSettings& settings) {
  if (!settings.own.empty()) return settings.own->text();
  if (settings.kind == ScalingKind::known)
    return fmt::format("less {} over {}", settings.less, settings.over);
  return fmt::format("{}{}", kinds.of(settings.kind), ways.of(settings.by));
}

ScalingSettings parse_scaling(std::string_view text) {
  if (text == of_bytes)
    return {.kind = ScalingKind::known, .by = ScaledBy::whole, .over = most_of_a_byte};
  for (const ScalingWord& own : own_words()) {
    if (text.starts_with(own.word))
      return {.kind = ScalingKind::own, .by = ScaledBy::whole, .own = own.parse(text)};
  }
  if (const std::optional<ScalingSettings> numbers = known_numbers(text)) return *numbers;
  std::vector<std::string> known;
  for (const auto& [kind, word] : kinds) {
    for (const auto& [by, way] : ways) {
      if (kind == ScalingKind::none && by != ScaledBy::number) continue;
      known.push_back(fmt::format("{}{}", word, way));
      if (known.back() == text) return {kind, by};
    }
  }
  known.emplace_back(of_bytes);
  known.emplace_back("less 127.5 over 127.5");
  for (const ScalingWord& own : own_words())
    known.emplace_back(own.example);
  throw SettingError(not_among("this is no way to scale", text, known));
}

Shape factors_for(const Shape& example, ScaledBy by) {
  if (by == ScaledBy::whole) return {};
  if (by == ScaledBy::number) return example;
  const int last = example.rank() - 1;
  if (last >= 0 && example.role(last) == Role::channel)
    return Shape{example[last]}.with({Role::channel});
  throw ShapeError({.what = "scaling by channel needs channels",
                    .expected = "examples whose last axis is of channels, such as pictures",
                    .found = to_string(example)});
}

Tensor Scaling::scaled(const Tensor& raw) const {
  if (!settings.own.empty()) return settings.own->scaled(raw);
  check_fits(raw, *this);
  const bool are_alike = raw.precision() == centre.precision() &&
                         raw.precision() == divisor.precision() && !raw.is_sparse();
  return are_alike ? scaled_in_one_pass(raw, centre, divisor) : scaled_by(raw, centre, divisor);
}

Tensor Scaling::raw(const Tensor& scaled) const {
  if (!settings.own.empty()) {
    throw SettingError({.what = "this scaling has no inverse",
                        .expected = "a scaling by fixed factors",
                        .found = text(settings)});
  }
  check_fits(scaled, *this);
  return scaled * divisor + centre;
}

Scaling Scaling::in(Precision precision) const {
  return {.settings = settings, .centre = centre.in(precision), .divisor = divisor.in(precision)};
}

Tensor Preparation::prepared(const Tensor& raw) const {
  Tensor numbers = raw;
  for (const Scaling& step : steps)
    numbers = step.scaled(numbers);
  return numbers;
}

Tensor Preparation::raw(const Tensor& prepared) const {
  Tensor numbers = prepared;
  for (auto step = steps.rbegin(); step != steps.rend(); ++step)
    numbers = step->raw(numbers);
  return numbers;
}

Preparation Preparation::in(Precision precision) const {
  Preparation result;
  for (const Scaling& step : steps)
    result.steps.push_back(step.in(precision));
  return result;
}

Preparation fit(const std::vector<ScalingSettings>& steps, const EachRows& examples) {
  Preparation preparation;
  for (const ScalingSettings& settings : steps) {
    if (settings.kind == ScalingKind::none) continue;
    const EachRows so_far = [&](const std::function<void(const Tensor&)>& meet) {
      examples([&](const Tensor& rows) { meet(preparation.prepared(rows)); });
    };
    preparation.steps.push_back(Fitting(settings, so_far).factors());
  }
  return preparation;
}

Preparation fit(const std::vector<ScalingSettings>& steps, const Tensor& examples) {
  if (examples.shape().rank() < 2) {
    throw ShapeError({.what = "preparation needs at least one example",
                      .expected = "[example × …], such as [example × feature]",
                      .found = to_string(examples.shape())});
  }
  return fit(steps, [&](const std::function<void(const Tensor&)>& meet) { meet(examples); });
}

}  // namespace lattice
