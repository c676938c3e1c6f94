#include "tools/outputs.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "files/file.hpp"
#include "lattice/text/error.hpp"

namespace lattice::tools {
namespace {

namespace fs = std::filesystem;

/// What was said is told with the option it is about.
void check_place(const Output& output) {
  try {
    check_place_for_file(output.path);
  } catch (const FileError& error) {
    Trouble trouble = error.trouble();
    trouble.what = fmt::format("{}: {}", output.option, trouble.what);
    throw FileError(trouble);
  }
}

void check_is_no_input(const Output& output, const std::vector<std::string>& inputs) {
  for (const std::string& input : inputs) {
    std::error_code ignored;
    if (!fs::is_regular_file(input, ignored) || !is_same_file(input, output.path)) continue;
    throw SettingError({.what = fmt::format("{} would overwrite an input", output.option),
                        .expected = "another file than " + input,
                        .found = output.path});
  }
}

}  // namespace

void check_outputs(const std::vector<Output>& outputs, const std::vector<std::string>& inputs,
                   const Console& console) {
  for (const Output& output : outputs) {
    if (output.path.empty()) continue;
    check_place(output);
    check_is_no_input(output, inputs);
    for (const Output& other : outputs) {
      if (&other == &output) break;
      if (other.path.empty() || !is_same_file(other.path, output.path)) continue;
      throw SettingError(
          {.what = "two outputs have the same path",
           .expected = fmt::format("another file for {} than for {}", output.option, other.option),
           .found = output.path});
    }
    for (const std::string& left : take_leftovers_away(output.path))
      console.tell_line(
          fmt::format("{}, half written by a run that was killed, was taken away", left));
  }
}

std::string written(const std::string& path) {
  std::error_code problem;
  if (!fs::is_regular_file(path, problem)) return path;
  const auto bytes = static_cast<double>(fs::file_size(path, problem));
  return problem ? path : fmt::format("{}  {:.1f} KB", path, bytes / 1000.0);
}

}  // namespace lattice::tools
