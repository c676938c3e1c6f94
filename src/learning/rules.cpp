#include "lattice/learning/rules.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice {
namespace {

void check_rate(double rate) {
  if (std::isfinite(rate) && rate > 0.0) return;
  throw SettingError({.what = "this learning rate cannot be used",
                      .expected = "a number above 0, such as 0.01",
                      .found = format_number(rate)});
}

void check_decay(double weight_decay) {
  if (std::isfinite(weight_decay) && weight_decay >= 0.0) return;
  throw SettingError({.what = "weights cannot decay by this much",
                      .expected = "0 or more, such as 0.001",
                      .found = format_number(weight_decay)});
}

void check_decay(std::string_view name, double decay) {
  if (decay >= 0.0 && decay < 1.0) return;
  throw SettingError({.what = fmt::format("{} is out of range", name),
                      .expected = "0 or more, and below 1",
                      .found = format_number(decay)});
}

void check_epsilon(double epsilon) {
  if (std::isfinite(epsilon) && epsilon > 0.0) return;
  throw SettingError({.what = "epsilon has to keep a divisor above 0",
                      .expected = "a small number above 0, such as 1e-8",
                      .found = format_number(epsilon)});
}

}  // namespace

template void update(Descent&, Weights&, Gradients, double);
template void update(Momentum&, Weights&, Gradients, double);
template void update(RmsScaling&, Weights&, Gradients, double);
template void update(Adam&, Weights&, Gradients, double);

template UpdateRule::UpdateRule(Descent);
template UpdateRule::UpdateRule(Momentum);
template UpdateRule::UpdateRule(RmsScaling);
template UpdateRule::UpdateRule(Adam);

void Descent::check() const {
  check_rate(rate);
  check_decay(weight_decay);
  check_decay(gradient_decay);
}

void Momentum::check() const {
  check_rate(rate);
  check_decay("momentum", momentum);
  check_decay(weight_decay);
  check_decay(gradient_decay);
}

void RmsScaling::check() const {
  check_rate(rate);
  check_decay("decay", decay);
  check_epsilon(epsilon);
  check_decay(weight_decay);
  check_decay(gradient_decay);
}

void Adam::check() const {
  check_rate(rate);
  check_decay("beta_1", beta_1);
  check_decay("beta_2", beta_2);
  check_epsilon(epsilon);
  check_decay(weight_decay);
  check_decay(gradient_decay);
}

UpdateRule rule_called(std::string_view word) {
  const std::vector<UpdateRule> rules = {Descent{}, Momentum{}, RmsScaling{}, Adam{}};
  const auto found = std::ranges::find(rules, word, &UpdateRule::word);
  if (found != rules.end()) return *found;
  std::vector<std::string> words(rules.size());
  std::ranges::transform(rules, words.begin(), &UpdateRule::word);
  throw NameError(not_among(fmt::format("there is no update rule '{}'", word), word, words));
}

}  // namespace lattice
