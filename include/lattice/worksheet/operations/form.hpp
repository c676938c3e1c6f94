#pragma once

#include "lattice/text/words.hpp"

namespace lattice {

/// How a calculation that can be one line is written down. All forms mean the same numbers on
/// paper.
enum class Form {
  one_line,     ///< fused: fast, careful, and explained as a whole
  written_out,  ///< the same careful calculation in primitive lines
  careless      ///< the textbook formula in primitive lines, which overflows: to see it happen
};

inline constexpr Words<Form> form_words = {
    {Form::one_line, "one line"}, {Form::written_out, "written out"}, {Form::careless, "careless"}};

}  // namespace lattice
