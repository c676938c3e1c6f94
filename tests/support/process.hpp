#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace lattice::testing {

/// What a program answered.
struct Answer {
  int status = -1;
  std::string out;
  std::string err;
};

/// Runs a program with these arguments, as a shell would, and waits for it.
[[nodiscard]] Answer run_program(const std::string& program,
                                 const std::vector<std::string>& arguments);

/// A folder that is empty at first and gone at the end of the test.
class Folder {
 public:
  Folder();
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  ~Folder();

  [[nodiscard]] const std::filesystem::path& path() const { return path_; }

  /// Writes a file into the folder and says where it is.
  [[nodiscard]] std::string file(const std::string& name, const std::string& content) const;

 private:
  std::filesystem::path path_;
};

/// The whole content of a file.
[[nodiscard]] std::string content_of(const std::filesystem::path& path);

}  // namespace lattice::testing
