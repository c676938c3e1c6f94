#include "lattice/show/graph.hpp"

#include <fmt/format.h>

#include <array>

#include "files/file.hpp"
#include "lattice/tensor/error.hpp"
#include "show/program.hpp"

namespace lattice {
namespace {

/// A text in the quotes of DOT.
std::string in_quotes(std::string_view text) {
  std::string safe = "\"";
  for (const char letter : text) {
    if (letter == '"' || letter == '\\') safe += '\\';
    safe += letter;
  }
  return safe + "\"";
}

std::string_view look_of(const Line& line) {
  switch (line.kind()) {
    case Line::Kind::given:
      return "fillcolor=\"#fffef9\", color=\"#666a70\"";
    case Line::Kind::weight:
      return "fillcolor=\"#f9dfae\", color=\"#b45f06\", penwidth=2";
    case Line::Kind::held:
      return "fillcolor=\"#f9dfae\", color=\"#b45f06\", style=\"filled,dashed\"";
    case Line::Kind::calculated:
      return "fillcolor=\"#e3f0ee\", color=\"#0b7a75\"";
  }
  return "";
}

std::string node(const Line& line) {
  const std::string symbols = line.symbols();
  std::string label = fmt::format("{}   {}", line.number(), line.name());
  if (!symbols.empty()) label += " = " + symbols;
  // The backslash of a line break must not be doubled by the quotes.
  const std::string shape = fmt::format("{} {}", line.operation(), to_string(line.shape()));
  std::string text = in_quotes(label);
  text.pop_back();
  return fmt::format("    line{} [label={}\\n{}, {}];\n", line.number(), text,
                     in_quotes(shape).substr(1), look_of(line));
}

/// What the sweep passes on from a line to one of its inputs; empty when nothing.
std::string passed_on(const WorkedMinibatch& work, const Line& line, std::size_t input) {
  for (const ReverseStep& step : work.reverse_steps()) {
    if (step.line != line) continue;
    for (const ReverseStep::PassedOn& passed : step.passed_on) {
      if (passed.input == input) return line.reverse_symbols(input);
    }
  }
  return "";
}

}  // namespace

std::string graph(const WorkedMinibatch& work, const GraphSettings& settings) {
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
    text += fmt::format("  subgraph cluster{} {{\n    label={};\n    color=\"#d8b9c6\";\n", at,
                        in_quotes(section));
    for (; at < lines.size() && lines[at].section() == section; ++at)
      text += node(lines[at]);
    text += "  }\n";
  }
  for (const Line& line : lines) {
    const std::vector<Line> inputs = line.inputs();
    for (std::size_t input = 0; input < inputs.size(); ++input) {
      const std::string gradient = settings.gradients ? passed_on(work, line, input) : "";
      text += fmt::format("  line{} -> line{}{};\n", inputs[input].number(), line.number(),
                          gradient.empty() ? "" : fmt::format(" [label={}]", in_quotes(gradient)));
    }
  }
  return text + "}\n";
}

void write_graph(const std::filesystem::path& path, const WorkedMinibatch& work,
                 const GraphSettings& settings) {
  const std::string ending = path.extension().string();
  const std::string text = graph(work, settings);
  if (ending == ".dot") {
    write_file(path, text);
    return;
  }
  if (ending != ".svg" && ending != ".png" && ending != ".pdf") {
    throw SettingError({.what = fmt::format("a graph cannot be drawn as {}", path.string()),
                        .expected = "a file that ends in .svg, .png, .pdf or .dot",
                        .found = ending.empty() ? "no ending" : ending});
  }
  write_file(path, run_program({"dot", "-T" + ending.substr(1)}, text, "graphviz"));
}

}  // namespace lattice
