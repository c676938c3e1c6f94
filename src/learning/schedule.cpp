#include "lattice/learning/schedule.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <utility>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "text/scanner.hpp"

namespace lattice {
namespace {

void check_epochs(std::int64_t epochs) {
  if (epochs >= 1) return;
  throw SettingError({.what = "a schedule cannot have this many epochs",
                      .expected = "1 or more",
                      .found = fmt::format("{}", epochs)});
}

void check_factor(double factor) {
  if (std::isfinite(factor) && factor > 0.0 && factor <= 1.0) return;
  throw SettingError({.what = "the factor of the schedule is not possible",
                      .expected = "above 0, and 1 at most",
                      .found = format_number(factor)});
}

void check_lowest(double lowest) {
  if (std::isfinite(lowest) && lowest >= 0.0) return;
  throw SettingError({.what = "the lowest rate of the schedule is not possible",
                      .expected = "0 or more",
                      .found = format_number(lowest)});
}

void check_no_warm_up(std::int64_t warm_up, const Schedule& schedule) {
  if (warm_up == 0) return;
  throw SettingError({.what = "a warm-up comes first",
                      .expected = "one warm-up, before all other schedules",
                      .found = schedule.text()});
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

Schedule Schedule::milestones(std::vector<std::int64_t> epochs, double factor) {
  check_factor(factor);
  for (std::size_t at = 0; at < epochs.size(); ++at) {
    check_epochs(epochs[at]);
    if (at == 0 || epochs[at] > epochs[at - 1]) continue;
    throw SettingError({.what = "the milestones are not in order",
                        .expected = "each later than the one before, such as 80 120 160",
                        .found = fmt::format("{}", fmt::join(epochs, " "))});
  }
  if (epochs.empty()) {
    throw SettingError({.what = "a schedule of milestones needs one or more",
                        .expected = "epochs, such as 80 120 160",
                        .found = "none"});
  }
  Schedule schedule(Kind::milestones, 1, factor);
  schedule.milestones_ = std::move(epochs);
  return schedule;
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
    throw SettingError({.what = "the share of the schedule is not possible",
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

Schedule Schedule::together_with(const Schedule& other) const {
  check_no_warm_up(other.warm_up_, other);
  Schedule both = *this;
  both.beside_.push_back(other);
  for (const Schedule& beside : other.beside_)
    both.beside_.push_back(beside);
  both.beside_[beside_.size()].beside_.clear();
  return both;
}

Schedule Schedule::followed_by(const Schedule& next, std::int64_t epochs, bool begins_again) const {
  check_epochs(epochs);
  check_no_warm_up(next.warm_up_, next);
  Schedule sequence = *this;
  if (!next_.empty()) {
    sequence.next_.front() = next_.front().followed_by(next, epochs, begins_again);
    return sequence;
  }
  sequence.next_.push_back(next);
  sequence.next_.front().begins_again_ = begins_again;
  sequence.lasts_ = epochs;
  return sequence;
}

double Schedule::rate(double first, std::int64_t epoch, std::span<const Look> watched) const {
  if (epoch <= warm_up_) return first * static_cast<double>(epoch) / static_cast<double>(warm_up_);
  return rate_in_sequence(first, {.rate = first, .after = warm_up_}, epoch - warm_up_ - 1, watched);
}

double Schedule::rate_in_sequence(double first, const Beginning& beginning, std::int64_t gone,
                                  std::span<const Look> watched) const {
  if (next_.empty() || gone < lasts_) return rate_together(beginning, gone, watched);
  const Schedule& next = next_.front();
  Beginning of_next{.rate = first, .after = beginning.after + lasts_};
  if (!next.begins_again_) {
    const auto later = std::ranges::upper_bound(watched, of_next.after, {}, &Look::epoch);
    of_next.rate = rate_together(beginning, lasts_, std::span(watched.begin(), later));
  }
  return next.rate_in_sequence(first, of_next, gone - lasts_, watched);
}

double Schedule::rate_together(const Beginning& beginning, std::int64_t gone,
                               std::span<const Look> watched) const {
  if (beginning.rate == 0.0) return 0.0;
  double rate = own_rate(beginning, gone, watched);
  for (const Schedule& beside : beside_)
    rate *= beside.own_rate(beginning, gone, watched) / beginning.rate;
  return rate;
}

double Schedule::own_rate(const Beginning& beginning, std::int64_t gone,
                          std::span<const Look> watched) const {
  const double first = beginning.rate;
  const auto epochs = static_cast<double>(gone);
  switch (kind_) {
    case Kind::constant:
      return first;
    case Kind::steps:
      return first * std::pow(number_, std::floor(epochs / static_cast<double>(epochs_)));
    case Kind::milestones: {
      const auto passed = std::ranges::upper_bound(milestones_, gone) - milestones_.begin();
      return first * std::pow(number_, static_cast<double>(passed));
    }
    case Kind::exponential:
      return first * std::pow(number_, epochs);
    case Kind::cosine: {
      const double part = std::min(1.0, epochs / static_cast<double>(epochs_));
      return number_ + (first - number_) * 0.5 * (1.0 + std::cos(std::numbers::pi * part));
    }
    case Kind::stall:
      return rate_after_stalls(beginning, watched);
  }
  return first;
}

double Schedule::rate_after_stalls(const Beginning& beginning,
                                   std::span<const Look> watched) const {
  double rate = beginning.rate;
  std::optional<double> lowest;
  std::int64_t waited = 0;
  for (const Look& look : watched) {
    if (look.epoch < beginning.after) continue;
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
  std::string text = warm_up_ == 0 ? "" : fmt::format("warm-up {} then ", warm_up_);
  text += own_text();
  for (const Schedule& beside : beside_)
    text += " and " + beside.own_text();
  for (const Schedule& next : next_)
    text +=
        fmt::format(" for {} then {}{}", lasts_, next.begins_again_ ? "again " : "", next.text());
  return text;
}

std::string Schedule::own_text() const {
  switch (kind_) {
    case Kind::constant:
      return "constant";
    case Kind::steps:
      return fmt::format("steps {} {}", epochs_, number_);
    case Kind::milestones:
      return fmt::format("milestones {} by {}", fmt::join(milestones_, " "), number_);
    case Kind::exponential:
      return fmt::format("exponential {}", number_);
    case Kind::cosine:
      return fmt::format("cosine {} {}", epochs_, number_);
    case Kind::stall:
      break;
  }
  std::string text = fmt::format("stall {} {}", epochs_, number_);
  if (stall_.least > 0.0) text += fmt::format(" least {}", stall_.least);
  if (stall_.by > 0.0) text += fmt::format(" by {}", stall_.by);
  return text;
}

namespace {

std::int64_t take_epochs(Scanner& words) {
  return words.take_whole("the number of epochs", "a schedule cannot count {} epochs");
}

double take_factor(Scanner& words) {
  return words.take_number("the factor", "a number above 0 and at most 1, such as 0.5");
}

double take_rate(Scanner& words) {
  return words.take_number("the lowest rate", "a number, 0 or more");
}

StallSettings take_stall(Scanner& words) {
  StallSettings stall;
  if (words.take("least")) stall.least = take_rate(words);
  if (words.take("by")) stall.by = words.take_number("the share", "a number, such as 0.01");
  return stall;
}

Schedule take_milestones(Scanner& words) {
  std::vector<std::int64_t> epochs;
  do {
    epochs.push_back(take_epochs(words));
  } while (!words.at_end() && !words.take("by"));
  return Schedule::milestones(std::move(epochs), take_factor(words));
}

/// One of the schedules that hold together after a warm-up.
Schedule take_schedule(Scanner& words) {
  if (words.take("constant")) return Schedule::constant();
  if (words.take("milestones")) return take_milestones(words);
  if (words.take("exponential")) return Schedule::exponential(take_factor(words));
  if (words.take("cosine")) {
    const std::int64_t epochs = take_epochs(words);
    const bool has_lowest = !words.at_end() && words.next() != "and" && words.next() != "for";
    return Schedule::cosine(epochs, has_lowest ? take_rate(words) : 0.0);
  }
  const bool is_in_steps = words.take("steps");
  if (!is_in_steps && !words.take("stall")) {
    words.refuse(
        "this is not a schedule of the learning rate",
        "constant, steps EPOCHS FACTOR, milestones EPOCH … by FACTOR, exponential FACTOR, cosine "
        "EPOCHS [LOWEST] or stall EPOCHS FACTOR [least RATE] [by SHARE]; several with and between "
        "them, or in sequence with for EPOCHS then; optionally after warm-up EPOCHS then",
        "steps 10 0.5 halves it after every 10 epochs");
  }
  const std::int64_t epochs = take_epochs(words);
  const double factor = take_factor(words);
  return is_in_steps ? Schedule::steps(epochs, factor)
                     : Schedule::on_stall(epochs, factor, take_stall(words));
}

/// Schedules that hold together.
Schedule take_together(Scanner& words) {
  const auto take_at = [&](std::size_t word) {
    return words.at_word(word, [&] { return take_schedule(words); });
  };
  Schedule all = take_at(words.position());
  while (words.take("and"))
    all = all.together_with(take_at(words.position()));
  return all;
}

}  // namespace

Schedule parse_schedule(std::string_view text) {
  Scanner words(text, "the schedule");
  std::optional<std::int64_t> warm_up;
  if (words.take("warm-up")) {
    warm_up = take_epochs(words);
    words.demand("then");
  }
  Schedule rest = take_together(words);
  while (words.take("for")) {
    const std::int64_t epochs = take_epochs(words);
    words.demand("then");
    const bool begins_again = words.take("again");
    rest = rest.followed_by(take_together(words), epochs, begins_again);
  }
  if (!words.at_end()) words.refuse("this does not belong to a schedule", "the end");
  return warm_up ? rest.after_warm_up(*warm_up) : rest;
}

}  // namespace lattice
