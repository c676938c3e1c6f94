#include "lattice/pictures/moving_operation.hpp"

#include <fmt/format.h>

#include <cmath>
#include <optional>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "pictures/moving_kernels.hpp"
#include "worksheet/operations/shared.hpp"

namespace lattice {
namespace {

constexpr std::int64_t brightness_in_move = numbers_of_a_move - 1;

class MovedPictures final : public Operation {
 public:
  explicit MovedPictures(const Around& around)
      : goes_on_(!around.number()), number_(around.number().value_or(0.0)) {}

  [[nodiscard]] std::string_view name() const override { return "augmented"; }
  [[nodiscard]] bool passes_back(std::size_t input) const override { return input == 0; }

  [[nodiscard]] Shape shape(const Inputs& inputs) const override {
    const Shape& pictures = inputs.shape(0);
    if (pictures.rank() != 4) {
      throw ShapeError(
          {.what = fmt::format("augmented: {} is not a tensor of pictures", inputs.describe(0)),
           .expected = "[example × row × column × channel]",
           .found = to_string(pictures)});
    }
    const Shape moves{pictures[0], numbers_of_a_move};
    if (inputs.shape(1) == moves) {
      check_numbers(inputs);
      return pictures;
    }
    throw ShapeError({.what = fmt::format("augmented: {} is not an augmentation of {}",
                                          inputs.describe(1), inputs.describe(0)),
                      .expected = fmt::format("{}, a move for each picture", to_string(moves)),
                      .found = to_string(inputs.shape(1)),
                      .remedy = "as_tensor makes them of PictureMove"});
  }

  [[nodiscard]] Tensor forward(const Inputs& inputs, const Shape&) const override {
    return kernels::augmented(inputs[0], inputs[1], around());
  }

  [[nodiscard]] Tensor reverse(const BackwardStep& step, std::size_t) const override {
    return kernels::augmented_back(step.gradient, step.inputs[1], around());
  }

  [[nodiscard]] Formula element(const Cells& cells, const Index& at) const override {
    const kernels::Sources sources = moving(cells, at[0]).sources(at[1], at[2]);
    std::vector<Formula> parts;
    for (const auto& part : sources.parts())
      parts.push_back(times(part.part, cells.input(0, {at[0], part.row, part.column, at[3]})));
    if (sources.around() > 0.0) parts.emplace_back(sources.around() * number_);
    return brightened(cells, at[0], Formula::sum(std::move(parts)));
  }

  [[nodiscard]] Formula reverse_element(const Cells& cells, std::size_t,
                                        const Index& at) const override {
    const kernels::Moving move = moving(cells, at[0]);
    std::vector<Formula> uses;
    for (std::int64_t row = 0; row < cells.shape(0)[1]; ++row) {
      for (std::int64_t column = 0; column < cells.shape(0)[2]; ++column) {
        const auto sources = move.sources(row, column);
        for (const auto& part : sources.parts()) {
          if (part.row == at[1] && part.column == at[2])
            uses.push_back(times(part.part, cells.gradient({at[0], row, column, at[3]})));
        }
      }
    }
    return brightened(cells, at[0], Formula::sum(std::move(uses)));
  }

  [[nodiscard]] bool holds_for_any(std::size_t input) const override { return input != 1; }

  [[nodiscard]] std::string symbols(const Symbols& symbols) const override {
    if (goes_on_) return fmt::format("augmented({}, {})", symbols.inputs[0], symbols.inputs[1]);
    return fmt::format("augmented({}, {}; around {})", symbols.inputs[0], symbols.inputs[1],
                       symbols.number(number_));
  }

  [[nodiscard]] std::string reverse_symbols(const Symbols& symbols, std::size_t) const override {
    return fmt::format("∂{} moved back by {}", symbols.result, symbols.inputs[1]);
  }

 private:
  [[nodiscard]] Around around() const { return goes_on_ ? Around::edge() : Around::of(number_); }

  /// How one picture is moved: its six numbers.
  [[nodiscard]] kernels::Moving moving(const Cells& cells, std::int64_t example) const {
    std::vector<double> numbers;
    for (std::int64_t of = 0; of < numbers_of_a_move; ++of)
      numbers.push_back(cells.input(1, {example, of}).evaluate());
    return {move_in(tensor({1, numbers_of_a_move}, numbers), 0), around(), cells.shape(0)[1],
            cells.shape(0)[2]};
  }

  /// Refuses moves by which no place could be found.
  static void check_numbers(const Inputs& inputs) {
    const Tensor& moves = inputs[1];
    for (std::int64_t at = 0; at < moves.count(); ++at) {
      const double number = moves.at_offset(at);
      if (std::abs(number) <= static_cast<double>(farthest_move)) continue;
      throw NumberError({.what = "augmented: a number of the augmentation is out of range",
                         .where = inputs.place(1, moves.shape().index(at)),
                         .expected = fmt::format("a number up to {}", farthest_move),
                         .found = format_number(number)});
    }
  }

  static Formula times(double part, const Formula& number) {
    return part == 1.0 ? number : part * number;
  }

  static Formula brightened(const Cells& cells, std::int64_t example, const Formula& number) {
    const Formula brightness = cells.input(1, {example, brightness_in_move});
    return brightness.evaluate() == 1.0 ? number : brightness * number;
  }

  bool goes_on_;
  double number_;
};

}  // namespace

template <Operand X>
X augmented(const X& pictures, const X& moves, const Around& around) {
  return apply(MovedPictures(around), pictures, moves);
}

template Line augmented(const Line&, const Line&, const Around&);
template Tensor augmented(const Tensor&, const Tensor&, const Around&);

}  // namespace lattice
