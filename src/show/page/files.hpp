#pragma once

#include <string>
#include <string_view>

/// What pages are made of, as it stands in the files of this folder.
namespace lattice::page_files {

extern const std::string_view paper_css;  ///< colours, ruled paper, tables: the look of every page
extern const std::string_view page_css;   ///< the worked example
extern const std::string_view page_html;  ///< with {title}, {style}, {data} and {script} to fill in
extern const std::string_view page_js;    ///< all scripts of the worked example, one after another

extern const std::string_view watch_css;   ///< a run that is watched
extern const std::string_view watch_html;  ///< with the same to fill in
extern const std::string_view watch_js;

extern const std::string_view tour_css;   ///< the tour
extern const std::string_view tour_html;  ///< with {title}, {style} and {content} to fill in

/// A page from its pieces.
struct Pieces {
  std::string_view title = {};
  std::string_view style = {};  ///< beside the look of every page
  std::string_view data = {};   ///< JSON
  std::string_view script = {};
  std::string_view content = {};  ///< HTML
};

/// A text as it may stand in HTML.
[[nodiscard]] std::string for_html(std::string_view text);

[[nodiscard]] std::string filled_in(std::string_view html, const Pieces& pieces);

}  // namespace lattice::page_files
