#include "lattice/judging/answers.hpp"

#include <algorithm>

#include "judging/mean_of_rows.hpp"
#include "lattice/worksheet/operations/activations.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/choosing.hpp"
#include "lattice/worksheet/operations/products.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"

namespace lattice {

template <Operand X>
X answers_of(const X& outputs, Outputs kind) {
  if (outputs.shape()[1] > 1) return argmax(outputs);
  const double border = kind == Outputs::scores ? 0.0 : 0.5;
  return reshape(above(outputs, border), Shape{outputs.shape()[0]}.with({Role::example}));
}

template Line answers_of(const Line&, Outputs);
template Tensor answers_of(const Tensor&, Outputs);

Tensor probabilities_of(const Tensor& outputs, Outputs kind) {
  const bool are_scores = kind == Outputs::scores;
  if (outputs.shape()[1] > 1) return are_scores ? softmax(outputs) : outputs;
  const Tensor second = are_scores ? sigmoid(outputs) : outputs;
  return join({1.0 - second, second}, 1).with({Role::example, Role::class_});
}

Line write_answers(Worksheet& sheet, const Line& outputs, Outputs kind) {
  sheet.section(answers_section);
  return named("answer", answers_of(outputs, kind));
}

Line write_right(const Line& answers, const GivenLines& given) {
  return named("right", equal(answers, given.y.value()));
}

Line write_accuracy(const Line& right, const GivenLines& given) {
  return named("accuracy", mean_of_rows(right, given.row_weights));
}

Line write_confusion(const Line& answers, const GivenLines& given, std::int64_t classes) {
  const Line said = named("said", one_hot(answers, classes));
  Line of_class = named("of_class", one_hot(given.y.value(), classes));
  if (given.row_weights)
    of_class =
        of_class * described("weights", reshape(*given.row_weights, Shape{answers.shape()[0], 1}));
  const Line by_class = named("by_class", permute(of_class, {1, 0}));
  return named("confusion", matmul(by_class, said));
}

std::int64_t classes_of(const Line& outputs) {
  return std::max<std::int64_t>(2, outputs.shape()[1]);
}

}  // namespace lattice
