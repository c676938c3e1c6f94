#include "lattice/worksheet/explain.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/text/wrapping.hpp"
#include "lattice/worksheet/laid_out.hpp"
#include "worksheet/explainer.hpp"

namespace lattice {
std::string Explanation::text(const Notation& notation, std::size_t width) const {
  const std::string indent(columns(subject), ' ');
  const auto row = [&](const std::string& text) {
    return " = " + wrap_formula(text, indent.size() + 3, width);
  };
  const std::string number = format_number(value, notation.digits);
  const std::string result =
      is_residue ? fmt::format("{}    ({}, what rounding leaves where terms cancel)",
                               residue_in_text, number)
                 : number;
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
    const std::string gives = format_number(named[at].number, notation.digits);
    const std::string& inside = numbered[at].text;
    const std::string in_between =
        inside == named[at].text || inside == gives ? "" : " = " + inside;
    const std::string meaning = fmt::format("{}{} = {}", named[at].text, in_between, gives);
    text += fmt::format("\n{}{}{}", indent, with,
                        wrap_formula(meaning, indent.size() + columns(with), width));
  }
  if (in_numbers != in_names && in_numbers != result) text += "\n" + indent + row(in_numbers);
  if (in_names != result) text += "\n" + indent + row(result);
  if (!worked.empty()) text += fmt::format("\n({})", worked);
  return text;
}

namespace {

/// The same with a mark where the number is what rounding leaves.
Explanation with_residue(Explanation explanation, const Line& line) {
  explanation.is_residue =
      is_residue(explanation.formula, explanation.value, line.value().precision());
  return explanation;
}

}  // namespace

Explanation explain(const Line& line, const Index& at, Told told) {
  return with_residue(Explainer(line, nullptr, 0, told).value(line, at), line);
}

Explanation explain(const Line& line) {
  const Tensor& value = line.value();
  if (value.count() != 1) {
    throw ShapeError({.what = fmt::format("{} has {} numbers: which one is explained?", line.name(),
                                          value.count()),
                      .expected = "a place of it, such as explain(line, {0, 0})",
                      .found = to_string(line.shape())});
  }
  return explain(line, Index::zeros(line.shape().rank()));
}

Explanation explain_gradient(const ReverseSweep& sweep, const Line& line, const Index& at,
                             Told told) {
  return with_residue(Explainer(line, &sweep, 0, told).gradient(line, at), line);
}

namespace {

/// Follows the numbers of explanations from one to the next.
class Follower {
 public:
  Follower(const Worksheet& sheet, const ReverseSweep* sweep, const Notation& notation, Told told)
      : sheet_(sheet), sweep_(sweep), notation_(notation), told_(told) {}

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
      return explain_gradient(*sweep_, line, cell.at, told_);
    }
    if (line.kind() != Line::Kind::calculated) return std::nullopt;
    return explain(line, cell.at, told_);
  }

  const Worksheet& sheet_;
  const ReverseSweep* sweep_;
  const Notation& notation_;
  Told told_;
  std::vector<std::string> explained_;
};

void write(const Chain& chain, const Notation& notation, std::size_t width,
           const std::string& indent, std::string& text) {
  constexpr std::size_t narrowest = 40;
  const std::size_t own_width =
      width > indent.size() + narrowest ? width - indent.size() : narrowest;
  const std::string own = chain.explanation.text(notation, own_width);
  if (!text.empty()) text += "\n\n";
  text += indent;
  for (const char letter : own) {
    text += letter;
    if (letter == '\n') text += indent;
  }
  for (const Chain& each : chain.because)
    write(each, notation, width, indent + "    ", text);
}

}  // namespace

std::string Chain::text(const Notation& notation, std::size_t width) const {
  std::string text;
  write(*this, notation, width, "", text);
  return text;
}

Chain explain_further(Explanation explanation, const Worksheet& sheet, const ReverseSweep* sweep,
                      int depth, const Notation& notation, Told told) {
  return Follower(sheet, sweep, notation, told).follow(std::move(explanation), depth);
}

namespace {

/// Where the first of several positions ends: at a comma behind its quotes, if it begins with one.
std::size_t end_of_position(std::string_view positions) {
  const std::size_t begin = positions.find_first_not_of(' ');
  const bool is_quoted = begin != std::string_view::npos && positions[begin] == '"';
  const std::size_t closing = is_quoted ? positions.find('"', begin + 1) : std::string_view::npos;
  return positions.find(',', closing == std::string_view::npos ? 0 : closing);
}

bool is_in_quotes(std::string_view word) {
  return word.size() >= 2 && word.front() == '"' && word.back() == '"';
}

}  // namespace

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
  std::vector<std::string> words;
  std::string_view rest = text.substr(bracket + 1, text.size() - bracket - 2);
  for (;;) {
    const std::size_t comma = end_of_position(rest);
    words.emplace_back(trimmed(rest.substr(0, comma)));
    if (words.back().empty() || words.back() == "\"\"") throw refuse();
    if (comma == std::string_view::npos) break;
    rest.remove_prefix(comma + 1);
  }
  Place place{.line = std::string(text.substr(0, bracket))};
  std::vector<std::int64_t> positions;
  for (const std::string& word : words) {
    if (const std::optional<std::int64_t> position = parse_whole_number(word))
      positions.push_back(*position);
  }
  if (positions.size() < words.size()) {
    place.words = std::move(words);
  } else {
    place.at = Index(positions);
  }
  return place;
}

namespace {

/// The position on an axis that a word means: its number, or its name, which may be in quotes.
std::int64_t position_called(const std::string& written, const Line& line, const Shape& shape,
                             int axis, const AxisNames& names) {
  if (const std::optional<std::int64_t> number = parse_whole_number(written)) return *number;
  const std::string word = is_in_quotes(written) ? written.substr(1, written.size() - 2) : written;
  const Role role = shape.role(axis);
  std::vector<std::string> called;
  for (std::int64_t at = 0; at < shape[axis]; ++at) {
    const std::string& name = names.of(shape, axis, at);
    if (name == word) return at;
    if (!name.empty()) called.push_back(name);
  }
  const std::string near = nearest(word, called);
  throw NameError(
      {.what = fmt::format("no place on axis {} of {} is called '{}'", axis, line.name(), word),
       .expected = called.empty() ? fmt::format("a number from 0 to {}", shape[axis] - 1)
                                  : fmt::format("a number, or one of {} {}", called.size(),
                                                plural(role, "names")),
       .found = fmt::format("'{}'", word),
       .remedy = did_you_mean(near)});
}

}  // namespace

Index index_on(const Line& line, const Place& place, const AxisNames& names) {
  const bool is_only_one = place.at.rank() == 0 && line.shape().count() == 1;
  if (place.words.empty())
    return is_only_one ? Index::zeros(line.shape().rank()) : as_on_line(line, place.at);
  const bool is_as_on_line = std::ssize(place.words) == line.shape().rank();
  const Shape shape = is_as_on_line ? line.shape() : laid_out(line);
  std::vector<std::int64_t> positions;
  for (std::size_t at = 0; at < place.words.size(); ++at) {
    // More positions than axes are refused by whoever looks there.
    const int axis = std::min(static_cast<int>(at), std::max(shape.rank() - 1, 0));
    positions.push_back(
        shape.rank() == 0 ? 0 : position_called(place.words[at], line, shape, axis, names));
  }
  return as_on_line(line, Index(positions));
}

}  // namespace lattice
