#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/tensor/random.hpp"
#include "lattice/worksheet/sheet_functions.hpp"
#include "lattice/worksheet/sheet_text.hpp"
#include "worksheet/sheets/tree.hpp"

namespace lattice::sheets {

/// The lines of a sheet that is being read, and what its expressions give.
class Reader {
 public:
  Reader(std::string_view text, const SheetReading& reading)
      : source_{text, reading.name}, reading_(reading) {}

  ReadSheet read();

  /// What an expression gives. In the numbers of data and weights, lines stand for their values.
  [[nodiscard]] SheetValue evaluate(const Node& node);

  /// The line of a token, or its value. @throws SettingError for an unknown one.
  [[nodiscard]] SheetValue line_of(const Token& token);

  [[nodiscard]] const Source& source() const { return source_; }
  [[nodiscard]] Precision precision() const { return precision_; }
  [[nodiscard]] std::int64_t most_numbers() const { return reading_.most_numbers; }

  /// A generator for the line that is being read.
  [[nodiscard]] Random& random() { return random_; }

 private:
  using Kind = Node::Kind;

  void statement(std::size_t& at);
  void heading(const Token& word, std::size_t& at);
  [[nodiscard]] AskedRows asked_rows(const Token& word, const std::string& text) const;
  void data(const Token& word, const std::string& text);
  void leaf(Parser& parser);
  void next_value(Parser& parser);
  void sweep(Parser& parser);
  void calculated(Parser& parser);

  Token take_new_name(Parser& parser);
  void keep(const Token& name, const Line& line);
  [[nodiscard]] Tensor numbers_of(const SheetValue& value) const;
  void check_axes(const Axes& axes, const Shape& shape, const Token& at) const;

  SheetValue carry_out(const Node& node);
  SheetValue sum(const Node& node);
  SheetValue product(const Node& node);
  SheetValue infix(const Node& node);
  SheetValue infix(const Node& node, const SheetValue& a, const SheetValue& b);
  SheetValue convolved(const Node& node, const Node* bias);
  SheetValue choice(const Node& node);
  SheetValue compare(const Node& node);
  [[nodiscard]] bool is_scaled(const Node& node) const;
  SheetValue scaled(const Node& node);
  SheetValue total(const Node& node);
  SheetValue call(const Token& name, std::vector<SheetValue> arguments,
                  const std::vector<Token>& settings);
  SheetValue of_parts(const Node& node, std::string_view function);
  SheetValue times(const SheetValue& a, const SheetValue& b);

  /// Refuses what two values would make too many numbers of, before it is worked.
  void check_room(const SheetValue& a, const SheetValue& b) const;

  /// Whether a name is a plain line of one axis: the bias behind a product.
  [[nodiscard]] bool is_bias(const Node& node, std::int64_t units);

  Source source_;
  const SheetReading& reading_;
  ReadSheet read_ = {};
  std::map<std::string, Line, std::less<>> lines_ = {};
  std::optional<Line> result_ = std::nullopt;
  Precision precision_ = Precision::double_;
  std::uint64_t seed_ = 1;
  Random random_ = Random(1);
  const Node* outermost_ = nullptr;  ///< the calculation that a line is, not one inside it
  bool reads_numbers_ = false;       ///< data or a weight: lines stand for their values
};

}  // namespace lattice::sheets
