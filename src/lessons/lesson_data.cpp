#include "lattice/lessons/lesson_data.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <filesystem>
#include <utility>

#include "files/file.hpp"
#include "lattice/data/demo_sets.hpp"
#include "lattice/data/graph.hpp"
#include "lattice/data/picture.hpp"
#include "lattice/files/csv.hpp"
#include "lattice/files/edges.hpp"
#include "lattice/files/pictures.hpp"
#include "lattice/tensor/random.hpp"
#include "lattice/text/error.hpp"

namespace lattice {
namespace {

/// Keeps as many rows as the lesson asks for, in their order.
void draw_rows(TableReading& reading, const Lesson& lesson) {
  const std::int64_t count = reading.data.rows();
  if (!lesson.rows || *lesson.rows >= count) return;
  std::vector<std::int64_t> rows = Random(lesson.seed).branch("rows of a file").shuffled(count);
  rows.resize(static_cast<std::size_t>(*lesson.rows));
  std::ranges::sort(rows);
  reading.data = reading.data.taking(rows);
  reading.rows_drawn_from = count;
}

/// Refuses rows from several places.
void check_one_source(const Lesson& lesson) {
  std::vector<std::string> sources;
  if (!lesson.set.empty()) sources.push_back("the demo set " + lesson.set);
  if (!lesson.files.empty())
    sources.push_back(fmt::format("the file {}", fmt::join(lesson.files, ", ")));
  if (!lesson.points.empty()) sources.emplace_back("points that are typed in");
  if (sources.size() > 1) {
    throw SettingError({.what = "rows from several places at once",
                        .expected = "one of them",
                        .found = fmt::format("{}", fmt::join(sources, " and "))});
  }
  if (lesson.set_seed) {
    throw SettingError({.what = "--set-seed says what a demo set is made from",
                        .expected = "a demo set with it",
                        .found = sources.front()});
  }
}

/// Points as a table: columns x, or x1, x2 …, and y.
Table table_of(const std::vector<std::vector<std::string>>& points) {
  Table table{.name = "points", .header = {}, .rows = points};
  const std::size_t features = points.front().size() - 1;
  for (std::size_t of = 1; of <= features; ++of)
    table.header.push_back(features == 1 ? "x" : fmt::format("x{}", of));
  table.header.emplace_back("y");
  for (const std::vector<std::string>& point : points) {
    if (point.size() == table.header.size()) continue;
    throw SettingError({.what = "points of different lengths",
                        .expected = fmt::format("{} numbers, as in ({})", table.header.size(),
                                                fmt::join(points.front(), ", ")),
                        .found = fmt::format("{}: ({})", point.size(), fmt::join(point, ", "))});
  }
  return table;
}

/// Refuses settings that choose columns where there are none.
void check_no_columns(const Lesson& lesson, const std::string& found, const std::string& remedy) {
  const ColumnChoice& columns = lesson.columns;
  const bool is_told = !columns.targets.empty() || !columns.features.empty() ||
                       !columns.weights.empty() || !columns.known.empty();
  if (!is_told) return;
  throw SettingError(
      {.what = "--target, --features, --weights and --known choose columns of a file",
       .expected = "--file my.csv with them",
       .found = found,
       .remedy = remedy});
}

/// Refuses what is said of a file of pictures where there is none.
void check_no_labels(const Lesson& lesson) {
  if (lesson.labels.empty() && lesson.class_names.empty()) return;
  throw SettingError({.what = "--labels and --classes belong to a file of pictures",
                      .expected = "--file pictures.idx with them",
                      .found = "none",
                      .remedy = "in a table the classes stand in the column --target"});
}

TableReading read_picture_file(const Lesson& lesson) {
  if (lesson.files.size() > 1) {
    throw SettingError({.what = "pictures from several files",
                        .expected = "one folder, or one file with its labels",
                        .found = fmt::format("{}", fmt::join(lesson.files, ", "))});
  }
  const std::string& path = lesson.files.front();
  check_no_columns(lesson, fmt::format("{}, {}", path, is_folder(path) ? "a folder" : "pictures"),
                   "pictures in a folder have its name for their class; others take --labels");
  if (!lesson.picture.empty()) {
    throw SettingError({.what = "--picture says what the rows of a table are",
                        .expected = "a CSV file of pixels with it",
                        .found = fmt::format("{}, which holds pictures", path),
                        .remedy = "--resize brings pictures to another size"});
  }
  PicturesReading read = read_pictures({.path = path,
                                        .labels = lesson.labels,
                                        .class_names = lesson.class_names,
                                        .changes = lesson.picture_changes});
  return {.data = std::move(read.data), .told = std::move(read.told)};
}

/// The rows of a table as the nodes of a graph.
TableReading read_graph(const Lesson& lesson, const Table& table, ColumnChoice columns) {
  columns.are_nodes = true;
  if (lesson.names != "numbers")
    columns.names = lesson.names.empty() ? table.header.front() : lesson.names;
  TableReading reading = dataset_from(table, columns);
  // Names are looked at before edges are told by them.
  reading.data = graph_of(reading.data, {});
  const std::vector<Edge> edges =
      read_edges(lesson.edges, reading.data.row_names, reading.data.rows(), lesson.csv.separator);
  reading.data = graph_of(reading.data, edges, {.directed = lesson.directed});
  const std::int64_t loops =
      std::ranges::count_if(edges, [](const Edge& edge) { return edge.from == edge.to; });
  const std::int64_t again = std::ssize(edges) - loops - std::ssize(edges_of(reading.data));
  if (loops > 0) {
    reading.told = fmt::format("{}: {} of a node to itself left out: each takes from itself anyway",
                               lesson.edges, counted(loops, Role::none, "edge", "edges"));
  }
  if (again > 0) {
    reading.told +=
        fmt::format("{}{} listed again, and counted once", loops > 0 ? "; " : lesson.edges + ": ",
                    counted(again, Role::none, "edge", "edges"));
  }
  if (const auto without = std::ssize(reading.data.without_truth); without > 0) {
    reading.told +=
        fmt::format("{}{} without {}: part of the graph, but of no loss and no figure",
                    reading.told.empty() ? "" : "; ", counted(without, Role::node, "node", "nodes"),
                    fmt::join(reading.data.all_target_names(), ", "));
  }
  return reading;
}

/// Refuses what is said of a graph where there is none.
void check_no_edges(const Lesson& lesson) {
  if (!lesson.edges.empty() && lesson.files.empty()) {
    throw SettingError({.what = "--edges joins the rows of a file",
                        .expected = "--file nodes.csv with it",
                        .found = "none"});
  }
  const bool is_told = lesson.directed || !lesson.names.empty();
  if (!is_told || !lesson.edges.empty()) return;
  throw SettingError({.what = "--directed and --names belong to a graph",
                      .expected = "--edges edges.csv with them",
                      .found = "none"});
}

TableReading read_table_file(const Lesson& lesson, ColumnChoice columns) {
  check_no_labels(lesson);
  if (!lesson.points.empty() && columns.targets.empty()) columns.targets = {"y"};
  const Table table =
      lesson.files.empty() ? table_of(lesson.points) : read_tables(lesson.files, lesson.csv);
  if (!lesson.edges.empty()) return read_graph(lesson, table, std::move(columns));
  TableReading reading = dataset_from(table, columns);
  if (!lesson.picture.empty())
    reading.data = as_pictures(reading.data, parse_picture_shape(lesson.picture));
  reading.data.features = changed(reading.data.features, lesson.picture_changes);
  return reading;
}

}  // namespace

TableReading read_data(const Lesson& lesson, std::int64_t outputs) {
  ColumnChoice columns = lesson.columns;
  columns.outputs = outputs;
  check_no_edges(lesson);
  if (!lesson.files.empty() || !lesson.points.empty()) {
    check_one_source(lesson);
    const bool are_pictures = !lesson.files.empty() && holds_pictures(lesson.files.front());
    TableReading reading =
        are_pictures ? read_picture_file(lesson) : read_table_file(lesson, columns);
    draw_rows(reading, lesson);
    return reading;
  }
  check_no_labels(lesson);
  const std::string set = lesson.set.empty() ? "kiln" : lesson.set;
  check_no_columns(lesson, fmt::format("the demo set {}", set),
                   fmt::format("--file demo/data/{}.csv", set));
  const DemoSet& made = demo_set_called(set);
  TableReading reading{.data = demo_set(set, lesson.rows.value_or(made.usual_rows),
                                        lesson.set_seed.value_or(made.usual_seed))};
  reading.data.features = changed(reading.data.features, lesson.picture_changes);
  return reading;
}

}  // namespace lattice
