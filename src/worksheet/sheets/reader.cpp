#include "worksheet/sheets/reader.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/text/numbers.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "worksheet/sheets/names.hpp"

namespace lattice::sheets {
namespace {

/// The words that say something about the sheet, with the rest of their line.
constexpr std::string_view headings[] = {"title",   "section", "precision", "seed", "features",
                                         "targets", "classes", "nodes",     "data"};

bool is_among(std::string_view word, std::span<const std::string_view> words) {
  return std::ranges::find(words, word) != words.end();
}

}  // namespace

ReadSheet Reader::read() {
  if (source_.text.size() > most_sheet_bytes) {
    throw SettingError({.what = fmt::format("{} is too long", source_.name),
                        .expected = fmt::format("at most {} bytes", most_sheet_bytes),
                        .found = fmt::format("{}", source_.text.size())});
  }
  if (!is_utf8(source_.text)) {
    throw SettingError({.what = fmt::format("{} is no text", source_.name),
                        .expected = "letters in UTF-8",
                        .found = "other bytes"});
  }
  for (std::size_t at = 0; at < source_.text.size();)
    statement(at);
  if (read_.sheet.size() == 0) {
    throw SettingError({.what = fmt::format("{} has no lines", source_.name),
                        .expected = "lines such as weight w = 2, or cost = (w - 1)^2",
                        .found = "nothing"});
  }
  read_.result = result_.value_or(read_.sheet.line(read_.sheet.size()));
  return std::move(read_);
}

void Reader::statement(std::size_t& at) {
  const std::string_view text = source_.text;
  const std::size_t start = text.find_first_not_of(" \t\r\n", at);
  if (start == std::string_view::npos) {
    at = text.size();
    return;
  }
  at = start;
  constexpr std::string_view rule = "─";
  if (text.substr(start).starts_with(rule)) {
    std::string name = rest_of_line(source_, at);
    while (name.starts_with(rule))
      name.erase(0, rule.size());
    while (name.ends_with(rule))
      name.erase(name.size() - rule.size());
    read_.sheet.section(trimmed(name));
    return;
  }
  const std::size_t word_end = std::min(text.find_first_of(" \t\r\n=[#", start), text.size());
  const Token word{.kind = Token::Kind::name,
                   .text = std::string(text.substr(start, word_end - start)),
                   .from = start,
                   .length = word_end - start};
  const std::size_t behind = std::min(text.find_first_not_of(" \t", word_end), text.size());
  const bool is_line = behind < text.size() && (text[behind] == '=' || text[behind] == '[');
  if (!is_line && is_among(word.text, headings)) {
    at = word_end;
    heading(word, at);
    return;
  }
  Parser parser(source_, tokens_of_statement(source_, at));
  if (parser.at_end()) return;
  const bool has_name_behind = parser.after(1).kind == Token::Kind::name ||
                               parser.after(1).kind == Token::Kind::quoted ||
                               parser.after(1).kind == Token::Kind::reference;
  if (has_name_behind && is_among(parser.next().text, kinds_of_leaf)) return leaf(parser);
  if (has_name_behind && parser.next().is_word("next")) return next_value(parser);
  if (has_name_behind && parser.next().is_word("sweep")) return sweep(parser);
  calculated(parser);
}

void Reader::heading(const Token& word, std::size_t& at) {
  const std::string text = rest_of_line(source_, at);
  const auto refuse = [&](const std::string& what, const std::string& expected) {
    source_.refuse(word, {.what = what,
                          .expected = expected,
                          .found = text.empty() ? "nothing" : fmt::format("'{}'", text)});
  };
  if (text.empty()) refuse(fmt::format("behind {} something is missing", word.text), "its text");
  if (word.text == "title") {
    read_.heading.title = unquoted(text);
  } else if (word.text == "section") {
    read_.sheet.section(unquoted(text));
  } else if (word.text == "precision") {
    const std::optional<Precision> precision = precision_words.find(text);
    if (!precision) refuse("this is no precision", "double, or single");
    if (read_.sheet.size() > 0) refuse("the precision comes too late", "it above all lines");
    precision_ = *precision;
  } else if (word.text == "seed") {
    const std::optional<std::int64_t> seed = parse_whole_number(text);
    if (!seed || *seed < 0) refuse("this is no seed", "a whole number of 0 or more");
    seed_ = static_cast<std::uint64_t>(*seed);
  } else if (word.text == "data") {
    data(word, text);
  } else {
    AxisNames& names = read_.heading.names;
    std::vector<std::string>& list = word.text == "features"  ? names.features
                                     : word.text == "targets" ? names.targets
                                     : word.text == "classes" ? names.classes
                                                              : names.nodes;
    list = split_names(text);
    for (const std::string& name : list) {
      if (const std::optional<std::string> bad = unwelcome_in(name))
        refuse("this name cannot be shown", "plain text");
    }
  }
}

AskedRows Reader::asked_rows(const Token& word, const std::string& text) const {
  const auto refuse = [&](const std::string& found) {
    source_.refuse(
        word, {.what = "these data cannot be read",
               .expected = "a data set, which rows, and of a table which columns: data pots.csv, "
                           "rows 0 to 3, target kind, feature width, feature height",
               .found = found});
  };
  if (!reading_.data) refuse("no data sets here");
  const std::vector<std::string> parts = split_names(text);
  if (parts.front().empty()) refuse(fmt::format("'{}'", text));
  AskedRows asked{.set = parts.front()};
  for (const std::string& part : std::span(parts).subspan(1)) {
    const std::size_t space = std::min(part.find(' '), part.size());
    const std::string kind = part.substr(0, space);
    const std::string name = unquoted(trimmed(part.substr(space)));
    if ((kind == "target" || kind == "feature") && !name.empty()) {
      (kind == "target" ? asked.targets : asked.features).push_back(name);
      continue;
    }
    std::size_t at = 0;
    const Source rows{part, "the rows"};
    const std::vector<Token> tokens = tokens_of_statement(rows, at);
    const auto whole = [&](std::size_t which) {
      const double number = which < tokens.size() ? tokens[which].number : -1.0;
      const bool is_whole = which < tokens.size() && tokens[which].kind == Token::Kind::number &&
                            number >= 0.0 && number < 1e12 && std::floor(number) == number;
      if (!is_whole) refuse(fmt::format("'{}'", part));
      return static_cast<std::int64_t>(number);
    };
    const bool is_range = tokens.size() == 5 && tokens[2].is_word("to");
    const bool is_row = tokens.front().is_word("rows") || tokens.front().is_word("row");
    if (!is_row || (!is_range && tokens.size() != 3)) refuse(fmt::format("'{}'", part));
    asked.first = whole(1);
    asked.last = is_range ? whole(3) : asked.first;
  }
  return asked;
}

void Reader::data(const Token& word, const std::string& text) {
  const AskedRows asked = asked_rows(word, text);
  SheetData found;
  try {
    found = reading_.data(asked);
  } catch (const Error& error) {
    source_.refuse(word, error.trouble());
  }
  const auto add = [&](const char* name, const Tensor& numbers) {
    if (numbers.empty()) return;
    const Token token{
        .kind = Token::Kind::name, .text = name, .from = word.from, .length = word.length};
    if (lines_.contains(name)) {
      source_.refuse(word, {.what = fmt::format("there is a line called {} already", name),
                            .expected = "data above lines of these names",
                            .found = fmt::format("line {}", lines_.find(name)->second.number())});
    }
    keep(token, read_.sheet.given(name, numbers.in(precision_)));
  };
  add("x", found.features);
  add("y", found.classes.empty() ? found.targets : found.classes);
  if (read_.heading.title.empty()) read_.heading.title = found.heading.title;
  read_.heading.names = found.heading.names;
  read_.heading.rows = found.heading.rows;
}

Token Reader::take_new_name(Parser& parser) {
  Token name = parser.next();
  const bool is_name = name.kind == Token::Kind::name || name.kind == Token::Kind::quoted ||
                       name.kind == Token::Kind::reference;
  if (!is_name) parser.refuse("here the name of a line is missing", "a name, and =");
  const auto there = lines_.find(name.text);
  if (there != lines_.end()) {
    source_.refuse(name,
                   {.what = fmt::format("there is a line called {} already", name.text),
                    .expected = "a name of its own for each line",
                    .found = fmt::format("line {} of the worksheet", there->second.number())});
  }
  parser.take();
  return name;
}

void Reader::keep(const Token& name, const Line& line) {
  lines_.insert_or_assign(name.text, line);
}

void Reader::check_axes(const Axes& axes, const Shape& shape, const Token& at) const {
  bool fits = static_cast<std::size_t>(shape.rank()) == axes.extents.size();
  for (int axis = 0; fits && axis < shape.rank(); ++axis) {
    const std::int64_t extent = axes.extents[static_cast<std::size_t>(axis)];
    fits = extent == 0 || extent == shape[axis];
  }
  if (fits) return;
  std::vector<std::string> written;
  for (std::size_t axis = 0; axis < axes.extents.size(); ++axis) {
    written.push_back(
        fmt::format("{}{}{}", word(axes.roles[axis]),
                    axes.roles[axis] == Role::none || axes.extents[axis] == 0 ? "" : " ",
                    axes.extents[axis] == 0 ? "" : fmt::format("{}", axes.extents[axis])));
  }
  source_.refuse(at, {.what = fmt::format("{} has other axes", at.text),
                      .expected = written.empty() ? "[one number]"
                                                  : fmt::format("[{}]", fmt::join(written, " × ")),
                      .found = to_string(shape)});
}

Tensor Reader::numbers_of(const SheetValue& value) const {
  if (const auto* const number = std::get_if<double>(&value)) return tensor(*number, precision_);
  const auto* const line = std::get_if<Line>(&value);
  return (line != nullptr ? line->value() : std::get<Tensor>(value)).in(precision_);
}

void Reader::leaf(Parser& parser) {
  const std::string kind = parser.take().text;
  const Token name = take_new_name(parser);
  const bool is_unnamed = name.kind == Token::Kind::reference;
  if (is_unnamed && kind != "given") {
    source_.refuse(name, {.what = fmt::format("{} needs a name", kind),
                          .expected = "letters, digits and dots, such as W",
                          .found = in_words(name)});
  }
  const std::optional<Axes> axes = parser.axes();
  parser.demand("=", "the name");
  reads_numbers_ = true;
  random_ = Random(reading_.seed.value_or(seed_)).branch(name.text);
  const Node expression = parser.expression();
  parser.end();
  Tensor numbers = numbers_of(evaluate(expression));
  reads_numbers_ = false;
  if (axes) {
    check_axes(*axes, numbers.shape(), name);
    for (int axis = 0; axis < numbers.shape().rank(); ++axis)
      numbers.label(axis, axes->roles[static_cast<std::size_t>(axis)]);
  }
  try {
    Worksheet& sheet = read_.sheet;
    keep(name, is_unnamed         ? sheet.given(numbers)
               : kind == "given"  ? sheet.given(name.text, numbers)
               : kind == "asked"  ? sheet.asked(name.text, numbers)
               : kind == "weight" ? sheet.weight(name.text, numbers)
               : kind == "frozen" ? sheet.frozen(name.text, numbers)
                                  : sheet.running_statistic(name.text, numbers));
  } catch (const Error& error) {
    source_.refuse(name, error.trouble());
  }
}

void Reader::next_value(Parser& parser) {
  parser.take();
  const Token name = parser.take();
  const SheetValue running = line_of(name);
  parser.demand("=", "the name");
  const Node expression = parser.expression();
  parser.end();
  const SheetValue value = evaluate(expression);
  const auto* const next = std::get_if<Line>(&value);
  if (next == nullptr) {
    source_.refuse(expression.token, {.what = "this is no line of the worksheet",
                                      .expected = "a calculation with lines",
                                      .found = "plain numbers"});
  }
  try {
    read_.sheet.set_next(std::get<Line>(running), *next);
  } catch (const Error& error) {
    source_.refuse(name, error.trouble());
  }
  lines_.try_emplace(next->name(), *next);
}

void Reader::sweep(Parser& parser) {
  parser.take();
  if (!parser.takes_word("from")) parser.refuse("here 'from' is missing", "sweep from, and a line");
  result_ = std::get<Line>(line_of(parser.take()));
  parser.end();
}

void Reader::calculated(Parser& parser) {
  const Token name = take_new_name(parser);
  const std::optional<Axes> axes = parser.axes();
  if (!parser.takes("=")) {
    parser.refuse(fmt::format("'=' is missing behind {}", in_words(name)),
                  "a calculation, z = x·W + b; or given, weight, section, title …");
  }
  const Node expression = parser.expression();
  parser.end();
  const Node* inner = &expression;
  while (inner->kind == Kind::brackets)
    inner = &inner->parts.front();
  outermost_ = inner;
  SheetValue value = evaluate(expression);
  outermost_ = nullptr;
  if (!std::holds_alternative<Line>(value)) {
    source_.refuse(expression.token,
                   {.what = fmt::format("{} is made of plain numbers alone", name.text),
                    .expected = "a calculation with at least one line",
                    .found = "numbers",
                    .remedy = fmt::format("given {0} = …, or weight {0} = …", name.text)});
  }
  Line line = std::get<Line>(value);
  // A second name for a line is a line that repeats it.
  if (inner->kind == Kind::line) line = 1.0 * line;
  if (axes) {
    check_axes(*axes, line.shape(), name);
    for (int axis = 0; axis < line.shape().rank(); ++axis) {
      const Role role = axes->roles[static_cast<std::size_t>(axis)];
      if (role != line.shape().role(axis)) labelled(axis, role, line);
    }
  }
  if (name.kind != Token::Kind::reference) {
    try {
      named(name.text, line);
    } catch (const Error& error) {
      source_.refuse(name, error.trouble());
    }
  }
  keep(name, line);
}

SheetValue Reader::line_of(const Token& token) {
  const auto found = lines_.find(token.text);
  if (found != lines_.end()) {
    return reads_numbers_ ? SheetValue(found->second.value()) : SheetValue(found->second);
  }
  std::vector<std::string> names;
  for (const auto& [name, line] : lines_)
    names.push_back(name);
  std::string near = nearest(token.text, names);
  std::string remedy = near.empty() ? "" : fmt::format("did you mean {}?", near);
  for (const SheetFunction& function : sheet_functions()) {
    if (function.name == token.text) remedy = fmt::format("as a function: {}", function.form);
  }
  constexpr std::size_t most = 12;
  const bool are_few = names.size() <= most;
  source_.refuse(token, {.what = fmt::format("no line above is called {}", in_words(token)),
                         .expected = names.empty() ? "lines such as given x = [1, 2] above it"
                                     : are_few ? fmt::format("one of {}", fmt::join(names, ", "))
                                               : fmt::format("one of {} lines", names.size()),
                         .found = in_words(token),
                         .remedy = remedy});
}

}  // namespace lattice::sheets

namespace lattice {

ReadSheet read_sheet(std::string_view text, const SheetReading& reading) {
  return sheets::Reader(text, reading).read();
}

}  // namespace lattice
