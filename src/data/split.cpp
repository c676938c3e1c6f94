#include "lattice/data/split.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "lattice/tensor/error.hpp"
#include "lattice/tensor/numbers.hpp"

namespace lattice {
namespace {

using Rows = std::vector<std::int64_t>;

void check(const SplitSettings& settings) {
  const std::array shares = {settings.train, settings.validation, settings.test};
  for (std::size_t part = 0; part < shares.size(); ++part) {
    const double share = shares.at(part);
    if (std::isfinite(share) && share >= 0.0 && share <= 1.0) continue;
    throw SettingError({.what = fmt::format("the {} part cannot have this share of the rows",
                                            word(all_data_parts.at(part))),
                        .expected = "a number from 0 to 1, such as 0.2",
                        .found = format_number(share)});
  }
  const double total = settings.train + settings.validation + settings.test;
  if (total > 1.0 + 1e-9) {
    throw SettingError({.what = "the parts together are more than the whole",
                        .expected = "shares that add up to 1 or less",
                        .found = fmt::format("{} + {} + {} = {}", format_number(settings.train),
                                             format_number(settings.validation),
                                             format_number(settings.test), format_number(total))});
  }
  if (settings.train == 0.0) {
    throw SettingError({.what = "there is no train part",
                        .expected = "a share above 0 to learn from",
                        .found = "0"});
  }
}

/// How many of `rows` the first parts get together: the borders between the parts.
std::array<std::int64_t, 3> borders(std::int64_t rows, const SplitSettings& settings) {
  const auto at = [&](double share) {
    return std::min(rows,
                    static_cast<std::int64_t>(std::llround(share * static_cast<double>(rows))));
  };
  const double two = settings.train + settings.validation;
  return {at(settings.train), at(two), at(two + settings.test)};
}

/// Deals out some rows, which are in the order in which they are dealt.
void deal(const Rows& order, const SplitSettings& settings, PartRows& to) {
  const auto [train, validation, test] = borders(std::ssize(order), settings);
  const auto begin = order.begin();
  to.train.insert(to.train.end(), begin, begin + train);
  to.validation.insert(to.validation.end(), begin + train, begin + validation);
  to.test.insert(to.test.end(), begin + validation, begin + test);
}

void check_dealt(const PartRows& dealt, const SplitSettings& settings, std::int64_t rows) {
  const std::array shares = {settings.train, settings.validation, settings.test};
  for (const DataPart part : all_data_parts) {
    const double share = shares.at(static_cast<std::size_t>(part));
    if (share == 0.0 || !dealt[part].empty()) continue;
    throw SettingError({.what = fmt::format("the {} part would get no row", word(part)),
                        .expected = fmt::format("a share of {} rows that makes at least one", rows),
                        .found = format_number(share),
                        .remedy = fmt::format("more rows, or a {} part of 0", word(part))});
  }
}

Rows in_order(std::int64_t rows, const SplitSettings& settings, Random& random) {
  if (settings.shuffled) return random.shuffled(rows);
  Rows order(static_cast<std::size_t>(rows));
  std::iota(order.begin(), order.end(), 0);
  return order;
}

}  // namespace

std::string_view word(DataPart part) {
  switch (part) {
    case DataPart::train:
      return "train";
    case DataPart::validation:
      return "validation";
    case DataPart::test:
      return "test";
  }
  return "";
}

const Rows& PartRows::operator[](DataPart part) const {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

const Dataset& Parts::operator[](DataPart part) const {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

PartRows split_rows(std::int64_t rows, const SplitSettings& settings, Random& random) {
  check(settings);
  if (settings.stratified) {
    throw SettingError({.what = "stratified parts need classes",
                        .expected = "a class for each row",
                        .found = "numbers to predict",
                        .remedy = "leave stratified out"});
  }
  PartRows dealt;
  deal(in_order(rows, settings, random), settings, dealt);
  check_dealt(dealt, settings, rows);
  return dealt;
}

PartRows split_rows(const Tensor& classes, const SplitSettings& settings, Random& random) {
  if (!settings.stratified) return split_rows(classes.count(), settings, random);
  check(settings);
  // Rows are drawn before they are sorted by class, so that parts stay in random order.
  const Rows order = in_order(classes.count(), settings, random);
  std::vector<Rows> by_class;
  for (const std::int64_t row : order) {
    const auto number = static_cast<std::size_t>(classes.at_offset(row));
    by_class.resize(std::max(by_class.size(), number + 1));
    by_class[number].push_back(row);
  }
  PartRows dealt;
  for (const Rows& rows : by_class)
    deal(rows, settings, dealt);
  check_dealt(dealt, settings, classes.count());
  if (settings.shuffled) {
    Rows place(static_cast<std::size_t>(classes.count()));
    for (std::size_t at = 0; at < order.size(); ++at)
      place[static_cast<std::size_t>(order[at])] = static_cast<std::int64_t>(at);
    const auto drawn_earlier = [&](std::int64_t row) {
      return place[static_cast<std::size_t>(row)];
    };
    for (Rows* rows : {&dealt.train, &dealt.validation, &dealt.test})
      std::ranges::sort(*rows, {}, drawn_earlier);
  } else {
    for (Rows* rows : {&dealt.train, &dealt.validation, &dealt.test})
      std::ranges::sort(*rows);
  }
  return dealt;
}

Parts split(const Dataset& data, const SplitSettings& settings, Random& random) {
  PartRows rows = data.has_classes() ? split_rows(data.classes, settings, random)
                                     : split_rows(data.rows(), settings, random);
  const auto part = [&](const Rows& of_part) {
    if (!of_part.empty()) return data.taking(of_part);
    Dataset none = data;
    none.features = none.targets = none.classes = Tensor();
    return none;
  };
  Parts parts{
      .train = part(rows.train), .validation = part(rows.validation), .test = part(rows.test)};
  parts.rows = std::move(rows);
  return parts;
}

Parts scaled(const Parts& parts, ScalingKind features, ScalingKind targets) {
  const std::optional<Scaling> of_features = fit_scaling(features, parts.train.features);
  const std::optional<Scaling> of_targets =
      parts.train.has_classes() ? std::nullopt : fit_scaling(targets, parts.train.targets);
  Parts result = parts;
  for (Dataset* part : {&result.train, &result.validation, &result.test}) {
    if (!part->features.empty()) *part = part->scaled_with(of_features, of_targets);
  }
  return result;
}

}  // namespace lattice
