#include "tools/run_lesson.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace lattice::tools {

void Progress::operator()(const EpochFigures& figures) const {
  if (how_much_ == Say::nothing) return;
  const std::int64_t count = std::max<std::int64_t>(1, (last_ - first_) / 20);
  const bool last = figures.epoch == last_;
  const bool is_due = how_much_ == Say::much || (figures.epoch - first_) % count == 0 || last;
  if (!console_->err_is_terminal && !is_due) return;
  std::string text = fmt::format("epoch {} of {}: train loss {}", figures.epoch, last_,
                                 format_number(figures.train.loss));
  if (figures.train.accuracy)
    text += fmt::format(", accuracy {}", format_number(*figures.train.accuracy, 4));
  if (figures.validation) {
    text += fmt::format("; validation loss {}", format_number(figures.validation->loss));
    if (figures.validation->accuracy)
      text += fmt::format(", accuracy {}", format_number(*figures.validation->accuracy, 4));
  }
  if (how_much_ == Say::much)
    text += fmt::format("; rate {}, {:.2f} s", format_number(figures.rate), figures.seconds);
  write(text, last || how_much_ == Say::much);
}

void Progress::operator()(const StepFigures& figures) const {
  if (how_much_ == Say::nothing) return;
  write(fmt::format("step {}, epoch {}: minibatch loss {}", figures.step, figures.epoch,
                    format_number(figures.loss)),
        how_much_ == Say::much);
}

void Progress::write(const std::string& text, bool stays) const {
  if (console_->err_is_terminal) {
    console_->err << "\r\x1b[K" << text << (stays ? "\n" : "") << std::flush;
  } else {
    console_->err << text << "\n";
  }
}

NamedAssessments assess_parts(const Network& network, Loss loss, const Parts& parts,
                              std::int64_t top) {
  NamedAssessments all;
  for (const DataPart part : all_data_parts) {
    if (!parts.has(part)) continue;
    all.emplace_back(word(part), assess(network, parts[part], {.loss = loss, .top = top}));
  }
  return all;
}

Json to_json(const NamedAssessments& parts) {
  Json json = Json::object();
  for (const auto& [part, assessment] : parts)
    json[part] = lattice::to_json(assessment);
  return json;
}

ModelFile model_file_of(const Lesson& lesson, const Prepared& prepared, const Network& network,
                        const RunRecord& run) {
  return {.model = model_of(network, prepared.loss, prepared.parts.train),
          .lesson = lesson,
          .run = run,
          .data_name = prepared.data().name,
          .rows = prepared.data().rows(),
          .fingerprint = fingerprint(prepared.data())};
}

}  // namespace lattice::tools
