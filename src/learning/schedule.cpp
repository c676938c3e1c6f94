#include "lattice/learning/schedule.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/phrase.hpp"

namespace lattice {
namespace {

void check_epochs(std::int64_t epochs) {
  if (epochs >= 1) return;
  throw SettingError({.what = "a schedule cannot count so many epochs",
                      .expected = "1 or more",
                      .found = fmt::format("{}", epochs)});
}

void check_factor(double factor) {
  if (std::isfinite(factor) && factor > 0.0 && factor <= 1.0) return;
  throw SettingError({.what = "a learning rate cannot change by this factor",
                      .expected = "above 0, and 1 at most",
                      .found = format_number(factor)});
}

}  // namespace

Schedule Schedule::constant() {
  return {Kind::constant, 1, 1.0};
}

Schedule Schedule::steps(std::int64_t epochs, double factor) {
  check_epochs(epochs);
  check_factor(factor);
  return {Kind::steps, epochs, factor};
}

Schedule Schedule::exponential(double factor) {
  check_factor(factor);
  return {Kind::exponential, 1, factor};
}

Schedule Schedule::cosine(std::int64_t epochs, double lowest) {
  check_epochs(epochs);
  if (!std::isfinite(lowest) || lowest < 0.0) {
    throw SettingError({.what = "a learning rate cannot sink this low",
                        .expected = "0 or more",
                        .found = format_number(lowest)});
  }
  return {Kind::cosine, epochs, lowest};
}

Schedule Schedule::on_stall(std::int64_t epochs, double factor) {
  check_epochs(epochs);
  check_factor(factor);
  return {Kind::stall, epochs, factor};
}

double Schedule::rate(double first, std::int64_t epoch, std::span<const double> watched) const {
  const auto gone = static_cast<double>(epoch - 1);
  switch (kind_) {
    case Kind::constant:
      return first;
    case Kind::steps:
      return first * std::pow(number_, std::floor(gone / static_cast<double>(epochs_)));
    case Kind::exponential:
      return first * std::pow(number_, gone);
    case Kind::cosine: {
      const double part = std::min(1.0, gone / static_cast<double>(epochs_));
      return number_ + (first - number_) * 0.5 * (1.0 + std::cos(std::numbers::pi * part));
    }
    case Kind::stall:
      break;
  }
  double rate = first;
  double lowest = watched.empty() ? 0.0 : watched[0];
  std::int64_t waited = 0;
  for (const double loss : watched.subspan(std::min<std::size_t>(1, watched.size()))) {
    waited = loss < lowest ? 0 : waited + 1;
    lowest = std::min(lowest, loss);
    if (waited < epochs_) continue;
    rate *= number_;
    waited = 0;
  }
  return rate;
}

std::string Schedule::text() const {
  switch (kind_) {
    case Kind::constant:
      return "constant";
    case Kind::steps:
      return fmt::format("steps {} {}", epochs_, number_);
    case Kind::exponential:
      return fmt::format("exponential {}", number_);
    case Kind::cosine:
      return fmt::format("cosine {} {}", epochs_, number_);
    case Kind::stall:
      return fmt::format("stall {} {}", epochs_, number_);
  }
  return "";
}

Schedule parse_schedule(std::string_view text) {
  const auto [kind, numbers, readable] = parse_phrase(text);
  const auto epochs = [&count = numbers] { return static_cast<std::int64_t>(count[0]); };
  const bool counts =
      !numbers.empty() && numbers[0] == std::floor(numbers[0]) && std::abs(numbers[0]) < 1e9;
  if (readable && numbers.empty() && kind == "constant") return Schedule::constant();
  if (readable && numbers.size() == 1) {
    if (kind == "exponential") return Schedule::exponential(numbers[0]);
    if (kind == "cosine" && counts) return Schedule::cosine(epochs());
  }
  if (readable && numbers.size() == 2 && counts) {
    if (kind == "steps") return Schedule::steps(epochs(), numbers[1]);
    if (kind == "cosine") return Schedule::cosine(epochs(), numbers[1]);
    if (kind == "stall") return Schedule::on_stall(epochs(), numbers[1]);
  }
  throw SettingError(
      {.what = fmt::format("'{}' is not a schedule of the learning rate", text),
       .expected = "constant, steps EPOCHS FACTOR, exponential FACTOR, cosine EPOCHS [LOWEST] or "
                   "stall EPOCHS FACTOR",
       .found = fmt::format("'{}'", text),
       .remedy = "steps 10 0.5 halves it after every 10 epochs"});
}

}  // namespace lattice
