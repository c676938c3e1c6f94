#include "lattice/data/split.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <numeric>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

using Rows = std::vector<std::int64_t>;

/// Of all rows, for train, validation and test.
using Shares = std::array<double, 3>;

/// From 2 on, what is asked for is a number of rows.
bool is_count(double amount) {
  return amount > 1.0;
}

bool has_counts(const SplitSettings& settings) {
  return std::ranges::any_of(all_data_parts, [&](DataPart part) {
    return settings[part].has_value() && is_count(*settings[part]);
  });
}

/// A share of so many rows. @throws SettingError for what cannot be one.
double share_of(double amount, DataPart part, std::int64_t rows) {
  const bool is_share = amount >= 0.0 && amount <= 1.0;
  const bool is_number = std::isfinite(amount) && is_count(amount) && amount == std::rint(amount);
  if (!is_share && !is_number) {
    throw SettingError(
        {.what = fmt::format("the {} part cannot have this share of the rows", word(part)),
         .expected = "a share from 0 to 1, such as 0.2, or a number of rows from 2",
         .found = format_number(amount)});
  }
  if (is_share) return amount;
  if (amount > static_cast<double>(rows)) {
    throw SettingError({.what = fmt::format("the {} part cannot have so many rows", word(part)),
                        .expected = fmt::format("at most {}", rows),
                        .found = format_number(amount)});
  }
  return amount / static_cast<double>(rows);
}

/// As one would write it: 0.6, and not what is left of 1 after two roundings.
double as_written(double share) {
  constexpr double digits = 1e12;
  return std::round(share * digits) / digits;
}

/// Shares with those left out filled in, whether or not they can be.
Shares filled_in(const std::array<std::optional<double>, 3>& shares) {
  constexpr double usual = 0.2;
  const auto& [train, validation, test] = shares;
  if (!train) {
    const double rest = 1.0 - validation.value_or(usual) - test.value_or(usual);
    return {as_written(std::max(0.0, rest)), validation.value_or(usual), test.value_or(usual)};
  }
  double left = std::max(0.0, 1.0 - *train - validation.value_or(0.0) - test.value_or(0.0));
  if (as_written(left) == 0.0) left = 0.0;
  const double each = validation || test ? left : left / 2.0;
  return {*train, validation.value_or(each), test.value_or(each)};
}

/// The shares of so many rows. @throws SettingError when they cannot be.
/// @param may_have_no_train whether the train part comes from elsewhere
Shares shares_of(const SplitSettings& settings, std::int64_t rows, bool may_have_no_train = false) {
  std::array<std::optional<double>, 3> told;
  for (const DataPart part : all_data_parts) {
    if (settings[part])
      told.at(static_cast<std::size_t>(part)) = share_of(*settings[part], part, rows);
  }
  const Shares shares = filled_in(told);
  const auto [train, validation, test] = shares;
  const double total = train + validation + test;
  if (total > 1.0 + 1e-9) {
    std::vector<std::string> parts;
    parts.reserve(all_data_parts.size());
    for (const DataPart part : all_data_parts)
      parts.push_back(
          format_number(settings[part].value_or(shares.at(static_cast<std::size_t>(part)))));
    const bool in_rows = has_counts(settings);
    throw SettingError(
        {.what = in_rows ? fmt::format("the parts add up to more than {} rows", rows)
                         : "the shares add up to more than 1",
         .expected = in_rows ? "parts that add up to the rows there are, or to fewer"
                             : "shares that add up to 1 or less",
         .found = in_rows ? fmt::format("{}", fmt::join(parts, " + "))
                          : fmt::format("{} = {}", fmt::join(parts, " + "), format_number(total))});
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

/// Deals out rows that come class by class, so that each part gets its exact number of all of them,
/// and about its share of each class: a row goes to the part that is farthest behind its share.
void deal_exactly(const std::vector<Rows>& by_class, const Shares& shares, std::int64_t rows,
                  SplitRows& to) {
  const auto [train, validation, test] = borders(rows, shares);
  const std::array<std::int64_t, 4> wanted = {train, validation - train, test - validation,
                                              rows - test};
  std::array<std::int64_t, 4> dealt = {};
  Rows left_over;
  const std::array<Rows*, 4> parts = {&to.train, &to.validation, &to.test, &left_over};
  std::int64_t so_far = 0;
  for (const Rows& of_class : by_class) {
    for (const std::int64_t row : of_class) {
      ++so_far;
      // What is wanted of so many, in units of 1 / rows, less what was dealt.
      const auto behind = [&](std::size_t part) {
        return wanted.at(part) * so_far - dealt.at(part) * rows;
      };
      std::size_t farthest = 0;
      for (std::size_t part = 1; part < wanted.size(); ++part) {
        if (behind(part) > behind(farthest)) farthest = part;
      }
      ++dealt.at(farthest);
      parts.at(farthest)->push_back(row);
    }
  }
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

namespace {

/// Whether the train part is the known rows, instead of a share.
bool learns_from_known(const Dataset& data, const SplitSettings& settings) {
  return settings.known || !data.known.empty();
}

/// The settings for the rows that are in no fixed part; those of known rows without a train part.
SplitSettings for_other_rows(const Dataset& data, const SplitSettings& settings) {
  SplitSettings others = settings;
  for (const FixedPart& fixed : data.fixed_parts)
    others[fixed.part] = 0.0;
  if (!learns_from_known(data, settings)) return others;
  if (settings.train) {
    throw SettingError(
        {.what = "training uses the known labels",
         .expected = "no share for training where labels are known",
         .found = format_number(*settings.train),
         .remedy = "leave train out; validation and test are shares of the other rows"});
  }
  others.train = 0.0;
  if (!others.validation) others.validation = 0.0;
  return others;
}

}  // namespace

const Rows& SplitRows::operator[](DataPart part) const {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

Rows& SplitRows::operator[](DataPart part) {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

std::optional<double>& SplitSettings::operator[](DataPart part) {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

const std::optional<double>& SplitSettings::operator[](DataPart part) const {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

const RowSet& Split::operator[](DataPart part) const {
  return part == DataPart::train ? train : part == DataPart::validation ? validation : test;
}

SplitRows split_rows(std::int64_t rows, const SplitSettings& settings, Random& random) {
  const Shares shares = shares_of(settings, rows);
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
  const Shares shares = shares_of(settings, classes.count());
  // Rows are drawn before they are sorted by class, so that parts stay in random order.
  const Rows order = in_order(classes.count(), settings, random);
  std::vector<Rows> by_class;
  for (const std::int64_t row : order) {
    const auto number = static_cast<std::size_t>(classes.at_offset(row));
    by_class.resize(std::max(by_class.size(), number + 1));
    by_class[number].push_back(row);
  }
  SplitRows dealt;
  if (has_counts(settings)) {
    deal_exactly(by_class, shares, classes.count(), dealt);
  } else {
    for (const Rows& rows : by_class)
      deal(rows, shares, dealt);
  }
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

/// The rows that are dealt out: those with a truth, in no fixed part.
Rows rows_to_deal(const Dataset& data) {
  std::vector<bool> is_fixed(static_cast<std::size_t>(data.rows()));
  for (const FixedPart& fixed : data.fixed_parts) {
    for (const std::int64_t row : fixed.rows) {
      const bool exists = row >= 0 && row < data.rows();
      if (exists && !is_fixed[static_cast<std::size_t>(row)]) {
        is_fixed[static_cast<std::size_t>(row)] = true;
        continue;
      }
      throw IndexError(
          {.what = fmt::format("row {} cannot be fixed to the {} part", row, word(fixed.part)),
           .where = data.name,
           .expected = fmt::format("0 to {}, each in one part", data.rows() - 1),
           .found = exists ? "a row that is fixed already" : fmt::format("{}", row)});
    }
  }
  Rows rows;
  rows.reserve(static_cast<std::size_t>(data.rows()));
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    if (data.has_truth(row) && !is_fixed[static_cast<std::size_t>(row)]) rows.push_back(row);
  }
  return rows;
}

/// The rows of a fixed part: all, or as many as a setting says, drawn.
Rows drawn_of(const FixedPart& fixed, const Dataset& data, const SplitSettings& settings,
              Random& random) {
  Rows rows = fixed.rows;
  std::erase_if(rows, [&](std::int64_t row) { return !data.has_truth(row); });
  if (!settings[fixed.part]) return rows;
  Shares shares = {};
  shares.at(static_cast<std::size_t>(fixed.part)) =
      share_of(*settings[fixed.part], fixed.part, std::ssize(rows));
  SplitRows dealt;
  deal(in_order(std::ssize(rows), settings, random), shares, dealt);
  check_dealt(dealt, shares, std::ssize(rows));
  Rows drawn = dealt[fixed.part];
  for (std::int64_t& row : drawn)
    row = rows[static_cast<std::size_t>(row)];
  std::ranges::sort(drawn);
  return drawn;
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

namespace {

SplitRows split_by_shares(const Dataset& data, const SplitSettings& settings, const Rows& rows,
                          Random& random) {
  SplitRows dealt = data.has_classes() ? split_rows(data.classes.rows(rows), settings, random)
                                       : split_rows(std::ssize(rows), settings, random);
  for (const DataPart part : all_data_parts) {
    for (std::int64_t& row : dealt[part])
      row = rows[static_cast<std::size_t>(row)];
  }
  return dealt;
}

SplitRows split_by_known(const Dataset& data, const SplitSettings& settings, const Rows& rows,
                         Random& random) {
  Rows order = in_order(data.rows(), settings, random);
  std::erase_if(order, [&](std::int64_t row) { return !std::ranges::binary_search(rows, row); });
  SplitRows dealt;
  dealt.train = settings.known ? first_of_each_class(data, order, *settings.known) : data.known;
  std::ranges::sort(dealt.train);
  std::erase_if(dealt.train,
                [&](std::int64_t row) { return !std::ranges::binary_search(rows, row); });
  Rows others;
  for (const std::int64_t row : order) {
    if (!std::ranges::binary_search(dealt.train, row)) others.push_back(row);
  }
  const Shares shares = shares_of(settings, std::ssize(others), true);
  deal(others, shares, dealt);
  check_dealt(dealt, shares, std::ssize(others));
  return dealt;
}

}  // namespace

SplitRows split_rows(const Dataset& data, const SplitSettings& settings, Random& random) {
  const Rows rows = rows_to_deal(data);
  const SplitSettings of_others = for_other_rows(data, settings);
  SplitRows dealt = learns_from_known(data, settings)
                        ? split_by_known(data, of_others, rows, random)
                        : split_by_shares(data, of_others, rows, random);
  for (const FixedPart& fixed : data.fixed_parts)
    dealt[fixed.part] = drawn_of(fixed, data, settings, random);
  return dealt;
}

SplitSettings in_full(const Dataset& data, const SplitSettings& settings) {
  const bool by_known = learns_from_known(data, settings);
  std::int64_t rows = std::ssize(rows_to_deal(data));
  if (by_known)
    rows -= settings.known ? *settings.known * data.class_count() : std::ssize(data.known);
  const Shares shares = shares_of(for_other_rows(data, settings), rows, by_known);
  SplitSettings full = settings;
  for (const DataPart part : all_data_parts) {
    const bool is_elsewhere =
        data.fixed_part(part) != nullptr || (by_known && part == DataPart::train);
    if (full[part] || is_elsewhere) continue;
    const double share = shares.at(static_cast<std::size_t>(part));
    const double count = std::round(share * static_cast<double>(rows));
    full[part] = has_counts(settings) && is_count(count) ? count : share;
  }
  return full;
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
      const std::int64_t chunk = chunk_of(split.data().example().count());
      for (std::int64_t from = 0; from < count; from += chunk)
        meet(part_of(split.train.from(from, std::min(chunk, count - from))));
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
