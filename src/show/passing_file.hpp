#pragma once

#include <fmt/format.h>

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <optional>
#include <string>

#include "files/unfinished.hpp"
#include "lattice/text/error.hpp"

namespace lattice {

/// Where passing files are put: what TMPDIR names, or `/tmp`.
inline std::filesystem::path passing_place() {
  const char* const chosen = std::getenv("TMPDIR");
  return chosen == nullptr || *chosen == '\0' ? "/tmp" : chosen;
}

/// A file that passes from one program to another, in a folder of its own. Both are gone when this
/// is, and when a signal ends the program.
class PassingFile {
 public:
  /// @throws FileError when no such folder can be made.
  explicit PassingFile(std::string_view name) {
    const std::filesystem::path where = passing_place();
    std::string made = (where / "lattice-XXXXXX").string();
    if (mkdtemp(made.data()) == nullptr) {
      throw FileError(
          {.what = "no folder for passing files can be made",
           .expected = fmt::format("a folder that can be written to at {}", where.string()),
           .found = std::strerror(errno),
           .remedy = "TMPDIR names another"});
    }
    path_ = made + "/" + std::string(name);
    folder_.emplace(made);
    file_.emplace(path_);
  }

  [[nodiscard]] const std::string& path() const { return path_; }

 private:
  std::string path_;
  std::optional<Unfinished> folder_ = std::nullopt;
  std::optional<Unfinished> file_ = std::nullopt;
};

}  // namespace lattice
