#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "lattice/learning/worked_sheet.hpp"
#include "lattice/text/words.hpp"

namespace lattice {

/// A network as a picture shows it: the lines that an example passes through, from what comes in to
/// the result, a column each, and how each is made from those before.
struct NetworkSketch {
  struct Link {
    enum class Kind : std::uint8_t {
      weighted,  ///< every unit with every unit, by a number of a weight
      each,      ///< a unit with the one beside it
      window,    ///< channels, by a kernel
      nodes,     ///< units of one node with those of others
      all        ///< in another way
    };

    Kind kind;
    std::size_t from;  ///< columns
    std::size_t to;
    std::optional<Line> weight = std::nullopt;  ///< [unit before × unit], or a kernel
  };

  std::vector<Line> columns;  ///< with an axis of examples or nodes first; last the result
  std::vector<Link> links;
};

inline constexpr Words<NetworkSketch::Link::Kind> link_words = {
    {NetworkSketch::Link::Kind::weighted, "weighted"},
    {NetworkSketch::Link::Kind::each, "each"},
    {NetworkSketch::Link::Kind::window, "window"},
    {NetworkSketch::Link::Kind::nodes, "nodes"},
    {NetworkSketch::Link::Kind::all, "all"}};

/// Nothing where a worksheet has no lines with an example on each row.
[[nodiscard]] std::optional<NetworkSketch> sketch_of(const WorkedSheet& work);

}  // namespace lattice
