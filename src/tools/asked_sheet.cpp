#include "tools/asked_sheet.hpp"

#include <utility>

#include "lattice/text/error.hpp"
#include "tools/commands.hpp"

namespace lattice::tools {

void SheetQuestion::declare(Verb& verb, Answers answers) {
  declare_step(verb, step_);
  has_answers_ = answers == Answers::yes;
  if (has_answers_) answers_.declare(verb);
  sheet_.declare(verb);
}

AskedSheet SheetQuestion::work(const LessonOptions& options, Console& console) const {
  if (has_answers_ && answers_.names_model(options)) return of_model(options, console);
  if (sheet_.names_sheet(options)) return of_sheet(options, console);
  const Lesson lesson = options.lesson();
  const Prepared prepared = prepare(lesson);
  const std::int64_t step = step_.value_or(1);
  return {.work = prepared.work(step),
          .names = prepared.data().axis_names(),
          .data = prepared.data().name,
          .words = prepared.in_words(options.digits),
          .settings = settings_json(lesson),
          .step = step};
}

AskedSheet SheetQuestion::of_model(const LessonOptions& options, Console& console) const {
  if (step_) {
    throw SettingError({.what = "a model has no steps",
                        .expected = "a lesson with --step",
                        .found = options.subject});
  }
  AskedAnswers answers = answers_.work(options, console);
  return {.work = std::move(answers.example.steps.front().work),
          .names = std::move(answers.example.names),
          .data = answers.file.data_name,
          .words = std::move(answers.example.about),
          .settings = settings_json(answers.file.lesson)};
}

AskedSheet SheetQuestion::of_sheet(const LessonOptions& options, const Console& console) const {
  std::vector<std::int64_t> steps;
  if (step_) steps.push_back(*step_);
  WorkedExample example = sheet_.work(options, steps, console);
  std::vector<std::string> words = in_words(example);
  Json settings = sheet_settings_json(example);
  WorkedSheet& work = example.steps.front().work;
  std::string data = work.batch().rows.empty() ? "" : example.title;
  return {.work = std::move(work),
          .names = std::move(example.names),
          .data = std::move(data),
          .words = std::move(words),
          .settings = std::move(settings)};
}

}  // namespace lattice::tools
