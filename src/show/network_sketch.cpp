#include "show/network_sketch.hpp"

#include <algorithm>
#include <set>

#include "lattice/judging/loss.hpp"
#include "lattice/network/given_lines.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

using Kind = NetworkSketch::Link::Kind;

bool has_examples(const Line& line) {
  const Shape& shape = line.shape();
  if (shape.rank() < 2) return false;
  // A matrix between nodes has one of them on each row, and is no column.
  return shape.role(0) == Role::example ||
         (shape.role(0) == Role::node && shape.role(1) != Role::node);
}

bool is_calculated(const Line& line) {
  return line.kind() == Line::Kind::calculated;
}

/// Whether a line prepares the data, or makes a loss of the answers.
bool is_before_or_after(const Line& line) {
  return line.section() == scaling_section || line.section() == loss_section;
}

/// The numbers of the lines that a line is made from, and its own.
std::set<std::size_t> behind(const Line& result) {
  std::set<std::size_t> found;
  std::vector<Line> open = {result};
  while (!open.empty()) {
    const Line line = open.back();
    open.pop_back();
    if (!found.insert(line.number()).second) continue;
    for (const Line& input : line.inputs())
      open.push_back(input);
  }
  return found;
}

class Sketching {
 public:
  explicit Sketching(const WorkedSheet& work) : result_(work.result()), behind_(behind(result_)) {
    for (const Line& line : work.sheet().lines()) {
      if (!is_passed_through(line)) continue;
      for (const Line& input : inputs_of(line))
        add(input);
      add(line);
    }
    std::ranges::sort(sketch_.columns, {}, &Line::number);
  }

  [[nodiscard]] std::optional<NetworkSketch> sketch() && {
    if (sketch_.columns.empty()) return std::nullopt;
    const std::size_t units = sketch_.columns.size();
    if (!column_of(result_)) sketch_.columns.push_back(result_);
    for (std::size_t at = 0; at < units; ++at)
      link_to(at);
    if (sketch_.columns.size() > units) link_to_result(units);
    return std::move(sketch_);
  }

 private:
  [[nodiscard]] bool is_passed_through(const Line& line) const {
    return is_calculated(line) && has_examples(line) && !is_before_or_after(line) &&
           behind_.contains(line.number());
  }

  /// The inputs that come from an example: of what is calculated beside data, such as the mask of a
  /// dropout, only that.
  [[nodiscard]] static std::vector<Line> inputs_of(const Line& line) {
    std::vector<Line> inputs;
    for (const Line& input : line.inputs()) {
      if (has_examples(input)) inputs.push_back(input);
    }
    if (std::ranges::any_of(inputs, is_calculated))
      std::erase_if(inputs, [](const Line& input) { return !is_calculated(input); });
    return inputs;
  }

  void add(const Line& line) {
    if (!column_of(line)) sketch_.columns.push_back(line);
  }

  [[nodiscard]] std::optional<std::size_t> column_of(const Line& line) const {
    const auto found = std::ranges::find(sketch_.columns, line);
    if (found == sketch_.columns.end()) return std::nullopt;
    return static_cast<std::size_t>(found - sketch_.columns.begin());
  }

  void link_to(std::size_t to) {
    const Line& line = sketch_.columns[to];
    if (!is_passed_through(line)) return;
    const std::vector<Line> inputs = line.inputs();
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      const std::optional<std::size_t> from = column_of(inputs[input]);
      if (from && *from != to) sketch_.links.push_back(link(line, inputs, input, *from, to));
    }
  }

  static NetworkSketch::Link link(const Line& line, const std::vector<Line>& inputs,
                                  std::size_t input, std::size_t from, std::size_t to) {
    const Passing passing = WorksheetRecord::entry(line).operation->passing(input);
    const bool is_alike = line.shape() == inputs[input].shape();
    NetworkSketch::Link link{.kind = is_alike ? Kind::each : Kind::all, .from = from, .to = to};
    if (passing.kind == Passing::Kind::matrix) {
      const Line& factor = inputs[passing.factor];
      const bool is_between_nodes =
          factor.shape().rank() == 2 && factor.shape().role(0) == Role::node;
      link.kind = is_between_nodes ? Kind::nodes : Kind::weighted;
      if (!is_between_nodes) link.weight = factor;
    } else if (passing.kind == Passing::Kind::window) {
      link.kind = Kind::window;
      link.weight = inputs[passing.factor];
    } else if (passing.kind == Passing::Kind::across || passing.kind == Passing::Kind::mixed) {
      link.kind = Kind::all;
    }
    return link;
  }

  /// The columns that the lines of the loss are made from.
  void link_to_result(std::size_t units) {
    std::set<std::size_t> last;
    std::vector<Line> open = {result_};
    std::set<std::size_t> seen;
    while (!open.empty()) {
      const Line line = open.back();
      open.pop_back();
      if (!seen.insert(line.number()).second) continue;
      for (const Line& input : line.inputs()) {
        if (const std::optional<std::size_t> from = column_of(input)) {
          last.insert(*from);
        } else {
          open.push_back(input);
        }
      }
    }
    for (const std::size_t from : last)
      sketch_.links.push_back({.kind = Kind::all, .from = from, .to = units});
  }

  Line result_;
  std::set<std::size_t> behind_;
  NetworkSketch sketch_;
};

}  // namespace

std::optional<NetworkSketch> sketch_of(const WorkedSheet& work) {
  return Sketching(work).sketch();
}

}  // namespace lattice
