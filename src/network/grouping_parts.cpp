#include "lattice/network/grouping_parts.hpp"

#include <fmt/format.h>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/operations/arithmetic.hpp"

namespace lattice {
namespace {

/// What `ask` gives, for a part inside another; trouble in it is told to be at that part.
template <class Ask>
auto inside(const Part& part, const std::string& name, const Ask& ask) -> decltype(ask()) {
  try {
    return ask();
  } catch (const Error& error) {
    Trouble trouble = error.trouble();
    const std::string what = part.inside().empty() ? fmt::format(", {}", part.unnamed_text()) : "";
    trouble.where =
        fmt::format("{}{}{}{}", name, what, trouble.where.empty() ? "" : ": ", trouble.where);
    throw ShapeError(trouble);
  }
}

void add_needs(std::vector<WeightNeed>& needs, const std::string& name,
               std::vector<WeightNeed> more) {
  for (WeightNeed& need : more) {
    need.name = fmt::format("{}.{}", name, need.name);
    needs.push_back(std::move(need));
  }
}

/// The part that brings an example past a bypass to the shape of what goes through it.
std::string fitting_past(const Shape& example, const Shape& through) {
  if (example.rank() == 1 && through.rank() == 1) return fmt::format("past dense {}", through[0]);
  const auto places = [](std::int64_t extent, std::int64_t stride) {
    return (extent - 1) / stride + 1;
  };
  for (std::int64_t stride = 1; example.rank() == 3 && through.rank() == 3 && stride <= example[0];
       ++stride) {
    if (places(example[0], stride) != through[0] || places(example[1], stride) != through[1])
      continue;
    return fmt::format("past conv {} of 1x1{}", through[2],
                       stride == 1 ? "" : fmt::format(" stride {}", stride));
  }
  return fmt::format("past a part that gives {}", to_string(through));
}

}  // namespace

Block::Block(std::vector<Part> parts) : parts_(std::move(parts)), names_(names_of(parts_, false)) {
  if (!parts_.empty()) return;
  throw SettingError({.what = "a group of no parts",
                      .expected = "one part or more, such as (dense 8, tanh)",
                      .found = "none"});
}

std::string Block::text() const {
  return fmt::format("({})", blueprint_of(parts_));
}

Shape Block::shape(const Shape& example) const {
  Shape inner = example;
  for (std::size_t at = 0; at < parts_.size(); ++at)
    inner = inside(parts_[at], names_[at], [&] { return parts_[at].shape(inner); });
  return inner;
}

std::vector<WeightNeed> Block::weights(const Shape& example) const {
  std::vector<WeightNeed> needs;
  Shape inner = example;
  for (std::size_t at = 0; at < parts_.size(); ++at) {
    add_needs(needs, names_[at], parts_[at].weights(inner));
    inner = parts_[at].shape(inner);
  }
  return needs;
}

std::int64_t Block::multiplications(const Shape& example) const {
  std::int64_t sum = 0;
  Shape inner = example;
  for (const Part& part : parts_) {
    sum += part.multiplications(inner);
    inner = part.shape(inner);
  }
  return sum;
}

Line Block::forward(const Line& x, Pass& pass) const {
  Line inner = x;
  for (std::size_t at = 0; at < parts_.size(); ++at)
    inner = pass.through(parts_[at], names_[at], inner);
  return inner;
}

Bypass::Bypass(std::vector<Part> parts, std::optional<Part> past)
    : block_(std::move(parts)), past_(std::move(past)) {
  if (!past_) return;
  if (past_->given_name().empty()) past_ = named("past", *past_);
  std::vector<Part> all = block_.parts();
  all.push_back(*past_);
  static_cast<void>(names_of(all, false));
}

std::string Bypass::text() const {
  std::string text = "bypass" + block_.text();
  if (past_)
    text += " past " + (past_->given_name() == "past" ? past_->unnamed_text() : past_->text());
  return text;
}

Shape Bypass::shape_past(const Shape& example) const {
  if (!past_) return example;
  return inside(*past_, past_->given_name(), [&] { return past_->shape(example); });
}

Shape Bypass::shape(const Shape& example) const {
  const Shape through = block_.shape(example);
  const Shape past = shape_past(example);
  if (through == past) return through;
  throw ShapeError(
      {.what = "what goes past a bypass cannot be added to what goes through it",
       .expected = fmt::format("{}, as what goes through", to_string(through)),
       .found = to_string(past),
       .remedy = fmt::format("let the parts inside give as many numbers as come in, or "
                             "put behind the bracket: {}",
                             fitting_past(example, through))});
}

std::vector<WeightNeed> Bypass::weights(const Shape& example) const {
  std::vector<WeightNeed> needs = block_.weights(example);
  if (past_) add_needs(needs, past_->given_name(), past_->weights(example));
  return needs;
}

std::int64_t Bypass::multiplications(const Shape& example) const {
  return block_.multiplications(example) + (past_ ? past_->multiplications(example) : 0);
}

Line Bypass::forward(const Line& x, Pass& pass) const {
  const Line through = block_.forward(x, pass);
  return (past_ ? pass.through(*past_, past_->given_name(), x) : x) + through;
}

}  // namespace lattice
