#include "tools/run_lesson.hpp"
#include "lattice/lessons/lesson_data.hpp"
#include "lattice/show/shown_subject.hpp"
#include "tools/records.hpp"
#include "tools/run_time.hpp"

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "files/file.hpp"
#include "lattice/data/demo_sets.hpp"
#include "lattice/lessons/lesson_subject.hpp"
#include "lattice/network/blueprint.hpp"
#include "lattice/text/nearest.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice::tools {

namespace {

constexpr auto between_panels = std::chrono::milliseconds(100);

/// After so many seconds one asks how long it will take.
constexpr double worth_waiting = 5.0;

std::string part_text(std::string_view name, const Figures& figures) {
  std::string text = fmt::format("{} loss {}", name, format_number(figures.loss));
  if (figures.accuracy) text += fmt::format(", accuracy {}", format_number(*figures.accuracy, 4));
  return text;
}

std::string parts_text(const EpochFigures& figures, std::string_view between) {
  std::vector<std::string> texts;
  if (figures.train) texts.push_back(part_text("train", *figures.train));
  if (figures.validation) texts.push_back(part_text("validation", *figures.validation));
  if (texts.empty() && figures.running) texts.push_back(part_text("running", *figures.running));
  return texts.empty() ? "nothing is evaluated" : fmt::format("{}", fmt::join(texts, between));
}

/// The watched loss by epoch as a row of bars, the newest on the right.
std::string small_curve(const std::vector<EpochFigures>& epochs, std::size_t width) {
  constexpr std::array<const char*, 8> bars = {"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
  const std::size_t from = epochs.size() > width ? epochs.size() - width : 0;
  double high = 0.0;
  for (std::size_t at = from; at < epochs.size(); ++at) {
    if (std::isfinite(epochs[at].watched())) high = std::max(high, epochs[at].watched());
  }
  std::string text;
  for (std::size_t at = from; at < epochs.size(); ++at) {
    const double watched = epochs[at].watched();
    const double share = !std::isfinite(watched) ? 1.0 : high > 0.0 ? watched / high : 0.0;
    text += bars.at(static_cast<std::size_t>(std::clamp(std::lround(share * 7.0), 0L, 7L)));
  }
  return text;
}

/// How many columns the terminal behind stderr has right now.
std::size_t terminal_width() {
  winsize size{};
  return ioctl(STDERR_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0 ? size.ws_col : 80;
}

}  // namespace

void Progress::tell(const EpochFigures& figures) {
  epochs_.push_back(figures);
  if (how_much_ == Say::nothing || has_panel()) return;
  const std::int64_t first = length_.first_epoch;
  const std::int64_t last = length_.last_epoch;
  const std::int64_t count = std::max<std::int64_t>(1, (last - first) / 20);
  const bool is_due =
      how_much_ == Say::much || (figures.epoch - first) % count == 0 || figures.epoch == last;
  if (!is_due) return;
  std::string text =
      fmt::format("epoch {} of {}: {}", figures.epoch, last, parts_text(figures, "; "));
  // A rate that changes with every epoch is told here, and not by itself.
  const bool changes = change_ && change_->epoch == figures.epoch;
  if (how_much_ == Say::much || changes)
    text += fmt::format("; rate {}", format_number(figures.rate, 4));
  const bool is_long = figures.seconds >= worth_waiting && figures.epoch < last;
  if (how_much_ == Say::much || is_long) text += fmt::format("; {:.2f} s", figures.seconds);
  if (is_long) text += left_text(figures.updates) + best_text("; ");
  console_->err << text << "\n";
}

void Progress::tell(const RateChange& change) {
  const bool is_one_of_many = change_ && change_->epoch + 1 == change.epoch;
  change_ = change;
  if (how_much_ == Say::nothing || has_panel() || is_one_of_many) return;
  console_->err << fmt::format("epoch {}: the rate is {} from here on, before {}\n", change.epoch,
                               format_number(change.after, 4), format_number(change.before, 4));
}

std::string Progress::left_text(std::int64_t step) const {
  if (run_ == nullptr) return "";
  const auto done = static_cast<double>(step - length_.first_step);
  const auto steps_left = static_cast<double>(length_.last_step - step);
  if (!(done > 0.0 && steps_left > 0.0)) return "";
  const auto evaluations_left =
      static_cast<double>(length_.evaluations - std::min(length_.evaluations, run_->evaluations()));
  const double learning = run_->learning_seconds() / done * steps_left;
  const double judging =
      run_->judging_seconds() / static_cast<double>(std::max<std::int64_t>(1, run_->evaluations()));
  return fmt::format(", {} left", time_text(learning + judging * evaluations_left));
}

/// The epoch with the lowest watched loss so far, if it is known.
std::string Progress::best_text(std::string_view before) const {
  const auto best = std::ranges::min_element(epochs_, {}, &EpochFigures::watched);
  if (!std::isfinite(best->watched())) return "";
  return fmt::format("{}best so far: epoch {}, loss {}", before, best->epoch,
                     format_number(best->watched()));
}

void Progress::tell(const StepFigures& figures) {
  if (how_much_ == Say::nothing || has_panel()) return;
  std::string text = fmt::format("step {}, epoch {}: {}", figures.step, figures.epoch,
                                 part_text("minibatch", figures.minibatch));
  if (figures.watched) {
    const bool has_validation = !epochs_.empty() && epochs_.front().validation;
    text += "; " + part_text(has_validation ? "validation" : "train", *figures.watched);
  }
  console_->err << text << "\n";
}

void Progress::tick(const Training& run) {
  run_ = &run;
  if (!has_panel()) return;
  const Clock::time_point now = Clock::now();
  if (now - drawn_ < between_panels) return;
  drawn_ = now;
  // Between two epochs the one that is over is shown.
  const std::int64_t step = run.upcoming_step() - 1;
  const bool is_between = !epochs_.empty() && epochs_.back().updates == step;
  draw_panel(is_between ? epochs_.back().epoch : run.upcoming_epoch(), step,
             is_between ? epochs_.back().running : std::optional(run.running()));
}

void Progress::finish() {
  if (!has_panel() || epochs_.empty()) return;
  const EpochFigures& end = epochs_.back();
  draw_panel(end.epoch, end.updates, end.running);
}

void Progress::draw_panel(std::int64_t epoch, std::int64_t step,
                          const std::optional<Figures>& running) {
  const double seconds = std::chrono::duration<double>(Clock::now() - start_).count();
  const std::size_t width = terminal_width() - 1;
  const double rate = change_ ? change_->after : epochs_.empty() ? 0.0 : epochs_.back().rate;
  const std::string since =
      change_ ? fmt::format(" since epoch {}", change_->epoch) : std::string();
  const std::array<std::string, 4> lines = {
      fmt::format("epoch {} of {} · {:.1f} s{} · rate {}{} · step {} of {}", epoch,
                  length_.last_epoch, seconds, left_text(step), format_number(rate), since, step,
                  length_.last_step),
      running ? part_text("running", *running) : "before the first step",
      epochs_.empty() ? "" : parts_text(epochs_.back(), " · ") + best_text(" · "),
      "loss by epoch " + small_curve(epochs_, width > 20 ? width - 15 : 5)};
  std::string text = is_drawn_ ? fmt::format("\x1b[{}A", lines.size()) : "";
  for (const std::string& line : lines)
    text += "\r\x1b[K" + cut_to(line, width) + "\n";
  console_->err << text << std::flush;
  is_drawn_ = true;
}

std::optional<LinearForm> law_of(const Lesson& lesson) {
  const std::optional<std::string> set = lesson.data.demo_set();
  return set ? demo_set_called(*set).law : std::nullopt;
}

Json learnt_json(const Model& model) {
  Json json = {{"weights", Json::object()}};
  for (const Weight& weight : model.network.weights())
    json["weights"][weight.name] = lattice::to_json(weight.value);
  for (const LinearForm& form : raw_forms(model)) {
    Json slopes = Json::object();
    for (std::size_t of = 0; of < form.slopes.size(); ++of)
      slopes[form.features[of]] = form.slopes[of];
    json["in_raw_units"].push_back(
        {{"target", form.target}, {"constant", form.constant}, {"slopes", std::move(slopes)}});
  }
  return json;
}

NamedAssessments assess_parts(const Network& network, const Split& split,
                              const AssessSettings& settings) {
  NamedAssessments all;
  for (const DataPart part : all_data_parts) {
    if (!split.has(part)) continue;
    all.emplace_back(word(part), assess(network, split[part], settings));
  }
  return all;
}

NamedAssessments assess_run(const Network& network, const Prepared& prepared) {
  Split judged = prepared.split;
  judged.train = judged_rows(prepared.split.train, prepared.training);
  return assess_parts(network, judged, {.loss = prepared.loss});
}

DataPart part_called(const Split& split, const std::string& name) {
  std::vector<std::string> known;
  for (const DataPart part : all_data_parts) {
    if (!split.has(part)) continue;
    if (word(part) == name) return part;
    known.emplace_back(word(part));
  }
  throw NameError(not_among(fmt::format("there is no part '{}'", name), name, known));
}

std::optional<Plan> plan_without_data(const Lesson& lesson,
                                      const std::optional<std::int64_t>& inputs) {
  if (lesson.network.blueprint.empty()) return std::nullopt;
  std::optional<Shape> example;
  if (inputs) example = Shape{*inputs}.with({Role::feature});
  for (const LessonSubject& subject : lesson_subjects()) {
    if (!example && !lesson.data.is_named() && subject.example != nullptr)
      example = subject.example(lesson);
  }
  if (!example) return std::nullopt;
  return plan(*example, parse_blueprint(lesson.network.blueprint));
}

Prepared prepared_again(const ModelFile& file, const std::string& remedy, const Console& console) {
  say_what_is_outside(file.lesson, console);
  Prepared prepared = prepare(file.lesson);
  if (fingerprint(prepared.data()) == file.fingerprint) return prepared;
  for (const ModelFile::PartOfFile& now : parts_of_files(prepared.data())) {
    const auto then = std::ranges::find(file.parts, now.part, &ModelFile::PartOfFile::part);
    if (then == file.parts.end() || *then == now) continue;
    throw SettingError(
        {.what = fmt::format("the rows of the {} file have changed since the model was trained",
                             word(now.part)),
         .expected = fmt::format("{}, {}", then->name, counted(then->rows, "row")),
         .found = fmt::format("{}, {}{}", now.name, counted(now.rows, "row"),
                              then->rows == now.rows ? ", with other numbers" : ""),
         .remedy = remedy});
  }
  throw SettingError({.what = "the rows that the model was trained on have changed",
                      .expected = fmt::format("{}, {}", file.data_name, counted(file.rows, "row")),
                      .found = fmt::format("{}, {}, with other numbers", prepared.data().name,
                                           counted(prepared.data().rows(), "row")),
                      .remedy = remedy});
}

Dataset rows_of_files(const ModelFile& file, const FileRows& rows, Console& console) {
  for (const ShownSubject& subject : shown_subjects()) {
    const std::optional<QuestionKind>& kind = subject.question;
    const bool are_its_own =
        kind && kind->holds != nullptr && kind->holds(FileOfClass::in(rows.files.front()).path);
    if (!are_its_own) continue;
    check_fits(file.model, {&*kind}, false);
    std::vector<std::string> notes;
    Dataset data = kind->labelled(file, rows.files, rows.labels, notes);
    for (const std::string& note : notes)
      console.tell_line(note);
    return data;
  }
  if (file.model.columns.empty()) {
    const QuestionKind* const own = question_for(file.model);
    throw SettingError(
        {.what = "this model is not assessed on a table",
         .where = rows.files.front(),
         .expected = own == nullptr ? "rows like those it was trained on" : own->thing,
         .found = "a table of records"});
  }
  const Table table = read_tables_of(rows.files, file.lesson.data.csv);
  say(remarks_on(table.decimal_commas, table.name), file.lesson, console);
  return dataset_for(file.model, table, file.lesson.data.columns.weights);
}

Prepared prepared_on_files(const ModelFile& file, const FileRows& rows, Console& console) {
  const Dataset data = rows_of_files(file, rows, console);
  const RowSet all = data;
  return {.lesson = file.lesson,
          .reading = {.data = data.as_measured()},
          .split = {.train = all.taking({}), .validation = all.taking({}), .test = all},
          .network = file.model.network,
          .training = {},
          .loss = file.model.loss};
}

Json to_json(const NamedAssessments& parts) {
  Json json = Json::object();
  for (const auto& [part, assessment] : parts)
    json[part] = lattice::to_json(assessment);
  return json;
}

ModelFile model_file_of(const Prepared& prepared, const Network& network, const RunRecord& run) {
  return {.model = model_of(network, prepared.loss, prepared.split.train),
          .lesson = prepared.lesson,
          .run = run,
          .data_name = prepared.data().name,
          .rows = prepared.data().rows(),
          .fingerprint = fingerprint(prepared.data()),
          .parts = parts_of_files(prepared.data())};
}

}  // namespace lattice::tools
