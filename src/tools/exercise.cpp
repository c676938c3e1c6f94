#include "tools/exercise.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "files/file.hpp"
#include "lattice/files/json.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "show/blanks.hpp"
#include "show/exercise_text.hpp"
#include "show/slips.hpp"
#include "text/arithmetic.hpp"
#include "text/counted.hpp"
#include "tools/answers.hpp"

namespace lattice::tools {
namespace {

constexpr std::string_view help =
    "  0.25, (0.3 − 1)/4   an answer: a number, or how it is worked\n"
    "  Enter               the next blank that is open\n"
    "  hint                the formula of this number, and then the numbers in it\n"
    "  show                the answer: it counts as shown, not as right\n"
    "  look hidden         a table, or one number: look ∂hidden[0,2]\n"
    "  blank 3             to a blank by its number\n"
    "  again               this blank once more        list    all blanks\n"
    "  help                this                        quit    the end (also Ctrl-D)\n";

double number_of(const WorkTables& tables, const Blank& blank) {
  return tables[blank.spot.table].numbers.at_offset(blank.spot.offset);
}

bool is_right(const WorkTables& tables, const Blank& blank, double answer) {
  return std::abs(answer - number_of(tables, blank)) <= blank.within;
}

/// An exercise at the prompt.
class Prompt {
 public:
  Prompt(const WorkTables& tables, std::vector<Blank> blanks, const WorkedExample& example,
         std::string answers, Answers kept, Console& console)
      : tables_(tables),
        blanks_(std::move(blanks)),
        text_(tables_, blanks_, example.names, console.style),
        path_(std::move(answers)),
        answers_(std::move(kept)),
        console_(console) {
    for (std::size_t at = 0; at < blanks_.size(); ++at) {
      if (is_done(at)) text_.close(at);
    }
  }

  void begin() {
    if (is_over()) return;
    const std::size_t open = text_.open().size();
    const std::string blank =
        open == blanks_.size()
            ? counted(std::ssize(blanks_), "number is blank", "numbers are blank")
            : fmt::format("{} of {} numbers are still blank", open, blanks_.size());
    tell(blank + ". Work each out, and type it; help tells what else there is.");
    at_ = first_open_from(0);
    show();
  }

  /// Whether every blank is right or shown.
  [[nodiscard]] bool is_over() const { return text_.open().empty(); }

  void prompt() const { console_.out << fmt::format("▢{} = ", at_ + 1) << std::flush; }

  /// Does what was typed. False when that is to end.
  bool take(std::string_view text) {
    const std::size_t space = text.find(' ');
    const std::string_view command = text.substr(0, space);
    const std::string_view rest =
        space == std::string_view::npos ? "" : trimmed(text.substr(space));
    if (command == "quit" || command == "q") return false;
    if (text.empty()) {
      go(first_open_from(at_ + 1));
    } else if (command == "help" || command == "?") {
      console_.out << help;
    } else if (text == "again") {
      show();
    } else if (text == "list") {
      list();
    } else if (text == "hint") {
      hint();
    } else if (text == "show") {
      give_away();
    } else if (command == "look") {
      look(rest);
    } else if (command == "blank") {
      go_to(rest);
    } else if (const std::optional<double> number = parse_arithmetic(text)) {
      judge(std::string(text), *number);
    } else {
      tell(fmt::format("'{}' is not a number, and no other answer. help tells what can be typed.",
                       text));
    }
    return !is_over();
  }

  /// How it stands, at the end.
  void close() const {
    const std::size_t shown = count(Mark::shown);
    tell(fmt::format("{} of {} right{}.", count(Mark::right), blanks_.size(),
                     shown > 0 ? fmt::format(", {} shown", shown) : ""));
    if (path_.empty()) return;
    tell(is_over() ? fmt::format("The answers are in {}.", path_)
                   : fmt::format("The answers are in {}: the same command goes on.", path_));
  }

 private:
  [[nodiscard]] BlankAnswer& answer() { return answers_.blanks[at_]; }
  [[nodiscard]] bool is_done(std::size_t at) const {
    const Mark state = answers_.blanks[at].state;
    return state == Mark::right || state == Mark::shown;
  }
  [[nodiscard]] std::size_t count(Mark state) const {
    return static_cast<std::size_t>(
        std::ranges::count(answers_.blanks, state, &BlankAnswer::state));
  }

  void tell(const std::string& text) const {
    console_.print(paragraph(text, console_.style.width));
  }

  /// The first open blank from one on, and from the beginning again.
  [[nodiscard]] std::size_t first_open_from(std::size_t from) const {
    for (std::size_t on = 0; on < blanks_.size(); ++on) {
      const std::size_t at = (from + on) % blanks_.size();
      if (text_.is_open(at)) return at;
    }
    return at_;
  }

  void show() const { console_.out << "\n" << text_.question(at_); }

  void go(std::size_t at) {
    at_ = at;
    show();
  }

  void go_to(std::string_view text) {
    const std::optional<std::int64_t> number = parse_whole_number(text);
    if (!number || *number < 1 || *number > std::ssize(blanks_)) {
      return tell(fmt::format("'{}' is no blank; {}.", text,
                              blanks_.size() == 1
                                  ? "there is blank 1 alone"
                                  : fmt::format("there are 1 to {}", blanks_.size())));
    }
    const auto at = static_cast<std::size_t>(*number - 1);
    if (text_.is_open(at)) {
      go(at);
    } else {
      console_.out << said_of(at);
    }
  }

  /// One row of the list.
  [[nodiscard]] std::string said_of(std::size_t at) const {
    const BlankAnswer& answer = answers_.blanks[at];
    const double number = number_of(tables_, blanks_[at]);
    const std::string told = is_done(at) ? fmt::format("{}: {}", mark_words.of(answer.state),
                                                       format_number(number, console_.style.digits))
                             : answer.state == Mark::wrong
                                 ? fmt::format("{} is not right", answer.typed)
                                 : "";
    return fmt::format("  {}  {}\n", text_.name(at), harmless(told));
  }

  void list() const {
    for (std::size_t at = 0; at < blanks_.size(); ++at)
      console_.out << said_of(at);
  }

  void hint() {
    constexpr std::int64_t most_hints = 2;
    answer().hints = std::min(answer().hints + 1, most_hints);
    for (std::int64_t each = 1; each <= answer().hints; ++each)
      console_.out << text_.formula(at_, each == most_hints);
    keep();
  }

  void give_away() {
    answer().state = Mark::shown;
    done();
  }

  void judge(const std::string& typed, double number) {
    const Blank& blank = blanks_[at_];
    answer().typed = typed;
    answer().value = number;
    ++answer().tries;
    if (is_right(tables_, blank, number)) {
      answer().state = Mark::right;
      return done();
    }
    answer().state = Mark::wrong;
    const std::string why = diagnosis(tables_, blank, number, text_.open());
    tell(fmt::format("{} is not right. {}", typed,
                     why.empty() ? "hint tells more, and Enter goes to the next." : why));
    keep();
  }

  /// The blank is a number from now on; goes to the next.
  void done() {
    text_.close(at_);
    console_.out << said_of(at_);
    keep();
    if (!is_over()) go(first_open_from(at_ + 1));
  }

  void look(std::string_view name) const {
    if (name.empty()) return tell("look needs a name, as in look hidden or look ∂hidden[0,2].");
    try {
      console_.out << text_.look(name);
    } catch (const Error& error) {
      console_.print(fmt::format("{}\n", error.what()));
    }
  }

  void keep() const {
    if (!path_.empty()) write_file(path_, json_text(to_json(answers_), 1) + "\n");
  }

  const WorkTables& tables_;
  std::vector<Blank> blanks_;
  ExerciseText text_;
  std::string path_;
  Answers answers_;
  Console& console_;
  std::size_t at_ = 0;
};

/// The answers so far: none, or what a file holds.
Answers kept_in(const std::string& path, const WorkTables& tables, const std::vector<Blank>& blanks,
                Answers fresh) {
  std::error_code problem;
  if (path.empty() || !std::filesystem::exists(path, problem)) return fresh;
  std::optional<Answers> kept = is_plain_file(path) ? read_answers(path) : std::nullopt;
  if (!kept || kept->exercise != fresh.exercise) {
    throw FileError({.what = path + " is not written over",
                     .expected = "a file that is not there yet, or answers to this exercise",
                     .found = kept ? "answers to another exercise" : "something else",
                     .remedy = "--answers with another name"});
  }
  fresh.name = kept->name;
  for (std::size_t at = 0; at < blanks.size() && at < kept->blanks.size(); ++at) {
    BlankAnswer& answer = kept->blanks[at];
    answer.number = fresh.blanks[at].number;
    // What is right is judged, not taken on trust.
    if (answer.state == Mark::right) {
      answer.value = parse_arithmetic(answer.typed);
      if (!answer.value || !is_right(tables, blanks[at], *answer.value)) answer.state = Mark::empty;
    }
    fresh.blanks[at] = std::move(answer);
  }
  return fresh;
}

}  // namespace

void work_exercise(const WorkedExample& example, const PromptExercise& asked, std::istream& in,
                   Console& console) {
  // The blanks are those of the page; what is told of them leaves out what a matrix does not store.
  const WorkedSheet& work = example.steps.front().work;
  const std::vector<Blank> blanks =
      choose_blanks(WorkTables(work, most_written_out), asked.exercise, example.steps);
  const WorkTables tables(work);
  Answers fresh{.exercise = exercise_id(example.title, tables, blanks),
                .variant = asked.variant,
                .page = example.title};
  for (const Blank& blank : blanks)
    fresh.blanks.push_back({.number = tables.text(blank.spot)});
  Prompt prompt(tables, blanks, example, asked.answers,
                kept_in(asked.answers, tables, blanks, std::move(fresh)), console);
  prompt.begin();
  std::string typed;
  while (!prompt.is_over()) {
    prompt.prompt();
    if (!std::getline(in, typed)) {
      console.out << "\n";
      break;
    }
    if (!prompt.take(trimmed(typed))) break;
  }
  prompt.close();
}

}  // namespace lattice::tools
