#include "lattice/learning/schedule.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <numbers>
#include <optional>
#include <sstream>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"

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

void check_lowest(double lowest) {
  if (std::isfinite(lowest) && lowest >= 0.0) return;
  throw SettingError({.what = "a learning rate cannot sink this low",
                      .expected = "0 or more",
                      .found = format_number(lowest)});
}

/// The number behind a word, where both come next; they are taken then.
std::optional<double> number_behind(std::string_view word, std::vector<std::string>& words) {
  if (words.size() < 2 || words[0] != word) return std::nullopt;
  const std::optional<double> number = parse_number(words[1]);
  if (number) words.erase(words.begin(), words.begin() + 2);
  return number;
}

[[noreturn]] void refuse(std::string_view text) {
  throw SettingError(
      {.what = fmt::format("'{}' is not a schedule of the learning rate", text),
       .expected = "constant, steps EPOCHS FACTOR, exponential FACTOR, cosine EPOCHS [LOWEST] or "
                   "stall EPOCHS FACTOR [least RATE] [by SHARE]; in front of it, if wanted, "
                   "warm-up EPOCHS then",
       .found = fmt::format("'{}'", text),
       .remedy = "steps 10 0.5 halves it after every 10 epochs"});
}

bool is_count(double number) {
  return number == std::floor(number) && std::abs(number) < 1e9;
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
  check_lowest(lowest);
  return {Kind::cosine, epochs, lowest};
}

Schedule Schedule::on_stall(std::int64_t epochs, double factor, const StallSettings& settings) {
  check_epochs(epochs);
  check_factor(factor);
  check_lowest(settings.least);
  if (!(settings.by >= 0.0) || settings.by >= 1.0) {
    throw SettingError({.what = "a loss cannot be lower by this share of itself",
                        .expected = "0 or more, and below 1, such as 0.01",
                        .found = format_number(settings.by)});
  }
  Schedule schedule(Kind::stall, epochs, factor);
  schedule.stall_ = settings;
  return schedule;
}

Schedule Schedule::after_warm_up(std::int64_t epochs) const {
  check_epochs(epochs);
  Schedule schedule = *this;
  schedule.warm_up_ = epochs;
  return schedule;
}

double Schedule::rate(double first, std::int64_t epoch, std::span<const Look> watched) const {
  if (epoch <= warm_up_) return first * static_cast<double>(epoch) / static_cast<double>(warm_up_);
  const auto gone = static_cast<double>(epoch - warm_up_ - 1);
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
      return rate_after_stalls(first, watched);
  }
  return first;
}

double Schedule::rate_after_stalls(double first, std::span<const Look> watched) const {
  double rate = first;
  std::optional<double> lowest;
  std::int64_t waited = 0;
  for (const Look& look : watched) {
    if (look.epoch < warm_up_) continue;
    const bool is_new_low = !lowest || look.loss < *lowest * (1.0 - stall_.by);
    if (is_new_low) lowest = look.loss;
    waited = is_new_low ? 0 : waited + 1;
    if (waited < epochs_) continue;
    rate = std::max(rate * number_, std::min(rate, stall_.least));
    waited = 0;
  }
  return rate;
}

std::string Schedule::text() const {
  const std::string start = warm_up_ == 0 ? "" : fmt::format("warm-up {} then ", warm_up_);
  switch (kind_) {
    case Kind::constant:
      return start + "constant";
    case Kind::steps:
      return start + fmt::format("steps {} {}", epochs_, number_);
    case Kind::exponential:
      return start + fmt::format("exponential {}", number_);
    case Kind::cosine:
      return start + fmt::format("cosine {} {}", epochs_, number_);
    case Kind::stall:
      break;
  }
  std::string text = start + fmt::format("stall {} {}", epochs_, number_);
  if (stall_.least > 0.0) text += fmt::format(" least {}", stall_.least);
  if (stall_.by > 0.0) text += fmt::format(" by {}", stall_.by);
  return text;
}

namespace {

/// @param words of the schedule behind a warm-up
/// @param text all of it, for messages
Schedule schedule_of(std::vector<std::string> words, std::string_view text) {
  if (words.empty()) refuse(text);
  const std::string kind = words.front();
  words.erase(words.begin());
  std::vector<double> numbers;
  while (!words.empty() && parse_number(words.front())) {
    numbers.push_back(*parse_number(words.front()));
    words.erase(words.begin());
  }
  StallSettings stall;
  if (kind == "stall") {
    stall.least = number_behind("least", words).value_or(stall.least);
    stall.by = number_behind("by", words).value_or(stall.by);
  }
  if (!words.empty()) refuse(text);
  if (numbers.empty() && kind == "constant") return Schedule::constant();
  if (numbers.size() == 1 && kind == "exponential") return Schedule::exponential(numbers[0]);
  if (numbers.empty() || numbers.size() > 2 || !is_count(numbers[0])) refuse(text);
  const auto epochs = static_cast<std::int64_t>(numbers[0]);
  if (kind == "cosine") return Schedule::cosine(epochs, numbers.size() == 2 ? numbers[1] : 0.0);
  if (numbers.size() == 2 && kind == "steps") return Schedule::steps(epochs, numbers[1]);
  if (numbers.size() == 2 && kind == "stall") return Schedule::on_stall(epochs, numbers[1], stall);
  refuse(text);
}

}  // namespace

Schedule parse_schedule(std::string_view text) {
  std::istringstream in{std::string(text)};
  std::vector<std::string> words{std::istream_iterator<std::string>(in), {}};
  const std::optional<double> warm_up = number_behind("warm-up", words);
  if (warm_up) {
    if (!is_count(*warm_up) || words.empty() || words[0] != "then") refuse(text);
    words.erase(words.begin());
    if (words.empty()) refuse(text);
  }
  const Schedule rest = schedule_of(words, text);
  return warm_up ? rest.after_warm_up(static_cast<std::int64_t>(*warm_up)) : rest;
}

}  // namespace lattice
