#include "lattice/show/data.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <numeric>

#include "lattice/data/summary.hpp"
#include "lattice/show/shown_subject.hpp"
#include "show/ink.hpp"
#include "show/rows_grid.hpp"
#include "show/text_table.hpp"
#include "text/counted.hpp"

namespace lattice {
namespace {

std::string percent(std::int64_t part, std::int64_t whole) {
  return fmt::format("{:.1f} %", 100.0 * static_cast<double>(part) / static_cast<double>(whole));
}

std::string first_rows(const Dataset& data, const TerminalStyle& style) {
  Grid table{.corner = "row", .thing = "rows"};
  const AxisNames names = data.axis_names();
  const Tensor features = data.is_table() ? data.features.all() : Tensor();
  const RowsGrid rows(features, data.targets, data.classes, names,
                      find_side(data.side, row_weights_name));
  rows.add_headings(table);
  const std::int64_t shown = std::min<std::int64_t>(data.rows(), 5);
  for (std::int64_t row = 0; row < shown; ++row) {
    table.labels.push_back(fmt::format("{}", row));
    rows.add_cells(table.rows.emplace_back(), row);
  }
  return text(table, grid_style(style, false));
}

DataView view_of_table(const Dataset& data, const TerminalStyle& style) {
  const std::int64_t rows = data.rows();
  return {.about = fmt::format("{} {}, {}\n", rows, rows == 1 ? "row" : "rows",
                               counted(data.feature_count(), "feature")),
          .heading = "first rows",
          .rows = first_rows(data, style)};
}

}  // namespace

std::string show_data(const Dataset& data, const TerminalStyle& style) {
  const DataSummary summary = summarise(data);
  const ShownSubject* const subject = shown_subject_of(data);
  const DataView view = subject != nullptr && subject->data_view != nullptr
                            ? subject->data_view(data, style)
                            : view_of_table(data, style);
  const auto number = [&](double value) { return format_number(value, style.digits); };
  TextTable table({{"column", TextTable::Set::left},
                   {"role", TextTable::Set::left},
                   {"lowest"},
                   {"highest"},
                   {"mean"},
                   {"std dev"}});
  const auto add = [&](const NumberSummary& column, const std::string& role) {
    table.add({column.name, role, number(column.low), number(column.high), number(column.mean),
               number(column.standard_deviation)});
  };
  for (const NumberSummary& feature : summary.features)
    add(feature, view.feature_role);
  for (const NumberSummary& target : summary.numbers)
    add(target, "target");
  if (summary.row_weights) add(*summary.row_weights, "row weight");
  std::string text = view.about;
  if (view.lists_features) text += "\n" + table.text(style);
  if (!summary.class_names.empty()) {
    const bool has_own_name = !summary.target.empty() && summary.target != "class";
    TextTable classes({{"class", TextTable::Set::left}, {"number"}, {"rows"}, {"share"}});
    const std::int64_t with_class =
        std::accumulate(summary.class_sizes.begin(), summary.class_sizes.end(), std::int64_t{0});
    for (std::size_t at = 0; at < summary.class_names.size(); ++at) {
      classes.add({summary.class_names[at], fmt::format("{}", at),
                   fmt::format("{}", summary.class_sizes[at]),
                   percent(summary.class_sizes[at], with_class)});
    }
    text += "\n" + show_heading(has_own_name ? "classes of " + summary.target : "classes", style) +
            classes.text(style);
  }
  return text + "\n" + show_heading(view.heading, style) + view.rows;
}

}  // namespace lattice
