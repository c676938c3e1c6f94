#include "files/file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <iterator>

#include "lattice/tensor/error.hpp"

namespace lattice {
namespace {

/// A file that is open, and gone again unless it takes the place it was made for.
class Beside {
 public:
  explicit Beside(const std::filesystem::path& path)
      : path_(path), beside_(path.string() + fmt::format(".{}.part", getpid())) {
    file_ = open(beside_.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0666);
    if (file_ < 0) refuse();
  }
  Beside(const Beside&) = delete;
  Beside& operator=(const Beside&) = delete;
  ~Beside() {
    if (file_ >= 0) close(file_);
    if (!beside_.empty()) unlink(beside_.c_str());
  }

  void write(std::string_view content) const {
    while (!content.empty()) {
      const ssize_t written = ::write(file_, content.data(), content.size());
      if (written < 0 && errno == EINTR) continue;
      if (written < 0) refuse();
      content.remove_prefix(static_cast<std::size_t>(written));
    }
  }

  /// The content reaches the disk before the name does.
  void take_place() {
    if (fsync(file_) != 0) refuse();
    if (close(std::exchange(file_, -1)) != 0) refuse();
    if (std::rename(beside_.c_str(), path_.c_str()) != 0) refuse();
    beside_.clear();
  }

 private:
  [[noreturn]] void refuse() const {
    throw FileError({.what = fmt::format("cannot write {}", path_.string()),
                     .expected = "a place that can be written to",
                     .found = std::strerror(errno)});
  }

  std::filesystem::path path_;
  std::string beside_;
  int file_ = -1;
};

}  // namespace

std::string read_file(const std::filesystem::path& path, std::string_view expected) {
  const auto refuse = [&](const std::string& reason) {
    return FileError({.what = fmt::format("cannot read {}", path.string()),
                      .expected = std::string(expected),
                      .found = reason,
                      .remedy = "check the path; it is taken from the folder you are in"});
  };
  std::error_code ignored;
  if (std::filesystem::is_directory(path, ignored)) throw refuse("a folder");
  if (std::filesystem::is_character_file(path, ignored))
    throw refuse("a device, which may never end");
  std::ifstream file(path, std::ios::binary);
  if (!file) throw refuse(std::strerror(errno));
  std::string text{std::istreambuf_iterator<char>(file), {}};
  if (file.bad()) throw refuse(std::strerror(errno));
  return text;
}

void write_file(const std::filesystem::path& path, std::string_view content) {
  Beside beside(path);
  beside.write(content);
  beside.take_place();
}

}  // namespace lattice
