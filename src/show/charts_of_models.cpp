#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "lattice/show/charts.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/worksheet/operations/rearranging.hpp"
#include "show/plot.hpp"
#include "show/text_table.hpp"

namespace lattice {

using plot::Colour;
using plot::pixel;

namespace {

/// What a unit, or a channel that goes out, is called.
std::string unit_name(const WeightSetting& setting, std::string_view word, std::int64_t unit) {
  const auto at = static_cast<std::size_t>(unit);
  return at < setting.unit_names.size() ? setting.unit_names[at] : fmt::format("{} {}", word, unit);
}

/// Kernels [row × column × in × out], of connections [row × column × connection], or a weight
/// [input × unit] whose inputs lie as a picture: one picture each.
std::vector<PictureBand> bands_of(const Tensor& weight, double largest,
                                  const WeightSetting& setting) {
  Tensor kernels = weight;
  const bool are_units = setting.inputs.has_value();
  if (are_units) {
    const Shape& inputs = *setting.inputs;
    if (weight.shape().rank() != 2 || inputs.count() != weight.shape()[0]) {
      throw ShapeError(
          {.what = "the shape of the pictures does not fit the inputs",
           .expected = fmt::format("rows × columns × channels = {}", weight.shape()[0]),
           .found = to_string(inputs)});
    }
    kernels = weight.reshaped({inputs[0], inputs[1], inputs[2], weight.shape()[1]});
  }
  const bool are_connections = kernels.shape().rank() == 3;
  if (are_connections) {
    const Shape& shape = kernels.shape();
    kernels = kernels.reshaped({shape[0], shape[1], 1, shape[2]});
  }
  const Shape& shape = kernels.shape();
  // From several channels: a band for each that goes out, with a picture for each that comes in.
  const bool in_bands = shape[2] > 1;
  std::vector<PictureBand> bands(in_bands ? static_cast<std::size_t>(shape[3]) : 1);
  for (std::int64_t out = 0; out < shape[3]; ++out) {
    const std::string name = unit_name(setting,
                                       are_connections ? "connection"
                                       : are_units     ? "unit"
                                                       : "channel",
                                       out);
    PictureBand& band = bands[in_bands ? static_cast<std::size_t>(out) : 0];
    band.brightness = std::nullopt;
    band.darkest = largest;
    if (in_bands) band.heading = name;
    for (std::int64_t in = 0; in < shape[2]; ++in) {
      const Tensor into = slice(kernels, 3, {.from = out, .end = out + 1});
      const Tensor one = slice(into, 2, {.from = in, .end = in + 1});
      band.pictures.push_back(
          {.picture = one.reshaped({shape[0], shape[1], 1}), .caption = in_bands ? "" : name});
    }
  }
  return bands;
}

/// A row for each input, a column for each unit, with the numbers where there is room for them.
plot::Plot table_of(const Tensor& weight, double largest,
                    const std::vector<std::string>& input_names) {
  constexpr std::int64_t most_labels = 200;
  constexpr std::int64_t most_ticks = 20;
  const Shape& shape = weight.shape();
  std::string rows;
  std::string labels;
  for (std::int64_t input = 0; input < shape[0]; ++input) {
    for (std::int64_t unit = 0; unit < shape[1]; ++unit) {
      const double number = weight.at({input, unit});
      rows += pixel(static_cast<double>(unit), static_cast<double>(input),
                    plot::signed_colour(number / largest));
      labels += fmt::format("{} {} \"{}\"\n", unit, input, format_number(number, 3));
    }
  }
  const bool has_names = std::ssize(input_names) == shape[0];
  plot::Plot plot;
  plot.set(fmt::format("unset key\nunset grid\nset xlabel 'unit'\nset ylabel '{}'\n",
                       has_names ? "feature" : "input"));
  if (has_names) plot.set(fmt::format("set ytics ({})\n", plot::ticks(input_names)));
  if (shape[1] <= most_ticks) plot.set("set xtics 1\n");
  plot.set(plot::range("x", -0.5, static_cast<double>(shape[1]) - 0.5));
  plot.set(plot::range("y", static_cast<double>(shape[0]) - 0.5, -0.5));
  plot.add("table", rows, "using 1:2:3:4:5 with rgbimage");
  if (weight.count() <= most_labels) plot.add("labels", labels, "using 1:2:3 with labels");
  return plot;
}

/// A bar: how long it is, and in which colour.
struct Bar {
  double number;
  Colour colour;
};

/// Bars below one another under a title.
struct BarPanel {
  std::string title;
  std::string_view ink = plot::ink;  ///< of the title
  std::vector<Bar> bars;
};

/// Names that fit into so many letters: what differs in them, where they are longer.
std::vector<std::string> all_shortened(const std::vector<std::string>& names, std::size_t letters) {
  const bool are_long =
      std::ranges::any_of(names, [&](const std::string& name) { return columns(name) > letters; });
  std::vector<std::string> fitting = are_long && names.size() > 1 ? what_differs(names) : names;
  if (std::ranges::find(fitting, "") != fitting.end()) fitting = names;
  for (std::string& name : fitting)
    name = shortened(name, letters);
  return fitting;
}

/// Panels side by side, in which the bars have the same names.
Chart bars_chart(const std::string& title, const std::vector<std::string>& names,
                 const std::vector<BarPanel>& panels, double low, double high) {
  const auto count = static_cast<double>(std::max<std::size_t>(1, panels.size()));
  const auto across = static_cast<std::size_t>(std::ceil(std::sqrt(count * 1.5)));
  const std::size_t down = (panels.size() + across - 1) / across;
  // Names take two fifths of a panel at most; a title stands above the rest of it.
  constexpr double page = 1280.0;
  constexpr double letter = 7.2;
  const std::size_t beside = (panels.size() + down - 1) / std::max<std::size_t>(1, down);
  const double letters = page / static_cast<double>(std::max<std::size_t>(1, beside)) / letter;
  const std::vector<std::string> labels =
      all_shortened(names, static_cast<std::size_t>(std::clamp(0.4 * letters, 8.0, 32.0)));
  const std::string look =
      fmt::format(
          "unset key\nset rmargin 5\nset style fill solid 0.8 noborder\nset boxwidth 0.75\n"
          "set ytics ({}) font ',11'\nset xtics {} font ',10'\nunset grid\n"
          "set arrow from 0, graph 0 to 0, graph 1 nohead lc rgb '{}'\n",
          plot::ticks(labels), plot::apart(high - low), plot::pencil) +
      plot::range("x", low, high) + plot::range("y", static_cast<double>(names.size()) - 0.5, -0.5);
  std::vector<plot::Plot> plots;
  for (const BarPanel& panel : panels) {
    std::string rows;
    for (std::size_t at = 0; at < panel.bars.size(); ++at) {
      const auto& [number, colour] = panel.bars[at];
      rows += fmt::format("{} {} {} {}\n", std::min(0.0, number), at, std::max(0.0, number),
                          plot::value(colour));
    }
    plot::Plot& plot = plots.emplace_back();
    const std::string title_of_panel =
        shortened(panel.title, static_cast<std::size_t>(std::max(12.0, 0.62 * letters)));
    plot.set(fmt::format("set title {} font ',11' textcolor rgb '{}'\n",
                         plot::quoted(title_of_panel), panel.ink));
    plot.add("bars", rows, "using (0):2:1:3:($2-0.36):($2+0.36):4 with boxxyerror lc rgb variable");
  }
  return Chart({look + plot::laid_out(title, plots, down)});
}

}  // namespace

Chart weights_chart(const std::string& title, const Tensor& weight, const WeightSetting& setting) {
  double largest = 0.0;
  for (const double number : weight.numbers())
    largest = std::max(largest, std::abs(number));
  const std::string scale =
      largest > 0.0 ? fmt::format("teal above 0, plum below; darkest {}", format_number(largest, 3))
                    : "every number is 0";
  largest = std::max(largest, std::numeric_limits<double>::min());
  const int rank = weight.shape().rank();
  const bool are_pictures = rank > 2 || setting.inputs.has_value();
  const std::string told = fmt::format("{}   ({})", title, scale);
  if (are_pictures) return pictures_chart(told, bands_of(weight, largest, setting));
  if (rank == 2) return table_of(weight, largest, setting.input_names).chart(told);
  throw ShapeError({.what = "a chart of weights needs a matrix or kernels",
                    .expected = "a row for each input and a column for each unit, or kernels",
                    .found = to_string(weight.shape())});
}

Chart confusion_chart(const std::string& title, const ClassJudgement& judgement) {
  // Of few classes every square has room for a count and a share, of more for a count, of many for
  // a colour alone.
  constexpr std::int64_t most_with_shares = 10;
  constexpr std::int64_t most_with_counts = 30;
  const auto count = static_cast<std::int64_t>(judgement.classes.size());
  const bool is_roomy = count <= most_with_shares;
  std::string rows;
  std::string labels;
  std::vector<std::string> names;
  for (std::int64_t truth = 0; truth < count; ++truth) {
    const ClassFigures& figures = judgement.classes[static_cast<std::size_t>(truth)];
    names.push_back(figures.name);
    for (std::int64_t answer = 0; answer < count; ++answer) {
      const double here = judgement.confusion.at({truth, answer});
      const double share = figures.rows > 0 ? here / static_cast<double>(figures.rows) : 0.0;
      const Colour colour =
          plot::between(plot::paper_colour, truth == answer ? plot::series[0] : plot::series[1],
                        std::min(0.7, truth == answer ? 0.7 * share : std::sqrt(share)));
      rows += pixel(static_cast<double>(answer), static_cast<double>(truth), colour);
      if (here > 0.0 || is_roomy)
        labels += fmt::format("{} {} \"{}\" \"{:.1f} %\"\n", answer, truth, here, 100.0 * share);
    }
  }
  plot::Plot plot;
  const auto every = static_cast<std::size_t>((count + most_with_counts - 1) / most_with_counts);
  std::size_t letters = 0;
  for (const std::string& name : names)
    letters += columns(name);
  constexpr std::size_t most_letters = 90;
  plot.set(fmt::format("unset key\nunset grid\nset xlabel 'answer'\nset ylabel 'truth'\n"
                       "set xtics ({}){}\nset ytics ({})\n",
                       plot::ticks(names, every), letters > most_letters ? " rotate by -45" : "",
                       plot::ticks(names, every)) +
           plot::range("x", -0.5, static_cast<double>(count) - 0.5) +
           plot::range("y", static_cast<double>(count) - 0.5, -0.5));
  plot.add("shares", rows, "using 1:2:3:4:5 with rgbimage");
  if (is_roomy) {
    plot.add("labels", labels, "using 1:2:3 with labels font ',16' offset 0,0.5");
    plot.add("$labels using 1:2:4 with labels offset 0,-0.8");
  } else if (count <= most_with_counts) {
    plot.add("labels", labels, "using 1:2:3 with labels font ',11'");
  }
  return plot.chart(fmt::format("{}   (accuracy {})", title, format_number(judgement.accuracy, 4)));
}

Chart samples_chart(const std::string& title, const std::vector<std::string>& feature_names,
                    const std::vector<Sample>& samples) {
  double largest = 1e-300;
  std::vector<BarPanel> panels;
  for (const Sample& sample : samples) {
    const bool is_right = sample.truth == sample.answer;
    BarPanel panel{.title = fmt::format("row {}: {}{}", sample.row, sample.truth,
                                        is_right ? "" : ", said " + sample.answer),
                   .ink = is_right ? plot::ink : plot::plum,
                   .bars = {}};
    for (const double number : sample.features) {
      largest = std::max(largest, std::abs(number));
      panel.bars.push_back({number, plot::series[number < 0.0 ? 1 : 0]});
    }
    panels.push_back(std::move(panel));
  }
  return bars_chart(title, feature_names, panels, -largest, largest);
}

Chart answers_chart(const std::string& title, const Model& model, const Answers& answers) {
  if (answers.probabilities.empty() || answers.kind == Outputs::levels) {
    throw SettingError({.what = "a chart of answers needs probabilities",
                        .expected = "a model that gives probabilities",
                        .found = answers.probabilities.empty()
                                     ? "one that predicts numbers"
                                     : "one of a squared loss, whose outputs are levels"});
  }
  constexpr std::int64_t most_panels = 24;
  const std::int64_t records = answers.classes.count();
  const std::int64_t shown = std::min(records, most_panels);
  std::vector<BarPanel> panels;
  for (std::int64_t record = 0; record < shown; ++record) {
    const auto likeliest = static_cast<std::size_t>(answers.classes.at_offset(record));
    const bool has_answer = answers.has_answer(record);
    BarPanel panel{.title = fmt::format("record {}: {}", answers.name_of(record),
                                        has_answer ? model.class_names[likeliest] : "no answer"),
                   .bars = {}};
    for (std::size_t of = 0; of < model.class_names.size(); ++of) {
      const double probability = answers.probabilities.at({record, static_cast<std::int64_t>(of)});
      panel.bars.push_back({has_answer ? probability : 0.0,
                            of == likeliest ? plot::series[0] : plot::pencil_colour});
    }
    panels.push_back(std::move(panel));
  }
  const std::string told =
      shown < records ? fmt::format(", the first {} of {}", shown, records) : "";
  return bars_chart(title + told, model.class_names, panels, 0.0, 1.0);
}

}  // namespace lattice
