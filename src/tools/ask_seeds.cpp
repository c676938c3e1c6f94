#include "tools/ask_seeds.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <utility>

#include "lattice/judging/significance.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/wrapping.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"
#include "tools/comparison.hpp"
#include "tools/interrupt.hpp"

namespace lattice::tools {
namespace {

/// One number of a record over all seeds: the share of a class, or a target. Records without an
/// answer are left out.
OverRuns number_over(const AnswersOverSeeds& over, std::int64_t record, std::int64_t of) {
  std::vector<double> numbers;
  for (const Answers& answers : over.answers) {
    if (!answers.has_answer(record)) continue;
    const Tensor& all = answers.numbers.empty() ? answers.probabilities : answers.numbers;
    numbers.push_back(all.at({record, of}));
  }
  return numbers.empty() ? OverRuns() : over_runs(numbers);
}

/// How many of the models give a class as their answer.
std::int64_t votes(const AnswersOverSeeds& over, std::int64_t record, std::int64_t of) {
  return std::ranges::count_if(over.answers, [&](const Answers& answers) {
    return answers.has_answer(record) &&
           answers.classes.at_offset(record) == static_cast<double>(of);
  });
}

std::string with_deviation(const OverRuns& over, const TerminalStyle& style) {
  if (over.count == 0) return "–";
  return fmt::format("{} ± {}", format_number(over.mean, style.digits),
                     format_number(over.deviation, 2));
}

/// The class that most models answer; among equals the one with the higher mean share.
std::int64_t most_answered(const AnswersOverSeeds& over, std::int64_t record,
                           std::int64_t classes) {
  std::int64_t best = 0;
  for (std::int64_t of = 1; of < classes; ++of) {
    const std::pair now(votes(over, record, of), number_over(over, record, of).mean);
    const std::pair before(votes(over, record, best), number_over(over, record, best).mean);
    if (now > before) best = of;
  }
  return best;
}

}  // namespace

AnswersOverSeeds answers_over_seeds(const ModelFile& file, const Questions& questions,
                                    const Answers& answers, std::int64_t count, Console& console) {
  AnswersOverSeeds over{.seeds = {file.lesson.seed}, .answers = {answers}};
  const Interrupt interrupt;
  for (std::int64_t more = 1; more < count && !Interrupt::asked(); ++more) {
    Entry entry{.name = fmt::format("seed {}", file.lesson.seed + static_cast<std::uint64_t>(more)),
                .lesson = file.lesson};
    entry.lesson.seed += static_cast<std::uint64_t>(more);
    const Model model = trained_model(entry, console);
    if (Interrupt::asked()) break;
    over.seeds.push_back(entry.lesson.seed);
    over.answers.push_back(model.rows ? ask_rows(model, questions.rows)
                                      : ask(model, questions.raw));
  }
  return over;
}

std::string told(const AnswersOverSeeds& over, const Model& model, const Answers& answers,
                 const TerminalStyle& style) {
  using Set = TextTable::Set;
  const auto classes = std::ssize(model.class_names);
  const char* const number = answers.kind == Outputs::levels ? "level" : "share";
  std::vector<TextTable::Heading> headings = {
      {"record", answers.names.empty() ? Set::right : Set::left}};
  if (classes == 0) {
    for (const std::string& target : model.target_names)
      headings.push_back({target});
  } else {
    headings.insert(headings.end(),
                    {{model.target_names.front(), Set::left}, {"answered by"}, {number}});
  }
  TextTable table(headings);
  for (std::int64_t record = 0; record < answers.scores.shape()[0]; ++record) {
    std::vector<TextTable::Entry> row = {answers.name_of(record)};
    if (classes == 0) {
      for (std::int64_t of = 0; of < std::ssize(model.target_names); ++of)
        row.emplace_back(with_deviation(number_over(over, record, of), style));
    } else {
      const std::int64_t of = most_answered(over, record, classes);
      row.emplace_back(model.class_names[static_cast<std::size_t>(of)]);
      row.emplace_back(fmt::format("{} of {}", votes(over, record, of), over.seeds.size()));
      row.emplace_back(with_deviation(number_over(over, record, of), style));
    }
    table.add(std::move(row));
  }
  return table.text(style) +
         paragraph(fmt::format("Over {}, from {} to {}; ± is the standard deviation.",
                               counted(std::ssize(over.seeds), "seed"), over.seeds.front(),
                               over.seeds.back()),
                   style.width);
}

Json to_json(const AnswersOverSeeds& over, const Model& model) {
  const std::vector<std::string>& names =
      model.class_names.empty() ? model.target_names : model.class_names;
  Json list = Json::array();
  for (std::int64_t record = 0; record < over.answers.front().scores.shape()[0]; ++record) {
    Json answer = Json::object();
    for (std::size_t of = 0; of < names.size(); ++of) {
      const auto at = static_cast<std::int64_t>(of);
      const OverRuns number = number_over(over, record, at);
      answer[names[of]] = {{"mean", number.mean}, {"standard_deviation", number.deviation}};
      if (!model.class_names.empty()) answer[names[of]]["answered_by"] = votes(over, record, at);
    }
    list.push_back(std::move(answer));
  }
  return {{"seeds", over.seeds}, {"answers", std::move(list)}};
}

}  // namespace lattice::tools
