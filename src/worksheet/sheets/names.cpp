#include "worksheet/sheets/names.hpp"

#include "lattice/text/letters.hpp"

namespace lattice::sheets {

std::string unquoted(std::string_view text) {
  if (text.size() < 2 || text.front() != '"' || text.back() != '"') return std::string(text);
  std::string plain;
  for (std::size_t at = 1; at + 1 < text.size(); ++at) {
    plain += text[at];
    if (text[at] == '"' && text[at + 1] == '"' && at + 2 < text.size()) ++at;
  }
  return plain;
}

std::string quoted_where_needed(std::string_view text, std::string_view signs) {
  const bool is_plain = !text.empty() && trimmed(text) == text && text.front() != '=' &&
                        text.front() != '[' &&
                        text.find_first_of("\"#\n") == std::string_view::npos &&
                        text.find_first_of(signs) == std::string_view::npos;
  if (is_plain) return std::string(text);
  std::string quoted = "\"";
  for (const char letter : text) {
    if (letter == '"') quoted += '"';
    // A name is in one line.
    quoted += letter == '\n' ? ' ' : letter;
  }
  return quoted + "\"";
}

std::vector<std::string> split_names(std::string_view text) {
  std::vector<std::string> names;
  std::size_t start = 0;
  bool is_quoted = false;
  for (std::size_t at = 0; at <= text.size(); ++at) {
    if (at < text.size() && text[at] == '"') is_quoted = !is_quoted;
    if (at < text.size() && (text[at] != ',' || is_quoted)) continue;
    names.push_back(unquoted(trimmed(text.substr(start, at - start))));
    start = at + 1;
  }
  return names;
}

std::string joined_names(const std::vector<std::string>& names) {
  std::string text;
  for (const std::string& name : names)
    text += (text.empty() ? "" : ", ") + quoted_where_needed(name, ",");
  return text;
}

}  // namespace lattice::sheets
