#include "show/page_structure.hpp"

#include <algorithm>
#include <cstdint>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "lattice/learning/work_entry.hpp"
#include "lattice/text/words.hpp"
#include "lattice/worksheet/laid_out.hpp"
#include "lattice/worksheet/local_derivative.hpp"
#include "show/network_sketch.hpp"
#include "show/page_words.hpp"
#include "tensor/tensor_tables.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

using Kind = WorkTable::Kind;

/// What kinds of tables are called on the page.
constexpr Words<Kind> kind_words = {
    {Kind::value, "value"},           {Kind::gradient, "gradient"},     {Kind::setting, "setting"},
    {Kind::remembered, "remembered"}, {Kind::worked_out, "worked out"}, {Kind::after, "after"}};

/// Writes a structure down.
class StructureWriter {
 public:
  StructureWriter(const WorkTables& tables, const AxisNames& names,
                  const std::set<std::size_t>& fixed, Dictionary& skeletons, Dictionary& patterns)
      : work_(tables.work()),
        names_(names),
        tables_(tables),
        fixed_(fixed),
        skeletons_(skeletons),
        patterns_(patterns) {}

  [[nodiscard]] Json json() {
    return {{"result", work_.result().name()},
            {"rule", work_.rule() ? Json(work_.rule()->word()) : Json()},
            {"drawn", work_.batch().drawn.empty() ? "" : work_.batch().augmentation->drawn_name()},
            {"tables", table_list()},
            {"walk", walk()},
            {"network", network()}};
  }

 private:
  /// How the numbers of a table lie: those of flattened pictures as pictures.
  [[nodiscard]] Shape shape_of(const WorkTable& table) const {
    const Shape& own = table.numbers.shape();
    if (table.line == 0) return own;
    const Line line = work_.sheet().line(table.line);
    return own == line.shape() ? laid_out(line) : own;
  }

  [[nodiscard]] Json table_list() {
    Json list = Json::array();
    for (std::size_t at = 0; at < tables_.all().size(); ++at) {
      const WorkTable& table = tables_[at];
      const Shape shape = shape_of(table);
      Json roles = Json::array();
      for (int axis = 0; axis < shape.rank(); ++axis)
        roles.push_back(lattice::word(shape.role(axis)));
      Json entry = {{"name", table.name},
                    {"kind", kind_words.of(table.kind)},
                    {"line", table.line},
                    {"shape", to_json(shape)},
                    {"roles", std::move(roles)}};
      if (shape.rank() != table.numbers.shape().rank())
        entry["shape_in_formulas"] = to_json(table.numbers.shape());
      const TensorTables layout(shape);
      if (table.numbers.is_sparse()) entry["is_sparse"] = true;
      entry["layout"] = {layout.beside(), layout.down(), layout.across()};
      if (tables_.is_calculated(at)) {
        add_making(entry, at);
      } else {
        add_source(entry, at);
      }
      list.push_back(std::move(entry));
    }
    return list;
  }

  void add_making(Json& entry, std::size_t at) {
    entry["made"] = patterns_.number_of(patterns_of(tables_, at, skeletons_));
    const std::string worked = tables_.worked(at);
    if (worked.empty()) return;
    entry["worked"] = worked;
    const auto as_worked = [&](std::int64_t offset) {
      return tables_.made_as_worked({at, offset});
    };
    entry["worked_by"] = number_of_patterns({.shape = tables_[at].numbers.shape(),
                                             .formula = as_worked,
                                             .goes_by_axis = false,
                                             .inside = at});
  }

  /// The number under which the page finds how numbers are made.
  [[nodiscard]] std::size_t number_of_patterns(const Making& making) {
    return patterns_.number_of(patterns_of(tables_, making, skeletons_));
  }

  /// What there is to say of numbers that are not calculated, and whether they can be changed.
  void add_source(Json& entry, std::size_t at) const {
    const WorkTable& table = tables_[at];
    entry["note"] = note_on(tables_, at, names_);
    if (table.kind == Kind::setting) {
      entry["is_rate"] = table.name == work_.rule()->settings().front().first;
    } else if (table.kind == Kind::remembered) {
      entry["given"] = kind_words.of(table.kind);
      for (const std::string& name : work_.rule()->memory_names()) {
        if (name_before(name) == table.name) entry["memory_of"] = name;
      }
    } else if (table.kind == Kind::value) {
      const Line line = work_.sheet().line(table.line);
      entry["given"] = line.operation();
      if (fixed_.contains(table.line)) entry["is_fixed"] = true;
      if (table.numbers.is_sparse() && table.numbers.count() > most_written_out)
        entry["is_cut_short"] = true;
      if (const std::int64_t choices = choices_of(line); choices > 0) entry["choices"] = choices;
    }
  }

  /// How many things the numbers of a line choose between; 0 where they do not.
  [[nodiscard]] std::int64_t choices_of(const Line& line) const {
    for (const Line& user : work_.sheet().lines()) {
      const std::vector<Line> inputs = user.inputs();
      std::vector<const Tensor*> numbers;
      numbers.reserve(inputs.size());
      for (const Line& input : inputs)
        numbers.push_back(&input.value());
      for (std::size_t input = 0; input < inputs.size(); ++input) {
        if (inputs[input] != line) continue;
        const std::int64_t choices =
            WorksheetRecord::entry(user).operation->choices(Inputs(numbers), input);
        if (choices > 0) return choices;
      }
    }
    return 0;
  }

  [[nodiscard]] Json walk() {
    Json entries = Json::array();
    for (const WorkEntry& entry : entries_of(work_)) {
      if (entry.line != 0) entries.push_back(walked(entry));
    }
    return entries;
  }

  using Stage = WorkEntry::Stage;

  [[nodiscard]] Json walked(const WorkEntry& entry) {
    constexpr Words<Stage> words = {{Stage::forward, "forward"},
                                    {Stage::loss, "loss"},
                                    {Stage::reverse, "reverse"},
                                    {Stage::update, "update"}};
    Json json = {{"stage", words.of(entry.stage)},
                 {"heading", entry.heading()},
                 {"line", entry.line},
                 {"name", entry.name},
                 {"title", entry.title},
                 {"note", entry.note}};
    const Line line = work_.sheet().line(entry.line);
    if (entry.stage == Stage::reverse) {
      json["result"] = tables_.find(Kind::gradient, entry.line).value();
      json["passed_on"] = passed_on(entry);
    } else if (entry.stage == Stage::update) {
      json["result"] = tables_.find(Kind::after, entry.line).value();
      json["operands"] = behind_update(line);
    } else {
      json["result"] = entry.line - 1;
      json["operation"] = entry.operation;
      json["operands"] = Json::array();
      for (const Line& input : line.inputs())
        json["operands"].push_back(input.number() - 1);
    }
    return json;
  }

  [[nodiscard]] Json passed_on(const WorkEntry& entry) {
    Json list = Json::array();
    const Line line = work_.sheet().line(entry.line);
    const std::size_t at = tables_.find(Kind::gradient, entry.line).value();
    for (const WorkEntry::PassedOn& passed : entry.passed_on) {
      const Shape& shape = line.inputs()[passed.input].shape();
      const auto one_share = [&](std::int64_t offset) {
        return tables_.explainer().passed_on(line, passed.input, shape.index(offset));
      };
      Json json = {{"to", tables_.find(Kind::gradient, passed.line).value()},
                   {"symbols", passed.symbols},
                   {"by", number_of_patterns({.shape = shape,
                                              .formula = one_share,
                                              .goes_by_axis = tables_.goes_by_axis(line),
                                              .inside = at})}};
      if (!passed.is_whole) json["is_share"] = true;
      if (const std::optional<LocalDerivative> by = local_derivative(line, passed.input))
        json["local"] = local(*by, passed, entry);
      list.push_back(std::move(json));
    }
    return list;
  }

  /// A local derivative: a table, how numbers that lie like those of a table are made, or the axis
  /// along which each row has a matrix of its own.
  [[nodiscard]] Json local(const LocalDerivative& local, const WorkEntry::PassedOn& passed,
                           const WorkEntry& entry) {
    if (local.kind == LocalDerivative::Kind::matrix)
      return {{"factor", local.factor.number() - 1}, {"symbols", local.factor_in_symbols()}};
    if (local.kind == LocalDerivative::Kind::window) {
      return {{"factor", local.factor.number() - 1},
              {"symbols", local.factor_in_symbols()},
              {"is_window", true}};
    }
    if (local.kind == LocalDerivative::Kind::across)
      return {{"each", local.each}, {"across", local.axis}};
    if (local.is_as_it_is) return {{"everywhere", 1}, {"count", local.numbers.count()}};
    const Line line = work_.sheet().line(entry.line);
    const Shape& shape = local.numbers.shape();
    const bool is_of_line = shape == entry.numbers.shape();
    const std::size_t like =
        tables_.find(Kind::gradient, is_of_line ? entry.line : passed.line).value();
    const auto each = [&](std::int64_t offset) {
      return tables_.explainer().local(line, passed.input, shape.index(offset));
    };
    return {{"like", like},
            {"made", number_of_patterns({.shape = shape,
                                         .formula = each,
                                         .goes_by_axis = tables_.goes_by_axis(line),
                                         .inside = like})}};
  }

  /// The columns of the network's picture, by their tables, and what links them.
  [[nodiscard]] Json network() const {
    const std::optional<NetworkSketch> sketch = sketch_of(work_);
    if (!sketch) return {};
    Json columns = Json::array();
    for (const Line& line : sketch->columns)
      columns.push_back(line.number() - 1);
    Json links = Json::array();
    for (const NetworkSketch::Link& link : sketch->links) {
      links.push_back({{"from", link.from}, {"to", link.to}, {"kind", link_words.of(link.kind)}});
      if (link.weight) links.back()["weight"] = link.weight->number() - 1;
    }
    return {{"columns", std::move(columns)}, {"links", std::move(links)}};
  }

  /// The tables that the update of a weight is worked from.
  [[nodiscard]] Json behind_update(const Line& weight) const {
    Json operands = {weight.number() - 1};
    if (const auto next = weight.next()) operands.push_back(next->number() - 1);
    if (const auto gradient = tables_.find(Kind::gradient, weight.number()))
      operands.push_back(*gradient);
    for (std::size_t at = 0; at < tables_.all().size(); ++at) {
      const WorkTable& table = tables_[at];
      const bool is_inner = table.kind == Kind::remembered || table.kind == Kind::worked_out;
      if (is_inner && table.line == weight.number()) operands.push_back(at);
    }
    return operands;
  }

  const WorkedSheet& work_;
  const AxisNames& names_;
  const WorkTables& tables_;
  const std::set<std::size_t>& fixed_;
  Dictionary& skeletons_;
  Dictionary& patterns_;
};

}  // namespace

PageStructure::PageStructure(const WorkedStep& step, const AxisNames& names, Dictionary& skeletons,
                             Dictionary& patterns)
    : work_(step.work),
      names_(names),
      tables_(step.work, most_written_out),
      fixed_(fixed_lines(step.work.sheet())),
      skeletons_(skeletons),
      patterns_(patterns) {}

bool PageStructure::is_that_of(const WorkedSheet& other) const {
  const std::vector<Line> lines = work_.sheet().lines();
  const std::vector<Line> others = other.sheet().lines();
  return std::ranges::equal(lines, others,
                            [&](const Line& a, const Line& b) {
                              return a.name() == b.name() && a.kind() == b.kind() &&
                                     a.operation() == b.operation() && a.symbols() == b.symbols() &&
                                     a.section() == b.section() && a.shape() == b.shape() &&
                                     has_same_formulas(a, b);
                            }) &&
         work_.result().number() == other.result().number() &&
         std::ranges::equal(work_.updates(), other.updates(), [](const auto& a, const auto& b) {
           return a.weight == b.weight && a.rate_multiplier == b.rate_multiplier;
         });
}

Json PageStructure::json() {
  return StructureWriter(tables_, names_, fixed_, skeletons_, patterns_).json();
}

/// Whether formulas that a line stands in can be the same with the numbers of another.
bool PageStructure::has_same_formulas(const Line& line, const Line& other) const {
  const bool is_free = !line.value().is_sparse() && !fixed_.contains(line.number());
  return is_free || line.value() == other.value();
}

}  // namespace lattice
