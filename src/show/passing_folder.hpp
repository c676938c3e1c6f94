#pragma once

#include <cstdlib>
#include <filesystem>
#include <string>

#include "lattice/tensor/error.hpp"

namespace lattice {

/// A folder that is gone when this is.
class PassingFolder {
 public:
  PassingFolder() {
    std::string name = (std::filesystem::temp_directory_path() / "lattice-XXXXXX").string();
    if (mkdtemp(name.data()) == nullptr) {
      throw FileError({.what = "no folder for temporary files can be made",
                       .expected = "room in " + std::filesystem::temp_directory_path().string()});
    }
    path_ = name;
  }
  PassingFolder(const PassingFolder&) = delete;
  PassingFolder& operator=(const PassingFolder&) = delete;
  ~PassingFolder() {
    std::error_code ignored;
    std::filesystem::remove_all(path_, ignored);
  }
  [[nodiscard]] const std::filesystem::path& path() const { return path_; }

 private:
  std::filesystem::path path_;
};

}  // namespace lattice
