#include "show/page/files.hpp"

#include <array>
#include <utility>

#include "lattice/text/letters.hpp"

namespace lattice::page_files {
namespace {

/// JSON as it may stand inside a script element: nothing in it can end the element.
std::string for_script(std::string_view json) {
  std::string safe;
  for (const char letter : json) {
    if (letter == '<') {
      safe += "\\u003c";
    } else {
      safe += letter;
    }
  }
  return safe;
}

std::string joined(Text text) {
  std::string all;
  for (const std::string_view part : text)
    all += part;
  return all;
}

/// What subjects add.
std::string of_subjects(const Pieces& pieces, Text StyleAndScript::*what) {
  std::string all;
  for (const StyleAndScript& subject : pieces.of_subjects)
    all += joined(subject.*what);
  return all;
}

}  // namespace

std::string for_html(std::string_view text) {
  std::string safe;
  for (const char letter : text) {
    if (letter == '<') {
      safe += "&lt;";
    } else if (letter == '"') {
      safe += "&quot;";
    } else if (letter == '&') {
      safe += "&amp;";
    } else {
      safe += letter;
    }
  }
  return safe;
}

std::string filled_in(Text page, const Pieces& pieces) {
  const std::array<std::pair<std::string_view, std::string>, 5> marks = {
      {{"{title}", for_html(harmless(pieces.title))},
       {"{style}",
        joined(paper_css) + joined(pieces.style) + of_subjects(pieces, &StyleAndScript::style)},
       {"{data}", for_script(harmless(pieces.data, LineBreaks::kept))},
       {"{content}", std::string(pieces.content)},
       {"{script}", joined(pieces.script) + of_subjects(pieces, &StyleAndScript::script) +
                        joined(pieces.start)}}};
  const std::string whole = joined(page);
  const std::string_view html = whole;
  // From the front to the back, so that nothing that was put in is taken for a mark.
  std::string text;
  for (std::size_t at = 0; at < html.size();) {
    bool found = false;
    for (const auto& [mark, content] : marks) {
      if (!html.substr(at).starts_with(mark)) continue;
      text += content;
      at += mark.size();
      found = true;
      break;
    }
    if (!found) text += html[at++];
  }
  return text;
}

}  // namespace lattice::page_files
