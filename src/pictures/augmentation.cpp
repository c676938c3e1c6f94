#include "lattice/pictures/augmentation.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "lattice/pictures/moving_operation.hpp"
#include "lattice/pictures/picture.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "pictures/moving_kernels.hpp"
#include "text/scanner.hpp"

namespace lattice {
namespace {

constexpr const char* all_ways =
    "none, or one or more of shift N, shift ROWSxCOLUMNS (each with: filled with NUMBER), flip "
    "across, flip down, turn DEGREES and brightness SHARE, with commas between them";

/// Takes one way to move pictures about.
void take_way(Scanner& words, PictureAugmentation& how) {
  if (words.take("shift")) {
    const auto most = words.take_crossed();
    if (!most) words.refuse("shift needs a distance", "shift 2, or shift 2x1");
    std::tie(how.most_down, how.most_right) = *most;
  } else if (words.take("flip")) {
    const bool is_across = words.take("across");
    if (!is_across && !words.take("down")) words.refuse("flip needs a direction", "across or down");
    (is_across ? how.flips_across : how.flips_down) = true;
  } else if (words.take("turn")) {
    how.most_degrees = words.take_number("the angle in degrees", "a number, such as 10");
  } else if (words.take("brightness")) {
    how.brightness = words.take_number("the largest change of brightness", "a number, such as 0.2");
  } else {
    words.refuse("this is not an augmentation", all_ways, "shift 2, flip across");
  }
  if (words.take("filled")) {
    words.demand("with");
    how.around = Around::of(words.take_number("the fill value", "a number, such as 0"));
  }
}

/// A whole number from −most to most, each as likely as the others.
std::int64_t either_way(Random& random, std::int64_t most) {
  return random.below(2 * most + 1) - most;
}

/// All is drawn for every picture, whether it is wanted or not: one more way to be moved leaves the
/// others as they were.
PictureMove drawn(const PictureAugmentation& how, Random random) {
  PictureMove move;
  move.down = either_way(random, how.most_down);
  move.right = either_way(random, how.most_right);
  move.flips_across = random.below(2) == 1 && how.flips_across;
  move.flips_down = random.below(2) == 1 && how.flips_down;
  move.degrees = how.most_degrees * random.uniform(-1.0, 1.0);
  move.brightness = 1.0 + how.brightness * random.uniform(-1.0, 1.0);
  return move;
}

class MovingAbout final : public Augmenter {
 public:
  explicit MovingAbout(const PictureAugmentation& how) : how_(how) {}

  [[nodiscard]] std::string text() const override { return lattice::text(how_); }
  [[nodiscard]] std::string_view drawn_name() const override { return "moves"; }

  void check(const Shape& example) const override {
    how_.check();
    if (is_raster(example)) return;
    throw ShapeError({.what = "only pictures can be augmented",
                      .expected = "examples of [row × column × channel]",
                      .found = to_string(example),
                      .remedy = "leave the augmentation out"});
  }

  [[nodiscard]] std::vector<double> drawn(Random random) const override {
    return numbers_of(lattice::drawn(how_, random));
  }

  [[nodiscard]] Tensor changed(const Tensor& pictures, const Tensor& moves) const override {
    return kernels::augmented(pictures, moves, how_.around);
  }

  [[nodiscard]] Line changed(const Line& pictures, const Line& moves) const override {
    return augmented(pictures, moves, how_.around);
  }

  [[nodiscard]] std::string in_words(const Tensor& moves, std::int64_t example) const override {
    return lattice::in_words(move_in(moves, example));
  }

 private:
  PictureAugmentation how_;
};

}  // namespace

void PictureAugmentation::check() const {
  const auto refuse = [](const std::string& what, const std::string& expected,
                         const std::string& found) {
    throw SettingError({.what = what, .expected = expected, .found = found});
  };
  for (const std::int64_t most : {most_down, most_right}) {
    if (most >= 0 && most <= farthest_move) continue;
    refuse("pictures cannot be shifted by this much",
           fmt::format("0 to {}, either way", farthest_move), fmt::format("{}", most));
  }
  if (!(most_degrees >= 0.0) || most_degrees > 180.0) {
    refuse("pictures cannot be rotated by this much", "0 to 180 degrees, either way",
           format_number(most_degrees));
  }
  if (!(brightness >= 0.0) || brightness >= 1.0) {
    refuse("the brightness of pictures cannot change by this much", "0 or more, and below 1",
           format_number(brightness));
  }
  if (!std::isfinite(around.number().value_or(0.0))) {
    refuse("pictures cannot be filled with this", "a number", format_number(*around.number()));
  }
}

bool PictureAugmentation::empty() const {
  return most_down == 0 && most_right == 0 && !flips_across && !flips_down && most_degrees == 0.0 &&
         brightness == 0.0;
}

std::string text(const PictureAugmentation& augmentation) {
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

PictureAugmentation parse_augmentation(std::string_view text) {
  Scanner words(text, "the augmentation");
  PictureAugmentation how;
  if (!words.take("none")) {
    do {
      take_way(words, how);
    } while (words.take(","));
  }
  if (!words.at_end())
    words.refuse("this does not belong to an augmentation", "a comma, or the end");
  how.check();
  return how;
}

PictureAugmentation::operator Augmentation() const {
  return empty() ? Augmentation() : Augmentation(std::make_shared<const MovingAbout>(*this));
}

}  // namespace lattice
