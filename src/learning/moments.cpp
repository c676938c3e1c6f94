#include "lattice/learning/moments.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <optional>
#include <utility>

#include "lattice/text/error.hpp"
#include "text/scanner.hpp"

namespace lattice {

Moments Moments::of(Unit unit, bool is_every, std::vector<std::int64_t> numbers) {
  const auto wrong = std::ranges::find_if(numbers, [](std::int64_t number) { return number < 1; });
  if (wrong != numbers.end() || numbers.empty()) {
    throw SettingError({.what = "these are no moments of a run",
                        .expected = "numbers of epochs or steps, each 1 or more",
                        .found = numbers.empty() ? "none" : fmt::format("{}", *wrong)});
  }
  Moments moments;
  moments.choices_.push_back({.unit = unit, .is_every = is_every, .numbers = std::move(numbers)});
  return moments;
}

Moments Moments::every_epochs(std::int64_t epochs) {
  return of(Unit::epochs, true, {epochs});
}

Moments Moments::every_steps(std::int64_t steps) {
  return of(Unit::steps, true, {steps});
}

Moments Moments::at_epochs(std::vector<std::int64_t> epochs) {
  return of(Unit::epochs, false, std::move(epochs));
}

Moments Moments::at_steps(std::vector<std::int64_t> steps) {
  return of(Unit::steps, false, std::move(steps));
}

Moments Moments::and_also(const Moments& others) const {
  Moments all = *this;
  all.choices_.insert(all.choices_.end(), others.choices_.begin(), others.choices_.end());
  return all;
}

bool Moments::Choice::has(Unit of, std::int64_t number) const {
  if (of != unit) return false;
  return std::ranges::any_of(numbers, [&](std::int64_t chosen) {
    return is_every ? number > 0 && number % chosen == 0 : number == chosen;
  });
}

bool Moments::has_epoch(std::int64_t epoch) const {
  return std::ranges::any_of(choices_,
                             [&](const Choice& each) { return each.has(Unit::epochs, epoch); });
}

bool Moments::has_step(std::int64_t step) const {
  return std::ranges::any_of(choices_,
                             [&](const Choice& each) { return each.has(Unit::steps, step); });
}

std::string Moments::text() const {
  std::vector<std::string> texts;
  for (const Choice& each : choices_) {
    const char* const unit = each.unit == Unit::epochs ? "epochs" : "steps";
    texts.push_back(each.is_every ? fmt::format("every {} {}", each.numbers.front(), unit)
                                  : fmt::format("{} {}", unit, fmt::join(each.numbers, ", ")));
  }
  return texts.empty() ? "none" : fmt::format("{}", fmt::join(texts, " and "));
}

namespace {

std::int64_t take_moment(Scanner& words) {
  return words.take_whole("the epoch or step", "there is no moment {}");
}

}  // namespace

Moments parse_moments(std::string_view text) {
  Scanner words(text, "the choice of moments");
  if (words.take("none") && words.at_end()) return {};
  const auto take_unit = [&]() -> std::optional<Moments::Unit> {
    if (words.take("epochs") || words.take("epoch")) return Moments::Unit::epochs;
    if (words.take("steps") || words.take("step")) return Moments::Unit::steps;
    return std::nullopt;
  };
  constexpr const char* allowed =
      "every 5 epochs, every 500 steps, epochs 1, 2, 20 or steps 100, 500; several with and "
      "between them; or none";
  Moments all;
  do {
    if (words.take("every")) {
      const std::int64_t number = take_moment(words);
      const std::optional<Moments::Unit> unit = take_unit();
      if (!unit) words.refuse("it is not said of what", "epochs or steps");
      all = all.and_also(Moments::of(*unit, true, {number}));
      continue;
    }
    const std::optional<Moments::Unit> unit = take_unit();
    if (!unit) words.refuse("these are no moments of a run", allowed);
    std::vector<std::int64_t> numbers;
    do {
      numbers.push_back(take_moment(words));
    } while (words.take(",") || (!words.at_end() && words.next() != "and"));
    all = all.and_also(Moments::of(*unit, false, std::move(numbers)));
  } while (words.take("and"));
  if (!words.at_end()) words.refuse("this does not belong to a choice of moments", "the end");
  return all;
}

}  // namespace lattice
