#include "tools/drawing.hpp"

#include <fmt/format.h>

#include <utility>

#include "lattice/lessons/model_file.hpp"
#include "tools/interrupt.hpp"
#include "tools/run_lesson.hpp"

namespace lattice::tools {

TrainedLesson learnt_by(const std::string& subject, const Lesson& lesson) {
  Prepared prepared = prepare(lesson);
  prepared.training.should_stop = Interrupt::asked;
  Network network = prepared.network;
  RunRecord run = train(network, prepared.split, prepared.training);
  return {.name = subject.empty() ? prepared.title() : subject,
          .prepared = std::move(prepared),
          .network = std::move(network),
          .run = std::move(run)};
}

TrainedLesson learnt_of(const std::string& subject, const LessonOptions& options) {
  if (!is_model_file(subject)) return learnt_by(subject, options.lesson_on(lesson_named(subject)));
  ModelFile file = load_model(subject);
  // What was learnt stays; what is said of it may be said anew.
  Lesson told = options.lesson_on(file.lesson);
  file.lesson.title = std::move(told.title);
  file.lesson.references = std::move(told.references);
  return {.name = subject,
          .prepared = prepare(file.lesson),
          .network = file.model.network,
          .run = std::move(file.run)};
}

TrainedLesson learnt_on(const DrawAsked& asked) {
  const std::string& subject = asked.options.subject;
  const FileRows rows = asked.options.file_rows();
  if (!is_model_file(subject) || rows.files.empty()) return learnt_of(subject, asked.options);
  ModelFile file = load_model(subject);
  const std::string told = asked.options.lesson_on({}).title;
  file.lesson.title =
      told.empty() ? fmt::format("{}: {}", file.data_name, file.model.network.blueprint()) : told;
  return {.name = subject,
          .prepared = prepared_on_files(file, rows, *asked.console),
          .network = file.model.network,
          .run = std::move(file.run),
          .has_own_rows = false};
}

TrainedLesson learnt_with_flow(const std::string& subject, const LessonOptions& options) {
  if (is_model_file(subject)) return learnt_of(subject, options);
  Lesson lesson = options.lesson_on(lesson_named(subject));
  if (lesson.training.flow_every == 0) lesson.training.flow_every = 1;
  return learnt_by(subject, lesson);
}

Dataset raw_part(const TrainedLesson& learnt, const DrawAsked& asked) {
  const Split& split = learnt.prepared.split;
  const DataPart part = asked.part.empty() ? DataPart::train : part_called(split, asked.part);
  return learnt.prepared.data().taking(split[part].rows());
}

}  // namespace lattice::tools
