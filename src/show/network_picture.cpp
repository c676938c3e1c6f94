#include "show/network_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "lattice/text/error.hpp"
#include "lattice/worksheet/laid_out.hpp"
#include "show/network_sketch.hpp"
#include "show/page_words.hpp"

namespace lattice {
namespace {

using Kind = NetworkSketch::Link::Kind;

/// Channels are larger than cells.
constexpr std::int64_t most_channels = most_cells / 3;

class PictureTaking {
 public:
  PictureTaking(const WorkedSheet& work, const AxisNames& names, const PictureOfNetwork& settings)
      : work_(work), names_(names), settings_(settings) {}

  [[nodiscard]] NetworkPicture picture(const NetworkSketch& sketch) {
    for (const Line& line : sketch.columns)
      picture_.columns.push_back(column(line));
    for (const NetworkSketch::Link& link : sketch.links) {
      picture_.links.push_back({.from = link.from, .to = link.to, .strands = strands(link)});
    }
    return std::move(picture_);
  }

 private:
  /// The numbers of a line that are shown: its value, or its gradient; empty where there is none.
  [[nodiscard]] Tensor numbers_of(const Line& line) const {
    if (!settings_.gradients) return line.value();
    const ReverseStep* const step = work_.reverse_step_of(line);
    return step == nullptr ? Tensor() : step->gradient;
  }

  [[nodiscard]] NetworkPicture::Column column(const Line& line) {
    const Tensor numbers = numbers_of(line);
    const Shape shape = laid_out(line);
    NetworkPicture::Column column{
        .name = (settings_.gradients && !numbers.empty() ? "∂" : "") + line.name(),
        .cells = {},
        .is_named = shape.rank() == 2 && shape.role(1) == Role::class_};
    const bool has_examples = shape.rank() > 0 && shape.role(0) != Role::none;
    const std::int64_t count = has_examples ? shape.count() / shape[0] : shape.count();
    const std::int64_t first = has_examples ? settings_.example * count : 0;
    const bool is_picture =
        shape.rank() >= 3 && shape.role(1) == Role::row && shape.role(2) == Role::column;
    if (is_picture && !numbers.empty()) {
      add_channels(column, numbers, shape, first);
      return column;
    }
    const std::int64_t group = (count + most_cells - 1) / most_cells;
    picture_.is_grouped = picture_.is_grouped || group > 1;
    for (std::int64_t from = 0; from < count; from += group) {
      const std::int64_t end = std::min(count, from + group);
      double sum = 0.0;
      for (std::int64_t unit = from; unit < end && !numbers.empty(); ++unit)
        sum += numbers.at_offset(first + unit);
      const std::string name = group > 1           ? fmt::format("{}–{}", from, end - 1)
                               : shape.rank() == 2 ? names_.of(shape.role(1), from)
                                                   : "";
      NetworkPicture::Cell cell{.name = name};
      if (!numbers.empty()) cell.number = sum / static_cast<double>(end - from);
      column.cells.push_back(std::move(cell));
    }
    return column;
  }

  static void add_channels(NetworkPicture::Column& column, const Tensor& numbers,
                           const Shape& shape, std::int64_t first) {
    const std::int64_t channels = shape.count() / (shape[0] * shape[1] * shape[2]);
    for (std::int64_t channel = 0; channel < std::min(channels, most_channels); ++channel) {
      Tensor points = zeros({shape[1], shape[2]}, numbers.precision());
      for (std::int64_t at = 0; at < points.count(); ++at) {
        points.set(points.shape().index(at), numbers.at_offset(first + at * channels + channel));
      }
      column.cells.push_back(
          {.name = channels > 1 ? fmt::format("{}", channel) : "", .points = std::move(points)});
    }
  }

  [[nodiscard]] std::vector<NetworkPicture::Strand> strands(const NetworkSketch::Link& link) const {
    const std::vector<NetworkPicture::Cell>& before = picture_.columns[link.from].cells;
    const std::vector<NetworkPicture::Cell>& after = picture_.columns[link.to].cells;
    std::vector<NetworkPicture::Strand> strands;
    const bool are_channels = !before[0].points.empty() && !after[0].points.empty();
    const bool is_by_channel = link.kind == Kind::all && are_channels;
    if ((link.kind == Kind::each || is_by_channel) && before.size() == after.size()) {
      for (std::size_t at = 0; at < before.size(); ++at)
        strands.push_back({at, at});
      return strands;
    }
    const bool is_weighted = link.kind == Kind::weighted && link.weight->shape().rank() == 2 &&
                             before[0].points.empty() && after[0].points.empty();
    const Tensor weight = is_weighted ? numbers_of(*link.weight) : Tensor();
    if (!weight.empty()) return weighted(weight, before.size(), after.size());
    constexpr std::size_t few = 64;
    if (before.size() * after.size() <= few) {
      for (std::size_t at = 0; at < before.size() * after.size(); ++at)
        strands.push_back({at / after.size(), at % after.size()});
      return strands;
    }
    const std::size_t longer = std::max(before.size(), after.size());
    for (std::size_t at = 0; at < longer; ++at)
      strands.push_back({at * before.size() / longer, at * after.size() / longer});
    return strands;
  }

  /// The numbers of a weight, each the mean of those between two groups.
  static std::vector<NetworkPicture::Strand> weighted(const Tensor& weight, std::size_t before,
                                                      std::size_t after) {
    const std::int64_t rows = weight.shape()[0];
    const std::int64_t columns = weight.shape()[1];
    const auto share_of = [](std::int64_t all, std::size_t cells) {
      const auto count = static_cast<std::int64_t>(cells);
      return (all + count - 1) / count;
    };
    const std::int64_t tall = share_of(rows, before);
    const std::int64_t wide = share_of(columns, after);
    std::vector<NetworkPicture::Strand> strands;
    for (std::size_t a = 0; a < before; ++a) {
      for (std::size_t b = 0; b < after; ++b) {
        double sum = 0.0;
        std::int64_t count = 0;
        for (std::int64_t row = static_cast<std::int64_t>(a) * tall;
             row < std::min(rows, static_cast<std::int64_t>(a + 1) * tall); ++row) {
          for (std::int64_t column = static_cast<std::int64_t>(b) * wide;
               column < std::min(columns, static_cast<std::int64_t>(b + 1) * wide); ++column) {
            sum += weight.at({row, column});
            ++count;
          }
        }
        strands.push_back({a, b, sum / static_cast<double>(std::max<std::int64_t>(1, count))});
      }
    }
    return strands;
  }

  const WorkedSheet& work_;
  const AxisNames& names_;
  const PictureOfNetwork& settings_;
  NetworkPicture picture_;
};

}  // namespace

NetworkPicture network_picture(const WorkedSheet& work, const AxisNames& names,
                               const PictureOfNetwork& settings) {
  const std::optional<NetworkSketch> sketch = sketch_of(work);
  if (!sketch) {
    throw SettingError({.what = "there is no network to be drawn",
                        .expected = "a minibatch, or answers of a model",
                        .found = "a sheet without lines that an example passes through",
                        .remedy = "for its lines: lattice draw graph"});
  }
  const std::int64_t examples = sketch->columns.front().shape()[0];
  if (settings.example < 0 || settings.example >= examples) {
    throw SettingError({.what = "there is no such example in the minibatch",
                        .expected = fmt::format("0 to {}", examples - 1),
                        .found = fmt::format("{}", settings.example)});
  }
  if (settings.gradients) static_cast<void>(work.sweep());
  return PictureTaking(work, names, settings).picture(*sketch);
}

Json to_json(const NetworkPicture& picture) {
  Json columns = Json::array();
  for (const NetworkPicture::Column& column : picture.columns) {
    Json cells = Json::array();
    for (const NetworkPicture::Cell& cell : column.cells) {
      Json entry = {{"name", cell.name}};
      if (cell.points.empty()) {
        entry["number"] = number_in_json(cell.number.value_or(0.0));
      } else {
        entry["shape"] = {cell.points.shape()[0], cell.points.shape()[1]};
        entry["numbers"] = Json::array();
        for (const double number : cell.points.numbers())
          entry["numbers"].push_back(number_in_json(number));
      }
      cells.push_back(std::move(entry));
    }
    columns.push_back(
        {{"name", column.name}, {"cells", std::move(cells)}, {"isNamed", column.is_named}});
  }
  Json links = Json::array();
  for (const NetworkPicture::Link& link : picture.links) {
    Json lines = Json::array();
    for (const NetworkPicture::Strand& strand : link.strands) {
      lines.push_back({{"from", strand.from}, {"to", strand.to}});
      if (strand.number) lines.back()["number"] = number_in_json(*strand.number);
    }
    links.push_back({{"from", link.from}, {"to", link.to}, {"lines", std::move(lines)}});
  }
  return {{"columns", std::move(columns)}, {"links", std::move(links)}};
}

}  // namespace lattice
