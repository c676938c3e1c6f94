#include "tools/records.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <optional>
#include <utility>

#include "files/file.hpp"
#include "lattice/data/graph.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/nearest.hpp"
#include "text/typed.hpp"

namespace lattice::tools {

std::vector<std::string> feature_columns(const Model& model) {
  std::vector<std::string> names;
  for (const Column& column : model.columns)
    names.push_back(column.name);
  return names;
}

Table records_table(const std::vector<std::string>& records, const Model& model) {
  const std::vector<std::string> names = feature_columns(model);
  Table table{.name = "--record", .header = names, .rows = {}};
  for (const std::string& record : records) {
    std::vector<std::optional<std::string>> fields(names.size());
    const std::vector<std::string> texts = parse_csv_record(record);
    if (record.find('=') == std::string::npos && texts.size() == names.size()) {
      table.rows.push_back(texts);
      continue;
    }
    for (const std::string& text : texts) {
      const std::size_t equals = text.find('=');
      const std::string name(trimmed(text.substr(0, std::min(equals, text.size()))));
      const auto found = std::ranges::find(names, name);
      if (equals == std::string::npos || found == names.end()) {
        const std::string near = nearest(name, names);
        throw NameError(
            {.what = equals == std::string::npos
                         ? fmt::format("'{}' does not say which feature it is", text)
                         : fmt::format("the model knows no feature '{}'", name),
             .where = "--record " + record,
             .expected = fmt::format("{}=…; or all {} values in this order",
                                     fmt::join(names, "=…,"), names.size()),
             .found = fmt::format("'{}'", text),
             .remedy = near.empty() || equals == std::string::npos ? "" : did_you_mean(near)});
      }
      auto& field = fields[static_cast<std::size_t>(found - names.begin())];
      if (field) {
        throw NameError({.what = fmt::format("the feature '{}' is said twice", name),
                         .where = "--record " + record,
                         .expected = "each feature once"});
      }
      field = text.substr(equals + 1);
    }
    std::vector<std::string> row;
    for (std::size_t at = 0; at < names.size(); ++at) {
      if (!fields[at]) {
        throw NameError({.what = fmt::format("a feature is missing: {}", names[at]),
                         .where = "--record " + record,
                         .expected = fmt::format("{}", fmt::join(names, ", ")),
                         .remedy = "say every feature, in its own unit: it is scaled as it was for "
                                   "learning"});
      }
      row.push_back(*fields[at]);
    }
    table.rows.push_back(std::move(row));
  }
  return table;
}

bool takes_pictures(const Model& model) {
  return is_picture(model.network.example());
}

void check_fits_graph(const Model& model, bool asks_of_nodes, bool asks_of_records) {
  const bool fits = model.graph ? !asks_of_records : !asks_of_nodes;
  if (fits) return;
  throw SettingError(
      {.what = model.graph ? "a model of a graph is asked about its nodes"
                           : "this model learnt from no graph",
       .expected = model.graph ? "nodes, by name" : "records",
       .found = model.graph ? "records that are joined with nobody" : "nodes",
       .remedy = model.graph ? typed_flag("--node", model.graph->row_name(0)) : "--record"});
}

std::vector<std::int64_t> nodes_called(const Dataset& graph,
                                       const std::vector<std::string>& names) {
  std::vector<std::int64_t> nodes;
  nodes.reserve(names.size());
  for (const std::string& name : names)
    nodes.push_back(node_called(graph, name));
  return nodes;
}

namespace {

void check_takes_pictures(const Model& model, const std::string& found) {
  if (takes_pictures(model)) return;
  throw SettingError({.what = "this model does not look at pictures",
                      .expected = fmt::format("records of {}", to_string(model.network.example())),
                      .found = found,
                      .remedy = "--record, or --file with a table"});
}

/// What was done to the pictures that a model learnt from, and what else makes others like them.
PictureChanges changes_for(const ModelFile& file) {
  const Shape example = file.model.network.example();
  PictureChanges changes = file.lesson.picture_changes;
  if (!changes.size) changes.size = PictureSize{example[0], example[1]};
  changes.grey = changes.grey || example[2] == 1;
  return changes;
}

}  // namespace

PicturesAlone pictures_for(const ModelFile& file, const std::vector<std::string>& paths,
                           Console& console) {
  const Shape example = file.model.network.example();
  check_takes_pictures(file.model, fmt::format("{}", fmt::join(paths, ", ")));
  PicturesAlone read = read_pictures_alone(paths, changes_for(file));
  if (!read.told.empty()) console.tell_line(read.told);
  for (const std::string& each : read.fitted)
    console.tell_line(each);
  if (example[2] == 3) read.pictures = in_colour(read.pictures);
  if (read.pictures.shape().without_first_axis() == example) return read;
  throw ShapeError({.what = "pictures of another shape than the model learnt from",
                    .expected = to_string(example),
                    .found = to_string(read.pictures.shape().without_first_axis())});
}

Dataset labelled_pictures_for(const ModelFile& file, const std::string& path,
                              const std::string& labels, Console& console) {
  const Model& model = file.model;
  check_takes_pictures(model, path);
  const bool has_folders = is_folder(path);
  PicturesReading read =
      read_pictures({.path = path,
                     .labels = labels,
                     .class_names = has_folders ? std::vector<std::string>() : model.class_names,
                     .changes = changes_for(file)});
  if (!read.told.empty()) console.tell_line(read.told);
  Dataset& data = read.data;
  std::vector<double> classes;
  for (const double number : data.classes.numbers()) {
    const std::string name = data.class_name(static_cast<std::int64_t>(number));
    const auto found = std::ranges::find(model.class_names, name);
    if (found == model.class_names.end()) {
      throw NameError(
          not_among(fmt::format("the model knows no class '{}'", name), name, model.class_names));
    }
    classes.push_back(static_cast<double>(found - model.class_names.begin()));
  }
  data.classes = tensor(data.classes.shape(), classes);
  data.class_names = model.class_names;
  data.target_names = model.target_names;
  if (model.network.example()[2] == 3) data.features = in_colour(data.features);
  return data.in(model.network.precision()).prepared_by(model.preparation);
}

}  // namespace lattice::tools
