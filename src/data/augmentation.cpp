#include "lattice/data/augmentation.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace {

void check(const Augmentation& how) {
  const auto refuse = [](const std::string& what, const std::string& expected,
                         const std::string& found) {
    throw SettingError({.what = what, .expected = expected, .found = found});
  };
  for (const std::int64_t most : {how.most_down, how.most_right}) {
    if (most >= 0 && most <= farthest_move) continue;
    refuse("pictures cannot be shifted by up to so much",
           fmt::format("0 to {}: they go either way", farthest_move), fmt::format("{}", most));
  }
  if (!(how.most_degrees >= 0.0) || how.most_degrees > 180.0) {
    refuse("pictures cannot be turned by up to so much", "0 to 180 degrees: they turn either way",
           format_number(how.most_degrees));
  }
  if (!(how.brightness >= 0.0) || how.brightness >= 1.0) {
    refuse("pictures cannot change their brightness by up to so much", "0 or more, and below 1",
           format_number(how.brightness));
  }
  if (!std::isfinite(how.around.number().value_or(0.0))) {
    refuse("pictures cannot be filled with this", "a number", format_number(*how.around.number()));
  }
}

/// Reads the words of an augmentation one by one.
class AugmentationWords {
 public:
  explicit AugmentationWords(std::string_view text) : text_(text) {
    for (std::size_t at = 0; at < text.size();) {
      const std::size_t end = std::min(text.find_first_of(" ,", at), text.size());
      if (end > at) words_.push_back(text.substr(at, end - at));
      if (end < text.size() && text[end] == ',') words_.push_back(text.substr(end, 1));
      at = end + 1;
    }
  }

  bool take(std::string_view word) {
    if (next_ == words_.size() || words_[next_] != word) return false;
    ++next_;
    return true;
  }

  double take_number() {
    const std::optional<double> number =
        next_ < words_.size() ? parse_number(words_[next_]) : std::nullopt;
    if (!number) refuse();
    ++next_;
    return *number;
  }

  /// `2`, or `2x1`.
  std::pair<std::int64_t, std::int64_t> take_rows_and_columns() {
    if (next_ == words_.size()) refuse();
    const std::string_view word = words_[next_];
    const std::size_t between = word.find('x');
    const auto rows = parse_whole_number(word.substr(0, between));
    const auto columns =
        between == std::string_view::npos ? rows : parse_whole_number(word.substr(between + 1));
    if (!rows || !columns) refuse();
    ++next_;
    return {*rows, *columns};
  }

  [[nodiscard]] bool at_end() const { return next_ == words_.size(); }

  [[noreturn]] void refuse() const {
    throw SettingError(
        {.what = fmt::format("'{}' is not a way to move pictures about", text_),
         .expected = "none, or one or more of shift N, shift ROWSxCOLUMNS (each "
                     "with: filled with NUMBER), flip across, flip down, turn "
                     "DEGREES and brightness SHARE, with commas between them",
         .found = next_ < words_.size() ? fmt::format("'{}'", words_[next_]) : "the end",
         .remedy = "shift 2, flip across"});
  }

 private:
  std::string_view text_;
  std::vector<std::string_view> words_;
  std::size_t next_ = 0;
};

/// A whole number from −most to most, each as likely as the others.
std::int64_t either_way(Random& random, std::int64_t most) {
  return random.below(2 * most + 1) - most;
}

/// All is drawn for every picture, whether it is wanted or not: one more way to be moved leaves the
/// others as they were.
PictureMove drawn(const Augmentation& how, Random random) {
  PictureMove move;
  move.down = either_way(random, how.most_down);
  move.right = either_way(random, how.most_right);
  move.flips_across = random.below(2) == 1 && how.flips_across;
  move.flips_down = random.below(2) == 1 && how.flips_down;
  move.degrees = how.most_degrees * random.uniform(-1.0, 1.0);
  move.brightness = 1.0 + how.brightness * random.uniform(-1.0, 1.0);
  return move;
}

}  // namespace

bool Augmentation::empty() const {
  return most_down == 0 && most_right == 0 && !flips_across && !flips_down && most_degrees == 0.0 &&
         brightness == 0.0;
}

std::string text(const Augmentation& augmentation) {
  std::vector<std::string> words;
  if (augmentation.most_down != 0 || augmentation.most_right != 0) {
    const bool is_square = augmentation.most_down == augmentation.most_right;
    words.push_back(
        is_square ? fmt::format("shift {}", augmentation.most_down)
                  : fmt::format("shift {}x{}", augmentation.most_down, augmentation.most_right));
  }
  if (augmentation.flips_across) words.emplace_back("flip across");
  if (augmentation.flips_down) words.emplace_back("flip down");
  if (augmentation.most_degrees != 0.0)
    words.push_back(fmt::format("turn {}", augmentation.most_degrees));
  if (augmentation.brightness != 0.0)
    words.push_back(fmt::format("brightness {}", augmentation.brightness));
  if (words.empty()) return "none";
  if (const std::optional<double>& number = augmentation.around.number())
    words.front() += fmt::format(" filled with {}", *number);
  return fmt::format("{}", fmt::join(words, ", "));
}

Augmentation parse_augmentation(std::string_view text) {
  AugmentationWords words(text);
  Augmentation how;
  if (words.take("none")) {
    if (!words.at_end()) words.refuse();
    return how;
  }
  do {
    if (words.take("shift")) {
      std::tie(how.most_down, how.most_right) = words.take_rows_and_columns();
    } else if (words.take("flip")) {
      const bool is_across = words.take("across");
      if (!is_across && !words.take("down")) words.refuse();
      (is_across ? how.flips_across : how.flips_down) = true;
    } else if (words.take("turn")) {
      how.most_degrees = words.take_number();
    } else if (words.take("brightness")) {
      how.brightness = words.take_number();
    } else {
      words.refuse();
    }
    if (words.take("filled")) {
      if (!words.take("with")) words.refuse();
      how.around = Around::of(words.take_number());
    }
  } while (words.take(","));
  if (!words.at_end()) words.refuse();
  check(how);
  return how;
}

Tensor moves_for(const AugmentedEpoch& epoch, std::span<const std::int64_t> rows,
                 Precision precision) {
  check(epoch.how);
  std::vector<PictureMove> moves;
  moves.reserve(rows.size());
  for (const std::int64_t row : rows)
    moves.push_back(drawn(epoch.how, epoch.random.branch(fmt::format("{} {}", epoch.epoch, row))));
  return as_tensor(moves, precision);
}

}  // namespace lattice
