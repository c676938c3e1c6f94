#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/shape.hpp"
#include "worksheet/sheets/tokens.hpp"

namespace lattice::sheets {

/// An expression of a sheet as a tree.
struct Node {
  enum class Kind : std::uint8_t {
    number,
    line,     ///< by its name, or `#5`
    literal,  ///< numbers in brackets
    negation,
    product,  ///< `·` of matrices
    infix,    ///< a sign between two: + − × / ∗ ^
    transpose,
    square,
    at,         ///< `p at y`
    magnitude,  ///< |x|
    root,
    total,  ///< Σ
    brackets,
    comparison,
    choice,  ///< `a if condition else b`
    call
  };

  Kind kind;
  Token token = {};  ///< where it stands, and which sign or name it is
  std::vector<Node> parts = {};
  std::vector<Token> settings = {};  ///< of a call, ending in a token of kind `end`
  std::vector<double> numbers = {};  ///< of a literal
  Shape shape = {};
};

/// Axes as they are written: `[example 4 × feature]`.
struct Axes {
  std::vector<std::int64_t> extents = {};  ///< 0 where none is written
  std::vector<Role> roles = {};
};

/// Reads the tokens of a statement.
class Parser {
 public:
  Parser(const Source& source, std::vector<Token> tokens)
      : source_(source), tokens_(std::move(tokens)) {}

  [[nodiscard]] const Token& next() const { return tokens_[at_]; }
  [[nodiscard]] const Token& after(std::size_t many) const;
  [[nodiscard]] bool at_end() const { return next().kind == Token::Kind::end; }
  Token take() { return tokens_[at_ < tokens_.size() - 1 ? at_++ : at_]; }
  bool takes(std::string_view sign);
  bool takes_word(std::string_view word);
  void demand(std::string_view sign, std::string_view behind);

  /// A whole expression. @throws SettingError that marks what does not belong to one.
  [[nodiscard]] Node expression();

  /// The end of the statement. @throws SettingError that marks what stands there instead.
  void end() const;

  /// The axes of a line in brackets, where they come next.
  [[nodiscard]] std::optional<Axes> axes();

  /// The same without brackets.
  [[nodiscard]] Axes axes_inside();

  [[noreturn]] void refuse(const std::string& what, const std::string& expected) const;

  [[nodiscard]] const Source& source() const { return source_; }

 private:
  Node comparison();
  Node sum();
  Node product();
  Node unary();
  Node power();
  Node postfix();
  Node primary();
  Node named();
  Node call(Token name);
  Node literal();
  void read_literal(Node& node, int depth, std::vector<std::int64_t>& extents);
  double literal_number();
  Role take_role();
  std::int64_t take_extent(bool may_be_missing);

  const Source& source_;
  std::vector<Token> tokens_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

}  // namespace lattice::sheets
