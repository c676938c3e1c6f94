// Lesson 3: naive and stable.
//
// The formulas in a textbook are right, and still break in a computer: e to the power of 1000 is
// beyond every double, and what was rounded to 0 has no logarithm. We write softmax, sigmoid and
// cross-entropy down as they stand in the book, see the line where each one breaks, and put the
// stable form beside it. With the name of a folder, the stable softmax is put there as a page.

#include <fmt/core.h>

#include <cmath>
#include <filesystem>
#include <functional>

#include "lattice/lattice.hpp"
#include "lattice/show/page.hpp"

using namespace lattice;

/// A calculation from scores to one number, in a form.
using Calculation = std::function<Line(Worksheet& sheet, const Line& scores, Form form)>;

/// Works a calculation forward and back, and says what came out of it.
void work(const char* form_name, Form form, const Tensor& numbers, const Calculation& calculate) {
  Worksheet sheet;
  const Line scores = sheet.weight("scores", numbers);
  const Line result = named("result", calculate(sheet, scores, form));
  ReverseSweep sweep(result);
  while (sweep.next()) {
  }
  const Tensor& gradient = sweep.gradient(scores);
  fmt::print("  {:<8}  {:>10}  gradient", form_name, format_number(result.value().number()));
  for (const double number : gradient.numbers())
    fmt::print(" {:>9}", format_number(number, 3));
  fmt::print("\n");

  // The watch finds the first number that is none: in the values, or only on the way back.
  std::optional<Alarm> alarm = watch(sheet);
  if (!alarm) alarm = watch(sweep);
  if (alarm) fmt::print("\n{}\n\n", *alarm);
}

void put_side_by_side(const char* title, const Calculation& calculate) {
  for (const auto& [precision, size] :
       {std::pair(Precision::double_, 10.0), std::pair(Precision::double_, 1000.0),
        std::pair(Precision::single, 100.0)}) {
    fmt::print("{}, scores up to ±{} in {} precision\n", title, size, word(precision));
    const Tensor scores = tensor({{size, -size, 0.0}}, precision);
    work("naive", Form::naive, scores, calculate);
    work("stable", Form::one_line, scores, calculate);
    fmt::print("\n");
  }
}

int main(int count, char** arguments) {
  put_side_by_side("Softmax, its first number", [](Worksheet&, const Line& scores, Form form) {
    return sum(slice(softmax(scores, last_axis, form), 1, {.end = 1}));
  });

  put_side_by_side("Sigmoid, summed", [](Worksheet&, const Line& scores, Form form) {
    return sum(sigmoid(scores, form));
  });

  // The true class is the one with the lowest score: a sure guess, and wrong.
  put_side_by_side("Cross-entropy", [](Worksheet& sheet, const Line& scores, Form form) {
    const Line classes = sheet.given("classes", tensor({1}, scores.value().precision()));
    return cross_entropy(scores, classes, {.form = form});
  });

  put_side_by_side("Binary cross-entropy", [](Worksheet& sheet, const Line& scores, Form form) {
    const Line labels = sheet.given("labels", tensor({{0, 1, 1}}, scores.value().precision()));
    return binary_cross_entropy(scores, labels, {.form = form});
  });

  // A log meets a 0: e^−1000 was rounded to it. A small number added in front of the log takes care
  // of that, and of the gradient too: the row that is most wrong teaches nothing.
  fmt::print("Cross-entropy, the true class at −1000 and the others at 0, in double precision\n");
  for (const auto& [name, form] :
       {std::pair("naive", Form::naive), std::pair("patched", Form::patched),
        std::pair("stable", Form::one_line)}) {
    work(name, form, tensor({{0, -1000, 0}}), [](Worksheet& sheet, const Line& scores, Form how) {
      return cross_entropy(scores, sheet.given("classes", tensor({1})), {.form = how});
    });
  }
  fmt::print("\n");

  // Single precision rounds 1e-50 to 0, so this epsilon has no effect.
  fmt::print("The same in single precision, with an epsilon of 1e-50\n");
  work("patched", Form::patched, tensor({{0, -1000, 0}}, Precision::single),
       [](Worksheet& sheet, const Line& scores, Form form) {
         const Line classes = sheet.given("classes", tensor({1}, Precision::single));
         const Line loss = cross_entropy(scores, classes, {.form = form, .epsilon = 1e-50});
         for (const Remark& remark : remarks_on(sheet))
           fmt::print("\nremark {}: {}\n", remark.code, remark.text);
         return loss;
       });

  // What the stable form does: it looks the same in every step, but for the largest number taken
  // off before e is raised to it.
  fmt::print("The stable softmax, written out line by line\n");
  Worksheet sheet;
  const Line scores = sheet.weight("scores", tensor({{1000, -1000, 0}}));
  const Line p = named("p", softmax(scores, last_axis, Form::written_out));
  for (const Line& line : sheet.lines())
    fmt::print("  {:>2}  {} = {}\n", line.number(), line.name(),
               line.symbols().empty() ? std::string(line.operation()) : line.symbols());
  fmt::print("\n{}\n", explain(p, {0, 0}));

  if (count < 2) return 0;
  const Line first = named("first", sum(slice(p, 1, {.end = 1})));
  write_page(std::filesystem::path(arguments[1]) / "a_stable_softmax.html",
             work_sheet(std::move(sheet), first, {.title = "A softmax that does not overflow"}));
}
