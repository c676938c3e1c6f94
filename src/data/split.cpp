#include "lattice/data/split.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numeric>
#include <tuple>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

using Rows = std::vector<std::int64_t>;

using Shares = std::array<double, 3>;

/// The shares, when they can be. @throws SettingError when they cannot.
/// @param may_have_no_train whether the train part comes from elsewhere
Shares checked_shares(const Shares& shares, bool may_have_no_train = false) {
  const auto [train, validation, test] = shares;
  for (std::size_t part = 0; part < shares.size(); ++part) {
    const double share = shares.at(part);
    if (std::isfinite(share) && share >= 0.0 && share <= 1.0) continue;
    throw SettingError({.what = fmt::format("the {} part cannot have this share of the rows",
                                            word(all_data_parts.at(part))),
                        .expected = "a number from 0 to 1, such as 0.2",
                        .found = format_number(share)});
  }
  const double total = train + validation + test;
  if (total > 1.0 + 1e-9) {
    throw SettingError(
        {.what = "the shares add up to more than 1",
         .expected = "shares that add up to 1 or less",
         .found = fmt::format("{} + {} + {} = {}", format_number(train), format_number(validation),
                              format_number(test), format_number(total))});
  }
  if (train == 0.0 && !may_have_no_train) {
    throw SettingError({.what = "there is no train part",
                        .expected = "a share above 0 for training",
                        .found = "0"});
  }
  return shares;
}

/// How many of `rows` the first parts get together: the borders between the parts.
std::array<std::int64_t, 3> borders(std::int64_t rows, const Shares& shares) {
  const auto at = [&](double share) {
    return std::min(rows,
                    static_cast<std::int64_t>(std::llround(share * static_cast<double>(rows))));
  };
  const auto [train, validation, test] = shares;
  return {at(train), at(train + validation), at(train + validation + test)};
}

/// Deals out some rows, which are in the order in which they are dealt.
void deal(const Rows& order, const Shares& shares, SplitRows& to) {
  const auto [train, validation, test] = borders(std::ssize(order), shares);
  const auto begin = order.begin();
  to.train.insert(to.train.end(), begin, begin + train);
  to.validation.insert(to.validation.end(), begin + train, begin + validation);
  to.test.insert(to.test.end(), begin + validation, begin + test);
}

void check_dealt(const SplitRows& dealt, const Shares& shares, std::int64_t rows) {
  for (const DataPart part : all_data_parts) {
    const double share = shares.at(static_cast<std::size_t>(part));
    if (share == 0.0 || !dealt[part].empty()) continue;
    throw SettingError(
        {.what = fmt::format("the {} part would get no row", word(part)),
         .expected = fmt::format("a share of {} that makes at least one", counted(rows, "row")),
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

std::array<double, 3> part_shares(const SplitSettings& settings) {
  constexpr double usual = 0.2;
  const auto& [train, validation, test] =
      std::tie(settings.train, settings.validation, settings.test);
  if (!train) {
    // As one would write it: 0.6, and not what is left of 1 after two roundings.
    constexpr double digits = 1e12;
    const double rest = 1.0 - validation.value_or(usual) - test.value_or(usual);
    return {std::round(std::max(0.0, rest) * digits) / digits, validation.value_or(usual),
            test.value_or(usual)};
  }
  const double left = std::max(0.0, 1.0 - *train - validation.value_or(0.0) - test.value_or(0.0));
  const double each = validation || test ? left : left / 2.0;
  return {*train, validation.value_or(each), test.value_or(each)};
}

bool learns_from_known(const Dataset& data, const SplitSettings& settings) {
  return settings.known || !data.known.empty();
}

std::array<double, 3> part_shares(const Dataset& data, const SplitSettings& settings) {
  if (!learns_from_known(data, settings)) return part_shares(settings);
  if (settings.train) {
    throw SettingError(
        {.what = "training uses the known labels",
         .expected = "no share for training where labels are known",
         .found = format_number(*settings.train),
         .remedy = "leave train out; validation and test are shares of the other rows"});
  }
  const double validation = settings.validation.value_or(0.0);
  return {0.0, validation, settings.test.value_or(1.0 - validation)};
}

const Rows& SplitRows::operator[](DataPart part) const {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

const RowSet& Split::operator[](DataPart part) const {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

SplitRows split_rows(std::int64_t rows, const SplitSettings& settings, Random& random) {
  const Shares shares = checked_shares(part_shares(settings));
  if (settings.stratified) {
    throw SettingError({.what = "stratified parts need classes",
                        .expected = "a class for each row",
                        .found = "numbers to predict",
                        .remedy = "leave stratified out"});
  }
  SplitRows dealt;
  deal(in_order(rows, settings, random), shares, dealt);
  check_dealt(dealt, shares, rows);
  return dealt;
}

SplitRows split_rows(const Tensor& classes, const SplitSettings& settings, Random& random) {
  if (!settings.stratified) return split_rows(classes.count(), settings, random);
  const Shares shares = checked_shares(part_shares(settings));
  // Rows are drawn before they are sorted by class, so that parts stay in random order.
  const Rows order = in_order(classes.count(), settings, random);
  std::vector<Rows> by_class;
  for (const std::int64_t row : order) {
    const auto number = static_cast<std::size_t>(classes.at_offset(row));
    by_class.resize(std::max(by_class.size(), number + 1));
    by_class[number].push_back(row);
  }
  SplitRows dealt;
  for (const Rows& rows : by_class)
    deal(rows, shares, dealt);
  check_dealt(dealt, shares, classes.count());
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

namespace {

Rows rows_with_truth(const Dataset& data) {
  Rows rows;
  rows.reserve(static_cast<std::size_t>(data.rows()));
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    if (data.has_truth(row)) rows.push_back(row);
  }
  return rows;
}

/// The first so many rows of each class that come in an order.
Rows first_of_each_class(const Dataset& data, const Rows& order, std::int64_t count) {
  if (count < 1 || !data.has_classes()) {
    throw SettingError({.what = "the number of known rows per class is not possible",
                        .expected = "1 or more, for a target of classes",
                        .found = count < 1 ? fmt::format("{}", count) : "a numeric target"});
  }
  std::vector<std::int64_t> left(static_cast<std::size_t>(data.class_count()), count);
  Rows known;
  for (const std::int64_t row : order) {
    std::int64_t& of_class = left[static_cast<std::size_t>(data.classes.at_offset(row))];
    if (of_class == 0) continue;
    --of_class;
    known.push_back(row);
  }
  const auto short_of = std::ranges::find_if(left, [](std::int64_t more) { return more > 0; });
  if (short_of != left.end()) {
    throw SettingError({.what = fmt::format("there are not {} rows of each class", count),
                        .expected = fmt::format("at most {} of {}", count - *short_of,
                                                data.class_name(short_of - left.begin())),
                        .found = fmt::format("{}", count)});
  }
  return known;
}

}  // namespace

SplitRows split_rows(const Dataset& data, const SplitSettings& settings, Random& random) {
  if (!learns_from_known(data, settings)) {
    const Rows rows = rows_with_truth(data);
    SplitRows dealt = data.has_classes() ? split_rows(data.classes.rows(rows), settings, random)
                                         : split_rows(std::ssize(rows), settings, random);
    for (Rows* const part : {&dealt.train, &dealt.validation, &dealt.test}) {
      for (std::int64_t& row : *part)
        row = rows[static_cast<std::size_t>(row)];
    }
    return dealt;
  }
  const Shares shares = checked_shares(part_shares(data, settings), true);
  Rows order = in_order(data.rows(), settings, random);
  std::erase_if(order, [&](std::int64_t row) { return !data.has_truth(row); });
  SplitRows dealt;
  dealt.train = settings.known ? first_of_each_class(data, order, *settings.known) : data.known;
  std::ranges::sort(dealt.train);
  Rows others;
  for (const std::int64_t row : order) {
    if (!std::ranges::binary_search(dealt.train, row)) others.push_back(row);
  }
  deal(others, shares, dealt);
  check_dealt(dealt, shares, std::ssize(others));
  return dealt;
}

namespace {

/// The parts of a dataset that has the rows of another.
Split with_data(const RowSet& whole, const Split& split) {
  return {.train = whole.taking(split.train.rows()),
          .validation = whole.taking(split.validation.rows()),
          .test = whole.taking(split.test.rows())};
}

}  // namespace

Split Split::as_measured() const {
  return with_data(data().as_measured(), *this);
}

Split split(const Dataset& data, const SplitSettings& settings, Random& random) {
  const SplitRows rows = split_rows(data, settings, random);
  const RowSet whole = data;
  return {.train = whole.taking(rows.train),
          .validation = whole.taking(rows.validation),
          .test = whole.taking(rows.test)};
}

DataPart last_part(const Split& split) {
  const auto last = std::find_if(all_data_parts.rbegin(), all_data_parts.rend(),
                                 [&](DataPart part) { return split.has(part); });
  return *last;
}

Dataset known_by_split(const Split& split) {
  Dataset data = split.data();
  data.known = split.train.rows();
  std::ranges::sort(data.known);
  return data;
}

Split folded(const Split& split, Fold fold) {
  Rows rows = split.train.rows();
  const Rows& more = split.validation.rows();
  rows.insert(rows.end(), more.begin(), more.end());
  if (fold.count < 2 || fold.count > std::ssize(rows)) {
    throw SettingError(
        {.what = fmt::format("{} rows cannot be dealt into {} folds", rows.size(), fold.count),
         .expected = fmt::format("2 to {} folds", rows.size()),
         .found = fmt::format("{}", fold.count)});
  }
  if (fold.number < 0 || fold.number >= fold.count) {
    throw SettingError({.what = fmt::format("there is no fold {}", fold.number),
                        .expected = fmt::format("0 to {}", fold.count - 1),
                        .found = fmt::format("{}", fold.number)});
  }
  const RowSet whole = split.data();
  Rows to_learn;
  Rows to_validate;
  for (std::size_t at = 0; at < rows.size(); ++at) {
    const bool is_in_fold = static_cast<std::int64_t>(at) % fold.count == fold.number;
    (is_in_fold ? to_validate : to_learn).push_back(rows[at]);
  }
  return {
      .train = whole.taking(to_learn), .validation = whole.taking(to_validate), .test = split.test};
}

Split prepared(const Split& split, const std::vector<ScalingSettings>& features,
               const std::vector<ScalingSettings>& targets) {
  // A chunk of rows at a time, so that no second copy of all of them is made.
  const auto each_rows = [&](auto part_of) {
    return [&split, part_of](const std::function<void(const Tensor&)>& meet) {
      const std::int64_t count = split.train.count();
      for (std::int64_t from = 0; from < count; from += usual_chunk)
        meet(part_of(split.train.from(from, std::min(usual_chunk, count - from))));
    };
  };
  const Preparation of_features =
      fit(features, each_rows([](const Batch& batch) { return batch.of_rows(batch.features); }));
  const Preparation of_targets =
      split.data().has_classes() ? Preparation() : fit(targets, each_rows([](const Batch& batch) {
                                                         return batch.of_rows(batch.targets);
                                                       }));
  return with_data(split.data().prepared_by(of_features, of_targets), split);
}

Split scaled(const Split& split, ScalingKind features, ScalingKind targets) {
  return prepared(split, {{.kind = features}}, {{.kind = targets}});
}

}  // namespace lattice
