#include "pictures/moving_kernels.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <string>
#include <vector>

#include "lattice/text/numbers.hpp"
#include "tensor/kernels.hpp"
#include "tensor/parallel.hpp"
#include "tensor/visit.hpp"

namespace lattice {

std::string in_words(const PictureMove& move) {
  std::vector<std::string> words;
  if (move.flips_across) words.emplace_back("flipped across");
  if (move.flips_down) words.emplace_back("flipped down");
  if (move.degrees != 0.0)
    words.push_back(fmt::format("rotated {}°", format_number(move.degrees, 3)));
  const auto shifted = [&](std::int64_t by, const char* what, const char* to, const char* back) {
    if (by == 0) return;
    const std::int64_t count = std::abs(by);
    words.push_back(
        fmt::format("{} {}{} {}", count, what, count == 1 ? "" : "s", by > 0 ? to : back));
  };
  shifted(move.down, "row", "down", "up");
  shifted(move.right, "column", "right", "left");
  if (move.brightness != 1.0)
    words.push_back(fmt::format("{} × as bright", format_number(move.brightness, 3)));
  return words.empty() ? "as it was" : fmt::format("{}", fmt::join(words, ", "));
}

std::vector<double> numbers_of(const PictureMove& move) {
  return {move.flips_across ? 1.0 : 0.0,  move.flips_down ? 1.0 : 0.0,     move.degrees,
          static_cast<double>(move.down), static_cast<double>(move.right), move.brightness};
}

Tensor as_tensor(std::span<const PictureMove> moves, Precision precision) {
  std::vector<double> numbers;
  numbers.reserve(moves.size() * static_cast<std::size_t>(numbers_of_a_move));
  for (const PictureMove& move : moves) {
    const std::vector<double> of_move = numbers_of(move);
    numbers.insert(numbers.end(), of_move.begin(), of_move.end());
  }
  return tensor(Shape{std::ssize(moves), numbers_of_a_move}.with({Role::example, Role::none}),
                numbers, precision);
}

PictureMove move_in(const Tensor& moves, std::int64_t example) {
  const auto number = [&](std::int64_t of) { return moves.at({example, of}); };
  return {.flips_across = number(0) != 0.0,
          .flips_down = number(1) != 0.0,
          .degrees = number(2),
          .down = std::llround(number(3)),
          .right = std::llround(number(4)),
          .brightness = number(5)};
}

namespace kernels {

void Sources::add(std::int64_t row, std::int64_t column, double part) {
  for (Part& known : std::span(parts_).first(count_)) {
    if (known.row != row || known.column != column) continue;
    known.part += part;
    return;
  }
  parts_[count_++] = {row, column, part};
}

Moving::Moving(const PictureMove& move, const Around& around, std::int64_t rows,
               std::int64_t columns)
    : move_(move), goes_on_(!around.number()), rows_(rows), columns_(columns) {
  const double angle = move.degrees * std::numbers::pi / 180.0;
  cosine_ = std::cos(angle);
  sine_ = std::sin(angle);
}

/// Takes a part of a place of the picture as it is after the flips, or of what lies around it.
void Moving::add(Sources& sources, std::int64_t row, std::int64_t column, double part) const {
  if (part == 0.0) return;
  const bool is_inside = row >= 0 && row < rows_ && column >= 0 && column < columns_;
  if (!is_inside && !goes_on_) return sources.add_around(part);
  row = std::clamp(row, std::int64_t{0}, rows_ - 1);
  column = std::clamp(column, std::int64_t{0}, columns_ - 1);
  sources.add(move_.flips_down ? rows_ - 1 - row : row,
              move_.flips_across ? columns_ - 1 - column : column, part);
}

Sources Moving::sources(std::int64_t row, std::int64_t column) const {
  row -= move_.down;
  column -= move_.right;
  Sources sources;
  if (move_.degrees == 0.0) {
    add(sources, row, column, 1.0);
    return sources;
  }
  // From the middle, to the right and down.
  const double middle_down = static_cast<double>(rows_ - 1) / 2.0;
  const double middle_right = static_cast<double>(columns_ - 1) / 2.0;
  const double x = static_cast<double>(column) - middle_right;
  const double y = static_cast<double>(row) - middle_down;
  const double from_left = x * cosine_ - y * sine_ + middle_right;
  const double from_top = x * sine_ + y * cosine_ + middle_down;
  const double left = std::floor(from_left);
  const double top = std::floor(from_top);
  const double right_part = from_left - left;
  const double lower_part = from_top - top;
  const auto r = static_cast<std::int64_t>(top);
  const auto c = static_cast<std::int64_t>(left);
  add(sources, r, c, (1.0 - lower_part) * (1.0 - right_part));
  add(sources, r, c + 1, (1.0 - lower_part) * right_part);
  add(sources, r + 1, c, lower_part * (1.0 - right_part));
  add(sources, r + 1, c + 1, lower_part * right_part);
  return sources;
}

namespace {

/// So much work is a place with its sources.
constexpr std::int64_t multiplications_a_place = 32;

/// Calls `work(place, sources, brightness)` for every place of every picture, counted in
/// channels from the start of all pictures. A source is counted likewise.
template <class Work>
void each_place(const Shape& shape, const Tensor& moves, const Around& around, const Work& work) {
  const std::int64_t rows = shape[1];
  const std::int64_t columns = shape[2];
  in_parallel(shape[0], shape[0] * rows * columns * multiplications_a_place,
              [&](std::int64_t example) {
                const PictureMove move = move_in(moves, example);
                const Moving moving(move, around, rows, columns);
                const std::int64_t first = example * rows * columns;
                for (std::int64_t row = 0; row < rows; ++row) {
                  for (std::int64_t column = 0; column < columns; ++column) {
                    work(first, first + row * columns + column, moving.sources(row, column),
                         move.brightness);
                  }
                }
              });
}

}  // namespace

Tensor augmented(const Tensor& pictures, const Tensor& moves, const Around& around) {
  const Shape& shape = pictures.shape();
  Tensor result = Tensor::unfilled(shape, pictures.precision());
  visit(pictures.precision(), [&]<class T>(T) {
    const T* const from = pictures.data<T>();
    T* const to = result.writable<T>();
    const std::int64_t channels = shape[3];
    const std::int64_t columns = shape[2];
    each_place(
        shape, moves, around,
        [&](std::int64_t first, std::int64_t place, const Sources& sources, double brightness) {
          const T bright = static_cast<T>(brightness);
          const T outside = static_cast<T>(sources.around() * around.number().value_or(0.0));
          for (std::int64_t channel = 0; channel < channels; ++channel) {
            T sum = outside;
            for (const Sources::Part& part : sources.parts()) {
              const std::int64_t source = first + part.row * columns + part.column;
              sum += static_cast<T>(part.part) * from[source * channels + channel];
            }
            to[place * channels + channel] = bright * sum;
          }
        });
  });
  return result;
}

Tensor augmented_back(const Tensor& gradient, const Tensor& moves, const Around& around) {
  const Shape& shape = gradient.shape();
  Tensor result = zeros(shape, gradient.precision());
  visit(gradient.precision(), [&]<class T>(T) {
    const T* const from = gradient.data<T>();
    T* const to = result.writable<T>();
    const std::int64_t channels = shape[3];
    const std::int64_t columns = shape[2];
    each_place(
        shape, moves, around,
        [&](std::int64_t first, std::int64_t place, const Sources& sources, double brightness) {
          for (const Sources::Part& part : sources.parts()) {
            const std::int64_t source = first + part.row * columns + part.column;
            const T share = static_cast<T>(brightness) * static_cast<T>(part.part);
            for (std::int64_t channel = 0; channel < channels; ++channel)
              to[source * channels + channel] += share * from[place * channels + channel];
          }
        });
  });
  return result;
}

}  // namespace kernels
}  // namespace lattice
