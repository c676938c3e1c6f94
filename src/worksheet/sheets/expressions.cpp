#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <type_traits>
#include <utility>

#include "lattice/text/error.hpp"
#include "lattice/text/nearest.hpp"
#include "lattice/worksheet/operations/along_axes.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"
#include "lattice/worksheet/operations/products.hpp"
#include "text/counted.hpp"
#include "worksheet/sheets/call.hpp"
#include "worksheet/sheets/reader.hpp"

/// What the expressions of a sheet give.
namespace lattice::sheets {
namespace {

constexpr std::array<std::string_view, 3> index_marks = {"ᵢ", "ᵢⱼ", "ⱼ"};

bool is_one(const SheetValue& value, double number) {
  const auto* const plain = std::get_if<double>(&value);
  return plain != nullptr && *plain == number;
}

/// What a function gives for two values, whatever they are.
template <class F>
SheetValue of_both(const SheetValue& a, const SheetValue& b, F function) {
  return std::visit([&](const auto& x, const auto& y) -> SheetValue { return function(x, y); }, a,
                    b);
}

template <class F>
SheetValue of_one(const SheetValue& value, F function) {
  return std::visit([&](const auto& x) -> SheetValue { return function(x); }, value);
}

/// What a step inside a calculation is called: by what its operation gives, or by that itself.
std::string words_for(const Line& line) {
  const std::string_view gives = line.nature().gives;
  std::string words(gives.empty() ? line.operation() : gives);
  std::ranges::replace_if(
      words, [](char letter) { return letter == ' ' || letter == '-'; }, '_');
  return words;
}

/// Gives a step without a name words by which it is shown, if it has none.
void describe(const Line& line) {
  if (line.kind() == Line::Kind::calculated && line.name().starts_with('#'))
    described(words_for(line), line);
}

bool is_plain(const SheetValue& value) {
  return std::holds_alternative<double>(value);
}

/// How many numbers two shapes have once they are stretched to one; 0 where they cannot be.
double stretched_count(const Shape& a, const Shape& b) {
  double count = 1.0;
  for (int from_last = 1; from_last <= std::max(a.rank(), b.rank()); ++from_last) {
    const std::int64_t of_a = from_last <= a.rank() ? a[a.rank() - from_last] : 1;
    const std::int64_t of_b = from_last <= b.rank() ? b[b.rank() - from_last] : 1;
    if (of_a != of_b && of_a != 1 && of_b != 1) return 0.0;
    count *= static_cast<double>(std::max(of_a, of_b));
  }
  return count;
}

/// How many a product of two matrices has at most; 0 where there is none.
double product_count(const Shape& a, const Shape& b) {
  if (a.rank() != 2 || b.rank() != 2) return 0.0;
  return static_cast<double>(std::max(a[0], a[1])) * static_cast<double>(std::max(b[0], b[1]));
}

const Shape& shape_of(const SheetValue& value) {
  const auto* const line = std::get_if<Line>(&value);
  return line != nullptr ? line->shape() : std::get<Tensor>(value).shape();
}
}  // namespace
bool is_single(const SheetValue& value) {
  return is_plain(value) || shape_of(value).rank() == 0;
}

// namespace

void Reader::check_room(const SheetValue& a, const SheetValue& b) const {
  if (is_plain(a) || is_plain(b)) return;
  const Shape& left = shape_of(a);
  const Shape& right = shape_of(b);
  check_count(std::max(stretched_count(left, right), product_count(left, right)), most_numbers());
}

SheetValue Reader::evaluate(const Node& node) {
  try {
    SheetValue value = carry_out(node);
    const auto* const line = std::get_if<Line>(&value);
    const bool is_step = node.kind != Kind::line && node.kind != Kind::brackets;
    if (line != nullptr && is_step && &node != outermost_) describe(*line);
    if (!is_plain(value)) check_count(static_cast<double>(shape_of(value).count()), most_numbers());
    return value;
  } catch (const Error& error) {
    if (!error.trouble().excerpt.text.empty()) throw;
    source_.refuse(node.token, error.trouble());
  }
}

SheetValue Reader::carry_out(const Node& node) {
  switch (node.kind) {
    case Kind::number:
      return node.token.number;
    case Kind::line:
      return line_of(node.token);
    case Kind::literal:
      return tensor(node.shape, node.numbers, precision_);
    case Kind::brackets:
      return evaluate(node.parts.front());
    case Kind::negation:
      return of_one(evaluate(node.parts.front()), [](const auto& x) { return SheetValue(-x); });
    case Kind::product:
      return product(node);
    case Kind::infix:
      return node.token.is("+")   ? sum(node)
             : node.token.is("∗") ? convolved(node, nullptr)
             : is_scaled(node)    ? scaled(node)
                                  : infix(node);
    case Kind::transpose:
      return of_parts(node, "transpose");
    case Kind::square:
      return of_parts(node, "square");
    case Kind::at:
      return of_parts(node, "at_class");
    case Kind::magnitude:
      return of_parts(node, "abs");
    case Kind::root:
      return of_parts(node, "sqrt");
    case Kind::total:
      return total(node);
    case Kind::comparison:
      return compare(node);
    case Kind::choice:
      return choice(node);
    case Kind::call: {
      std::vector<SheetValue> arguments;
      arguments.reserve(node.parts.size());
      for (const Node& part : node.parts)
        arguments.push_back(evaluate(part));
      return call(node.token, std::move(arguments), node.settings);
    }
  }
  return 0.0;
}

SheetValue Reader::of_parts(const Node& node, std::string_view function) {
  std::vector<SheetValue> arguments;
  arguments.reserve(node.parts.size());
  for (const Node& part : node.parts)
    arguments.push_back(evaluate(part));
  Token name = node.token;
  name.text = function;
  return call(name, std::move(arguments), {{.kind = Token::Kind::end, .from = name.from}});
}

SheetValue Reader::times(const SheetValue& a, const SheetValue& b) {
  return of_both(a, b, [](const auto& x, const auto& y) { return SheetValue(x * y); });
}

SheetValue Reader::infix(const Node& node) {
  const SheetValue a = evaluate(node.parts[0]);
  const SheetValue b = evaluate(node.parts[1]);
  return infix(node, a, b);
}

SheetValue Reader::infix(const Node& node, const SheetValue& a, const SheetValue& b) {
  const Token& sign = node.token;
  check_room(a, b);
  if (sign.is("+"))
    return of_both(a, b, [](const auto& x, const auto& y) { return SheetValue(x + y); });
  if (sign.is("−"))
    return of_both(a, b, [](const auto& x, const auto& y) { return SheetValue(x - y); });
  if (sign.is("×")) return times(a, b);
  if (sign.is("/"))
    return of_both(a, b, [](const auto& x, const auto& y) { return SheetValue(x / y); });
  Token name = sign;
  name.text = "power";
  if (is_one(b, 2.0)) {
    name.text = "square";
    return call(name, {a}, {{.kind = Token::Kind::end, .from = sign.from}});
  }
  return call(name, {a, b}, {{.kind = Token::Kind::end, .from = sign.from}});
}

bool Reader::is_bias(const Node& node, std::int64_t units) {
  if (node.kind != Kind::line || !lines_.contains(node.token.text)) return false;
  const Shape& shape = lines_.find(node.token.text)->second.shape();
  return shape.rank() == 1 && shape[0] == units;
}

SheetValue Reader::product(const Node& node) {
  const auto is_turned = [&](std::size_t part) { return node.parts[part].kind == Kind::transpose; };
  const auto factor = [&](std::size_t part) {
    return evaluate(is_turned(part) ? node.parts[part].parts.front() : node.parts[part]);
  };
  const SheetValue a = factor(0);
  const SheetValue b = factor(1);
  // A single number has no rows and columns, turned or not.
  if (is_single(a) || is_single(b)) return times(a, b);
  const Transpose transpose{.first = is_turned(0), .second = is_turned(1)};
  check_room(a, b);
  return of_both(a, b, [&](const auto& x, const auto& y) -> SheetValue {
    if constexpr (std::is_same_v<decltype(x), const double&> ||
                  std::is_same_v<decltype(y), const double&>) {
      return 0.0;
    } else {
      return matmul(x, y, transpose);
    }
  });
}

SheetValue Reader::sum(const Node& node) {
  const Node& left = node.parts[0];
  const Node& right = node.parts[1];
  if (left.kind == Kind::infix && left.token.is("∗") && right.kind == Kind::line)
    return convolved(left, &right);
  // A + I: a graph with a loop at each node.
  const bool is_identity = right.kind == Kind::line && right.token.text == "I";
  if (is_identity && !lines_.contains("I")) {
    Token name = node.token;
    name.text = "with_loops";
    return call(name, {evaluate(left)}, {{.kind = Token::Kind::end, .from = name.from}});
  }
  const bool is_plain = left.kind == Kind::product && left.parts[0].kind != Kind::transpose &&
                        left.parts[1].kind != Kind::transpose && right.kind == Kind::line;
  if (!is_plain) return infix(node);
  const SheetValue x = evaluate(left.parts[0]);
  const SheetValue weight = evaluate(left.parts[1]);
  if (is_single(x) || is_single(weight)) {
    const SheetValue scaled = times(x, weight);
    return infix(node, scaled, evaluate(right));
  }
  const Shape& shape = shape_of(weight);
  const bool is_dense = shape_of(x).rank() == 2 && shape.rank() == 2 && is_bias(right, shape[1]);
  const SheetValue last = evaluate(right);
  check_room(x, weight);
  return of_both(x, weight, [&](const auto& a, const auto& b) -> SheetValue {
    using A = std::decay_t<decltype(a)>;
    using B = std::decay_t<decltype(b)>;
    if constexpr (std::is_same_v<A, double> || std::is_same_v<B, double>) {
      return 0.0;
    } else {
      if constexpr (std::is_same_v<A, B>) {
        if (is_dense && std::holds_alternative<A>(last)) return dense(a, b, std::get<A>(last));
      }
      return infix(node, described("product", matmul(a, b)), last);
    }
  });
}

SheetValue Reader::convolved(const Node& node, const Node* bias) {
  Token name = node.token;
  name.text = "convolution";
  std::vector<SheetValue> arguments = {evaluate(node.parts[0]), evaluate(node.parts[1])};
  std::vector<Token> settings = node.settings;
  if (settings.empty()) settings.push_back({.kind = Token::Kind::end, .from = name.from});
  if (bias != nullptr) {
    const Token end = settings.back();
    settings.back() = {.kind = Token::Kind::sign, .text = ",", .from = bias->token.from};
    settings.push_back({.kind = Token::Kind::name, .text = "bias", .from = bias->token.from});
    settings.push_back(bias->token);
    settings.push_back(end);
  }
  return call(name, std::move(arguments), settings);
}

/// `rᵢ × Aᵢⱼ × cⱼ`: a matrix that is scaled by rows and columns.
bool Reader::is_scaled(const Node& node) const {
  if (!node.token.is("×") || node.parts[0].kind != Kind::infix || !node.parts[0].token.is("×"))
    return false;
  const std::array<const Node*, 3> factors = {&node.parts[0].parts[0], &node.parts[0].parts[1],
                                              &node.parts[1]};
  return std::ranges::equal(factors, index_marks, [&](const Node* factor, std::string_view mark) {
    return factor->kind == Kind::line && factor->token.text.ends_with(mark) &&
           !lines_.contains(factor->token.text);
  });
}

SheetValue Reader::scaled(const Node& node) {
  const auto plain = [&](const Node& factor, std::size_t which) {
    Token token = factor.token;
    token.text.resize(token.text.size() - index_marks[which].size());
    return line_of(token);
  };
  Token name = node.token;
  name.text = "scale_both";
  return call(
      name,
      {plain(node.parts[0].parts[1], 1), plain(node.parts[0].parts[0], 0), plain(node.parts[1], 2)},
      {{.kind = Token::Kind::end, .from = name.from}});
}

SheetValue Reader::compare(const Node& node) {
  return of_parts(node, node.token.is(">")   ? "above"
                        : node.token.is("<") ? "below"
                        : node.token.is("≥") ? "at_least"
                        : node.token.is("≤") ? "at_most"
                                             : "equal");
}

SheetValue Reader::choice(const Node& node) {
  const SheetValue yes = evaluate(node.parts[0]);
  SheetValue is = compare(node.parts[1]);
  const SheetValue no = evaluate(node.parts[2]);
  if (is_one(yes, 1.0) && is_one(no, 0.0)) return is;
  const SheetValue is_not = of_one(is, [](const auto& x) -> SheetValue { return 1.0 - x; });
  const SheetValue if_so = times(is, yes);
  const SheetValue otherwise = times(is_not, no);
  return of_both(if_so, otherwise, [](const auto& x, const auto& y) { return SheetValue(x + y); });
}

SheetValue Reader::total(const Node& node) {
  return of_one(evaluate(node.parts.front()), [](const auto& x) -> SheetValue {
    if constexpr (std::is_same_v<std::decay_t<decltype(x)>, double>) {
      return x;
    } else {
      const Shape& shape = x.shape();
      if (shape.rank() != 2) return lattice::sum(x);
      return lattice::sum(x, {.axes = {1 - axis_of_examples(shape)}});
    }
  });
}

SheetValue Reader::call(const Token& name, std::vector<SheetValue> arguments,
                        const std::vector<Token>& settings) {
  std::vector<std::string> names;
  const SheetFunction* fitting = nullptr;
  std::string forms;
  for (const SheetFunction& each : sheet_functions()) {
    names.push_back(each.name);
    if (each.name != name.text) continue;
    forms += (forms.empty() ? "" : ", or ") + each.form;
    if (arguments.size() >= each.fewest && arguments.size() <= each.most) fitting = &each;
  }
  if (forms.empty()) {
    const std::string near = nearest(name.text, names);
    source_.refuse(name,
                   {.what = fmt::format("there is no function {}", name.text),
                    .expected = "a function such as exp, sum, softmax, or a sign behind a line",
                    .found = in_words(name),
                    .remedy = near.empty() ? "" : fmt::format("did you mean {}?", near)});
  }
  if (fitting == nullptr) {
    source_.refuse(name, {.what = fmt::format("{} is called otherwise", name.text),
                          .expected = forms,
                          .found = counted(std::ssize(arguments), "argument")});
  }
  const bool are_plain = std::ranges::all_of(
      arguments, [](const SheetValue& each) { return std::holds_alternative<double>(each); });
  if (arguments.size() == 2) check_room(arguments[0], arguments[1]);
  Call carried(*this, std::move(arguments), settings, fitting->form);
  SheetValue value = fitting->carry_out(carried);
  carried.check_is_used_up();
  const auto* const numbers = std::get_if<Tensor>(&value);
  const bool is_number = are_plain && numbers != nullptr && numbers->shape().rank() == 0;
  return is_number ? SheetValue(numbers->number()) : value;
}
}  // namespace lattice::sheets
