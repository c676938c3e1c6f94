#include "lattice/worksheet/explain.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <optional>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/wrapping.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

/// Lines without a name are written out inside one another so many times, and as long as a formula
/// has fewer cells than this; beyond that they appear by their number.
constexpr int deepest = 6;
constexpr int most_cells = 20'000;

/// Makes formulas over the named lines of a worksheet, and over the gradients of a sweep.
class Author {
 public:
  Author(WorksheetRecord& record, const ReverseSweep* sweep) : record_(record), sweep_(sweep) {}

  /// How the number on a calculated line is made.
  [[nodiscard]] Formula made(std::uint32_t position, const Index& at) {
    return record_[position].operation->element(View(*this, position), at);
  }

  /// How the gradient at a line is made: a term for each use. The line is not the sweep's result.
  [[nodiscard]] Formula gradient_made(std::uint32_t position, const Index& at) {
    std::vector<Formula> uses;
    const std::uint32_t last = WorksheetRecord::position(sweep_->result());
    for (std::uint32_t user = position + 1; user <= last; ++user) {
      const WorksheetRecord::Entry& entry = record_[user];
      if (entry.operation == nullptr || !sweep_->has_reached(record_.line(user))) continue;
      const std::span<const std::uint32_t> inputs = record_.inputs(entry);
      for (std::size_t input = 0; input < inputs.size(); ++input) {
        if (inputs[input] != position || !entry.operation->passes_back(input)) continue;
        uses.push_back(entry.operation->reverse_element(View(*this, user), input, at));
      }
    }
    return Formula::sum(std::move(uses));
  }

 private:
  /// The surroundings of one line, for its operation.
  class View final : public Cells {
   public:
    View(Author& author, std::uint32_t position)
        : author_(author),
          position_(position),
          inputs_(author.record_.inputs(author.record_[position])) {}

    [[nodiscard]] const Shape& shape(std::size_t input) const override {
      return author_.record_[inputs_[input]].value.shape();
    }
    [[nodiscard]] const Shape& result_shape() const override {
      return author_.record_[position_].value.shape();
    }
    [[nodiscard]] Formula input(std::size_t input, const Index& at) const override {
      return author_.value(inputs_[input], at);
    }
    [[nodiscard]] Formula result(const Index& at) const override {
      return author_.value(position_, at);
    }
    [[nodiscard]] Formula arrived(const Index& at) const override {
      return author_.gradient(position_, at);
    }

   private:
    Author& author_;
    std::uint32_t position_;
    std::span<const std::uint32_t> inputs_;
  };

  [[nodiscard]] bool may_write_out() const { return depth_ < deepest && cells_ < most_cells; }

  template <class Write>
  [[nodiscard]] Formula deeper(Write write) {
    ++depth_;
    Formula formula = write();
    --depth_;
    return formula;
  }

  [[nodiscard]] Formula value(std::uint32_t position, const Index& at) {
    const WorksheetRecord::Entry& entry = record_[position];
    if (!entry.name.empty() || !may_write_out())
      return cell(Cell::Kind::value, position, at, entry.value);
    const Formula written_out = deeper([&] { return made(position, at); });
    const bool is_list =
        written_out.kind() == Formula::Kind::function && written_out.parts().size() > 1;
    return is_list ? Formula::shorthand("m", written_out) : written_out;
  }

  [[nodiscard]] Formula gradient(std::uint32_t position, const Index& at) {
    const bool is_result = position == WorksheetRecord::position(sweep_->result());
    if (record_[position].name.empty() && !is_result && may_write_out()) {
      return deeper([&] { return gradient_made(position, at); });
    }
    return cell(Cell::Kind::gradient, position, at, sweep_->gradient(record_.line(position)));
  }

  [[nodiscard]] Formula cell(Cell::Kind kind, std::uint32_t position, const Index& at,
                             const Tensor& numbers) {
    ++cells_;
    return Formula(Cell{.kind = kind,
                        .name = record_.name(position),
                        .at = at,
                        .number = numbers.at(at),
                        .line = position + 1});
  }

  WorksheetRecord& record_;
  const ReverseSweep* sweep_;
  int depth_ = 0;
  int cells_ = 0;
};

/// A line that was not calculated, explained.
std::string note_for(const Line& line) {
  if (line.kind() == Line::Kind::given) return "given: it is data, not calculated";
  if (line.kind() == Line::Kind::weight)
    return "a weight: where it starts, or what updates made it";
  if (line.kind() == Line::Kind::held) return "a weight, held fixed in this calculation";
  if (line.kind() == Line::Kind::kept)
    return "a kept number: where it starts, or what the step before made of it";
  return "";
}

/// The number at a place of a line's value or gradient; an error names the line.
double number_at(const Line& line, const Tensor& numbers, const Index& at) {
  try {
    return numbers.at(at);
  } catch (const IndexError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("there is no {}{}: {} is {}", line.name(), to_string(at),
                               line.name(), to_string(line.shape()));
    throw IndexError(trouble);
  }
}

}  // namespace

std::string Explanation::text(const Notation& notation, std::size_t width) const {
  const std::string indent(columns(subject), ' ');
  const auto row = [&](const std::string& text) {
    return " = " + wrap_formula(text, indent.size() + 3, width);
  };
  const std::string result = format_number(value, notation.digits);
  if (!note.empty()) return fmt::format("{} = {}    ({})", subject, result, note);

  Notation filled_in = notation;
  filled_in.filled_in = true;
  const std::string in_names = formula.text(notation);
  const std::string in_numbers = formula.text(filled_in);
  std::string text = subject + row(in_names);
  const std::vector<Formula::Definition> named = formula.shorthands(notation);
  const std::vector<Formula::Definition> numbered = formula.shorthands(filled_in);
  for (std::size_t at = 0; at < named.size(); ++at) {
    const std::string with = fmt::format("   with {} = ", named[at].name);
    const std::string number = format_number(named[at].number, notation.digits);
    const std::string& inside = numbered[at].text;
    const std::string in_between =
        inside == named[at].text || inside == number ? "" : " = " + inside;
    const std::string meaning = fmt::format("{}{} = {}", named[at].text, in_between, number);
    text += fmt::format("\n{}{}{}", indent, with,
                        wrap_formula(meaning, indent.size() + columns(with), width));
  }
  if (in_numbers != in_names && in_numbers != result) text += "\n" + indent + row(in_numbers);
  if (in_names != result) text += "\n" + indent + row(result);
  return text;
}

Explanation explain(const Line& line, const Index& at) {
  const double value = number_at(line, line.value(), at);
  const std::string subject = line.name() + to_string(at);
  if (line.kind() != Line::Kind::calculated) return {subject, value, value, note_for(line)};
  Author author(WorksheetRecord::of(line), nullptr);
  return {subject, author.made(WorksheetRecord::position(line), at), value, ""};
}

Explanation explain_gradient(const ReverseSweep& sweep, const Line& line, const Index& at) {
  const double value = number_at(line, sweep.gradient(line), at);
  const std::string result = sweep.result().name();
  const std::string subject = fmt::format("∂{}/∂{}{}", result, line.name(), to_string(at));
  if (line == sweep.result()) {
    return {subject, value, value,
            line.value().count() == 1 && value == 1.0
                ? "the sweep starts here: a number changes with itself by 1"
                : "the sweep starts here, with a gradient that was given"};
  }
  Author author(WorksheetRecord::of(line), &sweep);
  return {subject, author.gradient_made(WorksheetRecord::position(line), at), value, ""};
}

namespace {

/// Follows the numbers of explanations from one to the next.
class Follower {
 public:
  Follower(const Worksheet& sheet, const ReverseSweep* sweep, const Notation& notation)
      : sheet_(sheet), sweep_(sweep), notation_(notation) {}

  [[nodiscard]] Chain follow(Explanation explanation, int depth) {
    explained_.push_back(explanation.subject);
    Chain chain{.explanation = std::move(explanation)};
    if (depth == 0 || !chain.explanation.note.empty()) return chain;
    for (const Cell& cell : chain.explanation.formula.cells(notation_)) {
      const std::optional<Explanation> next = explained(cell);
      if (!next || std::ranges::find(explained_, next->subject) != explained_.end()) continue;
      chain.because.push_back(follow(*next, depth - 1));
    }
    return chain;
  }

 private:
  [[nodiscard]] std::optional<Explanation> explained(const Cell& cell) const {
    if (cell.line == 0) return std::nullopt;
    const Line line = sheet_.line(cell.line);
    if (cell.kind == Cell::Kind::gradient) {
      if (sweep_ == nullptr || line == sweep_->result()) return std::nullopt;
      return explain_gradient(*sweep_, line, cell.at);
    }
    if (line.kind() != Line::Kind::calculated) return std::nullopt;
    return explain(line, cell.at);
  }

  const Worksheet& sheet_;
  const ReverseSweep* sweep_;
  const Notation& notation_;
  std::vector<std::string> explained_;
};

void write(const Chain& chain, const Notation& notation, const std::string& indent,
           std::string& text) {
  constexpr std::size_t narrowest = 40;
  const std::size_t width =
      page_width > indent.size() + narrowest ? page_width - indent.size() : narrowest;
  const std::string own = chain.explanation.text(notation, width);
  if (!text.empty()) text += "\n\n";
  text += indent;
  for (const char letter : own) {
    text += letter;
    if (letter == '\n') text += indent;
  }
  for (const Chain& each : chain.because)
    write(each, notation, indent + "    ", text);
}

}  // namespace

std::string Chain::text(const Notation& notation) const {
  std::string text;
  write(*this, notation, "", text);
  return text;
}

Chain explain_further(Explanation explanation, const Worksheet& sheet, const ReverseSweep* sweep,
                      int depth, const Notation& notation) {
  return Follower(sheet, sweep, notation).follow(std::move(explanation), depth);
}

Place parse_place(std::string_view text) {
  const auto refuse = [&] {
    return NameError({.what = fmt::format("'{}' does not say which number is meant", text),
                      .expected =
                          "a name and, in brackets, a position on each axis: W[1,0], z[4,0], "
                          "cost",
                      .found = fmt::format("'{}'", text)});
  };
  const size_t bracket = text.find('[');
  if (bracket == std::string_view::npos) {
    if (text.empty() || text.find(']') != std::string_view::npos) throw refuse();
    return {std::string(text), {}};
  }
  if (bracket == 0 || !text.ends_with(']')) throw refuse();
  std::vector<std::int64_t> positions;
  const char* next = text.data() + bracket + 1;
  const char* const end = text.data() + text.size() - 1;
  for (;;) {
    while (next != end && *next == ' ')
      ++next;
    std::int64_t position = 0;
    const auto [stop, problem] = std::from_chars(next, end, position);
    if (problem != std::errc()) throw refuse();
    positions.push_back(position);
    next = stop;
    while (next != end && *next == ' ')
      ++next;
    if (next == end) break;
    if (*next++ != ',') throw refuse();
  }
  return {std::string(text.substr(0, bracket)), Index(positions)};
}

}  // namespace lattice
