#pragma once

#include <map>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/core.hpp"

namespace lattice::testing {

/// Sums a tensor up along what was stretched: to a shape whose axes are matched from the last.
inline Tensor summed_to(const Tensor& x, const Shape& shape) {
  Tensor sum_of = x;
  for (int axis = 0; axis < x.shape().rank(); ++axis) {
    const int in_shape = axis - (x.shape().rank() - shape.rank());
    if (in_shape < 0 || shape[in_shape] != x.shape()[axis])
      sum_of = sum(sum_of, {.axes = {axis}, .keep = true});
  }
  return sum_of.reshaped(shape);
}

/// Reads what an operation says of itself in symbols, as arithmetic on tensors: what is shown to
/// students is held to what is calculated. What is said in words it refuses.
class SymbolReader {
 public:
  /// @param names of lines, with their numbers; what a function of a name gives under `name()`, and
  ///        `…` for what is left out in a sum
  SymbolReader(std::map<std::string, Tensor> names, Shape result)
      : names_(std::move(names)), result_(std::move(result)) {}

  /// The numbers of a text, brought to the shape of the result; nothing where it has words.
  std::optional<Tensor> read(std::string_view text) {
    try {
      const std::size_t where = text.find(", c = ");
      if (where != std::string_view::npos) {
        begin(text.substr(where + std::string_view(", c = ").size()));
        names_["c"] = expression();
      }
      begin(text.substr(0, where));
      Tensor value = expression();
      if (!text_.empty()) return std::nullopt;
      if (value.shape() == result_) return value;
      if (value.count() < result_.count()) return value + zeros(result_);
      return summed_to(value, result_);
    } catch (const std::invalid_argument&) {
      return std::nullopt;
    }
  }

 private:
  void begin(std::string_view text) {
    text_ = text;
    whole_ = text;
  }

  bool take(std::string_view token) {
    if (!text_.starts_with(token)) return false;
    text_.remove_prefix(token.size());
    return true;
  }
  void need(std::string_view token) {
    if (!take(token)) throw std::invalid_argument(std::string(text_));
  }

  Tensor expression() {
    Tensor value = term();
    for (;;) {
      if (take(" + ")) {
        value = value + term();
      } else if (take(" − ")) {
        value = value - term();
      } else {
        return value;
      }
    }
  }

  Tensor term() {
    Tensor value = factor();
    for (;;) {
      if (take(" × ")) {
        const Tensor other = factor();
        const bool are_counted = whole_.find("sum(") != std::string_view::npos;
        value = are_counted ? by_example(value, other) : value * other;
      } else if (take("·")) {
        value = matmul(value, factor());
      } else if (take("/")) {
        value = value / factor();
      } else {
        return value;
      }
    }
  }

  /// Rows and columns exchanged, in each matrix of a batch.
  static Tensor turned(const Tensor& x) {
    if (x.shape().rank() == 3) return permute(x, {0, 2, 1});
    return x.shape().rank() == 4 ? permute(x, {0, 1, 3, 2}) : transpose(x);
  }

  /// A number for each example beside a table of them.
  static Tensor by_example(const Tensor& a, const Tensor& b) {
    const auto as_beside = [](const Tensor& one, const Tensor& table) {
      const int axis = axis_of_examples(table.shape());
      if (one.shape().rank() != 1 || table.shape().rank() < 2 ||
          one.shape()[0] != table.shape()[axis])
        return one;
      Shape shape = table.shape();
      for (int each = 0; each < shape.rank(); ++each)
        shape = each == axis ? shape : shape.with_extent(each, 1);
      return one.reshaped(shape);
    };
    return as_beside(a, b) * as_beside(b, a);
  }

  Tensor factor() {
    if (take("−")) return -factor();
    if (text_.starts_with("Σ")) return total();
    Tensor value = primary();
    for (;;) {
      if (take("²")) {
        value = square(value);
      } else if (take("ᵀ")) {
        value = turned(value);
      } else if (take("^")) {
        value = power(value, factor());
      } else {
        return value;
      }
    }
  }

  /// `Σ(axis 1) …`: at the beginning the sum over what was stretched, elsewhere along an axis.
  Tensor total() {
    const bool is_first = text_.size() == whole_.size();
    need("Σ");
    std::vector<std::string> axes;
    if (take("(")) {
      while (!take(")")) {
        const std::size_t end = text_.find_first_of(",)");
        axes.emplace_back(text_.substr(0, end));
        text_.remove_prefix(end);
        static_cast<void>(take(", "));
      }
    }
    need(" ");
    const Tensor of = term();
    if (is_first) return summed_to(of, result_);
    Tensor sum_of = of;
    if (axes.empty()) return sum(of, {.axes = {1 - axis_of_examples(of.shape())}, .keep = true});
    for (const std::string& axis : axes) {
      int found = -1;
      for (int each = 0; each < of.shape().rank(); ++each) {
        if (axis == "axis " + std::to_string(each) || axis == word(of.shape().role(each)))
          found = each;
      }
      if (found < 0) throw std::invalid_argument(axis);
      sum_of = sum(sum_of, {.axes = {found}, .keep = true});
    }
    return sum_of;
  }

  Tensor primary() {
    if (take("(")) return in_brackets();
    if (take("|")) {
      const Tensor value = expression();
      need("|");
      return abs(value);
    }
    if (take("√(")) return sqrt(argument());
    for (const std::string_view name : {"log softmax(", "softmax(", "one_hot(", "sigmoid(", "exp(",
                                        "log(", "mean(", "sum(", "normalised(", "max(", "min("}) {
      if (take(name)) return called(name);
    }
    std::size_t end = 0;
    while (end < text_.size() &&
           std::string_view(" ()/|²").find(text_[end]) == std::string_view::npos &&
           !text_.substr(end).starts_with("·") && !text_.substr(end).starts_with("ᵀ") &&
           !text_.substr(end).starts_with("²") && text_[end] != '^' && text_[end] != ',')
      ++end;
    const std::string token(text_.substr(0, end));
    text_.remove_prefix(end);
    if (const auto named = names_.find(token); named != names_.end()) return named->second;
    if (const std::optional<double> number = parse_number(token)) return tensor(*number);
    throw std::invalid_argument(token);
  }

  /// `a)`, or `a if b > c else d)`.
  Tensor in_brackets() {
    const Tensor value = expression();
    if (take(")")) return value;
    need(" if ");
    const Tensor left = expression();
    enum class Relation { above, below, at_least, at_most, equal };
    const Relation relation = take(" > ")   ? Relation::above
                              : take(" < ") ? Relation::below
                              : take(" ≥ ") ? Relation::at_least
                              : take(" ≤ ") ? Relation::at_most
                                            : Relation::equal;
    if (relation == Relation::equal) need(" = ");
    const Tensor right = expression();
    need(" else ");
    const Tensor otherwise = expression();
    need(")");
    const Tensor zero = zeros(result_);
    const auto stretched = [&](const Tensor& x) { return x + zero; };
    const Tensor a = stretched(left);
    const Tensor b = stretched(right);
    const Tensor holds = relation == Relation::above      ? above(a, b)
                         : relation == Relation::below    ? above(b, a)
                         : relation == Relation::at_least ? at_least(a, b)
                         : relation == Relation::at_most  ? at_least(b, a)
                                                          : equal(a, b);
    return holds * value + (1.0 - holds) * otherwise;
  }

  Tensor argument() {
    const Tensor value = expression();
    need(")");
    return value;
  }

  Tensor called(std::string_view name) {
    if (name == "normalised(" || name == "one_hot(") {
      static_cast<void>(argument());
      return names_.at(std::string(name) + ")");
    }
    const Tensor x = expression();
    if (name == "max(" || name == "min(") {
      need(", ");
      const Tensor other = argument();
      return name == "max(" ? maximum(x, other) : minimum(x, other);
    }
    need(")");
    if (name == "log softmax(") return log_softmax(x);
    if (name == "softmax(") return softmax(x);
    if (name == "sigmoid(") return sigmoid(x);
    if (name == "exp(") return exp(x);
    if (name == "log(") return log(x);
    if (name == "sum(") return sum(x);
    // A mean over what has one variance.
    const auto variance_of = names_.find("variance");
    if (variance_of == names_.end()) throw std::invalid_argument("a mean along axes");
    const Tensor total_of = summed_to(x, variance_of->second.shape());
    return total_of * (static_cast<double>(total_of.count()) / static_cast<double>(x.count()));
  }

  std::map<std::string, Tensor> names_;
  Shape result_;
  std::string_view text_ = {};
  std::string_view whole_ = {};
};

}  // namespace lattice::testing
