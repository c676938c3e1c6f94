#include "tools/walk.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"

namespace lattice::tools {
namespace {

constexpr std::string_view help =
    "  Enter          one line on                 b              one line back\n"
    "  loss           on to the loss              reverse        to the reverse sweep\n"
    "  update         to the updates              first, last    to the ends\n"
    "  hidden, 12     to a line, by its name or number\n"
    "  step 50        another recorded step\n"
    "  why z[0,2]     where a number came from; also why ∂z[0,2] and why new W[1,0]\n"
    "  why z[0,2] 2   and the numbers it is made of, two deep; why z[0,2] all: every term\n"
    "  again          this line once more         list           all lines, and where we are\n"
    "  history        what was typed              !3, !          the third of it, the last, again\n"
    "  help           this                        quit           the end (also Ctrl-D)\n";

/// A walk through the entries of a worked example.
class Walk {
 public:
  Walk(const WorkedExample& example, Console& console) : example_(example), console_(console) {
    open(0);
  }

  void show() {
    const WorkEntry& entry = entries_[at_];
    const std::string heading = entry.heading();
    if (heading != heading_) console_.out << "\n" << show_heading(heading, console_.style);
    heading_ = heading;
    console_.out << show_title(entry, console_.style)
                 << show_numbers(entry, step().work, console_.style, example_.names);
  }

  void prompt() const {
    const std::string several =
        example_.steps.size() > 1 ? fmt::format("step {}, ", step().step) : "";
    console_.out << fmt::format("[{}{}, {} of {}] ", several, word(entries_[at_].stage), at_ + 1,
                                entries_.size())
                 << std::flush;
  }

  /// Does what was typed, and keeps it for later. False when that is to end.
  bool take(std::string_view text) {
    if (!text.starts_with('!')) {
      if (!text.empty()) typed_.emplace_back(text);
      return obey(text);
    }
    const std::optional<std::int64_t> number =
        text == "!" ? std::optional(std::ssize(typed_)) : parse_whole_number(text.substr(1));
    if (!number || *number < 1 || *number > std::ssize(typed_)) {
      tell(typed_.empty()
               ? "Nothing was typed before."
               : fmt::format("'{}' is none of {}; history lists them.", text,
                             typed_.size() == 1 ? "!1" : fmt::format("!1 to !{}", typed_.size())));
      return true;
    }
    const std::string again = typed_[static_cast<std::size_t>(*number - 1)];
    tell(again);
    return obey(again);
  }

 private:
  bool obey(std::string_view text) {
    using Stage = WorkEntry::Stage;
    const std::size_t space = text.find(' ');
    const std::string_view command = text.substr(0, space);
    const std::string_view rest =
        space == std::string_view::npos ? "" : trimmed(text.substr(space));
    if (command == "quit" || command == "q") return false;
    if (command.empty() || command == "on" || command == "next" || command == "n") {
      go(at_ + 1);
    } else if (command == "back" || command == "b") {
      at_ == 0 ? tell("This is the first line.") : go(at_ - 1);
    } else if (command == "first") {
      go(0);
    } else if (command == "last") {
      go(entries_.size() - 1);
    } else if (command == "forward") {
      go_to_stage(Stage::forward);
    } else if (command == "loss") {
      go_to_stage(Stage::loss);
    } else if (command == "reverse") {
      go_to_stage(Stage::reverse);
    } else if (command == "update") {
      go_to_stage(Stage::update);
    } else if (command == "again") {
      show();
    } else if (command == "list") {
      list();
    } else if (command == "help" || command == "?") {
      console_.out << help;
    } else if (command == "history") {
      for (std::size_t at = 0; at < typed_.size(); ++at)
        tell(fmt::format("{:>3}  {}", at + 1, typed_[at]));
    } else if (command == "step") {
      go_to_step(rest);
    } else if (command == "why") {
      why(rest);
    } else if (const std::optional<std::int64_t> number = parse_whole_number(text)) {
      go_to_line(fmt::format("#{}", *number));
    } else {
      go_to_line(text);
    }
    return true;
  }

  [[nodiscard]] const WorkedStep& step() const { return example_.steps[step_]; }

  void tell(const std::string& text) const { console_.print(text + "\n"); }

  void open(std::size_t step) {
    step_ = step;
    entries_ = entries_of(this->step().work);
    at_ = std::min(at_, entries_.size() - 1);
    heading_.clear();
  }

  void go(std::size_t at) {
    if (at >= entries_.size()) {
      const bool more = step_ + 1 < example_.steps.size();
      tell(more ? fmt::format("This step is done. On: step {}", example_.steps[step_ + 1].step)
                : "That was the last line. quit ends the walk, first starts over.");
      return;
    }
    at_ = at;
    show();
  }

  void go_to_stage(WorkEntry::Stage stage) {
    const auto found = std::ranges::find(entries_, stage, &WorkEntry::stage);
    if (found != entries_.end()) go(static_cast<std::size_t>(found - entries_.begin()));
  }

  void go_to_step(std::string_view text) {
    const std::optional<double> number = parse_number(text);
    for (std::size_t at = 0; at < example_.steps.size(); ++at) {
      if (number != static_cast<double>(example_.steps[at].step)) continue;
      at_ = 0;
      open(at);
      show();
      return;
    }
    std::string known;
    for (const WorkedStep& each : example_.steps)
      known += fmt::format(" {}", each.step);
    tell(fmt::format("There is no recorded step '{}'; there is:{}", text, known));
  }

  /// To a line by its name: forward, or with ∂ in front where the sweep comes past it.
  void go_to_line(std::string_view text) {
    constexpr std::string_view mark = "∂";
    const bool back = text.starts_with(mark);
    const std::string_view name = back ? text.substr(mark.size()) : text;
    std::vector<std::string> known = {"back",  "reverse", "update", "loss",   "first", "last",
                                      "again", "list",    "step",   "why",    "help",  "quit",
                                      "on",    "forward", "next",   "history"};
    for (std::size_t at = 0; at < entries_.size(); ++at) {
      const WorkEntry& entry = entries_[at];
      if (entry.line == 0 || entry.stage == WorkEntry::Stage::update) continue;
      const std::string of = step().work.sheet().line(entry.line).name();
      if (back == (entry.stage == WorkEntry::Stage::reverse)) {
        if (of == name || name == fmt::format("#{}", entry.line)) return go(at);
        known.push_back(back ? std::string(mark) + of : of);
      }
    }
    const std::string near = nearest(text, known);
    tell(fmt::format("'{}' is neither a word of the walk nor a line.{} help tells what there is.",
                     text, near.empty() ? "" : fmt::format(" Did you mean {}?", near)));
  }

  /// Every entry in one row, and a mark where we are.
  void list() const {
    for (std::size_t at = 0; at < entries_.size(); ++at) {
      const WorkEntry& entry = entries_[at];
      const std::string title = entry.line == 0 ? fmt::format("    │ {}\n", entry.section)
                                                : show_title(entry, console_.style);
      console_.out << (at == at_ ? "▸" : " ") << title.substr(title.front() == ' ' ? 1 : 0);
    }
  }

  void why(std::string_view text) const {
    const std::size_t bracket = text.rfind(']');
    const std::size_t from = bracket == std::string_view::npos ? 0 : bracket;
    const std::size_t space = text.find(' ', text.starts_with("new ") && from == 0 ? 4 : from);
    const std::string_view depth_text =
        space == std::string_view::npos ? "0" : trimmed(text.substr(space));
    const bool all_terms = depth_text == "all";
    const std::optional<double> depth = all_terms ? 0.0 : parse_number(depth_text);
    if (!depth || *depth < 0.0 || *depth > 100.0) {
      tell(fmt::format("'{}' is no depth; a whole number is, as in why loss 2", depth_text));
      return;
    }
    try {
      Notation notation{.digits = console_.style.digits};
      if (all_terms) notation.longest_sum = std::string::npos;
      const auto [told, ask] = WorkedSheet::parse_asked(text.substr(0, space));
      const WorkedSheet& work = step().work;
      const Line line = work.sheet().line(told.line);
      const Place asked{.line = told.line, .at = index_on(line, told, example_.names)};
      const Chain chain = work.why(asked, ask, static_cast<int>(*depth), notation);
      const std::string words =
          place_in_words(example_.names, line, asked.at, chain.explanation.formula, work.sheet());
      tell(show_explanation(chain, words, notation, console_.style.width));
      console_.out << show_patches(patches_of(chain.explanation.formula, work.sheet()),
                                   console_.style);
    } catch (const Error& error) {
      tell(error.what());
    }
  }

  const WorkedExample& example_;
  Console& console_;
  std::vector<WorkEntry> entries_;
  std::size_t step_ = 0;
  std::size_t at_ = 0;
  std::string heading_;
  std::vector<std::string> typed_ = {};
};

}  // namespace

void walk_through(const WorkedExample& example, std::istream& in, Console& console) {
  console.out << "Enter goes one line on; help tells what else there is.\n";
  Walk walk(example, console);
  walk.show();
  walk.prompt();
  std::string text;
  while (std::getline(in, text)) {
    if (!walk.take(trimmed(text))) return;
    walk.prompt();
  }
  console.out << "\n";
}

}  // namespace lattice::tools
