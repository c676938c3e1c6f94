#include "lattice/lessons/model_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <nlohmann/json.hpp>

#include "files/file.hpp"
#include "files/number_bytes.hpp"
#include "lattice/data/row_kind.hpp"
#include "lattice/lessons/lesson_subject.hpp"
#include "lattice/network/blueprint.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/words.hpp"
#include "lessons/model_reader.hpp"

namespace lattice {
namespace {

using model_files::number_words;
using model_files::Reader;

constexpr const char* format_name = "open-lattice model";

// Writing

/// Puts words in place of such numbers, wherever they stand.
void name_numbers(Json& json) {
  if (json.is_structured()) {
    for (Json& each : json)
      name_numbers(each);
  } else if (json.is_number_float() && !std::isfinite(json.get<double>())) {
    const auto number = json.get<double>();
    json = number_words.at(std::isnan(number) ? 0 : number > 0.0 ? 1 : 2).first;
  }
}

/// A tensor as lists in one another, or in CBOR as bytes, those of lowest value first.
Json tensor_json(const Tensor& tensor, ModelFormat format) {
  if (format == ModelFormat::json) return to_json(tensor);
  std::string bytes;
  add_bytes(bytes, tensor, ByteOrder::lowest_first);
  return Json::binary({bytes.begin(), bytes.end()});
}

Json preparation_json(const Preparation& preparation, ModelFormat format) {
  Json steps = Json::array();
  for (const Scaling& step : preparation.steps) {
    steps.push_back({{"step", text(step.settings)},
                     {"centre", tensor_json(step.centre, format)},
                     {"divisor", tensor_json(step.divisor, format)}});
  }
  return steps;
}

Json weights_json(const Weights& weights, ModelFormat format) {
  Json json = Json::object();
  for (const Weight& weight : weights)
    json[weight.name] = tensor_json(weight.value, format);
  return json;
}

Json frozen_json(const Weights& weights) {
  Json names = Json::array();
  for (const Weight& weight : weights) {
    if (weight.is_frozen) names.push_back(weight.name);
  }
  return names;
}

Json rate_multipliers_json(const Weights& weights) {
  Json rate_multipliers = Json::object();
  for (const Weight& weight : weights) {
    if (weight.rate_multiplier != 1.0) rate_multipliers[weight.name] = weight.rate_multiplier;
  }
  return rate_multipliers;
}

Json random_json(const Random& random) {
  Json words = Json::array();
  for (const std::uint64_t word : random.state())
    words.push_back(fmt::format("{:016x}", word));
  return words;
}

bool are_same(const Weights& weights, const Weights& others) {
  return std::ranges::equal(weights, others, {}, &Weight::value, &Weight::value);
}

/// @param weights of the network: those of the state are told where they are others
Json state_json(const RunState& state, const Weights& weights, ModelFormat format) {
  const std::vector<std::string> names = state.rule.memory_names();
  Json memory = Json::object();
  for (const UpdateMemory::Entry& entry : state.rule.memory().entries) {
    memory[entry.weight] = Json::object();
    for (std::size_t at = 0; at < names.size(); ++at)
      memory[entry.weight][names[at]] = tensor_json(entry.tensors[at], format);
  }
  Json settings = Json::object();
  for (const auto& [name, number] : state.rule.settings())
    settings[name] = number;
  Json json = {{"rule",
                {{"word", state.rule.word()},
                 {"settings", std::move(settings)},
                 {"step", state.rule.memory().step},
                 {"memory", std::move(memory)}}},
               {"first_rate", state.first_rate},
               {"row_order", random_json(state.row_order)},
               {"chance", random_json(state.chance)},
               {"augmenting", random_json(state.augmenting)}};
  if (!are_same(state.weights, weights)) json["weights"] = weights_json(state.weights, format);
  return json;
}

// Reading

/// Factors for examples of a shape.
Scaling scaling_in(const Reader& reader, const ScalingSettings& settings, const Shape& example,
                   Precision precision) {
  const Shape shape = factors_for(example, settings.by);
  return {.settings = settings,
          .centre = reader["centre"].tensor(shape, precision),
          .divisor = reader["divisor"].tensor(shape, precision)};
}

/// The steps of a preparation.
Preparation preparation_in(const Reader& reader, const Shape& example, Precision precision) {
  Preparation preparation;
  for (const Reader& step : reader["preparation"].items()) {
    ScalingSettings settings;
    try {
      settings = parse_scaling(step["step"].text());
    } catch (const SettingError& error) {
      step["step"].refuse(error.trouble().expected);
    }
    preparation.steps.push_back(scaling_in(step, settings, example, precision));
  }
  return preparation;
}

/// What the axes of an example stand for.
void read_roles(const Reader& reader, Shape& example) {
  const std::vector<Reader> roles = reader.items();
  if (std::ssize(roles) != example.rank()) reader.refuse("a role for each axis of an example");
  for (int axis = 0; axis < example.rank(); ++axis) {
    const Reader& role = roles[static_cast<std::size_t>(axis)];
    example.set_role(axis, role.one_of(role_words));
  }
}

/// The weights that a plan asks for. Only what is there is read, whatever the plan says: no more
/// memory is taken than the file has numbers for.
Weights weights_in(const Reader& reader, const Plan& plan, Precision precision) {
  std::vector<const WeightNeed*> needs;
  for (const Plan::Row& row : plan.rows) {
    for (const WeightNeed& need : row.needs)
      needs.push_back(&need);
  }
  if (reader.json().size() != needs.size()) {
    reader.refuse(fmt::format("{} weights, as the blueprint says", needs.size()),
                  fmt::format("{}", reader.json().size()));
  }
  Weights weights;
  for (const WeightNeed* const need : needs) {
    weights.add({.name = need->name,
                 .value = reader[need->name].tensor(need->shape, precision),
                 .is_running = need->is_running,
                 .bias = need->is_bias(),
                 .is_spared = need->is_spared});
  }
  return weights;
}

/// Those that are told, or else those that the network has.
Weights weights_or_own(const Reader& reader, const Network& network) {
  if (!reader.json().contains("weights")) return network.weights();
  return weights_in(reader["weights"], network.plan(), network.precision());
}

/// Holds the weights that a list names.
void freeze_as_in(const Reader& reader, Network& network) {
  for (const Reader& item : reader.items()) {
    const std::string name = item.text();
    try {
      network.freeze(name);
    } catch (const NameError& error) {
      item.refuse(error.trouble().expected, fmt::format("'{}'", name));
    }
  }
}

/// Lets weights learn at the multiples of the rate that an object names.
void multiply_rates_as_in(const Reader& reader, Network& network) {
  for (const auto& [name, rate_multiplier] : reader.object().items()) {
    const Reader item = reader[name];
    try {
      network.set_rate_multiplier(name, item.number());
    } catch (const NameError& error) {
      reader.refuse(error.trouble().expected, fmt::format("'{}'", name));
    } catch (const SettingError& error) {
      item.refuse(error.trouble().expected);
    }
  }
}

/// 64 bits in hexadecimal digits.
std::uint64_t word_in(const Reader& reader) {
  std::uint64_t word = 0;
  const std::string text = reader.text();
  const char* const end = text.data() + text.size();
  const auto [stop, problem] = std::from_chars(text.data(), end, word, 16);
  if (problem != std::errc() || stop != end) reader.refuse("16 hexadecimal digits");
  return word;
}

/// From where to where each feature lay.
std::vector<Model::Range> ranges_in(const Reader& reader, const Shape& example) {
  std::vector<Model::Range> ranges;
  for (const Reader& range : reader.items()) {
    const std::vector<Reader> ends = range.items();
    if (ends.size() != 2) range.refuse("two numbers, the smallest and the largest");
    ranges.push_back({.low = ends[0].number(), .high = ends[1].number()});
  }
  if (example.rank() != 1 || std::ssize(ranges) != example[0])
    reader.refuse("a range for each feature", fmt::format("{}", ranges.size()));
  return ranges;
}

Random random_in(const Reader& reader) {
  Random::State state{};
  const std::vector<Reader> words = reader.items();
  if (words.size() != state.size()) reader.refuse("four words of 16 hexadecimal digits");
  for (std::size_t at = 0; at < state.size(); ++at)
    state.at(at) = word_in(words[at]);
  // From there the numbers would be 0 for ever.
  if (state == Random::State{}) reader.refuse("four words that are not all 0");
  return Random::at(state);
}

UpdateRule rule_in(const Reader& reader, const Network& network) {
  UpdateRule rule = rule_called(reader["word"].text());
  for (const auto& [name, number] : rule.settings())
    rule.set(name, reader["settings"][name].number());
  UpdateMemory memory{.step = reader["step"].whole()};
  const Reader entries = reader["memory"];
  for (const auto& [weight, tensors] : entries.object().items()) {
    UpdateMemory::Entry entry{.weight = weight, .tensors = {}};
    for (const std::string& name : rule.memory_names()) {
      entry.tensors.push_back(
          entries[weight][name].tensor(network[weight].shape(), network.precision()));
    }
    memory.entries.push_back(std::move(entry));
  }
  rule.set_memory(std::move(memory));
  rule.check();
  return rule;
}

/// A number that files of earlier versions lack.
double number_or_0(const Reader& reader, const std::string& key) {
  return reader.json().contains(key) ? reader[key].number() : 0.0;
}

Figures figures_in(const Reader& reader) {
  Figures figures{.loss = reader["loss"].number()};
  if (reader.json().contains("accuracy")) figures.accuracy = reader["accuracy"].number();
  if (reader.json().contains("confusion")) {
    const Reader confusion = reader["confusion"];
    const std::int64_t classes = std::ssize(confusion.items());
    const Shape shape = Shape{classes, classes}.with({Role::class_, Role::class_});
    figures.confusion = confusion.tensor(shape, Precision::double_);
  }
  return figures;
}

std::vector<LayerFlow> flow_in(const Reader& reader) {
  std::vector<LayerFlow> layers;
  for (const Reader& layer : reader.items()) {
    layers.push_back({.layer = layer["layer"].text(),
                      .learns = layer["learns"].truth(),
                      .standard_deviation = layer["standard_deviation"].number(),
                      .gradient_norm = layer["gradient_norm"].number(),
                      .weight_gradient_norm = layer["weight_gradient_norm"].number(),
                      .dead = layer["dead"].number()});
  }
  return layers;
}

RunRecord run_in(const Reader& reader) {
  RunRecord run;
  for (const Reader& epoch : reader["epochs"].items()) {
    EpochFigures figures{.epoch = epoch["epoch"].whole()};
    if (epoch.json().contains("train")) figures.train = figures_in(epoch["train"]);
    figures.updates = epoch["updates"].whole();
    if (!epoch["running_loss"].is_null()) {
      figures.running = {.loss = epoch["running_loss"].number()};
      if (epoch.json().contains("running_accuracy"))
        figures.running->accuracy = epoch["running_accuracy"].number();
    }
    if (epoch.json().contains("validation")) figures.validation = figures_in(epoch["validation"]);
    if (epoch.json().contains("l2_term")) figures.l2_term = epoch["l2_term"].number();
    figures.rate = epoch["rate"].number();
    figures.seconds = epoch["seconds"].number();
    figures.learning_seconds = number_or_0(epoch, "learning_seconds");
    figures.judging_seconds = number_or_0(epoch, "judging_seconds");
    run.epochs.push_back(figures);
  }
  for (const Reader& step : reader["steps"].items()) {
    run.steps.push_back({.step = step["step"].whole(),
                         .epoch = step["epoch"].whole(),
                         .minibatch = figures_in(step)});
    if (step.json().contains("running")) run.steps.back().running = figures_in(step["running"]);
    if (step.json().contains("watched")) run.steps.back().watched = figures_in(step["watched"]);
  }
  for (const Reader& change : reader["rate_changes"].items()) {
    run.rate_changes.push_back({.epoch = change["epoch"].whole(),
                                .before = change["before"].number(),
                                .after = change["after"].number()});
  }
  if (reader.json().contains("flow")) {
    for (const Reader& moment : reader["flow"].items())
      run.flow.push_back({.epoch = moment["epoch"].whole(), .layers = flow_in(moment["layers"])});
  }
  for (const Reader& join : reader["joins"].items())
    run.joins.push_back(join.whole());
  run.updates = reader["updates"].whole();
  run.seconds = reader["seconds"].number();
  run.waited = reader["waited"].number();
  run.judged = number_or_0(reader, "judged");
  if (reader.json().contains("judged_train_rows"))
    run.judged_train_rows = reader["judged_train_rows"].whole();
  run.ends_with_best = reader["ends_with_best"].truth();
  run.ending = reader["ending"].one_of(ending_words);
  return run;
}

std::string fingerprint_text(std::uint64_t fingerprint) {
  return fmt::format("{:016x}", fingerprint);
}

void check_format(const Reader& reader) {
  if (reader["format"].text() != format_name)
    reader["format"].refuse(fmt::format("'{}'", format_name));
  const std::int64_t version = reader["version"].whole();
  if (version == model_file_version) return;
  throw FileError({.what = fmt::format("the model file was written by {} version of this program",
                                       version > model_file_version ? "a newer" : "an older"),
                   .where = "version",
                   .expected = fmt::format("{}", model_file_version),
                   .found = fmt::format("{}", version),
                   .remedy = "use that version, or train the lesson in the file again"});
}

}  // namespace

std::vector<ModelFile::PartOfFile> parts_of_files(const Dataset& data) {
  std::vector<ModelFile::PartOfFile> parts;
  for (const FixedPart& fixed : data.fixed_parts) {
    Dataset rows = data.taking(fixed.rows);
    rows.fixed_parts.clear();
    parts.push_back({.part = fixed.part,
                     .name = fixed.name,
                     .rows = rows.rows(),
                     .fingerprint = fingerprint(rows)});
  }
  return parts;
}

Json to_json(const ModelFile& file, ModelFormat format) {
  const Model& model = file.model;
  const Network& network = model.network;
  Json columns = Json::array();
  for (const Column& column : model.columns) {
    Json json = {{"name", column.name}};
    if (!column.words.empty()) json["words"] = column.words;
    columns.push_back(std::move(json));
  }
  Json json = {{"format", format_name},
               {"version", model_file_version},
               {"network",
                {{"blueprint", network.blueprint()},
                 {"example", to_json(network.example())},
                 {"roles", roles_of(network.example())},
                 {"precision", word(network.precision())},
                 {"updates", network.updates()},
                 {"weights", weights_json(network.weights(), format)},
                 {"frozen", frozen_json(network.weights())},
                 {"rate_multipliers", rate_multipliers_json(network.weights())}}},
               {"loss", word(model.loss)},
               {"columns", std::move(columns)},
               {"preparation", preparation_json(model.preparation, format)},
               {"target",
                {{"names", model.target_names},
                 {"preparation", preparation_json(model.target_preparation, format)}}},
               {"data",
                {{"name", file.data_name},
                 {"rows", file.rows},
                 {"fingerprint", fingerprint_text(file.fingerprint)}}},
               {"lesson", to_json(file.lesson)},
               {"run", to_json(file.run)}};
  for (const ModelFile::PartOfFile& part : file.parts) {
    json["data"]["parts"][word(part.part)] = {{"name", part.name},
                                              {"rows", part.rows},
                                              {"fingerprint", fingerprint_text(part.fingerprint)}};
  }
  if (!model.feature_ranges.empty()) {
    json["feature_ranges"] = Json::array();
    for (const auto& [low, high] : model.feature_ranges)
      json["feature_ranges"].push_back({low, high});
  }
  for (const LessonSubject& subject : lesson_subjects()) {
    if (model.rows && kind_of(*model.rows).name == subject.model_key)
      json[subject.model_key] = subject.rows_to_json(*model.rows);
  }
  if (!model.class_names.empty()) json["target"]["classes"] = model.class_names;
  if (!model.class_labels.empty()) json["target"]["labels"] = model.class_labels;
  if (file.run.best) {
    json["best"] = {{"epoch", file.run.best->epoch}, {"loss", file.run.best->loss}};
    if (!are_same(file.run.best->weights, network.weights()))
      json["best"]["weights"] = weights_json(file.run.best->weights, format);
  }
  if (file.run.state && file.run.ending != Ending::diverged)
    json["resume"] = state_json(*file.run.state, network.weights(), format);
  name_numbers(json);
  return json;
}

ModelFile model_from_json(const Json& json, const std::string& name, const OwnThings& own) {
  const Reader reader(json, name);
  check_format(reader);
  const Reader of_network = reader["network"];
  const Precision precision = of_network["precision"].one_of(precision_words);
  std::vector<std::int64_t> extents;
  for (const Reader& extent : of_network["example"].items())
    extents.push_back(extent.whole(1));
  Shape example{std::span<const std::int64_t>(extents)};
  read_roles(of_network["roles"], example);
  std::vector<Layer> layers = parse_blueprint(of_network["blueprint"].text(), own.layers);
  Weights weights = weights_in(of_network["weights"], plan(example, layers), precision);
  Network network(example, std::move(layers), Random(0), precision);
  network.weights() = std::move(weights);
  freeze_as_in(of_network["frozen"], network);
  multiply_rates_as_in(of_network["rate_multipliers"], network);
  network.set_updates(of_network["updates"].whole());

  std::vector<Column> columns;
  for (const Reader& column : reader["columns"].items()) {
    columns.push_back({.name = column["name"].text()});
    if (column.json().contains("words")) columns.back().words = column["words"].texts();
  }
  if (example.rank() == 1 && std::ssize(feature_names_of(columns)) != example[0]) {
    reader["columns"].refuse(fmt::format("columns that make {} features", example[0]),
                             fmt::format("{}", feature_names_of(columns).size()));
  }
  const Reader target = reader["target"];
  ModelFile file{.model = {.network = std::move(network),
                           .loss = parse_loss(reader["loss"].text(), own.losses),
                           .columns = std::move(columns),
                           .target_names = target["names"].texts()},
                 .lesson = lesson_from_json(reader["lesson"].object()),
                 .run = run_in(reader["run"]),
                 .data_name = reader["data"]["name"].text(),
                 .rows = reader["data"]["rows"].whole()};
  Model& model = file.model;
  model.network.set_biases_decay(file.lesson.network.biases_decay);
  model.preparation = preparation_in(reader, example, precision);
  const std::int64_t outputs = model.network.outputs()[0];
  const std::int64_t targets = target.json().contains("classes") ? 1 : outputs;
  if (targets != std::ssize(model.target_names)) {
    target.refuse(fmt::format("{} names of targets", targets),
                  fmt::format("{}", model.target_names.size()));
  }
  model.target_preparation = preparation_in(target, Shape{outputs}.with({Role::target}), precision);
  for (const LessonSubject& subject : lesson_subjects()) {
    const std::string key(subject.model_key);
    if (!key.empty() && json.contains(key))
      model.rows = subject.rows_from_json(reader[key], example[0], precision);
  }
  label_outputs(model.network, target.json().contains("classes"));
  if (target.json().contains("classes")) {
    model.class_names = target["classes"].texts();
    if (target.json().contains("labels")) model.class_labels = target["labels"].texts();
    const std::int64_t classes = outputs == 1 ? 2 : outputs;
    if (classes != std::ssize(model.class_names))
      target["classes"].refuse(fmt::format("{} names, as there are {} outputs", classes, outputs),
                               fmt::format("{}", model.class_names.size()));
  }
  if (json.contains("feature_ranges"))
    model.feature_ranges = ranges_in(reader["feature_ranges"], example);
  file.fingerprint = word_in(reader["data"]["fingerprint"]);
  for (const DataPart part : all_data_parts) {
    const Reader of_data = reader["data"];
    if (!of_data.json().contains("parts") || !of_data["parts"].json().contains(word(part)))
      continue;
    const Reader of_part = of_data["parts"][std::string(word(part))];
    file.parts.push_back({.part = part,
                          .name = of_part["name"].text(),
                          .rows = of_part["rows"].whole(),
                          .fingerprint = word_in(of_part["fingerprint"])});
  }
  if (json.contains("best")) {
    const Reader best = reader["best"];
    file.run.best = BestWeights{.epoch = best["epoch"].whole(),
                                .loss = best["loss"].number(),
                                .weights = weights_or_own(best, model.network)};
  }
  if (json.contains("resume")) {
    const Reader state = reader["resume"];
    file.run.state = RunState{.rule = rule_in(state["rule"], model.network),
                              .first_rate = state["first_rate"].number(),
                              .row_order = random_in(state["row_order"]),
                              .chance = random_in(state["chance"]),
                              .augmenting = random_in(state["augmenting"]),
                              .weights = weights_or_own(state, model.network)};
    const double first_rate = file.run.state->first_rate;
    if (!std::isfinite(first_rate) || first_rate <= 0.0)
      state["first_rate"].refuse("a number above 0");
  }
  return file;
}

void save_model(const std::filesystem::path& path, const ModelFile& file,
                std::optional<ModelFormat> format) {
  if (!format) {
    const bool is_large = file.model.network.plan().weights() > most_readable_weights;
    format = is_large ? ModelFormat::cbor : ModelFormat::json;
  }
  const Json json = to_json(file, *format);
  write_file(path, format == ModelFormat::cbor ? to_cbor(json) : json_text(json, 1) + "\n");
}

ModelFile load_model(const std::filesystem::path& path, const OwnThings& own) {
  const std::string content = read_file(path, "a model file, as train --save writes it");
  const std::string name = harmless(path.filename().string());
  const auto refuse = [&](const std::string& found) {
    return FileError({.what = fmt::format("{} is not a whole model file", name),
                      .expected = "a model file, as train --save writes it",
                      .found = found,
                      .remedy = "train and save it again"});
  };
  if (content.empty()) throw refuse("an empty file");
  Json json;
  try {
    json = content.front() == '{' ? parse_json(content) : parse_cbor(content);
  } catch (const FileError& error) {
    throw refuse(error.trouble().found);
  }
  if (!json.is_object()) throw refuse("something else");
  ModelFile file = model_from_json(json, name, own);
  note_what_is_outside(file.lesson, path);
  return file;
}

}  // namespace lattice
