#include "lattice/show/page.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "files/file.hpp"
#include "lattice/files/json.hpp"
#include "lattice/learning/work_entry.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/shown_subject.hpp"
#include "show/blanks.hpp"
#include "show/formula_patterns.hpp"
#include "show/function_names.hpp"
#include "show/glossary.hpp"
#include "show/page/files.hpp"
#include "show/page_numbers.hpp"
#include "show/page_structure.hpp"
#include "show/page_words.hpp"
#include "show/plot.hpp"
#include "show/slips.hpp"
#include "show/work_tables.hpp"
#include "worksheet/formula_text.hpp"
#include "worksheet/record.hpp"

namespace lattice {
namespace {

using Kind = WorkTable::Kind;

/// Whether each number of a line is made from one of each of its inputs, or is one of them.
bool is_number_by_number(const Line& line) {
  if (line.kind() != Line::Kind::calculated) return false;
  const Operation& operation = *WorksheetRecord::entry(line).operation;
  for (std::size_t input = 0; input < line.inputs().size(); ++input) {
    if (operation.passing(input).kind != Passing::Kind::number_by_number)
      return operation.nature().rearranges;
  }
  return true;
}

/// Takes down worked sheets for the page, those alike by one structure.
class PageSteps {
 public:
  PageSteps(const WorkedExample& example, const PageSettings& settings)
      : example_(example), settings_(settings) {}

  void write() {
    for (const WorkedStep& step : example_.steps) {
      const std::size_t structure = structure_of(step);
      steps_.push_back(facts_of(step, structure));
      const WorkTables& first = structures_[structure].tables();
      if (&first.work() == &step.work) {
        add_numbers(first, structure);
      } else {
        add_numbers(WorkTables(step.work, most_written_out), structure);
      }
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

  void add_numbers(const WorkTables& tables, std::size_t structure) {
    steps_.back()["numbers"] = all_numbers(tables, structure);
    steps_.back()["residues"] = residues(tables);
  }

  /// The numbers of every table. Data that are the same as in the step before are left out, and
  /// what the page can soon make itself.
  [[nodiscard]] Json all_numbers(const WorkTables& tables, std::size_t structure) {
    Json list = Json::array();
    std::vector<Tensor> now;
    for (std::size_t at = 0; at < tables.all().size(); ++at) {
      const WorkTable& table = tables[at];
      const bool is_data = is_data_of(tables.work(), table) || table.kind == Kind::setting;
      const bool is_left_out =
          is_data ? is_same(structure, at, table.numbers) : is_worked_on_page(tables.work(), table);
      list.push_back(is_left_out ? Json() : numbers_on_page(table.numbers));
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
      // Formulas that are written for numbers, as of an augmentation, are others each time.
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
                                                                        : numbers_on_page(numbers));
      now.push_back(std::move(numbers));
    }
    remember(structure, std::move(now));
    return list;
  }

  /// True for many numbers that the page soon has from those of other tables when they are looked
  /// at: of the gradient and the update of a weight, and of a line that is worked number by number.
  static bool is_worked_on_page(const WorkedSheet& work, const WorkTable& table) {
    if (table.numbers.count() <= most_small_numbers || table.numbers.is_sparse()) return false;
    const Line line = work.sheet().line(table.line);
    switch (table.kind) {
      case Kind::value:
        return is_number_by_number(line);
      case Kind::gradient:
      case Kind::worked_out:
      case Kind::after:
        return line.kind() == Line::Kind::weight;
      case Kind::setting:
      case Kind::remembered:
        return false;
    }
    return false;
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
      numbers.push_back(is_data_of(step.work, table) ? numbers_on_page(table.numbers) : Json());
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
      Json slips = Json::array();
      for (const Slip& slip : slips_at(first.tables(), blank))
        slips.push_back({number_in_json(slip.number), slip.sentence});
      blanks_.push_back({{"table", blank.spot.table},
                         {"place", blank.spot.offset},
                         {"within", blank.within},
                         {"slips", std::move(slips)}});
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

/// The terms that a page explains: [name, meaning, the lines that it is about].
Json terms_on_page(const WorkedExample& example) {
  Json list = Json::array();
  for (const GlossaryTerm& term : terms_of(example))
    list.push_back({term.name, term.meaning, term.where});
  return list;
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
               {"terms", terms_on_page(example)},
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
