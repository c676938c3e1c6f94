#include "worksheet/sheets/tree.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "lattice/tensor/shape.hpp"

namespace lattice::sheets {
namespace {

using Kind = Node::Kind;

/// Goes one level deeper, and refuses to go too deep.
class Deeper {
 public:
  Deeper(int& depth, const Parser& parser) : depth_(depth) {
    constexpr int deepest = 400;
    if (++depth_ > deepest)
      parser.refuse("this expression is too deep", "parts of it in lines of their own");
  }
  Deeper(const Deeper&) = delete;
  Deeper& operator=(const Deeper&) = delete;
  ~Deeper() { --depth_; }

 private:
  int& depth_;
};

}  // namespace

const Token& Parser::after(std::size_t many) const {
  return tokens_[std::min(at_ + many, tokens_.size() - 1)];
}

bool Parser::takes(std::string_view sign) {
  if (!next().is(sign)) return false;
  ++at_;
  return true;
}

bool Parser::takes_word(std::string_view word) {
  if (!next().is_word(word)) return false;
  ++at_;
  return true;
}

void Parser::demand(std::string_view sign, std::string_view behind) {
  if (!takes(sign))
    refuse(fmt::format("'{}' is missing behind {}", sign, behind), fmt::format("'{}'", sign));
}

void Parser::refuse(const std::string& what, const std::string& expected) const {
  source_.refuse(next(), {.what = what, .expected = expected, .found = in_words(next())});
}

void Parser::end() const {
  if (!at_end()) refuse("this does not belong to the line", "a sign such as + − × · /, or the end");
}

Node Parser::expression() {
  const Deeper deeper(depth_, *this);
  Node value = comparison();
  if (!next().is_word("if")) return value;
  Node choice{.kind = Kind::choice, .token = take()};
  Node condition = comparison();
  if (condition.kind != Kind::comparison) {
    source_.refuse(condition.token, {.what = "this is no condition",
                                     .expected = "a comparison, such as x > 0",
                                     .found = in_words(condition.token)});
  }
  if (!takes_word("else")) refuse("'else' is missing behind the condition", "else, and a value");
  choice.parts.push_back(std::move(value));
  choice.parts.push_back(std::move(condition));
  choice.parts.push_back(expression());
  return choice;
}

Node Parser::comparison() {
  Node left = sum();
  for (const std::string_view sign : {">", "<", "≥", "≤", "="}) {
    if (!next().is(sign)) continue;
    Node node{.kind = Kind::comparison, .token = take()};
    node.parts.push_back(std::move(left));
    node.parts.push_back(sum());
    return node;
  }
  return left;
}

Node Parser::sum() {
  Node left = product();
  while (next().is("+") || next().is("−")) {
    Node node{.kind = Kind::infix, .token = take()};
    node.parts.push_back(std::move(left));
    node.parts.push_back(product());
    left = std::move(node);
  }
  return left;
}

Node Parser::product() {
  Node left = unary();
  while (next().is("×") || next().is("/") || next().is("·") || next().is("∗")) {
    Node node{.kind = next().is("·") ? Kind::product : Kind::infix, .token = take()};
    node.parts.push_back(std::move(left));
    // The settings of a convolution stand in brackets behind it: kernel (stride 2).
    const bool has_settings =
        node.token.is("∗") && after(1).is("(") && after(2).kind == Token::Kind::name &&
        (after(3).kind == Token::Kind::number || after(3).kind == Token::Kind::name);
    node.parts.push_back(has_settings ? Node{.kind = Kind::line, .token = take()} : unary());
    if (has_settings) {
      take();
      while (!next().is(")") && !at_end())
        node.settings.push_back(take());
      node.settings.push_back({.kind = Token::Kind::end, .from = next().from});
      demand(")", "the settings");
    }
    left = std::move(node);
  }
  return left;
}

Node Parser::unary() {
  const Deeper deeper(depth_, *this);
  if (takes("+")) return unary();
  if (next().is("−") || next().is("Σ")) {
    const Token sign = take();
    Node node{.kind = sign.is("−") ? Kind::negation : Kind::total, .token = sign};
    node.parts.push_back(sign.is("−") ? unary() : product());
    return node;
  }
  return power();
}

Node Parser::power() {
  Node base = postfix();
  if (!next().is("^")) return base;
  Node node{.kind = Kind::infix, .token = take()};
  node.parts.push_back(std::move(base));
  node.parts.push_back(unary());
  return node;
}

Node Parser::postfix() {
  Node node = primary();
  for (;;) {
    if (next().is("²") || next().is("ᵀ")) {
      Node outer{.kind = next().is("²") ? Kind::square : Kind::transpose, .token = take()};
      outer.parts.push_back(std::move(node));
      node = std::move(outer);
    } else if (next().is("³")) {
      Node outer{.kind = Kind::infix, .token = take()};
      outer.token.text = "^";
      outer.parts.push_back(std::move(node));
      outer.parts.push_back({.kind = Kind::number, .token = outer.token});
      outer.parts.back().token.number = 3.0;
      node = std::move(outer);
    } else if (next().is_word("at")) {
      Node outer{.kind = Kind::at, .token = take()};
      outer.parts.push_back(std::move(node));
      outer.parts.push_back(primary());
      node = std::move(outer);
    } else {
      return node;
    }
  }
}

Node Parser::primary() {
  const Deeper deeper(depth_, *this);
  if (next().kind == Token::Kind::number) return {.kind = Kind::number, .token = take()};
  if (next().kind == Token::Kind::reference || next().kind == Token::Kind::quoted)
    return {.kind = Kind::line, .token = take()};
  if (next().kind == Token::Kind::name) return named();
  if (next().is("[")) return literal();
  if (next().is("(")) {
    Node node{.kind = Kind::brackets, .token = take()};
    node.parts.push_back(expression());
    demand(")", "the expression in brackets");
    return node;
  }
  if (next().is("|")) {
    Node node{.kind = Kind::magnitude, .token = take()};
    node.parts.push_back(sum());
    demand("|", "the expression");
    return node;
  }
  if (next().is("√")) {
    Node node{.kind = Kind::root, .token = take()};
    node.parts.push_back(primary());
    return node;
  }
  refuse("here a value is missing", "a line, a number, a function or brackets");
}

Node Parser::named() {
  Token name = take();
  if (next().is("(")) return call(std::move(name));
  // log p, and log softmax(x): a function of what stands behind it.
  const bool is_word = next().is_word("at") || next().is_word("if") || next().is_word("else");
  if (!is_word && (next().kind == Token::Kind::name || next().kind == Token::Kind::reference ||
                   next().kind == Token::Kind::quoted)) {
    Node node{.kind = Kind::call, .token = std::move(name)};
    node.settings.push_back({.kind = Token::Kind::end, .from = next().from});
    node.parts.push_back(primary());
    return node;
  }
  if (next().is("[")) {
    refuse("a line is used as a whole, without places in brackets",
           "slice(x; axis 0: 2) for a part of it");
  }
  return {.kind = Kind::line, .token = std::move(name)};
}

Node Parser::call(Token name) {
  Node node{.kind = Kind::call, .token = std::move(name)};
  take();
  while (!next().is(")") && !next().is(";")) {
    node.parts.push_back(expression());
    if (takes(",")) continue;
    if (!next().is(")") && !next().is(";"))
      refuse("this does not belong to the arguments", "a comma, a semicolon or )");
  }
  if (takes(";")) {
    int depth = 0;
    while (!at_end() && (depth > 0 || !next().is(")"))) {
      depth += next().is("(") ? 1 : next().is(")") ? -1 : 0;
      node.settings.push_back(take());
    }
  }
  node.settings.push_back({.kind = Token::Kind::end, .from = next().from});
  demand(")", "the arguments");
  return node;
}

Node Parser::literal() {
  Node node{.kind = Kind::literal, .token = next()};
  std::vector<std::int64_t> extents;
  read_literal(node, 0, extents);
  node.shape = Shape(std::span<const std::int64_t>(extents));
  return node;
}

double Parser::literal_number() {
  const bool is_negative = takes("−");
  if (!is_negative) takes("+");
  if (next().kind != Token::Kind::number)
    refuse("here a number is missing", "a number, or more brackets with numbers");
  const double number = take().number;
  return is_negative ? -number : number;
}

void Parser::read_literal(Node& node, int depth, std::vector<std::int64_t>& extents) {
  constexpr std::size_t most = 20'000'000;
  if (depth == max_rank)
    refuse("a tensor cannot have so many axes", fmt::format("at most {}", max_rank));
  const Token opening = take();
  const auto level = static_cast<std::size_t>(depth);
  const bool is_first = extents.size() == level;
  if (is_first) extents.push_back(0);
  std::int64_t count = 0;
  while (!next().is("]")) {
    if (next().is("[")) {
      if (!node.numbers.empty() && extents.size() == level + 1)
        refuse("brackets stand among numbers", "numbers alone, or brackets alone");
      read_literal(node, depth + 1, extents);
    } else {
      if (extents.size() > level + 1)
        refuse("a number stands among brackets", "numbers alone, or brackets alone");
      node.numbers.push_back(literal_number());
      if (node.numbers.size() > most)
        refuse("these are too many numbers", fmt::format("at most {}", most));
    }
    ++count;
    // Blanks alone may stand between numbers, as they do in tables.
    takes(",");
  }
  if (count == 0) refuse("these brackets hold nothing", "at least one number");
  take();
  if (is_first && extents[level] == 0) extents[level] = count;
  if (extents[level] == count) return;
  source_.refuse(opening, {.what = "the rows are of different lengths",
                           .expected = fmt::format("{}, as in the first", extents[level]),
                           .found = fmt::format("{}", count)});
}

std::optional<Axes> Parser::axes() {
  if (!takes("[")) return std::nullopt;
  Axes axes = axes_inside();
  demand("]", "the axes");
  return axes;
}

Axes Parser::axes_inside() {
  Axes axes;
  if (takes_word("one")) {
    if (!takes_word("number")) refuse("here 'number' is missing", "one number");
    return axes;
  }
  do {
    if (axes.extents.size() == static_cast<std::size_t>(max_rank))
      refuse("a tensor cannot have so many axes", fmt::format("at most {}", max_rank));
    axes.roles.push_back(take_role());
    axes.extents.push_back(take_extent(axes.roles.back() != Role::none));
  } while (takes("×"));
  return axes;
}

Role Parser::take_role() {
  if (next().kind != Token::Kind::name) return Role::none;
  const std::optional<Role> role = role_words.find(next().text);
  if (!role) {
    std::vector<std::string> words = role_words.all();
    std::erase(words, "");
    refuse("this is no role of an axis", fmt::format("one of {}", fmt::join(words, ", ")));
  }
  take();
  return *role;
}

std::int64_t Parser::take_extent(bool may_be_missing) {
  if (may_be_missing && next().kind != Token::Kind::number) return 0;
  constexpr double most = 1e9;
  const double extent = next().kind == Token::Kind::number ? next().number : 0.0;
  if (!(extent >= 1.0) || extent > most || std::floor(extent) != extent)
    refuse("here the extent of an axis is missing", "a whole number of 1 or more");
  take();
  return static_cast<std::int64_t>(extent);
}

}  // namespace lattice::sheets
