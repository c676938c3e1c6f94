#pragma once

#include <cstdint>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

#include "lattice/files/json.hpp"
#include "lattice/learning/worked_sheet.hpp"
#include "lattice/tensor/axis_names.hpp"

namespace lattice {

/// The most cells of a column that are drawn one by one; of more units, groups.
inline constexpr std::int64_t most_cells = 24;

/// A network for one example, in numbers: columns of cells, and lines between them.
struct NetworkPicture {
  struct Cell {
    std::string name = {};  ///< of its feature, class or target, or which units it stands for
    std::optional<double> number = std::nullopt;  ///< of a group the mean; none without a gradient
    Tensor points = {};                           ///< of a channel [row × column]; else empty
  };
  struct Column {
    std::string name;
    std::vector<Cell> cells;
    bool is_named = false;  ///< by classes
  };
  struct Strand {
    std::size_t from;  ///< cells
    std::size_t to;
    std::optional<double> number = std::nullopt;  ///< of a weight; of groups the mean
  };
  struct Link {
    std::size_t from;  ///< columns
    std::size_t to;
    std::vector<Strand> strands;
  };

  std::vector<Column> columns;
  std::vector<Link> links;
  bool is_grouped = false;
};

/// The settings of a network's picture.
struct PictureOfNetwork {
  std::int64_t example = 0;  ///< its position in the minibatch
  bool gradients = false;    ///< those of the sweep in place of values
};

/// @throws SettingError for a sheet without examples, or when there is no such example.
[[nodiscard]] NetworkPicture network_picture(const WorkedSheet& work, const AxisNames& names,
                                             const PictureOfNetwork& settings = {});

/// As both pages draw it (columns.js).
[[nodiscard]] Json to_json(const NetworkPicture& picture);

}  // namespace lattice
