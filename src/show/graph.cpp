#include "lattice/show/graph.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "files/file.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "show/program.hpp"

namespace lattice {
namespace {

/// A text between the quotes of DOT: no quote in it ends them, no backslash asks for the name of a
/// node, no ampersand for a letter by its number.
std::string for_dot(std::string_view text) {
  std::string safe;
  for (const char letter : harmless(text)) {
    if (letter == '"' || letter == '\\') safe += '\\';
    safe += letter == '&' ? "&amp;" : std::string(1, letter);
  }
  return safe;
}

std::string_view look_of(const Line& line) {
  switch (line.kind()) {
    case Line::Kind::given:
      return "fillcolor=\"#fffef9\", color=\"#666a70\"";
    case Line::Kind::asked:
      return "fillcolor=\"#fffef9\", color=\"#666a70\", penwidth=2";
    case Line::Kind::weight:
      return "fillcolor=\"#f9dfae\", color=\"#b45f06\", penwidth=2";
    case Line::Kind::frozen:
      return "fillcolor=\"#f9dfae\", color=\"#b45f06\", style=\"filled,dashed\"";
    case Line::Kind::running:
      return "fillcolor=\"#fffef9\", color=\"#b45f06\", style=\"filled,dashed\"";
    case Line::Kind::calculated:
      return "fillcolor=\"#e3f0ee\", color=\"#0b7a75\"";
  }
  return "";
}

std::string node(const Line& line) {
  const std::string symbols = line.symbols();
  std::string label = fmt::format("{}   {}", line.number(), line.name());
  if (!symbols.empty()) label += " = " + symbols;
  const std::string shape = fmt::format("{} {}", line.operation(), to_string(line.shape()));
  return fmt::format("    line{} [label=\"{}\\n{}\", {}];\n", line.number(), for_dot(label),
                     for_dot(shape), look_of(line));
}

/// What the sweep passes on from a line to one of its inputs; empty when nothing.
std::string passed_on(const WorkedSheet& work, const Line& line, std::size_t input) {
  const ReverseStep* const step = work.reverse_step_of(line);
  const bool is_passed_on =
      step != nullptr && std::ranges::find(step->passed_on, input, &ReverseStep::PassedOn::input) !=
                             step->passed_on.end();
  return is_passed_on ? line.reverse_symbols(input) : "";
}

}  // namespace

std::string graph(const WorkedSheet& work, const GraphSettings& settings) {
  std::string text =
      "digraph worksheet {\n"
      "  graph [fontname=\"DejaVu Sans\", fontsize=11, bgcolor=\"#fbfaf4\", ranksep=0.35,\n"
      "         nodesep=0.35, labeljust=l];\n"
      "  node [shape=box, style=filled, fontname=\"DejaVu Sans\", fontsize=11];\n"
      "  edge [fontname=\"DejaVu Sans\", fontsize=10, color=\"#666a70\", "
      "fontcolor=\"#8a2f6b\"];\n";
  const std::vector<Line> lines = work.sheet().lines();
  for (std::size_t at = 0; at < lines.size();) {
    const std::string& section = lines[at].section();
    text += fmt::format("  subgraph cluster{} {{\n    label=\"{}\";\n    color=\"#d8b9c6\";\n", at,
                        for_dot(section));
    for (; at < lines.size() && lines[at].section() == section; ++at)
      text += node(lines[at]);
    text += "  }\n";
  }
  for (const Line& line : lines) {
    const std::vector<Line> inputs = line.inputs();
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      const std::string gradient = settings.gradients ? passed_on(work, line, input) : "";
      text +=
          fmt::format("  line{} -> line{}{};\n", inputs[input].number(), line.number(),
                      gradient.empty() ? "" : fmt::format(" [label=\"{}\"]", for_dot(gradient)));
    }
  }
  return text + "}\n";
}

void check_graph_ending(const std::filesystem::path& path) {
  const std::string ending = path.extension().string();
  if (ending == ".dot" || ending == ".svg" || ending == ".png" || ending == ".pdf") return;
  throw SettingError({.what = fmt::format("a graph cannot be drawn as {}", path.string()),
                      .expected = "a file that ends in .svg, .png, .pdf or .dot",
                      .found = ending.empty() ? "no ending" : ending});
}

void write_graph(const std::filesystem::path& path, const WorkedSheet& work,
                 const GraphSettings& settings) {
  check_graph_ending(path);
  const std::string ending = path.extension().string();
  const std::string text = graph(work, settings);
  if (ending == ".dot") {
    write_file(path, text);
    return;
  }
  write_file(path, drawn_by({"dot", "-T" + ending.substr(1)}, text, "graphviz", ending));
}

}  // namespace lattice
