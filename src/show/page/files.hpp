#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/show/shown_subject.hpp"

/// What pages are made of, as it stands in the files of this folder.
namespace lattice::page_files {

/// The text of several files, one after another.
using Text = PageText;

extern const Text paper_css;  ///< colours, ruled paper, tables: the look of every page
extern const Text page_css;   ///< the worked example
extern const Text page_html;  ///< with {title}, {style}, {data} and {script} to fill in
extern const Text page_js;    ///< the scripts of the worked example, one after another
extern const Text start_js;   ///< the last of them, after those of subjects

extern const Text watch_css;   ///< a run that is watched
extern const Text watch_html;  ///< with the same to fill in
extern const Text watch_js;

extern const Text tour_css;   ///< the tour
extern const Text tour_html;  ///< with {title}, {style} and {content} to fill in

/// What a subject adds to the two pages.
struct OfSubject {
  StyleAndScript page;
  StyleAndScript watch;
};

/// A page from its pieces.
struct Pieces {
  std::string_view title = {};
  Text style = {};             ///< beside the look of every page
  std::string_view data = {};  ///< JSON
  Text script = {};
  std::vector<StyleAndScript> of_subjects = {};
  Text start = {};                ///< the script that comes last
  std::string_view content = {};  ///< HTML
};

/// A text as it may stand in HTML.
[[nodiscard]] std::string for_html(std::string_view text);

[[nodiscard]] std::string filled_in(Text html, const Pieces& pieces);

}  // namespace lattice::page_files
