#include "lattice/show/page.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>

#include "files/file.hpp"
#include "lattice/files/json.hpp"
#include "lattice/learning/work_entry.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/shown_subject.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/words.hpp"
#include "lattice/worksheet/laid_out.hpp"
#include "lattice/worksheet/local_derivative.hpp"
#include "show/blanks.hpp"
#include "show/formula_patterns.hpp"
#include "show/function_names.hpp"
#include "show/page/files.hpp"
#include "show/page_words.hpp"
#include "show/plot.hpp"
#include "show/work_tables.hpp"
#include "tensor/tensor_tables.hpp"
#include "worksheet/formula_text.hpp"

namespace lattice {
namespace {

using Kind = WorkTable::Kind;

/// What kinds of tables are called on the page.
constexpr Words<Kind> kind_words = {
    {Kind::value, "value"},           {Kind::gradient, "gradient"},     {Kind::setting, "setting"},
    {Kind::remembered, "remembered"}, {Kind::worked_out, "worked out"}, {Kind::after, "after"}};

/// The numbers in a row, in full. JSON has no word for NaN and infinity: these are texts.
Json plain_numbers(const Tensor& tensor) {
  Json list = Json::array();
  for (const double number : tensor.numbers())
    list.push_back(std::isfinite(number) ? Json(number) : Json(format_number(number)));
  return list;
}

/// Takes down one worked sheet for the page.
class PageWriter {
 public:
  PageWriter(const WorkedStep& step, const AxisNames& names, int digits, Dictionary& skeletons,
             Dictionary& patterns)
      : step_(step),
        work_(step.work),
        names_(names),
        digits_(digits),
        tables_(step.work),
        skeletons_(skeletons),
        patterns_(patterns) {}

  [[nodiscard]] const WorkTables& tables() const { return tables_; }

  [[nodiscard]] Json json() {
    const std::optional<double> after = work_.result_after();
    return {
        {"step", step_.step},
        {"epoch", step_.epoch},
        {"rows", work_.batch().is_whole ? std::vector<std::int64_t>() : work_.batch().rows},
        {"counting", work_.batch().is_whole ? work_.batch().rows : std::vector<std::int64_t>()},
        {"augmented", work_.batch().augmented_in_words()},
        {"drawn", work_.batch().drawn.empty() ? "" : work_.batch().augmentation->drawn_name()},
        {"flow", to_json(step_.flow)},
        {"rule", fmt::format("{}", fmt::join(rule_in_words(work_, digits_), " · "))},
        {"result",
         {{"name", work_.result().name()},
          {"before", work_.result().value().count() == 1 ? Json(work_.result_before()) : Json()},
          {"after", after ? Json(*after) : Json()}}},
        {"tables", table_list()},
        {"walk", walk()}};
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
      Json entry = {{"name", table.name},        {"kind", kind_words.of(table.kind)},
                    {"line", table.line},        {"shape", to_json(shape)},
                    {"roles", std::move(roles)}, {"numbers", plain_numbers(table.numbers)}};
      if (shape.rank() != table.numbers.shape().rank())
        entry["shape_in_formulas"] = to_json(table.numbers.shape());
      const TensorTables layout(shape);
      if (table.numbers.is_sparse()) entry["is_sparse"] = true;
      entry["layout"] = {layout.beside(), layout.down(), layout.across()};
      if (tables_.is_calculated(at)) {
        entry["made"] = patterns_.number_of(patterns_of(tables_, at, skeletons_));
        if (const std::string worked = tables_.worked(at); !worked.empty())
          entry["worked"] = worked;
        if (std::vector<std::int64_t> residues = tables_.residues(at); !residues.empty())
          entry["residues"] = std::move(residues);
      } else {
        entry["note"] = note_on(tables_, at, names_);
        if (table.kind == Kind::value)
          entry["given"] = work_.sheet().line(table.line).operation();
        else if (table.kind == Kind::remembered)
          entry["given"] = kind_words.of(table.kind);
      }
      list.push_back(std::move(entry));
    }
    return list;
  }

  [[nodiscard]] Json walk() const {
    Json entries = Json::array();
    for (const WorkEntry& entry : entries_of(work_)) {
      if (entry.line != 0) entries.push_back(walked(entry));
      if (entry.stage == Stage::again) entries.back()["verdict"] = entry.note;
    }
    return entries;
  }

  using Stage = WorkEntry::Stage;

  [[nodiscard]] Json walked(const WorkEntry& entry) const {
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

  [[nodiscard]] Json passed_on(const WorkEntry& entry) const {
    Json list = Json::array();
    for (const WorkEntry::PassedOn& passed : entry.passed_on) {
      list.push_back(
          {{"to", tables_.find(Kind::gradient, passed.line).value()}, {"symbols", passed.symbols}});
      if (!passed.is_whole) list.back()["share"] = plain_numbers(passed.contribution);
      const Line line = work_.sheet().line(entry.line);
      if (const std::optional<LocalDerivative> by = local_derivative(line, passed.input))
        list.back()["local"] = local(*by, passed, entry);
    }
    return list;
  }

  /// A local derivative: the same number everywhere, the table of the matrix, or numbers that lie
  /// like those of a table.
  [[nodiscard]] Json local(const LocalDerivative& local, const WorkEntry::PassedOn& passed,
                           const WorkEntry& entry) const {
    if (local.kind == LocalDerivative::Kind::matrix)
      return {{"factor", local.factor.number() - 1}, {"symbols", local.factor_in_symbols()}};
    if (local.kind == LocalDerivative::Kind::window) {
      return {{"factor", local.factor.number() - 1},
              {"symbols", local.factor_in_symbols()},
              {"is_window", true}};
    }
    if (local.kind == LocalDerivative::Kind::across)
      return {{"each", local.each}, {"matrix", plain_numbers(local.numbers)}};
    if (local.everywhere)
      return {{"everywhere", *local.everywhere}, {"count", local.numbers.count()}};
    if (entry.numbers.count() == 1 && entry.numbers.number() == 1.0) return {{"passed_on", true}};
    const bool is_of_line = local.numbers.shape() == entry.numbers.shape();
    const std::size_t like = is_of_line ? entry.line : passed.line;
    return {{"like", tables_.find(Kind::gradient, like).value()},
            {"numbers", plain_numbers(local.numbers)}};
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

  const WorkedStep& step_;
  const WorkedSheet& work_;
  const AxisNames& names_;
  int digits_;
  WorkTables tables_;
  Dictionary& skeletons_;
  Dictionary& patterns_;
};

/// The dictionary's texts, which are JSON, as one list.
std::string list_of(const Dictionary& dictionary) {
  return fmt::format("[{}]", fmt::join(dictionary.texts(), ",\n"));
}

/// How formulas are written and worked, for the page to do it likewise: how tightly each kind
/// binds, how many terms of a list are shown, and what functions are called there.
Json notation() {
  Json binding = Json::object();
  for (const auto& [kind, word] : formula_kind_words)
    binding[std::string(word)] = static_cast<int>(binding_of(kind));
  Json functions = Json::object();
  for (const FunctionName& each : function_names()) {
    if (!each.in_scripts.empty()) functions[std::string(each.name)] = each.in_scripts;
  }
  return {{"binding", std::move(binding)},
          {"longest", Notation().longest_sum},
          {"functions", std::move(functions)}};
}

/// The data of a page.
std::string data_of(const WorkedExample& example, const PageSettings& settings,
                    std::vector<StyleAndScript>& of_subjects) {
  Dictionary skeletons;
  Dictionary patterns;
  Json steps = Json::array();
  Json blanks = Json::array();
  for (const WorkedStep& step : example.steps) {
    PageWriter writer(step, example.names, settings.digits, skeletons, patterns);
    steps.push_back(writer.json());
    if (steps.size() > 1 || !settings.exercise.is_asked_for()) continue;
    for (const Blank& blank : choose_blanks(writer.tables(), settings.exercise)) {
      blanks.push_back(
          {{"table", blank.spot.table}, {"place", blank.spot.offset}, {"within", blank.within}});
    }
  }
  Json json = {{"title", example.title},
               {"about", example.about},
               {"names",
                {{word(Role::feature), example.names.features},
                 {word(Role::target), example.names.targets},
                 {word(Role::class_), example.names.classes},
                 {word(Role::node), example.names.nodes}}},
               {"colours", plot::series_texts()},
               {"digits", settings.digits},
               {"notation", notation()},
               {"words", page_words()},
               {"blanks", std::move(blanks)},
               {"steps", std::move(steps)}};
  for (const ShownSubject& subject : shown_subjects()) {
    Json own = subject.page_json == nullptr ? Json() : subject.page_json(example);
    if (own.is_null()) continue;
    json[subject.name] = std::move(own);
    of_subjects.push_back(subject.page);
  }
  if (example.run) {
    json["run"] = to_json(*example.run);
    json["references"] = to_json(example.references);
  }
  std::string text = json_text(json);
  text.pop_back();
  return fmt::format("{},\n\"skeletons\":{},\n\"patterns\":{}}}", text, list_of(skeletons),
                     list_of(patterns));
}

}  // namespace

std::string page(const WorkedExample& example, const PageSettings& settings) {
  std::vector<StyleAndScript> of_subjects;
  const std::string data = data_of(example, settings, of_subjects);
  return page_files::filled_in(page_files::page_html, {.title = example.title,
                                                       .style = page_files::page_css,
                                                       .data = data,
                                                       .script = page_files::page_js,
                                                       .of_subjects = std::move(of_subjects),
                                                       .start = page_files::start_js});
}

void write_page(const std::filesystem::path& path, const WorkedExample& example,
                const PageSettings& settings) {
  write_file(path, page(example, settings));
}

}  // namespace lattice
