#include "lattice/show/page.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <deque>
#include <nlohmann/json.hpp>
#include <set>

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
#include "show/network_sketch.hpp"
#include "show/page/files.hpp"
#include "show/page_words.hpp"
#include "show/plot.hpp"
#include "show/work_tables.hpp"
#include "tensor/tensor_tables.hpp"
#include "worksheet/formula_text.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

using Kind = WorkTable::Kind;

/// What kinds of tables are called on the page.
constexpr Words<Kind> kind_words = {
    {Kind::value, "value"},           {Kind::gradient, "gradient"},     {Kind::setting, "setting"},
    {Kind::remembered, "remembered"}, {Kind::worked_out, "worked out"}, {Kind::after, "after"}};

/// The numbers of a tensor in a row.
Json plain_numbers(const Tensor& tensor) {
  Json list = Json::array();
  for (const double number : tensor.numbers())
    list.push_back(number_in_json(number));
  return list;
}

/// What the page writes once for all worked sheets that differ in nothing but their numbers: which
/// tables there are, how each number in them is made, and the walk through them.
class PageStructure {
 public:
  PageStructure(const WorkedStep& step, const AxisNames& names, Dictionary& skeletons,
                Dictionary& patterns)
      : work_(step.work),
        names_(names),
        tables_(step.work, most_written_out),
        fixed_(fixed_lines(step.work.sheet())),
        skeletons_(skeletons),
        patterns_(patterns) {}

  [[nodiscard]] const WorkTables& tables() const { return tables_; }

  /// Whether all but the numbers is the same on another sheet.
  [[nodiscard]] bool is_that_of(const WorkedSheet& other) const {
    const std::vector<Line> lines = work_.sheet().lines();
    const std::vector<Line> others = other.sheet().lines();
    return std::ranges::equal(lines, others,
                              [&](const Line& a, const Line& b) {
                                return a.name() == b.name() && a.kind() == b.kind() &&
                                       a.operation() == b.operation() &&
                                       a.symbols() == b.symbols() && a.section() == b.section() &&
                                       a.shape() == b.shape() && has_same_formulas(a, b);
                              }) &&
           work_.result().number() == other.result().number() &&
           std::ranges::equal(work_.updates(), other.updates(), [](const auto& a, const auto& b) {
             return a.weight == b.weight && a.rate_multiplier == b.rate_multiplier;
           });
  }

  [[nodiscard]] Json json() {
    return {{"result", work_.result().name()},
            {"rule", work_.rule() ? Json(work_.rule()->word()) : Json()},
            {"drawn", work_.batch().drawn.empty() ? "" : work_.batch().augmentation->drawn_name()},
            {"tables", table_list()},
            {"walk", walk()},
            {"network", network()}};
  }

 private:
  /// Whether formulas that a line stands in can be the same with the numbers of another.
  [[nodiscard]] bool has_same_formulas(const Line& line, const Line& other) const {
    const bool is_free = !line.value().is_sparse() && !fixed_.contains(line.number());
    return is_free || line.value() == other.value();
  }

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
    entry["worked_by"] = patterns_.number_of(patterns_of(
        tables_, tables_[at].numbers.shape(),
        [&](std::int64_t offset) {
          return tables_.made_as_worked({at, offset});
        },
        at, skeletons_));
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
      Json json = {
          {"to", tables_.find(Kind::gradient, passed.line).value()},
          {"symbols", passed.symbols},
          {"by", patterns_.number_of(patterns_of(tables_, shape, one_share, at, skeletons_))}};
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
            {"made", patterns_.number_of(patterns_of(tables_, shape, each, like, skeletons_))}};
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
  WorkTables tables_;
  std::set<std::size_t> fixed_;
  Dictionary& skeletons_;
  Dictionary& patterns_;
};

/// Takes down worked sheets for the page, those alike by one structure.
class PageSteps {
 public:
  PageSteps(const WorkedExample& example, const PageSettings& settings)
      : example_(example), settings_(settings) {}

  void write() {
    for (const WorkedStep& step : example_.steps) {
      const std::size_t structure = structure_of(step);
      steps_.push_back(facts_of(step, structure));
      const WorkTables tables(step.work, most_written_out);
      steps_.back()["numbers"] = all_numbers(tables, structure);
      steps_.back()["residues"] = residues(tables);
      add_outcome(step);
      if (steps_.size() == 1 && settings_.exercise.is_asked_for()) choose(structures_.front());
    }
    shown_ = steps_.size();
    write_further();
  }

  /// Adds what was taken down to the data of a page.
  void put_into(Json& json) {
    if (Json plane = plane_of_data(); !plane.is_null()) json["plane"] = std::move(plane);
    json["blanks"] = std::move(blanks_);
    if (!exercise_id_.empty()) {
      json["exercise"] = {{"id", exercise_id_}, {"variant", settings_.variant}};
    }
    json["structures"] = std::move(structure_json_);
    json["steps"] = std::move(steps_);
    json["shown"] = shown_;
  }

  [[nodiscard]] const Dictionary& skeletons() const { return skeletons_; }
  [[nodiscard]] const Dictionary& patterns() const { return patterns_; }

 private:
  /// Which of the structures is that of a step; a new one is taken down.
  std::size_t structure_of(const WorkedStep& step) {
    if (const auto known = known_structure_of(step)) return *known;
    structures_.emplace_back(step, example_.names, skeletons_, patterns_);
    structure_json_.push_back(structures_.back().json());
    return structures_.size() - 1;
  }

  [[nodiscard]] std::optional<std::size_t> known_structure_of(const WorkedStep& step) const {
    const auto found = std::ranges::find_if(
        structures_, [&](const PageStructure& each) { return each.is_that_of(step.work); });
    if (found == structures_.end()) return std::nullopt;
    return static_cast<std::size_t>(found - structures_.begin());
  }

  [[nodiscard]] Json facts_of(const WorkedStep& step, std::size_t structure) const {
    const Batch& batch = step.work.batch();
    return {{"step", step.step},
            {"epoch", step.epoch},
            {"structure", structure},
            {"rows", batch.is_whole ? std::vector<std::int64_t>() : batch.rows},
            {"counting", batch.is_whole ? batch.rows : std::vector<std::int64_t>()},
            {"augmented", batch.augmented_in_words()}};
  }

  /// The numbers of every table. Data that are the same as in the step before are left out.
  [[nodiscard]] Json all_numbers(const WorkTables& tables, std::size_t structure) {
    Json list = Json::array();
    std::vector<Tensor> now;
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      const WorkTable& table = tables[at];
      const bool is_data = is_data_of(tables.work(), table) || table.kind == Kind::setting;
      list.push_back(
          is_data && is_same(structure, at, table.numbers) ? Json() : plain_numbers(table.numbers));
      now.push_back(is_data ? table.numbers : Tensor());
    }
    remember(structure, std::move(now));
    return list;
  }

  /// What the update did to the result, and what passed through the layers.
  void add_outcome(const WorkedStep& step) {
    const std::optional<double> after = step.work.result_after();
    steps_.back()["after"] = after ? number_in_json(*after) : Json();
    const std::vector<WorkEntry> entries = entries_of(step.work);
    const bool is_last = entries.back().stage == WorkEntry::Stage::again;
    steps_.back()["verdict"] = is_last ? entries.back().note : "";
    steps_.back()["flow"] = to_json(step.flow);
  }

  /// Adds the steps that come after those that are shown, as far as they are alike and not long:
  /// of each the numbers that are not calculated, and do not come from the step before.
  void write_further() {
    std::size_t room = least_room + json_text(steps_).size() / 4;
    std::size_t structures_left = 1;
    for (const WorkedStep& step : example_.further) {
      // Formulas that are written for numbers, such as those of an augmentation, are others each time.
      const bool is_other = !known_structure_of(step);
      const bool comes_again = fixed_lines(step.work.sheet()).empty();
      if (is_other && (!comes_again || structures_left-- == 0)) return;
      const std::size_t structure = structure_of(step);
      Json numbers = given_numbers(step, structure);
      const std::size_t size = numbers.dump().size();
      if (size > room) return;
      room -= size;
      steps_.push_back(facts_of(step, structure));
      steps_.back()["numbers"] = std::move(numbers);
    }
  }

  static constexpr std::size_t least_room = 16'384;

  [[nodiscard]] Json given_numbers(const WorkedStep& step, std::size_t structure) {
    const std::vector<WorkTable>& tables = structures_[structure].tables().all();
    const std::vector<WorkTable> settings = settings_of(step.work);
    Json list = Json::array();
    std::vector<Tensor> now;
    for (std::size_t at = 0; at < tables.size(); ++at) {
      const WorkTable& table = tables[at];
      Tensor numbers;
      if (is_data_of(step.work, table)) numbers = step.work.sheet().line(table.line).value();
      if (table.kind == Kind::setting)
        numbers = std::ranges::find(settings, table.name, &WorkTable::name)->numbers;
      list.push_back(numbers.empty() || is_same(structure, at, numbers) ? Json()
                                                                        : plain_numbers(numbers));
      now.push_back(std::move(numbers));
    }
    remember(structure, std::move(now));
    return list;
  }

  /// True for data: neither calculated nor carried from one step to the next.
  static bool is_data_of(const WorkedSheet& work, const WorkTable& table) {
    if (table.kind != Kind::value) return false;
    const Line::Kind kind = work.sheet().line(table.line).kind();
    return kind == Line::Kind::given || kind == Line::Kind::asked;
  }

  [[nodiscard]] bool is_same(std::size_t structure, std::size_t table,
                             const Tensor& numbers) const {
    return last_structure_ == structure && last_[table] == numbers;
  }

  void remember(std::size_t structure, std::vector<Tensor> data) {
    last_structure_ = structure;
    last_ = std::move(data);
  }

  [[nodiscard]] static Json residues(const WorkTables& tables) {
    Json list = Json::object();
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      if (!tables.is_calculated(at)) continue;
      if (const std::vector<std::int64_t> places = tables.residues(at); !places.empty())
        list[fmt::format("{}", at)] = places;
    }
    return list;
  }

  /// Of classes of two features: all rows, and one of them worked such that any other point of the
  /// plane can take its place.
  [[nodiscard]] Json plane_of_data() {
    if (!example_.any_row) return {};
    const auto& [rows, parts, step] = *example_.any_row;
    if (rows.feature_count() != 2 || !rows.has_classes()) return {};
    const std::size_t structure = structure_of(step);
    const WorkTables& tables = structures_[structure].tables();
    Json numbers = Json::array();
    std::optional<std::size_t> point;
    std::optional<std::size_t> answer;
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      const WorkTable& table = tables[at];
      numbers.push_back(is_data_of(step.work, table) ? plain_numbers(table.numbers) : Json());
      if (table.kind != Kind::value) continue;
      const Line line = step.work.sheet().line(table.line);
      const bool is_source = is_data_of(step.work, table);
      if (is_source && line.shape() == Shape{1, 2} && !point) point = at;
      if (line.name() == "answer") answer = at;
    }
    if (!point || !answer) return {};
    const std::int64_t count = std::min(rows.rows(), most_points);
    Json points = Json::array();
    Json classes = Json::array();
    for (std::int64_t row = 0; row < count; ++row) {
      for (std::int64_t axis = 0; axis < 2; ++axis)
        points.push_back(number_in_json(rows.features.at({row, axis})));
      classes.push_back(number_in_json(rows.truth().at_offset(row)));
    }
    return {
        {"structure", structure}, {"numbers", std::move(numbers)}, {"point", *point},
        {"answer", *answer},      {"points", std::move(points)},   {"classes", std::move(classes)}};
  }

  static constexpr std::int64_t most_points = 5000;

  void choose(const PageStructure& first) {
    const std::vector<Blank> blanks =
        choose_blanks(first.tables(), settings_.exercise, example_.steps);
    exercise_id_ = exercise_id(example_.title, first.tables(), blanks);
    for (const Blank& blank : blanks) {
      blanks_.push_back(
          {{"table", blank.spot.table}, {"place", blank.spot.offset}, {"within", blank.within}});
    }
  }

  const WorkedExample& example_;
  const PageSettings& settings_;
  Dictionary skeletons_;
  Dictionary patterns_;
  std::deque<PageStructure> structures_;
  Json structure_json_ = Json::array();
  Json steps_ = Json::array();
  Json blanks_ = Json::array();
  std::string exercise_id_;
  std::size_t shown_ = 0;
  std::optional<std::size_t> last_structure_;  ///< of the step that was taken down last
  std::vector<Tensor> last_;                   ///< its data, by table; empty for other tables
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
  PageSteps steps(example, settings);
  steps.write();
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
               {"words", page_words()}};
  if (example.steps.front().work.result().value().precision() == Precision::single)
    json["is_single"] = true;
  steps.put_into(json);
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
  return fmt::format("{},\n\"skeletons\":{},\n\"patterns\":{}}}", text, list_of(steps.skeletons()),
                     list_of(steps.patterns()));
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
