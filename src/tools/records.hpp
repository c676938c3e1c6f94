#pragma once

#include <string>
#include <vector>

#include "lattice/data/table.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/show/shown_subject.hpp"
#include "tools/console.hpp"

/// Records on the command line.
namespace lattice::tools {

/// The feature columns of a model, in order.
[[nodiscard]] std::vector<std::string> feature_columns(const Model& model);

/// Reads `thickness=4.1,hours=30` records, or `4.1,30` in the order of the columns, into one table.
/// @throws NameError for a feature that the model does not know, is given twice, or is missing.
[[nodiscard]] Table records_table(const std::vector<std::string>& records, const Model& model);

/// The kind of question for a model; null for records of a table.
[[nodiscard]] const QuestionKind* question_for(const Model& model);

/// Refuses records for a model with another kind of question, and that kind for any other model.
/// @param others the kinds of question that were asked; @param with_records whether records were
void check_fits(const Model& model, const std::vector<const QuestionKind*>& others,
                bool with_records);

}  // namespace lattice::tools
