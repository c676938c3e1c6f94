#include "pictures/around/picture_files.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "files/file.hpp"
#include "files/unpacked.hpp"
#include "lattice/files/idx.hpp"
#include "lattice/files/npy.hpp"
#include "lattice/text/error.hpp"
#include "lattice/text/letters.hpp"
#include "lattice/text/numbers.hpp"

namespace lattice {
namespace fs = std::filesystem;
namespace {

/// A grid [example × row × column] or [… × channel] with its axes labelled.
Examples labelled_grid(const Examples& grid, const std::string& path) {
  const Shape& shape = grid.shape();
  if (shape.rank() == 4) return grid.with({Role::example, Role::row, Role::column, Role::channel});
  if (shape.rank() != 3) {
    refuse_pictures(path, "these are no pictures",
                    "an axis of examples, one of rows, one of columns, and for colours one of "
                    "channels",
                    to_string(shape));
  }
  const Shape with_channel = Shape{shape[0], shape[1], shape[2], 1}.with(
      {Role::example, Role::row, Role::column, Role::channel});
  return grid.reshaped(with_channel);
}

/// The place behind a name in quotes that a text begins with, the line break after it included;
/// none where there is no such name.
std::optional<std::size_t> end_of_quoted(std::string_view text) {
  if (!text.starts_with('"')) return std::nullopt;
  for (std::size_t at = 1; at < text.size(); ++at) {
    if (text[at] != '"') continue;
    if (text.substr(at + 1).starts_with('"')) {
      ++at;
      continue;
    }
    const std::size_t line_end = std::min(text.find('\n', at), text.size());
    if (!trimmed(text.substr(at + 1, line_end - at - 1)).empty()) return std::nullopt;
    return std::min(line_end + 1, text.size());
  }
  return std::nullopt;
}

/// Labels as they were written: names in order, or numbers.
Labels labels_of(const std::vector<std::string>& words, const std::vector<std::string>& names) {
  Labels labels{.numbers = {}, .names = names};
  if (names.empty()) {
    labels.names = words;
    std::ranges::sort(labels.names);
    labels.names.erase(std::unique(labels.names.begin(), labels.names.end()), labels.names.end());
  }
  for (const std::string& word : words) {
    const auto found = std::ranges::find(labels.names, word);
    labels.numbers.push_back(static_cast<double>(found - labels.names.begin()));
  }
  return labels;
}

}  // namespace

void refuse_pictures(const std::string& where, std::string what, std::string expected,
                     std::string found, std::string remedy) {
  throw FileError({.what = std::move(what),
                   .where = where,
                   .expected = std::move(expected),
                   .found = std::move(found),
                   .remedy = std::move(remedy)});
}

PictureFormat format_of(const fs::path& path) {
  constexpr std::size_t enough_to_unpack = 4096;
  const std::string packed = first_bytes(path, enough_to_unpack);
  std::string head = packed.substr(0, 8);
  if (is_gzipped(packed)) {
    try {
      const std::size_t there =
          Unpacked(packed, path.string()).take(reinterpret_cast<std::uint8_t*>(head.data()), 8);
      head.resize(there);
    } catch (const FileError&) {
      return PictureFormat::idx;  // whose reader says what is wrong with it
    }
  }
  if (head.starts_with("\x93NUMPY")) return PictureFormat::npy;
  if (head.starts_with("\x89PNG")) return PictureFormat::png;
  if (is_gzipped(packed) || head.starts_with(std::string(2, '\0'))) return PictureFormat::idx;
  return PictureFormat::other;
}

Examples read_grid(const fs::path& path) {
  return format_of(path) == PictureFormat::npy ? read_npy(path) : read_idx(path);
}

Examples read_grid_of_pictures(const std::string& path) {
  return labelled_grid(read_grid(path), path);
}

/// A name as it stands in a list with a name a line: in quotes where it would be read as another
/// one, as a field of a CSV file is (RFC 4180).
std::string as_line(std::string_view name) {
  const bool is_plain = !name.empty() && name == trimmed(name) && !name.starts_with('"') &&
                        name.find_first_of("\r\n") == std::string_view::npos;
  if (is_plain) return std::string(name);
  std::string line = "\"";
  for (const char letter : name)
    line += letter == '"' ? std::string("\"\"") : std::string(1, letter);
  return line + "\"";
}

/// The names in a file, a line each, as `as_line` writes them.
std::vector<std::string> lines_of(const fs::path& path) {
  std::vector<std::string> lines;
  const std::string text = read_file(path, "text, with a name a line");
  if (const auto unwelcome = unwelcome_in(text))
    refuse_pictures(path.string(), "no text", "text in UTF-8, with a name a line", *unwelcome);
  for (std::string_view rest = text; !rest.empty();) {
    if (const std::optional<std::size_t> end = end_of_quoted(rest)) {
      std::string name;
      const std::string_view quoted = trimmed(rest.substr(0, *end));
      for (std::size_t at = 1; at + 1 < quoted.size(); ++at) {
        name += quoted[at];
        if (quoted[at] == '"') ++at;
      }
      lines.push_back(std::move(name));
      rest.remove_prefix(*end);
      continue;
    }
    const std::size_t end = std::min(rest.find('\n'), rest.size());
    const std::string_view line = trimmed(rest.substr(0, end));
    if (!line.empty()) lines.emplace_back(line);
    rest.remove_prefix(std::min(end + 1, rest.size()));
  }
  return lines;
}

/// Labels that are numbers are the classes' numbers where these have names.
Labels labels_in(const std::string& path, const std::vector<std::string>& names) {
  if (format_of(path) == PictureFormat::other) {
    const std::vector<std::string> words = lines_of(path);
    for (std::size_t at = 0; !names.empty() && at < words.size(); ++at) {
      if (std::ranges::find(names, words[at]) != names.end()) continue;
      refuse_pictures(fmt::format("{}, line {}", path, at + 1), "a label outside the classes",
                      fmt::format("one of {}", fmt::join(names, ", ")),
                      fmt::format("'{}'", words[at]));
    }
    return labels_of(words, names);
  }
  const Examples grid = read_grid(path);
  if (grid.shape().rank() != 1) {
    refuse_pictures(path, "these are no labels", "one axis, with a number for each picture",
                    to_string(grid.shape()),
                    grid.shape().rank() > 2 ? "were pictures and labels exchanged?" : "");
  }
  Labels labels{.numbers = grid.numbers(), .names = names};
  const auto classes = static_cast<double>(names.empty() ? 1'000'000 : std::ssize(names));
  for (std::size_t at = 0; at < labels.numbers.size(); ++at) {
    const double number = labels.numbers[at];
    if (number >= 0.0 && number < classes && number == std::floor(number)) continue;
    refuse_pictures(fmt::format("{}, label {}", path, at), "a label outside the classes",
                    fmt::format("a whole number from 0 to {}", classes - 1.0),
                    format_number(number));
  }
  if (names.empty()) {
    const double last = *std::ranges::max_element(labels.numbers);
    for (std::int64_t number = 0; static_cast<double>(number) <= last; ++number)
      labels.names.push_back(fmt::format("{}", number));
  }
  return labels;
}

}  // namespace lattice
