#pragma once

#include <span>
#include <string>
#include <vector>

#include "lattice/learning/worked_example.hpp"
#include "lattice/show/shown_subject.hpp"

namespace lattice {

/// The terms of the core that are explained.
[[nodiscard]] std::span<const GlossaryTerm> glossary();

/// The terms, those of subjects included, that some line of a worked example is about.
[[nodiscard]] std::vector<GlossaryTerm> terms_of(const WorkedExample& example);

/// Whether a term is about lines with one of these stages, operations, sections or rules.
[[nodiscard]] bool is_about(const GlossaryTerm& term, std::span<const std::string> words);

}  // namespace lattice
