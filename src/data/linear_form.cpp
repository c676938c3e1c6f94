#include "lattice/data/linear_form.hpp"

#include <fmt/format.h>

#include <cmath>

namespace lattice {

std::string LinearForm::text(int digits) const {
  std::string sum;
  const auto add = [&](double number, const std::string& feature) {
    if (sum.empty()) {
      sum = format_number(number, digits) + feature;
    } else {
      sum += fmt::format(" {} {}{}", number < 0.0 ? "−" : "+",
                         format_number(std::abs(number), digits), feature);
    }
  };
  for (std::size_t of = 0; of < slopes.size(); ++of)
    add(slopes[of], "·" + features[of]);
  add(constant, "");
  return fmt::format("{} = {}", target, sum);
}

}  // namespace lattice
