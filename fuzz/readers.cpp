#include "readers.hpp"

#include <fmt/format.h>

#include <array>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "lattice/files/csv.hpp"
#include "lattice/files/idx.hpp"
#include "lattice/files/json.hpp"
#include "lattice/files/npy.hpp"
#include "lattice/files/png.hpp"
#include "lattice/graphs/around/edges.hpp"
#include "lattice/graphs/around/subject.hpp"
#include "lattice/lattice.hpp"
#include "lattice/lessons/lesson.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/pictures/around/subject.hpp"
#include "lattice/text/letters.hpp"
#include "text/arithmetic.hpp"

namespace lattice::fuzz {
namespace {

/// A table, and what is made of it.
void read_csv(std::string_view bytes) {
  const Table table = parse_table(bytes, "table.csv");
  static_cast<void>(dataset_from(table, {.targets = {table.header.back()}}));
}

/// Edges between three nodes, the graph they make, and what it is written as: that has to be the
/// same edges.
void read_edge_list(std::string_view bytes) {
  const std::vector<std::string> names = {"Ada", "Bo", "Cy"};
  const Dataset nodes = dataset_of_classes(each_its_own(3), tensor({0, 1, 1}));
  const Dataset graph =
      graph_of(nodes, parse_edges(bytes, "edges.csv", names, 3), {.names = names});
  static_cast<void>(facts_of(graph));
  if (edges_of(graph).empty()) return;
  const std::string again = to_csv(edges_table(graph));
  if (parse_edges(again, "again", names, 3) != edges_of(graph)) std::abort();
}

/// A lesson, and once more what it is written as: that has to be the same lesson.
void read_lesson_text(std::string_view bytes) {
  const Lesson lesson = parse_lesson(bytes, "lesson.toml");
  if (to_json(parse_lesson(to_toml(lesson, lesson), "again")) != to_json(lesson)) std::abort();
}

/// An answer to an exercise, and once more the number that it is: that has to be the same number.
void read_arithmetic(std::string_view bytes) {
  const std::optional<double> number = parse_arithmetic(bytes);
  if (number && parse_arithmetic(fmt::format("{}", *number)) != number) std::abort();
}

/// A model, and an answer of it.
void ask_model(const Json& json) {
  const ModelFile file = model_from_json(json, "model.lattice");
  const std::int64_t features = file.model.network.example()[0];
  if (file.model.rows) {
    static_cast<void>(ask_rows(file.model, {0}));
  } else {
    static_cast<void>(ask(file.model, zeros({2, features})));
  }
  static_cast<void>(json_text(to_json(file)));
}

void read_model_json(std::string_view bytes) {
  ask_model(parse_json(bytes));
}

void read_model_cbor(std::string_view bytes) {
  ask_model(parse_cbor(bytes));
}

/// A blueprint, and what it is written as. Numbers that would take long to draw are left alone.
void read_blueprint(std::string_view bytes) {
  const std::vector<Layer> layers = parse_blueprint(bytes);
  std::string again;
  for (const Layer& layer : layers)
    again += (again.empty() ? "" : ", ") + layer.text();
  if (parse_blueprint(again).size() != layers.size()) std::abort();
  static_cast<void>(plan(Shape{3}, layers));
}

void read_idx_bytes(std::string_view bytes) {
  const Examples read = parse_idx(bytes, "p.idx");
  if (parse_idx(to_idx(read), "again").shape() != read.shape()) std::abort();
}

void read_npy_bytes(std::string_view bytes) {
  const Examples read = parse_npy(bytes, "p.npy");
  if (parse_npy(to_npy(read), "again").shape() != read.shape()) std::abort();
}

/// A picture, and what it is written as: that has to be the same picture.
void read_png_bytes(std::string_view bytes) {
  const Raster read = parse_png(bytes, "p.png").picture;
  if (parse_png(to_png(read), "again").picture.bytes != read.bytes) std::abort();
}

void read_place(std::string_view bytes) {
  static_cast<void>(parse_place(bytes));
}

/// A sheet of few numbers, and what it is written as: that has to be the same sheet.
void read_sheet_text(std::string_view bytes) {
  const SheetReading reading{.most_numbers = 1000};
  const ReadSheet read = read_sheet(bytes, reading);
  const std::string again = sheet_text(read.sheet, read.result, read.heading);
  const ReadSheet same = read_sheet(again, reading);
  if (sheet_text(same.sheet, same.result, same.heading) != again) std::abort();
}

}  // namespace

std::span<const Reader> readers() {
  static constexpr std::array<Reader, 12> all = {{{"csv", read_csv},
                                                  {"edges", read_edge_list},
                                                  {"lesson", read_lesson_text},
                                                  {"model_json", read_model_json},
                                                  {"model_cbor", read_model_cbor},
                                                  {"blueprint", read_blueprint},
                                                  {"place", read_place},
                                                  {"sheet", read_sheet_text},
                                                  {"arithmetic", read_arithmetic},
                                                  {"idx", read_idx_bytes},
                                                  {"npy", read_npy_bytes},
                                                  {"png", read_png_bytes}}};
  return all;
}

void give(const Reader& reader, std::string_view bytes) {
  try {
    reader.read(bytes);
  } catch (const Error& error) {
    // A refusal can be shown as it is: nothing in it steers a terminal.
    if (unwelcome_in(error.what())) std::abort();
  }
}

}  // namespace lattice::fuzz
