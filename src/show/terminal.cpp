#include "lattice/show/terminal.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>

#include "lattice/tensor/text.hpp"
#include "show/ink.hpp"
#include "show/text_table.hpp"

namespace lattice {
namespace {

/// How far the text of a line stands from the left edge: a number and the rule of the margin.
constexpr std::size_t margin = 6;

/// A grid that leaves room for the margin.
GridStyle behind_margin(const TerminalStyle& style, bool signs = true) {
  return grid_style(style, signs, page_width - margin - 2);
}

/// Puts every line of a text behind the rule of the margin.
std::string behind_margin(const std::string& text, const TerminalStyle& style) {
  std::string result;
  for (std::size_t from = 0; from < text.size();) {
    const std::size_t end = text.find('\n', from);
    result +=
        "    " + in_ink(ink::faint, "│", style) + "   " + text.substr(from, end - from) + "\n";
    from = end + 1;
  }
  return result;
}

/// A numbered entry: number, rule, text on the left and on the right.
std::string entry(std::size_t number, const std::string& left, const std::string& right,
                  const TerminalStyle& style) {
  const std::size_t used = margin + columns(left) + columns(right);
  const std::size_t room = used + 2 < page_width ? page_width - used : 2;
  return fmt::format("{:>3} {} {}{}{}\n", number, in_ink(ink::faint, "│", style),
                     in_ink(ink::noticed, left, style), std::string(room, ' '), right);
}

std::string empty_entry(const TerminalStyle& style) {
  return "    " + in_ink(ink::faint, "│", style) + "\n";
}

std::string numbers(const Tensor& tensor, const TerminalStyle& style, const AxisNames& names) {
  std::string text;
  if (tensor.shape().rank() == 0) {
    text =
        in_ink_of_sign(tensor.number(), format_number(tensor.number(), style.digits), style) + "\n";
  } else {
    text = lattice::text(grid_of(tensor, names.features), behind_margin(style));
  }
  return behind_margin(text, style);
}

std::string rows_taken(const WorkedExample& example, const TerminalStyle& style,
                       const AxisNames& names) {
  const Batch& batch = example.batch();
  Grid table{.corner = "example", .headings = {"row"}, .thing = "examples"};
  const std::int64_t features = batch.features.shape()[1];
  for (std::int64_t feature = 0; feature < features; ++feature) {
    const bool has_name = std::ssize(names.features) == features;
    table.headings.push_back(has_name ? names.features[static_cast<std::size_t>(feature)]
                                      : fmt::format("feature {}", feature));
  }
  table.headings.push_back(names.target.empty() ? "target" : names.target);
  const Tensor& truth = batch.truth();
  for (std::size_t example_number = 0; example_number < batch.rows.size(); ++example_number) {
    const auto place = static_cast<std::int64_t>(example_number);
    std::vector<std::optional<double>> cells{static_cast<double>(batch.rows[example_number])};
    for (std::int64_t feature = 0; feature < features; ++feature) {
      cells.emplace_back(batch.features.at({place, feature}));
    }
    cells.emplace_back(truth.at_offset(place));
    table.rows.push_back(std::move(cells));
    table.labels.push_back(fmt::format("{}", place));
  }
  return behind_margin(lattice::text(table, behind_margin(style, false)), style);
}

std::string forward(const WorkedExample& example, const TerminalStyle& style,
                    const AxisNames& names) {
  std::string text;
  std::string section;
  for (const Line& line : example.sheet().lines()) {
    if (line.section() != section) {
      section = line.section();
      text += "\n" + show_heading(section, style);
    } else {
      text += empty_entry(style);
    }
    const std::string symbols = line.symbols();
    text += entry(line.number(), line.name() + (symbols.empty() ? "" : " = " + symbols),
                  fmt::format("{} {}", line.operation(), to_string(line.shape())), style);
    text += numbers(line.value(), style, names);
  }
  return text;
}

std::string reverse(const WorkedExample& example, const TerminalStyle& style,
                    const AxisNames& names) {
  std::string text = "\n" + show_heading("reverse sweep", style);
  text +=
      behind_margin(fmt::format("∂z is short for ∂{}/∂z: how {} changes with each number of z\n",
                                example.loss().name(), example.loss().name()),
                    style);
  for (const ReverseStep& step : example.reverse_steps()) {
    text += empty_entry(style);
    text += entry(step.line.number(), "∂" + step.line.name() + " arrived",
                  to_string(step.arrived.shape()), style);
    text += numbers(step.arrived, style, names);
    for (const ReverseStep::PassedOn& passed : step.passed_on) {
      text += behind_margin(fmt::format("passed on to {}: {}\n", passed.to.name(),
                                        step.line.reverse_symbols(passed.input)),
                            style);
      text += numbers(passed.contribution, style, names);
    }
    if (step.passed_on.empty()) text += behind_margin("a weight: the sweep ends here\n", style);
  }
  return text;
}

std::string updates(const WorkedExample& example, const TerminalStyle& style) {
  std::string text = "\n" + show_heading("update", style);
  std::string rule(example.rule().word());
  for (const auto& [name, number] : example.rule().settings()) {
    if (name == "weight_decay" && number == 0.0) continue;
    rule += fmt::format(" · {} {}", name, format_number(number, style.digits));
  }
  text += behind_margin(rule + "\n", style);
  if (example.shrink() != 1.0) {
    text += behind_margin(fmt::format("the gradients were too long: each was multiplied by {}\n",
                                      format_number(example.shrink(), style.digits)),
                          style);
  }
  for (const WorkedExample::Update& update : example.updates()) {
    Grid table{.corner = update.weight,
               .headings = {"before", "gradient", "change", "after"},
               .thing = "weights"};
    for (std::int64_t offset = 0; offset < update.before.count(); ++offset) {
      table.labels.push_back(update.weight + to_string(update.before.shape().index(offset)));
      const double before = update.before.at_offset(offset);
      const double after = update.after.at_offset(offset);
      table.rows.push_back({before, update.gradient.at_offset(offset), after - before, after});
    }
    text += empty_entry(style);
    text += behind_margin(lattice::text(table, behind_margin(style)), style);
  }
  return text;
}

std::string result(const WorkedExample& example, const TerminalStyle& style) {
  const double before = example.loss_before();
  const double after = example.loss_after();
  return "\n" + show_heading("the same minibatch again", style) +
         behind_margin(fmt::format("{} before the update  {}\n{} after the update   {}\n{}",
                                   example.loss().name(), format_number(before, style.digits),
                                   example.loss().name(), format_number(after, style.digits),
                                   after < before ? ""
                                                  : "It did not fall: a step in this direction was "
                                                    "too long. Try a smaller rate.\n"),
                       style);
}

}  // namespace

std::string show_heading(std::string_view text, const TerminalStyle& style) {
  std::string heading(text);
  if (!heading.empty()) heading[0] = static_cast<char>(std::toupper(heading[0]));
  const std::size_t used = columns(heading) + 6;
  std::string rule;
  for (std::size_t at = used; at < page_width; ++at)
    rule += "─";
  return in_ink(ink::faint, "────", style) + " " + in_ink(ink::noticed, heading, style) + " " +
         in_ink(ink::faint, rule, style) + "\n";
}

std::string show_tensor(const Tensor& tensor, const TerminalStyle& style, const AxisNames& names) {
  if (tensor.shape().rank() == 0) return format_number(tensor.number(), style.digits) + "\n";
  GridStyle ruled = grid_style(style);
  ruled.ruled = true;
  return text(grid_of(tensor, names.features), ruled);
}

std::string show_worked_example(const WorkedExample& example, const TerminalStyle& style,
                                const AxisNames& names) {
  return show_heading("rows taken", style) + rows_taken(example, style, names) +
         forward(example, style, names) + reverse(example, style, names) + updates(example, style) +
         result(example, style);
}

std::string show_check(const GradientCheck& check, const TerminalStyle& style) {
  std::string text =
      fmt::format("each number moved by {0} both ways; an error of up to {1} passes\n\n",
                  format_number(check.settings.step, style.digits),
                  format_number(check.settings.tolerance, style.digits));
  using Set = TextTable::Set;
  TextTable table({{"weight", Set::left},
                   {"checked"},
                   {"worst place", Set::left},
                   {"by the sweep"},
                   {"by difference"},
                   {"error"},
                   {"", Set::left}});
  for (const GradientCheck::Weight& weight : check.weights) {
    table.add(
        {weight.name,
         fmt::format("{} of {}", weight.checked, weight.shape.count()),
         weight.name + to_string(weight.worst),
         format_number(weight.engine, style.digits),
         format_number(weight.difference, style.digits),
         format_number(weight.error, 2),
         {weight.agrees ? "agrees" : "differs", weight.agrees ? ink::positive : ink::negative}});
  }
  text += table.text(style);
  return text + "\n" +
         (check.agrees() ? "All gradients agree with central differences.\n"
                         : "Some gradients do not agree with central differences.\n");
}

}  // namespace lattice
