#include "lattice/show/plan.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <map>
#include <set>
#include <vector>

#include "lattice/text/wrapping.hpp"
#include "show/plan_words.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice {

namespace {

/// `5×8`: what the axes of a weight stand for is told by what comes in and goes out.
std::string extents(const Shape& shape) {
  std::string text;
  for (int axis = 0; axis < shape.rank(); ++axis)
    text += fmt::format("{}{}", axis == 0 ? "" : "×", shape[axis]);
  return text;
}

std::string told(std::int64_t count) {
  return count == 0 ? "" : fmt::format("{}", count);
}

/// Groups that are like one above them, in a row for them all.
void add_alike(TextTable& table, std::span<const Plan::Row> alike, const Plan::Row& first,
               const std::string& indent) {
  const auto times = std::ssize(alike);
  table.add({indent + name_of_alike(alike), like(alike, first), shape_words(first.outputs), "",
             told(times * first.weights), told(times * first.multiplications)});
}

void add_all(TextTable& table, std::span<const Plan::Row> rows, Groups groups,
             const std::string& indent);

/// A layer in a row; those it is made of below it, moved in.
void add(TextTable& table, const Plan::Row& row, Groups groups, const std::string& indent,
         const std::string& lead = "") {
  std::vector<std::string> weights;
  if (row.inside.empty()) {
    for (const WeightNeed& need : row.needs)
      weights.push_back(fmt::format("{}{} {}", need.is_running ? "running " : "",
                                    need.name.substr(row.name.size() + 1), extents(need.shape)));
  }
  const std::string layer =
      row.inside.empty()
          ? row.layer
          : fmt::format("{} of {}", row.kind,
                        counted(std::ssize(row.inside), Role::none, "layer", "layers"));
  table.add({indent + row.own_name(), lead + layer, shape_words(row.outputs),
             fmt::format("{}", fmt::join(weights, ", ")), told(row.weights),
             told(row.multiplications)});
  add_all(table, row.inside, groups, indent + "  ");
  for (const Plan::Row& projection : row.projection)
    add(table, projection, groups, indent + "  ",
        projection.own_name() == "projection" ? "" : "projection ");
}

void add_all(TextTable& table, std::span<const Plan::Row> rows, Groups groups,
             const std::string& indent) {
  while (!rows.empty()) {
    const std::size_t alike = groups == Groups::folded ? Plan::alike(rows) : 1;
    add(table, rows.front(), groups, indent);
    if (alike > 1) add_alike(table, rows.subspan(1, alike - 1), rows.front(), indent);
    rows = rows.subspan(alike);
  }
}

}  // namespace

namespace {

/// Which channel feeds which, for each layer in which only some do: a row for each channel that
/// goes out, a column for each that comes in.
std::string connections_told(std::span<const Plan::Row> rows, const TerminalStyle& style) {
  std::string text;
  for (const Plan::Row& row : rows) {
    for (const WeightNeed& need : row.needs) {
      if (need.connections.empty() || !row.inside.empty()) continue;
      std::map<std::int64_t, std::set<std::int64_t>> sources;
      std::set<std::int64_t> incoming;
      for (const auto& [in, out] : need.connections) {
        sources[out].insert(in);
        incoming.insert(in);
      }
      std::vector<TextTable::Heading> headings = {{"channel", TextTable::Set::left}};
      for (const std::int64_t in : incoming)
        headings.push_back({fmt::format("{}", in)});
      TextTable table(headings);
      for (const auto& [out, from] : sources) {
        std::vector<TextTable::Entry> cells = {fmt::format("→ {}", out)};
        for (const std::int64_t in : incoming)
          cells.emplace_back(from.contains(in) ? "×" : "·");
        table.add(std::move(cells));
      }
      text += fmt::format("\n{}: which channel feeds which (×), {}\n{}\n", row.name,
                          counted(std::ssize(need.connections), "connection"), table.text(style));
    }
    text += connections_told(row.inside, style) + connections_told(row.projection, style);
  }
  return text;
}

}  // namespace

std::string shape_words(const Shape& example) {
  if (!is_raster(example)) return to_string(example);
  return fmt::format("{}×{}, {}", example[0], example[1],
                     counted(example[2], Role::channel, "channel", "channels"));
}

std::string name_of_alike(std::span<const Plan::Row> alike) {
  const std::string first = alike.front().own_name();
  return alike.size() == 1 ? first : fmt::format("{} to {}", first, alike.back().own_name());
}

std::string like(std::span<const Plan::Row> alike, const Plan::Row& first) {
  return alike.size() == 1 ? "like " + first.own_name()
                           : fmt::format("{} times like {}", alike.size(), first.own_name());
}

std::string show_plan(const Plan& plan, const TerminalStyle& style, Groups groups) {
  TextTable table({{"name", TextTable::Set::left},
                   {"layer", TextTable::Set::left},
                   {"gives", TextTable::Set::left},
                   {"weights", TextTable::Set::left},
                   {"numbers"},
                   {"products"}});
  table.add({"x", "given", shape_words(plan.example), "", "", ""});
  add_all(table, plan.rows, groups, "");
  return table.text(style) + "\n" +
         paragraph(
             fmt::format("{} trained in total; {} takes {} forward and puts {} on the worksheet.",
                         counted(plan.weights(), "number is", "numbers are"),
                         plan.together ? plan.whole : "an example",
                         counted(plan.multiplications(), "product of two numbers",
                                 "products of two numbers"),
                         counted(plan.written(), "number")),
             style.width) +
         (groups == Groups::opened ? connections_told(plan.rows, style) : "");
}

std::string to_string(const Plan& plan) {
  return show_plan(plan, {});
}

}  // namespace lattice
