#include "lattice/data/row_sources.hpp"

#include <algorithm>

namespace lattice {

RowSources::Source RowSources::operator[](std::size_t row) const {
  const auto next = std::ranges::upper_bound(runs_, row, {}, &Run::first);
  const Run& run = *(next - 1);
  const std::size_t on = row - run.first;
  return {.file = files_[run.file],
          .row = run.row + on,
          .line = run.line == 0 ? 0 : run.line + on,
          .part = run.part};
}

void RowSources::add(const Source& source) {
  const std::size_t at = size_++;
  if (files_.empty() || files_.back() != source.file) files_.emplace_back(source.file);
  if (!runs_.empty()) {
    const Run& last = runs_.back();
    const std::size_t on = at - last.first;
    const bool goes_on = last.file == files_.size() - 1 && last.part == source.part &&
                         last.row + on == source.row &&
                         (last.line == 0 ? 0 : last.line + on) == source.line;
    if (goes_on) return;
  }
  runs_.push_back({.first = at,
                   .file = files_.size() - 1,
                   .row = source.row,
                   .line = source.line,
                   .part = source.part});
}

void RowSources::set_part(DataPart part) {
  for (Run& run : runs_)
    run.part = part;
}

bool RowSources::have_parts() const {
  return std::ranges::any_of(runs_, [](const Run& run) { return run.part.has_value(); });
}

}  // namespace lattice
