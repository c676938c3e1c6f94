#pragma once

#include "lattice/text/words.hpp"

namespace lattice {

/// How a calculation that can be one line is written down. All forms mean the same numbers on
/// paper, but for the patched one, which is a little off.
enum class Form {
  one_line,     ///< fused: fast, stable, and explained as a whole
  written_out,  ///< the same stable calculation in primitive lines
  naive,        ///< the textbook formula in primitive lines, which overflows
  patched       ///< the same with a small number added in front of each log, so that it meets no 0
};

/// What is added in front of a log where it is patched, unless another number is asked for.
inline constexpr double usual_log_epsilon = 1e-12;

inline constexpr Words<Form> form_words = {{Form::one_line, "one line"},
                                           {Form::written_out, "written out"},
                                           {Form::naive, "naive"},
                                           {Form::patched, "patched"}};

/// True for the textbook formula, with its logs as they are or patched.
[[nodiscard]] constexpr bool is_naive(Form form) {
  return form == Form::naive || form == Form::patched;
}

}  // namespace lattice
