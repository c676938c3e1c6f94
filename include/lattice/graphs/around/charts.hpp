#pragma once

#include <string>
#include <vector>

#include "lattice/data/dataset.hpp"
#include "lattice/show/charts.hpp"

namespace lattice {

/// Where the nodes of a graph are drawn at some moment, and what is answered for them.
struct NodesMoment {
  std::string title;    ///< `before training`, `step 12`
  Tensor places;        ///< [node × 2]
  Tensor answers = {};  ///< [node], classes; empty where nothing is answered
};

/// How nodes are drawn.
struct NodesSetting {
  bool as_frames = false;        ///< each moment in a frame of its own, else side by side
  std::string across_name = {};  ///< of the axes; none are drawn where they have no names
  std::string up_name = {};
};

/// The nodes of a graph in the colour and the mark of what is true of them, their edges faintly; a
/// node that is answered otherwise has a dot of that colour, those whose truth is known have a
/// ring, and unlabelled ones are hollow.
/// @throws ShapeError for a dataset that is no graph, or for other places than it has nodes.
[[nodiscard]] Chart nodes_chart(const std::string& title, const Dataset& graph,
                                const std::vector<NodesMoment>& moments,
                                const NodesSetting& setting = {});

/// Where the nodes of a graph lie when the program `neato`, or for large ones `sfdp` (package
/// graphviz), lays it out: [node × 2].
/// @param adjacency [node × node], as `adjacency_of` gives it
/// @throws ShapeError for another shape; ProgramError when the program is missing or fails.
[[nodiscard]] Tensor laid_out(const Tensor& adjacency);

}  // namespace lattice
